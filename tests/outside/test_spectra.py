"""What is taken for a spectrum against scipy's: the window, and the peaks."""

import numpy as np
import pytest
from scipy import signal

from juglant.core.measure.partials import blackman_harris, peaks_apart


@pytest.mark.parametrize("count", [2, 63, 4096])
def test_the_window_is_scipys(count: int) -> None:
    np.testing.assert_allclose(blackman_harris(count), signal.windows.blackmanharris(count), atol=1e-12)


@pytest.mark.parametrize("seed", range(20))
def test_peaks_are_those_of_scipy(seed: int) -> None:
    rng = np.random.default_rng(seed)
    level = np.convolve(rng.normal(size=3000), np.hanning(1 + seed), "same")
    for distance in (1, 2, 7, 40):
        expected, _ = signal.find_peaks(level, distance=distance)
        np.testing.assert_array_equal(peaks_apart(level, distance), expected)
