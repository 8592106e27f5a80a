"""The notes of a monophonic bass or 808 line: when, how long, which pitch, how loud.

The pitch of every 5 ms is that of YIN (de Cheveigné & Kawahara, JASA 111, 2002): the first lag at which
the sound repeats itself. Notes begin where a sound rises, or where it goes on at another pitch; the
pitch of a note is then found again over as many of its periods as it holds.
"""

from dataclasses import asdict, dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from juglant.core.measure.periods import surprise, yin
from juglant.core.music import hz_to_midi
from juglant.core.process.filters import Around, linkwitz_riley_gain
from juglant.core.process.resampling import change_rate

Array = NDArray[np.float64]

_RATE, _HOP_S, _WINDOW_S, _STEP_S = 6000, 0.005, 0.045, 0.001
_LOWEST_HZ, _HIGHEST_HZ = 27.0, 420.0
# YIN's threshold, and beyond which dip nothing repeats.
_DIP, _UNVOICED = 0.12, 0.45
# A note is heard while it is within this of the loudest; a new one lifts the level by this much.
_HEARD_DB, _RISE_DB, _SINKS_DB = 34.0, 5.0, 6.0
_STEP_SEMITONES, _SHORTEST_S, _APART_S = 0.6, 0.045, 0.06
# A pitch that strays further than this on average is none yet, for so long at the most.
_STEADY_SEMITONES, _WAVERS_MS, _SOFTER_DB = 0.12, 200.0, 2.5
# One voice repeats itself this well for this share of the time, and is no brighter than this (power of
# the difference of neighbouring samples over its own).
_ONE_VOICE_DIP, _ONE_VOICE_SHARE, _BRIGHT = 0.15, 0.8, 0.05
# Frames at the edges of a note look beyond it, and are not asked.
_EDGE_FRAMES = 3
# What is said to be a bass is a line whose notes can be told where they hold this share of its energy, and
# where it is no brighter than this: drums on top are.
_COVERED, _BASS_BRIGHT = 0.8, 0.012
# What sinks below its note's loudest by this much has ended.
_ENDED_DB = 24.0
_AROUND_S = 0.35


@dataclass(frozen=True)
class NoteFound:
    """A note of a line: times in ms from its start, pitch in Hz, level (RMS, its loudest 50 ms) in dBFS."""

    at_ms: float
    length_ms: float
    hz: float
    level_db: float

    @property
    def midi(self) -> float:
        """Pitch as a note number at A4 = 440 Hz, with its fraction."""
        return hz_to_midi(self.hz)

    def as_dict(self) -> dict[str, Any]:
        """Plain values."""
        return asdict(self)


@dataclass(frozen=True)
class _Piece:
    """A stretch between two onsets, and whether its pitch is steady."""

    note: NoteFound
    steady: bool


def _precise(x: Array, lag: float, rate: float) -> float:
    """The pitch of a steady stretch, in Hz: its autocorrelation's peak, ever more periods away."""
    count = x.size
    periods = 1
    while True:
        reach = round(lag * periods)
        if reach + lag > 0.6 * count and periods > 1:
            break
        span = max(2, round(0.2 * lag if periods == 1 else 0.12 * lag))
        first, last = max(1, reach - span), min(count - 8, reach + span)
        if last - first < 2:
            break
        score = np.empty(last - first + 1)
        for n, shift in enumerate(range(first, last + 1)):
            a, b = x[:-shift], x[shift:]
            score[n] = float(a @ b) / np.sqrt(max(float(a @ a) * float(b @ b), 1e-30))
        top = int(np.argmax(score))
        if not 0 < top < score.size - 1 or score[top] < 0.5:
            break
        left, here, right = score[top - 1 : top + 2]
        bend = left - 2 * here + right
        lag = (first + top + (0.5 * (left - right) / bend if bend < -1e-12 else 0.0)) / periods
        periods *= 2
    return rate / lag


@dataclass(frozen=True)
class _Frames:
    """Pitch in semitones (NaN where none), level in dB, every hop."""

    semitones: Array
    level_db: Array
    hop_s: float
    dips: Array


def _tracked(slow: Array) -> _Frames:
    least, most = int(_RATE / _HIGHEST_HZ), int(_RATE / _LOWEST_HZ) + 1
    window, hop = round(_WINDOW_S * _RATE), round(_HOP_S * _RATE)
    count = slow.size // hop
    padded = np.concatenate([np.zeros(window), slow, np.zeros(window + most + 4)])
    # A frame speaks for the middle of what it looks at: a window and the lag behind it.
    starts = np.arange(count) * hop + window - (window + 60) // 2
    lags, dips = yin(padded, np.maximum(starts, 0), window, least, most, _DIP)
    semitones = np.where(dips < _UNVOICED, 12 * np.log2(_RATE / lags / 440.0) + 69, np.nan)
    power = slow * slow
    around = np.clip(np.nan_to_num(lags, nan=100.0), 20, most)
    sums = np.concatenate([[0.0], np.cumsum(power)])
    middle = np.arange(count) * hop
    half = np.round(around).astype(int)
    a, b = np.maximum(middle - half // 2, 0), np.minimum(middle + half - half // 2, slow.size)
    level = 10 * np.log10(np.maximum((sums[b] - sums[a]) / np.maximum(b - a, 1), 1e-12))
    return _Frames(_without_slips(semitones), level, hop / _RATE, dips)


def _without_slips(semitones: Array) -> Array:
    """Single frames an octave off are put back to where their neighbours are."""
    filled = np.where(np.isnan(semitones), -1.0, semitones)
    smooth = ndimage.median_filter(filled, 5, mode="nearest")
    return np.where(
        smooth < 0, np.nan, np.where(np.abs(filled - smooth) > _STEP_SEMITONES, smooth, semitones)
    )


def _starts(slow: Array, frames: _Frames, heard: NDArray[np.bool_]) -> list[int]:
    """Frames at which a note sets in: out of silence, or where the sound no longer repeats itself."""
    hop, step = round(_HOP_S * _RATE), round(_STEP_S * _RATE)
    lags = np.where(np.isnan(frames.semitones), 0.0, _RATE / (440 * 2 ** ((frames.semitones - 69) / 12)))
    soft = Around(slow, _RATE, loop=False).under(lambda hz: linkwitz_riley_gain(hz, 700.0)[0])
    coming, before, around = surprise(soft, lags, hop, step, round(0.008 * _RATE)).T
    news = (coming > 10 * before) & (coming > 0.04 * around) & (around > 0)
    level = frames.level_db
    reach = round(0.04 / frames.hop_s)
    rising = np.zeros(level.size, dtype=bool)
    for n in range(level.size - 1):
        later = level[n + 1 : n + 1 + reach]
        rising[n] = float(later.max()) - level[n] >= _RISE_DB and heard[n + 1 + int(np.argmax(later))]
    per = _HOP_S / _STEP_S
    found: list[int] = []
    refractory = round(_APART_S / frames.hop_s)
    for n in range(level.size):
        inside = slice(round(n * per), round((n + 1) * per))
        known = bool(np.any(around[inside] > 0))
        lifted = bool(rising[n]) and (not known or bool(np.any(coming[inside] > 3 * before[inside])))
        if not lifted and not bool(np.any(news[inside])):
            continue
        until = min(n + reach, level.size - 1)
        sinks = float(level[n + 4 : until + 1].max(initial=-99.0)) < level[max(n - 4, 0)] - _SINKS_DB
        if (known and sinks) or not heard[n : until + 1].any() or (found and n - found[-1] < refractory):
            continue
        start = n
        if not known:
            start = n + int(np.argmax(np.diff(level[n : n + 1 + reach])))
            if found and start - found[-1] < refractory:
                continue
        found.append(start)
    return found


def _onset(x: Array, rate: int, slow: Array, around_s: float, hz: float, lag: float) -> float:
    """When exactly a note of a pitch begins, near a time.

    Behind the gap before it, where there is one; else where the sound strays from what it was a
    period (`lag`, in frames of `slow`; 0 where none is known) ago.
    """
    first = max(1, round((around_s - 0.012) * _RATE))
    last = min(slow.size - 2, round((around_s + 0.045) * _RATE))
    if last - first < 60:
        return around_s
    # Of a sine this is the same at every moment of its cycle.
    slope = np.gradient(slow[first:last]) * _RATE / (2 * np.pi * hz)
    width = round(max(0.002, 0.35 / hz) * _RATE)
    power = ndimage.uniform_filter1d(slow[first:last] ** 2 + slope**2, width, mode="nearest")
    low = int(np.argmin(power[: round(0.04 * _RATE)]))
    after = float(np.max(power[low:]))
    if power[low] < 0.06 * after:
        return _rise(x, rate, (first + low) / _RATE)
    if lag > 0:
        whole = round(lag)
        a = max(first, 2 * whole)
        if last - a > 30:
            was = slow[a - whole : last - whole]
            before = slow[a - whole : a] - slow[a - 2 * whole : a - whole]
            strays = ndimage.uniform_filter1d(
                (slow[a:last] - was) ** 2, round(0.0015 * _RATE), mode="nearest"
            )
            limit = max(6 * float(np.mean(before**2)), 0.05 * float(np.mean(slow[a:last] ** 2)))
            over = np.flatnonzero(strays > limit)
            if over.size:
                return float(a + over[0]) / _RATE
    return _rise(x, rate, around_s - 0.01)


def _rise(x: Array, rate: int, from_s: float) -> float:
    """The first time from a gap on at which a sound rises out of it."""
    a = max(0, round(from_s * rate))
    piece = x[a : a + round(0.06 * rate)]
    if piece.size < 100:
        return from_s
    count = max(4, round(0.001 * rate))
    power = ndimage.uniform_filter1d(piece**2, count, origin=-(count // 2), mode="nearest")
    floor = float(np.min(power[: round(0.006 * rate)]))
    return (a + int(np.argmax(power > max(6 * floor, 0.003 * float(power.max()))))) / rate


def is_one_voice(x: Array, rate: int) -> bool:
    """Whether a sound, shape (frames,), is one low voice nearly all of the time that it sounds.

    Parameters
    ----------
    x, rate
        Samples, shape (frames,); frames a second.

    Returns
    -------
    bool
        Whether it is.

    Examples
    --------
    >>> at = np.arange(24000) / 48000
    >>> note = np.sin(2 * np.pi * 55 * at) * np.exp(-at / 0.3)
    >>> is_one_voice(note, 48000)
    True
    """
    # What is bright is none: a look at that costs nothing beside following its pitch.
    if x.size < rate // 2 or _brightness(x) >= _BRIGHT:
        return False
    frames = _tracked(change_rate(x, rate, _RATE))
    heard = frames.level_db > frames.level_db.max() - _ENDED_DB
    heard = ndimage.binary_erosion(heard, iterations=_EDGE_FRAMES)
    clear = heard & ~np.isnan(frames.semitones) & (frames.dips < _ONE_VOICE_DIP)
    return bool(clear.sum() > _ONE_VOICE_SHARE * heard.sum() > 0)


def _brightness(x: Array) -> float:
    return float(np.mean(np.diff(x) ** 2)) / max(float(np.mean(x * x)), 1e-30)


def are_all_of_it(found: list[NoteFound], x: Array, rate: int) -> bool:
    """Whether the notes found in a bass loop, shape (frames,), are what it is made of: in a part of a mix
    they are not.

    Parameters
    ----------
    found
        Notes of the loop.
    x, rate
        Samples, shape (frames,); frames a second.

    Returns
    -------
    bool
        Whether they are.

    Examples
    --------
    >>> at = np.arange(24000) / 48000
    >>> note = np.sin(2 * np.pi * 55 * at) * np.exp(-at / 0.3)
    >>> are_all_of_it(transcribe(note, 48000), note, 48000)
    True
    """
    held = np.zeros(x.size, dtype=bool)
    for note in found:
        first = round(note.at_ms / 1000 * rate)
        held[np.arange(first, first + round(note.length_ms / 1000 * rate)) % x.size] = True
    energy = x * x
    return bool(energy[held].sum() > _COVERED * energy.sum() and _brightness(x) < _BASS_BRIGHT)


def transcribe(x: Array, rate: int, *, loop: bool = False) -> list[NoteFound]:
    """The notes of a line of one voice, shape (frames,), in their order; empty where there are none.

    With `loop` the end is followed by the start.

    Parameters
    ----------
    x, rate
        Samples, shape (frames,); frames a second.
    loop
        Whether the end is followed by the start.

    Returns
    -------
    list of NoteFound
        In their order.

    Examples
    --------
    >>> at = np.arange(24000) / 48000
    >>> note = np.sin(2 * np.pi * 55 * at) * np.exp(-at / 0.3)
    >>> [round(one.hz) for one in transcribe(np.concatenate([note, note]), 48000)]
    [55, 55]
    """
    if x.size < rate // 10 or float(np.max(np.abs(x), initial=0.0)) < 1e-5:
        return []
    margin = min(round(_AROUND_S * rate), x.size) if loop else 0
    whole = np.concatenate([x[x.size - margin :], x, x[:margin]])
    slow = change_rate(whole, rate, _RATE)
    frames = _tracked(slow)
    heard = frames.level_db > frames.level_db.max() - _HEARD_DB
    marks = _starts(slow, frames, heard)
    if heard[:3].any() and all(n > round(_APART_S / frames.hop_s) for n in marks):
        marks.insert(0, 0)
    found = []
    for k, first in enumerate(marks):
        until = marks[k + 1] if k + 1 < len(marks) else frames.level_db.size
        note = _note(whole, slow, frames, heard, first, until, rate, loop or first > 2)
        if note is not None:
            found.append(note)
    begun_ms, length_ms = margin / rate * 1000, x.size / rate * 1000
    moved = [replace(note, at_ms=note.at_ms - begun_ms) for note in _joined(found)]
    inside = [note for note in moved if not loop or -5.0 <= note.at_ms < length_ms - 5.0]
    return [replace(note, at_ms=max(note.at_ms, 0.0)) for note in inside]


def _note(
    whole: Array, slow: Array, frames: _Frames, heard: NDArray[np.bool_],
    first: int, until: int, rate: int, refine: bool,
) -> _Piece | None:  # fmt: skip
    """The piece between two frames; None where nothing steady sounds there."""
    # Behind the end of the note before, where that is still in it.
    beginning = frames.level_db[first : min(first + round(0.06 / frames.hop_s), until)]
    dip = int(np.argmin(beginning))
    if float(frames.level_db[first + dip : until].max()) > beginning[dip] + _RISE_DB:
        first += dip
    level = frames.level_db[first:until]
    top = int(np.argmax(level))
    down = np.flatnonzero(level[top:] < max(level[top] - _ENDED_DB, frames.level_db.max() - _HEARD_DB))
    last = first + (top + int(down[0]) if down.size else level.size)
    if (last - first) * frames.hop_s < _SHORTEST_S or not heard[first:last].any():
        return None
    st = frames.semitones[first:last]
    # What is still on its way when a note begins is its onset, not its pitch.
    body = st[len(st) // 2 :]
    body = body[~np.isnan(body)]
    if body.size < 3:
        return None
    pitch = float(np.median(body))
    if float(np.mean(np.abs(body - pitch) < 1.0)) < 0.5:
        return None
    if float(np.mean(np.abs(body - pitch) < 0.7)) < 0.3:
        return None
    near = np.flatnonzero(np.abs(np.nan_to_num(st, nan=-99.0) - pitch) < 0.7)
    hop = round(_HOP_S * _RATE)
    a, b = int(first + near[0]) * hop, int(first + near[-1] + 1) * hop
    # The end of a stretch already holds the next note.
    # Of a short note only the later half has arrived at its pitch.
    late = 0.45 if b - a < 0.2 * _RATE else 0.25
    a, b = a + round(late * (b - a)), b - min(round(0.02 * _RATE), (b - a) // 5)
    lag = _RATE / (440 * 2 ** ((pitch - 69) / 12))
    piece = slow[a:b]
    hz = _precise(piece, lag, _RATE) if piece.size > 2.2 * lag else _RATE / lag
    at_s = first * frames.hop_s
    if refine:
        earlier = frames.semitones[max(0, first - 7)]
        before = 0.0 if np.isnan(earlier) else _RATE / (440 * 2 ** ((earlier - 69) / 12))
        at_s = _onset(whole, rate, slow, at_s, hz, before)
    note = NoteFound(at_s * 1000, (last * frames.hop_s - at_s) * 1000, hz, float(level.max()))
    return _Piece(note, bool(np.mean(np.abs(body - pitch)) < _STEADY_SEMITONES))


def _joined(found: list[_Piece]) -> list[NoteFound]:
    """Without the pieces that one onset was cut into: the later one keeps the earlier start.

    These are too short to be notes, or have no steady pitch before they go on more softly.
    """
    out: list[_Piece] = []
    for piece in found:
        note = piece.note
        if out:
            before = out[-1]
            apart_ms = note.at_ms - before.note.at_ms
            softer = note.level_db < before.note.level_db - _SOFTER_DB
            wavers = not before.steady and softer and apart_ms < _WAVERS_MS
            if apart_ms < 1000 * _SHORTEST_S or wavers:
                out.pop()
                loudest = max(note.level_db, before.note.level_db)
                whole = NoteFound(before.note.at_ms, apart_ms + note.length_ms, note.hz, loudest)
                piece = _Piece(whole, piece.steady)
        out.append(piece)
    return [piece.note for piece in out]
