"""The ducking curve: its shape, what it does to a sound, and its numbers."""

from dataclasses import asdict, dataclass
from functools import partial
from typing import Any

import numba as nb
import numpy as np
from numpy.typing import NDArray

from juglant.core.lowend.drawn import drawn_share
from juglant.core.lowend.loop import gaps_ms
from juglant.core.measure.owner import below_gain
from juglant.core.measure.subedge import SubEdge
from juglant.core.process.filters import Around, linkwitz_riley_gain
from juglant.core.recipes.duck import LEAST_APART_MS, LONGEST_MS, MOST_POINTS, DuckRecipe
from juglant.core.tempo import nearest_note_value

Array = NDArray[np.float64]

CLICK_LIMIT_DB_PER_MS = 12.0
RETURNED_DB = -1.0


def _ease(x: Array) -> Array:
    """From 0 to 1 with level ends."""
    x = np.clip(x, 0.0, 1.0)
    return x * x * (3 - 2 * x)


def dip_share(
    since_ms: Array, attack_ms: float, hold_ms: Array | float, release_ms: Array | float, curve: float
) -> Array:
    """Share of the depth at times since the curve's own start; arguments broadcast.

    Parameters
    ----------
    since_ms, attack_ms, hold_ms, release_ms
        Times in ms.
    curve
        Its bend, -1 to 1.

    Returns
    -------
    ndarray
        0 to 1.

    Examples
    --------
    >>> dip_share(np.array([-1.0, 5.0, 500.0]), 5.0, 20.0, 80.0, 0.0)
    array([0., 1., 0.])
    """
    back = np.clip((since_ms - attack_ms - hold_ms) / release_ms, 0.0, 1.0)
    up = _ease(back ** (2.0 ** (1.5 * curve)))
    return np.asarray((_ease(since_ms / attack_ms) - up) * (since_ms >= 0))


def shape_db(recipe: DuckRecipe, time_ms: Array) -> Array:
    """Gain in dB over time from the trigger, one pass, shape of `time_ms`.

    Parameters
    ----------
    recipe
        The curve.
    time_ms
        From the trigger on.

    Returns
    -------
    ndarray
        dB, shape of `time_ms`.

    Examples
    --------
    >>> shape_db(DuckRecipe(depth_db=12.0), np.array([-50.0, 5000.0]))
    array([-0., -0.])
    """
    since = time_ms + recipe.lookahead_ms
    if recipe.points:
        return np.asarray(-recipe.depth_db * drawn_share(recipe.points, since))
    share = dip_share(since, recipe.attack_ms, recipe.hold_ms, recipe.release_ms, recipe.curve)
    return np.asarray(-recipe.depth_db * share)


@dataclass(frozen=True)
class Traced:
    """A curve as it runs once: the share of its depth every `step_ms` from its start, and within what
    its points may lie.
    """

    step_ms: float
    share: list[float]
    most_points: int = MOST_POINTS
    apart_ms: float = LEAST_APART_MS
    latest_ms: float = LONGEST_MS


_TRACED = 400


def traced(recipe: DuckRecipe) -> Traced:
    """One pass of a curve, to be looked at.

    Parameters
    ----------
    recipe
        The curve.

    Returns
    -------
    Traced
        Times and gains.

    Examples
    --------
    >>> type(traced(DuckRecipe())).__name__
    'Traced'
    """
    step = span_ms(recipe) / _TRACED
    since = np.arange(_TRACED + 1, dtype=np.float64) * step - recipe.lookahead_ms
    full = recipe.model_copy(update={"depth_db": 1.0})
    return Traced(step, (-shape_db(full, since)).round(4).tolist())


def span_ms(recipe: DuckRecipe) -> float:
    """From the start of the curve to its end.

    Parameters
    ----------
    recipe
        The curve.

    Returns
    -------
    float
        Ms.

    Examples
    --------
    >>> span_ms(DuckRecipe(attack_ms=5.0, hold_ms=20.0, release_ms=75.0, lookahead_ms=0.0))
    100.0
    """
    if recipe.points:
        return recipe.points[-1].at_ms
    return recipe.attack_ms + recipe.hold_ms + recipe.release_ms


@nb.njit(
    (nb.float64[::1], nb.float64, nb.float64, nb.float64, nb.float64, nb.float64, nb.float64, nb.float64),
    cache=True, nogil=True, error_model="numpy",
)  # fmt: skip
def _deepened(gain_db, from_ms, step_ms, depth_db, attack_ms, hold_ms, release_ms, power):  # type: ignore[no-untyped-def]
    """The deeper of a gain and of one pass of a curve, in place: what `dip_share` says, in one go."""
    for i in range(gain_db.size):
        since = from_ms + i * step_ms
        if since >= 0.0:
            x = min(since / attack_ms, 1.0)
            y = min(max((since - attack_ms - hold_ms) / release_ms, 0.0), 1.0)
            if power != 1.0:
                y = y**power
            share = x * x * (3.0 - 2.0 * x) - y * y * (3.0 - 2.0 * y)
            gain_db[i] = min(gain_db[i], -depth_db * share)


def curve_db(
    recipe: DuckRecipe, times_ms: list[float], length_ms: float, step_ms: float, *, loop: bool
) -> Array:
    """Gain in dB every `step_ms` over the whole length; the deepest of all triggers counts.

    A trigger that comes while the gain is still on its way starts anew from there.

    Parameters
    ----------
    recipe, times_ms
        The curve; when it is struck, from the loop’s start.
    length_ms, step_ms
        Length of the loop; from one value to the next.
    loop
        Whether the end is followed by the start.

    Returns
    -------
    ndarray
        dB.

    Examples
    --------
    >>> float(curve_db(DuckRecipe(depth_db=12.0), [0.0], 500.0, 1.0, loop=True).min().round())
    -12.0
    """
    count = round(length_ms / step_ms)
    gain = np.zeros(count)
    power = 2.0 ** (1.5 * recipe.curve)
    settings = (recipe.depth_db, recipe.attack_ms, recipe.hold_ms, recipe.release_ms, power)
    for time in times_ms:
        for shift in (-length_ms, 0.0, length_ms) if loop else (0.0,):
            first = time + shift - recipe.lookahead_ms
            a = max(0, int(np.floor(first / step_ms)))
            b = min(count, int(np.ceil((first + span_ms(recipe)) / step_ms)) + 1)
            if a < b and recipe.points:
                at = np.asarray(np.arange(a, b) * step_ms - time - shift, np.float64)
                np.minimum(gain[a:b], shape_db(recipe, at), out=gain[a:b])
            elif a < b:
                _deepened(gain[a:b], a * step_ms - first, step_ms, *settings)
    return gain


def apply(x: Array, gain_db: Array) -> Array:
    """`x`, shape (frames,), under a gain of the same shape.

    Parameters
    ----------
    x
        Samples, shape (frames,).
    gain_db
        Shape (frames,).

    Returns
    -------
    ndarray
        Shape of `x`.

    Examples
    --------
    >>> apply(np.ones(2), np.array([0.0, -20.0]))
    array([1. , 0.1])
    """
    return np.asarray(x * np.exp(gain_db * (np.log(10) / 20)))


def under(x: Array, gain_db: Array, alone: Array | None) -> Array:
    """`x` under a gain that leaves a part of it, `alone`, as it is.

    Parameters
    ----------
    x
        Samples, shape (frames,).
    gain_db
        Shape (frames,).
    alone
        What is left as it is; None where nothing is.

    Returns
    -------
    ndarray
        Shape of `x`.

    Examples
    --------
    >>> under(np.ones(1), np.array([-20.0]), np.array([0.5])).round(2)
    array([0.55])
    """
    return apply(x, gain_db) if alone is None else alone + apply(x - alone, gain_db)


def left_alone(
    x: Array, recipe: DuckRecipe, edge: SubEdge | None, rate: float, *, loop: bool = True
) -> Array | None:
    """What a ducking does not turn down of a sound, shape (frames,); None where it turns down all.

    `edge` is that of a bass that owns the sub, None where the kick does.

    Parameters
    ----------
    x
        Samples, shape (frames,).
    recipe
        The curve.
    edge
        Where the sub of a bass that owns it ends; None where it does not.
    rate, loop
        Frames a second; whether the end is followed by the start.

    Returns
    -------
    ndarray or None
        Shape (frames,).

    Examples
    --------
    >>> left_alone(np.ones(4800), DuckRecipe(), None, 48000) is None
    True
    """
    if recipe.band == "all" or (recipe.band == "by owner" and edge is None):
        return None
    spectrum = Around(x, rate, loop=loop)
    if recipe.band == "by owner":
        assert edge is not None
        return np.asarray(
            sum(
                (share * spectrum.under(partial(below_gain, hz)) for hz, share in edge.shares(x.size)),
                np.zeros(x.size),
            )
        )
    low = spectrum.under(lambda hz: linkwitz_riley_gain(hz, recipe.edge_hz)[0])
    return low if recipe.band == "above" else x - low


@dataclass(frozen=True)
class Duck:
    """The numbers of a ducking curve; times from the kick's onset.

    `slack_ms` is that of the tightest gap between triggers, `slacks_ms` that of every gap in their order.
    """

    depth_db: float
    reaches_depth_ms: float | None
    returns_ms: float | None
    slack_ms: float | None
    slacks_ms: list[float]
    note_value: str | None
    note_value_difference_ms: float | None
    click_risk: float
    reasons: dict[str, str]

    def as_dict(self) -> dict[str, Any]:
        """Plain values under the names of the definitions."""
        return asdict(self)


STEP_MS = 0.1


def measure_duck(recipe: DuckRecipe, times_ms: list[float], length_ms: float, bpm: float) -> Duck:
    """Measure the curve as it runs over the loop, the tightest gap deciding the slack.

    Parameters
    ----------
    recipe, times_ms
        The curve; when it is struck, from the loop’s start.
    length_ms, bpm
        Length of the loop; tempo.

    Returns
    -------
    Duck
        Its numbers.

    Examples
    --------
    >>> round(measure_duck(DuckRecipe(depth_db=12.0), [0.0], 500.0, 120.0).depth_db)
    -12
    """
    gain = curve_db(recipe, times_ms, length_ms, STEP_MS, loop=True)
    depth = float(gain.min())
    click = float(np.max(np.abs(np.diff(np.append(gain, gain[0]))))) / STEP_MS
    if depth > RETURNED_DB:
        reason = "the ducking takes less than 1 dB"
        return Duck(
            depth, None, None, None, [], None, None, click,
            dict.fromkeys(("reaches_depth_ms", "returns_ms", "slack_ms", "note_value"), reason),
        )  # fmt: skip
    at = np.arange(0.0, span_ms(recipe) + 5, STEP_MS) - recipe.lookahead_ms
    alone = shape_db(recipe, at)
    reaches = float(at[np.argmax(alone <= 0.9 * float(alone.min()))])
    low = np.flatnonzero(alone <= RETURNED_DB)
    returns = float(at[low[-1]]) + STEP_MS
    slacks = [gap - returns - recipe.lookahead_ms for gap in gaps_ms(times_ms, length_ms)]
    value = nearest_note_value(max(returns, 1.0), bpm)
    return Duck(depth, reaches, returns, min(slacks), slacks, value.value, value.difference_ms, click, {})
