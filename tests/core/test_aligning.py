"""Parts of the loop brought in time and polarity with each other."""

import numpy as np
import pytest
from scipy import signal

from juglant.core.errors import UserError
from juglant.core.lowend.aligning import align_parts, common_band_hz, lag_of
from juglant.core.lowend.session import Session
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.parts import Stem
from juglant.core.recipes.place import Place
from juglant.core.recipes.track import TrackState
from tests.signals import RATE, Array, noise, sine

FRAMES = 2 * RATE


def _line(low_hz: float = 55.0) -> Array:
    """A bass of eighths with harmonics, two seconds of it."""
    time = np.arange(FRAMES) / RATE
    hz = np.repeat(low_hz * 2 ** (np.array([0, 0, 3, 5, 0, 7, 5, 3]) / 12), FRAMES // 8)
    phase = 2 * np.pi * np.cumsum(hz) / RATE
    envelope = np.exp(-4 * (time % 0.25) / 0.25)
    return np.asarray(0.4 * envelope * sum(np.sin(k * phase) / k for k in range(1, 12)))


def _delayed(x: Array, ms: float) -> Array:
    """A loop later by any time, by the phase of its spectrum."""
    turn = np.exp(-2j * np.pi * np.fft.rfftfreq(x.size, 1 / RATE) * ms / 1000)
    return np.asarray(np.fft.irfft(np.fft.rfft(x) * turn, x.size))


def _amp(x: Array) -> Array:
    """As a microphone before an amplifier hears it: driven, a band of it, and some noise."""
    sections = signal.butter(2, (90, 4000), "bandpass", fs=RATE, output="sos")
    twice = signal.sosfilt(sections, np.tile(np.tanh(3 * x), 2))
    return np.asarray(twice[x.size :] + 0.01 * noise(2.0))


@pytest.mark.parametrize("late_ms", [-6.3, -0.31, 0.0, 1.6, 9.27])
@pytest.mark.parametrize("sign", [1.0, -1.0])
def test_an_inverted_late_copy_is_found(late_ms: float, sign: float) -> None:
    """Within 0.2 ms, whichever copy it is: plain, an octave of it left out, driven with noise."""
    x = _line()
    high = signal.sosfiltfilt(signal.butter(2, 250, "highpass", fs=RATE, output="sos"), x)
    for copy in (x, 0.2 * high, x + 0.05 * noise(2.0)):
        y = sign * _delayed(copy, late_ms)
        band = common_band_hz(x, y, RATE)
        assert band is not None
        lag, common = lag_of(x, y, RATE, band, 40.0)
        assert lag == pytest.approx(-late_ms, abs=0.2)
        assert np.sign(common) == sign
        assert abs(common) > 0.5


FILES = {
    "a" * 64: _line(), "b" * 64: -_delayed(_line(), 1.6), "c" * 64: _delayed(_amp(_line()), 3.0),
    "d" * 64: sine(5000.0, 2.0), "e" * 64: _delayed(_line(), 30.0),
}  # fmt: skip
SESSION = Session(lambda digest: (FILES[digest], RATE))


def _state(second: str, **place: object) -> TrackState:
    stems = (
        Stem(id="first", name="First", audio="a" * 64),
        Stem(id="second", name="Second", audio=second * 64, place=Place.model_validate(place)),
    )
    return TrackState.of(brief=Brief(bpm=120.0, chord_roots=("tonic",)), stems=stems)


def test_a_part_joins_another_by_its_place_and_is_louder_by_what_is_said() -> None:
    state = _state("b")
    found = align_parts(SESSION, state, "second", "first")
    assert found.delay_ms == pytest.approx(-1.6, abs=0.2)
    assert found.polarity == "inverted"
    assert found.in_common > 0.95
    moved = _state("b", delay_ms=found.delay_ms, polarity=found.polarity)
    sums = []
    for one in (state, moved):
        first, second = (SESSION.parts.part(one, id) for id in ("first", "second"))
        assert first is not None
        assert second is not None
        sums.append(first.mono + second.mono)
    louder = 20 * np.log10(np.std(sums[1]) / np.std(sums[0]))
    assert louder == pytest.approx(found.gain_db, abs=1.0)
    # Once it is there it stays there, and what is inverted already is turned back.
    again = align_parts(SESSION, moved, "second", "first")
    assert again.delay_ms == pytest.approx(found.delay_ms, abs=0.02)
    assert again.polarity == "inverted"
    assert again.gain_db == pytest.approx(0.0, abs=0.05)


def test_an_amplifier_is_brought_to_the_line_that_it_plays() -> None:
    found = align_parts(SESSION, _state("c"), "second", "first")
    # Its filters turn the lowest partials by some more ms than it comes late.
    assert -6.0 < found.delay_ms < -2.0
    assert found.band_hz[0] < 120
    assert found.gain_db > 0.5


@pytest.mark.parametrize(
    ("second", "against", "said"),
    [
        ("d", "first", "nothing in common"),
        ("e", "first", "would have to move by -30"),
        ("b", "second", "itself"),
    ],
)
def test_what_cannot_be_aligned_is_refused_with_its_reason(second: str, against: str, said: str) -> None:
    with pytest.raises(UserError, match=said):
        align_parts(SESSION, _state(second), "second", against)
