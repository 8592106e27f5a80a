"""What is wrong with a file: found just beyond what is allowed, and not just within it."""

import numpy as np
import pytest

from juglant.core.measure.defects import (
    flat_tops,
    goes_on,
    leading_silence_ms,
    resting_offset,
    strokes,
)
from juglant.core.measure.estimate import modes
from juglant.core.measure.hit import measure
from juglant.core.measure.hum import find_hum
from tests.signals import RATE, noise, ring, sine


@pytest.mark.parametrize("ms", [0.0, 2.0, 4.0, 14.0])
def test_silence_in_front_is_measured_to_half_a_millisecond(ms: float) -> None:
    quiet = 1e-5 * noise(ms / 1000 + 0.001)[: round(ms / 1000 * RATE)]
    x = np.concatenate([quiet, ring(55, 300, 0.5)])
    assert leading_silence_ms(x, RATE) == pytest.approx(ms, abs=0.5)


def test_silence_in_front_changes_no_other_number() -> None:
    x = ring(55, 300, 0.5)
    plain, late = (measure(one, RATE).hit.as_dict() for one in (x, np.concatenate([np.zeros(480), x])))
    moved = {name for name in plain if plain[name] != late[name]}
    assert moved == {"length_ms", "onset_ms", "leading_silence_ms"}


def test_a_clipped_wave_has_flat_tops_and_a_smooth_one_none() -> None:
    x = ring(55, 400, 0.9)
    assert flat_tops(x) == 0
    assert flat_tops(np.tanh(3 * x)) == 0
    assert flat_tops(np.clip(2 * x, -0.6, 0.6)) >= 4
    assert flat_tops(np.round(x * 32767) / 32767) == 0


@pytest.mark.parametrize("hz", [40.0, 110.0])
@pytest.mark.parametrize("drive", [2.0, 8.0, 30.0])
def test_what_is_driven_hard_is_not_clipped(hz: float, drive: float) -> None:
    """Its tops are as flat as those of a clipped wave, and it has no corner."""
    wave = ring(hz, 400, 0.9)
    driven = 0.9 * np.tanh(drive * wave / np.max(np.abs(wave)))
    assert flat_tops(driven) == 0
    assert flat_tops(np.round(driven * 32767) / 32767) == 0
    assert flat_tops(np.clip(drive * wave, -0.5, 0.5)) >= 4


def test_a_smooth_wave_with_broad_tops_is_not_clipped() -> None:
    """A sine and its third harmonic, at a ninth and at what makes its top flat to the fourth order."""
    at = 2 * np.pi * 55.0 * np.arange(RATE) / RATE
    for third in (1 / 9, 0.1, 0.12):
        assert flat_tops(0.9 * (np.sin(at) + third * np.sin(3 * at))) == 0
    assert flat_tops(0.9 * np.clip(np.sin(at) + np.sin(3 * at) / 9, -0.8, 0.8)) > 50


def test_a_quiet_wave_that_was_rounded_is_not_clipped() -> None:
    """Some 60 dB under full scale of 16 bits: its tops are flat, and so are its slopes here and there."""
    wave = np.cumsum(ring(40, 900, 1.0) + 0.6 * ring(47, 900, 1.0))
    for hz in (40.0, 55.0, 80.0):
        rounded = np.round(40 * ring(hz, 900, 0.9)) / 32767
        assert flat_tops(rounded) == 0
    assert flat_tops(np.round(40 * wave / np.max(np.abs(wave)))) == 0


def test_an_offset_is_what_a_sound_rests_on() -> None:
    x = np.concatenate([ring(55, 200, 0.5), np.zeros(RATE // 5)])
    assert resting_offset(x, RATE) == 0.0
    assert resting_offset(x + 0.01, RATE) == pytest.approx(0.01, abs=0.003)


@pytest.mark.parametrize("hz", [50.0, 60.0, 49.8, 60.15])
def test_hum_is_found_where_the_hit_has_died_and_a_held_tone_is_none(hz: float) -> None:
    x = np.concatenate([ring(44, 250, 0.5), np.zeros(RATE // 2)])
    t = np.arange(x.size) / RATE
    hum = 0.004 * (np.sin(2 * np.pi * hz * t) + 0.5 * np.sin(4 * np.pi * hz * t))
    found = find_hum(x + hum, RATE)
    assert found is not None
    assert found.hz == pytest.approx(hz, abs=0.03)
    assert find_hum(x, RATE) is None
    assert find_hum(sine(300, 1.2, -6), RATE) is None
    clean, hummed = (measure(one, RATE).hit.fundamental_hz for one in (x, x + hum))
    assert clean is not None
    assert hummed is not None
    assert abs(1200 * np.log2(hummed / clean)) < 5.0


def test_strokes_are_counted_and_a_sound_that_goes_on_is_no_hit() -> None:
    one = ring(55, 200, 0.5)
    assert len(strokes(one, RATE).at_ms) == 1
    two = np.concatenate([one, np.zeros(RATE // 10), 0.6 * one])
    assert len(strokes(two, RATE).at_ms) == 2
    assert goes_on(0.2 * noise(1.5), RATE)
    assert not goes_on(np.concatenate([one, np.zeros(RATE)]), RATE)


def test_noise_has_no_best_answer_and_a_tone_in_it_has() -> None:
    burst = noise(0.5) * np.exp(-np.arange(RATE // 2) / RATE / 0.08)
    assert modes(burst, RATE) == []
    found = modes(burst + _padded(burst), RATE)
    assert found[0].hz == pytest.approx(140.0, rel=0.03)


def _padded(like: np.ndarray) -> np.ndarray:
    tone = 3 * ring(140, 400, 1.0)
    out = np.zeros(like.size)
    out[: min(tone.size, out.size)] = tone[: out.size]
    return out
