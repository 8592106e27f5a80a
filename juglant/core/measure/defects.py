"""What is wrong with a recorded sound as a file: silence in front, flat tops, an offset, strokes it should
not hold, no end.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from juglant.core.measure.envelope import running_rms
from juglant.core.measure.stereo import mono

Array = NDArray[np.float64]

# A sound has begun where it passes this re its loudest, or the noise before it by so much; what is louder
# than the third is no noise before it, but jingles that begin softly.
_BEGUN_DB, _OVER_FLOOR_DB, _HEARD_DB, _FLOOR_S = -50.0, 12.0, -30.0, 0.003
_BEGINS_S, _BEGINS_DB = 0.02, -14.0
# A flat top: so many frames alike, with a corner at its ends that no smooth wave has.
_FLATTEST, _ALIKE, _CORNER, _ROUNDED, _GROWS, _LEAST_TOPS = 4, 6e-5, 6.0, 7.0, 1.8, 2
# A second stroke: this much louder than shortly before, not this far below the first.
_RISE_DB, _SECOND_DB, _APART_S, _HOP_S = 9.0, 16.0, 0.06, 0.002
# A sound that has not fallen by this much in this time goes on.
_FALL_DB, _LASTS_S = 8.0, 0.9


def leading_silence_ms(x: Array, rate: int, *, begins: bool = False) -> float:
    """Time before a file's sound, shape (frames,) or (frames, channels), to half a millisecond.

    With `begins` only where a stroke ends it: a tail from the end of a loop is no beginning.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels); full scale is 1.
    rate, begins
        Frames a second; whether a stroke must end it.

    Returns
    -------
    float
        ms; 0 where there is none.

    Examples
    --------
    >>> at = np.arange(24000) / 48000
    >>> x = np.sin(2 * np.pi * 55.0 * at) * np.exp(-at / 0.08)
    >>> round(leading_silence_ms(np.concatenate([np.zeros(672), x]), 48000))
    14
    """
    level = running_rms(mono(x), max(1, round(0.0005 * rate)))
    top = float(level.max(initial=0.0))
    if top < 1e-6:
        return 0.0
    floor = float(np.median(level[: max(1, round(_FLOOR_S * rate))]))
    limit = max(
        top * 10 ** (_BEGUN_DB / 20), min(floor * 10 ** (_OVER_FLOOR_DB / 20), top * 10 ** (_HEARD_DB / 20))
    )
    first = int(np.argmax(level >= limit))
    if begins and level[first : first + round(_BEGINS_S * rate)].max() < top * 10 ** (_BEGINS_DB / 20):
        return 0.0
    return first / rate * 1000


def flat_tops(x: Array) -> int:
    """How many of a sound's tops are cut flat, in the channel that has most.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels); full scale is 1.

    Returns
    -------
    int
        How many.

    Examples
    --------
    >>> x = 1.5 * np.sin(2 * np.pi * 50.0 * np.arange(4800) / 48000)
    >>> flat_tops(x), flat_tops(np.clip(x, -1.0, 1.0))
    (0, 10)
    """
    return max(len(flat_runs(channel)) for channel in x.reshape(x.shape[0], -1).T)


def flat_runs(x: Array) -> list[tuple[int, int]]:
    """First and last frame of every top of `x`, shape (frames,), that is cut flat.

    Parameters
    ----------
    x
        Samples, shape (frames,); full scale is 1.

    Returns
    -------
    list of (int, int)
        In their order.

    Examples
    --------
    >>> x = np.clip(1.5 * np.sin(2 * np.pi * 50.0 * np.arange(960) / 48000), -1.0, 1.0)
    >>> len(flat_runs(x))
    2
    """
    top = float(np.max(np.abs(x), initial=0.0))
    if top < 1e-3 or x.size < 16:
        return []
    high = np.abs(x) > 0.7 * top
    both, steps = high[1:] & high[:-1], np.abs(np.diff(x))
    alike = (steps < _ALIKE * top) & both
    # Where a quiet sound was rounded, a smooth top is flat too, and leaves it by so many of its steps.
    corner = max(_CORNER * _ALIKE * top, _ROUNDED * _rounded_to(steps[both & (steps > 1e-9 * top)]))
    edges = np.flatnonzero(np.diff(np.concatenate([[0], alike.astype(np.int8), [0]])))
    found: list[tuple[int, int]] = []
    for a, b in edges.reshape(-1, 2):
        length = b - a + 1
        if length < _FLATTEST or a < 2 or b + 2 >= x.size:
            continue
        # What leaves the top little by little was driven into it; two frames, for one may be half of each.
        falls = np.sign(x[a]) * (x[[a, b]] - x[[a - 2, b + 2]])
        # Beside a cut the slope goes on as it is; a smooth wave's still grows.
        before, after = steps[max(a - 3, 0) : a - 1], steps[b + 1 : b + 3]
        goes_on = before[0] < _GROWS * before[-1] or after[-1] < _GROWS * after[0]
        if falls.min() > corner and goes_on:
            found.append((int(a), int(b)))
    return found if len(found) >= _LEAST_TOPS else []


def _rounded_to(steps: Array) -> float:
    """What every step from frame to frame is a multiple of; 0 where that is none of them."""
    least = float(np.min(steps, initial=np.inf))
    counts = steps / least
    return least if steps.size and np.all(np.abs(counts - np.round(counts)) < 0.02) else 0.0


def resting_offset(x: Array, rate: int) -> float:
    """The constant that a sound rests on where it has died away, as a share of its peak; 0 for none.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels); full scale is 1.
    rate
        Frames a second.

    Returns
    -------
    float
        -1 to 1.

    Examples
    --------
    >>> at = np.arange(24000) / 48000
    >>> x = np.sin(2 * np.pi * 55.0 * at) * np.exp(-at / 0.08)
    >>> round(resting_offset(x + 0.02, 48000), 2)
    0.02
    """
    y = mono(x)
    peak = float(np.max(np.abs(y), initial=0.0))
    end = y[-max(2, round(0.05 * rate)) :]
    if peak < 1e-6:
        return 0.0
    rest = float(np.mean(end))
    return abs(rest) / peak if abs(rest) > 2 * float(np.std(end)) else 0.0


@dataclass(frozen=True)
class Strokes:
    """When a file's strokes begin, in ms, and their levels re the loudest, in dB."""

    at_ms: list[float]
    levels_db: list[float]


def strokes(x: Array, rate: int) -> Strokes:
    """The strokes in a file that might hold more than one: sharp rises far over what sounded before.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels); full scale is 1.
    rate
        Frames a second.

    Returns
    -------
    Strokes
        When they begin, in ms, and how loud they are.

    Examples
    --------
    >>> at = np.arange(24000) / 48000
    >>> x = np.sin(2 * np.pi * 55.0 * at) * np.exp(-at / 0.08)
    >>> len(strokes(np.concatenate([x, x]), 48000).at_ms)
    2
    """
    y = mono(x)
    hop = max(1, round(_HOP_S * rate))
    count = y.size // hop
    if count < 8:
        return Strokes([], [])
    # What is new is bright: the difference of neighbours leaves a tail's low tone behind.
    bright = np.diff(y, prepend=y[:1])
    power = (bright[: count * hop] ** 2).reshape(count, hop).mean(axis=1)
    whole = (y[: count * hop] ** 2).reshape(count, hop).mean(axis=1)
    level = 10 * np.log10(np.maximum(power, 1e-14))
    loud = 10 * np.log10(np.maximum(ndimage.maximum_filter1d(whole, 5), 1e-14))
    reach = round(0.03 / _HOP_S)
    before = ndimage.maximum_filter1d(level, reach, origin=reach // 2)
    before = np.concatenate([np.full(2, -140.0), before[:-2]])
    rises = level - before
    found: list[int] = []
    top = float(level.max())
    for n in np.flatnonzero((rises > _RISE_DB) & (level > top - 40)):
        if found and n - found[-1] < _APART_S / _HOP_S:
            continue
        found.append(int(n))
    if not found:
        return Strokes([], [])
    tops = [float(loud[n : n + round(0.05 / _HOP_S)].max()) for n in found]
    first = max(tops)
    kept = [(n, db - first) for n, db in zip(found, tops, strict=True) if db > first - _SECOND_DB]
    return Strokes([n * hop / rate * 1000 for n, _ in kept], [db for _, db in kept])


def goes_on(x: Array, rate: int) -> bool:
    """Whether a sound lasts without falling, as a texture does: not a hit.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels); full scale is 1.
    rate
        Frames a second.

    Returns
    -------
    bool
        False for what is short.

    Examples
    --------
    >>> goes_on(0.1 * np.random.default_rng(0).standard_normal(96000), 48000)
    True
    """
    y = mono(x)
    if y.size < _LASTS_S * rate:
        return False
    level = 20 * np.log10(np.maximum(running_rms(y, round(0.1 * rate))[:: round(0.02 * rate)], 1e-7))
    top = float(level.max())
    return bool(np.mean(level > top - _FALL_DB) > 0.8)
