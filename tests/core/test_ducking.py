"""Overlap and ducking: on levels known by construction, and solved on generated pairs."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from juglant.core.lowend import clearing, ducking
from juglant.core.lowend.loop import gaps_ms, kick_times_ms, place
from juglant.core.lowend.pair import Pair, duck_pair
from juglant.core.measure.loopsound import LoopSound
from juglant.core.measure.overlap import Overlap, colliding, low_level
from juglant.core.measure.owner import overlap
from juglant.core.recipes.duck import DuckRecipe
from tests.signals import RATE, ring, silence, sine

DUCKS = st.builds(
    DuckRecipe,
    depth_db=st.floats(2, 48), attack_ms=st.floats(0.5, 60), hold_ms=st.floats(0, 300),
    release_ms=st.floats(5, 400), lookahead_ms=st.floats(0, 40), curve=st.floats(-1, 1),
)  # fmt: skip


def _bar(hit: np.ndarray) -> np.ndarray:
    """Four kicks to a two-second bar: 120 BPM."""
    return place([(at, hit) for at in (0.0, 500.0, 1000.0, 1500.0)], 2 * RATE, RATE, loop=True)


def _against(kick: np.ndarray, bass: np.ndarray) -> Overlap:
    return overlap(LoopSound(kick), LoopSound(bass), 4)[0]


def test_the_level_of_a_tone_is_its_rms_and_lasts_as_long_as_it_does() -> None:
    tone = np.concatenate([silence(0.5), sine(60, 0.5, -6), silence(0.5)])
    level = low_level(tone, RATE, loop=False)
    assert level.level_db.size == 1500
    # A 10 ms window of 60 Hz holds little more than half a cycle: its power ripples.
    steady = 10 * np.log10(np.mean(10 ** (level.level_db[600:900] / 10)))
    assert steady == pytest.approx(-9.25, abs=0.3)
    assert 480 < level.present.sum() < 560


def test_a_bass_far_below_the_kick_does_not_collide_and_one_above_it_does() -> None:
    kick = _bar(ring(55, 300, 0.4))
    quiet, loud = _against(kick, sine(55, 2, -40)), _against(kick, sine(55, 2, 0))
    assert quiet.collision_share == 0.0
    assert loud.collision_share == 1.0
    assert loud.collision_ms == pytest.approx(90 + 25, abs=30)  # 18 of 60 dB, and the onset's ringing
    assert (quiet.kick_over_bass_db or 0) - (loud.kick_over_bass_db or 0) == pytest.approx(40, abs=0.5)


def test_sounds_without_a_low_band_have_reasons() -> None:
    found = _against(silence(2.0) + 1e-12, sine(60, 2))
    assert found.kick_over_bass_db is None
    assert found.reasons["kick_over_bass_db"] == "the kick has no low band"
    high = _against(_bar(ring(55, 300, 0.4)), silence(2.0))
    assert high.collision_share == 0.0
    assert high.reasons["kick_over_bass_db"] == "the bass has no low band"


@settings(max_examples=60, deadline=None)
@given(DUCKS)
def test_a_curve_stays_between_nothing_and_its_depth_and_comes_back(recipe: DuckRecipe) -> None:
    at = np.arange(-60.0, 1000.0, 0.25)
    gain = ducking.shape_db(recipe, at)
    assert gain.max() <= 1e-9
    assert gain.min() >= -recipe.depth_db - 1e-9
    assert np.all(gain[at < -recipe.lookahead_ms] == 0)
    assert np.all(np.abs(gain[at > ducking.span_ms(recipe) - recipe.lookahead_ms + 0.5]) < 1e-6)
    held = (at > recipe.attack_ms - recipe.lookahead_ms) & (
        at < recipe.attack_ms + recipe.hold_ms - recipe.lookahead_ms
    )
    assert gain[held] == pytest.approx(np.full(held.sum(), -recipe.depth_db))


def test_the_numbers_of_a_curve_follow_from_its_settings() -> None:
    recipe = DuckRecipe(depth_db=12, attack_ms=4, hold_ms=50, release_ms=120, curve=0)
    duck = ducking.measure_duck(recipe, [0.0, 500.0], 1000.0, 120)
    assert duck.depth_db == pytest.approx(-12)
    # An ease of 3x²-2x³ reaches 0.9 at x = 0.804, and is back to 1/12 of the depth at 0.823.
    assert duck.reaches_depth_ms == pytest.approx(4 * 0.804, abs=0.15)
    assert duck.returns_ms == pytest.approx(54 + 120 * 0.823, abs=0.3)
    assert duck.returns_ms is not None
    assert duck.slack_ms == pytest.approx(500 - duck.returns_ms)
    # The steepest point of that ease is 1.5 times its mean slope.
    assert duck.click_risk == pytest.approx(1.5 * 12 / 4, rel=0.02)
    # 152.8 ms at 120 BPM: nearer, by ratio, to a triplet eighth (166.7) than to 1/16 (125).
    assert duck.note_value == "1/8t"
    assert duck.note_value_difference_ms == pytest.approx(duck.returns_ms - 500 / 3)


def test_a_release_longer_than_the_gap_is_negative_slack() -> None:
    recipe = DuckRecipe(depth_db=20, hold_ms=200, release_ms=600)
    duck = ducking.measure_duck(recipe, [0.0, 500.0], 1000.0, 120)
    assert duck.slack_ms is not None
    assert duck.slack_ms < 0


def test_no_ducking_has_no_times_but_reasons() -> None:
    duck = ducking.measure_duck(DuckRecipe(depth_db=0), [0.0], 500.0, 120)
    assert duck.returns_ms is None
    assert "less than 1 dB" in duck.reasons["returns_ms"]
    assert duck.click_risk == 0


def _pair(kick: np.ndarray, bass: np.ndarray, bpm: float) -> Pair:
    """Four kicks to the bar."""
    times = kick_times_ms((1.0, 2.0, 3.0, 4.0), bpm, bass.shape[0] / RATE * 1000)
    return duck_pair(kick, bass, RATE, bpm, times)


@pytest.mark.parametrize("kick_hz", [43.0, 49.0, 62.0])
@pytest.mark.parametrize("kick_ms", [150.0, 300.0, 450.0])
@pytest.mark.parametrize("bass_db", [-12.0, -3.0])
@pytest.mark.parametrize("bpm", [100.0, 128.0, 150.0])
def test_solved_ducking_ends_the_collision_and_returns(
    kick_hz: float, kick_ms: float, bass_db: float, bpm: float
) -> None:
    beat = 60 / bpm
    bass = sine(kick_hz * 1.03, 4 * beat, bass_db)
    pair = _pair(ring(kick_hz, kick_ms, 0.4), bass, bpm)
    assert pair.is_loop
    assert pair.before.collision_share is not None
    assert pair.after.collision_share is not None
    assert pair.after.collision_share <= 0.1 * pair.before.collision_share + 0.005
    assert pair.duck.slack_ms is not None
    assert pair.duck.slack_ms > 0
    assert pair.duck.click_risk < ducking.CLICK_LIMIT_DB_PER_MS


def test_the_least_ducking_is_taken() -> None:
    kick = ring(50, 300, 0.4)
    near, far = (_pair(kick, sine(50, 2, level), 120) for level in (-3.0, -15.0))
    assert far.recipe.depth_db < near.recipe.depth_db
    quiet = _pair(kick, sine(50, 2, -60.0), 120)
    assert quiet.recipe.depth_db == 0.0
    assert np.array_equal(quiet.ducked, sine(50, 2, -60.0))


def test_a_stereo_bass_keeps_its_sides_and_a_part_of_a_bar_is_no_loop() -> None:
    bass = np.stack([sine(50, 1.7), sine(70, 1.7)], axis=1)
    pair = _pair(ring(50, 300, 0.4), bass, 120)
    assert not pair.is_loop
    assert pair.ducked.shape == bass.shape
    gain = 10 ** (pair.gain_db / 20)
    assert pair.ducked[:, 1] == pytest.approx(bass[:, 1] * gain)


def test_what_is_needed_is_enough() -> None:
    kick, bass = (low_level(x, RATE, loop=True) for x in (_bar(ring(50, 300, 0.4)), sine(50, 2, -3)))
    needed = clearing.needed_db(kick, bass, 0.5)
    eased = bass.level_db - needed
    still = kick.present & (eased > kick.level_db - 6) & (eased > bass.level_db.max() - 18)
    assert colliding(kick, bass).any()
    assert not still.any()


@given(st.lists(st.sampled_from([1.0, 1.75, 2.5, 3.0, 4.75]), min_size=1, unique=True), st.floats(60, 200))
def test_gaps_add_up_to_the_loop(beats: list[float], bpm: float) -> None:
    length = 2 * 240_000 / bpm
    times = kick_times_ms(tuple(beats), bpm, length)
    assert len(times) == 2 * len(beats)
    assert sum(gaps_ms(times, length)) == pytest.approx(length)


def test_a_new_kick_cuts_the_old_one_and_the_last_rings_into_the_start() -> None:
    long = np.ones(round(0.7 * RATE))
    x = _bar(long)
    assert x.max() <= 1.0 + 1e-9
    once = place([(1500.0, np.ones(RATE))], 2 * RATE, RATE, loop=True)
    assert once[: RATE // 4].min() == pytest.approx(1.0)
    assert place([(1500.0, np.ones(RATE))], 2 * RATE, RATE, loop=False)[0] == 0.0
