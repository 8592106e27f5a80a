"""Made kicks, listened to with numbers: each control must do what its help says."""

from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from juglant.core.measure.hit import HitNumbers, measure
from juglant.core.measure.levels import Spectrum
from juglant.core.recipes.fields import control_sheet
from juglant.core.recipes.kick import KickRecipe
from juglant.core.synth.kick import length_ms, render_kick
from tests.signals import RATE

PLAIN = KickRecipe(click_db=-60.0, drive_db=0.0, decay_ms=500.0, length_ms=600.0, pitch_decay_ms=20.0)


def _render(bpm: float = 128.0, **changes: Any) -> np.ndarray:
    return render_kick(PLAIN.model_copy(update=changes), RATE, bpm)


def _measured(**changes: Any) -> HitNumbers:
    return measure(_render(**changes), RATE).hit


@pytest.mark.parametrize("end_hz", [32.0, 49.0, 87.3, 140.0])
def test_the_tail_settles_to_the_pitch_that_is_set(end_hz: float) -> None:
    hit = _measured(end_hz=end_hz)
    assert hit.fundamental_hz == pytest.approx(end_hz, rel=2 / 1731)  # two cents


def test_the_sweep_starts_where_it_is_set_and_settles_by_its_decay() -> None:
    quick, slow = (_measured(pitch_decay_ms=ms, start_semitones=36.0) for ms in (10.0, 40.0))
    assert quick.sweep_semitones == pytest.approx(36, abs=6)
    assert slow.sweep_semitones == pytest.approx(36, abs=3)
    assert quick.settle_ms is not None
    assert slow.settle_ms is not None
    # Exponential: 3600 cents fall to 20 in 5.19 time constants.
    assert quick.settle_ms == pytest.approx(51.9, abs=5)
    assert slow.settle_ms == pytest.approx(208, abs=12)


def test_decay_is_the_time_to_60_db_down() -> None:
    hit = _measured(decay_ms=300.0, hold_ms=0.0, length_ms=600.0)
    assert hit.decay60_ms == pytest.approx(300, abs=15)
    assert hit.decay20_ms == pytest.approx(100, abs=12)


def test_the_click_is_heard_where_its_tone_is_set() -> None:
    bare, clicked = _render(), _render(click_db=-6.0, click_tone_hz=3000.0, click_ms=8.0)

    def snap(x: np.ndarray) -> float:
        bands = Spectrum(x, RATE).bands_db()
        return bands["snap"]

    assert snap(clicked) > snap(bare) + 20
    assert snap(clicked) > -35
    high = _render(click_db=-6.0, click_tone_hz=8000.0, click_ms=8.0)
    assert Spectrum(high, RATE).bands_db()["air"] > Spectrum(clicked, RATE).bands_db()["air"] + 3


def test_the_sub_sounds_an_octave_below() -> None:
    spectrum = Spectrum(_render(end_hz=80.0, sub_db=-6.0), RATE)
    assert spectrum.energy(37, 43) > 0.1 * spectrum.energy(77, 83)
    assert Spectrum(_render(end_hz=80.0), RATE).energy(37, 43) < 0.01 * spectrum.energy(37, 43)


@pytest.mark.parametrize(("wave", "third_db"), [(0.0, -90.0), (1.0, -19.1), (2.0, -9.5)])
def test_the_wave_runs_from_sine_by_triangle_to_square(wave: float, third_db: float) -> None:
    # Fourier: the third harmonic of a triangle is 1/9, of a square 1/3.
    x = _render(end_hz=60.0, start_semitones=0.0, wave=wave, hold_ms=400.0, decay_ms=1500.0)
    steady = x[RATE // 10 : RATE // 2]
    spectrum = Spectrum(steady * np.hanning(steady.size), RATE)
    ratio = 10 * np.log10(spectrum.energy(170, 190) / spectrum.energy(50, 70) + 1e-12)
    assert ratio == pytest.approx(third_db, abs=1.0) if wave else ratio < -60


def test_drive_adds_harmonics_and_holds_the_peak() -> None:
    clean, driven = (_render(start_semitones=0.0, drive_db=db) for db in (0.0, 18.0))
    assert np.max(np.abs(driven)) == pytest.approx(np.max(np.abs(clean)), rel=1e-6)
    assert Spectrum(driven, RATE).energy(140, 155) > 20 * Spectrum(clean, RATE).energy(140, 155)


def test_the_low_pass_closes_and_its_opening_lets_the_start_through() -> None:
    bright: dict[str, Any] = {"wave": 2.0, "start_semitones": 0.0, "end_hz": 60.0}
    shut = _render(**bright, lowpass_hz=120.0)
    opened = _render(**bright, lowpass_hz=120.0, lowpass_octaves=5.0, lowpass_decay_ms=40.0)
    first = slice(0, RATE // 25)
    assert Spectrum(opened[first], RATE).centroid_hz() > 1.5 * Spectrum(shut[first], RATE).centroid_hz()
    late = slice(RATE // 4, RATE // 2)
    assert Spectrum(opened[late], RATE).centroid_hz() == pytest.approx(
        Spectrum(shut[late], RATE).centroid_hz(), rel=0.1
    )


def test_length_follows_the_tempo_where_it_is_a_note_value() -> None:
    recipe = PLAIN.model_copy(update={"length_note": "1/8"})
    assert length_ms(recipe, 120.0) == pytest.approx(250.0)
    assert render_kick(recipe, RATE, 150.0).size == round(0.2 * RATE)


def test_the_same_recipe_gives_the_same_samples_and_another_seed_another_click() -> None:
    recipe = KickRecipe(click_db=0.0)
    assert np.array_equal(render_kick(recipe, RATE, 128), render_kick(recipe, RATE, 128))
    other = recipe.model_copy(update={"seed": 2})
    assert not np.array_equal(render_kick(recipe, RATE, 128), render_kick(other, RATE, 128))


_SHEET = {control.name: control for control in control_sheet(KickRecipe).controls}


@settings(max_examples=40, deadline=None)
@given(st.fixed_dictionaries({n: st.floats(c.low, c.high) for n, c in _SHEET.items() if n != "seed"}))
def test_every_recipe_within_its_limits_is_finite_ends_quietly_and_peaks_at_its_level(
    values: dict[str, float],
) -> None:
    recipe = KickRecipe.model_validate(values)
    x = render_kick(recipe, RATE, 128)
    assert np.isfinite(x).all()
    assert 20 * np.log10(np.max(np.abs(x))) == pytest.approx(recipe.level_db, abs=0.01)
    assert abs(x[-1]) < 0.01
