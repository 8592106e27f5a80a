"""Log: kept versions with their numbers and notes."""

import json
from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel, StringConstraints

from juglant.api.inputs import Input
from juglant.api.kept import KeptVersion, kept_version, log_numbers
from juglant.api.media import RawJson
from juglant.api.studio import AtDesk, RowId, read_track
from juglant.api.tracks import BasedOn, SavedTrack, put
from juglant.core import ENGINE_VERSION
from juglant.core.bringing import with_part_of
from juglant.core.errors import UserError
from juglant.core.lowend.sounded import SAME_DB, apart_db, sounded
from juglant.core.recipes.hit import PartId
from juglant.core.recipes.sections import Track
from juglant.core.recipes.track import TrackState
from juglant.core.words import changes
from juglant.store import entries, tracks, versions

router = APIRouter(prefix="/api/tracks/{track_id}/versions", tags=["log"])


class Keep(Input):
    """A section's state to be kept with the whole track, and what the producer notes about it."""

    section: PartId
    state: TrackState
    note: Annotated[str, StringConstraints(strip_whitespace=True, max_length=2000)] = ""


class KeptVersions(BaseModel):
    """Some kept versions, the latest first, and whether there are older ones."""

    versions: list[KeptVersion]
    more: bool


# So many are answered at once.
_PAGE = 50


@router.get("")
def list_versions(
    desk: AtDesk, track_id: RowId, before: RowId = 2**63 - 1, starred: bool = False,
    find: Annotated[str, Query(max_length=200)] = "",
) -> KeptVersions:  # fmt: skip
    """The latest kept versions, or those before one of them, with a text in them, with a star; one that
    cannot be read is told as such.
    """
    with desk.studio.reading() as db:
        found = versions.of_track(db, track_id, before, _PAGE + 1, find.strip(), starred=starred)
        marks = entries.marks(db, track_id)
    return KeptVersions(
        versions=[kept_version(one, marks.get(one.id)) for one in found[:_PAGE]], more=len(found) > _PAGE
    )


@router.get("/{version_id}/raw", response_class=RawJson)
def raw_version(desk: AtDesk, track_id: RowId, version_id: RowId) -> RawJson:
    """A kept version as it is stored, read or not."""
    with desk.studio.reading() as db:
        version = versions.get(db, track_id, version_id)
    head = {"Content-Disposition": f"attachment; filename=version-{version_id}.json"}
    return RawJson(version.body, headers=head)


@router.post("", status_code=201)
def keep_version(desk: AtDesk, track_id: RowId, keep: Keep) -> KeptVersion:
    """Keep a track as it is now, for ever."""
    measured = log_numbers(desk.session, keep.state)
    with desk.studio.reading() as db:
        was = _with(keep, tracks.get(db, track_id).body)
        last = versions.of_track(db, track_id, 2**63 - 1, 1)
    measured["changed"] = _since(last[0], was) if last else []
    # Measured before anything is locked: others may save meanwhile.
    heard = json.dumps(sounded(desk.session, was.state))
    with desk.studio.changing() as db:
        whole = _with(keep, tracks.get(db, track_id).body)
        known = heard if whole.state == was.state else None
        body = whole.model_dump_json()
        told = json.dumps(measured)
        return kept_version(versions.keep(db, track_id, body, told, keep.note, ENGINE_VERSION, known))


def _since(last: versions.Version, track: Track) -> list[str]:
    try:
        return changes(read_track(last.body), track)
    except UserError:
        return []


def _with(keep: Keep, body: str) -> Track:
    """A stored track with the section at hand as it is to be kept."""
    track = read_track(body)
    known = keep.section in {section.id for section in track.sections}
    return track.with_state(keep.section if known else track.main, keep.state)


@router.delete("/{version_id}", status_code=204)
def delete_version(desk: AtDesk, track_id: RowId, version_id: RowId) -> None:
    """Take a version out of the log; it can be brought back for 30 days."""
    with desk.studio.changing() as db:
        versions.delete(db, track_id, version_id)


@router.post("/{version_id}/undelete")
def undelete_version(desk: AtDesk, track_id: RowId, version_id: RowId) -> KeptVersion:
    """A version that was deleted, in the log again."""
    with desk.studio.changing() as db:
        return kept_version(versions.bring_back(db, track_id, version_id))


class AsKept(BaseModel):
    """Whether a version still sounds as it did when it was kept: how far its levels lie apart at most, None
    where nobody noted them, and the engines of then and now.
    """

    same: bool | None
    apart_db: float | None
    engine_then: int | None
    engine_now: int = ENGINE_VERSION


@router.get("/{version_id}/as-kept")
def askept_version(desk: AtDesk, track_id: RowId, version_id: RowId) -> AsKept:
    """A kept version's main section measured once more, against what sounded then."""
    with desk.studio.reading() as db:
        version = versions.get(db, track_id, version_id)
    if version.sounded is None:
        return AsKept(same=None, apart_db=None, engine_then=version.engine)
    now = sounded(desk.session, read_track(version.body).state)
    apart = apart_db(json.loads(version.sounded), now)
    return AsKept(same=apart <= SAME_DB, apart_db=min(apart, 999.0), engine_then=version.engine)


class VersionMark(Input):
    """What the user says of a version; what is not said stays as it is."""

    star: bool | None = None
    tags: Annotated[str, StringConstraints(strip_whitespace=True, max_length=200)] | None = None


@router.put("/{version_id}/mark")
def mark_version(desk: AtDesk, track_id: RowId, version_id: RowId, given: VersionMark) -> KeptVersion:
    """A star for what was sent out, tags to find it by."""
    with desk.studio.changing() as db:
        version = versions.get(db, track_id, version_id)
        entries.mark(db, version_id, star=given.star, tags=given.tags)
        return kept_version(version, entries.marks(db, track_id)[version_id])


@router.get("/{version_id}/state")
def version_state(
    desk: AtDesk, track_id: RowId, version_id: RowId, section: PartId | None = None
) -> TrackState:
    """What a kept version sounds like: in a section, or in its main one where it has no such."""
    with desk.studio.reading() as db:
        track = read_track(versions.get(db, track_id, version_id).body)
    known = {one.id for one in track.sections}
    return track.at(section if section in known else track.main)


class PartBack(BasedOn):
    """A part of a version, or a ducking, by its id, and the section that it comes back in."""

    part: PartId
    section: PartId


@router.post("/{version_id}/part")
def bring_back_part(desk: AtDesk, track_id: RowId, version_id: RowId, back: PartBack) -> SavedTrack:
    """One part of a kept version, or one of its duckings, in the track as it is: one step of undo."""
    was = version_state(desk, track_id, version_id, back.section)

    def changed(track: Track) -> Track:
        return track.with_state(back.section, with_part_of(track.at(back.section), was, back.part))

    return put(desk, track_id, back.based_on, changed, back.section)


@router.post("/{version_id}/back")
def bring_back(desk: AtDesk, track_id: RowId, version_id: RowId, change: BasedOn) -> SavedTrack:
    """A kept version as the working state again: one step of undo."""
    with desk.studio.reading() as db:
        body = versions.get(db, track_id, version_id).body
    return put(desk, track_id, change.based_on, lambda _: read_track(body))
