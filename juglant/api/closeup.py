"""A stretch of the loop, or of a hit, looked at from near: down to one cycle of the wave."""

from typing import Annotated, Self

import numpy as np
from fastapi import APIRouter
from numpy.typing import NDArray
from pydantic import BaseModel, Field, model_validator

from juglant.api.hits import HitQuestion
from juglant.api.inputs import Input
from juglant.api.studio import AtDesk
from juglant.api.views import Cut, Span, cuts, floored, plain, spans
from juglant.core import RATE
from juglant.core.errors import UserError
from juglant.core.measure.closeup import extremes
from juglant.core.measure.stereo import listening_channel
from juglant.core.recipes.track import TrackState

Array = NDArray[np.float64]

router = APIRouter(prefix="/api/closeup", tags=["closeup"])

# What a wide screen has room for.
_COLUMNS = 1200


class Stretch(Input):
    """From when to when, in ms from the start."""

    from_ms: Annotated[float, Field(ge=0.0, le=400_000.0)]
    to_ms: Annotated[float, Field(gt=0.0, le=400_000.0)]

    @model_validator(mode="after")
    def _in_order(self) -> Self:
        if self.to_ms <= self.from_ms:
            raise ValueError("a stretch must end after it starts")
        return self


class WaveShape(BaseModel):
    """The lowest and the highest sample of every column."""

    low: list[float]
    high: list[float]


class LoopQuestion(Stretch):
    """A state, and the stretch of its loop."""

    state: TrackState


class LoopCloseup(BaseModel):
    """Levels of the low band in dB, the ducking's gain and the waves of a stretch of the loop: every list
    covers it evenly. What collides or is choked is in ms from the start of the loop.
    """

    from_ms: float
    to_ms: float
    kick_db: list[float]
    bass_db: list[float]
    ducked_db: list[float]
    gain_db: list[float]
    collisions_after: list[Span]
    cuts: list[Cut]
    kick_wave: WaveShape
    ducked_wave: WaveShape


class HitCloseup(BaseModel):
    """A hit's wave over a stretch that ends where the hit does."""

    from_ms: float
    to_ms: float
    wave: WaveShape


class HitCloseupQuestion(HitQuestion, Stretch):
    """A hit, and the stretch of it."""


def _wave(x: Array, from_ms: float, to_ms: float) -> WaveShape:
    first, last = (round(ms / 1000 * RATE) for ms in (from_ms, to_ms))
    low, high = extremes(listening_channel(x)[first : max(last, first + 1)], _COLUMNS)
    return WaveShape(low=plain(low, 4), high=plain(high, 4))


@router.post("/loop")
def loop_closeup(desk: AtDesk, question: LoopQuestion) -> LoopCloseup:
    """A stretch of the loop. UserError where it lies behind its end."""
    answer = desk.session.answer(question.state)
    start, end = question.from_ms, min(question.to_ms, answer.length_ms)
    if start >= end:
        raise UserError(f"The loop is {answer.length_ms:.0f} ms long: nothing is there.", "from_ms")
    part = slice(int(start), max(round(end), int(start) + 2))

    def levels(level_db: Array) -> list[float]:
        return plain(extremes(floored(level_db[part]), _COLUMNS)[1], 1)

    frames = slice(round(start / 1000 * RATE), round(end / 1000 * RATE))
    return LoopCloseup(
        from_ms=start, to_ms=end,
        kick_db=levels(answer.kick_loop.level.level_db),
        bass_db=levels(answer.bass_loop.level.level_db),
        ducked_db=levels(answer.ducked_loop.level.level_db),
        gain_db=plain(extremes(answer.gain_db[frames], _COLUMNS)[0], 2),
        collisions_after=[
            Span(from_ms=span.from_ms + part.start, to_ms=span.to_ms + part.start)
            for span in spans(answer.collisions_after[part])
        ],
        cuts=[
            one.model_copy(update={"at_ms": one.at_ms + start})
            for one in cuts(desk.session, answer, start, end)
        ],
        kick_wave=_wave(answer.kick_loop.samples, start, end),
        ducked_wave=_wave(answer.ducked_loop.samples, start, end),
    )  # fmt: skip


@router.post("/hit")
def hit_closeup(desk: AtDesk, question: HitCloseupQuestion) -> HitCloseup:
    """A stretch of a hit's wave. UserError where it lies behind its end."""
    x = desk.session.sounds.hits.hit(question.hit, question.brief.bpm)
    start, end = question.from_ms, min(question.to_ms, x.shape[0] / RATE * 1000)
    if start >= end:
        raise UserError(f"{question.hit.name} is over by then.", "from_ms")
    return HitCloseup(from_ms=start, to_ms=end, wave=_wave(x, start, end))
