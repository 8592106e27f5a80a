"""Peaks, loudness and where the energy lies."""

from functools import cache

import numpy as np
from numpy.typing import NDArray

from juglant.core.measure.stereo import across
from juglant.core.measure.transform import Transform, transform
from juglant.core.process.filters import filtered

Array = NDArray[np.float64]

BANDS_HZ: dict[str, tuple[float, float]] = {
    "sub": (20, 60),
    "thump": (60, 120),
    "boom": (120, 250),
    "box": (250, 600),
    "mid": (600, 2000),
    "snap": (2000, 5000),
    "air": (5000, 20000),
}
# Exact third-octave mid-bands from 25 Hz to 16 kHz: 1000 * 10^(n/10) (IEC 61260-1).
THIRD_OCTAVES_HZ = tuple(1000 * 10 ** (n / 10) for n in range(-16, 13))
_BLOCK_S, _ABSOLUTE_GATE_LUFS, QUIETEST_LUFS = 0.4, -70.0, -120.0
_OVERSAMPLING = 8
_REACH = 24


def to_db(linear: float) -> float:
    """20 log10, with silence at -300 dB instead of minus infinity.

    Parameters
    ----------
    linear
        An amplitude, 0 or above.

    Returns
    -------
    float
        Decibels.

    Examples
    --------
    >>> to_db(0.5), to_db(0.0)
    (-6.020599913279624, -300.0)
    """
    return float(20 * np.log10(max(linear, 1e-15)))


def peak_dbfs(x: Array) -> float:
    """Sample peak of all channels.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels); full scale is 1.

    Returns
    -------
    float
        dB re full scale.

    Examples
    --------
    >>> round(peak_dbfs(np.array([0.1, -0.5])), 2)
    -6.02
    """
    return to_db(float(np.max(np.abs(x), initial=0.0)))


@cache
def _between() -> Array:
    return between_samples(np.arange(-_OVERSAMPLING + 1, _OVERSAMPLING) / _OVERSAMPLING)


def between_samples(offsets: Array) -> Array:
    """Interpolation weights, shape (taps, offsets), for points up to a sample to either side.

    Parameters
    ----------
    offsets
        Where, in samples from the middle one, -1 to 1.

    Returns
    -------
    ndarray
        Weights, shape (taps, offsets).

    Examples
    --------
    >>> between_samples(np.array([0.0, 0.5])).shape[1]
    2
    """
    taps = np.arange(-_REACH, _REACH + 1)[:, None]
    distance = taps - offsets[None, :]
    taper = np.i0(8.0 * np.sqrt(np.maximum(1 - (distance / (_REACH + 1)) ** 2, 0))) / np.i0(8.0)
    weights = np.sinc(distance) * taper
    return np.asarray(weights / weights.sum(axis=0))


def true_peak_dbtp(x: Array) -> float:
    """Inter-sample peak of all channels, by eight-fold interpolation (ITU-R BS.1770-5 annex 2).

    Only around samples that are local maxima within 6 dB of the highest: the curve between
    samples can rise above the highest of them nowhere else in band-limited programme.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels); full scale is 1.

    Returns
    -------
    float
        dB re full scale, above 0 where the curve between the samples passes it.

    Examples
    --------
    A sine at a quarter of the rate whose samples lie beside its tops:

    >>> x = np.sin(np.pi / 2 * np.arange(4000) + np.pi / 4)
    >>> round(peak_dbfs(x), 2), abs(true_peak_dbtp(x)) < 0.1
    (-3.01, True)
    """
    best = highest = float(np.max(np.abs(x), initial=0.0))
    for channel in x.reshape(x.shape[0], -1).T:
        size = np.abs(np.pad(channel, 1))
        near = 1 + np.flatnonzero(size[1:-1] >= 0.5 * highest)
        top = near[(size[near] >= size[near - 1]) & (size[near] >= size[near + 1])] - 1
        around = np.lib.stride_tricks.sliding_window_view(np.pad(channel, _REACH), 2 * _REACH + 1)
        if highest > 0 and top.size:
            best = max(best, float(np.max(np.abs(around[top] @ _between()))))
    return to_db(best)


@cache
def k_weighting(rate: int) -> Array:
    """The shelf and the high-pass of ITU-R BS.1770-5 (tables 1 and 2), as sections.

    The tables hold for 48 kHz only; these are the analogue filters behind them, from which
    the bilinear transform gives the tables back to the last digit printed.

    Parameters
    ----------
    rate
        Frames a second.

    Returns
    -------
    ndarray
        Second-order sections, shape (2, 6).

    Examples
    --------
    >>> from juglant.core.process.filters import response
    >>> gain = abs(response(k_weighting(48000), np.array([1000.0]), 48000))[0]
    >>> round(float(20 * np.log10(gain)), 1)
    0.7
    """
    k = np.tan(np.pi * 1681.9744509555319 / rate)
    damping, high, middle = k / 0.7071752369554193, 10 ** (3.99984385397 / 20), 1.2587209302325577
    whole = 1 + damping + k * k
    shelf = [
        (high + middle * damping + k * k) / whole, 2 * (k * k - high) / whole,
        (high - middle * damping + k * k) / whole,
        1.0, 2 * (k * k - 1) / whole, (1 - damping + k * k) / whole,
    ]  # fmt: skip
    k = np.tan(np.pi * 38.13547087613982 / rate)
    damping = k / 0.5003270373253953
    whole = 1 + damping + k * k
    highpass = [1.0, -2.0, 1.0, 1.0, 2 * (k * k - 1) / whole, (1 - damping + k * k) / whole]
    return np.array([shelf, highpass])


def k_weighted(x: Array, rate: int) -> Array:
    """`x` through the two filters of ITU-R BS.1770.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels); full scale is 1.
    rate
        Frames a second.

    Returns
    -------
    ndarray
        As `x`.

    Examples
    --------
    >>> x = 0.5 * np.sin(2 * np.pi * 1000.0 * np.arange(48000) / 48000)
    >>> round(to_db(float(np.std(k_weighted(x, 48000)[4800:]) / np.std(x))), 1)
    0.7
    """
    sections = k_weighting(rate)
    if x.ndim == 1:
        return filtered(x, sections)
    return np.stack([filtered(channel, sections) for channel in x.T], axis=1)


def _block_power(x: Array, rate: int, ends: NDArray[np.int64]) -> Array:
    """K-weighted power, summed over channels, of the 400 ms before each of some frames."""
    window = round(_BLOCK_S * rate)
    weighted = k_weighted(x, rate)
    total = across(np.add, np.multiply(weighted, weighted, out=weighted))
    np.cumsum(total, out=total)
    return np.asarray((total[ends - 1] - np.where(ends > window, total[ends - window - 1], 0.0)) / window)


def lufs(power: float) -> float:
    """Loudness of a mean K-weighted power, summed over channels (ITU-R BS.1770).

    Parameters
    ----------
    power
        Mean of the squared samples behind the K-weighting, summed over channels.

    Returns
    -------
    float
        Loudness in LUFS; silence is `QUIETEST_LUFS`.

    Examples
    --------
    >>> round(lufs(0.5), 2)
    -3.7
    """
    return max(-0.691 + 10 * float(np.log10(max(power, 1e-30))), QUIETEST_LUFS)


def momentary_max_lufs(x: Array, rate: int) -> float:
    """Maximum over time of the 400 ms K-weighted level (EBU Tech 3341 momentary), every 1 ms.

    Silence is added on both sides, so that a short hit fits and a long one is met at its best.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels); full scale is 1.
    rate
        Frames a second.

    Returns
    -------
    float
        Loudness in LUFS.

    Examples
    --------
    1 kHz at -6 dBFS in one channel (ITU-R BS.1770: 0 dBFS is -3.01):

    >>> x = 0.5 * np.sin(2 * np.pi * 1000.0 * np.arange(48000) / 48000)
    >>> round(momentary_max_lufs(x, 48000), 1)
    -9.0
    """
    step = max(1, round(0.001 * rate))
    window = round(_BLOCK_S * rate / step)
    # The filters ring on after the sound: a tenth of a second is some 25 time constants of theirs.
    rest = np.zeros((round(0.1 * rate) - x.shape[0] % step, *x.shape[1:]))
    weighted = k_weighted(np.concatenate([x, rest]), rate)
    power = across(np.add, weighted * weighted)
    steps = np.add.reduceat(power, np.arange(0, power.size, step))
    total = np.concatenate([np.zeros(window), np.cumsum(steps)])
    return lufs(float(np.max(total[window:] - total[:-window])) / (window * step))


def integrated_lufs(x: Array, rate: int) -> float:
    """Programme loudness with both gates of ITU-R BS.1770; blocks overlap by three quarters.

    What is shorter than one block is measured as if silence followed.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels); full scale is 1.
    rate
        Frames a second.

    Returns
    -------
    float
        Loudness in LUFS; silence is `QUIETEST_LUFS`.

    Examples
    --------
    >>> x = 0.5 * np.sin(2 * np.pi * 1000.0 * np.arange(48000) / 48000)
    >>> round(integrated_lufs(x, 48000), 1)
    -9.0
    """
    block = round(_BLOCK_S * rate)
    if x.shape[0] < block:
        x = np.concatenate([x, np.zeros((block - x.shape[0], *x.shape[1:]))])
    power = _block_power(x, rate, np.arange(block, x.shape[0] + 1, block // 4))
    gate = 10 ** ((_ABSOLUTE_GATE_LUFS + 0.691) / 10)
    audible = power[power > gate]
    if not audible.size:
        return QUIETEST_LUFS
    # The relative gate lies 10 LU under the mean of what passed the absolute one.
    return lufs(float(audible[audible > 0.1 * audible.mean()].mean()))


class Spectrum:
    """Power spectrum of a sound of shape (frames,), computed once for several questions.

    `energy_s` is the energy of the whole sound (amplitude squared times seconds) where `x` is
    only the low part of it; `rate` may then be any number of Hz.
    """

    def __init__(self, x: Array | Transform, rate: float, energy_s: float | None = None) -> None:
        bins, size = x if isinstance(x, Transform) else transform(x, rate, 0.0)
        self.power: Array = np.asarray(bins.real**2 + bins.imag**2, np.float64)
        self._step_hz = rate / size
        self._sum = np.concatenate([[0.0], np.cumsum(self.power)])
        whole = float(self._sum[-1]) if energy_s is None else 0.5 * size * rate * energy_s
        self._whole = max(whole, 1e-30)

    @property
    def hz(self) -> Array:
        """Frequency of every bin of `power`."""
        return np.asarray(np.arange(self.power.size) * self._step_hz)

    def _below(self, hz: Array) -> Array:
        at = np.clip(hz / self._step_hz + 0.5, 0.0, self.power.size)
        whole = np.minimum(at.astype(int), self.power.size - 1)
        return np.asarray(self._sum[whole] + (at - whole) * self.power[whole])

    def energies(self, low_hz: Array, high_hz: Array) -> Array:
        """Energy between pairs of frequencies, bins at the edges shared out."""
        return self._below(high_hz) - self._below(low_hz)

    def energy(self, low_hz: float, high_hz: float) -> float:
        """Energy between two frequencies."""
        return float(self.energies(np.array(low_hz, float), np.array(high_hz, float)))

    def third_octaves(self, bands_hz: tuple[float, ...]) -> Array:
        """Energy in the third-octave band around each of the given mid-bands."""
        middle, half = np.array(bands_hz), 10**0.05
        return self.energies(middle / half, middle * half)

    def _shares_db(self, low_hz: Array, high_hz: Array, least_db: float) -> list[float]:
        share = self.energies(low_hz, high_hz) / self._whole
        return (10 * np.log10(np.maximum(share, 10 ** (least_db / 10)))).tolist()  # type: ignore[no-any-return]

    def share_db(self, low_hz: float, high_hz: float) -> float:
        """Energy between two frequencies relative to the whole."""
        return self._shares_db(np.array([low_hz]), np.array([high_hz]), -150.0)[0]

    def bands_db(self, moved: float = 1.0) -> dict[str, float]:
        """Energy of each named band, its edges times `moved`, relative to the whole."""
        low, high = moved * np.array(list(BANDS_HZ.values()), float).T
        return dict(zip(BANDS_HZ, self._shares_db(low, high, -150.0), strict=True))

    def centroid_hz(self) -> float:
        """Power-weighted mean frequency."""
        return float(np.sum(self.hz * self.power)) / self._whole

    def flatness(self) -> float:
        """Geometric over arithmetic mean of the power from 20 Hz to 20 kHz, averaged to some
        512 points first so that noise comes near 1; 0 is a tone.
        """
        first, last = (round(hz / self._step_hz) for hz in (20, 20000))
        inside = self.power[first : last + 1]
        width = max(1, inside.size // 512)
        smooth = inside[: inside.size // width * width].reshape(-1, width).mean(axis=1)
        smooth = np.maximum(smooth, 1e-12 * max(float(smooth.max()), 1e-30))
        return float(np.exp(np.mean(np.log(smooth))) / np.mean(smooth))

    def third_octaves_db(self, bands_hz: tuple[float, ...]) -> list[float]:
        """Energy of the third octave around each mid-band, in dB re the sound's whole energy."""
        share = self.third_octaves(bands_hz) / self._whole
        return (10 * np.log10(np.maximum(share, 1e-10))).tolist()  # type: ignore[no-any-return]

    def rungs_db(self, midis: range, a4_hz: float) -> list[float]:
        """Energy of each semitone around a MIDI note, in dB re the sound's whole energy."""
        hz = a4_hz * 2 ** ((np.array(midis) - 69) / 12)
        return self._shares_db(hz * 2 ** (-1 / 24), hz * 2 ** (1 / 24), -100.0)
