"""Tracks: made, opened, saved, undone."""

from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, StringConstraints

from juglant.api.studio import AtDesk, read_state
from juglant.core.recipes.track import TrackState
from juglant.store import audio, tracks

router = APIRouter(prefix="/api/tracks", tags=["tracks"])

Name = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=100)]


class TrackName(BaseModel):
    """A track in the list."""

    id: int
    name: str


class NewTrack(BaseModel):
    """What a new track, or a renamed one, is called."""

    name: Name


class SavedTrack(BaseModel):
    """A track as it is stored; `revision` names the state."""

    id: int
    name: str
    revision: int
    state: TrackState
    can_undo: bool
    can_redo: bool


class Save(BaseModel):
    """A state to be saved, and the revision it was made from."""

    state: TrackState
    based_on: int


def saved(track: tracks.Track) -> SavedTrack:
    """A stored track with its state read."""
    values = track._asdict()
    return SavedTrack(state=read_state(values.pop("body")), **values)


@router.get("")
def list_tracks(desk: AtDesk) -> list[TrackName]:
    """All tracks, the oldest first."""
    with desk.studio.reading() as db:
        return [TrackName(id=id, name=name) for id, name in tracks.everything(db)]


@router.post("", status_code=201)
def create_track(desk: AtDesk, new: NewTrack) -> SavedTrack:
    """A new track with a made kick and bass."""
    with desk.studio.changing() as db:
        return saved(tracks.create(db, new.name, TrackState().model_dump_json()))


@router.get("/{track_id}")
def open_track(desk: AtDesk, track_id: int) -> SavedTrack:
    """A track as it was left."""
    with desk.studio.reading() as db:
        return saved(tracks.get(db, track_id))


@router.patch("/{track_id}")
def rename_track(desk: AtDesk, track_id: int, new: NewTrack) -> SavedTrack:
    """Another name for a track."""
    with desk.studio.changing() as db:
        return saved(tracks.rename(db, track_id, new.name))


@router.put("/{track_id}/state")
def save_state(desk: AtDesk, track_id: int, save: Save) -> SavedTrack:
    """Save the working state; 409 where it is not based on the latest one."""
    with desk.studio.changing() as db:
        for digest in save.state.audio:
            audio.describe(db, digest)
        return saved(tracks.save(db, track_id, save.state.model_dump_json(), save.based_on))


@router.post("/{track_id}/undo")
def undo(desk: AtDesk, track_id: int) -> SavedTrack:
    """One saved state back."""
    with desk.studio.changing() as db:
        return saved(tracks.undo(db, track_id))


@router.post("/{track_id}/redo")
def redo(desk: AtDesk, track_id: int) -> SavedTrack:
    """One saved state forward again."""
    with desk.studio.changing() as db:
        return saved(tracks.redo(db, track_id))
