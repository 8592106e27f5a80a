"""Hand over: the files that leave."""

import shutil
import tempfile
import weakref
from pathlib import Path
from urllib.parse import quote

from fastapi import APIRouter, Request
from fastapi.responses import FileResponse
from pydantic import BaseModel

from juglant.api import jobs
from juglant.api.media import Zip
from juglant.api.studio import AtDesk, Desk, RowId, read_track
from juglant.core.errors import UserError
from juglant.core.kept import sound_key
from juglant.core.recipes.hit import PartId
from juglant.core.recipes.sections import Track
from juglant.files.arranged import write_arranged
from juglant.files.handed import called, section_files, track_files
from juglant.files.handover import zipped
from juglant.files.kit import kit_files, kit_parts
from juglant.files.names import plain_name
from juglant.store import tracks, versions

router = APIRouter(prefix="/api/tracks/{track_id}", tags=["handover"])


class HandoverFile(BaseModel):
    """One file of the ZIP."""

    name: str
    bytes: int


class Handover(BaseModel):
    """What the ZIP holds, and the text of its track sheet."""

    files: list[HandoverFile]
    sheet: str


def _track(desk: Desk, track_id: RowId) -> tuple[str, Track]:
    with desk.studio.reading() as db:
        stored = tracks.get(db, track_id)
    return stored.name, read_track(stored.body)


def named_version(desk: Desk, track_id: int, track: Track) -> int | None:
    """The latest kept version, where a track is just that; None where it is another one."""
    with desk.studio.reading() as db:
        latest = versions.of_track(db, track_id, 2**63 - 1, 1)
    try:
        return latest[0].id if latest and read_track(latest[0].body) == track else None
    except UserError:
        return None


def with_version(files: dict[str, bytes], version: int | None) -> dict[str, bytes]:
    """`files`, with the number of the kept version at the end of every track sheet."""
    if version is None:
        return files
    line = f"\nVersion {version} in the log\n".encode()
    return {name: data + line if name.endswith("_sheet.txt") else data for name, data in files.items()}


@router.get("/handover")
def handover(desk: AtDesk, track_id: RowId, section: PartId | None = None) -> Handover:
    """The files of a section as they would be handed over now, from the saved state."""
    name, track = _track(desk, track_id)
    at = track.section(section or track.main)
    files = section_files(desk.session, called(name, track, at), track.at(at.id))
    sheet = next(data for name, data in files.items() if name.endswith("_sheet.txt"))
    return Handover(
        files=[HandoverFile(name=name, bytes=len(data)) for name, data in files.items()],
        sheet=sheet.decode("utf-8"),
    )


class _Written:
    """A file in a folder that goes when nobody needs it any more."""

    def __init__(self, name: str) -> None:
        folder = tempfile.mkdtemp(prefix="juglant-arrangement-")
        self.path = Path(folder) / name
        weakref.finalize(self, shutil.rmtree, folder, ignore_errors=True)


@router.post("/arrangement")
def begin_arrangement(desk: AtDesk, request: Request, track_id: RowId) -> jobs.JobView:
    """Begin to play the whole arrangement straight through into a ZIP."""
    name, track = _track(desk, track_id)
    if not track.arrangement:
        raise UserError("Nothing is arranged yet: put sections in order in the Brief.", "arrangement")

    def work(job: jobs.Job) -> str:
        job.total, out = 100, _Written(f"{plain_name(name)}_arrangement.zip")
        write_arranged(desk.session, name, track, out.path, lambda share: job.reached(round(100 * share)))
        job.result = out
        return f"{name} was played straight through."

    sort = f"arrangement {track_id} {sound_key(name, track)[:12]}"
    return jobs.view(jobs.jobs_of(request).start(sort, f"Playing {name} straight through", work))


@router.get("/arrangement/{job_id}", response_class=Zip)
def arrangement_zip(request: Request, track_id: RowId, job_id: jobs.JobId) -> FileResponse:
    """The ZIP that the arrangement was played into."""
    out = jobs.result_of(request, job_id, _Written).path
    return FileResponse(out, media_type="application/zip", filename=out.name)


@router.get("/kit.zip", response_class=Zip)
def kit_zip(desk: AtDesk, track_id: RowId, section: PartId | None = None) -> Zip:
    """The hits of a section as a kit, its 808s and lines as instruments."""
    name, track = _track(desk, track_id)
    at = track.section(section or track.main)
    state = track.at(at.id)
    files = kit_files(desk.session, name, state, kit_parts(state))
    shown = plain_name(called(name, track, at))
    head = {"Content-Disposition": f"attachment; filename*=utf-8''{quote(shown)}_kit.zip"}
    return Zip(zipped(files), headers=head)


@router.get("/handover.zip", response_class=Zip)
def handover_zip(desk: AtDesk, track_id: RowId, section: PartId | None = None) -> Zip:
    """A section as one ZIP, or all of them, each in a folder of its own."""
    name, track = _track(desk, track_id)
    wanted = [track.section(section)] if section else list(track.sections)
    files = track_files(desk.session, name, track, wanted)
    files = with_version(files, named_version(desk, track_id, track))
    shown = called(name, track, wanted[0]) if len(wanted) == 1 else name
    head = {"Content-Disposition": f"attachment; filename*=utf-8''{quote(plain_name(shown))}.zip"}
    return Zip(zipped(files), headers=head)
