"""Envelopes of amplitude and pitch."""

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

DECAYED_DB = -60.0


def fall(time_s: Array, decay_s: float, curve: float) -> Array:
    """From 1 at time 0 towards 0.

    `curve` 0 is exponential with time constant `decay_s`; -1 a straight ramp that ends
    after twice that; +1 falls three times as fast at first and lingers (hyperbolic).
    """
    form = curve if curve < 0 else curve / 2.5
    # The same family throughout; the rate is set so that the area stays of one order.
    tau = decay_s * (1 - curve if curve < 0 else 1 / (1 + 2 * curve))
    if abs(form) < 1e-6:
        return np.asarray(np.exp(-time_s / decay_s))
    return np.asarray(np.maximum(1 + form * time_s / tau, 0.0) ** (-1 / form))


def swept_hz(time_s: Array, end_hz: float, octaves: float, decay_s: float, curve: float) -> Array:
    """A frequency that falls to `end_hz` from so many octaves above it."""
    return np.asarray(end_hz * np.exp2(octaves * fall(time_s, decay_s, curve)))


def rise(time_s: Array, attack_s: float) -> Array:
    """Raised-cosine fade in."""
    if attack_s < 1e-6:
        return np.ones_like(time_s)
    out = np.ones_like(time_s)
    rising = time_s < attack_s
    out[rising] = 0.5 - 0.5 * np.cos(np.pi * np.maximum(time_s[rising] / attack_s, 0))
    return out


def release(time_s: Array, length_s: float, release_s: float) -> Array:
    """Raised-cosine fade out that ends at `length_s`."""
    return rise(length_s - time_s, min(release_s, length_s))


def decay(time_s: Array, hold_s: float, decay_s: float, curve: float) -> Array:
    """1 during the hold, then falling by 60 dB in `decay_s`, and on at that slope.

    `curve` 0 is straight in dB; below 0 drops first, above 0 last.
    """
    share = np.maximum(time_s - hold_s, 0.0) / decay_s
    shaped = np.where(share < 1, share ** (2.0 ** (1.5 * curve)), share)
    return np.asarray(np.exp(DECAYED_DB / 20 * np.log(10) * shaped))
