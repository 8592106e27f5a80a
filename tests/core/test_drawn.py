"""Drawn ducking curves: what they are made of, measured, stretched and mended."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from juglant.core.findings import effect, findings
from juglant.core.lowend import curves, ducking
from juglant.core.lowend.curves import as_drawn
from juglant.core.lowend.drawn import drawn_scaled, drawn_share, drawn_slower
from juglant.core.lowend.ducking import CLICK_LIMIT_DB_PER_MS, measure_duck
from juglant.core.lowend.session import Session
from juglant.core.recipes.duck import LEAST_APART_MS, LONGEST_MS, DuckRecipe, Point
from juglant.core.recipes.track import TrackState

KICKS, LENGTH_MS, BPM = [0.0, 500.0, 1000.0, 1500.0], 2000.0, 120.0


def _drawn(*points: tuple[float, float, float], depth_db: float = 20.0) -> DuckRecipe:
    made = tuple(Point(at_ms=at, share=share, bend=bend) for at, share, bend in points)
    return DuckRecipe(depth_db=depth_db, points=made)


@st.composite
def drawn_curves(draw: st.DrawFn) -> DuckRecipe:
    gaps = draw(st.lists(st.floats(0.5, 120), min_size=2, max_size=15))
    at = np.round(np.cumsum([draw(st.floats(0, 50)), *(gap + 0.1 for gap in gaps)]), 1)
    inner = [draw(st.floats(0, 1)) for _ in gaps[1:]]
    bends = [draw(st.floats(-1, 1)) for _ in at]
    points = zip(at.tolist(), [0.0, *inner, 0.0], bends, strict=True)
    return _drawn(*points, depth_db=draw(st.floats(0, 48)))


@settings(max_examples=60)
@given(drawn_curves(), st.floats(0.1, 3))
def test_any_drawn_curve_begins_and_ends_untouched_and_never_takes_more_than_its_depth(
    recipe: DuckRecipe, factor: float
) -> None:
    for one in (recipe, curves.stretched(recipe, factor)):
        DuckRecipe.model_validate(one.model_dump())
        at = np.arange(-50.0, LONGEST_MS + 50, 0.5)
        gain = ducking.shape_db(one, at)
        assert np.all(np.isfinite(gain))
        assert gain.min() >= -recipe.depth_db - 1e-9
        assert gain.max() <= 1e-9
        assert not np.any(gain[(at < one.points[0].at_ms) | (at > one.points[-1].at_ms)])


def test_points_as_near_as_they_may_be_are_taken_and_none_leaves_the_longest_curve() -> None:
    # 100.6 - 100.1 is a little less than a half in binary.
    near = _drawn((100.1, 0, 0), (100.6, 1, 0), (101.1, 0.5, 0), (1990, 0, 0))
    for factor in (1.0, 3.0, 40.0):
        for points in (curves.stretched(near, factor).points, drawn_scaled(near.points, factor)):
            DuckRecipe(points=points)
            assert points[-1].at_ms <= LONGEST_MS


def test_a_straight_way_is_straight_and_a_bent_one_exponential() -> None:
    way = _drawn((0, 0, 0), (100, 1, 0.5), (200, 0, 0)).points
    assert drawn_share(way, np.array([25.0, 50.0])) == pytest.approx([0.25, 0.5])
    # (e^(k x) - 1) / (e^k - 1) with k = 3 half-way; slow to set out, so it stays down for longer.
    assert drawn_share(way, np.array([150.0])) == pytest.approx([1 - np.expm1(1.5) / np.expm1(3.0)])
    opposite = _drawn((0, 0, 0), (100, 1, -0.5), (200, 0, 0)).points
    assert drawn_share(opposite, np.array([150.0])) == pytest.approx([np.expm1(1.5) / np.expm1(3.0)])


@pytest.mark.parametrize("dials", [
    {}, {"curve": 1.0}, {"curve": -1.0}, {"hold_ms": 0.0}, {"hold_ms": 250.0, "release_ms": 800.0},
])  # fmt: skip
def test_dials_become_points_that_run_the_same_way(dials: dict[str, float]) -> None:
    recipe = DuckRecipe(depth_db=20.0, lookahead_ms=6.0, **dials)
    drawn = as_drawn(recipe)
    assert as_drawn(drawn) == drawn
    at = np.arange(-20.0, 1200.0, 0.1)
    off = np.abs(ducking.shape_db(drawn, at) - ducking.shape_db(recipe, at))
    # The way down is straight, an eighth of the ease's depth off at most; the way back follows.
    assert off.max() < 0.1 * recipe.depth_db + 0.05
    assert off[at > recipe.attack_ms].max() < 1.0
    wanted, found = (measure_duck(one, KICKS, LENGTH_MS, BPM) for one in (recipe, drawn))
    assert found.depth_db == pytest.approx(wanted.depth_db)
    assert found.returns_ms == pytest.approx(wanted.returns_ms, rel=0.05)
    # No steeper than the ease, whose middle is 1.5 times its mean.
    assert found.click_risk < wanted.click_risk


def test_a_drawn_curve_is_stretched_to_a_note_value_with_its_way_down_left() -> None:
    recipe = _drawn((0, 0, 0), (4, 1, 0), (40, 1, 0), (90, 0.4, 0), (160, 0, 0))
    longer = curves.returning_on(recipe, 250.0)
    assert measure_duck(longer, KICKS, LENGTH_MS, BPM).returns_ms == pytest.approx(250.0, abs=0.3)
    assert longer.points[:2] == recipe.points[:2]
    assert curves.times_of(recipe) == pytest.approx((3.6, 4.8 + 39.9, 160 - 48.3), abs=5)


def test_a_shape_keeps_its_note_values_at_another_tempo() -> None:
    sixteenth, other = 60000 / 120 / 4, 60000 / 150 / 4
    shape = _drawn((0, 0, 0), (5, 1, 0), (sixteenth, 0.5, 0), (2 * sixteenth, 0, 0)).points
    at = [point.at_ms for point in drawn_scaled(shape, 120 / 150)]
    assert at == pytest.approx([0, 4, other, 2 * other])


def test_what_jumps_is_made_slower_until_it_does_not_click() -> None:
    jumpy = _drawn((0, 0, 0), (0.6, 1, 0.4), (60, 1, 0), (61, 0, -0.7), (61.5, 0.1, 0), (90, 0, 0))
    assert measure_duck(jumpy, KICKS, LENGTH_MS, BPM).click_risk > 2 * CLICK_LIMIT_DB_PER_MS
    slower = drawn_slower(jumpy.points, jumpy.depth_db, 0.9 * CLICK_LIMIT_DB_PER_MS)
    mended = jumpy.model_copy(update={"points": slower})
    assert measure_duck(mended, KICKS, LENGTH_MS, BPM).click_risk <= CLICK_LIMIT_DB_PER_MS
    assert [point.share for point in slower] == [point.share for point in jumpy.points]


@pytest.mark.parametrize(("points", "said"), [
    (((0, 0, 0), (10, 1, 0), (10.2, 0, 0)), f"by {LEAST_APART_MS:g} ms"),
    (((0, 0, 0), (30, 1, 0), (20, 0, 0)), "follow each other"),
    (((0, 0.5, 0), (30, 1, 0), (60, 0, 0)), "begins and ends"),
    (((0, 0, 0), (30, 1, 0), (60, 0.2, 0)), "begins and ends"),
    (((0, 0, 0), (60, 0, 0)), "takes something"),
])  # fmt: skip
def test_a_curve_that_is_none_is_refused(points: tuple[tuple[float, float, float], ...], said: str) -> None:
    with pytest.raises(ValidationError, match=said):
        _drawn(*points)


def test_findings_mend_a_drawn_curve_too() -> None:
    session = Session()
    late = _drawn((0, 0, 0), (0.6, 1, 0), (300, 1, 0), (900, 0, 0), depth_db=30.0)
    state = TrackState.of(duck=late)
    answer = session.answer(state)
    ids = {found.id for found in findings(session, answer)}
    assert {"duck-never-returns", "duck-clicks"} <= ids
    for finding in ("duck-never-returns", "duck-clicks"):
        state = effect(session, session.answer(state), finding).state
    assert state.duck.points
    left = {found.id for found in findings(session, session.answer(state))}
    assert not left & {"duck-never-returns", "duck-clicks"}
