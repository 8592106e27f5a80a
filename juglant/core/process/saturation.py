"""Drive: what a curve does to a wave, run at four times the rate."""

from collections.abc import Callable
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy import fft

from juglant.core import RATE
from juglant.core.process import filters

Array = NDArray[np.float64]
Curve = Literal["soft", "hard", "asymmetric", "tape"]

_OVERSAMPLING, _MARGIN_FRAMES = 4, 256
# How far the asymmetric curve leans, and how late the tape curve bends.
_LEAN = 0.5
# Takes away what lies below some 14 Hz at the engine's rate.
_BLOCK = filters.cookbook("highpass", 14.0, 0.5, RATE)


def _hard(x: Array) -> Array:
    return np.clip(x, -1.0, 1.0)


def _tape(x: Array) -> Array:
    """Nearly straight up to two thirds, then a long bend: x / (1 + |x|^3)^(1/3)."""
    return np.asarray(x / np.cbrt(1 + np.abs(x) ** 3))


def _leaning(bias: float) -> Callable[[Array], Array]:
    """Tanh moved aside: nought stays nought, and small signals keep their gain."""
    rest = np.tanh(bias)
    return lambda x: np.asarray((np.tanh(x + bias) - rest) / (1 - rest * rest))


CURVES: dict[str, Callable[[Array], Array]] = {
    "soft": np.tanh,
    "hard": _hard,
    "asymmetric": _leaning(_LEAN),
    "tape": _tape,
}


def oversampled(x: Array, shape: Callable[[Array], Array]) -> Array:
    """`x`, shape (frames,), through a curve at four times the rate.

    What the curve adds folds back far below what it is; the rate is raised and lowered by
    lengthening and cutting the spectrum.
    """
    size = fft.next_fast_len(x.size + _MARGIN_FRAMES, real=True)
    # Single precision on the fine side keeps errors 130 dB down, and takes half the time.
    raised = (fft.rfft(x, size) * _OVERSAMPLING).astype(np.complex64)
    fine = fft.irfft(raised, _OVERSAMPLING * size)
    kept = fft.rfft(shape(fine))[: size // 2 + 1].astype(np.complex128)
    return np.asarray(fft.irfft(kept / _OVERSAMPLING, size)[: x.size])


def drive(x: Array, drive_db: float, curve: Curve = "soft") -> Array:
    """`x`, shape (frames,), driven `drive_db` from 0 (nothing happens) up; its peak is held."""
    return _driven(x, drive_db, CURVES[curve])


def soft_clip(x: Array, drive_db: float, bias: float = 0.0) -> Array:
    """Hyperbolic-tangent clipping of `x`, shape (frames,), its peak held where it was.

    `bias` from 0 to 1 lets one side clip before the other; no offset is left where `x` is
    silent.
    """
    return _driven(x, drive_db, _leaning(bias) if bias > 0 else np.tanh)


def _driven(x: Array, drive_db: float, shape: Callable[[Array], Array]) -> Array:
    peak = float(np.max(np.abs(x), initial=0.0))
    if drive_db <= 0.0 or peak == 0.0:
        return x
    driven = oversampled(x * (10 ** (drive_db / 20) / peak), shape)
    if shape(np.array([1.0]))[0] != -shape(np.array([-1.0]))[0]:
        # Lopsided clipping leaves a slow bulge under a sound, which only eats headroom.
        driven = filters.filtered(driven, _BLOCK)
    return np.asarray(driven * (peak / np.max(np.abs(driven))))


def fundamental_gain(level: float, drive_db: float) -> float:
    """Linear gain of soft clipping for the fundamental of a sine of amplitude `level`.

    The describing function of tanh, by the trapezoidal rule over one period (any control
    text); what is divided by it keeps its fundamental's level.
    """
    angle = (np.arange(64) + 0.5) * (2 * np.pi / 64)
    wave = np.sin(angle)
    gain = 10 ** (drive_db / 20)
    return float(2 * np.mean(np.tanh(gain * level * wave) * wave) / level)
