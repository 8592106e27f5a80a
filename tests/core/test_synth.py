"""Oscillators and envelopes, against Fourier and by their properties."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from juglant.core.synth import envelopes
from juglant.core.synth.oscillator import Family, oscillate, tables
from tests.signals import RATE, Array, times


def _amplitudes(x: Array, hz: float, count: int) -> Array:
    at = np.arange(x.size) / RATE
    return np.array([2 * abs(np.mean(x * np.exp(-2j * np.pi * h * hz * at))) for h in range(1, count + 1)])


@pytest.mark.parametrize(
    ("family", "wave", "expected"),
    # Fourier series, any signals text: triangle 8/π²/h², square 4/π/h, both odd; saw 2/π/h.
    [
        ("kick", 0.0, [1, 0, 0, 0, 0]),
        ("kick", 1.0, [8 / np.pi**2, 0, 8 / np.pi**2 / 9, 0, 8 / np.pi**2 / 25]),
        ("kick", 2.0, [4 / np.pi, 0, 4 / np.pi / 3, 0, 4 / np.pi / 5]),
        ("bass", 2.0, [2 / np.pi / h for h in range(1, 6)]),
    ],
)
def test_waves_have_their_harmonics(family: Family, wave: float, expected: list[float]) -> None:
    x = oscillate(np.full(RATE, 60.0), wave, RATE, family)
    assert _amplitudes(x, 60.0, 5) == pytest.approx(expected, abs=0.004)


@pytest.mark.parametrize("family", ["kick", "bass"])
def test_between_two_waves_lies_their_mean(family: Family) -> None:
    hz = np.full(4000, 75.0)
    sine, half, triangle = (oscillate(hz, wave, RATE, family) for wave in (0.0, 0.5, 1.0))
    assert half == pytest.approx(0.5 * (sine + triangle), abs=1e-9)


@pytest.mark.parametrize("hz", [997.0, 3001.0, 6007.0])
def test_nothing_folds_back_into_hearing(hz: float) -> None:
    x = oscillate(np.full(RATE, hz), 2.0, RATE, "bass") * np.blackman(RATE)
    spectrum = np.abs(np.fft.rfft(x))
    at = np.arange(spectrum.size, dtype=float)
    beside = np.min([np.abs(at - h * hz) for h in range(1, int(RATE / 2 / hz) + 1)], axis=0) > 8
    audible = beside & (at > 20) & (at < 20_000)
    assert 20 * np.log10(spectrum[audible].max() / spectrum.max()) < -65


def test_a_sweep_has_no_jump_where_the_tables_change() -> None:
    hz = 40 * 2 ** (7 * times(0.5))[::-1]
    x = oscillate(hz, 1.0, RATE, "kick")
    steepest = 2 * np.pi * hz / RATE * 1.2
    assert np.all(np.abs(np.diff(x)) <= steepest[1:] + 0.01)


@pytest.mark.parametrize("family", ["kick", "bass"])
def test_tables_close_on_themselves(family: Family) -> None:
    bank = tables(family)
    assert np.array_equal(bank[..., 0], bank[..., -1])


@pytest.mark.parametrize("start", [0.0, 0.25, 0.5])
def test_a_phase_is_where_it_is_set(start: float) -> None:
    x = oscillate(np.full(10, 50.0), 0.0, RATE, "kick", start)
    assert x[0] == pytest.approx(np.sin(2 * np.pi * start), abs=1e-5)


CURVES = st.floats(-1, 1)


@given(st.floats(0.002, 0.4), CURVES)
def test_a_fall_begins_at_one_and_never_rises(decay_s: float, curve: float) -> None:
    fallen = envelopes.fall(times(1.0), decay_s, curve)
    assert fallen[0] == pytest.approx(1.0)
    assert np.all(np.diff(fallen) <= 1e-12)
    assert np.all(fallen >= 0)


def test_the_ends_of_the_fall_are_a_ramp_and_an_exponential() -> None:
    t = times(0.5)
    assert envelopes.fall(t, 0.1, 0.0) == pytest.approx(np.exp(-t / 0.1))
    assert envelopes.fall(t, 0.1, -1.0) == pytest.approx(np.maximum(1 - t / 0.2, 0))
    assert envelopes.fall(t, 0.1, 1.0)[-1] > np.exp(-5)


@given(st.floats(0.0, 0.1), st.floats(0.03, 1.0), CURVES)
def test_a_decay_is_60_db_down_when_it_says(hold_s: float, decay_s: float, curve: float) -> None:
    at = np.array([0.0, hold_s, hold_s + decay_s])
    level = 20 * np.log10(envelopes.decay(at, hold_s, decay_s, curve))
    assert level == pytest.approx([0.0, 0.0, -60.0], abs=1e-6)


@given(st.floats(0.0, 0.05), st.floats(0.001, 0.4))
def test_rise_and_release_stay_between_nothing_and_all(attack_s: float, release_s: float) -> None:
    t = times(0.5)
    for shape in (envelopes.rise(t, attack_s), envelopes.release(t, 0.5, release_s)):
        assert shape.min() >= -1e-12
        assert shape.max() <= 1 + 1e-12
    assert envelopes.release(np.array([0.5]), 0.5, release_s)[0] == pytest.approx(0.0)
    assert envelopes.rise(np.array([attack_s + 1e-9]), attack_s)[0] == pytest.approx(1.0)
