"""The folder beside the arranging project: hand-overs are written there, its files may be watched."""

import hashlib
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, Field

from juglant.api.handover import named_version, with_version
from juglant.api.hits import import_bytes
from juglant.api.inputs import Input
from juglant.api.log import Keep, keep_version
from juglant.api.studio import AtDesk, Desk, RowId, read_track
from juglant.api.tracks import BasedOn, SavedTrack, put
from juglant.core.errors import NotFoundError, UserError
from juglant.core.recipes.hit import PartId
from juglant.core.recipes.sections import Track
from juglant.core.replaced import FileNumbers, file_numbers, file_of, what_changed, with_file
from juglant.files.audio import decode
from juglant.files.handed import called, track_files
from juglant.files.outlet import checked_folder, sound_in, sounds_in, written
from juglant.files.sizes import MOST_SOUND_BYTES
from juglant.store import audio, entries, outlets, tracks
from juglant.store.outlets import Outlet, Watched

router = APIRouter(prefix="/api/tracks/{track_id}", tags=["outlet"])


class FileThere(BaseModel):
    """A sound file of the folder: the part that is made from it, whether it is another one by now, and what
    is different.
    """

    name: str
    part: PartId | None = None
    changed: bool = False
    said: str | None = None


class MadeFromFile(BaseModel):
    """A part that is made from one file."""

    id: PartId
    name: str


class OutletView(BaseModel):
    """A track's folder, its sound files where it is watched, the parts that may be made from them, and what
    is wrong with it.
    """

    folder: str | None
    watching: bool
    files: list[FileThere]
    parts: list[MadeFromFile] = []
    trouble: str | None = None


class NewOutlet(Input):
    """A folder by its whole path, or none; its files are looked at only where that is asked for."""

    folder: Annotated[str, Field(max_length=1000)] | None
    watching: bool = False


class Pairing(Input):
    """A part that is made from a file of the folder; without a file it is looked after by hand again."""

    part: PartId
    file: Annotated[str, Field(max_length=255)] | None


class Take(BasedOn):
    """A part whose file changed, and the section that stays at hand."""

    part: PartId
    section: PartId


class HandedOver(BaseModel):
    """Where a hand-over was written, None where it was downloaded, and the version that it is."""

    folder: str | None
    version: int
    said: str


class HandOver(Input):
    """Which section is handed over, or all; whether it is written to the folder."""

    section: PartId | None = None
    write: bool = False


@lru_cache(maxsize=256)
def _digest(path: Path, stamp: tuple[int, int]) -> str | None:
    """The hash of a file as it was at a stamp; None where it is too large to be a part."""
    return None if stamp[1] > MOST_SOUND_BYTES else hashlib.sha256(path.read_bytes()).hexdigest()


def _now(path: Path) -> str | None:
    told = path.stat()
    return _digest(path, (told.st_mtime_ns, told.st_size))


@dataclass(frozen=True)
class _Content:
    """A file's bytes and name, to be read where its numbers are not known under their hash."""

    key: str
    read: Callable[[], tuple[bytes, str]]


def _numbers(content: _Content) -> FileNumbers:
    decoded = decode(*content.read())
    return file_numbers(decoded.samples, decoded.rate)


def _difference(desk: Desk, was: str, path: Path) -> str:
    """What is different in a file from the one that was taken; or why that cannot be told."""

    def before() -> tuple[bytes, str]:
        with desk.studio.reading() as db:
            return audio.data(db, was)

    def after() -> tuple[bytes, str]:
        return path.read_bytes(), path.name

    try:
        old = desk.session.sounds.once(_numbers, _Content(was, before))
        new = desk.session.sounds.once(_numbers, _Content(_now(path) or str(path.stat()), after))
    except (UserError, NotFoundError) as error:
        return error.message
    except OSError as error:
        return f"{path.name} cannot be read: {error.strerror}."
    return what_changed(old, new)


def _view(desk: Desk, track_id: int) -> OutletView:
    with desk.studio.reading() as db:
        body = tracks.get(db, track_id).body
        outlet, pairs = outlets.get(db, track_id), outlets.watched(db, track_id)
    if outlet is None:
        return OutletView(folder=None, watching=False, files=[])
    state = read_track(body).state
    files: list[FileThere] = []
    trouble = None
    try:
        folder = checked_folder(outlet.folder)
        by_name = {one.file: one for one in pairs}
        for path in sounds_in(folder) if outlet.watching else []:
            pair = by_name.pop(path.name, None)
            changed = pair is not None and _now(path) not in (pair.audio, None)
            said = _difference(desk, pair.audio, path) if pair is not None and changed else None
            part = None if pair is None else pair.part
            files.append(FileThere(name=path.name, part=part, changed=changed, said=said))
        for gone in by_name.values() if outlet.watching else []:
            files.append(FileThere(name=gone.file, part=gone.part, said="It is not there any more."))
    except UserError as error:
        trouble = error.message
    parts = [MadeFromFile(id=one.id, name=one.name) for one in state.parts if file_of(one) is not None]
    return OutletView(
        folder=outlet.folder, watching=outlet.watching, files=files, parts=parts, trouble=trouble
    )


def _outlet(desk: Desk, track_id: int) -> Path:
    with desk.studio.reading() as db:
        outlet = outlets.get(db, track_id)
    if outlet is None:
        raise UserError("No folder is named for this track yet.", "folder")
    return checked_folder(outlet.folder)


@router.get("/outlet")
def look_at_outlet(desk: AtDesk, track_id: RowId) -> OutletView:
    """The folder and, where it is watched, which of its files have changed."""
    return _view(desk, track_id)


@router.put("/outlet")
def name_outlet(desk: AtDesk, track_id: RowId, new: NewOutlet) -> OutletView:
    """Name a folder, or none; look at its files, or not."""
    wished = None
    if new.folder is not None and new.folder.strip():
        wished = Outlet(str(checked_folder(new.folder.strip())), new.watching)
    with desk.studio.changing() as db:
        tracks.get(db, track_id)
        outlets.put(db, track_id, wished)
    return _view(desk, track_id)


@router.put("/watched")
def pair(desk: AtDesk, track_id: RowId, pairing: Pairing) -> OutletView:
    """Say which file of the folder a part is made from: from now on a change of it is told."""
    folder = _outlet(desk, track_id)
    with desk.studio.reading() as db:
        state = read_track(tracks.get(db, track_id).body).state
    part = state.part(pairing.part)
    taken = None if part is None else file_of(part)
    if taken is None:
        raise UserError("This part is not made from one file: there is nothing to watch.", "part")
    with desk.studio.changing() as db:
        if pairing.file is None:
            outlets.unwatch(db, track_id, pairing.part)
        else:
            name = sound_in(folder, pairing.file).name
            outlets.watch(db, track_id, Watched(pairing.part, name, taken))
    return _view(desk, track_id)


@router.post("/take")
def take_changed(desk: AtDesk, track_id: RowId, take: Take) -> SavedTrack:
    """The file of a part as it is on the disk now, in the place of the one before: one step of undo. What
    was solved for the old one is told as such.
    """
    folder = _outlet(desk, track_id)
    with desk.studio.reading() as db:
        found = [one for one in outlets.watched(db, track_id) if one.part == take.part]
    if not found:
        raise UserError("This part is made from no file that is watched.", "part")
    path = sound_in(folder, found[0].file)
    try:
        new = import_bytes(desk, path.read_bytes(), path.name).audio
    except OSError as error:
        raise UserError(f"{path.name} cannot be read: {error.strerror}.", "file") from error

    def changed(track: Track) -> Track:
        return track.with_state(track.main, with_file(track.state, take.part, new, path.name))

    saved = put(desk, track_id, take.based_on, changed, take.section)
    with desk.studio.changing() as db:
        outlets.watch(db, track_id, Watched(take.part, path.name, new))
    return saved


def _version(desk: Desk, track_id: int, track: Track, note: str) -> int:
    """The kept version that a track is now: the latest one where that is the same, else a new one."""
    known = named_version(desk, track_id, track)
    if known is not None:
        return known
    return keep_version(desk, track_id, Keep(section=track.main, state=track.state, note=note)).id


@router.post("/handed-over")
def hand_over(desk: AtDesk, track_id: RowId, wish: HandOver) -> HandedOver:
    """Hand a section over, or all: the log says which version it was, and keeps it; written to the folder
    where that is asked for.
    """
    with desk.studio.reading() as db:
        stored = tracks.get(db, track_id)
    name, track = stored.name, read_track(stored.body)
    sections = [track.section(wish.section)] if wish.section else list(track.sections)
    folder = _outlet(desk, track_id) if wish.write else None
    version = _version(desk, track_id, track, "handed over")
    shown = called(name, track, sections[0]) if len(sections) == 1 else name
    to = None
    if folder is not None:
        files = with_version(track_files(desk.session, name, track, sections), version)
        to = written(folder, f"{shown} v{version}", files)
    said = f"Handed over {shown}, version {version}" + (f", to {to}." if to else ".")
    with desk.studio.changing() as db:
        entries.add(db, track_id, "hand-over", said)
        entries.mark(db, version, star=True, tags=None)
    return HandedOver(folder=None if to is None else str(to), version=version, said=said)
