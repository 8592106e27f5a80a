"""A sound of the user's own moved to another note, by the tone that is measured in it."""

import numpy as np
from numpy.typing import NDArray

from juglant.core.measure.envelope import onset_ms
from juglant.core.measure.pitch import SURE, measure_tail
from juglant.core.measure.stereo import listening_channel
from juglant.core.process import retuning
from juglant.core.process.resampling import shift_pitch

Array = NDArray[np.float64]


def retuned(
    x: Array, rate: int, semitones: float, *, keep_length: bool, straighten: bool, spare_ms: float
) -> Array:
    """`x`, shape (frames,) or (frames, channels), higher by `semitones`.

    Without `keep_length` it is resampled and `spare_ms`, which is left alone after the onset,
    does not count. A sound in which no tone can be followed is resampled in any case: there are
    no cycles to repeat.

    Parameters
    ----------
    x, rate
        Samples, shape (frames,) or (frames, channels); frames a second.
    semitones
        By how many.
    keep_length
        Whether it lasts as long as before.
    straighten
        Whether its drift is taken out.
    spare_ms
        What is left as it is at the start.

    Returns
    -------
    ndarray
        With the channels of `x`.

    Examples
    --------
    >>> retuned(np.ones(4800), 48000, 12.0, keep_length=False, straighten=False, spare_ms=0.0).size
    2400
    """
    heard = listening_channel(x)
    if not (keep_length or straighten) or not np.any(heard):
        return shift_pitch(x, semitones)
    onset_s = onset_ms(heard, rate) / 1000
    tail = measure_tail(heard[round(onset_s * rate) :], rate)
    if isinstance(tail, str) or tail.confidence < SURE:
        return shift_pitch(x, semitones)

    def swept(time_s: Array) -> Array:
        return tail.hz_at(time_s - onset_s)

    end_hz, straight_from_s = tail.hz, np.inf
    time = np.arange(0.0, x.shape[0] / rate, 0.001)
    swept_much = np.abs(1200 * np.log2(swept(time) / end_hz)) > retuning.SETTLED_CENTS
    settled_s = max(onset_s, float(time[np.flatnonzero(swept_much)[-1]]) if swept_much.any() else 0.0)
    if straighten:
        straight_from_s = max(settled_s, onset_s + spare_ms / 1000)
        x = retuning.straightened(x, rate, swept, end_hz, straight_from_s)

    def tone(time_s: Array) -> Array:
        return np.where(time_s < straight_from_s, swept(time_s), end_hz)

    if not keep_length:
        return shift_pitch(x, semitones)
    spare_s = onset_s + spare_ms / 1000 if spare_ms > 0 else 0.0
    return retuning.moved(x, rate, semitones, tone, settled_s, spare_s)
