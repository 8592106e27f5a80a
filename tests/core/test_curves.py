"""Curves made of a ducking's, and copies that take no field there is none of."""

import numpy as np
import pytest

from juglant.core.lowend.curves import as_drawn, returning_on, stretched, times_of
from juglant.core.lowend.ducking import curve_db, dip_share, measure_duck, shape_db, span_ms, traced
from juglant.core.lowend.duckings import Acting, Start, under
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.duck import DuckRecipe, Point
from juglant.core.recipes.ducking import Ducking
from juglant.core.recipes.hit import Hit, MadeKick
from juglant.core.recipes.place import Place
from juglant.core.recipes.track import TrackState

DIALS = DuckRecipe(depth_db=12.0, attack_ms=5.0, hold_ms=40.0, release_ms=120.0, lookahead_ms=0.0)
DRAWN = DuckRecipe(
    depth_db=18.0,
    points=(
        Point(at_ms=0.0, share=0.0), Point(at_ms=6.0, share=1.0), Point(at_ms=80.0, share=0.95),
        Point(at_ms=240.0, share=0.0),
    ),
)  # fmt: skip


def test_a_dip_goes_down_stays_and_comes_back() -> None:
    at = np.array([-1.0, 0.0, 2.5, 5.0, 25.0, 45.0, 105.0, 165.0, 400.0])
    share = dip_share(at, 5.0, 40.0, 120.0, 0.0)
    assert share[[0, 1, 7, 8]] == pytest.approx(0.0, abs=1e-12)
    assert share[[3, 4, 5]] == pytest.approx(1.0, abs=1e-12)
    # Raised cosines: half of the way at half of the time.
    assert share[[2, 6]] == pytest.approx(0.5, abs=1e-12)


@pytest.mark.parametrize("recipe", [DIALS, DRAWN], ids=["dials", "drawn"])
def test_a_curve_begins_and_ends_at_nothing_and_is_as_deep_as_it_says(recipe: DuckRecipe) -> None:
    span = span_ms(recipe)
    at = np.linspace(-20.0, span + 20.0, 2001)
    db = shape_db(recipe, at)
    assert db[[0, -1]] == pytest.approx(0.0, abs=1e-9)
    assert db.min() == pytest.approx(-recipe.depth_db, abs=0.01)
    seen = traced(recipe)
    assert max(seen.share) == pytest.approx(1.0, abs=1e-3)
    assert (seen.share[0], seen.share[-1]) == (0.0, 0.0)
    assert seen.step_ms * (len(seen.share) - 1) == pytest.approx(span)


@pytest.mark.parametrize(("recipe", "times"), [(DIALS, (5.0, 40.0, 120.0)), (DRAWN, (6.0, 74.0, 160.0))])
def test_times_are_those_of_the_dials_or_read_from_the_points(
    recipe: DuckRecipe, times: tuple[float, float, float]
) -> None:
    found = times_of(recipe)
    assert found[0] == pytest.approx(times[0], abs=1.0)
    assert sum(found) == pytest.approx(sum(times), abs=1.0)
    assert found[1] == pytest.approx(times[1], abs=20.0)


@pytest.mark.parametrize("factor", [0.5, 1.0, 2.0])
@pytest.mark.parametrize("recipe", [DIALS, DRAWN], ids=["dials", "drawn"])
def test_a_stretched_curve_goes_down_as_before_and_comes_back_so_much_later(
    recipe: DuckRecipe, factor: float
) -> None:
    longer = stretched(recipe, factor)
    down = times_of(recipe)[0]
    assert times_of(longer)[0] == pytest.approx(down, abs=0.2)
    assert span_ms(longer) - down == pytest.approx(factor * (span_ms(recipe) - down), rel=0.01)
    assert longer.depth_db == recipe.depth_db


@pytest.mark.parametrize("back_ms", [90.0, 180.0, 400.0])
def test_a_curve_is_back_when_it_is_wanted(back_ms: float) -> None:
    found = returning_on(DIALS, back_ms)
    assert measure_duck(found, [0.0], 2000.0, 120.0).returns_ms == pytest.approx(back_ms, abs=2.0)
    assert (found.depth_db, found.attack_ms) == (DIALS.depth_db, DIALS.attack_ms)


def test_dials_as_points_run_within_a_decibel_of_themselves() -> None:
    at = np.linspace(8.0, 200.0, 500)
    off = shape_db(as_drawn(DIALS), at) - shape_db(DIALS, at)
    assert np.max(np.abs(off)) < 1.0


@pytest.mark.parametrize(("times", "deepest"), [([0.0], 1), ([0.0, 500.0], 2), ([0.0, 30.0], 1)])
def test_every_trigger_starts_the_curve_and_two_of_them_go_no_deeper(
    times: list[float], deepest: int
) -> None:
    db = curve_db(DIALS, times, 1000.0, 1.0, loop=True)
    assert db.size == 1000
    assert db.min() == pytest.approx(-12.0, abs=0.01)
    down = db < -11.9
    starts = np.flatnonzero(down & ~np.roll(down, 1))
    assert starts.size == deepest


@pytest.mark.parametrize(
    ("recipe", "field"),
    [
        (Place(), "gain"), (Brief(), "tempo"), (DuckRecipe(), "depth"), (Ducking(triggers=("kick",)), "depth_db"),
        (Hit.of(MadeKick()), "volume"), (TrackState(), "bass"),
    ],
)  # fmt: skip
def test_a_copy_takes_no_field_that_there_is_none_of(recipe: Place, field: str) -> None:
    """Changed without a word it would be the same: a test that changes nothing cannot fail."""
    with pytest.raises(TypeError, match=f"has no {field}"):
        recipe.model_copy(update={field: 1.0})
    assert recipe.model_copy(update={}) == recipe


def test_of_several_duckings_the_deepest_holds_at_each_moment() -> None:
    """Against the lowest of their gains, worked out beside; a band that one of them leaves stays."""
    x = np.sin(2 * np.pi * 100 * np.arange(48_000) / 48_000)
    first = Acting(DIALS, (Start(0.0, 1.0), Start(500.0, 0.5)), 1.0, None)
    second = Acting(DIALS.model_copy(update={"depth_db": 6.0}), (Start(250.0, 1.0),), 0.5, None)
    everywhere = [
        one.__class__(one.duck.model_copy(update={"band": "everything"}), one.starts, one.share, None)
        for one in (first, second)
    ]
    lowest = np.minimum.reduce([one.gain_db(x.size, 48_000) for one in everywhere])
    assert lowest.min() == pytest.approx(-12.0, abs=0.01)
    assert np.allclose(under(x, everywhere, 48_000), x * 10 ** (lowest / 20), rtol=0, atol=1e-9)
    above = [
        one.__class__(
            one.duck.model_copy(update={"band": "above", "edge_hz": 2000.0}), one.starts, one.share, None
        )
        for one in (first, second)
    ]
    # What lies far below the edge is left alone by both.
    assert np.allclose(under(x, above, 48_000), x, rtol=0, atol=2e-3)
    assert under(x, [], 48_000) is x
