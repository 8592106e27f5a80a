"""A ducking that leaves the owner of the sub what it owns."""

from dataclasses import replace

import numpy as np

from juglant.core.lowend import ducking
from juglant.core.measure.loopsound import LoopSound
from juglant.core.measure.overlap import LowLevel
from juglant.core.measure.owner import OWNER_LOSS_LIMIT_DB, kept_gains, owner_loss
from juglant.core.measure.subedge import SubEdge
from juglant.core.process.filters import Around
from juglant.core.recipes.brief import Owner
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.fields import is_off

# What a solved ducking keeps clear of the limit, dB.
_CLEAR_DB = 0.2


def sparing(
    level: LowLevel, bass: LoopSound, recipe: DuckRecipe, owner: Owner, edge: SubEdge | None,
    spared: SubEdge | None,
) -> LowLevel:  # fmt: skip
    """The bass where it meets the kick, with what of it a ducking would leave alone.

    Parameters
    ----------
    level
        Where it meets the kick.
    bass
        One pass of the bass.
    recipe
        The ducking.
    owner
        Who has the lowest octave.
    edge
        Where its sub ends.
    spared
        The edge below which it is left alone.

    Returns
    -------
    LowLevel
        With what is spared.

    Examples
    --------
    >>> loop = LoopSound(np.ones(48000))
    >>> sparing(loop.level, loop, DuckRecipe(), "kick", None, None).top_db == loop.level.top_db
    True
    """
    slow, rate = bass.decimated
    alone = ducking.left_alone(slow, recipe, spared, rate, loop=bass.loop)
    gains = kept_gains(owner, edge)
    if alone is None or gains is None:
        return level
    low = Around(alone, rate, loop=bass.loop)
    return replace(level, spared=tuple(low.under(gain) for gain in gains))


def spare_owner(
    recipe: DuckRecipe, bass: LoopSound, edge: SubEdge | None, spared: SubEdge | None,
    times_ms: list[float], length_ms: float, lost_db: float = 0.0,
) -> DuckRecipe:  # fmt: skip
    """A ducking of a bass that owns the sub, made so shallow that it takes no more than 3 dB from it.

    `lost_db` is what other things have taken already.

    Parameters
    ----------
    recipe
        The ducking.
    bass
        One pass of the bass.
    edge
        Where its sub ends.
    spared, times_ms
        The edge below which it is left alone; when it is struck, from the loop’s start.
    length_ms, lost_db
        Length of the loop; what other things have taken of it.

    Returns
    -------
    DuckRecipe
        The ducking.

    Examples
    --------
    >>> loop = LoopSound(np.ones(48000))
    >>> spare_owner(DuckRecipe(), loop, None, None, [0.0], 1000.0) == DuckRecipe()
    True
    """
    slow, rate = bass.decimated
    alone = ducking.left_alone(slow, recipe, spared, rate, loop=bass.loop)
    was = LoopSound(slow, rate, bass.loop)

    def fits(depth_db: float) -> bool:
        shallow = recipe.model_copy(update={"depth_db": depth_db})
        gain = ducking.curve_db(shallow, times_ms, length_ms, 1000 / rate, loop=bass.loop)
        gain = np.concatenate([gain, np.zeros(max(slow.size - gain.size, 0))])[: slow.size]
        ducked = LoopSound(ducking.under(slow, gain, alone), rate, bass.loop)
        return lost_db + (owner_loss(was, ducked, edge) or 0.0) <= OWNER_LOSS_LIMIT_DB - _CLEAR_DB

    if is_off(recipe, "depth_db") or fits(recipe.depth_db):
        return recipe
    low, high = 0.0, recipe.depth_db
    for _ in range(8):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if fits(middle) else (low, middle)
    return recipe.model_copy(update={"depth_db": float(np.floor(10 * low) / 10)})
