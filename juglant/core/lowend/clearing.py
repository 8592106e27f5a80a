"""The ducking that clears a kick from a bass, with the least taken away."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from juglant.core.lowend.ducking import CLICK_LIMIT_DB_PER_MS, curve_db, dip_share
from juglant.core.lowend.loop import gaps_ms
from juglant.core.measure.overlap import (
    ALLOWED_DB,
    COLLISION_SHARE,
    COUNTED_DB,
    LEVEL_WINDOW_MS,
    PRESENT_DB,
    LowLevel,
    colliding,
    level_db,
    read_from,
)
from juglant.core.process.filters import Around
from juglant.core.recipes.brief import Owner
from juglant.core.recipes.duck import DuckRecipe

Array = NDArray[np.float64]


def needed_db(
    kick: LowLevel, bass: LowLevel, margin_db: float, owner: Owner = "kick", *, may_vanish: bool = True,
    counted_db: float = COUNTED_DB,
) -> Array:  # fmt: skip
    """Least reduction of the bass at each ms of the loop that ends the collision, in dB >= 0.

    The bass goes as far under the kick as the owner of the sub asks (and `margin_db` more); or, with
    `may_vanish`, stops being present at all where that takes less, which supposes that it still sounds in
    full elsewhere. What lies `counted_db` under the kick's loudest moment covers nothing.

    Parameters
    ----------
    kick
        Low level of the kick.
    bass
        Low level of the bass.
    margin_db
        How far under the kick the bass goes beyond what is needed.
    owner
        Who has the lowest octave.
    may_vanish
        Whether a margin may leave nothing of the bass.
    counted_db
        How far under its loudest moment a kick still counts.

    Returns
    -------
    ndarray
        dB, one for every ms.

    Examples
    --------
    >>> from juglant.core.measure.overlap import low_level
    >>> at = np.arange(24000) / 48000
    >>> sub = low_level(np.sin(2 * np.pi * 55 * at), 48000, loop=True)
    >>> round(float(needed_db(sub, sub, 0.0).max())) > 0
    True
    """
    needed = bass.level_db - (kick.level_db + ALLOWED_DB[owner]) + margin_db
    if may_vanish:
        needed = np.minimum(needed, bass.level_db - (bass.top_db - PRESENT_DB) + margin_db)
    counts = kick.present & bass.present & (bass.level_db > kick.top_db - counted_db - margin_db)
    return np.asarray(np.maximum(np.where(counts, needed, 0.0), 0.0))


def needed_after(
    kick: LowLevel, bass: LowLevel, times_ms: list[float], length_ms: float, owner: Owner = "kick"
) -> Array:
    """The most that any kick needs of the bass where they meet, in dB every ms from its onset to the
    shortest gap.

    Parameters
    ----------
    kick
        Low level of the kick.
    bass, times_ms
        Low level of the bass; when it is struck, from the loop’s start.
    length_ms, owner
        Length of the loop; who has the lowest octave.

    Returns
    -------
    ndarray
        dB, one for every ms.

    Examples
    --------
    >>> from juglant.core.measure.overlap import low_level
    >>> at = np.arange(24000) / 48000
    >>> sub = low_level(np.sin(2 * np.pi * 55 * at), 48000, loop=True)
    >>> needed_after(sub, sub, [0.0], 500.0).size
    500
    """
    return _profile(needed_db(kick, bass, 0.0, owner), times_ms, length_ms, 0)


def _profile(needed: Array, times_ms: list[float], length_ms: float, before_ms: int) -> Array:
    """The most that any kick needs, from `before_ms` before its onset to the shortest gap."""
    reach = int(min(gaps_ms(times_ms, length_ms)))
    index = np.arange(-before_ms, reach)
    count = needed.size
    return np.asarray(np.max([needed[(round(t) + index) % count] for t in times_ms], axis=0))


@dataclass(frozen=True)
class Solution:
    """A curve that ends the collision with the least taken from the bass.

    `complete` is False where no curve that returns in time could clear it; `cost_db` is the mean
    reduction over the gap between two kicks.
    """

    recipe: DuckRecipe
    cost_db: float
    complete: bool


_LEFT_SHARE, _DEEPEST_DB = 0.08, 42.0
_BEFORE_MS = 20
_BACK_MS = 8.0
_SHORTFALL_DB = 0.5
# Shorter than this a return is heard as a switch rather than as a movement.
_QUICKEST_RELEASE_MS = 40.0
_CURVES = (-0.5, 0.0, 0.5, 1.0)
# Earlier start in ms, margin in dB, and whether the bass may vanish rather than stay under
# the kick; tried in turn until the collision is this far gone.
_TRIES = (
    (0.0, 1.5, True), (4.0, 1.5, True), (8.0, 2.0, True), (12.0, 3.0, True),
    (4.0, 1.5, False), (12.0, 3.0, False),
)  # fmt: skip


def _lead_ms(needed: Array) -> float:
    """How long before the onset the reduction must begin.

    Zero-phase filtering lets the low band reach back a little; where it is needed without a
    break, though, that is the last kick's tail.
    """
    early = np.flatnonzero(needed[:_BEFORE_MS] <= _SHORTFALL_DB)
    return float(_BEFORE_MS - 1 - early[-1]) if early.size else 0.0


def _fit(needed: Array, gap: float, early_ms: float) -> Solution:
    """The cheapest curve that covers `needed`, begun `early_ms` before it has to be."""
    depth = float(np.clip(np.ceil(needed.max() * 2) / 2 + 0.5, 3.0, _DEEPEST_DB))
    # The steepest point of the attack is 1.5 times its mean slope.
    attack = round(max(3.0, 1.5 * depth / (0.85 * CLICK_LIMIT_DB_PER_MS)), 1)
    lead = np.ceil(_lead_ms(needed) + 0.7 * attack) + early_ms
    lookahead = float(min(lead, 40.0, 0.25 * gap))
    since = np.arange(needed.size, dtype=np.float64) - _BEFORE_MS + lookahead
    room = max(gap - lookahead - attack - _BACK_MS, 20.0)
    quickest = min(_QUICKEST_RELEASE_MS, 0.6 * room)
    holds, releases = (
        grid.ravel()
        for grid in np.meshgrid(np.linspace(0.0, room - quickest, 24), np.geomspace(quickest, room, 14))
    )
    fits = holds + releases <= room + 0.5
    holds, releases = np.round(holds[fits]), np.maximum(np.round(releases[fits]), 5.0)
    ranked = []
    for curve in _CURVES:
        gain = depth * dip_share(since, attack, holds[:, None], releases[:, None], curve)
        short = np.sum(needed - gain > _SHORTFALL_DB, axis=1)
        cost = gain.sum(axis=1) / gap
        k = int(np.lexsort((cost, short))[0])
        ranked.append((int(short[k]), float(cost[k]), float(holds[k]), float(releases[k]), curve))
    uncovered, cost_db, hold, release, curve = min(ranked)
    recipe = DuckRecipe(
        depth_db=depth, attack_ms=attack, hold_ms=hold, release_ms=release, curve=curve,
        lookahead_ms=lookahead,
    )  # fmt: skip
    return Solution(recipe, cost_db, uncovered == 0)


def ducked_level(bass: LowLevel, recipe: DuckRecipe, times_ms: list[float], length_ms: float) -> LowLevel:
    """The bass where it meets the kick, under a curve: what its filters still ring of before included.

    Parameters
    ----------
    bass
        Low level of the bass.
    recipe, times_ms
        The curve; when it is struck, from the loop’s start.
    length_ms
        Length of the loop.

    Returns
    -------
    LowLevel
        Its level in dB.

    Examples
    --------
    >>> from juglant.core.measure.overlap import low_level
    >>> at = np.arange(24000) / 48000
    >>> sub = low_level(np.sin(2 * np.pi * 55 * at), 48000, loop=True)
    >>> bool(ducked_level(sub, DuckRecipe(depth_db=12.0), [0.0], 500.0).level_db.min() < sub.level_db.min())
    True
    """
    gain = curve_db(recipe, times_ms, length_ms, length_ms / bass.bands[0].size, loop=True)
    factor = 10 ** (gain / 20)
    kept = bass.spared or tuple(np.zeros(1) for _ in bass.bands)
    ducked = tuple(
        alone + (band - alone) * factor[: band.size] for band, alone in zip(bass.bands, kept, strict=True)
    )

    def read(bands: tuple[Array, ...]) -> list[Array]:
        if bass.gains is not None:
            both = zip(bands, bass.gains, strict=True)
            bands = tuple(Around(band, bass.rate).under(one) for band, one in both)
        return [level_db(band, bass.rate, LEVEL_WINDOW_MS, loop=True) for band in bands]

    levels = [read(bands) for bands in (bass.bands, ducked)]
    plain, under_it = (read_from(level, bass.at) for level in levels)
    # Where the level was read in another way, as loudness is, only the change counts.
    count = bass.level_db.size
    change = np.interp(np.arange(count), np.arange(plain.size), under_it - plain)
    return replace(bass, bands=ducked, level_db=bass.level_db + change)


def solve(
    kick: LowLevel,
    bass: LowLevel,
    times_ms: list[float],
    length_ms: float,
    margin_db: float = 0.0,
    owner: Owner = "kick",
    also_db: Array | None = None,
    counted_db: float = COUNTED_DB,
) -> Solution:
    """Find the curve that clears the kick and takes the least from the bass.

    The reduction that every millisecond needs is measured; depth is its maximum, and of all
    holds, releases and curvatures that cover it and return before the next kick, the one
    with the smallest mean reduction is taken. What is then left of the collision is
    measured; where it is too much, the curve begins earlier and goes deeper, and of all that
    were tried the clearest is taken. `kick` and `bass` are the loop where the two meet;
    `margin_db` is how much further than the owner of the sub asks the bass is to lie under the kick;
    `also_db` is what is needed beside that, at every ms of the loop.

    Parameters
    ----------
    kick
        Low level of the kick.
    bass, times_ms
        Low level of the bass; when it is struck, from the loop’s start.
    length_ms, margin_db
        Length of the loop; how far under the kick the bass goes beyond what is needed.
    owner
        Who has the lowest octave.
    also_db
        What is needed of the bass besides, every ms.
    counted_db
        How far under its loudest moment a kick still counts.

    Returns
    -------
    Solution
        The curve, and whether it clears all.

    Examples
    --------
    >>> from juglant.core.measure.overlap import low_level
    >>> at = np.arange(24000) / 48000
    >>> sub = low_level(np.sin(2 * np.pi * 55 * at), 48000, loop=True)
    >>> solve(sub, sub, [0.0], 500.0).recipe.depth_db > 0
    True
    """
    gap = min(gaps_ms(times_ms, length_ms))
    present = float(np.sum(kick.present))
    # Where the bass owns the sub some covering is allowed: half of it is left, and the bass its weight.
    allowed = 0.5 * COLLISION_SHARE[owner] * present if owner == "bass" and margin_db == 0.0 else 0.0
    most = max(_LEFT_SHARE * float(np.sum(colliding(kick, bass, owner, counted_db))), allowed)
    best: tuple[float, Solution] | None = None
    for early_ms, more_db, vanish in _TRIES:
        # A chosen margin is one under the kick: a bass that merely vanishes does not keep it.
        wanted = needed_db(
            kick, bass, more_db + margin_db, owner, may_vanish=vanish and margin_db == 0.0,
            counted_db=counted_db,
        )  # fmt: skip
        if also_db is not None:
            wanted = np.maximum(wanted, also_db)
        if allowed:
            share = 1 - min(0.7 * allowed / max(float(np.sum(wanted > 0)), 1.0), 0.9)
            wanted = np.minimum(wanted, float(np.quantile(wanted[wanted > 0], share, method="lower"))
                                if np.any(wanted > 0) else 0.0)  # fmt: skip
        needed = _profile(wanted, times_ms, length_ms, _BEFORE_MS)
        if needed.max() <= 0 or (most == 0 and margin_db == 0.0 and also_db is None):
            return Solution(DuckRecipe(depth_db=0.0), 0.0, True)
        found = _fit(needed, gap, early_ms)
        left = float(
            np.sum(
                colliding(kick, ducked_level(bass, found.recipe, times_ms, length_ms), owner, counted_db)
            )
        )
        if best is None or left < best[0]:
            best = (left, found)
        if left <= most:
            break
    assert best is not None
    return replace(best[1], complete=best[0] <= most)
