"""Kits and instruments of a track's hits and lines."""

from pathlib import Path
from typing import Annotated

import typer

from juglant.cli.app import app
from juglant.cli.common import checked, print_table, read_json, write
from juglant.cli.tracks import AudioFolders, SectionName, part_named, section_of, track_session
from juglant.core.errors import UserError
from juglant.core.music import note_to_midi
from juglant.core.recipes.sections import Track
from juglant.files.handover import zipped
from juglant.files.kit import RANGE, kit_files, kit_parts


def _span(text: str | None) -> tuple[int, int]:
    if text is None:
        return RANGE
    low, dash, high = text.partition("-")
    if not dash:
        raise UserError(f"“{text}” is no range: two notes, as C1-C3.", "range")
    return note_to_midi(low.strip()), note_to_midi(high.strip())


@app.command()
def kit(
    track: Path,
    out: Annotated[Path, typer.Option("-o", "--out", help="A folder to write into, or a ZIP.")],
    part: Annotated[
        list[str] | None,
        typer.Option(help="A hit or a line, by name; all of them unless named."),
    ] = None,
    notes: Annotated[
        str | None, typer.Option("--range", help="From which note to which an instrument goes: C1-C3.")
    ] = None,
    section: SectionName = None,
    audio: AudioFolders = None,
) -> None:
    """Write hits as a kit, with velocities and round robins, and 808s and lines as instruments."""
    whole = checked(Track, read_json(track), str(track))
    state = section_of(whole, section)
    chosen = kit_parts(state) if part is None else [part_named(state, one) for one in part]
    session = track_session(whole.audio, [track.parent, *(audio or [])])
    files = kit_files(session, track.stem, state, chosen, _span(notes))
    if out.suffix.lower() == ".zip":
        write(out, zipped(files))
    else:
        for name, data in files.items():
            write(out / name, data)
    print(out)
    print_table([(name, f"{len(data) / 1024:.0f} kB") for name, data in files.items()])
