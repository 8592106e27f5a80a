"""Takes: a recording cut into hits."""

from typing import Annotated

import numpy as np
from fastapi import APIRouter, Response
from pydantic import BaseModel, Field

from juglant.api.hits import ImportedAudio, import_bytes
from juglant.api.inputs import Input
from juglant.api.studio import AtDesk, as_json
from juglant.core import RATE
from juglant.core.measure import takenumbers, takes
from juglant.core.measure.stereo import mono
from juglant.core.measure.takenumbers import TakeNumbers
from juglant.core.measure.takes import Cut
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.hit import AudioHash
from juglant.core.recipes.recording import Recording
from juglant.demo.workshop import workshop_recording
from juglant.files.audio import encode_wav24

router = APIRouter(prefix="/api/takes", tags=["hits"])

Ms = Annotated[float, Field(ge=0.0, le=60000.0)]


class CutQuestion(Input):
    """A recording, which says how finely it is to be cut."""

    recording: Recording
    brief: Brief


class MeasureQuestion(Input):
    """A take whose ends were moved: both are drawn to the nearest zero crossing before them."""

    audio: AudioHash
    brief: Brief
    start_ms: Ms
    end_ms: Ms


class WaveQuestion(Input):
    """A stretch of a recording, and how many columns it is drawn in."""

    audio: AudioHash
    from_ms: Ms = 0.0
    to_ms: Ms = 60000.0
    columns: Annotated[int, Field(ge=16, le=2000)] = 600


class Wave(BaseModel):
    """Lowest and highest sample of every column."""

    from_ms: float
    to_ms: float
    length_ms: float
    lows: list[float]
    highs: list[float]


class GroupQuestion(Input):
    """Peak levels of takes of one sound."""

    levels_dbfs: Annotated[
        list[Annotated[float, Field(ge=-400.0, le=100.0)]], Field(min_length=1, max_length=64)
    ]


class VelocityGroup(BaseModel):
    """Takes of about one velocity, and up to which stroke they play."""

    takes: list[int]
    up_to: float


@router.post("/workshop", status_code=201)
def workshop(desk: AtDesk) -> ImportedAudio:
    """The simulated recording that stands in for a microphone, stored as any other file."""
    data = encode_wav24(workshop_recording(), RATE)
    return import_bytes(desk, data, "simulated workshop.wav")


@router.post("/cut")
def cut(desk: AtDesk, question: CutQuestion) -> list[TakeNumbers]:
    """Cut a recording and measure every take."""
    recording, brief = question.recording, question.brief
    x = desk.session.sounds.hits.audio(recording.audio)
    return [
        takenumbers.take_numbers(x, RATE, where, brief.a4_hz, brief.key.flats)
        for where in takes.cut(x, RATE, recording.threshold_db, recording.min_gap_ms)
    ]


@router.post("/measure")
def measure_take(desk: AtDesk, question: MeasureQuestion) -> TakeNumbers:
    """Measure one take, its ends at zero crossings."""
    x = desk.session.sounds.hits.audio(question.audio)
    heard, brief = mono(x), question.brief
    least, reach = round(0.005 * RATE), round(0.003 * RATE)
    start = min(round(question.start_ms / 1000 * RATE), heard.size - least - 1)
    end = min(max(round(question.end_ms / 1000 * RATE), start + least), heard.size)
    start, end = (takes.zero_before(heard, min(at, heard.size - 1), reach) for at in (start, end))
    where = Cut(start / RATE * 1000, start / RATE * 1000, max(end, start + least) / RATE * 1000)
    return takenumbers.take_numbers(x, RATE, where, brief.a4_hz, brief.key.flats)


@router.post("/wave", response_model=Wave)
def wave(desk: AtDesk, question: WaveQuestion) -> Response:
    """The outline of a stretch of a recording."""
    x = mono(desk.session.sounds.hits.audio(question.audio))
    length = x.size / RATE * 1000
    to_ms = min(question.to_ms, length)
    from_ms = min(question.from_ms, max(to_ms - 1.0, 0.0))
    a, b = round(from_ms / 1000 * RATE), max(round(to_ms / 1000 * RATE), round(from_ms / 1000 * RATE) + 16)
    edges = np.linspace(a, min(b, x.size), question.columns + 1).astype(int)[:-1]
    piece = x[a : min(b, x.size)]
    starts = np.minimum(edges - a, piece.size - 1)
    return as_json(
        Wave(
            from_ms=from_ms, to_ms=to_ms, length_ms=length,
            lows=np.round(np.minimum.reduceat(piece, starts), 4).tolist(),
            highs=np.round(np.maximum.reduceat(piece, starts), 4).tolist(),
        )
    )  # fmt: skip


@router.post("/groups")
def groups(question: GroupQuestion) -> list[VelocityGroup]:
    """Which takes are round robins of each other, and which are softer strokes."""
    found = takenumbers.velocity_groups(question.levels_dbfs)
    reach = takenumbers.reaches(found, question.levels_dbfs)
    return [VelocityGroup(takes=group, up_to=up_to) for group, up_to in zip(found, reach, strict=True)]
