"""Duck: kick and bass together, and the ducking solved from both."""

from typing import Annotated

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field

from juglant.api.inputs import Input
from juglant.api.studio import AtDesk, as_json
from juglant.api.views import LADDER_THIRD_OCTAVES_HZ, RUNGS, AnswerView, answer_view
from juglant.core import RATE
from juglant.core.errors import UserError
from juglant.core.lowend.aimed import Aimed, aimed
from juglant.core.lowend.clearing import Solution, needed_after
from juglant.core.lowend.curves import as_drawn, returning_on
from juglant.core.lowend.ducking import Traced, traced
from juglant.core.lowend.keyed import AsCompressor
from juglant.core.lowend.meeting import Moment, moment
from juglant.core.lowend.overview import DepthHeard, Overview, depth_heard, overview, solve_ducking
from juglant.core.lowend.part import ducking_solved_for, solved_for
from juglant.core.recipes.duck import DuckRecipe, MarginDb
from juglant.core.recipes.ducking import Ducking
from juglant.core.recipes.hit import PartId
from juglant.core.recipes.track import TrackState
from juglant.core.tempo import NOTE_VALUES, note_value_ms

router = APIRouter(prefix="/api/duck", tags=["duck"])


class Question(Input):
    """A state, and the bar of its loop that is looked at, counted from 0."""

    state: TrackState
    bar: Annotated[int, Field(ge=0, lt=64)] = 0


class Solved(BaseModel):
    """The ducking that clears the kick; `complete` is false where no curve could wholly.

    `solved_for` names the kick and the bass that it is for.
    """

    solved_for: str
    recipe: DuckRecipe
    cost_db: float
    complete: bool


@router.post("/answer", response_model=AnswerView)
def answer(desk: AtDesk, question: Question) -> Response:
    """All numbers, pictures and findings of a state."""
    return as_json(answer_view(desk.session, question.state, question.bar, RATE))


class MomentQuestion(Question):
    """A moment of the bar that is looked at."""

    at_ms: Annotated[float, Field(ge=0.0, le=6000.0)]


@router.post("/moment")
def at_moment(desk: AtDesk, question: MomentQuestion) -> Moment:
    """Kick and ducked bass on the ladder around one moment."""
    found = desk.session.answer(question.state)
    bar_ms = found.length_ms / question.state.brief.bars
    return moment(found, question.bar * bar_ms + question.at_ms, RUNGS, LADDER_THIRD_OCTAVES_HZ)


class ReturnQuestion(Input):
    """A state, and the note value on which the bass is to be back."""

    state: TrackState
    value: str = Field(max_length=8)


@router.post("/return")
def return_on(question: ReturnQuestion) -> DuckRecipe:
    """The ducking with its return on a note value."""
    if question.value not in NOTE_VALUES:
        raise UserError(f"“{question.value}” is no note value.", "value")
    state = question.state
    return returning_on(state.duck, note_value_ms(question.value, state.brief.bpm))


@router.post("/draw")
def draw(recipe: DuckRecipe) -> DuckRecipe:
    """A curve as points, to be drawn on."""
    return as_drawn(recipe)


@router.post("/curve")
def curve(recipe: DuckRecipe) -> Traced:
    """One pass of a curve."""
    return traced(recipe)


@router.post("/needed")
def needed(desk: AtDesk, state: TrackState) -> list[float]:
    """By how many dB the bass must go down to end the collision, every ms from a kick to the next."""
    loop = desk.session.loop(state)
    met = desk.session.meeting(state)
    found = needed_after(*met, loop.times_ms, loop.length_ms, state.brief.sub_owner)
    return [round(float(db), 1) for db in found]


@router.post("/overview")
def all_duckings(desk: AtDesk, question: Question) -> Overview:
    """What may start a ducking, and what every ducking does."""
    return overview(desk.session, question.state, question.bar)


@router.post("/heard")
def duckings_heard(desk: AtDesk, state: TrackState) -> DepthHeard:
    """How much the duckings take of every line and of the whole, and how deep each pumps."""
    return depth_heard(desk.session, state)


class OneDucking(Input):
    """A state, and the id of one of its duckings."""

    state: TrackState
    ducking: PartId

    @property
    def one(self) -> Ducking:
        """The ducking. UserError where there is none."""
        found = self.state.ducking_of(self.ducking)
        if found is None:
            raise UserError("There is no such ducking in this track.", "ducking")
        return found


@router.post("/compressor")
def compressor(desk: AtDesk, question: OneDucking) -> list[AsCompressor]:
    """Compressor settings that come closest to the curve: with a hold, and without."""
    return desk.session.as_compressor(question.state, question.one)


class Clearing(OneDucking):
    """How much further than 6 dB under its triggers what is ducked is to lie."""

    margin_db: MarginDb = 0.0


class Aim(OneDucking):
    """How deep one of its targets is to be heard going down, and the note value on which it is back."""

    target: PartId
    heard_db: Annotated[float, Field(ge=0.5, le=36.0)]
    back_on: str = Field("", max_length=8)


@router.post("/aim")
def aim(desk: AtDesk, question: Aim) -> Aimed:
    """The ducking under which a part is heard as deep as wished."""
    if question.back_on and question.back_on not in NOTE_VALUES:
        raise UserError(f"“{question.back_on}” is no note value.", "back_on")
    return aimed(
        desk.session, question.state, question.one, question.target, question.heard_db, question.back_on
    )


def _solved(found: Solution, of: str) -> Solved:
    return Solved(solved_for=of, recipe=found.recipe, cost_db=found.cost_db, complete=found.complete)


@router.post("/solve")
def solve(desk: AtDesk, question: Clearing) -> Solved:
    """The least ducking that clears what starts it, and returns before it starts again."""
    state, one = question.state, question.one.model_copy(update={"margin_db": question.margin_db})
    if one.id == state.duckings[0].id:
        return _solved(desk.session.solve_ducking(state, question.margin_db), solved_for(state))
    return _solved(solve_ducking(desk.session, state, one), ducking_solved_for(state, one))
