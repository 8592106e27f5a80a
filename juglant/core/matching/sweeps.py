"""Pitch courses that a sound may have: one read off its cycles, others looked for on a grid."""

from collections.abc import Callable, Iterator

import numpy as np
import scipy
from numpy.typing import NDArray

from juglant.core.matching.bodies import Values
from juglant.core.measure.trace import Trace
from juglant.core.recipes.fields import limits
from juglant.core.recipes.kick import KickRecipe
from juglant.core.synth import envelopes

Array = NDArray[np.float64]

# What is quieter by this counts as much as what is at this level.
QUIET = 0.01
_GRID_HZ, _GRID_S, _GRID_STEPS = 4000, 0.2, 26
# Cycles after this, or more than this, say nothing new of a sweep; fewer than these say nothing.
_TRACED_MS, _MOST_CYCLES, _LEAST_CYCLES = 400.0, 150, 5
# By so much, in octaves, a cycle usually lies beside its course: what is farther off counts less.
_STRAGGLE = 0.01
_FIELDS = ("end_hz", "start_semitones", "pitch_decay_ms", "pitch_curve")


def traced(trace: Trace, end_hz: float, start_ms: float, *, curved: bool) -> Values | None:
    """The course, with a kick's names, that the frequencies of single cycles lie on: robust least squares
    from several curves (soft L1, for a click or a wave's corners throw single cycles off). None where there
    are too few cycles.

    Parameters
    ----------
    trace
        The cycles.
    end_hz
        Where the tail settles.
    start_ms
        Where it begins.
    curved
        Whether the bend may differ from exponential.

    Returns
    -------
    dict or None
        Values by the control; None where there are too few cycles.

    Examples
    --------
    >>> from juglant.core.measure.trace import cycles
    >>> at = np.arange(24000) / 48000
    >>> x = np.sin(2 * np.pi * (50 * at + 6 * (1 - np.exp(-at / 0.03)))) * np.exp(-at / 0.12)
    >>> round(traced(cycles(x, 48000, 0.0, 0.02), 50.0, 0.0, curved=False)["end_hz"])
    50
    """
    near = (trace.time_ms >= start_ms) & (trace.time_ms < start_ms + _TRACED_MS)
    time_s = (trace.time_ms[near][:_MOST_CYCLES] - start_ms) / 1000
    octaves = np.log2(trace.hz[near][:_MOST_CYCLES])
    if time_s.size < _LEAST_CYCLES:
        return None
    low, high = np.array([limits(KickRecipe, name) for name in _FIELDS]).T
    low, high = (np.array([np.log2(one[0]), one[1], np.log2(one[2]), one[3]]) for one in (low, high))
    if not curved:
        low[3], high[3] = -1e-9, 1e-9

    def off(places: Array) -> Array:
        fallen = envelopes.fall(time_s, 2 ** float(places[2]) / 1000, float(places[3]))
        return np.asarray((places[0] + places[1] / 12 * fallen - octaves) / _STRAGGLE)

    end = min(float(np.log2(end_hz)), float(octaves[-3:].min()))
    start = 12 * float(octaves[:3].max() - end)
    half_ms = 1000 * float(time_s[np.argmax(octaves < end + start / 24)])
    tried = [
        scipy.optimize.least_squares(
            off, np.clip([end, start, np.log2(max(1.4 * half_ms, 1.0)), curve], low, high),
            bounds=(low - 1e-9, high + 1e-9), loss="soft_l1", max_nfev=60,
        )
        for curve in ((-0.7, 0.0, 0.6) if curved else (0.0,))
    ]  # fmt: skip
    best = np.clip(min(tried, key=lambda one: float(one.cost)).x, low, high)
    return {
        "end_hz": 2 ** float(best[0]), "start_semitones": float(best[1]),
        "pitch_decay_ms": 2 ** float(best[2]), "pitch_curve": float(best[3]) if curved else 0.0,
    }  # fmt: skip


def on_a_grid(
    x: Array, rate: int, loudness_at: Callable[[Array], Array], end_hz: float, start_s: float, curves: Array
) -> Iterator[Values]:
    """Sweeps, with a kick's names, that go well with the first 200 ms, the best first. `loudness_at` is the
    envelope of `x`, shape (frames,), at times in s.

    Parameters
    ----------
    x, rate
        Samples, shape (frames,); frames a second.
    loudness_at
        The envelope at times in s.
    end_hz
        Where the tail settles.
    start_s
        Where it begins.
    curves
        Bends that are tried.

    Returns
    -------
    iterator of dict
        Values by the control.

    Examples
    --------
    >>> at = np.arange(24000) / 48000
    >>> x = np.sin(2 * np.pi * (50 * at + 6 * (1 - np.exp(-at / 0.03)))) * np.exp(-at / 0.12)
    >>> nearest = next(on_a_grid(x, 48000, lambda at: np.exp(-at / 0.12), 50.0, 0.0, np.array([0.0])))
    >>> sorted(nearest)
    ['pitch_curve', 'pitch_decay_ms', 'start_semitones']
    """
    y = scipy.signal.resample_poly(x[: round(_GRID_S * rate)], _GRID_HZ, rate)
    at = np.arange(y.size) / _GRID_HZ
    time, begun = np.maximum(at - start_s, 0.0), at >= start_s
    envelope = loudness_at(at)
    weight = 1 / np.sqrt(envelope / max(float(envelope.max()), 1e-12) + QUIET)
    wanted, heard = y * weight, envelope * weight * begun
    decays = np.geomspace(*limits(KickRecipe, "pitch_decay_ms"), _GRID_STEPS)
    falls = np.array([envelopes.fall(time, decay / 1000, curve) for decay in decays for curve in curves])
    found = []
    low, high = limits(KickRecipe, "start_semitones")
    for start in np.arange(low, high + 1.0, 1.5):
        hz = end_hz * np.exp2(start / 12 * falls) * begun
        phase = np.cumsum(hz, axis=1) / _GRID_HZ - hz / _GRID_HZ
        tried = np.sin(2 * np.pi * phase) * heard
        met = (tried @ wanted) ** 2 / np.maximum((tried * tried).sum(axis=1), 1e-12)
        for n in np.argsort(-met)[:6]:
            sweep = {
                "start_semitones": float(start), "pitch_decay_ms": float(decays[n // curves.size]),
                "pitch_curve": float(curves[n % curves.size]),
            }  # fmt: skip
            found.append((float(met[n]), sweep))
    taken: list[Values] = []
    for _, sweep in sorted(found, key=lambda one: -one[0]):
        if all(_apart(sweep, other) for other in taken):
            taken.append(sweep)
            yield sweep


def _apart(one: Values, other: Values) -> bool:
    decays = abs(float(np.log(one["pitch_decay_ms"] / other["pitch_decay_ms"])))
    return abs(one["start_semitones"] - other["start_semitones"]) > 2 or decays > 0.25
