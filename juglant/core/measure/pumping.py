"""How much of a sound's loudness a gain takes, and how far it is heard going up and down."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from juglant.core.measure import levels

Array = NDArray[np.float64]

# Common practice, from memory: a sound that goes up and down by less than the first is heard as
# steady, by more than the second as groove.
TRANSPARENT_DB, GROOVE_DB = 3.0, 10.0
_WINDOW_MS, _STEP_MS, _RINGING_S = 50.0, 5.0, 0.25
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


@dataclass(frozen=True)
class Heard:
    """K-weighted mean square of a loop, and that of every 50 ms of it, each 5 ms."""

    mean: float
    parts: Array


def heard(x: Array, rate: int) -> Heard:
    """How loud one pass of a loop, shape (frames,), is heard, on the whole and by the moment.

    Parameters
    ----------
    x, rate
        Samples, shape (frames,); frames a second.

    Returns
    -------
    Heard
        Its K-weighted power, on the whole and every 5 ms.

    Examples
    --------
    >>> x = np.sin(2 * np.pi * 100 * np.arange(96000) / 48000)
    >>> round(heard(x, 48000).mean / heard(0.5 * x, 48000).mean, 1)
    4.0
    """
    # What the weighting rings of the end before is gone within a quarter of a second.
    before = min(round(_RINGING_S * rate), x.size)
    weighted = levels.k_weighted(np.concatenate([x[x.size - before :], x]), rate)[before:]
    squares = weighted * weighted
    window, step = round(_WINDOW_MS / 1000 * rate), max(1, round(_STEP_MS / 1000 * rate))
    total = np.concatenate([[0.0], np.cumsum(np.concatenate([squares, squares[:window]]))])
    at = np.arange(0, x.size, step)
    return Heard(float(total[x.size]) / x.size, (total[at + window] - total[at]) / window)


def pumping(before: Heard, after: Heard) -> Pumping:
    """Compare one pass of a loop before and after its duckings.

    Parameters
    ----------
    before
        As it was heard.
    after
        As it is heard.

    Returns
    -------
    Pumping
        What is taken of the loudness, and how far it goes up and down.

    Examples
    --------
    >>> x = np.sin(2 * np.pi * 100 * np.arange(96000) / 48000)
    >>> round(pumping(heard(x, 48000), heard(0.5 * x, 48000)).taken_lu, 1)
    6.0
    """
    taken = 10 * float(np.log10(max(before.mean, 1e-20) / max(after.mean, 1e-20)))
    # Where nothing was heard before, nothing is ducked.
    loud = before.parts > before.parts.max() * 10 ** (-_HEARD_DB / 10)
    if not np.any(loud):
        return Pumping(taken, 0.0)
    gain = 10 * np.log10(np.maximum(after.parts[loud], 1e-20) / before.parts[loud])
    low, high = np.percentile(gain, [_LOW_PERCENT, _HIGH_PERCENT])
    return Pumping(taken, float(high - low))
