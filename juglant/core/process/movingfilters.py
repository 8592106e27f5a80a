"""Filters whose cut-off moves: state-variable ones, in the trapezoidal form."""

# mypy: disable-error-code="no-untyped-def"

import numba as nb
import numpy as np
from numpy.typing import NDArray

from juglant.core.process.filters import butterworth_qs

Array = NDArray[np.float64]


@nb.njit(
    "(float64[::1], float64[::1], float64, float64[::1], boolean)", cache=True, fastmath=True, nogil=True
)
def _moving(x, hz, rate, damping, high):
    out = np.empty(x.size)
    a = np.zeros(damping.size)
    b = np.zeros(damping.size)
    for i in range(x.size):
        g = np.tan(np.pi * min(hz[i], 0.45 * rate) / rate)
        value = x[i]
        for n in range(damping.size):
            k = damping[n]
            v1 = (a[n] + g * (value - b[n])) / (1.0 + g * (g + k))
            v2 = b[n] + g * v1
            a[n] = 2.0 * v1 - a[n]
            b[n] = 2.0 * v2 - b[n]
            value = value - k * v1 - v2 if high else v2
        out[i] = value
    return out


_RESONANT_Q = 12.0


def moving_lowpass(x: Array, hz: Array, rate: int, resonance: float = 0.0) -> Array:
    """24 dB per octave low-pass whose cutoff `hz` is given for every frame of `x`.

    `resonance` from 0 (Butterworth) to 1 raises the Q of its second section to 12.

    Parameters
    ----------
    x
        Samples, shape (frames,).
    hz, rate
        The cutoff at every frame; frames a second.
    resonance
        0 to 1.

    Returns
    -------
    ndarray
        As `x`.

    Examples
    --------
    >>> x = np.ones(9600)
    >>> round(moving_lowpass(x, np.full(9600, 500.0), 48000)[-1].item(), 3)
    1.0
    """
    broad, narrow = butterworth_qs(4)
    narrow *= (_RESONANT_Q / narrow) ** resonance
    return np.asarray(_moving(x, hz, float(rate), np.array([1 / broad, 1 / narrow]), False))


def moving_steep(kind: str, x: Array, hz: Array, slope_db: int, rate: int) -> Array:
    """`x`, shape (frames,), through a Butterworth "highpass" or "lowpass" of 12, 24 or 48 dB per octave,
    whose cutoff `hz` is given for every frame.

    State-variable sections with trapezoidal integrators, which stay stable while they move (Zavalishin,
    The Art of VA Filter Design, ch. 3 and 4); at rest what `steep` gives.

    Parameters
    ----------
    kind
        "highpass" or "lowpass".
    x
        Samples, shape (frames,).
    hz
        Cutoff in Hz at every frame.
    slope_db, rate
        12, 24 or 48 dB per octave; frames a second.

    Returns
    -------
    ndarray
        Shape (frames,).

    Examples
    --------
    >>> x = np.sin(2 * np.pi * 40 * np.arange(4800) / 48000)
    >>> moved = moving_steep("highpass", x, np.geomspace(20.0, 2000.0, 4800), 24, 48000)
    >>> bool(np.abs(moved[:1200]).max() > 0.5 > np.abs(moved[-1200:]).max())
    True
    """
    damping = 1 / np.array(butterworth_qs(slope_db // 6))
    return np.asarray(_moving(x, hz, float(rate), damping, kind == "highpass"))
