"""Changing the rate, and with it the pitch."""

from functools import cache

import numpy as np
import soxr
from numpy.typing import NDArray
from scipy import signal

Array = NDArray[np.float64]


@cache
def _lowpass(up: int, down: int) -> Array:
    factor = max(up, down)
    return np.asarray(signal.firwin(20 * factor + 1, 1 / factor, window=("kaiser", 5.0)))


def polyphase(x: Array, up: int, down: int, axis: int = 0) -> Array:
    """Rate changed by a ratio of small whole numbers, without shift in time.

    As `scipy.signal.resample_poly`, with the filter designed only once.
    """
    if up == down:
        return x
    return np.asarray(signal.resample_poly(x, up, down, axis=axis, window=_lowpass(up, down)))


def change_rate(x: Array, from_hz: float, to_hz: float) -> Array:
    """`x`, shape (frames,) or (frames, channels), at another sampling rate."""
    if from_hz == to_hz:
        return x
    return np.asarray(soxr.resample(x, from_hz, to_hz, quality="VHQ"), dtype=np.float64)


def shift_pitch(x: Array, semitones: float) -> Array:
    """Resampled so that it sounds higher by `semitones` and lasts as much shorter.

    The ratio is exact: soxr takes the two rates as real numbers.
    """
    if semitones == 0.0:
        return x
    return change_rate(x, 2.0 ** (semitones / 12.0), 1.0)
