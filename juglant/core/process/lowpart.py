"""The low part of a sound, at a rate that is enough for it."""

from functools import cache

import numba as nb
import numpy as np
from numpy.typing import NDArray
from scipy import fft

from juglant.core.process.filters import LOW_BAND_HZ, linkwitz_riley_gain

Array = NDArray[np.float64]


_SPACING_HZ, _MARGIN_S = 3000.0, 0.3
# From this rate on every fourth frame is transformed: what would fold onto the low part lies 118 dB down.
_EVERY, _REACH, _LEAST_RATE = 4, 21, 40000


@cache
def _smooth() -> NDArray[np.float32]:
    """Weights that keep what lies below 1.5 kHz, of 48 a second, within 0.0001 dB."""
    at = np.arange(-_REACH, _REACH + 1)
    weights = np.sinc(at / _EVERY) * np.kaiser(at.size, 12.3)
    return np.asarray(weights / weights.sum(), np.float32)


@nb.njit((nb.float32[::1], nb.float32[::1]), cache=True, fastmath=True, nogil=True)
def _fourth(x, weights):  # type: ignore[no-untyped-def]
    """Every fourth frame of what goes round, shape (frames,), a multiple of four, through the weights."""
    reach = weights.size // 2
    around = np.concatenate((x[x.size - reach :], x, x[: reach + 1]))
    out = np.empty(x.size // _EVERY, np.float32)
    for i in range(out.size):
        total = np.float32(0.0)
        for k in range(weights.size):
            total += weights[k] * around[_EVERY * i + k]
        out[i] = total
    return out


def decimated(x: Array | NDArray[np.float32], rate: float, *, loop: bool) -> tuple[Array, float]:
    """What `x`, shape (frames,), holds below 1.5 kHz, at about 3 kHz, without shift in time.

    `loop` says that the end is followed by the start again; otherwise silence follows.
    Returns the samples and their exact rate in Hz.

    Parameters
    ----------
    x, rate
        Samples, shape (frames,); frames a second.
    loop
        Whether the end is followed by the start.

    Returns
    -------
    tuple of ndarray and float
        Samples, and their rate in Hz.

    Examples
    --------
    >>> decimated(np.ones(48000), 48000, loop=True)[1]
    2998.75
    """
    return _kept_low(x, rate, loop, None)


def low_band(x: Array, rate: float, *, loop: bool) -> tuple[Array, float]:
    """The low band, 20-150 Hz, of `x` of shape (frames,), without any shift in time.

    `loop` as in `decimated`; returns the band at about 3 kHz, where it is all that there is,
    and that rate in Hz.

    Parameters
    ----------
    x, rate
        Samples, shape (frames,); frames a second.
    loop
        Whether the end is followed by the start.

    Returns
    -------
    tuple of ndarray and float
        Samples, and their rate in Hz.

    Examples
    --------
    >>> x = np.sin(2 * np.pi * 1000 * np.arange(48000) / 48000)
    >>> bool(np.max(np.abs(low_band(x, 48000, loop=True)[0])) < 1e-3)
    True
    """
    return _kept_low(x, rate, loop, LOW_BAND_HZ)


def _kept_low(
    x: Array | NDArray[np.float32], rate: float, loop: bool, band_hz: tuple[float, float] | None
) -> tuple[Array, float]:
    # What the 20 Hz edge rings is gone within the margin; a length that transforms quickly
    # matters more than one that is exactly the loop's.
    margin = round(_MARGIN_S * rate)
    size = fft.next_fast_len(x.size + 2 * margin, real=True)
    behind = size - margin - x.size
    # Single precision keeps errors 120 dB down, and takes half the time.
    padded = np.zeros(size, np.float32)
    padded[margin : margin + x.size] = x
    if loop and max(margin, behind) <= x.size:
        padded[:margin], padded[size - behind :] = x[x.size - margin :], x[:behind]
    elif loop:
        padded[:] = np.take(x, np.arange(-margin, size - margin), mode="wrap")
    keep = min(max(2, round(size * _SPACING_HZ / rate / 2)), size // 2 + 1)
    if size % _EVERY == 0 and rate >= _LEAST_RATE:
        spectrum = _EVERY * fft.rfft(_fourth(padded, _smooth()))[:keep].astype(np.complex128)
    else:
        spectrum = fft.rfft(padded)[:keep].astype(np.complex128)
    if band_hz is not None:
        hz = np.arange(keep) * rate / size
        spectrum *= linkwitz_riley_gain(hz, band_hz[1])[0] * linkwitz_riley_gain(hz, band_hz[0])[1]
    count = 2 * (keep - 1)
    # Turned by the part of a sample that is left, the first kept one is the sound's first.
    first = margin * count / size
    part = first - round(first)
    spectrum *= np.exp(2j * np.pi * np.arange(keep) * (part / count))
    slow = fft.irfft(spectrum, count) * (count / size)
    kept = slice(round(first), round(first) + round(x.size * count / size))
    return np.asarray(slow[kept]), rate * count / size


def band(x: Array, low_hz: float, high_hz: float, rate: int) -> Array:
    """What `x`, shape (frames,), holds between two corners, without any shift in time.

    Linkwitz-Riley magnitudes at both corners; one at 20 Hz or 20 kHz is none.

    Parameters
    ----------
    x
        Samples.
    low_hz
        Lower corner.
    high_hz, rate
        Upper corner; frames a second.

    Returns
    -------
    ndarray
        As `x`.

    Examples
    --------
    >>> at = np.arange(48000) / 48000
    >>> x = np.sin(2 * np.pi * 60.0 * at)
    >>> bool(np.std(band(x, 400.0, 2000.0, 48000)) < 0.01 * np.std(x))
    True
    """
    # What a corner rings is gone after some cycles of it.
    margin_s = min(2 * _MARGIN_S, 12 / max(low_hz, 20.0))
    size = fft.next_fast_len(x.size + round(margin_s * rate), real=True)
    spectrum = fft.rfft(x, size)
    hz = np.arange(spectrum.size) * rate / size
    if low_hz > 20.0:
        spectrum *= linkwitz_riley_gain(hz, low_hz)[1]
    if high_hz < 20000.0:
        spectrum *= linkwitz_riley_gain(hz, high_hz)[0]
    return np.asarray(fft.irfft(spectrum, size)[: x.size])
