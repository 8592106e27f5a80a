"""Handing over: the shell gives what the page gives."""

from pathlib import Path
from typing import Annotated

import typer

from juglant.cli.app import app
from juglant.cli.common import checked, print_table, read_json, write
from juglant.cli.tracks import AudioFolders, SectionName, section_named, track_session
from juglant.core.errors import UserError
from juglant.core.recipes.sections import Track
from juglant.files.arranged import write_arranged
from juglant.files.handed import track_files
from juglant.files.handover import zipped
from juglant.files.names import plain_name


@app.command("hand-over")
def hand_over(
    track: Path,
    out: Annotated[Path, typer.Option("-o", "--out", help="A ZIP to write, or a folder.")],
    section: SectionName = None,
    arrangement: Annotated[
        bool, typer.Option("--arrangement", help="The whole arrangement played straight, as a ZIP.")
    ] = False,
    audio: AudioFolders = None,
) -> None:
    """Hand a track over: one-shots, stems, MIDI, gains and a sheet of every section, as ZIP or folder."""
    whole = checked(Track, read_json(track), str(track))
    session = track_session(whole.audio, [track.parent, *(audio or [])])
    if arrangement:
        if not whole.arrangement:
            raise UserError(f"{track} has no arrangement: put its sections in order first.")
        if section is not None or out.suffix.lower() != ".zip":
            raise UserError("The arrangement goes into a ZIP, with all its sections.")
        out.parent.mkdir(parents=True, exist_ok=True)
        write_arranged(session, track.stem, whole, out)
        print(out)
        return
    sections = list(whole.sections) if section is None else [section_named(whole, section)]
    files = track_files(session, track.stem, whole, sections)
    if out.suffix.lower() == ".zip":
        write(out, zipped(files))
    else:
        folder = out / plain_name(track.stem)
        for name, data in files.items():
            write(folder / name, data)
    print(out)
    print_table([(name, f"{len(data) / 1024:.0f} kB") for name, data in files.items()])
