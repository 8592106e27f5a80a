"""Sums of two sounds against the acoustics of coherent and unrelated sources."""

import numpy as np
import pytest

from juglant.core.measure.levels import THIRD_OCTAVES_HZ, Spectrum
from juglant.core.measure.loopsound import LoopSound
from juglant.core.measure.overlap import LOW_BANDS_HZ, Overlap, shared_bands
from juglant.core.measure.owner import overlap
from tests.signals import RATE, sine


def _overlap(kick: np.ndarray, bass: np.ndarray) -> Overlap:
    return overlap(LoopSound(kick), LoopSound(bass), 4)[0]


@pytest.mark.parametrize(
    ("phase", "db"),
    # Any acoustics text: twice the pressure is +6.02 dB re one, +3.01 dB re the energy of both;
    # at a right angle the energies add; opposed they cancel.
    [(0.0, 3.01), (np.pi / 2, 0.0), (2 * np.pi / 3, -3.01)],
)
def test_two_equal_tones_sum_by_their_phase(phase: float, db: float) -> None:
    found = _overlap(sine(60, 2, -12), sine(60, 2, -12, phase=phase))
    assert found.summation_mean_db == pytest.approx(db, abs=0.1)
    assert found.summation_worst_db == pytest.approx(db, abs=0.2)


def test_opposed_tones_cancel_and_unrelated_ones_add_their_energies() -> None:
    assert (_overlap(sine(60, 2), -sine(60, 2)).summation_mean_db or 0) < -60
    # 60 and 80 Hz are orthogonal over every 50 ms window.
    assert _overlap(sine(60, 2), sine(80, 2)).summation_mean_db == pytest.approx(0.0, abs=0.15)


def test_third_octaves_have_the_exact_mid_bands_of_iec_61260_1() -> None:
    # IEC 61260-1: 1000 · 10^(n/10) Hz; nominal 25 Hz is exactly 25.119, 315 Hz is 316.228.
    assert THIRD_OCTAVES_HZ[0] == pytest.approx(25.119, abs=0.001)
    assert LOW_BANDS_HZ[-1] == pytest.approx(316.228, abs=0.001)
    assert len(LOW_BANDS_HZ) == 12
    assert THIRD_OCTAVES_HZ[-1] == pytest.approx(15848.93, abs=0.01)


def test_a_band_is_shared_only_where_both_are_strong_and_near() -> None:
    low, high = sine(50, 2), sine(100, 2)
    assert shared_bands(Spectrum(low, RATE), Spectrum(low * 0.6, RATE)) == pytest.approx([50.12], abs=0.01)
    assert shared_bands(Spectrum(low, RATE), Spectrum(low * 0.4, RATE)) == []
    assert shared_bands(Spectrum(low, RATE), Spectrum(high, RATE)) == []
