"""Tracks: made, opened, saved, undone."""

from collections.abc import Callable

from fastapi import APIRouter
from pydantic import BaseModel

from juglant.api.naming import NameOfTrack
from juglant.api.studio import AtDesk, Desk, RowId, read_track
from juglant.core.recipes.hit import PartId
from juglant.core.recipes.sections import Aspect, Entry, Section, Track
from juglant.core.recipes.track import TrackState
from juglant.store import audio, tracks

router = APIRouter(prefix="/api/tracks", tags=["tracks"])


class TrackName(BaseModel):
    """A track in the list."""

    id: int
    name: str


class NewTrack(BaseModel):
    """What a new track, or a renamed one, is called."""

    name: NameOfTrack


class Differs(BaseModel):
    """What a section has of its own: an aspect of a part, or a ducking where no aspect is named."""

    part: PartId
    aspect: Aspect | None


class SectionTold(BaseModel):
    """A section as it is listed."""

    id: PartId
    name: str
    bars: int
    differs: list[Differs]


class SavedTrack(BaseModel):
    """A track as it is stored, and as the section at hand sounds; `revision` names the stored state."""

    id: int
    name: str
    revision: int
    state: TrackState
    section: PartId
    main: PartId
    sections: list[SectionTold]
    arrangement: list[Entry]
    can_undo: bool
    can_redo: bool


class BasedOn(BaseModel):
    """The revision that a change was made from, and the section that stays at hand."""

    based_on: RowId
    at: PartId | None = None


class Save(BasedOn):
    """A section's state to be saved."""

    section: PartId
    state: TrackState


def _told(section: Section) -> SectionTold:
    differs = [Differs(part=one.part, aspect=one.aspect) for one in section.parts]
    differs += [Differs(part=one.id, aspect=None) for one in section.duckings]
    return SectionTold(id=section.id, name=section.name, bars=len(section.chord_roots), differs=differs)


def saved(stored: tracks.Track, section: str | None = None) -> SavedTrack:
    """A stored track as one of its sections sounds; as main does where that one is not there."""
    track = read_track(stored.body)
    at = section if section in {one.id for one in track.sections} else track.main
    assert at is not None
    return SavedTrack(
        id=stored.id, name=stored.name, revision=stored.revision, state=track.at(at), section=at,
        main=track.main, sections=[_told(one) for one in track.sections],
        arrangement=list(track.arrangement), can_undo=stored.can_undo, can_redo=stored.can_redo,
    )  # fmt: skip


def put(
    desk: Desk,
    track_id: RowId,
    based_on: RowId,
    change: Callable[[Track], Track],
    section: str | None = None,
) -> SavedTrack:
    """Save what becomes of the latest state of a track; 409 where the change is based on another one."""
    with desk.studio.changing() as db:
        track = change(read_track(tracks.latest(db, track_id, based_on).body))
        for digest in track.audio:
            audio.describe(db, digest)
        return saved(tracks.save(db, track_id, track.model_dump_json(), based_on), section)


@router.get("")
def list_tracks(desk: AtDesk) -> list[TrackName]:
    """All tracks, the oldest first."""
    with desk.studio.reading() as db:
        return [TrackName(id=id, name=name) for id, name in tracks.everything(db)]


@router.post("", status_code=201)
def create_track(desk: AtDesk, new: NewTrack) -> SavedTrack:
    """A new track with a made kick and bass."""
    with desk.studio.changing() as db:
        return saved(tracks.create(db, new.name, Track().model_dump_json()))


@router.get("/{track_id}")
def open_track(desk: AtDesk, track_id: RowId, section: PartId | None = None) -> SavedTrack:
    """A track as it was left, with one of its sections at hand."""
    with desk.studio.reading() as db:
        return saved(tracks.get(db, track_id), section)


@router.patch("/{track_id}")
def rename_track(desk: AtDesk, track_id: RowId, new: NewTrack) -> SavedTrack:
    """Another name for a track."""
    with desk.studio.changing() as db:
        return saved(tracks.rename(db, track_id, new.name))


@router.put("/{track_id}/state")
def save_state(desk: AtDesk, track_id: RowId, save: Save) -> SavedTrack:
    """Save what a section was changed to."""

    def changed(track: Track) -> Track:
        return track.with_state(save.section, save.state)

    return put(desk, track_id, save.based_on, changed, save.section)


@router.post("/{track_id}/undo")
def undo(desk: AtDesk, track_id: RowId, based_on: RowId, section: PartId | None = None) -> SavedTrack:
    """One saved state back; 409 where another one is meant than the latest."""
    with desk.studio.changing() as db:
        tracks.latest(db, track_id, based_on)
        return saved(tracks.undo(db, track_id), section)


@router.post("/{track_id}/redo")
def redo(desk: AtDesk, track_id: RowId, based_on: RowId, section: PartId | None = None) -> SavedTrack:
    """One saved state forward again; 409 where another one is meant than the latest."""
    with desk.studio.changing() as db:
        tracks.latest(db, track_id, based_on)
        return saved(tracks.redo(db, track_id), section)
