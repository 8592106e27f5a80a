"""What becomes of a part's loop: the stages it passes, and where it lies."""

from typing import Annotated, Literal

from pydantic import AfterValidator

from juglant.core.recipes.chain import Chain
from juglant.core.recipes.fields import Recipe, choice, control


def _for_a_loop(stages: Chain) -> Chain:
    for stage in stages:
        if stage.of_a_stroke:
            raise ValueError(f"{stage.stage} works on a single stroke: a loop that runs round has no start")
    return stages


LoopChain = Annotated[Chain, AfterValidator(_for_a_loop)]


class Place(Recipe):
    """Where a part lies. Delay and polarity act first, before its stages; the rest after them."""

    gain_db: float = control(
        0.0, -60.0, 24.0, 0.1, "dB", "Gain", "Of the whole part.", "Place", main=True, off=0.0, movable=True
    )
    pan: float = control(
        0.0, -1.0, 1.0, 0.01, "", "Pan", "−1 left, 1 right.", "Place", main=True, off=0.0, movable=True
    )
    width: float = control(
        1.0, 0.0, 2.0, 0.01, "", "Width", "0 mono, 1 as wide as it is, 2 its sides at twice their level.",
        "Place", main=True, off=1.0,
    )  # fmt: skip
    mono_below_hz: float = control(
        20.0, 20.0, 500.0, 1.0, "Hz", "Mono below", "Both sides alike below it.", "Place", scale="log",
        off=20.0,
    )  # fmt: skip
    delay_ms: float = control(
        0.0, -20.0, 20.0, 0.01, "ms", "Delay", "Later, or earlier, than it is played.", "Phase", off=0.0
    )
    polarity: Literal["normal", "inverted"] = choice(
        "normal", "Polarity", "Inverts the wave: two sounds that cancel may add up.", "Phase"
    )


# A part that is heard in mono: the mean of its sides, or the louder one where they cancel.
MONO = Place(width=0.0)
