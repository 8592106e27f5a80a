"""What stands between the loop and the loudspeakers: one definition, which the page's player carries out.

Bands are of fourth-order Linkwitz-Riley filters. The limiter is that of `dynamics.limit_gain_db`; it does
nothing to what stays under its ceiling. Loudness and true peak are read behind it (ITU-R BS.1770-5).
"""

from typing import Any

import numpy as np

from juglant.core import RATE
from juglant.core.measure.levels import between_samples, k_weighting

BAND_EDGES_HZ = (150.0, 2000.0)
CEILING_DB, AHEAD_MS, RELEASE_MS = -1.0, 3.0, 80.0
# A change of what is heard is crossfaded over this.
FADE_MS = 12.0
_OVERSAMPLING = 4


def listening() -> dict[str, Any]:
    """All of it in numbers: Hz, dB, ms; sections of the K-weighting, and interpolation weights for the
    points between a frame and the next one, taps first.
    """
    points = np.arange(1, _OVERSAMPLING) / _OVERSAMPLING
    return {
        "rate": RATE, "band_edges_hz": list(BAND_EDGES_HZ), "ceiling_db": CEILING_DB, "ahead_ms": AHEAD_MS,
        "release_ms": RELEASE_MS, "fade_ms": FADE_MS, "k_weighting": k_weighting(RATE).tolist(),
        "between": np.round(between_samples(points), 9).T.tolist(),
    }  # fmt: skip
