"""The folders of the stock: added, watched, and looked through by a job."""

from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, FastAPI, Request
from pydantic import BaseModel, StringConstraints

from juglant.api import jobs
from juglant.api.inputs import Input
from juglant.api.jobs import Job, JobView
from juglant.api.studio import AtDesk, Desk, RowId
from juglant.core.errors import UserError
from juglant.core.stock.kinds import Kind
from juglant.stock.fitting import stock_at
from juglant.stock.scan import Progress, Scan
from juglant.stock.watching import Watching
from juglant.store import stock
from juglant.store.stock import Stock

router = APIRouter(prefix="/api/stock", tags=["stock"])

# What a job that looks through the folders is called among the others.
_SCAN = "scan"
# As many files that cannot be read as a page shows.
_SHOWN = 200


class FolderView(BaseModel):
    """A folder of the stock: how many of its sounds are known, how many files cannot be read."""

    id: int
    path: str
    sounds: int
    troubled: int
    watched: bool
    away: bool


class Trouble(BaseModel):
    """A file that cannot be read, and why."""

    path: str
    trouble: str


class StockView(BaseModel):
    """The folders, the first files that cannot be read, and how often each kind is there."""

    folders: list[FolderView]
    troubles: list[Trouble]
    kinds: dict[Kind, int]


class Added(Input):
    """A folder that is to be added, by its path on this machine."""

    path: Annotated[str, StringConstraints(min_length=1, max_length=4000)]


def held(desk: Desk) -> Stock:
    """The stock beside a desk's studio."""
    return stock_at(desk.studio.path)


@router.get("")
def overview(request: Request, desk: AtDesk) -> StockView:
    """The folders of the stock, and what cannot be read in them."""
    # One that was away is watched again when it is back.
    watch(request.app)
    with held(desk).reading() as db:
        folders, troubles = stock.folders(db), stock.troubled(db, _SHOWN)
        kinds = stock.kinds(db)
    return StockView(
        folders=[FolderView(**one._asdict(), away=one.away) for one in folders],
        troubles=[Trouble(path=path, trouble=trouble) for path, trouble in troubles], kinds=kinds,
    )  # fmt: skip


@router.post("/folders")
def add_folder(request: Request, desk: AtDesk, given: Added) -> JobView:
    """Add a folder, and begin to look through it."""
    path = Path(given.path.strip()).expanduser()
    if not path.is_absolute():
        raise UserError("Name the folder by its whole path, from the root.", "path")
    with held(desk).changing() as db:
        stock.add_folder(db, path)
    return look(request)


class ToWatch(Input):
    """Whether a folder is watched."""

    watched: bool


@router.put("/folders/{folder_id}", status_code=204)
def watch_folder(request: Request, desk: AtDesk, folder_id: RowId, wish: ToWatch) -> None:
    """Have a folder looked through by itself when something in it changes, or not any more."""
    with held(desk).changing() as db:
        stock.watch_folder(db, folder_id, wish.watched)
    watch(request.app)


def watch(app: FastAPI) -> None:
    """Watch the folders that are to be watched, as far as they are there."""
    desk: Desk = app.state.desk
    if not desk.studio.path.with_name(stock.STOCK_FILE).exists():
        return
    with held(desk).reading() as db:
        app.state.watching.over(stock.watched(db))


def watching(app: FastAPI) -> Watching:
    """What watches the folders of an application's stock: it has them looked through by a job."""

    def look_through() -> None:
        # What came after a scan that is running had passed is not seen by it.
        for job in app.state.jobs.everything():
            if job.sort == _SCAN:
                job.ended.wait()
        _scan(app).ended.wait()

    return Watching(look_through)


@router.delete("/folders/{folder_id}", status_code=204)
def forget_folder(request: Request, desk: AtDesk, folder_id: RowId) -> None:
    """Leave a folder out of the stock; nothing in it is touched."""
    with held(desk).changing() as db:
        stock.forget_folder(db, folder_id)
    watch(request.app)


@router.post("/scan")
def look(request: Request) -> JobView:
    """Look for what is new or was changed in the folders: a job, of which there is one at a time."""
    return jobs.view(_scan(request.app))


def _scan(app: FastAPI) -> Job:
    there = held(app.state.desk)

    def work(job: Job) -> str:
        scan = Scan(there)
        scan.stop, scan.wait = job.stop, job.wait

        def told(now: Progress) -> None:
            job.done, job.total, job.rate, job.left_s = now.done, now.total, now.rate, now.left_s

        done = scan.run(told)
        troubled = f", {done.troubled} cannot be read" if done.troubled else ""
        return f"{done.measured} of {done.done} files were measured{troubled}."

    begun: Job = app.state.jobs.start(_SCAN, "Scanning the stock", work)
    return begun
