"""The numbers of one hit on signals whose numbers are known by arithmetic."""

import numpy as np
import pytest

from juglant.core.measure.hit import measure
from tests.signals import RATE, noise, ring, silence, sine, times


def test_a_full_scale_sine_has_the_levels_that_define_them() -> None:
    hit = measure(sine(1000, 1.0), RATE).hit
    assert hit.peak_dbfs == pytest.approx(0.0, abs=0.01)
    assert hit.rms_dbfs == pytest.approx(-3.01, abs=0.02)
    assert hit.crest_db == pytest.approx(3.01, abs=0.02)


def test_onset_and_leading_silence_are_where_the_sound_begins() -> None:
    x = np.concatenate([silence(0.12), ring(60, 400, 0.5)])
    hit = measure(x, RATE).hit
    assert hit.onset_ms == pytest.approx(120, abs=1.5)
    assert hit.leading_silence_ms == hit.onset_ms
    assert hit.length_ms == pytest.approx(620)


@pytest.mark.parametrize("t60", [120.0, 400.0, 800.0])
def test_decays_of_an_exponential_tone_are_its_own(t60: float) -> None:
    hit = measure(ring(200, t60, t60 / 1000 + 0.2), RATE).hit
    assert hit.decay60_ms == pytest.approx(t60, rel=0.04, abs=4)
    assert hit.decay20_ms == pytest.approx(t60 / 3, rel=0.08, abs=4)
    assert not hit.tail_cut


def test_a_file_that_ends_too_soon_says_why_it_has_no_decay() -> None:
    hit = measure(ring(60, 1000, 0.2), RATE).hit
    assert hit.decay60_ms is None
    assert "ends before" in hit.reasons["decay60_ms"]
    assert hit.tail_cut


def test_attack_is_the_time_from_a_tenth_to_nine_tenths() -> None:
    rise = np.clip(times(0.5) / 0.05, 0, 1)
    hit = measure(sine(500, 0.5) * rise, RATE).hit
    assert hit.attack_ms == pytest.approx(40, abs=3)


def test_bands_hold_the_energy_where_it_is() -> None:
    hit = measure(sine(40, 1.0) + sine(3000, 1.0, -20), RATE).hit
    assert hit.bands_db is not None
    assert hit.bands_db["sub"] == pytest.approx(0.0, abs=0.2)
    assert hit.bands_db["snap"] == pytest.approx(-20, abs=0.3)
    assert hit.bands_db["mid"] < -40


def test_noise_is_flat_a_tone_is_not_and_neither_gets_a_made_up_pitch() -> None:
    hiss = measure(noise(0.6), RATE).hit
    tone = measure(ring(55, 500, 0.6), RATE).hit
    assert hiss.flatness is not None
    assert tone.flatness is not None
    assert hiss.flatness > 0.8
    assert tone.flatness < 0.05
    assert hiss.fundamental_hz is None
    assert hiss.note is None
    assert hiss.cents is None
    assert hiss.reasons["fundamental_hz"]


def test_stereo_numbers_tell_mono_from_opposed_and_from_unrelated() -> None:
    tone = ring(60, 600, 0.6)
    same = measure(np.stack([tone, tone], axis=1), RATE).hit
    assert same.correlation == pytest.approx(1.0)
    assert same.mono_loss_db == pytest.approx(0.0, abs=1e-6)
    opposed = measure(np.stack([tone, -tone], axis=1), RATE).hit
    assert opposed.correlation == pytest.approx(-1.0)
    assert opposed.low_mono_loss_db is not None
    assert opposed.low_mono_loss_db < -60
    wide = measure(np.stack([noise(1, 1), noise(1, 2)], axis=1), RATE).hit
    assert wide.correlation == pytest.approx(0.0, abs=0.05)
    assert wide.mono_loss_db == pytest.approx(-3.01, abs=0.2)
    assert measure(tone, RATE).hit.correlation is None


def test_an_offset_is_reported_and_does_not_move_the_pitch() -> None:
    x = ring(50, 400, 0.8) + 0.02
    hit = measure(x, RATE).hit
    assert hit.dc_offset == pytest.approx(0.02, abs=0.005)
    assert hit.fundamental_hz == pytest.approx(50, rel=1e-3)
    assert hit.decay60_ms == pytest.approx(400, abs=25)


def test_the_note_follows_the_reference_and_the_spelling() -> None:
    x = ring(58.27, 600, 0.8)
    assert measure(x, RATE).hit.note == "A#1"
    assert measure(x, RATE, flats=True).hit.note == "Bb1"
    low = measure(x, RATE, a4_hz=432.0).hit
    assert low.cents == pytest.approx(31.8, abs=0.5)


def test_drift_is_what_the_tail_does_after_it_settled() -> None:
    t = times(0.9)
    # 60 cents that die away with 100 ms: within 20 cents after 110 ms, 3 left at -30 dB.
    hz = 60 * 2 ** (60 / 1200 * np.exp(-t / 0.1))
    gliding = np.sin(2 * np.pi * np.cumsum(hz) / RATE) * 10 ** (-3 * t / 0.6)
    assert measure(ring(60, 600, 0.9), RATE).hit.drift_cents == pytest.approx(0.0, abs=0.5)
    found = measure(gliding, RATE).hit
    assert found.settle_ms == pytest.approx(110, abs=8)
    assert found.drift_cents == pytest.approx(-17.0, abs=2.0)


def test_silence_has_reasons_instead_of_numbers() -> None:
    hit = measure(silence(0.3), RATE).hit
    assert hit.fundamental_hz is None
    assert hit.onset_ms is None
    assert hit.reasons["onset_ms"] == "the sound is silent"


def test_a_longer_pause_behind_the_sound_changes_nothing() -> None:
    x = ring(52, 300, 0.4)
    short, long = measure(x, RATE).hit, measure(np.concatenate([x, silence(2)]), RATE).hit
    assert short.fundamental_hz == pytest.approx(long.fundamental_hz, rel=1e-4)
    assert short.momentary_max_lufs == pytest.approx(long.momentary_max_lufs or 0, abs=0.01)
