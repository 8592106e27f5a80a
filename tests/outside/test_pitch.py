"""The tail's pitch against generated truth, a general tracker, and the theory of estimation."""

import numpy as np
import pytest

from bench.corpus import corpus
from bench.pitch import cents_off, ours, pyin
from juglant.core.measure.pitch import SURE, measure_tail
from juglant.core.measure.tailmodel import TailPitch
from tests.signals import RATE, noise, ring, times

CASES = corpus(60, seed=2026)


@pytest.fixture(scope="module")
def found() -> list[tuple[float, float, float]]:
    return [ours(case) for case in CASES]


def test_settled_tails_are_found_to_a_cent_and_never_wrong_in_silence(
    found: list[tuple[float, float, float]],
) -> None:
    stated = [
        cents_off(hz, case)
        for case, (hz, _, sure) in zip(CASES, found, strict=True)
        if case.settles and sure >= SURE
    ]
    assert np.median(stated) <= 0.5
    assert np.percentile(stated, 95) <= 5.0
    assert max(stated) <= 50.0
    # A noise floor at -40 dB leaves some short tails less than a cycle; others must be stated.
    clear = [
        sure >= SURE
        for case, (_, _, sure) in zip(CASES, found, strict=True)
        if case.settles and case.noise_db != -40
    ]
    assert np.mean(clear) >= 0.95


def test_the_stated_uncertainty_holds_the_error_nine_times_in_ten(
    found: list[tuple[float, float, float]],
) -> None:
    held = [
        cents_off(hz, case) <= 2 * sigma
        for case, (hz, sigma, sure) in zip(CASES, found, strict=True)
        if case.settles and sure >= SURE
    ]
    assert np.mean(held) >= 0.9


def test_tails_that_never_settle_say_so(found: list[tuple[float, float, float]]) -> None:
    unsure = [
        sure < SURE for case, (_, _, sure) in zip(CASES, found, strict=True) if case.cents_at_minus_40 > 40
    ]
    assert unsure
    assert np.mean(unsure) >= 0.85


def test_a_sweep_made_in_hertz_is_told_from_one_made_in_pitch() -> None:
    # Long enough to be clear; the early windows hold more than an octave of the fall.
    cases = corpus(24, seed=7, shape="exponential_hz", sweep_semitones=36.0, fall_ms=45.0, decay_ms=480.0)
    errors = [cents_off(ours(case)[0], case) for case in cases if case.settles]
    assert len(errors) > 15
    assert np.percentile(errors, 95) <= 5.0


def test_it_is_nearer_than_librosa_pyin_on_the_same_sounds(
    found: list[tuple[float, float, float]],
) -> None:
    pairs = [
        (cents_off(hz, case), cents_off(pyin(case), case))
        for case, (hz, _, _) in zip(CASES[:16], found, strict=False)
        if case.settles
    ]
    mine, peer = np.array(pairs).T
    assert np.median(mine) < 0.1 * np.median(peer)


def test_error_on_a_damped_tone_in_noise_nears_the_cramer_rao_bound() -> None:
    # Yao & Pandit 1995; Kay, Statistical Signal Processing, 1993: the bound for the frequency
    # of A·exp(-a t)·cos(ωt+φ) in white noise, here from its Fisher matrix by differences.
    hz, sigma = 52.0, 0.01
    t = times(0.6)
    theta = np.array([1.0, 6.9 / 0.5, 2 * np.pi * hz, 0.3])

    def model(p: np.ndarray) -> np.ndarray:
        return np.asarray(p[0] * np.exp(-p[1] * t) * np.cos(p[2] * t + p[3]))

    steps = 1e-6 * theta
    gradient = np.array([(model(theta + d) - model(theta - d)) / (2 * d.sum()) for d in np.diag(steps)])
    bound = np.sqrt(np.linalg.inv(gradient @ gradient.T / sigma**2)[2, 2]) / (2 * np.pi)
    bound_cents = 1200 * np.log2(1 + bound / hz)
    errors = []
    for seed in range(12):
        tail = measure_tail(model(theta) + sigma * noise(0.6, seed) / 0.2, RATE)
        assert isinstance(tail, TailPitch)
        errors.append(1200 * np.log2(tail.hz / hz))
    spread = float(np.sqrt(np.mean(np.square(errors))))
    assert 0.5 * bound_cents < spread < 3 * bound_cents


@pytest.mark.parametrize("hz", [31.0, 55.0, 98.0, 180.0, 440.0])
@pytest.mark.parametrize("rate", [44_100, 48_000, 96_000])
def test_a_plain_decaying_tone_is_found_at_any_usual_rate(hz: float, rate: int) -> None:
    tail = measure_tail(ring(hz, 500, 0.6, rate), rate)
    assert isinstance(tail, TailPitch)
    assert 1200 * np.log2(tail.hz / hz) == pytest.approx(0.0, abs=0.3)
    assert tail.confidence > 0.9


def test_noise_and_clicks_have_no_pitch() -> None:
    for seed in range(6):
        burst = noise(0.5, seed) * 10 ** (-3 * times(0.5) / 0.2)
        tail = measure_tail(burst, RATE)
        assert isinstance(tail, str) or tail.confidence < SURE
