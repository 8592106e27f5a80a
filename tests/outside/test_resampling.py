"""Sample-rate conversion: alias rejection, and a second opinion."""

import numpy as np
import pytest
from scipy import signal

from juglant.core.process.resampling import change_rate, shift_pitch
from tests.signals import RATE, noise, sine


@pytest.mark.parametrize("hz", [23_000.0, 30_000.0, 45_000.0])
def test_what_does_not_fit_is_removed_not_folded(hz: float) -> None:
    # Any text on sampling: above half the new rate a tone must vanish; 100 dB is asked here.
    high = sine(hz, 0.5, rate=96_000) * np.hanning(48_000)
    low = change_rate(high, 96_000, 44_100)
    assert 20 * np.log10(np.max(np.abs(low))) < -100


@pytest.mark.parametrize(("rate", "up", "down"), [(44_100, 160, 147), (96_000, 1, 2), (32_000, 3, 2)])
def test_it_agrees_with_scipys_polyphase_filter(rate: int, up: int, down: int) -> None:
    x = signal.sosfilt(signal.butter(8, 6000, fs=rate, output="sos"), noise(0.4, rate=rate))
    ours = change_rate(x, rate, RATE)
    peer = signal.resample_poly(x, up, down, window=("kaiser", 14.0))
    middle = slice(2000, min(ours.size, peer.size) - 2000)
    assert ours[middle] == pytest.approx(peer[middle], abs=2e-4)


@pytest.mark.parametrize("semitones", [-7.0, 3.0])
def test_there_and_back_is_where_it_began(semitones: float) -> None:
    x = sine(60, 1.0) * np.hanning(RATE)
    back = shift_pitch(shift_pitch(x, semitones), -semitones)
    count = min(back.size, x.size)
    assert back[:count] == pytest.approx(x[:count], abs=1e-4)
