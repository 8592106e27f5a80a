"""Beats and note values in time."""

import math
from collections.abc import Sequence
from itertools import pairwise
from statistics import linear_regression, median
from typing import NamedTuple

from juglant.core.errors import UserError

NOTE_VALUES: dict[str, float] = {
    f"1/{part}{mark}": 4.0 / part * factor
    for part in (2, 4, 8, 16, 32, 64)
    for mark, factor in ((".", 1.5), ("", 1.0), ("t", 2.0 / 3.0))
}
"""Length in beats of each note value; a point is dotted, t is triplet."""


def beat_ms(bpm: float) -> float:
    """Length of a quarter note.

    Parameters
    ----------
    bpm
        Tempo, above 0 quarter notes a minute.

    Returns
    -------
    float
        Length in ms.

    Examples
    --------
    >>> beat_ms(125.0)
    480.0
    """
    return 60_000.0 / bpm


def tapped_bpm(times_ms: Sequence[float]) -> float:
    """The tempo of taps on the beat, in BPM to a tenth: the line of least squares through them, a beat that
    was left out counted as there. UserError where there are fewer than four, or they keep no beat.

    Parameters
    ----------
    times_ms
        When was tapped, in order.

    Returns
    -------
    float
        Tempo in BPM, to a tenth.

    Examples
    --------
    >>> tapped_bpm([0.0, 481.0, 959.0, 1440.0])
    125.1
    """
    if len(times_ms) < 4:
        raise UserError("Tap four times at least.", "times_ms")
    gaps = [b - a for a, b in pairwise(times_ms)]
    gap = median(gaps)
    if gap <= 0.0:
        raise UserError("Taps come one after another.", "times_ms")
    beats = [round((at - times_ms[0]) / gap) for at in times_ms]
    if len(set(beats)) < len(beats):
        raise UserError("These taps keep no beat: tap on.", "times_ms")
    beat = linear_regression(beats, list(times_ms)).slope
    return round(60_000.0 / beat, 1)


def note_value_ms(value: str, bpm: float) -> float:
    """Length of a note value such as 1/8, 1/8. or 1/8t.

    Parameters
    ----------
    value
        A name of `NOTE_VALUES`.
    bpm
        Tempo in BPM.

    Returns
    -------
    float
        Length in ms.

    Examples
    --------
    >>> note_value_ms("1/8.", 125.0)
    360.0
    """
    return NOTE_VALUES[value] * beat_ms(bpm)


def swung(at_beats: float, swing_percent: float) -> float:
    """Where a place in beats falls under swing: only second sixteenths move, later.

    At 50 % nothing does. Triplets and what lies between the sixteenths stay where they are.

    Parameters
    ----------
    at_beats
        A place in beats.
    swing_percent
        Where a second sixteenth lies between two eighths, 50 to 75 %.

    Returns
    -------
    float
        The place in beats.

    Examples
    --------
    >>> swung(0.25, 60.0), swung(0.5, 60.0)
    (0.3, 0.5)
    """
    sixteenth = round(at_beats * 4)
    if sixteenth % 2 == 0 or abs(at_beats * 4 - sixteenth) > 1e-6:
        return at_beats
    return (sixteenth - 1) / 4 + swing_percent / 200


class NearestValue(NamedTuple):
    """The nearest note value, and by how much the time is longer than it."""

    value: str
    difference_ms: float


def nearest_note_value(ms: float, bpm: float) -> NearestValue:
    """The note value closest to a time above 0 ms, by ratio.

    Parameters
    ----------
    ms
        A time, above 0 ms.
    bpm
        Tempo in BPM.

    Returns
    -------
    NearestValue
        The value, and by how many ms the time is longer than it.

    Examples
    --------
    >>> nearest_note_value(250.0, 125.0)
    NearestValue(value='1/8', difference_ms=10.0)
    """
    value = min(NOTE_VALUES, key=lambda v: abs(math.log(ms / note_value_ms(v, bpm))))
    return NearestValue(value, ms - note_value_ms(value, bpm))
