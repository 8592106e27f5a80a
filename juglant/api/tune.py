"""Tune: the kick moved to a note of the key."""

from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, StringConstraints

from juglant.api.studio import AtDesk
from juglant.core.errors import UserError
from juglant.core.recipes.track import TrackState

router = APIRouter(prefix="/api/tune", tags=["tune"])


class TuneTo(BaseModel):
    """A state, and the note that its kick is to sound."""

    state: TrackState
    note: Annotated[str, StringConstraints(max_length=8)]


@router.post("")
def tune(desk: AtDesk, wish: TuneTo) -> TrackState:
    """The state with its kick tuned, by its measured fundamental."""
    kick, brief = wish.state.kick, wish.state.brief
    if not desk.session.moves(kick, brief):
        raise UserError("The kick has no measurable pitch, so it cannot be tuned by measurement.", "note")
    tuned = desk.session.tuned(kick, brief, wish.note)
    return wish.state.model_copy(update={"kick": tuned})
