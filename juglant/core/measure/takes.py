"""A recording of hits, cut into takes.

Onsets are rises of the level in several bands at once (after S. Böck & G. Widmer, "Maximum
filter vibrato suppression for onset detection", DAFx 2013, with octaves for its filter bank),
found on a coarse grid and then placed on the samples themselves.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from juglant.core.measure.stereo import mono
from juglant.core.measure.transcribe import is_one_voice, transcribe
from juglant.core.process import filters
from juglant.core.recipes.recording import Recording

Array = NDArray[np.float64]

_HOP_MS = 1.0
# Edges of the bands whose levels are watched.
_EDGES_HZ = (60.0, 200.0, 600.0, 1800.0, 5000.0, 12000.0)
_WINDOW_MS = 3.0
# A rise is counted against the level this long before.
_BEFORE_MS, _REFERENCE_MS = 4.0, 14.0
# A transient begins where the samples are no longer foretold by those before: this many times further off
# than usual, and on the whole so for the next millisecond.
_ORDER, _KNOWN_MS, _SEARCHED_MS = 24, 22.0, (-12.0, 8.0)
_FORETOLD_TIMES, _GOES_ON_TIMES, _GOES_ON_MS = 4.5, 2.0, 1.0
# A cut leaves this much in front of the transient, and the way to a zero crossing, and fades it in.
_ROOM_MS, _BEFORE_CUT_MS, _FADE_IN_MS = 0.4, 3.0, 0.25
_LEAST_MS, _FADE_MS = 12.0, 2.0
# A tail ends where it is as loud as the room; in silence, where nobody hears it. A room is known by longer
# windows than a tail, whose last stretch tells when it reaches it.
_DEAD_DB, _TAIL_WINDOW_MS, _ROOM_WINDOW_MS = 75.0, 12.0, 60.0
_LAST_STRETCH_DB = (3.0, 20.0)
THRESHOLD_DB, MIN_GAP_MS = (
    float(Recording.model_fields[name].default) for name in ("threshold_db", "min_gap_ms")
)
MOST_TAKES = 400


@dataclass(frozen=True)
class Cut:
    """Where a take lies in its recording, ms; `onset_ms` is its first transient."""

    start_ms: float
    onset_ms: float
    end_ms: float


def _mean_power(x: Array, width: int) -> Array:
    return np.asarray(np.maximum(ndimage.uniform_filter1d(x * x, width, mode="constant"), 0.0))


def _hop(rate: int) -> int:
    """Frames from one level to the next: whole ones, so not quite a millisecond at every rate."""
    return round(_HOP_MS / 1000 * rate)


def _levels_db(x: Array, rate: int) -> tuple[Array, Array]:
    """Level of every band each millisecond, shape (bands, steps), and its noise floor."""
    step = _hop(rate)
    width = max(1, round(_WINDOW_MS / 1000 * rate))
    out = []
    for low, high in zip(_EDGES_HZ, (*_EDGES_HZ[1:], 20000.0), strict=True):
        if low > 0.4 * rate:
            break
        band = filters.filtered(x, filters.steep("highpass", low, 12, rate))
        if high < 0.45 * rate:
            band = filters.filtered(band, filters.steep("lowpass", high, 12, rate))
        power = _mean_power(band, width)[::step]
        out.append(10 * np.log10(np.maximum(power, 1e-14)))
    bands = np.array(out)
    # What is exceeded nearly always is the room.
    floor = np.percentile(bands, 15, axis=1)[:, None]
    return bands, floor


def _strength(bands: Array, floor: Array) -> Array:
    """How far all bands together rise at each step, in dB: the two largest rises count."""
    # Below 6 dB over the room nothing counts as level: noise is always on the move.
    heard = np.maximum(bands, floor + 6.0)
    before = round(_BEFORE_MS / _HOP_MS)
    width = round((_REFERENCE_MS - _BEFORE_MS) / _HOP_MS)
    # The highest level of a stretch that ended a little ago.
    past = ndimage.maximum_filter1d(heard, width, axis=1, mode="nearest")
    past = np.roll(past, before + width // 2, axis=1)
    past[:, : before + width] = floor + 6.0
    rise = np.sort(np.maximum(heard - past, 0.0), axis=0)
    return np.asarray(0.5 * (rise[-1] + rise[-2]))


def onsets_ms(
    x: Array, rate: int, threshold_db: float = THRESHOLD_DB, min_gap_ms: float = MIN_GAP_MS
) -> list[float]:
    """Times of the first transient of every hit in `x`, shape (frames,).

    `threshold_db` is the rise that makes an onset, the two loudest rises of six bands taken
    together; two onsets are at least `min_gap_ms` apart.

    Parameters
    ----------
    x
        Samples, shape (frames,); full scale is 1.
    rate, threshold_db
        Frames a second; the rise that makes an onset.
    min_gap_ms
        The least time between two.

    Returns
    -------
    list of float
        ms, in their order.

    Examples
    --------
    >>> at = np.arange(24000) / 48000
    >>> x = np.sin(2 * np.pi * 55.0 * at) * np.exp(-at / 0.08)
    >>> [round(at / 100) for at in onsets_ms(np.concatenate([np.zeros(9600), x, x]), 48000)]
    [2, 7]
    """
    if x.size < rate // 50 or float(np.max(np.abs(x))) < 1e-6:
        return []
    # An offset that begins with the file is a step, but no onset.
    bands, floor = _levels_db(x - float(np.mean(x[: rate // 50])), rate)
    strength = _strength(bands, floor)
    gap = max(3, round(min_gap_ms / _HOP_MS))
    peaks = np.flatnonzero(
        (strength == ndimage.maximum_filter1d(strength, 9, mode="constant")) & (strength >= threshold_db)
    )
    # The stronger of two that are too close is kept.
    chosen: list[int] = []
    for peak in peaks[np.argsort(-strength[peaks], kind="stable")]:
        if all(abs(int(peak) - other) >= gap for other in chosen):
            chosen.append(int(peak))
    return sorted(_placed(x, rate, step * _hop(rate)) for step in chosen[:MOST_TAKES])


def _surprise(x: Array, first: int) -> tuple[Array, float]:
    """How far the samples from `first` on are off what those before foretell, and how far off is usual.

    A linear prediction is fitted to what comes before `first`: tails and the room go on as they were.
    """
    lags = np.lib.stride_tricks.sliding_window_view(x, _ORDER)
    known = first - _ORDER
    weights = np.linalg.lstsq(lags[:known], x[_ORDER:first], rcond=1e-9)[0]
    off = np.abs(x[_ORDER:] - lags[:-1] @ weights)
    return off[known:], float(np.sqrt(np.mean(off[:known] ** 2)))


def _placed(x: Array, rate: int, at: int) -> float:
    """The transient's own beginning in ms, on the samples, near a frame where the level rose."""
    from_frame, to_frame = (round(at + ms / 1000 * rate) for ms in _SEARCHED_MS)
    from_frame, to_frame = max(from_frame, 0), min(to_frame, x.size)
    known = round(_KNOWN_MS / 1000 * rate)
    piece = x[max(0, from_frame - known) : to_frame]
    piece = np.concatenate([np.zeros(known - min(known, from_frame)), piece])
    off, usual = _surprise(piece, known)
    limit = max(_FORETOLD_TIMES * usual, 1e-4 * float(np.max(np.abs(piece))))
    ahead = max(1, round(_GOES_ON_MS / 1000 * rate))
    goes_on = np.sqrt(_mean_power(np.concatenate([off, np.zeros(ahead)]), ahead))[ahead // 2 :][: off.size]
    found = np.flatnonzero((off > limit) & (goes_on > limit * _GOES_ON_TIMES / _FORETOLD_TIMES))
    return float((from_frame + (found[0] if found.size else at - from_frame)) / rate * 1000)


def zero_before(x: Array, frame: int, reach: int) -> int:
    """The last frame at or before `frame`, within `reach`, where `x` passes through zero.

    Parameters
    ----------
    x
        Samples, shape (frames,).
    frame
        Where it is looked back from.
    reach
        How many frames it may lie before.

    Returns
    -------
    int
        A frame.

    Examples
    --------
    >>> zero_before(np.array([0.2, -0.1, -0.3, -0.4]), 3, 3)
    1
    """
    a = max(0, frame - reach)
    piece = x[a : frame + 1]
    crossings = np.flatnonzero(np.signbit(piece[1:]) != np.signbit(piece[:-1]))
    return a + int(crossings[-1]) + 1 if crossings.size else max(0, frame)


def _apart(at_ms: list[float], least_ms: float) -> list[float]:
    """The first of times that are too close."""
    out: list[float] = []
    for at in at_ms[:MOST_TAKES]:
        if not out or at - out[-1] >= least_ms:
            out.append(at)
    return out


class _Tails:
    """Where the tails of a recording sink into its room."""

    def __init__(self, x: Array, rate: int) -> None:
        self._widths = [max(1, round(ms / 1000 * rate)) for ms in (_TAIL_WINDOW_MS, _ROOM_WINDOW_MS)]
        self._power, self._slow = (_mean_power(x, width) for width in self._widths)
        quiet = np.percentile(self._slow, 10) if x.size else 0.0
        stay = self._slow[self._slow <= 2.0 * quiet]
        self._room = float(np.mean(stay)) if stay.size else 0.0

    def end(self, start: int, limit: int) -> int:
        """The frame at which what begins at `start` is as loud as the room; `limit` if it still rings.

        What begins at `limit` is not seen through the window.
        """
        fast = self._power[start : max(limit - self._widths[0] // 2, start + 1)]
        slow = self._slow[start : max(limit - self._widths[1] // 2, start + 1)]
        top = int(np.argmax(fast))
        room = max(self._room, fast[top] * 10 ** (-_DEAD_DB / 10))
        gone = np.flatnonzero(slow[top:] < 2.0 * room)
        rough = top + int(gone[0]) if gone.size else fast.size
        # Power above the room's own falls in a line, in dB, on to where it meets the room.
        over = 10 * np.log10(np.maximum(fast[top:rough] / room - 1.0, 1e-6))
        low, high = _LAST_STRETCH_DB
        loud = np.flatnonzero(over > high)
        at = np.arange(int(loud[-1]) if loud.size else 0, over.size)
        at = at[over[at] > low]
        if at.size > self._widths[0]:
            slope, level = np.polyfit(at, over[at], 1)
            if slope < 0:
                end = start + top + round(-level / slope)
                return end if end < limit - self._widths[0] // 2 else limit
        return start + rough if gone.size else limit


def cut(
    x: Array, rate: int, threshold_db: float = THRESHOLD_DB, min_gap_ms: float = MIN_GAP_MS
) -> list[Cut]:
    """Cut a recording, shape (frames,) or (frames, channels), into takes.

    Each begins at a zero crossing just before its first transient and ends where its tail has
    died into the room, or before the next hit. A line of one low voice is cut at its notes, whatever
    `threshold_db`.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels); full scale is 1.
    rate, threshold_db
        Frames a second; the rise that makes a take.
    min_gap_ms
        The least time between two.

    Returns
    -------
    list of Cut
        From where to where, in ms.

    Examples
    --------
    >>> at = np.arange(24000) / 48000
    >>> x = np.sin(2 * np.pi * 55.0 * at) * np.exp(-at / 0.08)
    >>> len(cut(np.concatenate([np.zeros(9600), x, x]), 48000))
    2
    """
    heard = mono(x)
    if is_one_voice(heard, rate):
        found = _apart([note.at_ms for note in transcribe(heard, rate)], min_gap_ms)
    else:
        found = onsets_ms(heard, rate, threshold_db, min_gap_ms)
    room_frames = round(_ROOM_MS / 1000 * rate)
    starts = [
        zero_before(
            heard, max(round(at / 1000 * rate) - room_frames, 0), round(_BEFORE_CUT_MS / 1000 * rate)
        )
        for at in found
    ]
    ends = _Tails(heard, rate)
    out = []
    for index, start in enumerate(starts):
        limit = starts[index + 1] if index + 1 < len(starts) else heard.size
        end = min(max(ends.end(start, limit), start + round(_LEAST_MS / 1000 * rate)), limit)
        if index + 1 < len(starts) and end >= limit - round(_FADE_MS / 1000 * rate):
            end = zero_before(heard, limit - 1, round(_FADE_MS / 1000 * rate))
        out.append(Cut(start / rate * 1000, found[index], max(end, start + 2) / rate * 1000))
    return out


def piece_of(x: Array, rate: int, where: Cut) -> Array:
    """A take's samples; what lies before its transient is faded in, and its end out over 2 ms, so that no
    cut is heard.

    Parameters
    ----------
    x, rate
        Samples, shape (frames,) or (frames, channels); frames a second.
    where
        Where the take lies.

    Returns
    -------
    ndarray
        Its samples, with the channels of `x`.

    Examples
    --------
    >>> piece_of(np.ones(48000), 48000, Cut(100.0, 102.0, 300.0)).size
    9600
    """
    a, b = (round(ms / 1000 * rate) for ms in (where.start_ms, where.end_ms))
    piece = x[a:b].copy()
    frames = min(round(_FADE_MS / 1000 * rate), piece.shape[0])
    fade = 0.5 + 0.5 * np.cos(np.pi * np.arange(1, frames + 1) / frames)
    piece[piece.shape[0] - frames :] *= fade if x.ndim == 1 else fade[:, None]
    before = min(_FADE_IN_MS, where.onset_ms - where.start_ms)
    frames = min(round(max(before, 0.0) / 1000 * rate), piece.shape[0])
    rise = 0.5 - 0.5 * np.cos(np.pi * np.arange(frames) / max(frames, 1))
    piece[:frames] *= rise if x.ndim == 1 else rise[:, None]
    return piece
