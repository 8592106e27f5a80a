"""What stands between the loop and the loudspeakers: one definition, which the page's player carries out.

Bands are of fourth-order Linkwitz-Riley filters. The limiter is that of `dynamics.limit_gain_db`; it does
nothing to what stays under its ceiling. Loudness and true peak are read behind it (ITU-R BS.1770-5).
"""

from collections.abc import Callable
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from juglant.core import RATE
from juglant.core.measure import levels
from juglant.core.measure.levels import between_samples, k_weighting
from juglant.core.process.filters import around_loop_by, linkwitz_riley_gain

Array = NDArray[np.float64]

Band = Literal["low", "mid", "top"]
BAND_EDGES_HZ = (150.0, 2000.0)
CEILING_DB, AHEAD_MS, RELEASE_MS = -1.0, 3.0, 80.0
# A change of what is heard is crossfaded over this.
FADE_MS = 12.0
_OVERSAMPLING = 4
# A band alone is brought up by no more than this: what is not there is not to be made of an amplifier.
MOST_BAND_LIFT_DB = 12.0


def listening() -> dict[str, Any]:
    """What is listened through, in Hz, dB and ms; sections of the K-weighting, and interpolation weights
    for the points between a frame and the next one, taps first.

    Returns
    -------
    dict
        What the page needs to listen by the same filters.

    Examples
    --------
    >>> sorted(listening())[:2]
    ['ahead_ms', 'band_edges_hz']
    """
    points = np.arange(1, _OVERSAMPLING) / _OVERSAMPLING
    return {
        "rate": RATE, "band_edges_hz": list(BAND_EDGES_HZ), "ceiling_db": CEILING_DB, "ahead_ms": AHEAD_MS,
        "release_ms": RELEASE_MS, "fade_ms": FADE_MS, "k_weighting": k_weighting(RATE).tolist(),
        "between": np.round(between_samples(points), 9).T.tolist(),
    }  # fmt: skip


def band_match_db(x: Array, rate: int) -> dict[Band, float]:
    """The gains that bring the low, mid and top band of a loop, shape (frames,) or (frames, 2), to the
    loudness of the whole, up by 12 dB at most; 0 for a band that is silent.

    Parameters
    ----------
    x, rate
        Samples, shape (frames,); frames a second.

    Returns
    -------
    dict of str to float
        Gain in dB for each band.

    Examples
    --------
    >>> import numpy as np
    >>> low = np.sin(2 * np.pi * 50 * np.arange(48000) / 48000)
    >>> round(band_match_db(low, 48000)["low"], 1)
    0.1
    """
    whole = levels.integrated_lufs(x, rate)
    low, high = BAND_EDGES_HZ
    gains: dict[Band, Callable[[Array], Array]] = {
        "low": lambda hz: linkwitz_riley_gain(hz, low)[0],
        "mid": lambda hz: linkwitz_riley_gain(hz, low)[1] * linkwitz_riley_gain(hz, high)[0],
        "top": lambda hz: linkwitz_riley_gain(hz, high)[1],
    }
    sides = [x] if x.ndim == 1 else [x[:, 0], x[:, 1]]
    found: dict[Band, float] = {}
    for name, gain in gains.items():
        band = np.stack([around_loop_by(side, gain, rate) for side in sides], axis=-1)
        lufs = levels.integrated_lufs(band[:, 0] if x.ndim == 1 else band, rate)
        found[name] = min(whole - lufs, MOST_BAND_LIFT_DB) if lufs > levels.QUIETEST_LUFS else 0.0
    return found
