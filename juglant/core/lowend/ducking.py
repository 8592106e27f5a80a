"""The ducking curve: drawn, measured, and solved from the measured kick and bass."""

from dataclasses import asdict, dataclass, replace
from functools import partial
from typing import Any

import numpy as np
from numpy.typing import NDArray

from juglant.core.lowend.drawn import drawn_after, drawn_share, drawn_stretched
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
from juglant.core.measure.owner import SubEdge, below_gain
from juglant.core.process.filters import Around, linkwitz_riley_gain
from juglant.core.recipes.brief import Owner
from juglant.core.recipes.duck import LEAST_APART_MS, LONGEST_MS, MOST_POINTS, DuckRecipe
from juglant.core.recipes.fields import within
from juglant.core.tempo import nearest_note_value

Array = NDArray[np.float64]

CLICK_LIMIT_DB_PER_MS = 12.0
RETURNED_DB = -1.0


def _ease(x: Array) -> Array:
    """From 0 to 1 with level ends."""
    x = np.clip(x, 0.0, 1.0)
    return x * x * (3 - 2 * x)


def _shape(
    since_ms: Array, attack_ms: float, hold_ms: Array | float, release_ms: Array | float, curve: float
) -> Array:
    """Share of the depth at times since the curve's own start; arguments broadcast."""
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
    share = _shape(since, recipe.attack_ms, recipe.hold_ms, recipe.release_ms, recipe.curve)
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


def curve_db(
    recipe: DuckRecipe, times_ms: list[float], length_ms: float, step_ms: float, *, loop: bool
) -> Array:
    """Gain in dB every `step_ms` over the whole length; the deepest of all triggers counts.

    A trigger that comes while the gain is still on its way starts anew from there.

    Parameters
    ----------
    recipe
        The curve.
    times_ms
        When it is struck, from the loop’s start.
    length_ms
        Length of the loop.
    step_ms
        From one value to the next.
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
    at = np.arange(count, dtype=np.float64) * step_ms
    gain = np.zeros(count)
    for time in times_ms:
        for shift in (-length_ms, 0.0, length_ms) if loop else (0.0,):
            first = time + shift - recipe.lookahead_ms
            a = max(0, int(np.floor(first / step_ms)))
            b = min(count, int(np.ceil((first + span_ms(recipe)) / step_ms)) + 1)
            if a < b:
                np.minimum(gain[a:b], shape_db(recipe, at[a:b] - time - shift), out=gain[a:b])
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
    rate
        Frames a second.
    loop
        Whether the end is followed by the start.

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


_STEP_MS = 0.1


def measure_duck(recipe: DuckRecipe, times_ms: list[float], length_ms: float, bpm: float) -> Duck:
    """Measure the curve as it runs over the loop, the tightest gap deciding the slack.

    Parameters
    ----------
    recipe
        The curve.
    times_ms
        When it is struck, from the loop’s start.
    length_ms
        Length of the loop.
    bpm
        Tempo.

    Returns
    -------
    Duck
        Its numbers.

    Examples
    --------
    >>> round(measure_duck(DuckRecipe(depth_db=12.0), [0.0], 500.0, 120.0).depth_db)
    -12
    """
    gain = curve_db(recipe, times_ms, length_ms, _STEP_MS, loop=True)
    depth = float(gain.min())
    click = float(np.max(np.abs(np.diff(np.append(gain, gain[0]))))) / _STEP_MS
    if depth > RETURNED_DB:
        reason = "the ducking takes less than 1 dB"
        return Duck(
            depth, None, None, None, [], None, None, click,
            dict.fromkeys(("reaches_depth_ms", "returns_ms", "slack_ms", "note_value"), reason),
        )  # fmt: skip
    at = np.arange(0.0, span_ms(recipe) + 5, _STEP_MS) - recipe.lookahead_ms
    alone = shape_db(recipe, at)
    reaches = float(at[np.argmax(alone <= 0.9 * float(alone.min()))])
    low = np.flatnonzero(alone <= RETURNED_DB)
    returns = float(at[low[-1]]) + _STEP_MS
    slacks = [gap - returns - recipe.lookahead_ms for gap in gaps_ms(times_ms, length_ms)]
    value = nearest_note_value(max(returns, 1.0), bpm)
    return Duck(depth, reaches, returns, min(slacks), slacks, value.value, value.difference_ms, click, {})


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
    bass
        Low level of the bass.
    times_ms
        When it is struck, from the loop’s start.
    length_ms
        Length of the loop.
    owner
        Who has the lowest octave.

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
_LEFT_SHARE, _DEEPEST_DB = 0.08, 42.0


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
        gain = depth * _shape(since, attack, holds[:, None], releases[:, None], curve)
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
    recipe
        The curve.
    times_ms
        When it is struck, from the loop’s start.
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
    at = np.arange(0.0, span_ms(recipe), _STEP_MS)
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
    since = np.arange(0.0, span_ms(recipe) + 1, _STEP_MS)
    share = _shape(since, recipe.attack_ms, recipe.hold_ms, recipe.release_ms, recipe.curve)
    return recipe.model_copy(update={"points": drawn_after(share, _STEP_MS)})


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
        at = np.arange(0.0, span_ms(alone) + 5, _STEP_MS) - alone.lookahead_ms
        low = np.flatnonzero(shape_db(alone, at) <= RETURNED_DB)
        return float(at[low[-1]]) + _STEP_MS if low.size else 0.0

    low, high = 0.02, max(4.0 * returns_ms / max(sum(times_of(recipe)[1:]), 1.0), 1.0)
    for _ in range(30):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if back_ms(middle) < returns_ms else (low, middle)
    return stretched(recipe, high)


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
    bass
        Low level of the bass.
    times_ms
        When it is struck, from the loop’s start.
    length_ms
        Length of the loop.
    margin_db
        How far under the kick the bass goes beyond what is needed.
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
