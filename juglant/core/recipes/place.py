"""What becomes of a part's loop: the stages it passes, and where it lies."""

from typing import Annotated

from pydantic import AfterValidator

from juglant.core.recipes.chain import Chain
from juglant.core.recipes.fields import Polarity, Recipe, choice, control


def _for_a_loop(stages: Chain) -> Chain:
    for stage in stages:
        if stage.of_a_stroke:
            raise ValueError(f"{stage.stage} works on a single stroke: a loop that runs round has no start")
    return stages


LoopChain = Annotated[Chain, AfterValidator(_for_a_loop)]


class Place(Recipe):
    """Where a part lies. Delay and polarity act first, before its stages; the rest after them."""

    gain_db: float = control(
        0.0, -60.0, 24.0, 0.1, "dB", "Gain",
        "Level of the whole part. Set it with everything playing.",
        "Place", main=True, off=0.0, movable=True,
    )  # fmt: skip
    pan: float = control(
        0.0, -1.0, 1.0, 0.01, "", "Pan",
        "−1 is left, 1 is right. Leave what is below 150 Hz in the middle.",
        "Place", main=True, off=0.0, movable=True,
    )  # fmt: skip
    width: float = control(
        1.0, 0.0, 2.0, 0.01, "", "Width",
        "0 is mono, 1 as it is, 2 its sides at twice their level. Check it in mono: what gets lost there "
        "is lost in most clubs.",
        "Place", main=True, off=1.0,
    )  # fmt: skip
    mono_below_hz: float = control(
        20.0, 20.0, 500.0, 1.0, "Hz", "Mono below",
        "Both sides are alike below this. 120–150 Hz keeps the low end firm.",
        "Place", scale="log", off=20.0,
    )  # fmt: skip
    delay_ms: float = control(
        0.0, -20.0, 20.0, 0.01, "ms", "Delay",
        "Later, or earlier, than written. A few milliseconds push or lean back.",
        "Phase", off=0.0,
    )  # fmt: skip
    polarity: Polarity = choice(
        "normal", "Polarity",
        "Inverts the wave. Two parts that cancel may add up: listen for the low end growing.",
        "Phase",
    )  # fmt: skip


# A part that is heard in mono: the mean of its sides, or the louder one where they cancel.
MONO = Place(width=0.0)
