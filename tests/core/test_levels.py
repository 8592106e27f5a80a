"""Loudness gates, spectra, envelopes and traces."""

import itertools

import numpy as np
import pyloudnorm
import pytest
from hypothesis import given
from hypothesis import strategies as st

from juglant.core.measure import envelope as env
from juglant.core.measure import levels, trace
from juglant.core.measure.levels import BANDS_HZ, Spectrum
from juglant.core.measure.listening import band_match_db
from juglant.core.measure.stereo import listening_channel, stereo
from tests.signals import RATE, Array, noise, ring, silence, sine, times


@pytest.mark.parametrize("quiet_db", [-20.0, -45.0, -90.0])
def test_the_gates_are_those_of_pyloudnorm(quiet_db: float) -> None:
    # ITU-R BS.1770: blocks under -70 LUFS, then those 10 LU under the rest, do not count.
    x = np.concatenate([sine(400, 4, -12), sine(400, 4, quiet_db)])
    peer = pyloudnorm.Meter(RATE).integrated_loudness(x)
    # The peer rounds the standard's filters: at 400 Hz it lies 0.04 LU lower.
    assert levels.integrated_lufs(x, RATE) == pytest.approx(peer, abs=0.06)


def test_silence_and_what_is_shorter_than_a_block_have_a_loudness() -> None:
    assert levels.integrated_lufs(silence(1), RATE) == -120
    short = sine(400, 0.1)
    padded = np.concatenate([short, silence(0.3)])
    assert levels.integrated_lufs(short, RATE) == pytest.approx(levels.integrated_lufs(padded, RATE))


@given(st.floats(0.05, 0.4), st.floats(-40, 0))
def test_the_momentary_maximum_follows_the_level(seconds: float, level_db: float) -> None:
    loud, soft = sine(100, seconds), sine(100, seconds, level_db)
    difference = levels.momentary_max_lufs(soft, RATE) - levels.momentary_max_lufs(loud, RATE)
    assert difference == pytest.approx(level_db, abs=1e-3)


def test_a_pause_before_and_behind_does_not_change_the_momentary_maximum() -> None:
    hit = ring(60, 300, 0.3)
    between = np.concatenate([silence(0.7), hit, silence(1.1)])
    assert levels.momentary_max_lufs(between, RATE) == pytest.approx(levels.momentary_max_lufs(hit, RATE))


@given(st.floats(25, 15_000), st.floats(1.1, 3.0))
def test_the_energy_of_a_tone_is_where_the_tone_is(hz: float, reach: float) -> None:
    x = sine(hz, 0.5) * np.hanning(RATE // 2)
    spectrum = Spectrum(x, RATE)
    inside = spectrum.energy(hz / reach, hz * reach)
    whole = spectrum.energy(0, RATE / 2)
    if hz * (1 - 1 / reach) > 8:
        assert inside > 0.99 * whole
    assert spectrum.centroid_hz() == pytest.approx(hz, abs=2)


def test_neighbouring_bands_share_out_the_whole() -> None:
    spectrum = Spectrum(noise(1.0), RATE)
    edges = np.geomspace(20, 20_000, 40)
    parts = sum(spectrum.energy(a, b) for a, b in itertools.pairwise(edges))
    assert parts == pytest.approx(spectrum.energy(20, 20_000))
    assert [high for _, high in BANDS_HZ.values()][:-1] == [low for low, _ in BANDS_HZ.values()][1:]


def test_a_low_part_knows_the_energy_of_the_whole() -> None:
    x = sine(50, 1.0) + sine(5000, 1.0)
    low = Spectrum(sine(50, 1.0)[::16], RATE / 16, energy_s=float(x @ x) / RATE)
    assert low.bands_db()["sub"] == pytest.approx(-3.01, abs=0.1)
    assert low.rungs_db(range(30, 33), 440.0)[1] == pytest.approx(-3.01, abs=0.5)


def test_rungs_hold_one_semitone_each() -> None:
    x = sine(440 * 2 ** ((33 - 69) / 12), 2.0)
    rungs = Spectrum(x, RATE).rungs_db(range(28, 40), 440.0)
    assert int(np.argmax(rungs)) == 5
    assert rungs[5] == pytest.approx(0.0, abs=0.3)
    assert max(rungs[:4] + rungs[7:]) < -15


@pytest.mark.parametrize("at", [0.0, 0.013, 0.2])
def test_the_onset_is_where_the_sound_begins(at: float) -> None:
    x = np.concatenate([silence(at), ring(80, 300, 0.4)])
    assert env.onset_ms(x, RATE) == pytest.approx(1000 * at, abs=1.2)


@pytest.mark.parametrize("hz", [40.0, 150.0, 2000.0])
def test_the_envelope_of_a_tone_is_its_amplitude(hz: float) -> None:
    shape = 0.2 + 0.6 * np.hanning(RATE)
    found = env.amplitude_envelope(sine(hz, 1.0) * shape, RATE)
    middle = slice(RATE // 8, -RATE // 8)
    assert np.allclose(found[middle], shape[middle], rtol=0.06, atol=0)


def test_a_sharp_onset_casts_no_shadow_before_it() -> None:
    x = np.concatenate([silence(0.1), ring(60, 300, 0.4)])
    assert env.amplitude_envelope(x, RATE)[: round(0.085 * RATE)].max() < 1e-3


def test_running_rms_of_a_tone_is_three_db_under_its_peak() -> None:
    level = env.running_rms(sine(1000, 0.5), 480)
    assert 20 * np.log10(level[RATE // 4]) == pytest.approx(-3.01, abs=0.01)


def _swept(start_hz: float, end_hz: float, fall_s: float) -> Array:
    hz = end_hz * (start_hz / end_hz) ** np.exp(-times(0.5) / fall_s)
    return np.asarray(np.sin(2 * np.pi * np.cumsum(hz) / RATE))


def test_the_trace_follows_a_sweep_cycle_by_cycle() -> None:
    found = trace.cycles(_swept(400, 50, 0.04), RATE, 0.0, 0.01)
    expected = 50 * 8 ** np.exp(-found.time_ms / 40)
    late = found.time_ms > 15
    assert np.allclose(found.hz[late], expected[late], rtol=0.04, atol=0)
    assert np.all(np.diff(found.time_ms) >= 0)


def test_the_trace_leaves_out_what_is_too_quiet_and_finds_nothing_in_silence() -> None:
    x = ring(60, 200, 0.6)
    loud_only = trace.cycles(x, RATE, 0.0, 0.1)
    assert loud_only.time_ms.max() < 100
    assert trace.cycles(silence(0.2), RATE, 0.0, 0.01).hz.size == 0
    assert trace.sweep_semitones(trace.cycles(silence(0.2), RATE, 0.0, 0.01), 0.0, 50.0) is None


def test_the_frequency_at_the_onset_is_carried_back_through_the_click() -> None:
    found = trace.cycles(_swept(400, 50, 0.04), RATE, 0.006, 0.01)
    assert trace.sweep_semitones(found, 0.0, 50.0) == pytest.approx(36, abs=4)


def test_cycles_that_a_click_has_spoilt_say_nothing_of_the_sweep() -> None:
    spoilt = trace.Trace(np.array([2.0, 5.0, 9.0, 16.0]), np.array([900.0, 90.0, 300.0, 60.0]))
    assert trace.sweep_semitones(spoilt, 0.0, 50.0) is None
    steady = trace.Trace(np.array([5.0, 15.0, 25.0]), np.array([50.2, 49.9, 50.0]))
    assert trace.sweep_semitones(steady, 0.0, 50.0) == pytest.approx(0.07, abs=0.01)


def test_the_channel_that_is_heard_is_the_sum_unless_that_cancels() -> None:
    left = ring(60, 300, 0.3)
    assert listening_channel(np.stack([left, left], axis=1)) == pytest.approx(left)
    opposed = np.stack([left, -0.98 * left], axis=1)
    assert np.array_equal(listening_channel(opposed), left)
    assert listening_channel(left) is left


@given(st.floats(0.0, np.pi))
def test_the_loss_in_mono_follows_the_phase_between_the_sides(phase: float) -> None:
    # Two equal tones at an angle sum to cos²(φ/2) of their energy: any acoustics text.
    x = np.stack([sine(100, 0.5), sine(100, 0.5, phase=phase)], axis=1)
    expected = 10 * np.log10(max(np.cos(phase / 2) ** 2, 1e-12))
    found = stereo(x, RATE)
    assert found.mono_loss_db == pytest.approx(expected, abs=0.05) or expected < -60
    assert found.correlation == pytest.approx(np.cos(phase), abs=1e-6)


def test_a_band_alone_is_brought_to_the_loudness_of_the_whole() -> None:
    # Three sines, one in each band: a second octave of loudness on all of them is that of their sum.
    bands = {"low": sine(60, 2, -6), "mid": sine(500, 2, -20), "top": sine(5000, 2, -30)}
    whole = sum(bands.values(), np.zeros(2 * RATE))
    found = band_match_db(whole, RATE)
    meter = pyloudnorm.Meter(RATE)
    for name in ("low", "mid"):
        apart = meter.integrated_loudness(whole) - meter.integrated_loudness(bands[name])
        # The slopes of the bands take 0.2 dB of these sines.
        assert found[name] == pytest.approx(apart, abs=0.3)
    # It is brought up by 12 dB at most, and silence not at all.
    assert meter.integrated_loudness(whole) - meter.integrated_loudness(bands["top"]) > 12.5
    assert found["top"] == 12.0
    assert band_match_db(np.zeros((RATE, 2)), RATE) == {"low": 0.0, "mid": 0.0, "top": 0.0}
