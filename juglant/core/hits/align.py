"""Two layers brought together: where they add up best, and where they cancel."""

from dataclasses import dataclass
from itertools import combinations

import numpy as np
import scipy
from numpy.typing import NDArray
from scipy import fft

from juglant.core.hits.mixing import added, delayed_by
from juglant.core.measure.levels import BANDS_HZ, THIRD_OCTAVES_HZ, Spectrum
from juglant.core.measure.stereo import mono

Array = NDArray[np.float64]

WHOLE_HZ = (20.0, 20000.0)
# How far apart two layers are looked for to either side.
REACH_MS = 60.0
# Bands further than this under the strongest one are not worth a word.
_HEARD_DB = 30.0


@dataclass(frozen=True)
class Alignment:
    """How the second sound joins the first: what is added to its offset, and its polarity.

    `gain_db` says, per named band, how much louder both together become by it; bands in which
    nothing is heard are left out. `correlation` is what the two have in common in the chosen
    band, 0 to 1.
    """

    offset_ms: float
    polarity: int
    correlation: float
    gain_db: dict[str, float]


def in_band(x: Array, size: int, band_hz: tuple[float, float], rate: float) -> NDArray[np.complex128]:
    """Spectrum of `x`, shape (frames,), inside a band, its edges a sixth of an octave wide.

    Parameters
    ----------
    x
        Samples, shape (frames,).
    size
        Frames of the transform.
    band_hz, rate
        Its lower and upper edge; frames a second.

    Returns
    -------
    ndarray of complex
        Spectrum, shape (size // 2 + 1,).

    Examples
    --------
    >>> in_band(np.ones(64), 64, (20.0, 100.0), 48000).shape
    (33,)
    """
    spectrum = fft.rfft(x, size)
    hz = np.maximum(np.arange(spectrum.size) * rate / size, 1e-3)
    low, high = band_hz
    rise = np.clip(0.5 + 6 * np.log2(hz / low), 0.0, 1.0) if low > 20.0 else 1.0
    fall = np.clip(0.5 + 6 * np.log2(high / hz), 0.0, 1.0) if high < 20000.0 else 1.0
    return np.asarray(spectrum * rise * fall)


def strongest_lag(cross: NDArray[np.complex128], size: int, reach: int) -> tuple[float, float]:
    """Where a correlation, given as the spectrum of its `size` frames, is strongest within `reach` frames
    to either side, to a fraction of one; and the sum over that spectrum there, whose sign is its own.

    Parameters
    ----------
    cross
        Spectrum of the correlation.
    size
        Frames of the transform.
    reach
        How many frames are looked at on either side.

    Returns
    -------
    tuple of float
        Lag in frames, and the sum there.

    Examples
    --------
    >>> click, later = np.zeros(64), np.zeros(64)
    >>> click[10], later[13] = 1.0, 1.0
    >>> round(abs(strongest_lag(np.fft.rfft(click).conj() * np.fft.rfft(later), 64, 8)[0]), 1)
    3.0
    """
    r = fft.irfft(cross, size)
    lags = np.concatenate([np.arange(reach + 1), np.arange(-reach, 0)])
    near = int(lags[np.argmax(np.abs(r[lags]))])
    sign = 1 if r[near] >= 0 else -1
    turn = 2j * np.pi * np.arange(cross.size) / size

    def opposed(lag: float) -> float:
        return -sign * float(np.sum((cross * np.exp(turn * lag)).real))

    found = scipy.optimize.minimize_scalar(
        opposed, bounds=(near - 1.0, near + 1.0), method="bounded", options={"xatol": 1e-4}
    )
    return float(found.x), -sign * opposed(float(found.x))


def align(a: Array, b: Array, rate: int, band_hz: tuple[float, float] = WHOLE_HZ) -> Alignment:
    """The offset and polarity of `b` with which it adds up best with `a` in a band.

    Both of shape (frames,) or (frames, channels), at `rate`, each as it is played now. Energy
    of the sum is E(a) + E(b) + 2 r(offset), r the cross-correlation: the largest |r| within
    60 ms decides, its sign is the polarity, and its place between the samples is found on the
    exact band-limited correlation.

    Parameters
    ----------
    a, b, rate
        Samples, shape (frames,) or (frames, channels); frames a second.
    band_hz
        In which the two are to agree.

    Returns
    -------
    Alignment
        Offset in ms, polarity, and what it brings.

    Examples
    --------
    >>> at = np.arange(9600) / 48000
    >>> a = np.sin(2 * np.pi * 60 * at) * np.exp(-at / 0.05)
    >>> b = -np.concatenate([np.zeros(96), a])
    >>> found = align(a, b, 48000)
    >>> round(found.offset_ms, 1), found.polarity
    (-2.0, -1)
    """
    x, y = mono(a), mono(b)
    reach = round(REACH_MS / 1000 * rate)
    size = fft.next_fast_len(x.size + y.size + reach, real=True)
    first, second = (in_band(one, size, band_hz, rate) for one in (x, y))
    cross = first * np.conj(second)
    energies = [float(np.sum(np.abs(one) ** 2)) for one in (first, second)]
    if min(energies) <= 1e-20 * max(*energies, 1e-20):
        return Alignment(0.0, 1, 0.0, {})
    lag, sum_there = strongest_lag(cross, size, reach)
    sign = 1 if sum_there >= 0 else -1
    shared = abs(sum_there) / np.sqrt(energies[0] * energies[1])
    offset_ms = lag / rate * 1000
    return Alignment(offset_ms, sign, min(shared, 1.0), _gains_db(x, y, lag, sign, rate))


def joined(a: Array, b: Array, offset_ms: float, polarity: int, rate: int) -> Array:
    """Both sounds together, `b` later by `offset_ms` (earlier where negative).

    Parameters
    ----------
    a, b
        Samples, shape (frames,) or (frames, channels).
    offset_ms
        By how much `b` comes later.
    polarity, rate
        1, or -1 for `b` turned over; frames a second.

    Returns
    -------
    ndarray
        The sum, stereo as soon as one of them is.

    Examples
    --------
    >>> joined(np.ones(4), np.ones(4), 0.0, -1, 48000)
    array([0., 0., 0., 0.])
    """
    frames = offset_ms / 1000 * rate
    return added([delayed_by(a, max(-frames, 0.0)), delayed_by(polarity * b, max(frames, 0.0))])


def _gains_db(x: Array, y: Array, lag: float, sign: int, rate: int) -> dict[str, float]:
    as_played, aligned = (
        Spectrum(joined(x, y, frames / rate * 1000, polarity, rate), rate)
        for frames, polarity in ((0.0, 1), (lag, sign))
    )
    energies = {
        name: (as_played.energy(*edges), aligned.energy(*edges)) for name, edges in BANDS_HZ.items()
    }
    least = max(max(pair) for pair in energies.values()) * 10 ** (-_HEARD_DB / 10)
    return {
        name: 10 * float(np.log10(max(after, 1e-20) / max(before, 1e-20)))
        for name, (before, after) in energies.items()
        if max(before, after) > least
    }


@dataclass(frozen=True)
class Cancellation:
    """What becomes of layers in one third-octave band when they are added.

    `gain_db` is the energy of the sum over the sum of energies: +3 coherent (of two alike), 0
    unrelated, below -3 cancelling. `layers` are the indices of a pair, or of all.
    """

    layers: list[int]
    band_hz: float
    gain_db: float


def cancellations(layers: dict[int, Array], rate: int) -> list[Cancellation]:
    """For each pair of layers and for the whole, every band that is heard, the worst first.

    Layers of shape (frames,) or (frames, channels), with their offsets, by their index.

    Parameters
    ----------
    layers, rate
        Samples of every layer, by its index; frames a second.

    Returns
    -------
    list of Cancellation
        The worst first.

    Examples
    --------
    >>> at = np.arange(9600) / 48000
    >>> a = np.sin(2 * np.pi * 60 * at) * np.exp(-at / 0.05)
    >>> cancellations({0: a, 1: -0.9 * a}, 48000)[0].gain_db < -10
    True
    """
    sounds = {index: mono(x) for index, x in layers.items()}
    groups = list(combinations(sounds, 2))
    if len(sounds) > 2:
        groups.append(tuple(sounds))  # type: ignore[arg-type]

    def energies(x: Array) -> Array:
        spectrum = Spectrum(x, rate, 1.0)
        # Per hertz of its own transform: sounds of different lengths are compared.
        return spectrum.third_octaves(THIRD_OCTAVES_HZ) / spectrum.power.size

    alone = {index: energies(x) for index, x in sounds.items()}
    found = []
    for group in groups:
        together = energies(added([sounds[index] for index in group]))
        apart = np.sum([alone[index] for index in group], axis=0)
        # A band counts where at least two of them are heard in it.
        second = np.sort([alone[index] for index in group], axis=0)[-2]
        for at in np.flatnonzero(second > apart.max() * 10 ** (-_HEARD_DB / 10)):
            gain = 10 * float(np.log10(max(together[at], 1e-20) / apart[at]))
            found.append(Cancellation(list(group), THIRD_OCTAVES_HZ[at], gain))
    return sorted(found, key=lambda one: one.gain_db)
