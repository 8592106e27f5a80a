"""Tracks of the studio as files, from one studio to another."""

from enum import StrEnum
from pathlib import Path
from typing import Annotated

import typer

from juglant.api.parcels import packed, unpacked
from juglant.cli.app import app
from juglant.cli.common import Refused, print_table, write
from juglant.core.errors import UserError
from juglant.files.sizes import MOST_PARCEL_BYTES
from juglant.store import tracks
from juglant.store.database import Studio, studio_path
from juglant.store.keeping import opened


class What(StrEnum):
    """What is to be done with tracks."""

    LIST = "list"
    SAVE = "save"
    OPEN = "open"


@app.command("track")
def track(
    what: What,
    named: Annotated[
        list[str] | None, typer.Argument(help="Tracks by name or number; or track files to open.")
    ] = None,
    out: Annotated[Path | None, typer.Option("-o", "--out", help="The folder to save into.")] = None,
    data: Annotated[Path | None, typer.Option(help="Folder of the studio file.")] = None,
) -> None:
    """List the studio's tracks, save some as files with all their sounds, or open such files in it."""
    path = studio_path(data)
    if what is not What.OPEN and not path.is_file():
        raise UserError(f"There is no studio at {path}.")
    studio = opened(path)
    if what is What.LIST:
        with studio.reading() as db:
            print_table([(str(one.id), one.name) for one in tracks.everything(db)])
        return
    if not named:
        raise UserError(f"juglant track {what} needs {'files' if what is What.OPEN else 'tracks by name'}.")
    refused = Refused()
    for name in named:
        with refused.here():
            if what is What.OPEN:
                file = Path(name)
                made = unpacked(studio, _bytes_of(file), file.name)
                print(f"{made.id}  {made.name}")
            else:
                called, packed_track = packed(studio, _number(studio, name))
                to = (out or Path()) / called
                write(to, packed_track)
                print(to)
    refused.tell()


def _bytes_of(file: Path) -> bytes:
    try:
        if file.stat().st_size > MOST_PARCEL_BYTES:
            raise UserError(f"{file} is larger than any track.")
        return file.read_bytes()
    except OSError as error:
        raise UserError(f"{file} cannot be read: {error.strerror}.") from error


def _number(studio: Studio, name: str) -> int:
    """A track's number, given it or the track's name. UserError where none or several are called so."""
    with studio.reading() as db:
        there = tracks.everything(db)
    found = [one.id for one in there if name in (one.name, str(one.id))]
    if len(found) == 1:
        return found[0]
    if found:
        raise UserError(f"{len(found)} tracks are called “{name}”: say which by its number.")
    raise UserError(f"There is no track “{name}” in this studio.")
