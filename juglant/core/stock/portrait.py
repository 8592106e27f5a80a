"""What a sound is like in a few numbers: for telling kinds apart, and for sounds like it.

Band energies on a scale like the ear's over four stretches of time from the onset, as cepstra and spectral
moments are taken of frames (Peeters, "A large set of audio features for sound description", IRCAM, 2004).
"""

from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy import fft

from juglant.core.measure.levels import to_db

Array = NDArray[np.float64]

_EDGES_HZ = (25, 60, 100, 160, 250, 400, 700, 1200, 2200, 4000, 7000, 11000, 20000)
# Stretches of time from the onset on.
_SPANS_S = ((0.0, 0.02), (0.02, 0.08), (0.08, 0.25), (0.25, 0.8))
_SPAN_NAMES = ("onset", "first 80 ms", "quarter second", "rest")
_FLOOR_DB = -60.0
_HOP_S = 0.002
# Bursts of a clap: rises of what lies high within this time of the onset.
_BURSTS_S, _BURST_DB, _TOP_HZ = 0.06, 3.0, 1000.0


def _names() -> tuple[str, ...]:
    bands = [f"{low}–{high} Hz" for low, high in pairwise(_EDGES_HZ)]
    found = [f"{band}, {span}" for span in _SPAN_NAMES for band in bands]
    found += [f"{what}, {span}" for span in _SPAN_NAMES for what in ("level", "purity", "pitch", "noise")]
    return (*found, "attack", "fall by 10 dB", "fall by 20 dB", "bursts", "pitch falls")


NAMES = _names()


def portrait(x: Array, rate: int, onset_ms: float) -> Array:
    """The numbers of `NAMES` of a sound of shape (frames,) that begins at `onset_ms`.

    Levels are in dB re the whole, times and frequencies as base-2 logarithms of ms and Hz.

    Parameters
    ----------
    x, rate
        Samples, shape (frames,); frames a second.
    onset_ms
        Where it begins.

    Returns
    -------
    ndarray
        Shape (numbers,).

    Examples
    --------
    >>> portrait(np.random.default_rng(1).normal(size=24000), 48000, 0.0).shape == (len(NAMES),)
    True
    """
    x = x[round(onset_ms / 1000 * rate) :][: round(_SPANS_S[-1][1] * rate)]
    if x.size < 64 or not np.any(x):
        return np.zeros(len(NAMES))
    energy = float(np.sum(x * x))
    levels, more = [], []
    for begin_s, end_s in _SPANS_S:
        piece = x[round(begin_s * rate) : round(end_s * rate)]
        bands, rest = _spectrum(piece, rate)
        levels.append(np.maximum(10 * np.log10(np.maximum(bands / energy, 1e-12)), _FLOOR_DB))
        more.append([max(to_db(float(np.sqrt(np.sum(piece * piece) / energy))), _FLOOR_DB), *rest])
    times = _times(x, rate)
    falls = more[0][2] - more[2][2] if more[2][0] > _FLOOR_DB else 0.0
    return np.concatenate([*levels, *more, [*times, _bursts(x, rate), falls]])


def _spectrum(x: Array, rate: int) -> tuple[Array, tuple[float, float, float]]:
    """Energy in bands, and of the spectrum its purity (dB of its strongest twelfth of an octave re all),
    where that is, and how flat it is above 300 Hz.
    """
    none = (_FLOOR_DB, np.log2(100.0), 0.0)
    if x.size < 32 or not np.any(x):
        return np.zeros(len(_EDGES_HZ) - 1), none
    # So long that low bands are told apart in a short stretch too.
    size = fft.next_fast_len(max(x.size, round(0.04 * rate)), real=True)
    power = np.abs(fft.rfft(x * np.hanning(x.size), size)) ** 2 * (8 / 3)
    power *= 2 / size
    hz = np.arange(power.size) * rate / size
    edges = np.searchsorted(hz, np.minimum(_EDGES_HZ, 0.499 * rate))
    total = np.concatenate([[0.0], np.cumsum(power)])
    bands = total[edges[1:]] - total[edges[:-1]]
    at = int(np.argmax(power[1:])) + 1
    low, high = np.searchsorted(hz, (hz[at] * 2 ** (-1 / 12) - 1e-9, hz[at] * 2 ** (1 / 12)))
    all_of_it = max(float(power.sum()), 1e-30)
    pure = 10 * np.log10(max(float(power[low : max(high, low + 1)].sum()) / all_of_it, 1e-6))
    above = power[hz > 300.0] + 1e-9 * all_of_it
    flat = float(np.exp(np.mean(np.log(above))) / np.mean(above))
    return bands, (float(pure), float(np.log2(max(hz[at], 20.0))), flat)


def _envelope(x: Array, rate: int) -> Array:
    # What is shorter than a step is one.
    hop = min(x.size, max(1, round(_HOP_S * rate)))
    count = x.size // hop
    return np.asarray(np.sqrt((x[: count * hop].reshape(count, hop) ** 2).mean(axis=1)))


def _times(x: Array, rate: int) -> list[float]:
    """Attack, and when it has fallen by 10 and by 20 dB for good, as base-2 logarithms of ms."""
    level = _envelope(x, rate)
    top = int(np.argmax(level))
    found = [float(top)]
    for db in (10, 20):
        above = np.flatnonzero(level > level[top] * 10 ** (-db / 20))
        found.append(float(above[-1] - top) if above.size else 0.0)
    return [float(np.log2(1.0 + n * _HOP_S * 1000)) for n in found]


def _bursts(x: Array, rate: int) -> float:
    """How often what lies high rises again just after the onset: the hands of a clap."""
    piece = x[: round(_BURSTS_S * rate)]
    spectrum = fft.rfft(piece)
    spectrum[: round(_TOP_HZ * piece.size / rate)] = 0.0
    level = 20 * np.log10(np.maximum(_envelope(fft.irfft(spectrum, piece.size), rate), 1e-9))
    rises, low, waiting = 0, float(level[0]), False
    high = low
    for db in level[1:]:
        if waiting and db > low + _BURST_DB and db > level.max() - 20:
            rises, waiting, high = rises + 1, False, float(db)
        high, low = (max(high, float(db)), float(db)) if not waiting else (high, min(low, float(db)))
        if db < high - _BURST_DB:
            waiting, low = True, min(low, float(db))
    return float(min(rises, 6))
