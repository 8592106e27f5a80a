"""Pitch moved and tails straightened by what is known of the tone, cycle by cycle.

A decaying hit has one tone whose frequency over time was fitted beforehand; with its phase
known, whole cycles can be repeated or left out where they join without a seam, as the
pitch-synchronous overlap-add methods of any text on speech processing do.
"""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from juglant.core.process.resampling import polyphase, shift_pitch

Array = NDArray[np.float64]
# Frequency in Hz at times in seconds from the start of a sound.
Tone = Callable[[Array], Array]

_OVER = 4
# A grain spans this many cycles to either side; two of them always add up to one.
_CYCLES = 2
_STEP_S = 0.0005
# Further from its note than this a tone is a sweep, not a tail.
SETTLED_CENTS = 250.0


def _phase(tone: Tone, length_s: float) -> tuple[Array, Array]:
    """Times and cycles since the start, every half millisecond."""
    time = np.arange(0.0, length_s + 2 * _STEP_S, _STEP_S)
    hz = np.maximum(tone(time), 1.0)
    cycles = np.concatenate([[0.0], np.cumsum(0.5 * (hz[1:] + hz[:-1])) * _STEP_S])
    return time, cycles


def straightened(x: Array, rate: int, tone: Tone, end_hz: float, from_s: float) -> Array:
    """`x`, shape (frames,) or (frames, channels), its tone at `end_hz` throughout from a time on.

    Time runs a little faster or slower there, so that every cycle lasts as long as the last.

    Parameters
    ----------
    x, rate
        Samples, shape (frames,) or (frames, channels); frames a second.
    tone
        Frequency in Hz at times in s.
    end_hz
        What it settles to.
    from_s
        From when on.

    Returns
    -------
    ndarray
        Shape of `x`, or nearly as long.

    Examples
    --------
    >>> at = np.arange(24000) / 48000
    >>> x = np.sin(2 * np.pi * 57 * at)
    >>> y = straightened(x, 48000, lambda s: np.full(np.shape(s), 57.0), 55.0, 0.0)
    >>> from juglant.core.measure.trace import cycles
    >>> round(float(np.median(cycles(y, 48000, 0.05, 0.1).hz)), 1)
    55.0
    """
    length_s = x.shape[0] / rate
    time, _ = _phase(tone, length_s)
    # Output time that passes per input time is the ratio of the two frequencies.
    pace = np.where(time < from_s, 1.0, np.maximum(tone(time), 1.0) / end_hz)
    out_time = np.concatenate([[0.0], np.cumsum(0.5 * (pace[1:] + pace[:-1])) * _STEP_S])
    frames = int(np.interp(length_s, time, out_time) * rate)
    at = np.interp(np.arange(frames) / rate, out_time, time) * rate * _OVER
    fine = polyphase(x, _OVER, 1)
    if x.ndim == 1:
        return np.asarray(ndimage.map_coordinates(fine, [at], order=3, mode="nearest"))
    return np.stack([ndimage.map_coordinates(c, [at], order=3, mode="nearest") for c in fine.T], axis=1)


def stretched(x: Array, rate: int, tone: Tone, from_s: float, frames: int) -> Array:
    """`x`, shape (frames,) or (frames, channels), made `frames` long without a change of pitch.

    Up to `from_s` it stays as it is; after it, cycles are repeated or left out evenly.

    Parameters
    ----------
    x, rate
        Samples, shape (frames,) or (frames, channels); frames a second.
    tone
        Frequency in Hz at times in s.
    from_s
        From when on.
    frames
        How many.

    Returns
    -------
    ndarray
        Shape of `x`, `frames` long.

    Examples
    --------
    >>> x = np.sin(2 * np.pi * 55 * np.arange(24000) / 48000)
    >>> stretched(x, 48000, lambda s: np.full(np.shape(s), 55.0), 0.0, 36000).size
    36000
    """
    length_s, out_s = x.shape[0] / rate, frames / rate
    time, cycles = _phase(tone, length_s)
    if out_s <= from_s or length_s <= from_s:
        return _fitted(x, frames)
    first = float(np.interp(from_s, time, cycles))
    pace = (length_s - from_s) / (out_s - from_s)
    out = np.zeros((frames, *x.shape[1:]))
    weight = np.zeros(frames)
    margin = x.shape[0]
    padded = np.concatenate([np.zeros((margin, *x.shape[1:])), x, np.zeros((margin, *x.shape[1:]))])
    centre_s = from_s
    while centre_s < out_s:
        wished_s = from_s + (centre_s - from_s) * pace
        # The cycle nearest to where time should be, at the phase that the join needs.
        whole = first + round(float(np.interp(wished_s, time, cycles)) - first)
        source_s = float(np.interp(whole, cycles, time))
        period_s = 1 / max(float(tone(np.array([source_s]))[0]), 1.0)
        half = max(2, round(_CYCLES * period_s * rate))
        window = 0.5 + 0.5 * np.cos(np.pi * np.arange(-half + 1, half) / half)
        if centre_s == from_s:
            window[: half - 1] = 0.0  # what comes before is the sound's own start
        a = round(centre_s * rate) - half + 1
        keep = slice(max(0, -a), min(window.size, frames - a))
        # Less than a sample off at every join: the source is read between its samples.
        at = source_s * rate + (round(centre_s * rate) - centre_s * rate) - half + 1
        piece = _between(padded, at + margin, window.size)
        shaped = window if x.ndim == 1 else window[:, None]
        out[a + keep.start : a + keep.stop] += (piece * shaped)[keep]
        weight[a + keep.start : a + keep.stop] += window[keep]
        centre_s += _CYCLES * period_s
    start = round(from_s * rate)
    safe = np.maximum(weight, 0.05)
    out /= safe if x.ndim == 1 else safe[:, None]
    out[:start] = x[:start]
    return out


def _between(x: Array, at: float, count: int) -> Array:
    """`count` samples of `x` from a place between its samples on, by a parabola through four."""
    whole = int(np.floor(at))
    part = at - whole
    a, b, c, d = (x[whole + k : whole + k + count] for k in (-1, 0, 1, 2))
    return np.asarray(
        b + 0.5 * part * (c - a + part * (2 * a - 5 * b + 4 * c - d + part * (3 * (b - c) + d - a)))
    )


def _fitted(x: Array, frames: int) -> Array:
    """Cut or filled with silence."""
    out = np.zeros((frames, *x.shape[1:]))
    out[: min(frames, x.shape[0])] = x[:frames]
    return out


def moved(x: Array, rate: int, semitones: float, tone: Tone, settled_s: float, spare_s: float) -> Array:
    """`x`, shape (frames,) or (frames, channels), higher by `semitones` and as long as before.

    Until the tone is `settled_s`, cycles differ too much to be repeated: what is missing or left
    over is made up for after it. Up to `spare_s` the sound is left alone: a click, a sweep; there
    both join in phase, within half a cycle of the tone.

    Parameters
    ----------
    x, rate
        Samples, shape (frames,) or (frames, channels); frames a second.
    semitones
        By how many.
    tone
        Frequency in Hz at times in s.
    settled_s
        When it has settled.
    spare_s
        What is left as it is at the start.

    Returns
    -------
    ndarray
        Shape of `x`.

    Examples
    --------
    >>> x = np.sin(2 * np.pi * 55 * np.arange(24000) / 48000)
    >>> moved(x, 48000, 2.0, lambda s: np.full(np.shape(s), 55.0), 0.0, 0.0).size
    24000
    """
    ratio = 2.0 ** (semitones / 12)
    if semitones == 0.0:
        return x
    quick = shift_pitch(x, semitones)
    joined_s = spare_s / ratio
    tail = stretched(
        quick, rate, lambda time: ratio * tone(time * ratio), max(settled_s, spare_s) / ratio,
        x.shape[0] - round((spare_s - joined_s) * rate),
    )  # fmt: skip
    start, begin = round(spare_s * rate), round(joined_s * rate)
    # Both are laid so that their joints fall together: the same moment of the same cycle.
    out = _fitted(np.concatenate([x[:start], tail[begin:]]), x.shape[0])
    half = min(start, begin, max(2, round(0.25 / float(tone(np.array([spare_s]))[0]) * rate)))
    if half == 0:
        return out
    fade = 0.5 - 0.5 * np.cos(np.pi * (np.arange(2 * half) + 0.5) / (2 * half))
    fade = fade if x.ndim == 1 else fade[:, None]
    around = slice(start - half, start + half)
    other = tail[begin - half : begin + half]
    size = min(out[around].shape[0], other.shape[0])
    out[around][:size] = x[around][:size] * (1 - fade[:size]) + other[:size] * fade[:size]
    return out
