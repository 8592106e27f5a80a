"""Filters: cookbook biquads, Butterworth and Linkwitz-Riley, and one that moves.

Biquads after R. Bristow-Johnson, "Audio EQ Cookbook" (W3C Note, 2021); crossovers after
Linkwitz & Riley, JAES 24, 1976; the moving low-pass is the trapezoidal state-variable form.
"""

# mypy: disable-error-code="no-untyped-def"
from collections.abc import Callable
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
    q
        Its Q.
    rate
        Frames a second.
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
    db_per_octave
        12, 24 or 48.
    rate
        Frames a second.

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
    hz
        Cutoff in Hz.
    rate
        Frames a second.

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
    hz
        Cutoff in Hz.
    rate
        Frames a second.

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
    kind
        "gentle" or "firm".
    rate
        Frames a second.

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
    hz
        Where it is asked for.
    rate
        Frames a second.

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


@nb.njit("(float64[::1], float64[:, ::1])", cache=True, fastmath=True, nogil=True)
def _cascade(x, sections):
    out = x.copy()
    for b0, b1, b2, _, a1, a2 in sections:
        z1 = z2 = 0.0
        for i in range(out.size):
            # Never quite zero: what rings on in silence would sink into denormal numbers,
            # which cost a hundred times as much.
            v = out[i] + 1e-20
            y = b0 * v + z1
            z1 = b1 * v - a1 * y + z2
            z2 = b2 * v - a2 * y
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
    q
        Middle over width.
    rate
        Frames a second.

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
    gain
        Gain at frequencies in Hz.
    rate
        Frames a second.

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
    hz
        The cutoff at every frame.
    rate
        Frames a second.
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
    slope_db
        12, 24 or 48 dB per octave.
    rate
        Frames a second.

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


def band(x: Array, low_hz: float, high_hz: float, rate: int) -> Array:
    """What `x`, shape (frames,), holds between two corners, without any shift in time.

    Linkwitz-Riley magnitudes at both corners; one at 20 Hz or 20 kHz is none.

    Parameters
    ----------
    x
        Samples.
    low_hz
        Lower corner.
    high_hz
        Upper corner.
    rate
        Frames a second.

    Returns
    -------
    ndarray
        As `x`.

    Examples
    --------
    >>> at = np.arange(48000) / 48000
    >>> x = np.sin(2 * np.pi * 60.0 * at)
    >>> bool(np.std(band(x, 400.0, 2000.0, 48000)) < 0.01 * np.std(x))
    True
    """
    # What a corner rings is gone after some cycles of it.
    margin_s = min(2 * _MARGIN_S, 12 / max(low_hz, 20.0))
    size = fft.next_fast_len(x.size + round(margin_s * rate), real=True)
    spectrum = fft.rfft(x, size)
    hz = np.arange(spectrum.size) * rate / size
    if low_hz > 20.0:
        spectrum *= linkwitz_riley_gain(hz, low_hz)[1]
    if high_hz < 20000.0:
        spectrum *= linkwitz_riley_gain(hz, high_hz)[0]
    return np.asarray(fft.irfft(spectrum, size)[: x.size])


_SPACING_HZ, _MARGIN_S = 3000.0, 0.3


def decimated(x: Array, rate: float, *, loop: bool) -> tuple[Array, float]:
    """What `x`, shape (frames,), holds below 1.5 kHz, at about 3 kHz, without shift in time.

    `loop` says that the end is followed by the start again; otherwise silence follows.
    Returns the samples and their exact rate in Hz.

    Parameters
    ----------
    x
        Samples, shape (frames,).
    rate
        Frames a second.
    loop
        Whether the end is followed by the start.

    Returns
    -------
    tuple of ndarray and float
        Samples, and their rate in Hz.

    Examples
    --------
    >>> decimated(np.ones(48000), 48000, loop=True)[1]
    2998.75
    """
    return _kept_low(x, rate, loop, None)


def low_band(x: Array, rate: float, *, loop: bool) -> tuple[Array, float]:
    """The low band, 20-150 Hz, of `x` of shape (frames,), without any shift in time.

    `loop` as in `decimated`; returns the band at about 3 kHz, where it is all that there is,
    and that rate in Hz.

    Parameters
    ----------
    x
        Samples, shape (frames,).
    rate
        Frames a second.
    loop
        Whether the end is followed by the start.

    Returns
    -------
    tuple of ndarray and float
        Samples, and their rate in Hz.

    Examples
    --------
    >>> x = np.sin(2 * np.pi * 1000 * np.arange(48000) / 48000)
    >>> bool(np.max(np.abs(low_band(x, 48000, loop=True)[0])) < 1e-3)
    True
    """
    return _kept_low(x, rate, loop, LOW_BAND_HZ)


def _kept_low(
    x: Array, rate: float, loop: bool, band_hz: tuple[float, float] | None
) -> tuple[Array, float]:
    # What the 20 Hz edge rings is gone within the margin; a length that transforms quickly
    # matters more than one that is exactly the loop's.
    margin = round(_MARGIN_S * rate)
    size = fft.next_fast_len(x.size + 2 * margin, real=True)
    if loop:
        padded = np.take(x, np.arange(-margin, size - margin), mode="wrap")
    else:
        padded = np.concatenate([np.zeros(margin), x, np.zeros(size - margin - x.size)])
    keep = min(max(2, round(size * _SPACING_HZ / rate / 2)), size // 2 + 1)
    # Single precision keeps errors 120 dB down, and takes half the time.
    spectrum = fft.rfft(padded.astype(np.float32))[:keep].astype(np.complex128)
    if band_hz is not None:
        hz = np.arange(keep) * rate / size
        spectrum *= linkwitz_riley_gain(hz, band_hz[1])[0] * linkwitz_riley_gain(hz, band_hz[0])[1]
    count = 2 * (keep - 1)
    # Turned by the part of a sample that is left, the first kept one is the sound's first.
    first = margin * count / size
    part = first - round(first)
    spectrum *= np.exp(2j * np.pi * np.arange(keep) * (part / count))
    slow = fft.irfft(spectrum, count) * (count / size)
    kept = slice(round(first), round(first) + round(x.size * count / size))
    return np.asarray(slow[kept]), rate * count / size
