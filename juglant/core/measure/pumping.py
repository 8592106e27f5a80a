"""How much of a sound's loudness a gain takes, and how far it is heard going up and down."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from juglant.core.measure import levels
from juglant.core.process import filters

Array = NDArray[np.float64]

# Common practice, from memory: a sound that goes up and down by less than the first is heard as
# steady, by more than the second as groove.
TRANSPARENT_DB, GROOVE_DB = 3.0, 10.0
_WINDOW_MS, _STEP_MS = 50.0, 5.0
# A moment this far below the loudest says nothing of a gain.
_HEARD_DB = 30.0
# All but the extremes: of a gain that comes and goes, its bottom and its top.
_LOW_PERCENT, _HIGH_PERCENT = 2.0, 98.0


@dataclass(frozen=True)
class Pumping:
    """`taken_lu`: K-weighted level before minus after, over the loop. `depth_db`: how far the gain that
    is heard in 50 ms goes down and up, 0 where there is none.
    """

    taken_lu: float
    depth_db: float


def _power(x: Array, rate: int) -> tuple[float, Array]:
    """K-weighted mean square of a loop, and that of every 50 ms, each 5 ms."""
    weighted = filters.around_loop(x, levels.k_weighting(rate))
    squares = weighted * weighted
    window, step = round(_WINDOW_MS / 1000 * rate), max(1, round(_STEP_MS / 1000 * rate))
    total = np.concatenate([[0.0], np.cumsum(np.concatenate([squares, squares[:window]]))])
    at = np.arange(0, x.size, step)
    return float(squares.mean()), (total[at + window] - total[at]) / window


def pumping(before: Array, after: Array, rate: int) -> Pumping:
    """Compare one pass of a loop, shape (frames,), before and after its duckings."""
    whole, parts = zip(*(_power(x, rate) for x in (before, after)), strict=True)
    taken = 10 * float(np.log10(max(whole[0], 1e-20) / max(whole[1], 1e-20)))
    # Both must be long enough there to say anything: silence before is no ducking.
    heard = parts[0] > parts[0].max() * 10 ** (-_HEARD_DB / 10)
    if not np.any(heard):
        return Pumping(taken, 0.0)
    gain = 10 * np.log10(np.maximum(parts[1][heard], 1e-20) / parts[0][heard])
    low, high = np.percentile(gain, [_LOW_PERCENT, _HIGH_PERCENT])
    return Pumping(taken, float(high - low))
