"""The compressor against its paper, and the equaliser against the cookbook."""

import math
from typing import Any

import numpy as np
import pytest
from scipy import signal

from juglant.core.hits.chain import apply_stage
from juglant.core.process import dynamics, filters
from juglant.core.process.equaliser import gain_db
from juglant.core.recipes.chain import EqualiserStage
from juglant.core.recipes.dynamics import CompressorStage
from tests.signals import RATE, Array, sine, times

# Giannoulis, Massberg & Reiss, "Digital Dynamic Range Compressor Design", JAES 60(6), 2012.
PAPER = [(-20.0, 4.0, 0.0), (-12.0, 2.0, 6.0), (-30.0, 10.0, 12.0)]


def _paper(level: float, threshold: float, ratio: float, knee: float) -> float:
    """Its equation 4, written out case by case."""
    if 2 * (level - threshold) < -knee:
        return level
    if knee > 0 and 2 * abs(level - threshold) <= knee:
        return level + (1 / ratio - 1) * (level - threshold + knee / 2) ** 2 / (2 * knee)
    return threshold + (level - threshold) / ratio


@pytest.mark.parametrize(("threshold", "ratio", "knee"), PAPER)
def test_the_static_curve_is_the_papers(threshold: float, ratio: float, knee: float) -> None:
    levels = np.linspace(-60, 0, 241)
    expected = [_paper(level, threshold, ratio, knee) for level in levels]
    assert dynamics.static_curve_db(levels, threshold, ratio, knee) == pytest.approx(expected, abs=0.01)


@pytest.mark.parametrize(("threshold", "ratio", "knee"), PAPER)
def test_a_steady_level_settles_on_the_static_curve(threshold: float, ratio: float, knee: float) -> None:
    for level in (-40.0, -18.0, -6.0):
        steady = np.full(RATE, 10 ** (level / 20))
        held = dynamics.reduction_db(
            dynamics.detected_db(steady, RATE), RATE, threshold, ratio, knee, 5.0, 50.0
        )[-1]
        assert level - held == pytest.approx(_paper(level, threshold, ratio, knee), abs=0.01)


@pytest.mark.parametrize("ms", [1.0, 10.0, 120.0])
def test_attack_and_release_are_times_to_63_per_cent(ms: float) -> None:
    # The paper's one-pole detector: 1 - 1/e of the way after one time constant.
    step = np.concatenate([np.full(RATE // 2, 1e-4), np.full(RATE, 1.0), np.full(RATE, 1e-4)])
    held = dynamics.reduction_db(dynamics.detected_db(step, RATE), RATE, -20.0, 4.0, 0.0, ms, ms)
    full, reached = 15.0, 1 - 1 / math.e
    up = held[RATE // 2 :]
    attack = np.argmax(up >= reached * full) / RATE * 1000
    down = held[RATE // 2 + RATE :]
    release = np.argmax(down <= (1 - reached) * down[0]) / RATE * 1000
    assert attack == pytest.approx(ms, rel=0.02, abs=0.03)
    assert release == pytest.approx(ms, rel=0.02, abs=0.03)


BELLS = [
    EqualiserStage(bell_db=6.0, bell_hz=350.0, bell_q=1.4),
    EqualiserStage(second_db=-9.0, second_hz=3000.0, second_q=4.0),
    EqualiserStage(low_shelf_db=5.0, low_shelf_hz=120.0),
    EqualiserStage(high_shelf_db=-7.0, high_shelf_hz=6000.0),
]


def _analog(stage: EqualiserStage, hz: Array) -> Array:
    """The cookbook's analogue prototypes (Bristow-Johnson, W3C Note 2021), warped as it says."""

    def prototype(kind: str, at: float, q: float, gain: float) -> Any:
        amount = 10 ** (gain / 40)
        s = 1j * np.tan(np.pi * hz / RATE) / np.tan(np.pi * at / RATE)
        root = np.sqrt(amount)
        if kind == "bell":
            return (s * s + s * amount / q + 1) / (s * s + s / (amount * q) + 1)
        if kind == "low":
            return amount * (s * s + root / q * s + amount) / (amount * s * s + root / q * s + 1)
        return amount * (amount * s * s + root / q * s + 1) / (s * s + root / q * s + amount)

    response = (
        prototype("bell", stage.bell_hz, stage.bell_q, stage.bell_db)
        * prototype("bell", stage.second_hz, stage.second_q, stage.second_db)
        * prototype("low", stage.low_shelf_hz, np.sqrt(0.5), stage.low_shelf_db)
        * prototype("high", stage.high_shelf_hz, np.sqrt(0.5), stage.high_shelf_db)
    )
    return np.asarray(20 * np.log10(np.abs(response)))


@pytest.mark.parametrize("stage", BELLS)
def test_bells_and_shelves_have_the_cookbooks_response(stage: EqualiserStage) -> None:
    hz = np.geomspace(20, 20000, 200)
    assert gain_db(stage, hz, RATE) == pytest.approx(_analog(stage, hz), abs=0.01)


@pytest.mark.parametrize("slope", [12, 24, 48])
@pytest.mark.parametrize("kind", ["highpass", "lowpass"])
def test_steep_filters_are_scipys_butterworth(kind: str, slope: int) -> None:
    hz = np.geomspace(20, 20000, 200)
    w = 2 * np.pi * hz / RATE
    _, ours = signal.freqz_sos(filters.steep(kind, 440.0, slope, RATE), worN=w)
    theirs = signal.butter(slope // 6, 440.0, kind, fs=RATE, output="sos")
    _, expected = signal.freqz_sos(theirs, worN=w)
    heard = np.abs(expected) > 1e-5
    assert 20 * np.log10(np.abs(ours[heard])) == pytest.approx(
        20 * np.log10(np.abs(expected[heard])), abs=0.01
    )


def test_linear_phase_has_the_same_magnitudes_and_moves_nothing() -> None:
    stage = EqualiserStage(bell_db=9.0, bell_hz=200.0, highpass_hz=60.0, phase="linear")
    for hz in (100.0, 200.0, 1000.0):
        burst = sine(hz, 1.0) * np.hanning(RATE)
        out = apply_stage(burst, stage, RATE, 120.0)
        # Still in step with what went in: only its level changed.
        likeness = (out @ burst) / np.sqrt((out @ out) * (burst @ burst))
        assert likeness > 0.9999
        gain = 10 * np.log10((out @ out) / (burst @ burst))
        assert gain == pytest.approx(gain_db(stage, np.array([hz]), RATE)[0], abs=0.05)


def test_a_stage_compresses_what_the_paper_says() -> None:
    tone = sine(1000.0, 1.0, -6.0)
    stage = CompressorStage(threshold_db=-26.0, ratio=4.0, knee_db=0.0, attack_ms=0.1, release_ms=2000.0)
    out = apply_stage(tone, stage, RATE, 120.0)
    peak = 20 * np.log10(np.max(np.abs(out[RATE // 2 :])))
    # A peak detector with a slow release rests on the tone's peak.
    assert peak == pytest.approx(_paper(-6.0, -26.0, 4.0, 0.0), abs=0.3)
    assert times(1.0).size == out.size
