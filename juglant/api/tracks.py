"""Tracks: made, opened, saved, undone."""

import sqlite3
from collections.abc import Callable
from typing import Literal

from fastapi import APIRouter
from pydantic import BaseModel

from juglant.api.inputs import Input
from juglant.api.naming import NameOfTrack
from juglant.api.studio import AtDesk, Desk, RowId, read_track
from juglant.core.lowend.sketch import Mark, sketch
from juglant.core.naming import free_name
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.hit import PartId
from juglant.core.recipes.sections import Aspect, Entry, Section, Track
from juglant.core.recipes.track import TrackState
from juglant.core.words import told
from juglant.demo.scenario import demo_track
from juglant.store import audio, keeping, tracks

router = APIRouter(prefix="/api/tracks", tags=["tracks"])


class ListedTrack(BaseModel):
    """A track in the list: when it was begun, last changed, and deleted where it was."""

    id: int
    name: str
    made_at: str
    changed_at: str
    deleted_at: str | None


class TrackSketch(BaseModel):
    """Key, tempo and pattern of a track. Each stroke or note: where it begins and how long it lasts, as
    shares of the loop, and its velocity.
    """

    key: str
    bpm: float
    kick: list[Mark]
    hits: list[Mark]
    lines: list[Mark]


class HistoryStep(BaseModel):
    """A saved state: what it changed, and whether it lies on the way to the working one, or is it."""

    revision: int
    made_at: str
    what: str
    on_path: bool
    here: bool


class NewName(Input):
    """What a track is called."""

    name: NameOfTrack


class NewTrack(NewName):
    """A new track, in the key and at the tempo of a brief."""

    brief: Brief = Brief()


class DemoTrack(Input):
    """One of the invented tracks, by its name."""

    name: Literal["Cobnut Rain", "Green Husk", "Stonefruit"]


class Weight(BaseModel):
    """What the studio weighs, in bytes: its file, and the sounds in it."""

    file: int
    sounds: int


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


class BasedOn(Input):
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
        before = read_track(tracks.latest(db, track_id, based_on).body)
        track = change(before)
        for digest in track.audio:
            audio.describe(db, digest)
        what = told(before, track)
        return saved(tracks.save(db, track_id, track.model_dump_json(), based_on, what), section)


@router.get("")
def list_tracks(desk: AtDesk, deleted: bool = False) -> list[ListedTrack]:
    """All tracks, the oldest first; or those that were deleted in the last 30 days."""
    with desk.studio.reading() as db:
        return [ListedTrack(**one._asdict()) for one in tracks.everything(db, deleted=deleted)]


@router.post("", status_code=201)
def create_track(desk: AtDesk, new: NewTrack) -> SavedTrack:
    """A new track with a made kick and bass."""
    track = Track.model_validate({"state": TrackState(brief=new.brief)})
    with desk.studio.changing() as db:
        return saved(tracks.create(db, new.name, track.model_dump_json()))


@router.post("/demo", status_code=201)
def begin_from_a_demo(desk: AtDesk, demo: DemoTrack) -> SavedTrack:
    """One of the invented tracks, in this studio."""
    with desk.studio.changing() as db:
        name = _free(demo.name, db)
        return saved(tracks.create(db, name, demo_track(demo.name).model_dump_json()))


@router.get("/weight")
def weight(desk: AtDesk) -> Weight:
    """What the studio weighs."""
    return Weight(**keeping.weight(desk.studio))


def _free(wish: str, db: sqlite3.Connection) -> str:
    """A name that no track has yet."""
    return free_name(wish, (one.name for one in tracks.everything(db)), 100)


@router.get("/{track_id}")
def open_track(desk: AtDesk, track_id: RowId, section: PartId | None = None) -> SavedTrack:
    """A track as it was left, with one of its sections at hand."""
    with desk.studio.reading() as db:
        return saved(tracks.get(db, track_id), section)


@router.get("/{track_id}/sketch")
def draw_track(desk: AtDesk, track_id: RowId) -> TrackSketch:
    """What is written of a track's main section, to be drawn small in a list."""
    with desk.studio.reading() as db:
        state = read_track(tracks.get(db, track_id).body).state
    return TrackSketch(key=str(state.brief.key), bpm=state.brief.bpm, **sketch(state)._asdict())


@router.patch("/{track_id}")
def rename_track(desk: AtDesk, track_id: RowId, new: NewName) -> SavedTrack:
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


# So many steps of the history are answered.
_STEPS = 500


@router.get("/{track_id}/history")
def history(desk: AtDesk, track_id: RowId) -> list[HistoryStep]:
    """The latest saved states, the newest first, with those that undo left behind."""
    with desk.studio.reading() as db:
        found = tracks.history(db, track_id, _STEPS)
    return [HistoryStep(**step._asdict() | {"what": step.what or ""}) for step in found]


@router.post("/{track_id}/history/{revision}")
def go_to(
    desk: AtDesk, track_id: RowId, revision: RowId, based_on: RowId, section: PartId | None = None
) -> SavedTrack:
    """Any step of the history as the working state; 409 where another one is meant than the latest."""
    with desk.studio.changing() as db:
        tracks.latest(db, track_id, based_on)
        return saved(tracks.go_to(db, track_id, revision), section)


@router.post("/{track_id}/copy", status_code=201)
def copy_track(desk: AtDesk, track_id: RowId) -> SavedTrack:
    """A track more that is as this one is now."""
    with desk.studio.changing() as db:
        track = tracks.get(db, track_id)
        return saved(tracks.create(db, _free(track.name, db), track.body))


@router.delete("/{track_id}", status_code=204)
def delete_track(desk: AtDesk, track_id: RowId) -> None:
    """Take a track out of the list; it can be brought back for 30 days."""
    with desk.studio.changing() as db:
        tracks.delete(db, track_id)


@router.post("/{track_id}/undelete")
def undelete_track(desk: AtDesk, track_id: RowId) -> SavedTrack:
    """A track that was deleted, as it was."""
    with desk.studio.changing() as db:
        return saved(tracks.bring_back(db, track_id))
