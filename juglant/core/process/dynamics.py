"""Compressor, gate, leveller, limiter, transients and ceiling."""

# mypy: disable-error-code="no-untyped-def"
import numba as nb
import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from juglant.core.process import saturation

Array = NDArray[np.float64]

_MEAN_MS = 5.0
_SILENT = 1e-10


def static_curve_db(level_db: Array, threshold_db: float, ratio: float, knee_db: float) -> Array:
    """Output level in dB for an input level in dB: the gain computer with a soft knee.

    Giannoulis, Massberg & Reiss, "Digital Dynamic Range Compressor Design", JAES 60(6), 2012,
    eq. 4.

    Parameters
    ----------
    level_db
        Level in dB.
    threshold_db
        From which level on it acts, dBFS.
    ratio
        How many dB in give one out.
    knee_db
        Over how many dB it sets in.

    Returns
    -------
    ndarray
        Level in dB, shape of `level_db`.

    Examples
    --------
    >>> static_curve_db(np.array([-30.0, -10.0]), -20.0, 4.0, 0.0).round(1)
    array([-30. , -17.5])
    """
    wanted = np.asarray(_wanted_db(np.asarray(level_db, np.float64).ravel(), threshold_db, ratio, knee_db))
    return np.asarray(level_db - wanted.reshape(np.shape(level_db)))


@nb.njit("(float64[::1], float64, float64, float64)", cache=True, nogil=True)
def _wanted_db(level_db, threshold_db, ratio, knee_db):
    """What the gain computer takes, in dB, from every frame: of most of them, under the knee, nothing."""
    out = np.zeros(level_db.size)
    knee_db = max(knee_db, 0.0)
    slope = 1.0 - 1.0 / ratio
    for i in range(level_db.size):
        over = level_db[i] - threshold_db
        if 2 * over > knee_db:
            out[i] = slope * over
        elif 2 * over > -knee_db:
            out[i] = slope * (over + knee_db / 2) ** 2 / (2 * knee_db)
    return out


@nb.njit("(float64[::1], float64, float64, int64)", cache=True, nogil=True)
def _smoothed(target, attack, release, hold):
    out = np.empty(target.size)
    y = 0.0
    waited = hold
    for i in range(target.size):
        if target[i] >= y:
            a = attack
            waited = 0
        elif waited < hold:
            a = 1.0
            waited += 1
        else:
            a = release
        y = a * y + (1.0 - a) * target[i]
        out[i] = y
    return out


def _coefficient(ms: float, rate: int) -> float:
    """One-pole coefficient: 63.2 % of a step is reached after `ms`."""
    return float(np.exp(-1000 / (ms * rate)))


def _followed(x: Array, rise_ms: float, fall_ms: float, rate: int, hold_ms: float = 0.0) -> Array:
    """`x` followed from 0 with one time on the way up and another on the way down, which begins
    after the hold.
    """
    hold = round(hold_ms / 1000 * rate)
    return np.asarray(_smoothed(x, _coefficient(rise_ms, rate), _coefficient(fall_ms, rate), hold))


def detected_db(x: Array, rate: int, detector: str = "peak") -> Array:
    """Level in dB that a compressor's detector sees at each frame of `x`, shape (frames,).

    Parameters
    ----------
    x, rate
        Samples, shape (frames,); frames a second.
    detector
        "peak", or "RMS": the mean square over 5 ms (one pole).

    Returns
    -------
    ndarray
        dBFS, not below -200, shape (frames,).

    Examples
    --------
    >>> detected_db(np.array([0.1, -1.0, 0.0]), 48000).round(1)
    array([ -20.,    0., -200.])
    """
    size = np.sqrt(_followed(x * x, _MEAN_MS, _MEAN_MS, rate)) if detector == "RMS" else np.abs(x)
    return np.asarray(20 * np.log10(np.maximum(size, _SILENT)))


def reduction_db(
    level_db: Array, rate: int, threshold_db: float, ratio: float, knee_db: float, attack_ms: float,
    release_ms: float, *, hold_ms: float = 0.0,
) -> Array:  # fmt: skip
    """Gain reduction in dB, 0 or more, at each frame of a detected level, shape (frames,).

    Feed-forward in the logarithmic domain: the static curve first, then one smooth branching
    peak detector (the same paper, eq. 16), whose times are those to 63.2 %. With a hold the
    reduction stays where it is for so long before it is given back.

    Parameters
    ----------
    level_db, rate
        Of `detected_db`, shape (frames,); frames a second.
    threshold_db
        From which level on it acts, dBFS.
    ratio
        How many dB in give one out.
    knee_db
        Over how many dB it sets in.
    attack_ms
        63 % of the way down.
    release_ms
        63 % of the way back.
    hold_ms
        How long it waits before it gives back.

    Returns
    -------
    ndarray
        dB, 0 or more, shape (frames,).

    Examples
    --------
    >>> level_db = detected_db(np.full(48000, 0.5), 48000)
    >>> round(float(reduction_db(level_db, 48000, -18.0, 4.0, 0.0, 5.0, 100.0)[-1]), 1)
    9.0
    """
    wanted = np.asarray(_wanted_db(level_db, threshold_db, ratio, knee_db))
    return _followed(wanted, attack_ms, release_ms, rate, hold_ms)


def gate_gain_db(
    x: Array, rate: int, threshold_db: float, range_db: float, attack_ms: float, hold_ms: float,
    release_ms: float,
) -> Array:  # fmt: skip
    """Gain in dB, from -`range_db` to 0, at each frame of the detector signal `x`, shape (frames,).

    Open from where a sample reaches the threshold until `hold_ms` after the last one that does; the hold
    bridges the zero crossings of a low tone. Times of opening and closing are those to 63.2 %.

    Parameters
    ----------
    x, rate
        Samples, shape (frames,); frames a second.
    threshold_db
        From which level on it acts, dBFS.
    range_db
        How far it goes at the most, dB.
    attack_ms
        63 % of the way down.
    hold_ms
        How long it waits before it gives back.
    release_ms
        63 % of the way back.

    Returns
    -------
    ndarray
        dB, 0 or less, shape (frames,).

    Examples
    --------
    >>> x = np.concatenate([np.full(4800, 0.5), np.zeros(24000)])
    >>> gate_gain_db(x, 48000, -30.0, 40.0, 1.0, 10.0, 20.0)[[4000, -1]].round()
    array([ -0., -40.])
    """
    level = (np.abs(x) >= 10 ** (threshold_db / 20)).astype(np.float64)
    return np.asarray(range_db * (_followed(level, attack_ms, release_ms, rate, hold_ms) - 1))


def limit_gain_db(x: Array, rate: int, ceiling_db: float, ahead_ms: float, release_ms: float) -> Array:
    """Gain in dB at each frame of `x`, shape (frames,), under which no sample passes the ceiling.

    What a peak needs is held from `ahead_ms` before it, released after it, and averaged over the
    look-ahead: the mean of values that are all enough is enough, and has no edge (a look-ahead limiter
    as in U. Zölzer, DAFX, 2nd ed., ch. 4.2.2).

    Parameters
    ----------
    x, rate
        Samples, shape (frames,); frames a second.
    ceiling_db
        What no sample passes, dBFS.
    ahead_ms
        How far it looks ahead.
    release_ms
        63 % of the way back.

    Returns
    -------
    ndarray
        dB, 0 or less, shape (frames,).

    Examples
    --------
    >>> x = 0.9 * np.sin(2 * np.pi * 60 * np.arange(4800) / 48000)
    >>> limited = x * 10 ** (limit_gain_db(x, 48000, -6.0, 2.0, 50.0) / 20)
    >>> round(float(20 * np.log10(np.max(np.abs(limited)))), 1)
    -6.0
    """
    over = np.maximum(20 * np.log10(np.maximum(np.abs(x), 1e-9)) - ceiling_db, 0.0)
    if not over.any():
        return np.zeros(x.size)
    ahead = max(1, round(ahead_ms / 1000 * rate))
    # The greatest of a frame and the next ones: what is coming is known, before the first frame too.
    over = np.concatenate([np.zeros(ahead), over])
    needed = ndimage.maximum_filter1d(over, ahead, origin=-(ahead // 2), mode="constant")
    held = np.asarray(_smoothed(needed, 0.0, _coefficient(release_ms, rate), 0))
    sums = np.cumsum(held)
    return np.asarray(-np.maximum((sums[ahead:] - sums[:-ahead]) / ahead, 0.0))


def levelling_gain_db(
    x: Array, rate: int, target_db: float, amount: float, range_db: float, speed_ms: float, floor_db: float
) -> Array:
    """Gain in dB at each frame of the detector signal `x`, shape (frames,), towards one RMS level.

    Power is taken over `speed_ms` (63.2 %), the gain follows with a fifth of that, so that it comes to
    rest with the level; what is softer than the floor keeps the gain there was.

    Parameters
    ----------
    x, rate
        Samples, shape (frames,); frames a second.
    target_db
        The level that is aimed at, dB.
    amount
        How much of the way is gone, 0 to 1.
    range_db
        How far it goes at the most, dB.
    speed_ms
        How quickly it follows.
    floor_db
        What is softer is left alone, dB.

    Returns
    -------
    ndarray
        dB, shape (frames,).

    Examples
    --------
    >>> x = np.full(96000, 0.1)
    >>> round(float(levelling_gain_db(x, 48000, -14.0, 1.0, 12.0, 100.0, -60.0)[-1]), 1)
    6.0
    """
    power = _followed(x * x, speed_ms, speed_ms, rate)
    level = 10 * np.log10(np.maximum(power, 1e-12))
    wanted = np.clip(amount * (target_db - level), -range_db, range_db)
    # Below the floor nothing is brought up: the lift fades within 6 dB of it.
    fade = np.clip((level - floor_db) / 6.0 + 1.0, 0.0, 1.0)
    return _followed(np.where(wanted > 0, wanted * fade, wanted), speed_ms / 5, speed_ms / 5, rate)


def both_ways_gain_db(
    x: Array, rate: int, above_db: float, down: float, below_db: float, up: float, most_up_db: float,
    attack_ms: float, release_ms: float,
) -> Array:  # fmt: skip
    """Gain in dB at each frame of `x`, shape (frames,), that brings down what is above one threshold and
    up what is below another, by ratios.

    The level is RMS over 5 ms; what is 40 dB below the lower threshold is silence, and stays.

    Parameters
    ----------
    x, rate
        Samples, shape (frames,); frames a second.
    above_db
        The upper threshold, dB.
    down
        Ratio above it.
    below_db
        The lower threshold, dB.
    up
        Ratio below it.
    most_up_db
        The largest lift.
    attack_ms
        63 % of the way down.
    release_ms
        63 % of the way back.

    Returns
    -------
    ndarray
        dB, shape (frames,).

    Examples
    --------
    >>> x = np.full(48000, 0.5)
    >>> round(float(both_ways_gain_db(x, 48000, -12.0, 2.0, -40.0, 2.0, 12.0, 5.0, 50.0)[-1]), 1)
    -3.0
    """
    level = 10 * np.log10(np.maximum(_followed(x * x, _MEAN_MS, _MEAN_MS, rate), 1e-12))
    lowered = np.maximum(level - above_db, 0.0) * (1 - 1 / down)
    under = np.maximum(below_db - level, 0.0)
    lifted = np.minimum(under * (1 - 1 / up), most_up_db) * np.clip((40.0 - under) / 10.0, 0.0, 1.0)
    return np.asarray(
        _followed(lifted, release_ms, attack_ms, rate) - _followed(lowered, attack_ms, release_ms, rate)
    )


# Followers of the level, ms: a quick one, one that comes late, and one that lets go late.
_QUICK_MS, _LATE_MS, _LET_GO_MS = 1.0, 25.0, 120.0
_FALL_MS, _SMOOTH_MS = 15.0, 1.0


def transient_gain_db(x: Array, rate: int, attack_db: float, sustain_db: float) -> Array:
    """Gain in dB at each frame of `x`, shape (frames,), that lifts the onset and what follows.

    Both are told apart by followers alone, so the level of the sound does not matter: while
    the quick one is above the late one it is the onset, while it is below the one that lets
    go late it is what follows.

    Parameters
    ----------
    x, rate
        Samples, shape (frames,); frames a second.
    attack_db
        Lift of the onset, or cut.
    sustain_db
        Lift of what follows, or cut.

    Returns
    -------
    ndarray
        dB, shape (frames,).

    Examples
    --------
    >>> at = np.arange(24000) / 48000
    >>> gain = transient_gain_db(np.exp(-at / 0.1), 48000, 6.0, 0.0)
    >>> round(float(gain.max())), round(float(gain[-1]))
    (5, 0)
    """
    level = np.abs(x)
    quick = _followed(level, _QUICK_MS, _FALL_MS, rate)
    late = _followed(level, _LATE_MS, _FALL_MS, rate)
    held = _followed(level, _QUICK_MS, _LET_GO_MS, rate)
    floor = 1e-4 * float(np.max(level, initial=1e-9))
    onset = np.clip((quick - late) / (quick + floor), 0.0, 1.0)
    after = np.clip((held - quick) / (held + floor), 0.0, 1.0)
    # A millisecond of smoothing on the way to a gain: no step, no zipper.
    return _followed(attack_db * onset + sustain_db * after, _SMOOTH_MS, _SMOOTH_MS, rate)


def ceiling(x: Array, ceiling_db: float, softness: float) -> Array:
    """`x`, shape (frames,), bent so that no sample passes the ceiling.

    Up to a knee it stays as it is; `softness` 0 sets the knee at the ceiling, 1 at a third of
    it. What lies below the knee throughout is returned untouched.

    Parameters
    ----------
    x
        Samples, shape (frames,).
    ceiling_db
        What no sample passes, dBFS.
    softness
        0 sets the knee at the ceiling, 1 at a third of it.

    Returns
    -------
    ndarray
        Shape of `x`.

    Examples
    --------
    >>> x = np.sin(2 * np.pi * 60 * np.arange(4800) / 48000)
    >>> round(float(np.max(np.abs(ceiling(x, -6.0, 0.5)))), 3)
    0.501
    """
    top = 10 ** (ceiling_db / 20)
    knee = top * (1 - softness * 2 / 3)
    if float(np.max(np.abs(x), initial=0.0)) <= knee:
        return x
    room = max(top - knee, 1e-9)

    def bend(y: Array) -> Array:
        size = np.abs(y)
        high = size > knee
        bent = y.copy()
        bent[high] = np.sign(y[high]) * (knee + room * np.tanh((size[high] - knee) / room))
        return bent

    # Taking the rate down again may overshoot by a little: the samples are held.
    return np.clip(saturation.oversampled(x, bend), -top, top)
