"""What makes a stereo sound wide, and what that costs in mono."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy import fft

Array = NDArray[np.float64]

# A side that is a copy of the other, later by this much, is a comb in mono.
_SHORTEST_MS, _LONGEST_MS = 0.1, 40.0
_COPY = 0.6


class SideDelay(NamedTuple):
    """One side is the other, later: by how much, and where the mono sum's first notch lies."""

    delay_ms: float
    likeness: float
    first_notch_hz: float


def side_delay(x: Array, rate: int) -> SideDelay | None:
    """Find width that is made by delay in `x`, shape (frames, 2); None where it is not.

    The first notch of a copy delayed by tau lies at 1/(2 tau) (any signals text). Both sides
    are made white first, so that a low tone, which is like itself at any delay, does not count.

    Parameters
    ----------
    x, rate
        Samples, shape (frames, 2); frames a second.

    Returns
    -------
    SideDelay or None
        None where width is not made by delay.

    Examples
    --------
    >>> noise = np.random.default_rng(1).normal(size=24000)
    >>> side_delay(np.stack([noise, np.roll(noise, 480)], axis=1), 48000) is not None
    True
    """
    if x.ndim == 1 or x.shape[1] != 2:
        return None
    size = fft.next_fast_len(2 * x.shape[0], real=True)
    left, right = (fft.rfft(side, size) for side in np.ascontiguousarray(x.T, np.float32))
    cross = left * np.conj(right)
    floor = 1e-3 * float(np.max(np.abs(cross)))
    if floor == 0.0:
        return None
    # A band far below the strongest says nothing; elsewhere only the phase counts.
    weight = np.where(np.abs(cross) > floor, 1.0, 0.0)
    r = fft.irfft(weight * cross / np.maximum(np.abs(cross), floor), size) * (
        weight.size / max(float(weight.sum()), 1.0)
    )
    reach = round(_LONGEST_MS / 1000 * rate)
    lags = np.concatenate([np.arange(reach + 1), np.arange(-reach, 0)])
    at = int(lags[np.argmax(np.abs(r[lags]))])
    likeness = float(abs(r[at]))
    delay_ms = abs(at) / rate * 1000
    if delay_ms < _SHORTEST_MS or likeness < _COPY:
        return None
    return SideDelay(delay_ms, likeness, 1000 / (2 * delay_ms))
