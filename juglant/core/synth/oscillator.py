"""Band-limited oscillators whose wave changes continuously.

Each wave is a table per octave, summed from as many harmonics as stay below the limit for
that octave; two neighbouring tables are blended, so that no harmonic enters or leaves at
once. Read by linear interpolation from 4096 points.
"""

# mypy: disable-error-code="no-untyped-def"
from functools import cache
from typing import Literal

import numba as nb
import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Family = Literal["kick", "bass"]

_POINTS = 4096
_LEVELS = 11
# Highest harmonic as a share of the sampling rate: what folds back stays out of hearing.
_LIMIT = 0.42


def _harmonics(wave: str, count: int) -> Array:
    """Sine-phase amplitudes of harmonics 1..count, peak of the full wave 1."""
    h = np.arange(1, count + 1, dtype=float)
    odd = h % 2 == 1
    if wave == "sine":
        return np.where(h == 1, 1.0, 0.0)
    if wave == "triangle":
        return np.where(odd, 8 / np.pi**2 / h**2 * np.where(h % 4 == 1, 1.0, -1.0), 0.0)
    if wave == "square":
        return np.where(odd, 4 / np.pi / h, 0.0)
    return 2 / np.pi / h  # saw


@cache
def tables(family: Family) -> Array:
    """Shape (3 waves, levels, points + 1): sine, triangle and square or saw.

    Parameters
    ----------
    family
        Which waves.

    Returns
    -------
    ndarray
        Waves in bands, each with its first point once more.

    Examples
    --------
    >>> tables("kick").shape[0]
    3
    """
    last = "square" if family == "kick" else "saw"
    out = np.zeros((3, _LEVELS, _POINTS + 1))
    for w, wave in enumerate(("sine", "triangle", last)):
        for level in range(_LEVELS):
            count = 2**level
            spectrum = np.zeros(_POINTS // 2 + 1, dtype=complex)
            amplitudes = _harmonics(wave, count)
            spectrum[1 : count + 1] = -0.5j * _POINTS * amplitudes
            out[w, level, :-1] = np.fft.irfft(spectrum, _POINTS)
            out[w, level, -1] = out[w, level, 0]
    return out


@nb.njit(
    "(float64[::1], float64, float64, float64, float64, float64[:, :, ::1])",
    cache=True,
    fastmath=True,
    nogil=True,
)
def _render(hz, wave, start, rate, limit, bank):
    out = np.empty(hz.size)
    phase = start
    points = bank.shape[2] - 1
    top = bank.shape[1] - 1
    for i in range(hz.size):
        # Twice the harmonics that fit into the limit at a blend of 1: hence the half.
        room = 0.5 * limit * rate / max(hz[i], 1.0)
        level = min(max(np.log2(max(room, 1.0)), 0.0), float(top))
        low = min(int(level), top - 1)
        blend = level - low
        position = phase * points
        k = int(position)
        part = position - k
        w = min(max(wave, 0.0), 2.0)
        first = min(int(w), 1)
        mix = w - first
        value = 0.0
        for j in range(2):
            weight = mix if j == 1 else 1.0 - mix
            if weight == 0.0:
                continue
            # The richer table enters only as far as it fits below the limit.
            rich = bank[first + j, low + 1]
            poor = bank[first + j, low]
            a = poor[k] + part * (poor[k + 1] - poor[k])
            b = rich[k] + part * (rich[k + 1] - rich[k])
            value += weight * (a + blend * (b - a))
        out[i] = value
        phase += hz[i] / rate
        phase -= np.floor(phase)
    return out


def oscillate(hz: Array, wave: float, rate: int, family: Family, start: float = 0.0) -> Array:
    """Samples of an oscillator.

    `hz` is the frequency of every frame, shape (frames,); `wave` runs 0 sine, 1 triangle,
    2 square (family "kick") or saw ("bass"); `start` is the phase in cycles. Returns shape
    (frames,), peak about 1.

    Parameters
    ----------
    hz
        Frequency of every frame.
    wave, rate
        0 sine, 1 triangle, 2 square or saw, and what lies between; frames a second.
    family
        Which waves.
    start
        Phase at the start, in turns.

    Returns
    -------
    ndarray
        Shape of `hz`.

    Examples
    --------
    >>> oscillate(np.full(48, 1000.0), 0.0, 48000, "kick")[::12].round(2)
    array([ 0.,  1.,  0., -1.])
    """
    return np.asarray(_render(hz, float(wave), float(start), float(rate), _LIMIT, tables(family)))
