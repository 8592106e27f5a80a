"""Log: kept versions with their numbers and notes."""

import json
from typing import Annotated, Any

from fastapi import APIRouter, Response
from pydantic import BaseModel, StringConstraints

from juglant.api.studio import AtDesk, RowId, read_track
from juglant.api.tracks import BasedOn, SavedTrack, put
from juglant.api.views import numbers
from juglant.core import ENGINE_VERSION
from juglant.core.errors import UserError
from juglant.core.lowend.sounded import SAME_DB, apart_db, sounded
from juglant.core.recipes.hit import PartId
from juglant.core.recipes.sections import Track
from juglant.core.recipes.track import TrackState
from juglant.store import tracks, versions

router = APIRouter(prefix="/api/tracks/{track_id}/versions", tags=["log"])


class Keep(BaseModel):
    """A section's state to be kept with the whole track, and what the producer notes about it."""

    section: PartId
    state: TrackState
    note: Annotated[str, StringConstraints(strip_whitespace=True, max_length=2000)] = ""


class KeptVersion(BaseModel):
    """A kept version: what was measured of its main section when it was kept, in a line, or why it cannot
    be read any more.
    """

    id: int
    note: str
    made_at: str
    said: str | None
    trouble: str | None = None


class KeptVersions(BaseModel):
    """Some kept versions, the latest first, and whether there are older ones."""

    versions: list[KeptVersion]
    more: bool


# So many are answered at once.
_PAGE = 50


def _said(state: TrackState, measured: dict[str, Any]) -> str:
    brief, main, hit = state.brief, state.duckings[0], measured["hit"]
    cents, collision = hit["cents"], measured["after"]["collision_ms"]
    tuned = "" if cents is None else f" {cents:+.{1 if abs(cents) < 10 else 0}f} ¢".replace("+0.0", "±0.0")
    return " · ".join([
        f"{brief.tonic} {brief.mode}, {brief.bpm:g} BPM", f"kick {hit['note'] or 'without pitch'}{tuned}",
        "no collision" if collision is None else f"collision {collision:.0f} ms",
        f"ducked {main.duck.depth_db:g} dB" if main.on else "not ducked",
    ]).replace("-", "−")  # fmt: skip


def _kept(version: versions.Version) -> KeptVersion:
    said, trouble = None, None
    try:
        said = _said(read_track(version.body).state, json.loads(version.numbers))
    except (UserError, ValueError, KeyError, TypeError):
        trouble = "This version cannot be read by this Juglant."
    return KeptVersion(
        id=version.id, note=version.note, made_at=version.made_at, said=said, trouble=trouble
    )


@router.get("")
def list_versions(desk: AtDesk, track_id: RowId, before: RowId = 2**63 - 1) -> KeptVersions:
    """The latest kept versions, or those before one of them; one that cannot be read is told as such."""
    with desk.studio.reading() as db:
        found = versions.of_track(db, track_id, before, _PAGE + 1)
    return KeptVersions(versions=[_kept(one) for one in found[:_PAGE]], more=len(found) > _PAGE)


@router.get("/{version_id}/raw", response_class=Response)
def raw_version(desk: AtDesk, track_id: RowId, version_id: RowId) -> Response:
    """A kept version as it is stored, read or not."""
    with desk.studio.reading() as db:
        version = versions.get(db, track_id, version_id)
    head = {"Content-Disposition": f"attachment; filename=version-{version_id}.json"}
    return Response(version.body, media_type="application/json", headers=head)


@router.post("", status_code=201)
def keep_version(desk: AtDesk, track_id: RowId, keep: Keep) -> KeptVersion:
    """Keep a track as it is now, for ever."""
    measured = json.dumps(numbers(desk.session.answer(keep.state)))
    with desk.studio.reading() as db:
        was = _with(keep, tracks.get(db, track_id).body)
    # Measured before anything is locked: others may save meanwhile.
    heard = json.dumps(sounded(desk.session, was.state))
    with desk.studio.changing() as db:
        whole = _with(keep, tracks.get(db, track_id).body)
        known = heard if whole.state == was.state else None
        body = whole.model_dump_json()
        return _kept(versions.keep(db, track_id, body, measured, keep.note, ENGINE_VERSION, known))


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
        return _kept(versions.bring_back(db, track_id, version_id))


class AsKept(BaseModel):
    """Whether a version still sounds as it did when it was kept: how far its levels lie apart at most, None
    where nobody noted them, and the engines of then and now.
    """

    same: bool | None
    apart_db: float | None
    engine_then: int | None
    engine_now: int = ENGINE_VERSION


@router.get("/{version_id}/as-kept")
def as_kept(desk: AtDesk, track_id: RowId, version_id: RowId) -> AsKept:
    """A kept version's main section measured once more, against what sounded then."""
    with desk.studio.reading() as db:
        version = versions.get(db, track_id, version_id)
    if version.sounded is None:
        return AsKept(same=None, apart_db=None, engine_then=version.engine)
    now = sounded(desk.session, read_track(version.body).state)
    apart = apart_db(json.loads(version.sounded), now)
    return AsKept(same=apart <= SAME_DB, apart_db=min(apart, 999.0), engine_then=version.engine)


@router.post("/{version_id}/back")
def bring_back(desk: AtDesk, track_id: RowId, version_id: RowId, change: BasedOn) -> SavedTrack:
    """A kept version as the working state again: one step of undo."""
    with desk.studio.reading() as db:
        body = versions.get(db, track_id, version_id).body
    return put(desk, track_id, change.based_on, lambda _: read_track(body))
