"""Findings: what a fix would do, before it is taken."""

from fastapi import APIRouter

from juglant.api.studio import AtDesk
from juglant.core.findings import Effect, effect
from juglant.core.recipes.track import TrackState

router = APIRouter(prefix="/api/findings", tags=["findings"])


@router.post("/{finding_id}/fix")
def try_fix(desk: AtDesk, finding_id: str, state: TrackState) -> Effect:
    """The mended state with the number before and after; nothing is saved."""
    return effect(desk.session, desk.session.answer(state), finding_id)
