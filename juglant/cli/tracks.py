"""A track state and the files that it is made from."""

import hashlib
from pathlib import Path
from typing import Annotated

import typer

from juglant.core.errors import UserError
from juglant.core.hits.render import LoadAudio
from juglant.core.lowend.session import Session
from juglant.core.recipes.sections import Section, Track
from juglant.core.recipes.track import TrackState
from juglant.files.audio import Audio, decode

AudioFolders = Annotated[
    list[Path] | None, typer.Option("--audio", help="A folder of the files that the track names.")
]

SectionName = Annotated[
    str | None, typer.Option("--section", help="Which section of the track; main unless named.")
]

_KINDS = (".wav", ".flac", ".aif", ".aiff", ".caf", ".ogg", ".mp3", ".w64", ".au")


def _audio_of(wanted: set[str], folders: list[Path]) -> dict[str, Audio]:
    """The files that a track names by their content, found in some folders. UserError for one missing."""
    found = dict[str, Audio]()
    for folder in folders if wanted else ():
        for path in sorted(folder.rglob("*")):
            if path.suffix.lower() not in _KINDS or not path.is_file() or len(found) == len(wanted):
                continue
            data = path.read_bytes()
            digest = hashlib.sha256(data).hexdigest()
            if digest in wanted and digest not in found:
                found[digest] = decode(data, path.name)
    missing = sorted(wanted - found.keys())
    if missing:
        raise UserError(
            f"The track is made from {len(missing)} file(s) that are not here, the first with the SHA-256 "
            f"{missing[0][:12]}…: put it beside the track, or name its folder with --audio."
        )
    return found


def section_named(track: Track, name: str) -> Section:
    """One of a track's sections by its name. UserError for a name that none has."""
    found = next((one for one in track.sections if one.name.lower() == name.lower()), None)
    if found is None:
        names = ", ".join(one.name for one in track.sections)
        raise UserError(f"There is no section “{name}” in this track; there are {names}.", "section")
    return found


def section_of(track: Track, name: str | None) -> TrackState:
    """A track as one of its sections sounds, main unless named."""
    return track.state if name is None else track.at(section_named(track, name).id)


def part_named(state: TrackState, name: str) -> str:
    """The id of a part by its name. UserError for a name that none has."""
    found = next((one.id for one in state.parts if name.lower() in (one.name.lower(), one.id)), None)
    if found is None:
        names = ", ".join(part.name for part in state.parts)
        raise UserError(f"There is no part “{name}” in this track; there are {names}.", "part")
    return found


def track_audio(audio: set[str], folders: list[Path]) -> LoadAudio:
    """The files of a track, found in some folders. UserError for one missing."""
    files = _audio_of(audio, folders)
    return lambda digest: (files[digest].samples, files[digest].rate)


def track_session(audio: set[str], folders: list[Path]) -> Session:
    """Something that renders and measures a track, its files found in some folders."""
    return Session(track_audio(audio, folders))
