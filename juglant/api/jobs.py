"""Work that takes longer than a second: how far it is, waiting, stopping, and what came of it.

A job goes on while pages come and go; the latest ones that have ended stay in the list.
"""

import itertools
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from threading import Event, Lock, Thread
from typing import Annotated, Literal, TypeVar

from fastapi import APIRouter, Path, Request
from pydantic import BaseModel

from juglant.core.errors import CancelledError, NotFoundError, UserError

router = APIRouter(prefix="/api/jobs", tags=["jobs"])

State = Literal["running", "waiting", "done", "stopped", "failed"]
_ENDED: tuple[State, ...] = ("done", "stopped", "failed")
_KEPT = 20


@dataclass
class Job:
    """One piece of work. What does it looks at `stop` and `wait`, and says how far it is."""

    id: int
    # Of one sort and about one thing there is one at a time.
    sort: str
    name: str
    stop: Event = field(default_factory=Event)
    wait: Event = field(default_factory=Event)
    state: State = "running"
    done: int = 0
    total: int = 0
    rate: float = 0.0
    left_s: float | None = None
    said: str = ""
    # What came of it, for whoever asked.
    result: object = None
    ended: Event = field(default_factory=Event)

    def reached(self, done: int) -> bool:
        """So much of the work is done; whether to go on."""
        self.done = min(done, self.total)
        return not self.stop.is_set()

    def go_on(self) -> None:
        """CancelledError where the work is to stop."""
        if self.stop.is_set():
            raise CancelledError


class JobView(BaseModel):
    """A job as it is told: files or steps done of how many, how many a second, seconds left."""

    id: int
    sort: str
    name: str
    state: State
    done: int
    total: int
    rate: float
    left_s: float | None
    said: str


class Jobs:
    """All jobs of a server. Safe to share by threads."""

    def __init__(self) -> None:
        # No number of an earlier run comes again: a page that stayed open tells of each job once.
        self._lock, self._numbers = Lock(), itertools.count(int(time.time()))
        self._jobs: dict[int, Job] = {}

    def start(self, sort: str, name: str, work: Callable[[Job], str]) -> Job:
        """Begin some work on a thread of its own, unless one of its sort is at it already; `work` gives
        what is to be said at the end. CancelledError in it ends it as stopped.
        """
        with self._lock:
            for one in self._jobs.values():
                if one.sort == sort and one.state not in _ENDED:
                    return one
            job = Job(next(self._numbers), sort, name)
            self._jobs[job.id] = job
            for old in [one.id for one in self._jobs.values() if one.state in _ENDED][:-_KEPT]:
                del self._jobs[old]
        Thread(target=self._run, args=(job, work), name=f"job {job.id}", daemon=True).start()
        return job

    @staticmethod
    def _run(job: Job, work: Callable[[Job], str]) -> None:
        try:
            job.said = work(job)
            job.state = "stopped" if job.stop.is_set() else "done"
        except CancelledError:
            job.said, job.state = "It was stopped.", "stopped"
        except UserError as error:
            job.said, job.state = error.message, "failed"
        except Exception as error:
            job.said, job.state = f"It stopped with an error: {type(error).__name__}.", "failed"
            raise
        finally:
            job.ended.set()

    def get(self, id: int) -> Job:
        """A job by its number. NotFoundError where there is none."""
        with self._lock:
            found = self._jobs.get(id)
        if found is None:
            raise NotFoundError("There is no such job.")
        return found

    def everything(self) -> list[Job]:
        """All jobs, the latest first."""
        with self._lock:
            return sorted(self._jobs.values(), key=lambda one: -one.id)

    def end(self) -> None:
        """Stop everything: the server does."""
        for one in self.everything():
            one.stop.set()


def view(job: Job) -> JobView:
    """A job as it is told."""
    return JobView(
        id=job.id, sort=job.sort, name=job.name,
        state="waiting" if job.wait.is_set() and job.state == "running" else job.state,
        done=job.done, total=job.total, rate=job.rate, left_s=job.left_s, said=job.said,
    )  # fmt: skip


def jobs_of(request: Request) -> Jobs:
    """The server's jobs."""
    found = request.app.state.jobs
    assert isinstance(found, Jobs)
    return found


T = TypeVar("T")


def result_of(request: Request, id: int, sort: type[T]) -> T:
    """What came of a job. NotFoundError where it has not ended, or was something else."""
    found = jobs_of(request).get(id).result
    if not isinstance(found, sort):
        raise NotFoundError("It has no result.")
    return found


JobId = Annotated[int, Path(ge=1, le=2**53)]


@router.get("")
def listed(request: Request) -> list[JobView]:
    """All jobs, the latest first."""
    return [view(one) for one in jobs_of(request).everything()]


@router.post("/{job_id}/stop")
def stop(request: Request, job_id: JobId) -> JobView:
    """Stop a job; what it has done stays done."""
    job = jobs_of(request).get(job_id)
    job.stop.set()
    return view(job)


@router.post("/{job_id}/wait")
def wait(request: Request, job_id: JobId) -> JobView:
    """Let a job wait, or go on where it waits."""
    job = jobs_of(request).get(job_id)
    if job.wait.is_set():
        job.wait.clear()
    else:
        job.wait.set()
    return view(job)
