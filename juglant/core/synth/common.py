"""What several kinds of hits are made with: noise, short bursts, a clean end."""

import numpy as np
from numpy.typing import NDArray

from juglant.core.process import filters
from juglant.core.synth import envelopes

Array = NDArray[np.float64]

_FADE_S = 0.005


def seconds(frames: int, rate: int) -> Array:
    """Time of every frame.

    Parameters
    ----------
    frames, rate
        How many; frames a second.

    Returns
    -------
    ndarray
        Seconds.

    Examples
    --------
    >>> seconds(3, 2)
    array([0. , 0.5, 1. ])
    """
    return np.arange(frames) / rate


def noise(frames: int, seed: int) -> Array:
    """White noise of unit variance; the same seed gives the same.

    Parameters
    ----------
    frames
        How many.
    seed
        Names the random choice; the same one gives the same.

    Returns
    -------
    ndarray
        Shape (frames,).

    Examples
    --------
    >>> bool(np.all(noise(4, 1) == noise(4, 1)))
    True
    """
    return np.random.default_rng(seed).standard_normal(frames)


def to_peak(x: Array, peak: float = 1.0) -> Array:
    """`x` brought to a peak; silence stays silence.

    Parameters
    ----------
    x
        Samples, shape (frames,).
    peak
        The highest sample that is wanted.

    Returns
    -------
    ndarray
        Shape of `x`.

    Examples
    --------
    >>> to_peak(np.array([0.1, -0.2]))
    array([ 0.5, -1. ])
    """
    top = float(np.max(np.abs(x), initial=0.0))
    return x * (peak / top) if top > 1e-9 else x


def noise_band(frames: int, seed: int, low_hz: float, high_hz: float, rate: int) -> Array:
    """Noise of peak 1 between two corners, 24 dB per octave each; a corner at 20 kHz is none.

    Parameters
    ----------
    frames
        How many.
    seed
        Names the random choice; the same one gives the same.
    low_hz
        Lower corner.
    high_hz, rate
        Upper corner; frames a second.

    Returns
    -------
    ndarray
        Shape (frames,).

    Examples
    --------
    >>> noise_band(4800, 1, 200.0, 2000.0, 48000).size
    4800
    """
    x = filters.filtered(noise(frames, seed), filters.highpass_24(low_hz, rate))
    if high_hz < 20000.0:
        x = filters.filtered(x, filters.lowpass_24(high_hz, rate))
    return to_peak(x)


def finish(x: Array, rate: int, level_db: float, fade_s: float = _FADE_S) -> Array:
    """A hit whose end is faded, so that nothing is cut off, at its peak level.

    Parameters
    ----------
    x, rate
        Samples, shape (frames,); frames a second.
    level_db
        Of its peak, dBFS.
    fade_s
        Over how long it ends.

    Returns
    -------
    ndarray
        Shape of `x`.

    Examples
    --------
    >>> x = finish(np.ones(4800), 48000, -6.0)
    >>> round(float(x[0]), 2), round(float(x[-1]), 2)
    (0.5, 0.0)
    """
    time = seconds(x.size, rate)
    x = x * envelopes.release(time, x.size / rate, min(fade_s, 0.25 * x.size / rate))
    return to_peak(x, 10 ** (level_db / 20))
