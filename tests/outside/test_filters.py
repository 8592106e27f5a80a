"""Filters against the Audio EQ Cookbook, Butterworth's definition and Linkwitz & Riley."""

import numpy as np
import pytest
from scipy import signal

from juglant.core.process import filters, lowpart, movingfilters
from tests.signals import RATE, noise, sine


def _magnitude(sections: np.ndarray, hz: np.ndarray) -> np.ndarray:
    return np.asarray(np.abs(signal.sosfreqz(sections, hz, fs=RATE)[1]))


@pytest.mark.parametrize("hz", [40.0, 150.0, 3000.0, 15_000.0])
@pytest.mark.parametrize("q", [0.5, 0.7071, 4.0])
@pytest.mark.parametrize("kind", ["lowpass", "highpass", "bandpass"])
def test_sections_have_the_cookbooks_response(kind: str, hz: float, q: float) -> None:
    # R. Bristow-Johnson, Audio EQ Cookbook (W3C Note, 2021): the analogue prototypes
    # H(s) = 1, s², s/Q over s² + s/Q + 1, under the bilinear transform prewarped to `hz`.
    at = np.geomspace(20, 20_000, 64)
    s = 1j * np.tan(np.pi * at / RATE) / np.tan(np.pi * hz / RATE)
    top = {"lowpass": np.ones_like(s), "highpass": s**2, "bandpass": s / q}[kind]
    expected = np.abs(top / (s**2 + s / q + 1))
    assert _magnitude(filters.cookbook(kind, hz, q, RATE), at) == pytest.approx(expected, abs=1e-9)


@pytest.mark.parametrize("hz", [30.0, 62.0, 480.0, 8000.0])
def test_24_db_slopes_are_fourth_order_butterworth(hz: float) -> None:
    at = np.geomspace(20, 20_000, 64)
    for kind, ours in (("lowpass", filters.lowpass_24), ("highpass", filters.highpass_24)):
        peer = signal.butter(4, hz, kind, fs=RATE, output="sos")
        assert _magnitude(ours(hz, RATE), at) == pytest.approx(_magnitude(peer, at), abs=1e-6)


def test_a_crossover_is_6_db_down_in_both_halves_and_sums_flat() -> None:
    # Linkwitz & Riley, JAES 1976.
    hz = np.geomspace(5, 20_000, 200)
    low, high = filters.linkwitz_riley_gain(hz, 150.0)
    assert low + high == pytest.approx(np.ones_like(hz), abs=1e-12)
    at = [20 * np.log10(float(g[0])) for g in filters.linkwitz_riley_gain(np.array([150.0]), 150.0)]
    assert at == pytest.approx([-6.02, -6.02], abs=0.01)


@pytest.mark.parametrize(("hz", "db"), [(20.0, -6.02), (55.0, -0.31), (150.0, -6.02), (300.0, -24.6)])
def test_the_low_band_passes_a_tone_at_its_crossover_gain_without_delay(hz: float, db: float) -> None:
    band, rate = lowpart.low_band(sine(hz, 2.0), RATE, loop=True)
    at = np.arange(band.size) / rate
    # In phase with the tone itself: zero-phase.
    gain = 2 * float(np.mean(band * np.sin(2 * np.pi * hz * at)))
    assert 20 * np.log10(gain) == pytest.approx(db, abs=0.3)


def test_the_moving_low_pass_standing_still_is_butterworth() -> None:
    x = noise(0.5)
    moved = movingfilters.moving_lowpass(x, np.full(x.size, 700.0), RATE)
    peer = signal.sosfilt(signal.butter(4, 700.0, fs=RATE, output="sos"), x)
    assert moved == pytest.approx(peer, abs=1e-6)


def test_the_firm_low_cut_raises_its_corner_and_the_gentle_one_leaves_the_sub() -> None:
    # Common practice: gentle below 28-30 Hz only, firm around 50 Hz with resonance.
    def db(kind: filters.LowCut, hz: float) -> float:
        return 20 * float(np.log10(_magnitude(filters.low_cut(kind, RATE), np.array([hz]))[0]))

    assert db("gentle", 41.2) == pytest.approx(0.0, abs=0.5)
    assert db("gentle", 20.0) < -10
    assert db("firm", 52.0) == pytest.approx(3.0, abs=1.0)
    assert db("firm", 30.0) < -12
    assert db("firm", 120.0) == pytest.approx(0.0, abs=1.5)
