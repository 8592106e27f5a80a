"""Drive."""

import numpy as np
from numpy.typing import NDArray
from scipy import fft

Array = NDArray[np.float64]

_OVERSAMPLING, _MARGIN_FRAMES = 4, 256


def soft_clip(x: Array, drive_db: float) -> Array:
    """Hyperbolic-tangent clipping of `x`, shape (frames,), its peak held where it was.

    `drive_db` from 0 (nothing happens) up. Runs at four times the rate, so that the
    harmonics it makes fold back far below what they are; the rate is raised and lowered by
    lengthening and cutting the spectrum.
    """
    peak = float(np.max(np.abs(x), initial=0.0))
    if drive_db <= 0.0 or peak == 0.0:
        return x
    size = fft.next_fast_len(x.size + _MARGIN_FRAMES, real=True)
    gain = 10 ** (drive_db / 20) / peak * _OVERSAMPLING
    fine = fft.irfft(fft.rfft(x, size) * gain, _OVERSAMPLING * size)
    driven = fft.irfft(fft.rfft(np.tanh(fine))[: size // 2 + 1], size)[: x.size]
    return np.asarray(driven * (peak / np.max(np.abs(driven))))
