"""A line's notes one by one, as a hand plays them."""

import numpy as np
import pytest

from juglant.core.errors import UserError
from juglant.core.lowend.byhand import one_note
from juglant.core.lowend.session import Session
from juglant.core.measure.stereo import listening_channel
from juglant.core.music import midi_to_hz
from juglant.core.recipes.bass import BassRecipe
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.hit import Hit, Made808
from juglant.core.recipes.parts import MadeBass, PlayedBass, RumbleBass
from juglant.core.recipes.track import TrackState
from tests.signals import RATE, Array, times

SESSION = Session()
MADE = TrackState.of(brief=Brief(bpm=120.0), bass=MadeBass(recipe=BassRecipe(wave=0.0, drive_db=0.0)))
PLAYED = TrackState.of(brief=Brief(bpm=120.0), bass=PlayedBass(hit=Hit.of(Made808())))


def _level(x: Array, hz: float) -> float:
    """The amplitude of a sound at a frequency."""
    return float(np.abs(np.mean(x * np.hanning(x.size) * np.exp(-2j * np.pi * hz * times(x.size / RATE)))))


@pytest.mark.parametrize("state", [MADE, PLAYED], ids=["made", "played by an 808"])
@pytest.mark.parametrize("midi", [24, 33, 46])
def test_a_key_sounds_its_note(state: TrackState, midi: int) -> None:
    x = listening_channel(one_note(SESSION, state, state.voices[0].id, midi, 1.0))
    # Equal temperament from A4 = 440 Hz (ISO 16:1975).
    hz = 440 * 2 ** ((midi - 69) / 12)
    assert midi_to_hz(midi) == pytest.approx(hz)
    there = x[round(0.4 * RATE) : round(1.2 * RATE)]
    assert _level(there, hz) > 10 * _level(there, 1.2 * hz)


def test_a_softer_key_is_softer_and_a_note_ends() -> None:
    line = MADE.voices[0].id
    hard, soft = (one_note(SESSION, MADE, line, 33, velocity) for velocity in (1.0, 0.25))
    assert np.abs(soft).max() == pytest.approx(0.25 * np.abs(hard).max(), rel=0.01)
    # Held through the first of two bars of 2 s.
    assert np.abs(hard[round(3.5 * RATE) :]).max() < 1e-3 * np.abs(hard).max()


def test_what_has_no_such_note_says_so() -> None:
    line = MADE.voices[0].id
    assert one_note(SESSION, MADE, line, 83, 1.0).any()
    with pytest.raises(UserError, match="it has no C6"):
        one_note(SESSION, MADE, line, 84, 1.0)
    rumble = TrackState.of(bass=RumbleBass())
    with pytest.raises(UserError, match="no notes of its own"):
        one_note(SESSION, rumble, rumble.voices[0].id, 33, 1.0)
