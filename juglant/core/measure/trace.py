"""The instantaneous frequency of a hit over time, for the eye and for its sweep."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy import fft

from juglant.core.measure.transform import Transform, transform

Array = NDArray[np.float64]


_TRACE_RATE, _GENTLE_HZ = 12_000.0, 1800.0


class Trace(NamedTuple):
    """Frequency in Hz at times in ms from the start of the samples."""

    time_ms: Array
    hz: Array


def _gentle(x: Array, rate: float, whole: Transform) -> tuple[Array, float]:
    """`x` without what lies well above a kick's sweep, at about 12 kHz, unmoved in time."""
    bins, size = whole
    keep = min(size // 2 + 1, round(size * _TRACE_RATE / rate / 2) + 1)
    spectrum = bins[:keep] * np.exp(-0.5 * (np.arange(keep) * rate / size / _GENTLE_HZ) ** 2)
    count = 2 * (keep - 1)
    slow = rate * count / size
    return np.asarray(fft.irfft(spectrum, count))[: round(x.size * count / size)] * (count / size), slow


def cycles(x: Array, rate: float, start_s: float, floor: float, whole: Transform | None = None) -> Trace:
    """Frequency of each whole cycle, between crossings of zero in the same direction.

    `x` has shape (frames,); cycles before `start_s`, or whose swing stays under `floor`
    (linear), are left out. A gentle low-pass keeps a click from adding crossings.

    Parameters
    ----------
    x, rate
        Samples, shape (frames,); frames a second.
    start_s
        From when on.
    floor
        Swing under which a cycle is not counted.
    whole
        Its transform, where that is there already.

    Returns
    -------
    Trace
        Frequency in Hz and time in ms of every cycle.

    Examples
    --------
    >>> at = np.arange(9600) / 48000
    >>> trace = cycles(np.sin(2 * np.pi * 100 * at), 48000, 0.0, 0.1)
    >>> round(float(np.median(trace.hz)))
    100
    """
    y, rate = _gentle(x, rate, whole or transform(x, rate))
    sign = y > 0
    times: list[Array] = []
    hz: list[Array] = []
    for rising in (True, False):
        change = np.flatnonzero((sign[1:] == rising) & (sign[:-1] != rising))
        if change.size < 2:
            continue
        at = change + y[change] / (y[change] - y[change + 1])
        swing = np.maximum.reduceat(np.abs(y), change)[:-1]
        keep = (swing >= floor) & (at[:-1] >= start_s * rate)
        times.append(((at[:-1] + at[1:]) / 2 / rate * 1000)[keep])
        hz.append((rate / np.diff(at))[keep])
    if not times:
        return Trace(np.zeros(0), np.zeros(0))
    every, each = np.concatenate(times), np.concatenate(hz)
    order = np.argsort(every)
    return Trace(every[order], each[order])


# How far, in nepers, single cycles may lie off the line through the first of them; the
# widest sweep that is believed; and what is no sweep at all.
_STRAGGLE, _HIGHEST_SEMITONES, _STEADY_SEMITONES = 0.3, 66.0, 1.0


def sweep_semitones(trace: Trace, onset_ms: float, end_hz: float) -> float | None:
    """Semitones from `end_hz` up to the frequency at the onset, from the first cycles.

    The logarithm of their distance to the end is taken as straight, and carried back. None
    where there are too few of them or they do not lie on a line: a click has spoilt them, or
    the sweep was over before.

    Parameters
    ----------
    trace
        The cycles.
    onset_ms
        Where the sound begins.
    end_hz
        Where it settles.

    Returns
    -------
    float or None
        None where there are too few cycles.

    Examples
    --------
    >>> time = np.arange(0.0, 40.0, 4.0)
    >>> round(sweep_semitones(Trace(time, 50 + 150 * np.exp(-time / 10)), 0.0, 50.0))
    24
    """
    if trace.hz.size < 3:
        return None
    count = min(4, trace.hz.size)
    above = 12 * np.log2(trace.hz[:count] / end_hz)
    if np.max(np.abs(above)) < _STEADY_SEMITONES:
        return float(above[0])
    if np.min(above) < 0.05:
        return None
    at, logs = trace.time_ms[:count] - onset_ms, np.log(above)
    slope, level = np.polyfit(at, logs, 1)
    straggle = float(np.max(np.abs(logs - (level + slope * at))))
    back = float(np.exp(level))
    if slope > 0 or straggle > _STRAGGLE or back > _HIGHEST_SEMITONES:
        return None
    return back
