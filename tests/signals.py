"""Plain signals whose numbers are known by arithmetic."""

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

RATE = 48_000


def times(seconds: float, rate: int = RATE) -> Array:
    return np.arange(round(seconds * rate)) / rate


def sine(hz: float, seconds: float, level_db: float = 0.0, rate: int = RATE, phase: float = 0.0) -> Array:
    return np.asarray(10 ** (level_db / 20) * np.sin(2 * np.pi * hz * times(seconds, rate) + phase))


def ring(hz: float, t60_ms: float, seconds: float, rate: int = RATE) -> Array:
    """A tone that decays by 60 dB in `t60_ms`."""
    return sine(hz, seconds, rate=rate) * 10 ** (-3 * times(seconds, rate) * 1000 / t60_ms)


def noise(seconds: float, seed: int = 1, rate: int = RATE) -> Array:
    return np.random.default_rng(seed).standard_normal(round(seconds * rate)) * 0.2


def silence(seconds: float, rate: int = RATE) -> Array:
    return np.zeros(round(seconds * rate))
