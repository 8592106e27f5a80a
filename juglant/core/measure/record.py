"""The low end of a finished record, and two of them beside each other at the same loudness.

What is told of its ducking is what its level from 20 to 150 Hz shows over the kicks: where a kick's tail
fills the dip, the dip is less than what was ducked.
"""

from collections.abc import Callable
from dataclasses import asdict, dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from juglant.core.measure import levels
from juglant.core.measure.overlap import level_db
from juglant.core.measure.reference import reference
from juglant.core.measure.stereo import both_sides, correlation, listening_channel, stereo
from juglant.core.music import midi_to_hz, note_name
from juglant.core.process import filters, lowpart
from juglant.core.tempo import beat_ms

Array = NDArray[np.float64]

# The level of the low band every millisecond, over so many: about a period of what is lowest.
_WINDOW_MS, _FLOOR_DB = 25, -120.0
# A kick's top lies within this of its onset; it is over when it has fallen so far.
_TOP_MS, _FALLEN_DB = 120, 12.0
# Where in a gap the bass stands, what of it, how near it is back; less of a dip is none, more a rest.
_STANDS, _STANDS_SHARE, _BACK_DB, _LEAST_DIP_DB, _DEEPEST_DB = (0.5, 0.95), 75.0, 1.0, 1.5, 26.0
# A bass so far under the kick is none.
_NO_BASS_DB = 36.0
_LEAST_KICKS = 2
# A gap that so many of a hundred do not exceed; one within so much of it is as long.
_GAP_SHARE, _EVEN = 75, 0.97
_OFF_ITS_COURSE = ("kick_length_ms", "kick_over_bass_db", "ducking_depth_db", "ducking_return_ms")
# A kick's body, what it falls through at first, and its beater. A rise counts no further, less is none; a
# place has its share of the usual one, and of the beater's.
_BODY_HZ, _SWEEP_HZ, _BEATER_HZ = (40.0, 110.0), (120.0, 400.0), (1500.0, 6000.0)
_MOST_RISE_DB, _LEAST_RISE_DB, _SHARE, _CLICKING, _NEAR_MS = 18.0, 1.5, 0.5, 0.4, 20
# By so many dB less in the lowest octaves a rise counts a tenth.
_LOUD_DB = 16.0
# When a kick's sweep is over, how far a fall counts, and what less is none.
_LATER_MS, _MOST_FALL_DB, _LEAST_FALL_DB = 80, 30.0, 4.0
# A note rings on that falls by less than such a share of the most that any place does: more where its body
# does not fall by so much either. A place of less than so much of the strongest does not tell.
_RINGS_ON, _RINGS_ON_TOO, _BODY_FALLS_DB, _FAINT = 0.35, 0.65, 5.0, 0.08
_NOTES = range(16, 56)
_THIRD_OCTAVES_HZ = tuple(float(round(1000 * 2 ** (n / 3), 1)) for n in range(-16, 13))
_SUB_HZ = 120.0


@dataclass(frozen=True)
class Record:
    """A record's low end; None where it does not say, and why in `reasons`.

    Levels of notes and third octaves are in dB re its own loudness, so that records compare.
    """

    seconds: float
    bpm: float | None
    bpm_confidence: float
    key: str | None
    key_confidence: float
    lufs: float
    true_peak_dbtp: float
    crest_db: float
    kicks: int
    kick_length_ms: float | None
    kick_over_bass_db: float | None
    ducking_depth_db: float | None
    ducking_return_ms: float | None
    low_db: float
    sub_correlation: float | None
    low_mono_loss_db: float | None
    notes_db: dict[str, float]
    third_octaves_db: dict[str, float]
    reasons: dict[str, str]

    def as_dict(self) -> dict[str, Any]:
        """Plain values."""
        return asdict(self)


@dataclass(frozen=True)
class _Known:
    """What need not be listened for."""

    key: str
    key_confidence: float = 1.0
    bpm: float | None = None
    bpm_confidence: float = 1.0

    @property
    def reasons(self) -> dict[str, str]:
        return {}


@dataclass(frozen=True)
class Difference:
    """One number of two records, B against A, in a sentence; `size` puts it in order."""

    name: str
    a: float
    b: float
    difference: float
    unit: str
    said: str
    fix: str | None
    size: float


def _levels_db(x: Array, rate: int, low_hz: float, high_hz: float, window_ms: int) -> Array:
    """The level between two frequencies every millisecond, in dB, no lower than what is silence."""
    band = lowpart.band(x, low_hz, high_hz, rate)
    return np.maximum(level_db(band, rate, window_ms, loop=False), _FLOOR_DB)


def _rise(level_db: Array, after_ms: int, before_ms: int) -> Array:
    """By how many dB a level rises at every millisecond: its most within a time after, over what it was a
    while before.
    """
    after = ndimage.maximum_filter1d(level_db, after_ms, origin=-((after_ms - 1) // 2))
    before = np.concatenate([np.full(before_ms, level_db.min()), level_db[:-before_ms]])
    return np.asarray(np.clip(after - before, 0.0, _MOST_RISE_DB))


def kicks_in(x: Array, rate: int, bpm: float) -> list[float]:
    """When kicks are struck in a record of a tempo, in ms: where on the sixteenths of the bar the lowest
    octaves, what lies above them and the beater rise together, as they do bar after bar.

    Parameters
    ----------
    x, rate
        Samples, shape (frames,); frames a second.
    bpm
        Tempo.

    Returns
    -------
    list of float
        Ms.

    Examples
    --------
    >>> at = np.arange(24000) / 48000
    >>> kick = np.sin(2 * np.pi * 55 * at) * np.exp(-at / 0.1)
    >>> [round(one / 500) for one in kicks_in(np.tile(kick, 8), 48000, 120.0)]
    [0, 1, 2, 3, 4, 5, 6, 7]
    """
    body = _levels_db(x, rate, *_BODY_HZ, 20)
    near = ndimage.maximum_filter1d(body, 60, origin=-29)
    beater = _rise(_levels_db(x, rate, *_BEATER_HZ, 3), 5, 4)
    above = _levels_db(x, rate, *_SWEEP_HZ, 8)
    sweep = _rise(above, 14, 8)
    # All three together, and the more where the lowest octaves are loud.
    loud = 10 ** ((near - float(np.percentile(near, 98))) / _LOUD_DB)
    struck = np.cbrt(np.maximum(_rise(body, 30, 15), 1.0) * np.maximum(sweep, 1.0) * beater) * loud
    beat = beat_ms(bpm)
    sixteenth, bar = beat / 4, 4 * beat
    bars = int(struck.size // bar)
    if bars < 1:
        return []
    # Where the sixteenths lie: the shift at which most rises on them.
    grid = np.arange(16 * bars) * sixteenth

    def at(shift: float) -> NDArray[np.int64]:
        return np.clip(np.round(grid + shift), 0, struck.size - 1).astype(np.int64)

    sharp = ndimage.maximum_filter1d(struck, 7)
    shift = float(max(np.arange(0.0, sixteenth, 2.0), key=lambda one: float(sharp[at(one)].sum())))
    starts = at(shift)
    eased = [ndimage.maximum_filter1d(one, 2 * _NEAR_MS + 1)[starts] for one in (struck, beater)]
    places, clicks = (one.reshape(bars, 16) for one in eased)
    clicking = np.median(clicks, axis=0)
    usual = np.median(places, axis=0)
    if usual.max() < _LEAST_RISE_DB:
        return []
    soon, later = (np.median(_fallen(one, starts).reshape(bars, 16), axis=0) for one in (above, body))
    usual = np.where(_rings_on(soon, later, usual), 0.0, usual)
    top = int(np.argmax(usual))
    found = []
    for n, start in enumerate(starts):
        place = n % 16
        if clicking[place] < _CLICKING * clicking[top]:
            continue
        if usual[place] < _SHARE * usual[top] or places[n // 16, place] < _SHARE * usual[place]:
            continue
        first = max(0, int(start) - _NEAR_MS)
        found.append(float(first + int(np.argmax(struck[first : start + _NEAR_MS + 1]))))
    return found


def _fallen(level_db: Array, starts: NDArray[np.int64]) -> Array:
    """How far a level has fallen from its top near each start when a kick’s sweep is over, dB."""
    top = ndimage.maximum_filter1d(level_db, 2 * _NEAR_MS + 1)
    later = np.minimum(starts + _LATER_MS, level_db.size - 1)
    return np.asarray(np.clip(top[starts] - level_db[later], 0.0, _MOST_FALL_DB))


def _rings_on(above_db: Array, body_db: Array, usual: Array) -> NDArray[np.bool_]:
    """At which places of the bar a bass note begins: what a kick sweeps through is soon over, a note rings
    on there, and in its body too. Where nothing falls, as under a chord, none is known to be one.
    """
    # Those that are as strong tell; where all of these ring on, the fainter do.
    of_strong, of_all = (float(above_db[usual > share * usual.max()].max()) for share in (_SHARE, _FAINT))
    most = of_all if of_strong < _LEAST_FALL_DB else of_strong
    if most < _LEAST_FALL_DB:
        return np.zeros(usual.size, np.bool_)
    ends = body_db > _BODY_FALLS_DB
    return np.asarray(above_db < np.where(ends, _RINGS_ON, _RINGS_ON_TOO) * most)


def _folded(course: Array, kicks_ms: list[float]) -> Array | None:
    """The median course from one kick to the next, of those that are followed by as long a gap as a good
    part of them is: so it shows most, and is the same wherever in the bar a passage begins.
    """
    if len(kicks_ms) < _LEAST_KICKS:
        return None
    gaps = np.diff([*kicks_ms, course.size])
    gap = int(np.percentile(gaps[:-1], _GAP_SHARE, method="lower"))
    followed = zip(kicks_ms, gaps, strict=True)
    pieces = [course[round(at) : round(at) + gap] for at, own in followed if own > _EVEN * gap]
    whole = [piece for piece in pieces if piece.size == gap]
    return np.median(whole, axis=0) if len(whole) >= _LEAST_KICKS and gap > 2 * _TOP_MS else None


def _read(course: Array) -> tuple[dict[str, float | None], dict[str, str]]:
    """Kick length, kick over bass, ducking depth and return, off a folded course."""
    found: dict[str, float | None] = dict.fromkeys(_OFF_ITS_COURSE)
    top = int(np.argmax(course[:_TOP_MS]))
    peak = float(course[top])
    first, last = (round(share * course.size) for share in _STANDS)
    stands = float(np.percentile(course[first:last], _STANDS_SHARE))
    fallen = np.flatnonzero(course[top:] < peak - _FALLEN_DB)
    length = top + int(fallen[0]) if fallen.size else None
    if stands < peak - _NO_BASS_DB:
        found["kick_length_ms"] = None if length is None else float(length)
        return found, dict.fromkeys(("kick_over_bass_db", "ducking_depth_db"), "there is no bass with it")
    found["kick_over_bass_db"] = peak - stands
    low = top + int(np.argmin(course[top:last]))
    depth = stands - float(course[low])
    reasons: dict[str, str] = {}
    if depth < _LEAST_DIP_DB:
        found["ducking_depth_db"] = 0.0
        reasons["ducking_return_ms"] = "it is not ducked so that its level showed it"
    elif low > first:
        reasons["ducking_depth_db"] = "what falls behind the kick is the bass itself"
    elif depth > _DEEPEST_DB:
        reasons["ducking_depth_db"] = "the bass rests after the kick: there is nothing that was ducked"
    else:
        found["ducking_depth_db"] = depth
        back = np.flatnonzero(course[low:] >= stands - _BACK_DB)
        found["ducking_return_ms"] = float(low + back[0]) if back.size else None
    found["kick_length_ms"] = float(min(length, low) if length is not None else low)
    return found, reasons


def record(
    x: Array, rate: int, bpm: float | None = None, key: str | None = None,
    kicks_ms: list[float] | None = None,
) -> Record:  # fmt: skip
    """Measure a passage of a record, shape (frames,) or (frames, 2), a minute of it at most.

    `bpm` is the tempo where that is known. Where its `key` is known too, neither is listened for; nor are
    kicks where it is known when they are struck.

    Parameters
    ----------
    x, rate
        Samples, shape (frames,); frames a second.
    bpm
        Tempo where it is known.
    key
        Key where it is known.
    kicks_ms
        When kicks are struck, where that is known.

    Returns
    -------
    Record
        What is told of it; None in it where a number was not to be had.

    Examples
    --------
    >>> at = np.arange(24000) / 48000
    >>> kick = np.sin(2 * np.pi * 55 * at) * np.exp(-at / 0.1)
    >>> record(np.tile(kick, 16), 48000, 120.0).bpm
    120.0
    """
    x = x[: round(60 * rate)]
    mono = listening_channel(x)
    told = _Known(key) if bpm and key else reference(mono, rate)
    # What has one side is heard from both loudspeakers.
    lufs = levels.integrated_lufs(both_sides(x), rate)
    tempo = bpm or told.bpm
    if kicks_ms is None:
        kicks_ms = [] if tempo is None else kicks_in(mono, rate, tempo)
    folded = _folded(_levels_db(mono, rate, *filters.LOW_BAND_HZ, _WINDOW_MS), kicks_ms)
    reasons = dict(told.reasons)
    if folded is None:
        numbers: dict[str, float | None] = dict.fromkeys(_OFF_ITS_COURSE)
        reasons["kick_length_ms"] = "no kick comes back evenly in it"
    else:
        numbers, more = _read(folded)
        reasons |= more
    spectrum = levels.Spectrum(mono, rate)
    over_its_loudness_db = 10 * float(np.log10(max(float(np.mean(mono * mono)), 1e-14))) - lufs

    def band_db(low_hz: float, high_hz: float) -> float:
        return spectrum.share_db(low_hz, high_hz) + over_its_loudness_db

    sides = stereo(x, rate)
    step, third = 2 ** (1 / 24), 2 ** (1 / 6)
    peak = levels.peak_dbfs(x)
    return Record(
        seconds=mono.size / rate, bpm=tempo, bpm_confidence=1.0 if bpm else told.bpm_confidence,
        key=told.key, key_confidence=told.key_confidence, lufs=lufs,
        true_peak_dbtp=levels.true_peak_dbtp(x),
        crest_db=peak - levels.to_db(float(np.sqrt(np.mean(x * x)))), kicks=len(kicks_ms), **numbers,
        low_db=band_db(20.0, 150.0), sub_correlation=_sub_correlation(x, rate),
        low_mono_loss_db=sides.low_mono_loss_db,
        notes_db={
            note_name(midi): round(band_db(midi_to_hz(midi) / step, midi_to_hz(midi) * step), 2)
            for midi in _NOTES
        },
        third_octaves_db={f"{at:g}": round(band_db(at / third, at * third), 2) for at in _THIRD_OCTAVES_HZ},
        reasons=reasons,
    )  # fmt: skip


def _sub_correlation(x: Array, rate: int) -> float | None:
    """How alike both sides are below 120 Hz; None for what has one side, or nothing there."""
    if x.ndim == 1:
        return None
    left, right = (lowpart.band(x[:, n], 20.0, _SUB_HZ, rate) for n in (0, 1))
    return correlation(left, right)


# What is compared: the word, the unit, how much of it is one step of difference, and the way to the other.
_COMPARED: dict[str, tuple[str, str, float, Callable[[float], str] | None]] = {
    "kick_length_ms": ("the kick", "ms", 25.0, lambda v: f"make the kick {v:.0f} ms long"),
    "kick_over_bass_db": (
        "the kick over the bass", "dB", 1.5, lambda v: f"bring the kick {v:.1f} dB over the bass",
    ),
    "ducking_depth_db": ("the ducking", "dB", 2.0, lambda v: f"duck by {v:.1f} dB"),
    "ducking_return_ms": (
        "the way back after the kick", "ms", 25.0, lambda v: f"let the bass be back after {v:.0f} ms",
    ),
    "low_db": ("20 to 150 Hz", "dB", 1.5, None),
    "crest_db": ("the crest", "dB", 2.0, None),
    "sub_correlation": ("the sub’s correlation", "", 0.15, lambda v: "make the sub mono"),
    "lufs": ("the loudness", "LU", 2.0, None),
    "true_peak_dbtp": ("the true peak", "dB", 2.0, None),
    "bpm": ("the tempo", "BPM", 2.0, None),
}  # fmt: skip
_THIRD_STEP_DB, _LEAST = 3.0, 0.5


def differences(a: Record, b: Record, *, first: str = "A", second: str = "B") -> list[Difference]:
    """What is different in B from A, the largest first: what both have, by more than half a step.

    The fix is what would make A like B, where one thing does. They are called `first` and `second`.

    Parameters
    ----------
    a
        A record.
    b
        Another.
    first
        What the first is called.
    second
        What the second is called.

    Returns
    -------
    list of Difference
        The largest first.

    Examples
    --------
    >>> at = np.arange(24000) / 48000
    >>> kick = np.sin(2 * np.pi * 55 * at) * np.exp(-at / 0.1)
    >>> one = record(np.tile(kick, 16), 48000, 120.0)
    >>> differences(one, one)
    []
    """
    found = []
    for name, (what, unit, step, fix) in _COMPARED.items():
        one, other = getattr(a, name), getattr(b, name)
        if one is None or other is None:
            continue
        by = other - one
        if abs(by) < _LEAST * step:
            continue
        digits = 2 if not unit else 0 if unit == "ms" else 1
        space = f" {unit}" if unit else ""
        more = "more" if by > 0 else "less"
        if unit == "ms":
            more = "longer" if by > 0 else "shorter"
        said = (
            f"In {second} {what} is {abs(by):z.{digits}f}{space} {more}: "
            f"{other:z.{digits}f} against {one:z.{digits}f}{space}."
        )
        way = None if fix is None or (name == "sub_correlation" and by < 0) else fix(other)
        found.append(Difference(name, one, other, by, unit, said, way, abs(by) / step))
    for third, one in a.third_octaves_db.items():
        other = b.third_octaves_db[third]
        by = other - one
        # Nothing is to be said of a band in which neither has anything.
        if abs(by) < _THIRD_STEP_DB or max(one, other) < -60:
            continue
        more = "more" if by > 0 else "less"
        said = f"Around {third} Hz there is {abs(by):.1f} dB {more} in {second} at the same loudness."
        size = abs(by) / _THIRD_STEP_DB / 2
        found.append(Difference(f"third_{third}_hz", one, other, by, "dB", said, None, size))
    return sorted(found, key=lambda one: -one.size)
