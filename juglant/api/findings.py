"""Findings: what a fix would do, before it is taken."""

from typing import Annotated

from fastapi import APIRouter, Query

from juglant.api.studio import AtDesk
from juglant.core.findings import Effect, TriedFix, effect, fixes
from juglant.core.recipes.track import TrackState

router = APIRouter(prefix="/api/findings", tags=["findings"])

Way = Annotated[str | None, Query(max_length=20, description="One of the finding's fixes.")]


@router.post("/{finding_id}/fix")
def try_fix(desk: AtDesk, finding_id: str, state: TrackState, way: Way = None) -> Effect:
    """The mended state with the number before and after; nothing is saved."""
    return effect(desk.session, desk.session.answer(state), finding_id, way)


@router.post("/{finding_id}/fixes")
def tried_fixes(desk: AtDesk, finding_id: str, state: TrackState) -> list[TriedFix]:
    """The fixes of a finding that were tried and may be offered, the best first; nothing is saved."""
    with desk.one_trial:
        return fixes(desk.trials, desk.trials.answer(state), finding_id)
