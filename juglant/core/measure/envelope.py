"""When a hit starts, rises and dies away."""

# mypy: disable-error-code="no-untyped-def"

from typing import NamedTuple

import numba as nb
import numpy as np
from numpy.typing import NDArray
from scipy import fft, ndimage

from juglant.core.measure.transform import Transform, transform

Array = NDArray[np.float64]

ONSET_DB = -30.0
_SMOOTHING_S = 0.001
_LOWEST_HZ = 20.0


@nb.njit("(float64[::1], int64, float64[::1])", cache=True, fastmath=True, nogil=True)
def _boxed(x, width, out):
    """Mean over `width` frames around each; the ends go on as they are."""
    before, last = width // 2, x.size - 1
    total = 0.0
    for j in range(-before, width - before):
        total += x[min(max(j, 0), last)]
    for i in range(x.size):
        out[i] = total / width
        total += x[min(i + width - before, last)] - x[max(i - before, 0)]


def amplitude_envelope(x: Array, rate: int, whole: Transform | None = None) -> Array:
    """Magnitude of the analytic signal of `x`, shape (frames,), smoothed over about 1 ms.

    The quadrature of a sharp onset dies away only as 1/t; so nowhere is the envelope more
    than the largest sample within half a cycle of the lowest tone that is strong in it.

    Parameters
    ----------
    x
        Samples, shape (frames,); full scale is 1.
    rate, whole
        Frames a second; the sound's `transform`, where it is there already.

    Returns
    -------
    ndarray
        As `x`, 0 or above.

    Examples
    --------
    >>> x = 0.5 * np.sin(2 * np.pi * 100.0 * np.arange(48000) / 48000)
    >>> round(float(amplitude_envelope(x, 48000)[24000]), 2)
    0.5
    """
    spectrum, size = whole or transform(x, rate)
    quadrature = fft.irfft(-1j * spectrum, size)[: x.size]
    power = np.abs(spectrum[: round(size * 0.1)]) ** 2
    first = round(_LOWEST_HZ / rate * size)
    strong = first + int(np.argmax(power[first:] > 0.01 * power[first:].max(initial=0.0)))
    half_cycle = round(0.5 * size / max(strong, first))
    power = x * x
    # The limit is taken in powers, of which only one root is needed.
    limit = ndimage.maximum_filter1d(power, max(1, half_cycle), mode="constant")
    quadrature *= quadrature
    power += quadrature
    # Three boxes make nearly a bell and cost the same at any width.
    for _ in range(3):
        _boxed(power, max(1, round(_SMOOTHING_S * rate)), quadrature)
        power, quadrature = quadrature, power
    np.minimum(power, limit, out=power)
    np.maximum(power, 0.0, out=power)
    return np.asarray(np.sqrt(power, out=power))


def running_rms(x: Array, frames: int) -> Array:
    """RMS over `frames` centred on each frame, silence beyond both ends.

    Parameters
    ----------
    x
        Samples, shape (frames,); full scale is 1.
    frames
        Length of the window.

    Returns
    -------
    ndarray
        As `x`.

    Examples
    --------
    >>> running_rms(np.array([0.0, 3.0, 0.0]), 3).round(2).tolist()
    [1.73, 1.73, 1.73]
    """
    return np.asarray(
        np.sqrt(np.maximum(ndimage.uniform_filter1d(x * x, max(1, frames), mode="constant"), 0.0))
    )


def onset_ms(x: Array, rate: int) -> float:
    """First time the 1 ms RMS level passes -30 dB re its own maximum; `x` is not silent.

    Parameters
    ----------
    x
        Samples, shape (frames,); full scale is 1.
    rate
        Frames a second.

    Returns
    -------
    float
        ms from the first frame.

    Examples
    --------
    >>> x = np.concatenate([np.zeros(480), np.ones(480)])
    >>> round(onset_ms(x, 48000))
    10
    """
    level = running_rms(x, round(0.001 * rate))
    return float(np.argmax(level >= level.max() * 10 ** (ONSET_DB / 20)) / rate * 1000)


class Shape(NamedTuple):
    """Times in ms; None where the file ends before the level is reached."""

    attack_ms: float
    decay20_ms: float | None
    decay60_ms: float | None
    tail_cut: bool


def shape(envelope: Array, rate: int) -> Shape:
    """Attack (10 to 90 % of the maximum, first rise) and decays from the maximum on.

    Parameters
    ----------
    envelope, rate
        Amplitude, shape (frames,); frames a second.

    Returns
    -------
    Shape
        Attack and decays in ms, and whether the file ends in its tail.

    Examples
    --------
    >>> fall = np.exp(-np.arange(48000) / 4800)
    >>> round(shape(fall, 48000).decay20_ms)
    230
    """
    top = int(np.argmax(envelope))
    peak = envelope[top]
    high = int(np.argmax(envelope >= 0.9 * peak))
    # The last time before it that the rise was still at a tenth.
    under = np.nonzero(envelope[: high + 1] < 0.1 * peak)[0]
    low = int(under[-1]) + 1 if under.size else 0

    def stays_below(db: float) -> float | None:
        above = np.nonzero(envelope[top:] > peak * 10 ** (db / 20))[0]
        last = int(above[-1])
        if top + last >= envelope.size - 1:
            return None
        return (last + 1) / rate * 1000

    # What the last 2 ms hold, not the very last frame, decides whether the tail was cut.
    ending = float(np.max(envelope[-max(1, round(0.002 * rate)) :]))
    return Shape(
        (high - low) / rate * 1000, stays_below(-20.0), stays_below(-60.0), bool(ending > peak * 1e-3)
    )
