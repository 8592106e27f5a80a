"""Whether a loop already holds a sound, stroke by stroke: the two would comb each other."""

import numpy as np
import scipy
from numpy.typing import NDArray

from juglant.core.process import filters

Array = NDArray[np.float64]

# How much of a stroke is compared, above what, and how far a copy may lie from its place.
_COMPARED_S, _ABOVE_HZ, _REACH_S = 0.12, 400.0, 0.03
# Like its own copy so far off, a sound is a tone: which of its cycles is meant nobody can tell.
_OFF_S, _TONE = 0.002, 0.5
# How like a copy is under whatever else the loop holds; noises that are not copies reach some 0.15.
_COPY = 0.45


def doubled(loop: Array, sound: Array, times_ms: list[float], rate: int) -> list[float | None]:
    """For every stroke of a sound at `times_ms`, by how many ms a copy of it in the loop comes later; None
    where there is none. All shapes (frames,).

    A copy is told by the correlation coefficient of the two, above 400 Hz.

    Parameters
    ----------
    loop
        The loop that may carry the sound, shape (frames,).
    sound
        The sound itself, shape (frames,).
    times_ms, rate
        When the track strikes it, ms from the loop’s start; frames a second.

    Returns
    -------
    list of float or None
        Ms by which the copy comes later, one for every stroke.

    Examples
    --------
    >>> import numpy as np
    >>> clap = np.random.default_rng(1).normal(size=4800) * np.exp(-np.arange(4800) / 960)
    >>> loop = np.zeros(48000)
    >>> loop[12048:16848] = clap
    >>> doubled(loop, clap, [250.0], 48000)
    [1.0]
    """
    high = filters.highpass_24(_ABOVE_HZ, rate)
    stroke = filters.filtered(sound[: round(_COMPARED_S * rate)], high)
    power = float(stroke @ stroke)
    own = np.abs(scipy.signal.fftconvolve(stroke, stroke[::-1])) / max(power, 1e-30)
    middle, off = stroke.size - 1, round(_OFF_S * rate)
    if power < 1e-8 or float(own[middle + off :].max(initial=0.0)) > _TONE:
        return [None] * len(times_ms)
    heard = filters.around_loop(loop, high)
    reach = round(_REACH_S * rate)
    found: list[float | None] = []
    for at_ms in times_ms:
        first = round(at_ms / 1000 * rate) - reach
        piece = heard[np.arange(first, first + stroke.size + 2 * reach) % heard.size]
        alike = scipy.signal.fftconvolve(piece, stroke[::-1], mode="valid")
        sums = np.concatenate([[0.0], np.cumsum(piece**2)])
        energy = np.maximum(sums[stroke.size :] - sums[: -stroke.size], 1e-12)
        alike = np.abs(alike) / np.sqrt(energy * power)
        best = int(np.argmax(alike))
        found.append((best - reach) / rate * 1000 if alike[best] > _COPY else None)
    return found
