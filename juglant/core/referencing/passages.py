"""What of a record is played beside a track: whole bars from a kick on."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from juglant.core.measure.record import Record, kicks_in
from juglant.core.measure.stereo import listening_channel
from juglant.core.tempo import beat_ms

Array = NDArray[np.float64]

_MOST_BARS = 8


class Stretch(NamedTuple):
    """From which frame on, how many, and how many beats that is; one beat where no tempo was found."""

    start: int
    frames: int
    beats: int


def loop_of(x: Array, rate: int, found: Record) -> Stretch:
    """The longest stretch of whole bars, eight at most, that begins on a kick: it can be gone round.
    Without a tempo all of it.

    Parameters
    ----------
    x, rate
        Samples, shape (frames,) or (frames, channels); frames a second.
    found
        What is known of it.

    Returns
    -------
    Stretch
        Start and length in frames, and beats.

    Examples
    --------
    >>> from juglant.core.measure.record import record
    >>> at = np.arange(24000) / 48000
    >>> x = np.tile(np.sin(2 * np.pi * 55 * at) * np.exp(-at / 0.1), 16)
    >>> loop_of(x, 48000, record(x, 48000, 120.0)).beats
    16
    """
    if found.bpm is None:
        return Stretch(0, x.shape[0], 1)
    beat = beat_ms(found.bpm) / 1000 * rate
    bar = 4 * beat
    kicks = kicks_in(listening_channel(x), rate, found.bpm)
    first = round(kicks[0] / 1000 * rate) if kicks else 0
    bars = min(int((x.shape[0] - first) // bar), _MOST_BARS)
    if bars < 1:
        return Stretch(0, x.shape[0], max(1, round(x.shape[0] / beat)))
    # Powers of two go round with the music (common practice).
    bars = 1 << (bars.bit_length() - 1)
    return Stretch(first, round(bars * bar), 4 * bars)
