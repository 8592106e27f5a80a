"""Filters, drive and resampling: against scipy, and by what they must not do."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import signal

from juglant.core.process import filters, lowpart, movingfilters, resampling
from juglant.core.process.saturation import soft_clip
from tests.signals import RATE, Array, noise, ring, silence, sine, times


def _harmonic_db(x: Array, hz: float) -> float:
    """Level of one tone in `x`, dB re full scale, whole periods assumed."""
    turn = np.exp(-2j * np.pi * hz * np.arange(x.size) / RATE)
    return 20 * float(np.log10(max(2 * abs(np.mean(x * turn)), 1e-12)))


@pytest.mark.parametrize("sections", [filters.lowpass_24(480.0, RATE), filters.highpass_24(29.0, RATE)])
def test_the_compiled_cascade_is_scipys(sections: Array) -> None:
    x = noise(0.4)
    assert np.allclose(filters.filtered(x, sections), signal.sosfilt(sections, x), rtol=0, atol=1e-9)


def test_a_filter_that_rings_out_in_silence_stays_at_rest() -> None:
    x = np.concatenate([ring(50, 100, 0.2), silence(3.0)])
    out = filters.filtered(x, filters.highpass_24(62.0, RATE))
    assert np.max(np.abs(out[-RATE:])) < 1e-12


def test_a_filtered_loop_has_no_seam() -> None:
    x = sine(50, 1.0) + 0.3 * sine(450, 1.0)
    out = filters.around_loop(x, filters.lowpass_24(200.0, RATE))
    twice = signal.sosfilt(filters.lowpass_24(200.0, RATE), np.tile(x, 6))
    assert np.allclose(out, twice[-x.size :], rtol=0, atol=1e-6)


@pytest.mark.parametrize("loop", [True, False])
@pytest.mark.parametrize("frames", [48_000, 47_777, 96_001])
def test_the_slowed_sound_is_the_sound_below_its_limit(frames: int, loop: bool) -> None:
    at = np.arange(frames) / RATE
    # Whole periods around the loop, so that its end meets its start.
    low, high = (round(hz * frames / RATE) * RATE / frames for hz in (60, 5000))
    x = np.sin(2 * np.pi * low * at) + np.sin(2 * np.pi * high * at)
    slow, rate = lowpart.decimated(x, RATE, loop=loop)
    assert 2900 < rate < 3100
    middle = slice(slow.size // 4, 3 * slow.size // 4)
    expected = np.sin(2 * np.pi * low * np.arange(slow.size) / rate)
    assert np.allclose(slow[middle], expected[middle], rtol=0, atol=0.02)
    assert slow.size == pytest.approx(frames / RATE * rate, abs=1)


def test_what_is_slow_already_is_not_slowed_again() -> None:
    slow, rate = lowpart.decimated(sine(60, 1.0), RATE, loop=True)
    again, same = lowpart.decimated(slow, rate, loop=True)
    assert same == pytest.approx(rate, rel=0.01)
    assert np.allclose(again[500:2000], slow[500:2000], rtol=0, atol=0.01)


@pytest.mark.parametrize("drive_db", [6.0, 18.0, 36.0])
def test_drive_makes_odd_harmonics_only_and_folds_none_back(drive_db: float) -> None:
    x = sine(1000, 0.5) * np.hanning(RATE // 2)
    driven = soft_clip(x, drive_db)
    steady = driven[RATE // 8 : 3 * RATE // 8]
    first = _harmonic_db(steady, 1000)
    assert _harmonic_db(steady, 3000) > first - 60
    assert _harmonic_db(steady, 2000) < first - 60
    # The 25th and later would fold back to odd kilohertz from above; between them lies nothing.
    for hz in (1500, 4500, 10_500, 20_500):
        assert _harmonic_db(steady, hz) < first - 60


@given(st.floats(0.5, 36.0), st.floats(0.01, 2.0))
def test_drive_holds_the_peak_and_never_moves_silence(drive_db: float, level: float) -> None:
    x = level * ring(60, 200, 0.1)
    assert np.max(np.abs(soft_clip(x, drive_db))) == pytest.approx(np.max(np.abs(x)))
    assert np.array_equal(soft_clip(silence(0.1), drive_db), silence(0.1))


def test_no_drive_is_no_change() -> None:
    x = noise(0.1)
    assert soft_clip(x, 0.0) is x


@pytest.mark.parametrize(("up", "down"), [(1, 16), (4, 1), (1, 4), (147, 160)])
def test_polyphase_is_scipys(up: int, down: int) -> None:
    x = noise(0.3)
    peer = signal.resample_poly(x, up, down)
    assert np.allclose(resampling.polyphase(x, up, down), peer, rtol=0, atol=1e-9)


@pytest.mark.parametrize("semitones", [-12.0, -3.7, 0.01, 5.0, 12.0])
def test_a_shift_changes_pitch_and_length_by_the_exact_ratio(semitones: float) -> None:
    x = sine(100, 2.0)
    shifted = resampling.shift_pitch(x, semitones)
    ratio = 2 ** (semitones / 12)
    assert shifted.size == pytest.approx(x.size / ratio, abs=1)
    middle = shifted[shifted.size // 4 : 3 * shifted.size // 4]
    at = np.arange(middle.size) / RATE
    # Against a tone at the expected pitch the phase must stand still.
    turned = middle * np.exp(-2j * np.pi * 100 * ratio * at)
    half = middle.size // 2
    drift = np.angle(np.sum(turned[half:]) / np.sum(turned[:half]))
    cents = 1200 * np.log2(1 + drift / (2 * np.pi * half / RATE) / (100 * ratio))
    assert cents == pytest.approx(0.0, abs=0.05)


def test_stereo_is_resampled_side_by_side() -> None:
    left, right = sine(100, 0.5, rate=44_100), sine(200, 0.5, rate=44_100)
    both = resampling.change_rate(np.stack([left, right], axis=1), 44_100, RATE)
    assert both.shape == (RATE // 2, 2)
    assert np.allclose(both[:, 1], resampling.change_rate(right, 44_100, RATE), rtol=0, atol=1e-9)
    assert resampling.change_rate(left, RATE, RATE) is left


def test_the_moving_low_pass_moves() -> None:
    x = noise(1.0)
    cutoff = 200 * 2 ** (6 * times(1.0))
    out = movingfilters.moving_lowpass(x, cutoff, RATE)
    early, late = (np.std(np.diff(part)) for part in (out[: RATE // 4], out[-RATE // 4 :]))
    assert late > 10 * early
