"""Comparing: equally loud, and blind."""

from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel

from juglant.api.inputs import Input
from juglant.api.studio import AtDesk
from juglant.core.comparing import ROUNDS, by_chance, equal_gains_db, loudness_lufs, verdict
from juglant.core.recipes.track import TrackState

router = APIRouter(prefix="/api/compare", tags=["compare"])


class Two(Input):
    """Two states to be heard against each other."""

    a: TrackState
    b: TrackState


class EqualGains(BaseModel):
    """How loud both are, and the gains in dB that bring them to the quieter one."""

    a_lufs: float
    b_lufs: float
    a_db: float
    b_db: float


class Score(BaseModel):
    """How often guessing alone scores as well, and what that means."""

    chance: float
    said: str
    rounds: int = ROUNDS


def equal_gains(a_lufs: float, b_lufs: float) -> EqualGains:
    """What makes two loudnesses equal."""
    a_db, b_db = equal_gains_db(a_lufs, b_lufs)
    return EqualGains(a_lufs=a_lufs, b_lufs=b_lufs, a_db=a_db, b_db=b_db)


@router.post("/match")
def match(desk: AtDesk, two: Two) -> EqualGains:
    """What makes two states equally loud."""
    return equal_gains(*(loudness_lufs(desk.session, state) for state in (two.a, two.b)))


@router.get("/score")
def score(
    right: Annotated[int, Query(ge=0, le=1000)], rounds: Annotated[int, Query(ge=1, le=1000)] = ROUNDS
) -> Score:
    """What a blind score says."""
    return Score(chance=by_chance(right, rounds), said=verdict(right, rounds))
