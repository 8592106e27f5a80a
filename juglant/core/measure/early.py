"""The pitch of a tail before a room, or what else goes on, takes over."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from juglant.core.measure.tail import Tail
from juglant.core.measure.tailmodel import TailPitch

# Where a tail is taken to end, in dB under its top: the later, the longer and the more of the room in it.
_ENDS_DB = (-6.0, -10.0, -14.0, -18.0, -24.0, -30.0)
_LEAST_S = 0.05
# What goes on beside a tone swings with it: an amplitude of this share of the tone's, over a second, leaves
# so many Hz of doubt.
_BESIDE_HZ = 0.32
# A fit that leaves more than this share unexplained has the room in it.
CLEAR = 0.05
_CENTS = 1200 / np.log(2)


def beside_cents(fit: TailPitch) -> float:
    """What the unexplained part of a fit may have done to its pitch.

    Parameters
    ----------
    fit
        A fitted tail.

    Returns
    -------
    float
        Cents.

    Examples
    --------
    >>> from juglant.core.measure.pitch import measure_tail
    >>> at = np.arange(48000) / 48000
    >>> fit = measure_tail(np.sin(2 * np.pi * 55 * at) * np.exp(-at / 0.2), 48000)
    >>> beside_cents(fit) < 1
    True
    """
    hz = _BESIDE_HZ * float(np.sqrt(fit.unexplained)) / max(fit.lasted_s, 0.01)
    return float(_CENTS * hz / fit.hz)


def ends(tail: Tail) -> list[Tail]:
    """The same tail, ended ever later.

    Parameters
    ----------
    tail
        What rings.

    Returns
    -------
    list of Tail
        The shortest first.

    Examples
    --------
    >>> from juglant.core.measure.tail import prepare, scaled_down
    >>> at = np.arange(48000) / 48000
    >>> tail = prepare(*scaled_down(np.sin(2 * np.pi * 55 * at) * np.exp(-at / 0.2), 48000))
    >>> len(ends(tail)) > 1
    True
    """
    level = 20 * np.log10(np.maximum(tail.envelope / tail.envelope.max(), 1e-9))
    first = int(tail.peak_s * tail.rate)
    found = []
    for drop in _ENDS_DB:
        below = np.flatnonzero(level[first:] < drop)
        end_s = tail.peak_s + below[0] / tail.rate if below.size else tail.end_s
        if end_s - tail.peak_s > _LEAST_S / tail.scale and end_s < tail.end_s:
            found.append(replace(tail, end_s=float(end_s)))
    return found


def doubt_cents(fits: list[TailPitch]) -> list[float]:
    """How uncertain each fit of `ends` is: by itself, by what it leaves, by how far the next one lies.

    Parameters
    ----------
    fits
        The shortest end first.

    Returns
    -------
    list of float
        Cents, one for each.

    Examples
    --------
    >>> from juglant.core.measure.pitch import measure_tail
    >>> at = np.arange(48000) / 48000
    >>> fit = measure_tail(np.sin(2 * np.pi * 55 * at) * np.exp(-at / 0.2), 48000)
    >>> len(doubt_cents([fit, fit]))
    2
    """
    out = []
    for n, fit in enumerate(fits):
        other = fits[n + 1] if n + 1 < len(fits) else fits[n - 1]
        apart = 0.5 * abs(_CENTS * float(np.log(fit.hz / other.hz))) if len(fits) > 1 else 0.0
        out.append(float(np.sqrt(fit.sigma_cents**2 + beside_cents(fit) ** 2 + apart**2)))
    return out


def best_of(tails: list[Tail], fit: Callable[[Tail], TailPitch | None]) -> tuple[TailPitch, float] | None:
    """The least uncertain fit of several ends, and how uncertain it is; None where none is clear.

    Parameters
    ----------
    tails
        Several ends of one tail.
    fit
        Fits one of them.

    Returns
    -------
    tuple of TailPitch and float, or None
        The fit, and its doubt in cents.

    Examples
    --------
    >>> from juglant.core.measure.tail import prepare, scaled_down
    >>> at = np.arange(48000) / 48000
    >>> tail = prepare(*scaled_down(np.sin(2 * np.pi * 55 * at) * np.exp(-at / 0.2), 48000))
    >>> from juglant.core.measure.pitch import measure_tail
    >>> best_of([tail], lambda tail: None) is None
    True
    """
    fits = [one for tail in tails if (one := fit(tail)) is not None and one.unexplained < CLEAR]
    if not fits:
        return None
    doubts = doubt_cents(fits)
    at = int(np.argmin(doubts))
    return fits[at], doubts[at]
