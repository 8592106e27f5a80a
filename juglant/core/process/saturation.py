"""Drive."""

import numpy as np
from numpy.typing import NDArray

from juglant.core.process.resampling import polyphase

Array = NDArray[np.float64]

_OVERSAMPLING = 4


def soft_clip(x: Array, drive_db: float, rate: int) -> Array:
    """Hyperbolic-tangent clipping of `x`, shape (frames,), its peak held where it was.

    `drive_db` from 0 (nothing happens) up. Runs at four times the rate, so that the
    harmonics it makes fold back far below what they are.
    """
    peak = float(np.max(np.abs(x), initial=0.0))
    if drive_db <= 0.0 or peak == 0.0:
        return x
    gain = 10 ** (drive_db / 20)
    fine = polyphase(x / peak, _OVERSAMPLING, 1)
    driven = polyphase(np.tanh(gain * fine), 1, _OVERSAMPLING)[: x.size]
    return np.asarray(driven * (peak / np.max(np.abs(driven))))
