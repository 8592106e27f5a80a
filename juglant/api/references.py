"""References: records that a track is held against. They are measured and played, never handed over."""

import json
from dataclasses import asdict
from pathlib import Path
from typing import Annotated

import numpy as np
from fastapi import APIRouter, Query, Request
from pydantic import BaseModel, Field

from juglant.api import jobs
from juglant.api.compare import EqualGains, equal_gains
from juglant.api.hits import shown_name
from juglant.api.inputs import Input
from juglant.api.media import FILE_BODY, Samples
from juglant.api.studio import AtDesk, Desk, RowId, put_audio
from juglant.api.uploads import Name, to_disk
from juglant.core import RATE
from juglant.core.comparing import loudness_lufs
from juglant.core.findings import Effect, Finding
from juglant.core.measure.levels import integrated_lufs
from juglant.core.measure.record import Record, record
from juglant.core.measure.stereo import both_sides
from juglant.core.process.resampling import change_rate
from juglant.core.recipes.track import TrackState
from juglant.core.referencing.against import against, as_finding, nearer, track_record
from juglant.core.referencing.passages import loop_of
from juglant.files.audio import Audio, encode_wav24
from juglant.files.passage import LONGEST_S, passage
from juglant.store import references, tracks

router = APIRouter(prefix="/api/references", tags=["references"])

# Reading, measuring, keeping.
_STEPS = 3
_Ids = Annotated[list[RowId], Field(min_length=1, max_length=references.MOST_REFERENCES)]


class ReferenceView(BaseModel):
    """A record's passage: where in it, its loop in frames and beats, and what was measured."""

    id: int
    name: str
    from_s: float
    whole_s: float
    frames: int
    beats: int
    loop_lufs: float
    record: Record


def _view(stored: references.StoredReference) -> ReferenceView:
    return ReferenceView(id=stored.id, name=stored.name, **json.loads(stored.numbers))


def _measured(desk: Desk, track_id: int, name: str, path: Path, from_s: float | None, job: jobs.Job) -> str:
    found = passage(path, name, from_s)
    job.done = 1
    x = change_rate(found.audio.samples, found.audio.rate, RATE)
    told = record(x, RATE)
    job.done = 2
    if job.stop.is_set():
        return "It was stopped: nothing was kept."
    start, frames, beats = loop_of(x, RATE, told)
    loop = x[start : start + frames]
    # As it is kept, it is measured: what a passage peaks above full scale is turned down.
    peak = float(np.max(np.abs(loop)))
    loop = loop / peak if peak > 1.0 else loop
    numbers = {
        "from_s": found.from_s + start / RATE, "whole_s": found.whole_s, "frames": loop.shape[0],
        "beats": beats, "loop_lufs": integrated_lufs(both_sides(loop), RATE), "record": asdict(told),
    }  # fmt: skip
    data = encode_wav24(loop, RATE)
    with desk.studio.changing() as db:
        digest = put_audio(db, data, f"{name}.wav", Audio(loop, RATE, "WAV")).hash
        references.keep(db, track_id, name.rsplit(".", 1)[0][:120] or name, digest, json.dumps(numbers))
    job.done = _STEPS
    return f"{name} is a reference now."


@router.post("", status_code=201, openapi_extra=FILE_BODY)
async def bring_in(
    desk: AtDesk,
    request: Request,
    track: RowId,
    name: Name,
    from_s: Annotated[float | None, Query(ge=0.0, le=LONGEST_S)] = None,
) -> jobs.JobView:
    """Begin to measure a record, of up to 15 minutes: half a minute from a time on, or its fullest, is kept
    to be played.
    """
    with desk.studio.reading() as db:
        tracks.get(db, track)
    shown = shown_name(name)
    path = await to_disk(request, shown)

    def work(job: jobs.Job) -> str:
        job.total = _STEPS
        try:
            return _measured(desk, track, shown, path, from_s, job)
        finally:
            path.unlink(missing_ok=True)

    return jobs.view(jobs.jobs_of(request).start(f"reference {path.name}", f"Measuring {shown}", work))


@router.get("")
def list_references(desk: AtDesk, track: RowId) -> list[ReferenceView]:
    """A track's references."""
    with desk.studio.reading() as db:
        return [_view(one) for one in references.of_track(db, track)]


@router.delete("/{reference_id}", status_code=204)
def drop_reference(desk: AtDesk, reference_id: RowId) -> None:
    """Take a reference away from a track."""
    with desk.studio.changing() as db:
        references.drop(db, reference_id)


@router.get("/{reference_id}/sound", response_class=Samples)
def reference_sound(desk: AtDesk, reference_id: RowId) -> Samples:
    """The loop of a reference: its channels one after another, as little-endian float32."""
    with desk.studio.reading() as db:
        stored = references.get(db, reference_id)
    x = desk.session.sounds.hits.audio(stored.audio)
    data = np.ascontiguousarray(x.T, "<f4").tobytes()
    head = {"X-Channels": str(x.ndim), "Cache-Control": "private, max-age=86400"}
    return Samples(data, headers=head)


@router.post("/{reference_id}/match")
def match_reference(desk: AtDesk, reference_id: RowId, state: TrackState) -> EqualGains:
    """What makes a state and a reference equally loud."""
    with desk.studio.reading() as db:
        loud = _view(references.get(db, reference_id)).loop_lufs
    return equal_gains(loudness_lufs(desk.session, state), loud)


class AgainstQuestion(Input):
    """A state, and the references that it is held against."""

    state: TrackState
    references: _Ids


class AgainstView(BaseModel):
    """The track measured as a record is, and what is different, the largest first."""

    track: Record
    differences: list[Finding]


def _records(desk: Desk, ids: list[int]) -> list[Record]:
    with desk.studio.reading() as db:
        return [_view(references.get(db, id)).record for id in ids]


@router.post("/against")
def held_against(desk: AtDesk, question: AgainstQuestion) -> AgainstView:
    """A track against one reference, or against the range of several."""
    mine = track_record(desk.session, question.state)
    found = against(mine, _records(desk, question.references))
    return AgainstView(track=mine, differences=[as_finding(one) for one in found])


class NearerQuestion(AgainstQuestion):
    """Which difference is to be smaller."""

    name: Annotated[str, Field(max_length=40)]


@router.post("/nearer")
def try_nearer(desk: AtDesk, question: NearerQuestion) -> Effect:
    """A state that is nearer to the references in one number, tried and measured; nothing is saved."""
    records = _records(desk, question.references)
    with desk.one_trial:
        return nearer(desk.trials, question.state, records, question.name)
