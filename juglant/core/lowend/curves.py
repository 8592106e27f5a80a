"""Other curves made of a ducking’s: drawn, longer, back when the groove wants it."""

import numpy as np

from juglant.core.lowend.drawn import drawn_after, drawn_share, drawn_stretched
from juglant.core.lowend.ducking import RETURNED_DB, STEP_MS, dip_share, shape_db, span_ms
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.fields import within


def times_of(recipe: DuckRecipe) -> tuple[float, float, float]:
    """Attack, hold and release in ms; of a drawn curve, until it is down, while it is down by nine
    tenths of what it takes, and from there to its end.

    Parameters
    ----------
    recipe
        The curve.

    Returns
    -------
    tuple of float
        Ms.

    Examples
    --------
    >>> times_of(DuckRecipe(attack_ms=5.0, hold_ms=20.0, release_ms=75.0))
    (5.0, 20.0, 75.0)
    """
    if not recipe.points:
        return recipe.attack_ms, recipe.hold_ms, recipe.release_ms
    at = np.arange(0.0, span_ms(recipe), STEP_MS)
    share = drawn_share(recipe.points, at)
    low = at[share >= 0.9 * share.max()]
    return float(low[0]), float(low[-1] - low[0]), float(span_ms(recipe) - low[-1])


def as_drawn(recipe: DuckRecipe) -> DuckRecipe:
    """A curve as points, to be drawn on.

    Parameters
    ----------
    recipe
        The curve.

    Returns
    -------
    DuckRecipe
        Drawn.

    Examples
    --------
    >>> len(as_drawn(DuckRecipe()).points) > 2
    True
    """
    if recipe.points:
        return recipe
    since = np.arange(0.0, span_ms(recipe) + 1, STEP_MS)
    share = dip_share(since, recipe.attack_ms, recipe.hold_ms, recipe.release_ms, recipe.curve)
    return recipe.model_copy(update={"points": drawn_after(share, STEP_MS)})


def stretched(recipe: DuckRecipe, factor: float) -> DuckRecipe:
    """The curve with its way back `factor` times as long, hold and release (or what is drawn after the
    way down) alike, within their controls' limits.

    Parameters
    ----------
    recipe
        The curve.
    factor
        How many times as long.

    Returns
    -------
    DuckRecipe
        The curve.

    Examples
    --------
    >>> stretched(DuckRecipe(release_ms=100.0), 2.0).release_ms
    200.0
    """
    if recipe.points:
        return recipe.model_copy(update={"points": drawn_stretched(recipe.points, factor)})
    hold_ms, release_ms = round(recipe.hold_ms * factor, 1), round(recipe.release_ms * factor, 1)
    return within(recipe, hold_ms=hold_ms, release_ms=release_ms)


def returning_on(recipe: DuckRecipe, returns_ms: float) -> DuckRecipe:
    """The curve stretched until the sound is back above -1 dB at that time after the trigger: the
    groove's wish, whatever the kick's tail. Depth and attack stay.

    Parameters
    ----------
    recipe
        The curve.
    returns_ms
        After the trigger.

    Returns
    -------
    DuckRecipe
        The curve.

    Examples
    --------
    >>> returning_on(DuckRecipe(depth_db=12.0), 250.0).depth_db
    12.0
    """

    def back_ms(factor: float) -> float:
        alone = stretched(recipe, factor)
        at = np.arange(0.0, span_ms(alone) + 5, STEP_MS) - alone.lookahead_ms
        low = np.flatnonzero(shape_db(alone, at) <= RETURNED_DB)
        return float(at[low[-1]]) + STEP_MS if low.size else 0.0

    low, high = 0.02, max(4.0 * returns_ms / max(sum(times_of(recipe)[1:]), 1.0), 1.0)
    for _ in range(30):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if back_ms(middle) < returns_ms else (low, middle)
    return stretched(recipe, high)
