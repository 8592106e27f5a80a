"""Loudness and true peak against ITU-R BS.1770 and EBU Tech 3341."""

import numpy as np
import pyloudnorm
import pytest

from juglant.core.measure import levels
from tests.signals import RATE, noise, sine


def test_the_calibration_tone_of_ebu_tech_3341_reads_minus_23() -> None:
    # EBU Tech 3341, minimum requirements, case 1: stereo 1 kHz at -23.0 dBFS; value from memory.
    tone = np.stack([sine(1000, 20, -23.0)] * 2, axis=1)
    assert levels.integrated_lufs(tone, RATE) == pytest.approx(-23.0, abs=0.1)
    assert levels.momentary_max_lufs(tone, RATE) == pytest.approx(-23.0, abs=0.1)


def test_the_filters_are_those_of_the_standards_tables() -> None:
    # ITU-R BS.1770-5, tables 1 and 2 (48 kHz), values from memory; the tables leave out a0 = 1.
    shelf, highpass = levels.k_weighting(48_000)
    assert shelf[:3] == pytest.approx([1.53512485958697, -2.69169618940638, 1.19839281085285], abs=1e-9)
    assert shelf[4:] == pytest.approx([-1.69065929318241, 0.73248077421585], abs=1e-9)
    assert list(highpass[:3]) == [1.0, -2.0, 1.0]
    assert highpass[4:] == pytest.approx([-1.99004745483398, 0.99007225036621], abs=1e-9)


@pytest.mark.parametrize("rate", [44_100, 48_000, 96_000])
def test_integrated_loudness_is_that_of_pyloudnorm(rate: int) -> None:
    x = np.stack([noise(3, 1, rate), sine(60, 3, -9, rate)], axis=1)
    peer = pyloudnorm.Meter(rate).integrated_loudness(x)
    assert levels.integrated_lufs(x, rate) == pytest.approx(peer, abs=0.1)


@pytest.mark.parametrize("hz", [45.0, 100.0, 1000.0, 8000.0])
def test_the_momentary_level_of_a_steady_tone_is_its_integrated_one(hz: float) -> None:
    x = sine(hz, 3, -12)
    peer = pyloudnorm.Meter(RATE).integrated_loudness(x)
    assert levels.momentary_max_lufs(x, RATE) == pytest.approx(peer, abs=0.1)


@pytest.mark.parametrize(
    ("divisor", "phase_degrees", "level_db"),
    # EBU Tech 3341 true-peak cases 15-19, values from memory: a sine at a fraction of the rate
    # whose samples miss its crest; the tolerance is +0.2 / -0.4 dB.
    [(4, 0, -6.0), (4, 45, -6.0), (6, 60, -6.0), (8, 67.5, -6.0), (4, 45, 3.0)],
)
def test_true_peak_is_within_the_tolerance_of_ebu_tech_3341(
    divisor: int, phase_degrees: float, level_db: float
) -> None:
    fade = np.minimum(1.0, np.minimum(np.arange(RATE), np.arange(RATE)[::-1]) / 2000)
    x = fade * sine(RATE / divisor, 1, level_db, phase=np.radians(phase_degrees))
    read = levels.true_peak_dbtp(x)
    assert level_db - 0.4 <= read <= level_db + 0.2


def test_true_peak_is_never_below_the_sample_peak_and_agrees_with_oversampling() -> None:
    from scipy import signal

    for seed in range(5):
        x = signal.sosfilt(signal.butter(4, 15_000, fs=RATE, output="sos"), noise(0.3, seed))
        fine = 20 * np.log10(np.max(np.abs(signal.resample_poly(x, 16, 1))))
        assert levels.true_peak_dbtp(x) >= levels.peak_dbfs(x)
        assert levels.true_peak_dbtp(x) == pytest.approx(fine, abs=0.1)
