"""The ends of a tail that are tried, and what is believed of them."""

import numpy as np
import pytest

from juglant.core.measure.early import CLEAR, beside_cents, best_of, doubt_cents, ends
from juglant.core.measure.pitch import measure_tail
from juglant.core.measure.tail import Tail, prepare, scaled_down
from juglant.core.measure.tailmodel import TailPitch, Window
from tests.signals import RATE, noise, ring


def _fit(hz: float, sigma_cents: float = 1.0, unexplained: float = 0.0, lasted_s: float = 0.5) -> TailPitch:
    """A fit of which only these are asked."""
    window = Window(
        start_s=0.0, end_s=lasted_s, hz=hz, bend=0.0, tau_s=0.03, form=0.0, sigma_cents=sigma_cents,
        misfit=1.0, cost=1.0, information=100.0, residual_share=unexplained, octave_ratio=1.0, in_hertz=False,
    )  # fmt: skip
    return TailPitch(hz, sigma_cents, 1.0, None, window, window, 0.3, (window,))


def _tail(x: np.ndarray) -> Tail:
    found = prepare(*scaled_down(x, RATE))
    assert found is not None
    return found


def test_ends_come_ever_later_and_each_lies_so_far_down() -> None:
    tail = _tail(ring(50.0, 600, 1.2))
    found = ends(tail)
    assert len(found) == 6
    assert [one.end_s for one in found] == sorted(one.end_s for one in found)
    # 60 dB in 600 ms: 10 ms for every decibel.
    for one, drop in zip(found, (6, 10, 14, 18, 24, 30), strict=True):
        assert one.end_s - tail.peak_s == pytest.approx(0.01 * drop, abs=0.012)


def test_a_tail_that_is_too_short_for_an_end_has_none_there() -> None:
    assert len(ends(_tail(ring(60.0, 120, 0.3)))) < 6


def test_doubt_grows_with_what_is_left_and_with_how_far_the_next_one_lies() -> None:
    calm = [_fit(50.0), _fit(50.0)]
    assert doubt_cents(calm) == pytest.approx([1.0, 1.0])
    apart = doubt_cents([_fit(50.0), _fit(50.0 * 2 ** (20 / 1200))])
    assert apart[0] == pytest.approx(np.hypot(1.0, 10.0), abs=0.01)
    assert doubt_cents([_fit(50.0)]) == pytest.approx([1.0])
    # A tenth of the tone's energy beside it, over half a second: some three and a half cents at 100 Hz.
    assert beside_cents(_fit(100.0, unexplained=0.1)) == pytest.approx(3.5, abs=0.1)
    assert beside_cents(_fit(100.0, unexplained=0.1, lasted_s=1.0)) == pytest.approx(1.75, abs=0.05)


def test_only_clear_fits_are_believed() -> None:
    tails = [_tail(ring(50.0, 600, 1.2))] * 3
    fits = iter([_fit(49.0, 0.1, CLEAR + 0.01), _fit(50.0, 2.0), _fit(50.0, 3.0)])
    best = best_of(tails, lambda _: next(fits))
    assert best is not None
    assert best[0].sigma_cents == 2.0
    assert best_of(tails, lambda _: _fit(50.0, 1.0, CLEAR)) is None
    assert best_of(tails, lambda _: None) is None


def test_a_dry_tail_is_fitted_whole() -> None:
    found = measure_tail(0.8 * ring(52.0, 500, 0.9), RATE)
    assert isinstance(found, TailPitch)
    assert not found.before_room
    assert abs(1200 * np.log2(found.hz / 52.0)) < 0.1


def test_a_steady_noise_under_a_tone_is_left_behind() -> None:
    x = 0.8 * ring(52.0, 700, 1.2)
    swelling = np.convolve(noise(1.2, 3), np.hanning(900) / 450, mode="same")
    x = x + 0.05 * swelling / np.max(np.abs(swelling)) * np.minimum(1.0, np.arange(x.size) / (0.2 * RATE))
    found = measure_tail(x, RATE)
    assert isinstance(found, TailPitch)
    assert abs(1200 * np.log2(found.hz / 52.0)) < max(3 * found.sigma_cents, 2.0)
