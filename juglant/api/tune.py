"""Tune: every hit moved to a note of the key."""

from typing import Annotated

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field, StringConstraints

from juglant.api.studio import AtDesk, as_json
from juglant.core.errors import UserError
from juglant.core.lowend import pitches
from juglant.core.lowend.pitches import Change, Pitched
from juglant.core.recipes.hit import MOST_HITS
from juglant.core.recipes.track import Section, TrackState

router = APIRouter(prefix="/api/tune", tags=["tune"])


class TuneQuestion(BaseModel):
    """A track's state."""

    state: TrackState


class TuneTo(TuneQuestion):
    """Which hit (0 is the kick) is to sound which note."""

    index: Annotated[int, Field(ge=0, le=MOST_HITS)] = 0
    note: Annotated[str, StringConstraints(max_length=8)]
    section: Section | None = None


class HeardAs(TuneQuestion):
    """What a hit (0 is the kick) is heard to sound; nothing for what is measured."""

    index: Annotated[int, Field(ge=0, le=MOST_HITS)] = 0
    text: Annotated[str, StringConstraints(max_length=24)] = ""
    section: Section | None = None


class SectionQuestion(TuneQuestion):
    """Which section of a track is to be on the bench."""

    section: Section


class TuneTable(BaseModel):
    """Every hit of a track against its harmony."""

    hits: list[Pitched]


class Tuned(BaseModel):
    """A state with hits retuned, and what became of each."""

    state: TrackState
    changes: list[Change]


def _there(state: TrackState, index: int) -> None:
    if index > len(state.hits):
        raise UserError(f"The track has {1 + len(state.hits)} hits.", "index")


@router.post("/table", response_model=TuneTable)
def table(desk: AtDesk, question: TuneQuestion) -> Response:
    """What every hit sounds, and where it could go."""
    return as_json(TuneTable(hits=pitches.table(desk.session, question.state)))


@router.post("")
def tune(desk: AtDesk, wish: TuneTo) -> Tuned:
    """One hit tuned, by its measured pitch."""
    _there(wish.state, wish.index)
    state, change = pitches.tuned_to(desk.session, wish.state, wish.index, wish.note, wish.section)
    return Tuned(state=state, changes=[change])


@router.post("/heard")
def hear(wish: HeardAs) -> TrackState:
    """The state in which an ear says what a hit sounds."""
    _there(wish.state, wish.index)
    return pitches.heard_as(wish.state, wish.index, wish.text, wish.section)


@router.post("/section")
def at_section(question: SectionQuestion) -> TrackState:
    """The same track with another section on the bench; a new one begins with the same kick."""
    return question.state.at(question.section)


@router.post("/all")
def tune_all(desk: AtDesk, question: TuneQuestion) -> Tuned:
    """Every hit out of tune moved to the note that it should sound."""
    state, changes = pitches.tuned_all(desk.session, question.state)
    return Tuned(state=state, changes=changes)
