"""The low part of a sound, at a rate that is enough for it."""

import numpy as np
from numpy.typing import NDArray
from scipy import fft

from juglant.core.process.filters import LOW_BAND_HZ, linkwitz_riley_gain

Array = NDArray[np.float64]


_SPACING_HZ, _MARGIN_S = 3000.0, 0.3


def decimated(x: Array, rate: float, *, loop: bool) -> tuple[Array, float]:
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
    x: Array, rate: float, loop: bool, band_hz: tuple[float, float] | None
) -> tuple[Array, float]:
    # What the 20 Hz edge rings is gone within the margin; a length that transforms quickly
    # matters more than one that is exactly the loop's.
    margin = round(_MARGIN_S * rate)
    size = fft.next_fast_len(x.size + 2 * margin, real=True)
    if loop:
        padded = np.take(x, np.arange(-margin, size - margin), mode="wrap")
    else:
        padded = np.concatenate([np.zeros(margin), x, np.zeros(size - margin - x.size)])
    keep = min(max(2, round(size * _SPACING_HZ / rate / 2)), size // 2 + 1)
    # Single precision keeps errors 120 dB down, and takes half the time.
    spectrum = fft.rfft(padded.astype(np.float32))[:keep].astype(np.complex128)
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
