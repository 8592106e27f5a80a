"""The low end solved as a whole, of a state or of every section, as a job: it takes seconds."""

from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Request
from pydantic import BaseModel, Field

from juglant.api import jobs
from juglant.api.inputs import Input
from juglant.api.studio import AtDesk, Desk, RowId, read_track
from juglant.api.tracks import BasedOn, SavedTrack, put
from juglant.core.errors import StaleError
from juglant.core.findings.judge import findings
from juglant.core.findings.solving import MOST_STATES, Degree, Solution, Step, solve, solve_sections
from juglant.core.kept import sound_key
from juglant.core.recipes.hit import PartId
from juglant.core.recipes.parts import MOST_PARTS
from juglant.core.recipes.sections import Track
from juglant.core.recipes.track import TrackState
from juglant.store import tracks

router = APIRouter(prefix="/api/whole", tags=["whole"])


class LeftOut(Input):
    """A step that is left out: a finding, and one of the ways to mend it."""

    finding: Annotated[str, Field(max_length=120)]
    way: Annotated[str, Field(max_length=20)]


class WholeQuestion(Input):
    """A state, the parts that stay as they are, and the steps that are left out."""

    state: TrackState
    locks: list[PartId] = Field(default_factory=list, max_length=MOST_PARTS)
    without: list[LeftOut] = Field(default_factory=list, max_length=100)


class DegreeView(BaseModel):
    """A state on the way from barely touched to as clear as can be: the steps that lead to it, how much
    they change in dB, what kick and bass do there, and the sentences of what is open yet.
    """

    state: TrackState
    steps: list[Step]
    change: float
    collision_ms: float | None
    sub_shared_ms: float | None
    left: list[str]


class WholeView(BaseModel):
    """The degrees, the first of which is the state as it was."""

    degrees: list[DegreeView]


def _degree(desk: Desk, one: Degree) -> DegreeView:
    answer = desk.trials.answer(one.state)
    open_ = {finding.id: finding.sentence for finding in findings(desk.trials, answer)}
    return DegreeView(
        state=one.state, steps=list(one.steps), change=one.change, collision_ms=answer.after.collision_ms,
        sub_shared_ms=answer.after.sub_shared_ms, left=[open_[id] for id in one.left if id in open_],
    )  # fmt: skip


def _said(found: Solution) -> str:
    best = found.best
    if not best.steps:
        return "Nothing was found that closes more than it changes."
    steps = "one step" if len(best.steps) == 1 else f"{len(best.steps)} steps"
    return f"Solved in {steps}" + (f", {len(best.left)} left." if best.left else ": nothing is left.")


@router.post("")
def solve_whole(desk: AtDesk, request: Request, question: WholeQuestion) -> jobs.JobView:
    """Begin to look for the least that closes what can be closed, inside the school of the brief."""
    state, locks = question.state, set(question.locks)
    without = {(one.finding, one.way) for one in question.without}

    def work(job: jobs.Job) -> str:
        job.total = MOST_STATES
        with desk.one_trial:
            found = solve(desk.trials, state, locks, without, lambda looked, _: job.reached(looked))
            job.go_on()
            job.result = WholeView(degrees=[_degree(desk, one) for one in found.degrees])
        job.done = MOST_STATES
        return _said(found)

    told = [sorted(locks), sorted(f"{finding} {way}" for finding, way in without)]
    sort = f"whole {sound_key(state, *told)[:12]}"
    return jobs.view(jobs.jobs_of(request).start(sort, "Solving the low end", work))


class SectionsQuestion(Input):
    """A track as it is stored, and the parts that stay as they are in every section."""

    track: RowId
    locks: Annotated[tuple[PartId, ...], Field(max_length=MOST_PARTS)] = ()


class SectionSolved(BaseModel):
    """What was done in a section, and the sentences of what is open there yet."""

    name: str
    steps: list[Step]
    left: list[str]


class SectionsView(BaseModel):
    """Every section, main first, of the revision of the track that was solved."""

    revision: int
    sections: list[SectionSolved]


@dataclass(frozen=True)
class _Solved:
    """A track with every section solved."""

    id: int
    track: Track
    view: SectionsView


@router.post("/sections")
def solve_every_section(desk: AtDesk, request: Request, question: SectionsQuestion) -> jobs.JobView:
    """Begin to solve main, and then what is left in each of the other sections."""
    with desk.studio.reading() as db:
        stored = tracks.get(db, question.track)
    track = read_track(stored.body)
    names = {section.id: section.name for section in track.sections}

    def work(job: jobs.Job) -> str:
        def told(section: str, looked: int, _: int) -> bool:
            job.name = f"Solving {names[section]}"
            return job.reached(job.done + 1)

        job.total = MOST_STATES * len(names)
        with desk.one_trial:
            solved, found = solve_sections(desk.trials, track, set(question.locks), told)
            job.go_on()
            view = SectionsView(
                revision=stored.revision,
                sections=[
                    SectionSolved(
                        name=names[id], steps=list(one.best.steps), left=_degree(desk, one.best).left
                    )
                    for id, one in found.items()
                ],
            )
        job.result = _Solved(question.track, solved, view)
        job.done = job.total
        steps = sum(len(one.steps) for one in view.sections)
        return f"{len(view.sections)} sections in {steps} steps." if steps else "Nothing is to be done."

    sort = f"sections {question.track} {sound_key(track, sorted(question.locks))[:12]}"
    return jobs.view(jobs.jobs_of(request).start(sort, "Solving every section", work))


@router.get("/sections/{job_id}")
def sections_solved(request: Request, job_id: jobs.JobId) -> SectionsView:
    """What was solved in every section."""
    return jobs.result_of(request, job_id, _Solved).view


@router.post("/sections/{job_id}/take")
def take_sections(desk: AtDesk, request: Request, job_id: jobs.JobId, base: BasedOn) -> SavedTrack:
    """The track as it was solved, in one step; 409 where it has changed since."""
    found = jobs.result_of(request, job_id, _Solved)
    if base.based_on != found.view.revision:
        raise StaleError("The track has changed since it was solved: solve it again.")
    return put(desk, found.id, base.based_on, lambda _: found.track, base.at)


@router.get("/{job_id}")
def whole(request: Request, job_id: jobs.JobId) -> WholeView:
    """The degrees in which a low end was solved."""
    return jobs.result_of(request, job_id, WholeView)
