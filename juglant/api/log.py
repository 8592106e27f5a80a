"""Log: kept versions with their numbers and notes."""

import json
from typing import Annotated, Any

from fastapi import APIRouter
from pydantic import BaseModel, StringConstraints

from juglant.api.studio import AtDesk, read_state
from juglant.api.views import numbers
from juglant.core.recipes.track import TrackState
from juglant.store import versions

router = APIRouter(prefix="/api/tracks/{track_id}/versions", tags=["log"])


class Keep(BaseModel):
    """A state to be kept, and what the producer notes about it."""

    state: TrackState
    note: Annotated[str, StringConstraints(strip_whitespace=True, max_length=2000)] = ""


class KeptVersion(BaseModel):
    """A kept version; `numbers` are those measured when it was kept."""

    id: int
    note: str
    made_at: str
    state: TrackState
    numbers: dict[str, Any]


def _kept(version: versions.Version) -> KeptVersion:
    return KeptVersion(
        id=version.id, note=version.note, made_at=version.made_at, state=read_state(version.body),
        numbers=json.loads(version.numbers),
    )  # fmt: skip


@router.get("")
def list_versions(desk: AtDesk, track_id: int) -> list[KeptVersion]:
    """All kept versions, the latest first."""
    with desk.studio.reading() as db:
        return [_kept(version) for version in versions.of_track(db, track_id)]


@router.post("", status_code=201)
def keep_version(desk: AtDesk, track_id: int, keep: Keep) -> KeptVersion:
    """Keep a state as it is now, for ever."""
    measured = json.dumps(numbers(desk.session.answer(keep.state)))
    with desk.studio.changing() as db:
        return _kept(versions.keep(db, track_id, keep.state.model_dump_json(), measured, keep.note))
