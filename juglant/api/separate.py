"""Separate: what kick and bass give up to each other, and what that does."""

import json
from collections.abc import Iterator
from dataclasses import asdict

from fastapi import APIRouter, Response
from fastapi.responses import StreamingResponse
from pydantic import BaseModel

from juglant.api.duck import Question
from juglant.api.studio import AtDesk, as_json
from juglant.core.lowend import separation
from juglant.core.lowend.meeting import Meeting, meeting
from juglant.core.lowend.part import solved_for
from juglant.core.lowend.separation import Degree, Numbers, Phase, Proposal
from juglant.core.lowend.trial import plain
from juglant.core.recipes.track import TrackState

router = APIRouter(prefix="/api/separate", tags=["separate"])


class SeparateView(BaseModel):
    """Numbers before anything was given up, and now; the plan; phases; the map of one bar."""

    plain: Numbers
    now: Numbers
    proposals: list[Proposal]
    phases: list[Phase]
    meeting: Meeting


class SolveStep(BaseModel):
    """A line of the search: how far it is, and at the end the choices."""

    done: float
    choices: list[Degree] | None = None
    solved_for: str = ""


@router.post("/view", response_model=SeparateView)
def separate_view(desk: AtDesk, question: Question) -> Response:
    """Everything that the step shows of a state, and of one bar of it."""
    session, state = desk.session, question.state
    return as_json(
        SeparateView(
            plain=separation.numbers(session, plain(state)),
            now=separation.numbers(session, state), proposals=separation.proposals(session, state),
            phases=separation.phases(session, state),
            meeting=meeting(session.answer(state), question.bar),
        )
    )  # fmt: skip


@router.post("/solve", response_model=SolveStep)
def separate_solve(desk: AtDesk, state: TrackState) -> StreamingResponse:
    """Search for the least that parts kick and bass: a line of JSON for every step of the search.

    Whoever hangs up ends the search.
    """

    def lines() -> Iterator[str]:
        for done, choices in separation.solve(desk.session, state):
            told = None
            if choices is not None:
                told = [_plain(separation.checked(one, desk.session, state)) for one in choices]
            step = {"done": done, "choices": told, "solved_for": solved_for(state)}
            yield json.dumps(step) + "\n"

    return StreamingResponse(lines(), media_type="application/x-ndjson")


def _plain(choice: Degree) -> dict[str, object]:
    tried = {**asdict(choice.tried), "recipe": choice.tried.recipe.model_dump()}
    return {"name": choice.name, "tried": {**tried, "clear": choice.tried.clear}}
