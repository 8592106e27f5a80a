"""What becomes of a stereo sound in mono."""

from functools import reduce
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from juglant.core.process.filters import low_band

Array = NDArray[np.float64]


def across(join: np.ufunc, x: Array) -> Array:
    """The channels of `x` joined, shape (frames,).

    Numpy's own reduction along so short an axis takes ten times as long.
    """
    return x if x.ndim == 1 else np.asarray(reduce(join, x.T))


def mono(x: Array) -> Array:
    """Mean of the channels, shape (frames,)."""
    return x if x.ndim == 1 else across(np.add, x) / x.shape[1]


def louder_side(x: Array) -> int:
    """Which channel of shape (frames, channels) has most power."""
    return int(np.argmax([float(channel @ channel) for channel in np.ascontiguousarray(x.T)]))


def listening_channel(x: Array) -> Array:
    """The channel mean, or the louder channel where the two nearly cancel each other."""
    middle = mono(x)
    if x.ndim == 1:
        return x
    loudest = np.ascontiguousarray(x[:, louder_side(x)])
    if float(middle @ middle) < 0.02 * float(loudest @ loudest):
        return loudest
    return middle


class Stereo(NamedTuple):
    """Correlation and losses; 1 and 0 for identical channels, None for mono or silence."""

    correlation: float | None
    mono_loss_db: float | None
    low_mono_loss_db: float | None


def _loss_db(left: Array, right: Array) -> float | None:
    both = float(np.mean(left * left) + np.mean(right * right)) / 2
    if both <= 0:
        return None
    middle = 0.5 * (left + right)
    return 10 * float(np.log10(max(float(np.mean(middle * middle)) / both, 1e-12)))


def stereo(x: Array, rate: int) -> Stereo:
    """Left-right correlation and mono loss, overall and in the low band (20-150 Hz)."""
    if x.ndim == 1 or x.shape[1] != 2:
        return Stereo(None, None, None)
    left, right = x[:, 0], x[:, 1]
    norm = float(np.sqrt(np.sum(left * left) * np.sum(right * right)))
    lows = [low_band(np.ascontiguousarray(side), rate, loop=False)[0] for side in (left, right)]
    return Stereo(
        float(np.sum(left * right)) / norm if norm > 0 else None,
        _loss_db(left, right),
        _loss_db(lows[0], lows[1]),
    )
