"""A sound designed for its partner, as a job: it takes seconds."""

from fastapi import APIRouter, Request
from pydantic import BaseModel

from juglant.api import jobs
from juglant.api.inputs import Input
from juglant.api.studio import AtDesk
from juglant.core.designing.design import ANSWERS, MOST_TRIED, Design, Wanted, design
from juglant.core.kept import sound_key
from juglant.core.recipes.design import Character
from juglant.core.recipes.hit import PartId
from juglant.core.recipes.track import TrackState

router = APIRouter(prefix="/api/design", tags=["design"])


class DesignQuestion(Input):
    """What is designed, and for which state: a kick for its lines, or the sound of a line for its kick."""

    state: TrackState
    wanted: Wanted
    line: PartId | None = None
    character: Character = Character()


class DesignView(BaseModel):
    """The answers, the shortest sound first."""

    answers: list[Design]


@router.post("")
def begin_design(desk: AtDesk, request: Request, question: DesignQuestion) -> jobs.JobView:
    """Begin to look for sounds that share the low end with what is there under the least ducking."""
    state, wanted, line, character = question.state, question.wanted, question.line, question.character

    def work(job: jobs.Job) -> str:
        job.total = ANSWERS * MOST_TRIED
        with desk.one_trial:
            found = design(desk.trials, state, wanted, line, character, job.reached)
        job.go_on()
        job.result, job.done = DesignView(answers=found), job.total
        clear = sum(not one.left for one in found)
        return f"{len(found)} answers, {clear} with nothing beyond its limit between kick and bass."

    sort = f"design {sound_key(state, wanted, line, character)[:12]}"
    return jobs.view(jobs.jobs_of(request).start(sort, f"Designing a {wanted}", work))


@router.get("/{job_id}")
def designed(request: Request, job_id: jobs.JobId) -> DesignView:
    """The sounds that were designed."""
    return jobs.result_of(request, job_id, DesignView)
