"""A recording of one's own, and the takes it was cut into."""

from typing import Literal

from pydantic import Field, model_validator

from juglant.core.recipes.fields import Recipe, control
from juglant.core.recipes.hit import AudioHash

Verdict = Literal["open", "keep", "discard"]


class CutTake(Recipe):
    """A stretch of a recording, and what is to become of it."""

    start_ms: float = Field(ge=0.0, le=60000.0)
    end_ms: float = Field(gt=0.0, le=60000.0)
    name: str = Field("", max_length=60)
    verdict: Verdict = "open"

    @model_validator(mode="after")
    def _in_order(self) -> "CutTake":
        if self.end_ms <= self.start_ms:
            raise ValueError("a take must end after it starts")
        return self


class Recording(Recipe):
    """A recording, how finely it is cut, and its takes."""

    audio: AudioHash
    name: str = Field(max_length=200)
    threshold_db: float = control(
        9.0, 3.0, 30.0, 0.5, "dB", "Threshold",
        "How far the level must rise to make a take. Lower finds soft strokes. A bass line is cut at its "
        "notes.",
        "Cut", main=True,
    )  # fmt: skip
    min_gap_ms: float = control(
        60.0, 20.0, 1000.0, 1.0, "ms", "Minimum gap",
        "Two takes lie at least this far apart. Raise it where one stroke is cut into two.",
        "Cut", scale="log", main=True,
    )  # fmt: skip
    takes: tuple[CutTake, ...] = Field((), max_length=400)
