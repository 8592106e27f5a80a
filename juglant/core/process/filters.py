"""Filters: cookbook biquads, Butterworth and Linkwitz-Riley.

Biquads after R. Bristow-Johnson, "Audio EQ Cookbook" (W3C Note, 2021); crossovers after
Linkwitz & Riley, JAES 24, 1976.
"""

# mypy: disable-error-code="no-untyped-def"
from collections.abc import Callable
from functools import lru_cache
from typing import Any, Literal

import numba as nb
import numpy as np
from numpy.typing import NDArray
from scipy import fft

Array = NDArray[np.float64]

LowCut = Literal["gentle", "firm"]

LOW_BAND_HZ = (20.0, 150.0)


def cookbook(kind: str, hz: float, q: float, rate: int, gain_db: float = 0.0) -> Array:
    """One second-order section, shape (1, 6).

    `kind` is "lowpass", "highpass", "bandpass" (0 dB peak gain), "bell", "low shelf" or "high
    shelf"; the last three raise or lower by `gain_db`. `hz` is held below 0.49 of the rate.

    Parameters
    ----------
    kind
        Which of them.
    hz
        Corner or middle.
    q, rate
        Its Q; frames a second.
    gain_db
        Of a bell or a shelf.

    Returns
    -------
    ndarray
        b0, b1, b2, a0, a1, a2, with a0 = 1.

    Examples
    --------
    >>> sections = cookbook("bell", 1000.0, 1.0, 48000, gain_db=6.0)
    >>> gain = abs(response(sections, np.array([1000.0]), 48000))[0]
    >>> round(20 * float(np.log10(gain)), 3)
    6.0
    """
    w = 2 * np.pi * min(hz, 0.49 * rate) / rate
    alpha, cos = np.sin(w) / (2 * q), np.cos(w)
    a = (1 + alpha, -2 * cos, 1 - alpha)
    if kind == "lowpass":
        b = ((1 - cos) / 2, 1 - cos, (1 - cos) / 2)
    elif kind == "highpass":
        b = ((1 + cos) / 2, -(1 + cos), (1 + cos) / 2)
    elif kind == "bandpass":
        b = (alpha, 0.0, -alpha)
    else:
        amount = 10 ** (gain_db / 40)
        if kind == "bell":
            b = (1 + alpha * amount, -2 * cos, 1 - alpha * amount)
            a = (1 + alpha / amount, -2 * cos, 1 - alpha / amount)
        else:
            # The high shelf is the low shelf with the cosine's sign turned.
            turn = 1.0 if kind == "low shelf" else -1.0
            slope, bent = 2 * np.sqrt(amount) * alpha, turn * cos
            up, down = amount + 1, amount - 1
            b = (
                amount * (up - down * bent + slope),
                turn * 2 * amount * (down - up * bent),
                amount * (up - down * bent - slope),
            )
            a = (up + down * bent + slope, turn * -2 * (down + up * bent), up + down * bent - slope)
    return np.asarray(np.array([[*b, *a]]) / a[0])


def butterworth_qs(order: int) -> list[float]:
    """Q of each second-order section of a Butterworth filter of even order.

    Parameters
    ----------
    order
        Even.

    Returns
    -------
    list of float
        One Q for every section.

    Examples
    --------
    >>> [round(q, 3) for q in butterworth_qs(4)]
    [0.541, 1.307]
    """
    return [1 / (2 * float(np.cos(np.pi * (2 * k + 1) / (2 * order)))) for k in range(order // 2)]


def steep(kind: str, hz: float, db_per_octave: int, rate: int) -> Array:
    """Butterworth "lowpass" or "highpass" of 12, 24 or 48 dB per octave, as sections.

    Parameters
    ----------
    kind
        lowpass or highpass.
    hz
        Corner, at -3 dB.
    db_per_octave, rate
        12, 24 or 48; frames a second.

    Returns
    -------
    ndarray
        Shape (sections, 6).

    Examples
    --------
    >>> gain = abs(response(steep("highpass", 100.0, 24, 48000), np.array([50.0, 100.0]), 48000))
    >>> [round(20 * float(np.log10(one)), 1) for one in gain]
    [-24.1, -3.0]
    """
    return np.vstack([cookbook(kind, hz, q, rate) for q in butterworth_qs(db_per_octave // 6)])


def lowpass_24(hz: float, rate: int) -> Array:
    """Fourth-order Butterworth low-pass as sections, shape (2, 6).

    Parameters
    ----------
    hz, rate
        Cutoff in Hz; frames a second.

    Returns
    -------
    ndarray
        Sections, shape (2, 6).

    Examples
    --------
    >>> gain = abs(response(lowpass_24(100.0, 48000), np.array([100.0]), 48000))[0]
    >>> round(float(20 * np.log10(gain)), 1)
    -3.0
    """
    return steep("lowpass", hz, 24, rate)


def highpass_24(hz: float, rate: int) -> Array:
    """Fourth-order Butterworth high-pass as sections, shape (2, 6).

    Parameters
    ----------
    hz, rate
        Cutoff in Hz; frames a second.

    Returns
    -------
    ndarray
        Sections, shape (2, 6).

    Examples
    --------
    >>> gain = abs(response(highpass_24(100.0, 48000), np.array([100.0]), 48000))[0]
    >>> round(float(20 * np.log10(gain)), 1)
    -3.0
    """
    return steep("highpass", hz, 24, rate)


def low_cut(kind: LowCut, rate: int) -> Array:
    """What a track's low cut takes from the bass, as sections, shape (2, 6).

    Gentle removes what lies below 29 Hz; firm cuts at 50 Hz, its corner raised by 3 dB.
    Common practice.

    Parameters
    ----------
    kind, rate
        "gentle" or "firm"; frames a second.

    Returns
    -------
    ndarray
        Sections, shape (2, 6).

    Examples
    --------
    >>> gain = abs(response(low_cut("firm", 48000), np.array([20.0, 200.0]), 48000))
    >>> (20 * np.log10(gain)).round()
    array([-31.,   0.])
    """
    if kind == "gentle":
        return highpass_24(29.0, rate)
    return np.vstack([cookbook("highpass", 50.0, q, rate) for q in (0.72, 1.96)])


def response(sections: Array, hz: Array, rate: int) -> NDArray[np.complex128]:
    """Complex gain of second-order sections, shape (sections, 6), at frequencies in Hz.

    1 everywhere where there are none. What `scipy.signal.freqz_sos` gives.

    Parameters
    ----------
    sections
        Shape (sections, 6).
    hz, rate
        Where it is asked for; frames a second.

    Returns
    -------
    ndarray
        Complex, as `hz`.

    Examples
    --------
    >>> response(np.zeros((0, 6)), np.array([50.0]), 48000).real.tolist()
    [1.0]
    """
    back = np.exp(-2j * np.pi * np.asarray(hz) / rate)
    out = np.ones(back.shape, dtype=complex)
    for b0, b1, b2, a0, a1, a2 in sections:
        out *= (b0 + back * (b1 + back * b2)) / (a0 + back * (a1 + back * a2))
    return out


_AS_IT_IS = np.array([1.0, 0.0, 0.0, 1.0, 0.0, 0.0])


@nb.njit("(float64[::1], float64[:, ::1])", cache=True, fastmath=True, nogil=True)
def _cascade(x, sections):
    out = x.copy()
    # Two sections at a time: neither waits for the other.
    for first in range(0, sections.shape[0], 2):
        b0, b1, b2, _, a1, a2 = sections[first]
        pair = first + 1 < sections.shape[0]
        d0, d1, d2, _, c1, c2 = sections[first + 1] if pair else _AS_IT_IS
        z1 = z2 = w1 = w2 = 0.0
        for i in range(out.size):
            # Never quite zero: what rings on in silence would sink into denormal numbers,
            # which cost a hundred times as much.
            v = out[i] + 1e-20
            y = b0 * v + z1
            z1 = b1 * v - a1 * y + z2
            z2 = b2 * v - a2 * y
            if pair:
                v = y + 1e-20
                y = d0 * v + w1
                w1 = d1 * v - c1 * y + w2
                w2 = d2 * v - c2 * y
            out[i] = y
    return out


def filtered(x: Array, sections: Array) -> Array:
    """`x`, shape (frames,), through second-order sections, from rest.

    What `scipy.signal.sosfilt` gives, at a fraction of its time.

    Parameters
    ----------
    x
        Samples.
    sections
        Shape (sections, 6).

    Returns
    -------
    ndarray
        As `x`.

    Examples
    --------
    >>> x = np.ones(48000)
    >>> bool(abs(filtered(x, highpass_24(100.0, 48000))[-1]) < 1e-6)
    True
    """
    return np.asarray(_cascade(np.ascontiguousarray(x, dtype=np.float64), np.ascontiguousarray(sections)))


def bandpass(x: Array, hz: float, q: float, rate: int) -> Array:
    """`x`, shape (frames,), through a cookbook band-pass.

    Parameters
    ----------
    x
        Samples, shape (frames,).
    hz
        Middle in Hz.
    q, rate
        Middle over width; frames a second.

    Returns
    -------
    ndarray
        Shape (frames,).

    Examples
    --------
    >>> bandpass(np.zeros(100), 200.0, 2.0, 48000).shape
    (100,)
    """
    return filtered(x, cookbook("bandpass", hz, q, rate))


def around_loop(x: Array, sections: Array) -> Array:
    """Filter a loop, shape (frames,), as if it had always been running.

    Parameters
    ----------
    x
        One pass of the loop.
    sections
        Shape (sections, 6).

    Returns
    -------
    ndarray
        One pass, as long.

    Examples
    --------
    >>> x = np.ones(4800)
    >>> bool(np.max(np.abs(around_loop(x, highpass_24(200.0, 48000)))) < 1e-3)
    True
    """
    return filtered(np.concatenate([x, x]), sections)[x.size :]


def remembered(gain: Callable[[Array], Array]) -> Callable[[Array], Array]:
    """A gain over Hz that is not worked out again at frequencies it was asked for lately.

    Parameters
    ----------
    gain
        At frequencies that begin at 0 and are evenly apart.

    Returns
    -------
    callable
        The same gain.

    Examples
    --------
    >>> remembered(lambda hz: hz / 2)(np.array([0.0, 10.0, 20.0])).tolist()
    [0.0, 5.0, 10.0]
    """

    @lru_cache(maxsize=4)
    def at(count: int, highest_hz: float) -> Array:
        return gain(np.linspace(0.0, highest_hz, count))

    return lambda hz: at(hz.size, float(hz[-1]))


_ROUND_S = 0.4


class Around:
    """A sound, shape (frames,), whose spectrum is taken once, to be read through several gains.

    Its end is followed by its start, or with `loop` off by silence. A length that transforms quickly
    matters more than one that is exactly the sound's; gains must ring for less than 0.4 s.
    """

    def __init__(self, x: Array, rate: float, *, loop: bool = True) -> None:
        self._margin, self._frames = round(_ROUND_S * rate), x.size
        self._size = fft.next_fast_len(x.size + 2 * self._margin, real=True)
        around = np.arange(-self._margin, self._size - self._margin)
        if loop:
            padded = np.take(x, around, mode="wrap")
        else:
            padded = np.zeros(self._size)
            padded[self._margin : self._margin + x.size] = x
        self._spectrum = fft.rfft(padded)
        self._hz = np.arange(self._spectrum.size) * rate / self._size

    def under(self, gain: Callable[[Array], NDArray[Any]]) -> Array:
        """The sound with its spectrum times a real or complex gain over Hz."""
        out = fft.irfft(self._spectrum * gain(self._hz), self._size)
        return np.asarray(out[self._margin : self._margin + self._frames])


def around_loop_by(x: Array, gain: Callable[[Array], NDArray[Any]], rate: float) -> Array:
    """A loop, shape (frames,), with its spectrum times a real or complex gain over Hz.

    Parameters
    ----------
    x
        Samples, shape (frames,).
    gain, rate
        Gain at frequencies in Hz; frames a second.

    Returns
    -------
    ndarray
        Shape (frames,).

    Examples
    --------
    >>> around_loop_by(np.ones(64), lambda hz: np.where(hz < 20.0, 0.5, 1.0), 48000)[:2]
    array([0.5, 0.5])
    """
    return Around(x, rate).under(gain)


def linkwitz_riley_gain(hz: Array, crossover_hz: float) -> tuple[Array, Array]:
    """Magnitudes of a fourth-order Linkwitz-Riley pair: low and high, which add up to 1.

    Both are 0.5 (-6.02 dB) at the crossover. Used as zero-phase gains on a spectrum.

    Parameters
    ----------
    hz
        Where they are asked for.
    crossover_hz
        Where both meet.

    Returns
    -------
    tuple of ndarray
        Low and high, each as `hz`.

    Examples
    --------
    >>> low, high = linkwitz_riley_gain(np.array([100.0, 200.0]), 100.0)
    >>> low.tolist()[0], (low + high).tolist()
    (0.5, [1.0, 1.0])
    """
    ratio = (hz / crossover_hz) ** 4
    return 1 / (1 + ratio), ratio / (1 + ratio)
