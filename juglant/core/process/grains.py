"""Stretching with grains."""

import numpy as np
import scipy
from numpy.typing import NDArray

Array = NDArray[np.float64]

# Within a cycle of a tone of 60 Hz there is a place that fits.
_REACH_S = 0.009


def stretch(x: Array, factor: float, grain_ms: float, jitter: float, seed: int, rate: int) -> Array:
    """`x`, shape (frames,), `factor` times as long at the same pitch, made of grains.

    Hann grains that overlap by half, each taken from its place in `x` give or take `jitter`
    times its length, and from there moved to where it goes on best from the grain before it
    (W. Verhelst & M. Roelands, "An overlap-add technique based on waveform similarity", ICASSP
    1993), so that a tone keeps its pitch. A factor of 1 gives `x` itself.

    Parameters
    ----------
    x
        Samples, shape (frames,).
    factor
        How many times as long.
    grain_ms
        Length of a grain.
    jitter
        How far a grain may stray, 0 to 1.
    seed
        Names the random choice; the same one gives the same.
    rate
        Frames a second.

    Returns
    -------
    ndarray
        Shape (frames,).

    Examples
    --------
    >>> stretch(np.ones(4800), 2.0, 20.0, 0.0, 1, 48000).size
    9600
    """
    if factor == 1.0:
        return x
    grain = max(16, round(grain_ms / 1000 * rate) // 2 * 2)
    hop = grain // 2
    window = np.hanning(grain + 1)[:-1]
    out = np.zeros(round(x.size * factor) + 2 * grain)
    aside = np.random.default_rng(seed).uniform(-0.5, 0.5, out.size // hop + 1)
    padded = np.concatenate([np.zeros(grain), x, np.zeros(2 * grain)])
    reach = min(round(_REACH_S * rate), hop)
    a = 0
    # The first grain begins half its length early, so that the onset is not faded in.
    for index, start in enumerate(range(0, round(x.size * factor) + hop, hop)):
        wish = (start - hop) / factor + jitter * grain * aside[index] * (index > 1)
        goes_on = padded[a + hop : a + hop + grain]
        a = round(min(max(wish + grain, 0), padded.size - grain))
        if index > 1 and goes_on.size == grain:
            low = max(a - reach, 0)
            around = padded[low : min(a + reach, padded.size - grain) + grain]
            a = low + int(np.argmax(scipy.signal.correlate(around, goes_on, "valid", "fft")))
        out[start : start + grain] += padded[a : a + grain] * window
    return out[hop : hop + round(x.size * factor)]
