"""What drive averages over, against the curves themselves."""

import numpy as np
import pytest

from juglant.core.process import saturation
from juglant.core.process.saturation import CURVES, oversampled
from tests.signals import sine

CURVE_NAMES = list(CURVES)
UNDER = saturation._UNDER


@pytest.mark.parametrize("name", CURVE_NAMES)
def test_each_curve_is_the_slope_of_what_it_is_averaged_by(name: str) -> None:
    """Central differences of the antiderivative are the curve (any text on numerical analysis)."""
    x = np.concatenate([np.linspace(-30, 30, 2401), np.linspace(-1.2, 1.2, 977)])
    step = 1e-4
    slope = (UNDER[name](x + step) - UNDER[name](x - step)) / (2 * step)
    corners = np.abs(np.abs(x) - 1.0) < 2 * step if name == "hard" else np.zeros(x.size, dtype=bool)
    assert np.max(np.abs(slope - CURVES[name](x))[~corners]) < 1e-5


@pytest.mark.parametrize("name", CURVE_NAMES)
@pytest.mark.parametrize("hz", [100.0, 5000.0, 12000.0])
def test_a_soft_sound_comes_through_as_it_went_in_and_no_later(name: str, hz: float) -> None:
    x = 0.001 * sine(hz, 0.1)
    mean = saturation._averaged(CURVES[name], UNDER[name])
    y = oversampled(x, mean, 8, 0.5)
    middle = slice(600, -600)
    assert np.max(np.abs(y - x)[middle]) < 0.006 * np.max(np.abs(x))


@pytest.mark.parametrize("name", CURVE_NAMES)
def test_just_beyond_the_usual_drive_nothing_jumps(name: str) -> None:
    """18 dB is met at four times the rate, 18.1 dB at eight with averaging: they sound the same."""
    x = 0.7 * sine(110.0, 0.2) + 0.1 * sine(1300.0, 0.2)
    a, b = (saturation.drive(x, db, name) for db in (18.0, 18.1))  # type: ignore[arg-type]
    assert np.sqrt(np.mean((a - b) ** 2)) < 0.02 * np.sqrt(np.mean(a**2))
    assert np.max(np.abs(b)) == pytest.approx(np.max(np.abs(x)), rel=1e-6)
