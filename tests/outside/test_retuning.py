"""Retuned hits: their pitch measured by other means, beside a general-purpose phase vocoder."""

import librosa
import numpy as np
import pytest

from juglant.core.hits.retune import retuned
from juglant.core.measure.hit import measure
from juglant.core.measure.partials import partials
from tests.outside.test_membranes import BOOK
from tests.signals import RATE, Array, noise, sine, times


def _kick(hz: float = 55.0, drift_cents: float = 0.0, drift_s: float = 0.3) -> Array:
    """A driven, sweeping tone with a click, whose tail may go on drifting."""
    t = times(0.9)
    octaves = 2 * np.exp(-t / 0.02) + drift_cents / 1200 * np.exp(-t / drift_s)
    phase = 2 * np.pi * np.cumsum(hz * 2**octaves) / RATE
    tone = np.sin(phase) * np.exp(-t / 0.22) + 0.3 * np.sin(3 * phase) * np.exp(-t / 0.15)
    click = 0.3 * np.exp(-t / 0.001) * np.sin(2 * np.pi * 3000 * t)
    fade = np.minimum(1, (0.9 - t) / 0.02)
    return np.asarray((tone + click) * fade)


def _strongest_hz(x: Array, from_s: float = 0.3) -> float:
    """Where the spectrum of the tail is highest: not what the product measures by."""
    piece = x[round(from_s * RATE) :]
    level = np.log(np.abs(np.fft.rfft(piece * np.hanning(piece.size), 2**20)))
    at = int(np.argmax(level))
    a, b, c = level[at - 1 : at + 2]
    return float((at + 0.5 * (a - c) / (a - 2 * b + c)) * RATE / 2**20)


def _contour_db(x: Array) -> Array:
    pieces = x[: x.size // 2400 * 2400].reshape(-1, 2400)[1:14]
    return np.asarray(10 * np.log10(np.mean(pieces**2, axis=1)))


@pytest.mark.parametrize("semitones", [-7.0, -2.0, -0.31, 0.5, 3.0, 7.0])
@pytest.mark.parametrize("spare_ms", [0.0, 70.0])
def test_the_length_is_kept_and_the_note_is_met(semitones: float, spare_ms: float) -> None:
    x = _kick()
    y = retuned(x, RATE, semitones, keep_length=True, straighten=False, spare_ms=spare_ms)
    assert y.shape == x.shape
    cents = 1200 * np.log2(_strongest_hz(y) / _strongest_hz(x))
    assert cents == pytest.approx(100 * semitones, abs=1.0)
    measured = measure(y, RATE).hit.fundamental_hz
    assert measured is not None
    assert 1200 * np.log2(measured / 55) == pytest.approx(100 * semitones, abs=1.0)
    # The same decay, and no seam: no step larger than the higher of the two tones makes.
    assert np.max(np.abs(_contour_db(y) - _contour_db(x))) < 1.5
    later = slice(round(0.1 * RATE), None)
    assert np.max(np.abs(np.diff(y[later]))) < 1.2 * max(1, 2 ** (semitones / 12)) * np.max(
        np.abs(np.diff(x[later]))
    )
    if spare_ms:
        untouched = round(0.06 * RATE)
        assert np.array_equal(y[:untouched], x[:untouched])


def test_a_phase_vocoder_does_worse_on_the_same_hit() -> None:
    # Peer: librosa.effects.pitch_shift (phase vocoder and resampling), as it is.
    x = _kick()
    theirs = librosa.effects.pitch_shift(x, sr=RATE, n_steps=-2.0)
    ours = retuned(x, RATE, -2.0, keep_length=True, straighten=False, spare_ms=0.0)
    off = [abs(1200 * np.log2(_strongest_hz(y) / _strongest_hz(x)) + 200) for y in (ours, theirs)]
    assert off[0] < off[1]
    # The first wave is where it was: within 5 ms most of the click's energy.
    early = [float(np.sum(y[:240] ** 2) / np.sum(x[:240] ** 2)) for y in (ours, theirs)]
    assert abs(np.log(early[0])) < abs(np.log(early[1]))


@pytest.mark.parametrize("channels", [1, 2])
def test_a_drifting_tail_is_held(channels: int) -> None:
    x = _kick(49.0, drift_cents=60.0)
    given = x if channels == 1 else np.stack([x, 0.5 * x], axis=1)
    y = retuned(given, RATE, 0.0, keep_length=False, straighten=True, spare_ms=0.0)
    heard = y if channels == 1 else y[:, 0]
    if channels == 2:
        assert y[:, 1] == pytest.approx(0.5 * y[:, 0], abs=1e-9)

    def drift(z: Array) -> float:
        a, b = (_strongest_hz(z[round(at * RATE) : round((at + 0.2) * RATE)], 0.0) for at in (0.15, 0.6))
        return float(1200 * np.log2(a / b))

    assert drift(x) > 20
    assert abs(drift(heard)) < 0.25 * drift(x)


def test_what_has_no_tone_is_resampled_in_any_case() -> None:
    x = noise(0.3)
    y = retuned(x, RATE, -12.0, keep_length=True, straighten=True, spare_ms=20.0)
    assert y.size == pytest.approx(2 * x.size, abs=2)


def test_the_partials_of_a_membrane_are_listed_by_the_books_ratios() -> None:
    # Fletcher & Rossing, The Physics of Musical Instruments: ratios of an ideal membrane.
    t = times(0.8)
    x = sum(
        np.sin(2 * np.pi * 140.0 * ratio * t + n) * np.exp(-t / 0.2) / (1 + 0.3 * n)
        for n, ratio in enumerate(BOOK)
    )
    found = partials(np.asarray(x), RATE, 0.0)
    assert [one.ratio for one in found] == pytest.approx(BOOK, rel=2e-3)
    assert [one.harmonic for one in found] == [True, *([False] * 5)]
    assert max(one.level_db for one in found) == 0.0
    assert found[0].note == "C#3"
    assert found[0].cents == pytest.approx(1200 * np.log2(140 / 138.591), abs=3)


def test_noise_has_no_partials_and_a_driven_sine_has_harmonic_ones() -> None:
    assert partials(noise(0.6), RATE, 0.0) == []
    assert partials(np.zeros(4000), RATE, 0.0) == []
    found = partials(np.tanh(3 * sine(60, 0.6)), RATE, 0.0)
    assert [round(one.ratio) for one in found][:3] == [1, 3, 5]
    assert all(one.harmonic for one in found)
