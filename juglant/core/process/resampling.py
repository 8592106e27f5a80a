"""Changing the rate, and with it the pitch."""

# mypy: disable-error-code="no-untyped-def"

from functools import cache

import numba as nb
import numpy as np
import soxr
from numpy.typing import NDArray

Array = NDArray[np.float64]


@cache
def _phases(up: int, down: int) -> Array:
    """Taps of each output phase in the order of the input, shape (up, taps).

    A sinc under a Kaiser window of beta 5, ten zeros to either side.
    """
    factor = max(up, down)
    at = np.arange(-10 * factor, 10 * factor + 1)
    whole = np.sinc(at / factor) * np.kaiser(at.size, 5.0)
    whole *= up / whole.sum()
    taps = np.zeros((-(-whole.size // up), up))
    taps.flat[: whole.size] = whole
    return np.ascontiguousarray(taps[::-1].T)


@nb.njit(
    "(float64[::1], float64[:, ::1], int64, int64, int64, float64[::1])",
    cache=True,
    fastmath=True,
    nogil=True,
)
def _resampled(padded, phases, up, down, half, out):
    taps = phases.shape[1]
    for k in range(out.size):
        at = k * down + half
        under = padded[at // up : at // up + taps]
        phase = phases[at % up]
        total = 0.0
        for j in range(taps):
            total += phase[j] * under[j]
        out[k] = total


def polyphase(x: Array, up: int, down: int) -> Array:
    """Rate of `x`, shape (frames,) or (frames, channels), changed by a ratio of small whole
    numbers, without shift in time.

    The same as scipy's `resample_poly`, without waiting for the whole of that package to load.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels).
    up
        The rate is raised by this,
    down
        and lowered by this.

    Returns
    -------
    ndarray
        At `up / down` times the rate.

    Examples
    --------
    >>> polyphase(np.ones(300), 1, 3).shape
    (100,)
    """
    if up == down:
        return x
    if x.ndim == 2:
        return np.stack([polyphase(channel, up, down) for channel in x.T], axis=1)
    phases = _phases(up, down)
    before = phases.shape[1] - 1
    out = np.empty(-(-x.size * up // down))
    _resampled(np.pad(x, (before, before + 1)), phases, up, down, 10 * max(up, down), out)
    return out


def change_rate(x: Array, from_hz: float, to_hz: float) -> Array:
    """`x`, shape (frames,) or (frames, channels), at another sampling rate.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels).
    from_hz
        The rate of `x`.
    to_hz
        The new one.

    Returns
    -------
    ndarray
        With the channels of `x`.

    Examples
    --------
    >>> change_rate(np.ones(44100), 44100, 48000).size
    48000
    """
    if from_hz == to_hz:
        return x
    return np.asarray(soxr.resample(x, from_hz, to_hz, quality="VHQ"), dtype=np.float64)


def shift_pitch(x: Array, semitones: float) -> Array:
    """Resampled so that it sounds higher by `semitones` and lasts as much shorter.

    The ratio is exact: soxr takes the two rates as real numbers.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels).
    semitones
        By how many.

    Returns
    -------
    ndarray
        With the channels of `x`.

    Examples
    --------
    >>> shift_pitch(np.ones(4800), 12.0).size
    2400
    """
    if semitones == 0.0:
        return x
    return change_rate(x, 2.0 ** (semitones / 12.0), 1.0)
