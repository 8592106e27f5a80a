"""Separate: what kick and bass give up to each other, and what that does."""

from fastapi import APIRouter, Request, Response
from pydantic import BaseModel

from juglant.api import jobs
from juglant.api.duck import Question
from juglant.api.studio import AtDesk, as_json
from juglant.core.kept import sound_key
from juglant.core.lowend import proposing, separation
from juglant.core.lowend.meeting import Meeting, meeting
from juglant.core.lowend.part import solved_for
from juglant.core.lowend.proposing import Numbers, Proposal
from juglant.core.lowend.separation import Degree, Phase
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


class SearchView(BaseModel):
    """What a search found, from barely touched to fully separated, and for which sounds."""

    choices: list[Degree]
    solved_for: str


@router.post("/view", response_model=SeparateView)
def separate_view(desk: AtDesk, question: Question) -> Response:
    """Everything that the step shows of a state, and of one bar of it."""
    session, state = desk.session, question.state
    return as_json(
        SeparateView(
            plain=proposing.numbers(session, plain(state)),
            now=proposing.numbers(session, state), proposals=proposing.proposals(session, state),
            phases=separation.phases(session, state),
            meeting=meeting(session.answer(state), question.bar),
        )
    )  # fmt: skip


@router.post("/search")
def begin_search(desk: AtDesk, request: Request, state: TrackState) -> jobs.JobView:
    """Begin to search for the least that parts kick and bass."""

    def work(job: jobs.Job) -> str:
        job.total = 100
        for done, choices in separation.solve(desk.session, state):
            job.reached(round(100 * done))
            job.go_on()
            if choices is not None:
                found = [separation.checked(one, desk.session, state) for one in choices]
                job.result = SearchView(choices=found, solved_for=solved_for(state))
        return "What parts kick and bass was found."

    sort = f"separate {sound_key(state)[:12]}"
    return jobs.view(jobs.jobs_of(request).start(sort, "Parting kick and bass", work))


@router.get("/search/{job_id}")
def searched(request: Request, job_id: jobs.JobId) -> SearchView:
    """What the search found."""
    return jobs.result_of(request, job_id, SearchView)
