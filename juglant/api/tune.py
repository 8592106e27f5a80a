"""Tune: every hit moved to a note of the key."""

from typing import Annotated

from fastapi import APIRouter, Response
from pydantic import BaseModel, StringConstraints

from juglant.api.inputs import Input
from juglant.api.studio import AtDesk, as_json
from juglant.core.lowend import pitches
from juglant.core.lowend.pitches import Change, Pitched
from juglant.core.recipes.hit import PartId
from juglant.core.recipes.track import TrackState

router = APIRouter(prefix="/api/tune", tags=["tune"])


class TuneQuestion(Input):
    """A track's state."""

    state: TrackState


class TuneTo(TuneQuestion):
    """Which hit is to sound which note."""

    id: PartId
    note: Annotated[str, StringConstraints(max_length=8)]


class HeardAs(TuneQuestion):
    """What a hit is heard to sound; nothing for what is measured."""

    id: PartId
    text: Annotated[str, StringConstraints(max_length=24)] = ""


class TuneTable(BaseModel):
    """Every hit of a track against its harmony."""

    hits: list[Pitched]


class Tuned(BaseModel):
    """A state with hits retuned, and what became of each."""

    state: TrackState
    changes: list[Change]


@router.post("/table", response_model=TuneTable)
def table(desk: AtDesk, question: TuneQuestion) -> Response:
    """What every hit sounds, and where it could go."""
    return as_json(TuneTable(hits=pitches.table(desk.session, question.state)))


@router.post("")
def tune(desk: AtDesk, wish: TuneTo) -> Tuned:
    """One hit tuned, by its measured pitch."""
    state, change = pitches.tuned_to(desk.session, wish.state, wish.id, wish.note)
    return Tuned(state=state, changes=[change])


@router.post("/heard")
def hear(wish: HeardAs) -> TrackState:
    """The state in which an ear says what a hit sounds."""
    return pitches.heard_as(wish.state, wish.id, wish.text)


@router.post("/all")
def tune_all(desk: AtDesk, question: TuneQuestion) -> Tuned:
    """Every hit out of tune moved to the note that it should sound."""
    state, changes = pitches.tuned_all(desk.session, question.state)
    return Tuned(state=state, changes=changes)
