"""Envelopes of amplitude and pitch."""

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

DECAYED_DB = -60.0


def fall(time_s: Array, decay_s: float, curve: float) -> Array:
    """From 1 at time 0 towards 0.

    `curve` 0 is exponential with time constant `decay_s`; -1 a straight ramp that ends
    after twice that; +1 falls three times as fast at first and lingers (hyperbolic).

    Parameters
    ----------
    time_s
        Seconds.
    decay_s
        How long it takes.
    curve
        Its bend, -1 to 1.

    Returns
    -------
    ndarray
        Shape of `time_s`.

    Examples
    --------
    >>> fall(np.array([0.0, 0.1]), 0.1, 0.0).round(2)
    array([1.  , 0.37])
    """
    form = curve if curve < 0 else curve / 2.5
    # The same family throughout; the rate is set so that the area stays of one order.
    tau = decay_s * (1 - curve if curve < 0 else 1 / (1 + 2 * curve))
    if abs(form) < 1e-6:
        return np.asarray(np.exp(-time_s / decay_s))
    return np.asarray(np.maximum(1 + form * time_s / tau, 0.0) ** (-1 / form))


def swept_hz(time_s: Array, end_hz: float, octaves: float, decay_s: float, curve: float) -> Array:
    """A frequency that falls to `end_hz` from so many octaves above it.

    Parameters
    ----------
    time_s
        Seconds.
    end_hz
        Where it ends.
    octaves
        From how far above.
    decay_s
        How long it takes.
    curve
        Its bend, -1 to 1.

    Returns
    -------
    ndarray
        Hz, shape of `time_s`.

    Examples
    --------
    >>> swept_hz(np.array([0.0, 9.0]), 50.0, 2.0, 0.05, 0.0).round()
    array([200.,  50.])
    """
    return np.asarray(end_hz * np.exp2(octaves * fall(time_s, decay_s, curve)))


def rise(time_s: Array, attack_s: float) -> Array:
    """Raised-cosine fade in.

    Parameters
    ----------
    time_s
        Seconds.
    attack_s
        How long it takes.

    Returns
    -------
    ndarray
        Shape of `time_s`.

    Examples
    --------
    >>> rise(np.array([0.0, 0.05, 0.1]), 0.1).round(2)
    array([0. , 0.5, 1. ])
    """
    if attack_s < 1e-6:
        return np.ones_like(time_s)
    out = np.ones_like(time_s)
    rising = time_s < attack_s
    out[rising] = 0.5 - 0.5 * np.cos(np.pi * np.maximum(time_s[rising] / attack_s, 0))
    return out


def release(time_s: Array, length_s: float, release_s: float) -> Array:
    """Raised-cosine fade out that ends at `length_s`.

    Parameters
    ----------
    time_s
        Seconds.
    length_s
        When it is over.
    release_s
        How long the end takes.

    Returns
    -------
    ndarray
        Shape of `time_s`.

    Examples
    --------
    >>> release(np.array([0.0, 0.95, 1.0]), 1.0, 0.1).round(2)
    array([1. , 0.5, 0. ])
    """
    return rise(length_s - time_s, min(release_s, length_s))


def decay(time_s: Array, hold_s: float, decay_s: float, curve: float) -> Array:
    """1 during the hold, then falling by 60 dB in `decay_s`, and on at that slope.

    `curve` 0 is straight in dB; below 0 drops first, above 0 last.

    Parameters
    ----------
    time_s
        Seconds.
    hold_s
        How long it stays at first.
    decay_s
        How long it takes.
    curve
        Its bend, -1 to 1.

    Returns
    -------
    ndarray
        Shape of `time_s`.

    Examples
    --------
    >>> decay(np.array([0.0, 0.1, 0.3]), 0.1, 0.2, 0.0).round(3)
    array([1.   , 1.   , 0.001])
    """
    share = np.maximum(time_s - hold_s, 0.0) / decay_s
    shaped = np.where(share < 1, share ** (2.0 ** (1.5 * curve)), share)
    return np.asarray(np.exp(DECAYED_DB / 20 * np.log(10) * shaped))
