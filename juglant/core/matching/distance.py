"""How far two sounds are apart, as they are heard from moment to moment."""

import numpy as np
from numpy.typing import NDArray
from scipy import fft

Array = NDArray[np.float64]

# Exact third octaves from 50 Hz to 16 kHz (IEC 61260-1): below, 5 ms know nothing of a band's own course.
_BANDS_HZ = 1000 * 10 ** (np.arange(-13, 13) / 10)
_FRAME_S, _WINDOW_S, _DOWN_DB = 0.005, 0.03, 40.0


def _levels_db(x: Array, rate: int) -> Array:
    """Levels of third octaves in frames of 5 ms, shape (frames, bands), in dB."""
    hop, size = round(_FRAME_S * rate), round(_WINDOW_S * rate)
    padded = np.pad(x, size // 2)
    pieces = np.lib.stride_tricks.sliding_window_view(padded, size)[::hop] * np.hanning(size)
    whole = 4 * size
    power = np.abs(fft.rfft(pieces, whole, axis=1)) ** 2
    hz = fft.rfftfreq(whole, 1 / rate)
    half = 2 ** (1 / 6)
    edges = np.searchsorted(hz, np.append(_BANDS_HZ / half, _BANDS_HZ[-1] * half))
    sums = np.add.reduceat(power[:, : edges[-1]], edges[:-1], axis=1)
    return np.asarray(10 * np.log10(np.maximum(sums, 1e-20)))


def spectral_distance_db(x: Array, y: Array, rate: int) -> float:
    """RMS difference of two sounds, shape (frames,), over third octaves and frames of 5 ms, where either is
    within 40 dB of the louder one's strongest.

    Parameters
    ----------
    x
        Samples, shape (frames,).
    y, rate
        Another sound, shape (frames,); frames a second.

    Returns
    -------
    float
        dB.

    Examples
    --------
    >>> import numpy as np
    >>> x = np.random.default_rng(1).standard_normal(4800)
    >>> spectral_distance_db(x, x, 48000)
    0.0
    """
    size = max(x.size, y.size)
    one, other = (_levels_db(np.pad(z, (0, size - z.size)), rate) for z in (x, y))
    floor = float(max(one.max(), other.max())) - _DOWN_DB
    heard = (one > floor) | (other > floor)
    apart = np.maximum(one, floor)[heard] - np.maximum(other, floor)[heard]
    return float(np.sqrt(np.mean(apart**2)))
