"""The arithmetic of moves, whatever the hit."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from juglant.core import music
from juglant.core.lowend import tuning

KEYS = st.builds(music.Key, st.sampled_from(music.TONICS), st.sampled_from(list(music.SCALES)))


@given(st.floats(28, 200), KEYS, st.floats(415, 466), st.booleans())
def test_every_move_leads_to_a_note_of_the_key(
    hz: float, key: music.Key, a4_hz: float, resampled: bool
) -> None:
    found = tuning.moves(hz, 500.0, tuning.Harmony(key, a4_hz=a4_hz), resampled=resampled)
    assert found
    for move in found:
        assert move.midi % 12 in key.classes
        assert hz * 2 ** (move.shift_semitones / 12) == pytest.approx(move.hz)
        assert move.shift_cents == pytest.approx(100 * move.shift_semitones)
        assert abs(move.shift_semitones) <= tuning.FURTHEST_SEMITONES + 1e-9
        assert music.note_to_midi(move.note) == move.midi
    # No key leaves more than three semitones between neighbours: half of it is the most.
    assert abs(found[0].shift_semitones) <= 1.5 + 1e-9
    assert sum(move.is_tonic for move in found) >= 1


@given(st.floats(28, 200), st.floats(50, 2000), KEYS)
def test_what_is_resampled_grows_as_it_goes_down(hz: float, length_ms: float, key: music.Key) -> None:
    for move in tuning.moves(hz, length_ms, tuning.Harmony(key), resampled=True):
        assert move.new_length_ms * move.hz == pytest.approx(length_ms * hz)
        if move.shift_cents < -1:
            assert move.new_length_ms > length_ms
    for move in tuning.moves(hz, length_ms, tuning.Harmony(key), resampled=False):
        assert move.new_length_ms == length_ms
