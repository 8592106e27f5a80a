"""A compressor keyed by the kick: simulated after its paper, and solved for a curve."""

import numpy as np
import pytest

from juglant.core.lowend.curves import returning_on
from juglant.core.lowend.ducking import curve_db, measure_duck
from juglant.core.lowend.keyed import gain_db, solve, warnings
from juglant.core.lowend.session import Session
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.keyed import KeyedCompressor
from juglant.core.recipes.track import TrackState
from juglant.core.tempo import note_value_ms
from tests.signals import RATE

SESSION = Session()
STATE = TrackState.of(brief=Brief(bpm=128.0, chord_roots=("tonic",)))
ANSWER = SESSION.answer(STATE)
KEY, TIMES, LENGTH = ANSWER.kick_loop.samples, ANSWER.times_ms, ANSWER.length_ms


def _gate(on_ms: float, level: float, length_ms: float = 1000.0) -> np.ndarray:
    key = np.zeros(round(length_ms / 1000 * RATE))
    key[: round(on_ms / 1000 * RATE)] = level
    return key


def test_held_down_it_follows_the_static_curve() -> None:
    """Giannoulis, Massberg & Reiss, JAES 60(6), 2012, eq. 4: above the knee L − T over R is left."""
    settings = KeyedCompressor(threshold_db=-20, ratio=5, attack_ms=2, release_ms=50, knee_db=0)
    for level_db in (-10.0, -6.0, 0.0):
        gain = gain_db(settings, _gate(400, 10 ** (level_db / 20)), RATE)
        assert gain[round(0.39 * RATE)] == pytest.approx(-(level_db + 20) * (1 - 1 / 5), abs=0.01)


@pytest.mark.parametrize("hold", [0.0, 60.0])
def test_times_are_those_to_63_percent_and_the_hold_comes_before_the_release(hold: float) -> None:
    """The same paper: attack and release constants as the time to 63.2 % of the way."""
    settings = KeyedCompressor(
        threshold_db=-20, ratio=10, attack_ms=8, release_ms=70, knee_db=0, hold_ms=hold
    )
    gain = gain_db(settings, _gate(300, 1.0), RATE)
    full = gain.min()
    down_ms = np.argmax(gain <= full * 0.632) / RATE * 1000
    assert down_ms == pytest.approx(8.0, rel=0.02)
    released = gain[round(0.3 * RATE) :]
    back_ms = np.argmax(released >= full * (1 - 0.632)) / RATE * 1000
    assert back_ms - hold == pytest.approx(70.0, rel=0.02)


def test_it_goes_round_the_loop_and_sees_ahead() -> None:
    settings = KeyedCompressor(threshold_db=-30, ratio=8, attack_ms=3, release_ms=100, lookahead_ms=10)
    gain = gain_db(settings, np.roll(_gate(50, 1.0), RATE // 2), RATE)
    assert gain[RATE // 2 - round(0.009 * RATE)] < gain[RATE // 2 - round(0.012 * RATE)]
    rolled = gain_db(settings, _gate(50, 1.0), RATE)
    assert np.roll(gain, RATE // 2) == pytest.approx(rolled, abs=1e-6)


@pytest.mark.thorough
@pytest.mark.parametrize(
    "made",
    [
        KeyedCompressor(threshold_db=-25, ratio=6, attack_ms=4, release_ms=60, hold_ms=80, knee_db=6),
        KeyedCompressor(threshold_db=-30, ratio=12, attack_ms=2, release_ms=40, hold_ms=0, knee_db=3),
    ],
)
def test_a_curve_that_a_compressor_made_is_found_again_within_one_db(
    made: KeyedCompressor, monkeypatch: pytest.MonkeyPatch
) -> None:
    target = gain_db(made, KEY, RATE)
    depth = -float(target.min())
    monkeypatch.setattr("juglant.core.lowend.keyed.curve_db", lambda *_, **__: target)
    about = DuckRecipe(depth_db=round(depth, 1), attack_ms=5, hold_ms=60, release_ms=150)
    found = solve(about, KEY, TIMES, LENGTH, RATE)
    assert found[0].difference_db <= 1.0
    if made.hold_ms == 0:
        assert found[1].difference_db <= 1.0


@pytest.mark.thorough
@pytest.mark.parametrize("depth", [8.0, 18.0])
def test_a_drawn_curve_is_come_close_to_and_what_is_left_is_measured(depth: float) -> None:
    recipe = DuckRecipe(depth_db=depth, attack_ms=4, hold_ms=60, release_ms=120)
    with_hold, without = solve(recipe, KEY, TIMES, LENGTH, RATE)
    target = curve_db(recipe, TIMES, LENGTH, 1000 / RATE, loop=True)[: KEY.size]
    left = gain_db(with_hold.settings, KEY, RATE) - target
    assert with_hold.difference_db == pytest.approx(float(np.sqrt(np.mean(left**2))))
    assert with_hold.difference_db < 0.12 * depth
    assert with_hold.difference_db <= without.difference_db
    assert without.settings.hold_ms == 0
    assert with_hold.settings.attack_ms > 1


def test_what_would_click_never_return_or_stay_shallow_is_warned_of() -> None:
    gap = 60_000 / 128

    def said(**changes: float) -> str:
        good = {"threshold_db": -30.0, "ratio": 8.0, "attack_ms": 4.0, "release_ms": 60.0}
        settings = KeyedCompressor.model_validate({**good, **changes})
        depth = -float(gain_db(KeyedCompressor.model_validate(good), KEY, RATE).min())
        return " ".join(warnings(settings, depth, KEY, gap, RATE))

    assert said() == ""
    assert "clicks" in said(attack_ms=0.5)
    assert "past the next trigger" in said(release_ms=400.0)
    assert "goes deeper" in said(ratio=1.5)


@pytest.mark.parametrize(("beyond_db", "told"), [(0.9, False), (1.1, True)])
def test_a_dip_beyond_the_wanted_depth_is_told(beyond_db: float, told: bool) -> None:
    good = {"threshold_db": -30.0, "ratio": 8.0, "attack_ms": 4.0, "release_ms": 60.0}
    settings = KeyedCompressor.model_validate(good)
    depth = -float(gain_db(settings, KEY, RATE).min()) - beyond_db
    said = " ".join(warnings(settings, depth, KEY, 60_000 / 128, RATE))
    assert (f"dips {beyond_db:.1f} dB deeper" in said) == told


@pytest.mark.parametrize("value", ["1/16", "1/8", "1/8t"])
def test_a_curve_is_made_to_return_on_a_note_value(value: str) -> None:
    recipe = DuckRecipe(depth_db=14, attack_ms=4, hold_ms=60, release_ms=120, lookahead_ms=3)
    wanted = note_value_ms(value, 128)
    moved = returning_on(recipe, wanted)
    told = measure_duck(moved, TIMES, LENGTH, 128)
    assert told.returns_ms == pytest.approx(wanted, abs=0.5)
    assert told.note_value == value
    assert (moved.depth_db, moved.attack_ms) == (recipe.depth_db, recipe.attack_ms)
    assert moved.hold_ms / moved.release_ms == pytest.approx(0.5, abs=0.02)
