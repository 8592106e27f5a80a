"""Loops as they are heard in a place."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy import fft

from juglant.core.measure import levels
from juglant.core.measure.loopsound import low_band_gain
from juglant.core.measure.stereo import both_sides, mono
from juglant.core.process.dynamics import limit_gain_db
from juglant.core.process.filters import around_loop_by
from juglant.core.process.space import impulse_response
from juglant.core.recipes.fields import is_off
from juglant.core.recipes.room import ClubSystem, Room, SmallClub
from juglant.core.rooms.systems import Direct, direct

Array = NDArray[np.float64]
Bins = NDArray[np.complex128]

# Above this a hall's low end has no part in it: there it falls in half the time.
_HALL_LOW_HZ = 250.0
_HALL_SEEDS = (1, 2)
_LIMITER_AHEAD_MS, _LIMITER_RELEASE_MS = 3.0, 80.0
# How long filters without a room ring at most.
_RINGS_S = 0.5
# What a place hardly plays is not to be made of an amplifier.
MOST_LIFT_DB = 24.0


@dataclass(frozen=True)
class _Ways:
    """Gains from what is alike on both sides, and from what differs, to the same there: complex, over the
    bins of a transform. None where nothing comes that way.
    """

    mid: Bins
    side: Bins | None
    mid_to_side: Bins | None = None
    side_to_mid: Bins | None = None


@lru_cache(maxsize=8)
def _direct(room: Room, rate: int, size: int) -> Direct:
    return direct(room, fft.rfftfreq(size, 1 / rate), rate)


@lru_cache(maxsize=8)
def _hall(decay_s: float, level_db: float, rate: int, size: int) -> tuple[Bins, Bins]:
    """What the walls send back, alike to both sides and differently."""
    gain = 10 ** (level_db / 20)
    left, right = (
        fft.rfft(gain * impulse_response("hall", 1000 * decay_s, _HALL_LOW_HZ, 20.0, seed, rate), size)
        for seed in _HALL_SEEDS
    )
    return 0.5 * (left + right), 0.5 * (left - right)


class _Rolled:
    """Loops with so much of their end before their start that what rings on from there is heard, in a
    length that transforms quickly.
    """

    def __init__(self, frames: int, margin: int) -> None:
        self._frames, self._margin = frames, margin
        self.size = fft.next_fast_len(margin + frames, real=True)

    def bins(self, x: Array) -> Bins:
        """A loop as bins."""
        rest = self.size - self._margin - self._frames
        return np.asarray(fft.rfft(np.pad(x, (self._margin, rest), mode="wrap")))

    def loop(self, bins: Bins) -> Array:
        """Bins as a loop."""
        return np.asarray(fft.irfft(bins, self.size)[self._margin : self._margin + self._frames])


def _rings_s(room: Room, own: Array | None, rate: int) -> float:
    """How long a place rings on, in s."""
    if own is not None:
        return float(own.shape[0] / rate)
    if isinstance(room, ClubSystem) and not is_off(room, "hall_db"):
        return max(_RINGS_S, 1.05 * room.decay_s)
    return max(_RINGS_S, float(1.2 * room.decay_s)) if isinstance(room, SmallClub) else _RINGS_S


def through(
    room: Room, loops: list[Array], rate: int, own: Array | None = None, *, one: bool = False
) -> list[Array]:
    """Loops of one length, shape (frames,) or (frames, 2), as each is heard in a place while all of them
    play: shape (frames, 2), in the same order; with `one`, the mean of both sides alone, shape (frames,).
    `own` is the response of an own place at `rate`, of one or two channels. They run round, as does what
    rings on.

    Parameters
    ----------
    room
        The place.
    loops, rate
        Samples of each, shape (frames,) or (frames, 2); frames a second.
    own
        The response of an own place.
    one
        Whether one response is enough for all.

    Returns
    -------
    list of ndarray
        Shape (frames, 2) each.

    Examples
    --------
    >>> from juglant.core.recipes.room import Phone
    >>> through(Phone(), [np.ones(4800)], 48000)[0].shape
    (4800, 2)
    """
    rolled = _Rolled(loops[0].shape[0], round(_rings_s(room, own, rate) * rate))
    mids = [rolled.bins(mono(loop)) for loop in loops]
    sides = [rolled.bins(0.5 * (loop[:, 0] - loop[:, 1])) if loop.ndim == 2 else None for loop in loops]
    if own is not None:
        left, right = (fft.rfft(x, rolled.size) for x in (own.T if own.ndim == 2 else (own, own)))
        alike, differs = 0.5 * (left + right), 0.5 * (left - right) if own.ndim == 2 else None
        ways = _Ways(alike, alike, differs, differs)
    else:
        found = _direct(room, rate, rolled.size)
        ways = _Ways(found.mid, found.side)
        if isinstance(room, ClubSystem):
            mids, ways = _in_a_club(room, found, mids, rolled, rate)
    out = []
    for mid, side in zip(mids, sides, strict=True):
        heard = mid * ways.mid
        if side is not None and ways.side_to_mid is not None:
            heard += side * ways.side_to_mid
        middle = rolled.loop(heard)
        if one:
            out.append(middle)
            continue
        given = [x * way for x, way in ((side, ways.side), (mid, ways.mid_to_side))
                 if x is not None and way is not None]  # fmt: skip
        apart = rolled.loop(sum(given[1:], given[0])) if given else 0.0
        out.append(np.stack([middle + apart, middle - apart], axis=1))
    return out


def _in_a_club(
    room: ClubSystem, found: Direct, mids: list[Bins], rolled: _Rolled, rate: int
) -> tuple[list[Bins], _Ways]:
    """What its limiter leaves of what is alike on both sides, and what becomes of it in the hall."""
    assert found.sub is not None
    ways = _Ways(found.mid, found.side)
    if not is_off(room, "driven_db"):
        subs = [rolled.loop(mid * found.sub) for mid in mids]
        gain = _limited(np.sum(subs, axis=0), room.driven_db, rate)
        tops = found.mid - found.sub
        mids = [mid * tops + rolled.bins(sub * gain) for mid, sub in zip(mids, subs, strict=True)]
        ways = _Ways(np.ones_like(found.mid), found.side)
    if not is_off(room, "hall_db"):
        alike, differs = _hall(room.decay_s, room.hall_db, rate, rolled.size)
        ways = _Ways(ways.mid * (1 + alike), found.side, ways.mid * differs)
    return mids, ways


def _limited(sub: Array, driven_db: float, rate: int) -> Array:
    """The gain of a limiter that the loudest of the sub passes by so many dB, once it has gone round."""
    ceiling = levels.peak_dbfs(sub) - driven_db
    gain = limit_gain_db(np.concatenate([sub, sub]), rate, ceiling, _LIMITER_AHEAD_MS, _LIMITER_RELEASE_MS)
    return np.asarray(10 ** (gain[sub.size :] / 20))


@dataclass(frozen=True)
class Match:
    """The gain that makes two sounds equally loud, and whether it had to stop short."""

    gain_db: float
    short: bool


def low_db(x: Array, rate: int) -> float:
    """The level of the low band, 20-150 Hz, of a loop: mean power of its channels, unweighted.

    Parameters
    ----------
    x, rate
        Samples, shape (frames,) or (frames, channels); frames a second.

    Returns
    -------
    float
        dB.

    Examples
    --------
    >>> at = np.arange(48000) / 48000
    >>> round(low_db(np.sin(2 * np.pi * 60 * at), 48000))
    -3
    """
    sides = [x] if x.ndim == 1 else [x[:, 0], x[:, 1]]
    powers = [float(np.mean(around_loop_by(side, low_band_gain, rate) ** 2)) for side in sides]
    return 10 * float(np.log10(max(float(np.mean(powers)), 1e-15)))


def matched(wanted: Array, given: Array, rate: int, by: str = "loudness") -> Match:
    """What brings `given` to how loud `wanted` is: by K-weighted loudness (ITU-R BS.1770-5), or by the
    level of the "low band".

    Parameters
    ----------
    wanted
        What it is to be as loud as.
    given, rate
        What is made as loud; frames a second.
    by
        "loudness" or "low band".

    Returns
    -------
    Match
        The gain in dB.

    Examples
    --------
    >>> x = np.sin(2 * np.pi * 100 * np.arange(48000) / 48000)
    >>> round(matched(x, 0.5 * x, 48000).gain_db, 1)
    6.0
    """
    if by == "loudness":
        was, is_ = (levels.integrated_lufs(both_sides(x), rate) for x in (wanted, given))
        silent = min(was, is_) <= levels.QUIETEST_LUFS
    else:
        was, is_ = low_db(wanted, rate), low_db(given, rate)
        silent = min(was, is_) <= -120.0
    if silent:
        return Match(MOST_LIFT_DB if was > is_ else 0.0, was > is_)
    return Match(min(was - is_, MOST_LIFT_DB), was - is_ > MOST_LIFT_DB)
