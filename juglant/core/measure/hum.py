"""Mains hum under a recorded hit: found where the hit has died away, and taken out."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from juglant.core.process.resampling import polyphase

Array = NDArray[np.float64]

_MAINS_HZ, _HARMONICS, _OFF_HZ = (50.0, 60.0), 8, 0.4
_RATE, _SHORTEST_S, _LONGEST_S = 2400, 0.12, 0.6
# Hum keeps its level from one half of what is looked at to the next, and is most of what is there.
_STEADY_DB, _SHARE, _COARSE_SHARE = 1.5, 0.5, 0.2
# It lies well under the hit, and its lowest two harmonics are a good part of it: a steady tone is no hum.
_UNDER, _LOWEST_SHARE = 0.1, 0.25
# Of two halves of what hums the first has hardly more energy.
_FALLING = 2.2
_LATE_SHARES = (0.5, 0.35, 0.25)


@dataclass(frozen=True)
class Hum:
    """Mains frequency in Hz, level in dBFS (peak of its strongest harmonic), and its waves' factors."""

    hz: float
    level_db: float
    factors: Array


def _waves(count: int, hz: float, rate: float, from_s: float = 0.0) -> Array:
    time = from_s + np.arange(count) / rate
    turns = 2 * np.pi * hz * np.outer(time, np.arange(1, _HARMONICS + 1))
    return np.concatenate([np.cos(turns), np.sin(turns)], axis=1)


def _fitted(x: Array, hz: float, rate: float, from_s: float) -> tuple[Array, float]:
    """Factors of the waves, and the share of the energy that they explain."""
    waves = _waves(x.size, hz, rate, from_s)
    factors: Array = np.linalg.lstsq(waves, x, rcond=None)[0].astype(np.float64)
    rest = x - waves @ factors
    return factors, 1 - float(rest @ rest) / max(float(x @ x), 1e-30)


def _levels(factors: Array) -> Array:
    return np.asarray(np.hypot(factors[:_HARMONICS], factors[_HARMONICS:]))


def find_hum(x: Array, rate: int) -> Hum | None:
    """The hum under a sound, shape (frames,); None where its end is silent, or is still the sound's own.

    Looked for in the last stretch of the file, in which a hit falls and hum does not.

    Parameters
    ----------
    x
        Samples, shape (frames,); full scale is 1.
    rate
        Frames a second.

    Returns
    -------
    Hum or None
        Its frequency, its level in dB re full scale, and the factors of its waves.

    Examples
    --------
    >>> at = np.arange(48000) / 48000
    >>> x = np.exp(-at / 0.05) * np.sin(2 * np.pi * 80 * at) + 0.004 * np.sin(2 * np.pi * 50 * at)
    >>> round(find_hum(x, 48000).hz)
    50
    """
    factor = max(1, rate // _RATE)
    slow, fs = polyphase(x, 1, factor), rate / factor
    peak = float(np.max(np.abs(slow), initial=0.0))
    for late in _LATE_SHARES:
        first = max(round((1 - late) * slow.size), slow.size - round(_LONGEST_S * fs))
        piece, from_s = slow[first:], first / fs
        if piece.size < 2 * _SHORTEST_S * fs or float(np.max(np.abs(piece), initial=0.0)) < 1e-5:
            return None
        half = piece.size // 2
        first_half, second_half = (float(part @ part) for part in (piece[:half], piece[half : 2 * half]))
        if first_half > _FALLING * second_half:  # most of what is there still falls
            continue
        for mains in _MAINS_HZ:
            if _fitted(piece, mains, fs, from_s)[1] < _COARSE_SHARE:
                continue
            tried = [mains + off for off in np.linspace(-_OFF_HZ, _OFF_HZ, 17)]
            hz = max(tried, key=lambda one: _fitted(piece, one, fs, from_s)[1])
            factors, share = _fitted(piece, hz, fs, from_s)
            if share < _SHARE:
                continue
            halves = [
                _levels(_fitted(part, hz, fs, at)[0])
                for part, at in ((piece[:half], from_s), (piece[half:], from_s + half / fs))
            ]
            strongest = int(np.argmax(_levels(factors)))
            apart = abs(20 * np.log10(halves[0][strongest] / max(halves[1][strongest], 1e-9)))
            lowest = np.sum(_levels(factors)[:2] ** 2) > _LOWEST_SHARE * np.sum(_levels(factors) ** 2)
            under = _levels(factors)[strongest] < _UNDER * peak
            if apart < _STEADY_DB and lowest and under:
                return Hum(hz, float(20 * np.log10(_levels(factors)[strongest])), factors)
    return None


def without_hum(x: Array, rate: int) -> Array:
    """A sound without the hum under it; the sound itself where there is none.

    Parameters
    ----------
    x, rate
        Samples, shape (frames,); frames a second.

    Returns
    -------
    ndarray
        Shape of `x`.

    Examples
    --------
    >>> at = np.arange(48000) / 48000
    >>> hit = np.exp(-at / 0.05) * np.sin(2 * np.pi * 80 * at)
    >>> left = without_hum(hit + 0.004 * np.sin(2 * np.pi * 50 * at), 48000)
    >>> bool(np.max(np.abs(left[24000:])) < 0.0005)
    True
    """
    found = find_hum(x, rate)
    return x if found is None else x - _waves(x.size, found.hz, rate) @ found.factors
