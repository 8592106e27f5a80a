"""What is laid, delayed, driven in pieces and sent through a space, against scipy and against the plain way."""

import numpy as np
import pytest
from scipy import signal

from juglant.core.hits.mixing import added, delayed_by, with_tone
from juglant.core.lowend import staging
from juglant.core.measure.periods import surprise, yin
from juglant.core.process import dynamics, saturation, space
from juglant.core.recipes.chain import SpaceStage
from tests.signals import RATE, noise, ring, sine


@pytest.mark.parametrize(("frames", "response"), [(1, 1), (480, 7), (4800, 4801), (12_000, 997)])
def test_a_space_is_scipys_convolution(frames: int, response: int) -> None:
    x, heard = noise(frames / RATE), noise(response / RATE, seed=3)
    expected = signal.fftconvolve(x, heard)
    assert space.convolved(x, heard) == pytest.approx(expected, abs=1e-9 * np.sqrt(frames))


@pytest.mark.parametrize("response", [100, 4800, 11_000])
def test_a_loop_through_a_space_is_one_of_many_turns(response: int) -> None:
    """The plain way: the loop repeated until the response has died, and its last turn cut out."""
    x, heard = noise(0.1), noise(response / RATE, seed=5) * np.exp(-np.arange(response) / 900)
    turns = -(-response // x.size) + 2
    long = signal.fftconvolve(np.tile(x, turns), heard)
    expected = long[(turns - 1) * x.size : turns * x.size]
    assert space.around_loop(x, heard) == pytest.approx(expected, abs=1e-8)


@pytest.mark.parametrize("turns", [0.4, 1.0, 2.7])
def test_what_rings_past_a_loop_is_laid_over_it_turn_by_turn(turns: float) -> None:
    frames = 4800
    decay_ms = turns * frames / RATE * 1000
    stage = SpaceStage(kind="hall", mix_db=-6.0, decay_ms=max(decay_ms, 60.0), predelay_ms=0.0, width=0.0)
    x = noise(frames / RATE)
    once = staging.through_stage(x, stage, RATE, 120.0)
    # Played many times in a row, a later turn is what the loop sounds like.
    many = staging.through_stage(np.tile(x, 12), stage, RATE, 120.0)
    assert once.shape == x.shape
    assert many[9 * frames : 10 * frames] == pytest.approx(once, abs=1e-6)


@pytest.mark.parametrize("frames", [1, 100, (1 << 15) - 1, 1 << 15, (1 << 15) + 1, 70_001])
@pytest.mark.parametrize("curve", ["soft", "hard", "tape", "asymmetric"])
def test_a_long_sound_is_driven_as_if_it_were_in_one_piece(
    frames: int, curve: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    x = 0.8 * sine(997.0, frames / RATE)[:frames]
    pieces = saturation.drive(x, 24.0, curve)  # type: ignore[arg-type]
    monkeypatch.setattr(saturation, "_AT_ONCE", 1 << 20)
    whole = saturation.drive(x, 24.0, curve)  # type: ignore[arg-type]
    np.testing.assert_array_equal(pieces, whole)


@pytest.mark.parametrize("late", [0.0, 1.0, 0.25, 2.5, 31.75])
def test_a_delay_by_a_fraction_is_a_turn_of_phase(late: float) -> None:
    # The shift theorem of the Fourier transform: a sine comes out as itself, so much later.
    hz, x = 440.0, sine(440.0, 0.2)
    out = delayed_by(x, late)
    at = np.arange(2000, 7000)
    assert out[at] == pytest.approx(np.sin(2 * np.pi * hz * (at - late) / RATE), abs=2e-3)


def test_sounds_are_added_from_their_first_frame_and_stereo_wins() -> None:
    left = np.stack([np.ones(3), np.zeros(3)], axis=1)
    assert added([np.ones(2), left]).tolist() == [[2.0, 1.0], [2.0, 1.0], [1.0, 0.0]]
    assert added([np.full(4, 0.25)] * 3).tolist() == [0.75] * 4


def test_a_tone_to_judge_by_is_steady_and_has_its_octaves() -> None:
    x = 0.5 * ring(55.0, 200, 0.4)
    tone = with_tone(x, 55.0, RATE)[x.size :]
    power = np.abs(np.fft.rfft(tone * np.hanning(tone.size))) ** 2
    hz = np.fft.rfftfreq(tone.size, 1 / RATE)
    peaks = [float(power[np.abs(hz - partial * 55.0) < 4].max()) for partial in (1, 2, 3, 4)]
    # Amplitudes 1, 1/2, none and 1/4.
    assert 10 * np.log10(peaks[1] / peaks[0]) == pytest.approx(-6.02, abs=0.1)
    assert 10 * np.log10(peaks[3] / peaks[0]) == pytest.approx(-12.04, abs=0.2)
    assert peaks[2] < 1e-4 * peaks[0]


@pytest.mark.parametrize("ratio", [1.5, 4.0, 20.0])
@pytest.mark.parametrize("knee_db", [0.0, 3.0, 12.0])
def test_the_gain_computer_is_the_papers_at_every_level(ratio: float, knee_db: float) -> None:
    """Giannoulis, Massberg & Reiss, JAES 60(6), 2012, eq. 4, written out as it stands there."""
    level, threshold = np.linspace(-80.0, 6.0, 345), -18.0

    def paper(x: float) -> float:
        if 2 * (x - threshold) < -knee_db or (knee_db == 0 and x <= threshold):
            return x
        if 2 * abs(x - threshold) <= knee_db:
            return x + (1 / ratio - 1) * (x - threshold + knee_db / 2) ** 2 / (2 * knee_db)
        return threshold + (x - threshold) / ratio

    expected = [paper(float(x)) for x in level]
    assert dynamics.static_curve_db(level, threshold, ratio, knee_db) == pytest.approx(expected, abs=1e-9)


@pytest.mark.parametrize("hz", [30.0, 55.0, 110.0, 220.0, 400.0])
def test_the_period_is_that_of_the_tone(hz: float) -> None:
    """YIN on sines, saws and a missing fundamental (de Cheveigné & Kawahara, JASA 111, 2002)."""
    rate, at = 6000, np.arange(6000) / 6000
    partials = [np.sin(2 * np.pi * hz * n * at) for n in range(1, 5) if n * hz < 2500]
    sounds = [partials[0], sum(one / n for n, one in enumerate(partials, 1))]
    if len(partials) > 2:
        sounds.append(partials[1] + 0.7 * partials[2])
    starts = np.array([100, 1000, 2500], np.int64)
    for x in sounds:
        lags, dips = yin(np.ascontiguousarray(x), starts, 270, 14, 223, 0.12)
        cents = 1200 * np.log2(rate / lags / hz)
        assert np.max(np.abs(cents)) < 12
        assert np.max(dips) < 0.05


def test_hiss_has_no_period_and_a_new_tone_is_news() -> None:
    starts = np.array([0, 900, 2000], np.int64)
    _, dips = yin(np.ascontiguousarray(noise(0.1)), starts, 270, 14, 223, 0.12)
    assert np.min(dips) > 0.3
    at = np.arange(3000) / 6000
    tone = np.sin(2 * np.pi * 60 * at)
    changed = tone + np.where(at > 0.25, 0.5 * np.sin(2 * np.pi * 173 * at), 0.0)
    lags = np.full(100, 100.0)
    still, moved = (surprise(x, lags, 30, 6, 48) for x in (tone, changed))
    step = round(0.25 * 6000 / 6)
    assert np.max(still[60:, 0]) < 1e-9
    assert moved[step + 1, 0] > 1e-3 > np.max(moved[60 : step - 10, 0])


@pytest.mark.parametrize("decay_ms", [300.0, 900.0])
@pytest.mark.parametrize("kind", ["room", "hall"])
def test_a_space_falls_by_60_db_in_its_time(kind: str, decay_ms: float) -> None:
    """By backward integration (M. R. Schroeder, JASA 37, 1965), from 5 to 25 dB down, below its damping."""
    x = space.impulse_response(kind, decay_ms, 20_000.0, 20.0, 1, RATE)
    left = 10 * np.log10(np.maximum(np.cumsum(x[::-1] ** 2)[::-1] / np.sum(x**2), 1e-12))
    first, last = (int(np.argmax(left <= db)) for db in (-5.0, -25.0))
    assert 3 * (last - first) / RATE * 1000 == pytest.approx(decay_ms, rel=0.15)


def test_what_is_damped_falls_twice_as_quickly() -> None:
    x = space.impulse_response("hall", 1200.0, 3000.0, 20.0, 2, RATE)
    times = []
    for low, high in ((200.0, 1500.0), (6000.0, 12_000.0)):
        band = signal.sosfiltfilt(signal.butter(4, (low, high), "bandpass", fs=RATE, output="sos"), x)
        left = 10 * np.log10(np.maximum(np.cumsum(band[::-1] ** 2)[::-1] / np.sum(band**2), 1e-12))
        times.append(int(np.argmax(left <= -25.0)) - int(np.argmax(left <= -5.0)))
    assert times[0] / times[1] == pytest.approx(2.0, rel=0.25)


@pytest.mark.parametrize("feedback", [0.0, 0.5, 0.8])
def test_repeats_come_in_time_each_softer_by_the_feedback(feedback: float) -> None:
    click = np.zeros(48)
    click[0] = 1.0
    out = space.repeats(click, 0.1, -6.0, feedback, (20.0, 20_000.0), RATE)
    at = [round(n * 0.1 * RATE) for n in range(4)]
    first = 10 ** (-6.0 / 20)
    expected = [1.0, first, first * feedback, first * feedback**2]
    for place, level in zip(at, expected, strict=True):
        found = float(out[place]) if place < out.size else 0.0
        assert found == pytest.approx(level if level > 1e-3 else 0.0, abs=1e-9)
    quiet = np.delete(out, list(range(0, out.size, at[1])))
    assert np.max(np.abs(quiet), initial=0.0) < 1e-9


def test_a_band_of_repeats_grows_narrower_with_each() -> None:
    click = np.zeros(4800)
    click[0] = 1.0
    out = space.repeats(click, 0.1, -3.0, 0.9, (300.0, 3000.0), RATE)
    shares = []
    for n in (1, 2, 3):
        power = np.abs(np.fft.rfft(out[n * 4800 : (n + 1) * 4800])) ** 2
        hz = np.fft.rfftfreq(4800, 1 / RATE)
        shares.append(float(np.sum(power[(hz > 500) & (hz < 2000)]) / np.sum(power)))
    assert shares == sorted(shares)
    assert shares[2] - shares[0] > 0.1
