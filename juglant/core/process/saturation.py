"""Drive: what a curve does to a wave, run at a finer rate so that what it adds does not fold back.

Where it adds much, every sample is the curve's mean over the way from the sample before: antiderivative
antialiasing (J. Parker, V. Zavalishin & E. Le Bivic, DAFx 2016).
"""

# mypy: disable-error-code="no-untyped-def"
from collections.abc import Callable
from functools import cache
from typing import Any, Literal

import numba as nb
import numpy as np
from numpy.typing import NDArray

from juglant.core import RATE
from juglant.core.process import filters

Array = NDArray[np.float64]
Curve = Literal["soft", "hard", "asymmetric", "tape"]

# How much finer the rate is, usually and where a curve is met harder than so, or has corners.
_FINER, _FINEST, _HARDER_DB = 4, 8, 18.0
_REACH, _CUT = 32, 0.93
# A long sound passes in pieces of so many frames, which stay where they are quickly read.
_AT_ONCE = 1 << 15
# Steps smaller than this are taken by the curve's own value.
_SMALL = 1e-3
# What holds nothing above this, and is bent no harder by a curve without corners, has no harmonics that
# reach half the rate: a finer one would change it by less than -98 dB (`tests/core/test_chain.py`).
_LOW_HZ, _GENTLE_DB = 600.0, 18.0
# How far the asymmetric curve leans, and how late the tape curve bends.
_LEAN = 0.5
# Takes away what lies below some 14 Hz at the engine's rate.
_BLOCK = filters.cookbook("highpass", 14.0, 0.5, RATE)


def _hard(x: Array) -> Array:
    return np.clip(x, -1.0, 1.0)


def _tape(x: Array) -> Array:
    """Nearly straight up to two thirds, then a long bend: x / (1 + |x|^3)^(1/3)."""
    return np.asarray(x / np.cbrt(1 + np.abs(x) ** 3))


def leaning(bias: float) -> Callable[[Array], Array]:
    """The curve of `soft_clip` for a bias from 0, even, to 1.

    Parameters
    ----------
    bias
        From 0, even, to 1.

    Returns
    -------
    callable
        From samples to samples.

    Examples
    --------
    >>> leaning(0.0)(np.array([-1.0, 1.0])).round(2)
    array([-0.76,  0.76])
    """
    """Tanh moved aside: nought stays nought, and small signals keep their gain."""
    rest = np.tanh(bias)
    return lambda x: np.asarray((np.tanh(x + bias) - rest) / (1 - rest * rest))


CURVES: dict[str, Callable[[Array], Array]] = {
    "soft": np.tanh,
    "hard": _hard,
    "asymmetric": leaning(_LEAN),
    "tape": _tape,
}


def _log_cosh(x: Array) -> Array:
    away = np.abs(x)
    return np.asarray(away + np.log1p(np.exp(-2 * away)) - np.log(2.0))


def _under_hard(x: Array) -> Array:
    away = np.abs(x)
    return np.where(away < 1.0, 0.5 * x * x, away - 0.5)


@cache
def _tape_table() -> Any:
    from scipy.interpolate import CubicSpline

    grid = np.linspace(0.0, _TABLE_END, 1 << 13)
    return CubicSpline(grid, _tape(grid)).antiderivative()


def _under_tape(x: Array) -> Array:
    # Beyond the table the curve is 1 - 1 / (3 x^3).
    away = np.abs(x)
    inside = _tape_table()(np.minimum(away, _TABLE_END))
    beyond = np.maximum(away, _TABLE_END)
    return np.asarray(inside + (beyond - _TABLE_END) + (beyond**-2 - _TABLE_END**-2) / 6)


_TABLE_END = 16.0


def _under_leaning(bias: float) -> Callable[[Array], Array]:
    rest = np.tanh(bias)
    return lambda x: np.asarray((_log_cosh(x + bias) - rest * x) / (1 - rest * rest))


# What each curve is the slope of.
_UNDER: dict[str, Callable[[Array], Array]] = {
    "soft": _log_cosh,
    "hard": _under_hard,
    "asymmetric": _under_leaning(_LEAN),
    "tape": _under_tape,
}


def _averaged(shape: Callable[[Array], Array], under: Callable[[Array], Array]) -> Callable[[Array], Array]:
    """A curve's mean over the way to each sample from the one before; samples of shape (phases, frames)."""

    def mean(fine: Array) -> Array:
        x = fine.T.ravel().astype(np.float64)
        before = np.concatenate([[0.0], x[:-1]])
        step = x - before
        wide = np.abs(step) > _SMALL
        out = np.asarray(shape(0.5 * (x + before)))
        area = under(x)
        out[wide] = (area - np.concatenate([under(np.zeros(1)), area[:-1]]))[wide] / step[wide]
        return out.reshape(fine.shape[1], fine.shape[0]).T.astype(np.float32)

    return mean


@cache
def _taps(times: int, late: float) -> tuple[Array, Array]:
    """Taps that raise the rate `times` and that lower it again, taking back that what they lower comes
    `late` by so many fine samples; each of shape (times, 2 * _REACH + 1).

    Windowed sincs (any text on multirate filters): at 48 kHz the first lets everything below
    21.6 kHz through within 0.001 dB, the second below 19.9; what lies above 24.8 kHz comes back
    from neither.
    """
    at = np.arange(-_REACH, _REACH + 1) + np.arange(times)[:, None] / times
    back = at - late / times

    def taper(at: Array) -> Array:
        return np.asarray(np.i0(10.0 * np.sqrt(np.maximum(1 - (at / (_REACH + 1)) ** 2, 0))) / np.i0(10.0))

    raising = np.sinc(at) * taper(at)
    lowering = np.sinc(_CUT * back) * taper(back)
    raising /= raising.sum(axis=1, keepdims=True)
    return raising[:, ::-1].astype(np.float32), (lowering / lowering.sum()).astype(np.float32)


@nb.njit("(float32[::1], float32[::1], float32[::1])", cache=True, fastmath=True, nogil=True)
def _slid(x, taps, out):
    """Add `x` under every tap to `out`, in pieces that stay in the cache, five taps at a time: a sum
    that is kept at hand need not be stored in between. There are a multiple of five.
    """
    for begin in range(0, out.size, 2048):
        piece = out[begin : begin + 2048]
        for k in range(0, taps.size, 5):
            under = x[begin + k : begin + k + piece.size + 4]
            a, b, c, d, e = taps[k], taps[k + 1], taps[k + 2], taps[k + 3], taps[k + 4]
            for i in range(piece.size):
                piece[i] += (
                    a * under[i] + b * under[i + 1] + c * under[i + 2] + d * under[i + 3] + e * under[i + 4]
                )


def oversampled(x: Array, shape: Callable[[Array], Array], times: int = _FINER, late: float = 0.0) -> Array:
    """`x`, shape (frames,), through a curve at so many times the rate, where 0 must stay 0; `late` is by
    how many fine samples it comes out later.

    What the curve adds folds back far below what it is. Single precision on the fine side
    keeps errors 100 dB down, and takes half the time.

    Parameters
    ----------
    x
        Samples, shape (frames,).
    shape
        A curve through 0.
    times
        How many times the rate.
    late
        Fine samples by which it comes out later.

    Returns
    -------
    ndarray
        Shape (frames,).

    Examples
    --------
    >>> x = 0.5 * np.sin(2 * np.pi * 100 * np.arange(4800) / 48000)
    >>> round(float(np.max(oversampled(x, np.tanh))), 2)
    0.46
    """
    raising, lowering = _taps(times, late)
    # One frame more in front: a curve may look at the sample before.
    wide = np.pad(x.astype(np.float32), (2 * _REACH + 1, 2 * _REACH))
    out = np.zeros(x.size, np.float32)
    for first in range(0, x.size, _AT_ONCE):
        piece = out[first : first + _AT_ONCE]
        near = wide[first : first + piece.size + 4 * _REACH + 1]
        fine: NDArray[Any] = np.zeros((times, piece.size + 2 * _REACH + 1), np.float32)
        # The samples themselves are the first phase; the others lie between them.
        fine[0] = near[_REACH:-_REACH]
        for phase, taps in zip(fine[1:], raising[1:], strict=True):
            _slid(near, taps, phase)
        for phase, taps in zip(shape(fine)[:, 1:], lowering, strict=True):
            _slid(np.ascontiguousarray(phase, np.float32), taps, piece)
    return out.astype(np.float64)


def drive(
    x: Array, drive_db: float, curve: Curve = "soft", highest_hz: float = 20000.0, whole: int | None = None
) -> Array:
    """`x`, shape (frames,), driven `drive_db` from 0 (nothing happens) up; its peak is held.

    `highest_hz` is where a band that was cut out ends: a low one needs no finer rate. `whole` is how many
    of the first frames the peak is that of, all of them unless said.

    Parameters
    ----------
    x
        Samples, shape (frames,).
    drive_db
        How far it is driven; 0 does nothing.
    curve
        Which curve.
    highest_hz
        Where what is in `x` ends.
    whole
        Frames of one pass, where it goes round.

    Returns
    -------
    ndarray
        Shape (frames,).

    Examples
    --------
    >>> x = 0.5 * np.sin(2 * np.pi * 100 * np.arange(4800) / 48000)
    >>> round(float(np.max(np.abs(drive(x, 12.0)))), 2)
    0.5
    """
    if highest_hz <= _LOW_HZ and drive_db <= _GENTLE_DB and curve != "hard":
        return _driven(x, drive_db, CURVES[curve], _as_it_is, whole)
    harder = curve == "hard" or drive_db > _HARDER_DB
    applied = _finest(_UNDER[curve]) if harder else oversampled
    return _driven(x, drive_db, CURVES[curve], applied, whole)


def soft_clip(x: Array, drive_db: float, bias: float = 0.0) -> Array:
    """Hyperbolic-tangent clipping of `x`, shape (frames,), its peak held where it was.

    `bias` from 0 to 1 lets one side clip before the other; no offset is left where `x` is
    silent.

    Parameters
    ----------
    x
        Samples, shape (frames,).
    drive_db
        How far it is driven; 0 does nothing.
    bias
        From 0, even, to 1.

    Returns
    -------
    ndarray
        Shape (frames,).

    Examples
    --------
    >>> x = 0.5 * np.sin(2 * np.pi * 100 * np.arange(4800) / 48000)
    >>> round(float(np.max(np.abs(soft_clip(x, 12.0)))), 2)
    0.5
    """
    shape, under = (leaning(bias), _under_leaning(bias)) if bias > 0 else (np.tanh, _log_cosh)
    return _driven(x, drive_db, shape, _finest(under) if drive_db > _HARDER_DB else oversampled)


def _finest(under: Callable[[Array], Array]) -> Callable[[Array, Callable[[Array], Array]], Array]:
    return lambda x, shape: oversampled(x, _averaged(shape, under), _FINEST, 0.5)


def _as_it_is(x: Array, shape: Callable[[Array], Array]) -> Array:
    return shape(x)


def _driven(
    x: Array,
    drive_db: float,
    shape: Callable[[Array], Array],
    applied: Callable[[Array, Callable[[Array], Array]], Array],
    whole: int | None = None,
) -> Array:
    peak = float(np.max(np.abs(x[:whole]), initial=0.0))
    if drive_db <= 0.0 or peak == 0.0:
        return x
    driven = applied(x * (10 ** (drive_db / 20) / peak), shape)
    if shape(np.array([1.0]))[0] != -shape(np.array([-1.0]))[0]:
        # Lopsided clipping leaves a slow bulge under a sound, which only eats headroom.
        driven = filters.filtered(driven, _BLOCK)
    return np.asarray(driven * (peak / np.max(np.abs(driven[:whole]))))


def blocked(hz: Array) -> NDArray[np.complex128]:
    """What `soft_clip` does to a frequency beside its curve, where that leans: it takes away an offset.

    Parameters
    ----------
    hz
        Frequencies in Hz.

    Returns
    -------
    ndarray of complex
        Gain, shape of `hz`.

    Examples
    --------
    >>> abs(blocked(np.array([1.0, 1000.0]))).round(2)
    array([0.01, 1.  ])
    """
    (b0, b1, b2, _, a1, a2) = _BLOCK[0]
    z = np.exp(-2j * np.pi * hz / RATE)
    return np.asarray((b0 + b1 * z + b2 * z * z) / (1 + a1 * z + a2 * z * z))


def fundamental_gains(drive_db: float) -> tuple[Array, Array]:
    """Amplitudes of a sine, and the linear gain of soft clipping for the fundamental of each.

    The describing function of tanh, by the trapezoidal rule over one period (any control
    text); what is divided by it keeps its fundamental's level.

    Parameters
    ----------
    drive_db
        How far it is driven; 0 does nothing.

    Returns
    -------
    tuple of ndarray
        Amplitudes, and the gain for each.

    Examples
    --------
    >>> amplitudes, gains = fundamental_gains(12.0)
    >>> bool(np.all(np.diff(gains) <= 0))
    True
    """
    level = np.geomspace(1e-4, 1.5, 60)
    wave = np.sin((np.arange(64) + 0.5) * (2 * np.pi / 64))
    driven = np.tanh(10 ** (drive_db / 20) * level[:, None] * wave)
    return level, np.asarray(2 * np.mean(driven * wave, axis=1) / level)
