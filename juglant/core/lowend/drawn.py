"""Ducking curves drawn as points, each way between two of them bent or straight."""

from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from juglant.core.recipes.duck import LEAST_APART_MS, LONGEST_MS, Point

Array = NDArray[np.float64]

# At a full bend the way sets out e^6 times as slowly as it arrives.
_FULL_BEND = 6.0
_STRAIGHT = 1e-6


def bent(x: Array, bend: float) -> Array:
    """From 0 to 1 over x from 0 to 1, exponentially.

    Parameters
    ----------
    x
        From 0 to 1.
    bend
        -1 to 1.

    Returns
    -------
    ndarray
        Shape of `x`.

    Examples
    --------
    >>> bent(np.array([0.0, 0.5, 1.0]), 0.0)
    array([0. , 0.5, 1. ])
    """
    k = _FULL_BEND * bend
    if abs(k) < _STRAIGHT:
        return x
    return np.asarray(np.expm1(k * x) / np.expm1(k))


def _steepest(bend: float) -> float:
    """The largest slope of a bent way, 1 where it is straight."""
    k = abs(_FULL_BEND * bend)
    return 1.0 if k < _STRAIGHT else float(k / -np.expm1(-k))


def drawn_share(points: tuple[Point, ...], since_ms: Array) -> Array:
    """Share of the depth at times since the curve's start, shape of `since_ms`; 0 outside it.

    Parameters
    ----------
    points
        Of the drawn curve.
    since_ms
        Since the curve’s start.

    Returns
    -------
    ndarray
        0 to 1, shape of `since_ms`.

    Examples
    --------
    >>> from juglant.core.lowend.curves import as_drawn
    >>> from juglant.core.recipes.duck import DuckRecipe
    >>> points = as_drawn(DuckRecipe(depth_db=12.0)).points
    >>> drawn_share(points, np.array([-1.0]))
    array([0.])
    """
    share = np.zeros(np.shape(since_ms))
    for here, there in pairwise(points):
        inside = (since_ms >= here.at_ms) & (since_ms < there.at_ms)
        x = (since_ms[inside] - here.at_ms) / (there.at_ms - here.at_ms)
        share[inside] = here.share + (there.share - here.share) * bent(x, here.bend)
    return share


def _apart(points: list[Point]) -> tuple[Point, ...]:
    """The points with times of a tenth of a ms, far enough from each other."""
    out: list[Point] = []
    for point in points:
        first = out[-1].at_ms + LEAST_APART_MS if out else 0.0
        out.append(point.model_copy(update={"at_ms": round(max(point.at_ms, first), 1)}))
    # What would lie beyond the end is drawn up before it.
    latest = LONGEST_MS
    for n in range(len(out) - 1, -1, -1):
        if out[n].at_ms > latest:
            out[n] = out[n].model_copy(update={"at_ms": latest})
        latest = out[n].at_ms - LEAST_APART_MS
    return tuple(out)


def drawn_stretched(points: tuple[Point, ...], factor: float) -> tuple[Point, ...]:
    """The points with everything after the way down `factor` times as long.

    Parameters
    ----------
    points
        Of the drawn curve.
    factor
        How many times as long.

    Returns
    -------
    tuple of Point
        Points.

    Examples
    --------
    >>> from juglant.core.lowend.curves import as_drawn
    >>> from juglant.core.recipes.duck import DuckRecipe
    >>> points = as_drawn(DuckRecipe(depth_db=12.0)).points
    >>> drawn_stretched(points, 2.0)[-1].at_ms > points[-1].at_ms
    True
    """
    deepest = max(point.share for point in points)
    down_ms = next(point.at_ms for point in points if point.share == deepest)
    return _apart([
        point.model_copy(update={"at_ms": down_ms + (point.at_ms - down_ms) * factor})
        if point.at_ms > down_ms else point
        for point in points
    ])  # fmt: skip


def drawn_scaled(points: tuple[Point, ...], factor: float) -> tuple[Point, ...]:
    """The points `factor` times as slow: a shape that was drawn at another tempo.

    Parameters
    ----------
    points
        Of the drawn curve.
    factor
        How many times as long.

    Returns
    -------
    tuple of Point
        Points.

    Examples
    --------
    >>> from juglant.core.lowend.curves import as_drawn
    >>> from juglant.core.recipes.duck import DuckRecipe
    >>> points = as_drawn(DuckRecipe(depth_db=12.0)).points
    >>> drawn_scaled(points, 2.0)[-1].at_ms == 2 * points[-1].at_ms
    True
    """
    return _apart([point.model_copy(update={"at_ms": point.at_ms * factor}) for point in points])


def drawn_slower(points: tuple[Point, ...], depth_db: float, most_db_per_ms: float) -> tuple[Point, ...]:
    """The points with every way that is too steep made longer, what follows it moved later.

    Parameters
    ----------
    points
        Of the drawn curve.
    depth_db
        Of the ducking.
    most_db_per_ms
        How steep it may be.

    Returns
    -------
    tuple of Point
        Points.

    Examples
    --------
    >>> from juglant.core.lowend.curves import as_drawn
    >>> from juglant.core.recipes.duck import DuckRecipe
    >>> points = as_drawn(DuckRecipe(depth_db=12.0)).points
    >>> len(drawn_slower(points, 12.0, 1.0)) == len(points)
    True
    """
    out, moved = [points[0]], 0.0
    for here, there in pairwise(points):
        wanted = depth_db * abs(there.share - here.share) * _steepest(here.bend) / most_db_per_ms
        moved += max(0.0, np.ceil(10 * (wanted - (there.at_ms - here.at_ms))) / 10)
        out.append(there.model_copy(update={"at_ms": there.at_ms + moved}))
    return _apart(out)


def _bend(share: Array) -> float:
    """The bend whose way follows a stretch of a curve best, least squares."""
    x = np.linspace(0.0, 1.0, share.size)
    y = (share - share[0]) / (share[-1] - share[0])
    bends = np.linspace(-1.0, 1.0, 81)
    return float(min(bends, key=lambda bend: float(np.sum((bent(x, bend) - y) ** 2))))


def drawn_after(share: Array, step_ms: float) -> tuple[Point, ...]:
    """Points that follow a curve down, along and up again: `share` of the depth every `step_ms`.

    One way down, straight, for it is short; two back, which meet half-way: an ease sets out and
    arrives slowly.

    Parameters
    ----------
    share
        Of the depth, 0 to 1.
    step_ms
        From one to the next.

    Returns
    -------
    tuple of Point
        Points.

    Examples
    --------
    >>> len(drawn_after(np.array([0.0, 1.0, 1.0, 0.5, 0.0]), 10.0)) >= 4
    True
    """
    low, taken = np.flatnonzero(share >= 0.999), np.flatnonzero(share > 0.001)
    begins, down, up = max(int(taken[0]) - 1, 0), int(low[0]), int(low[-1])
    ends = min(int(taken[-1]) + 1, share.size - 1)
    half = up + int(np.argmax(share[up:] <= 0.5))
    found = [(begins, 0.0, 0.0), (down, 1.0, 0.0)]
    if up - down > 1:
        found.append((up, 1.0, 0.0))
    last, there, _ = found.pop()
    found.append((last, there, _bend(share[up : half + 1]) if half - up > 1 else 0.0))
    found.append((half, 0.5, _bend(share[half : ends + 1]) if ends - half > 1 else 0.0))
    found.append((ends, 0.0, 0.0))
    return _apart([
        Point(at_ms=round(at * step_ms, 1), share=taken, bend=round(bend, 3)) for at, taken, bend in found
    ])  # fmt: skip
