"""Note names and frequencies against ISO 16:1975 and librosa."""

import librosa
import pytest
from hypothesis import given
from hypothesis import strategies as st

from juglant.core import music


@pytest.mark.parametrize(
    ("note", "hz"),
    # Twelve-tone equal temperament over A4 = 440 Hz (ISO 16:1975), values from memory.
    [("E1", 41.203), ("F1", 43.654), ("G1", 48.999), ("A1", 55.0), ("C2", 65.406), ("E2", 82.407)],
)
def test_low_notes_have_their_published_frequencies(note: str, hz: float) -> None:
    assert music.midi_to_hz(music.note_to_midi(note)) == pytest.approx(hz, abs=0.0006)


@given(st.integers(0, 127), st.floats(415, 466))
def test_every_midi_note_is_where_librosa_puts_it(midi: int, a4_hz: float) -> None:
    # librosa.midi_to_hz knows only A4 = 440 Hz: all others are in proportion.
    expected = float(librosa.midi_to_hz(midi)) * a4_hz / 440
    assert music.midi_to_hz(midi, a4_hz) == pytest.approx(expected, rel=1e-12)


@given(st.sampled_from("CDEFGAB"), st.sampled_from(["", "#", "b"]), st.integers(0, 7))
def test_names_are_read_as_librosa_reads_them(letter: str, accidental: str, octave: int) -> None:
    name = f"{letter}{accidental}{octave}"
    assert music.note_to_midi(name) == int(librosa.note_to_midi(name))


@pytest.mark.parametrize(
    "mode", ["major", "minor", "dorian", "phrygian", "lydian", "mixolydian", "locrian"]
)
@pytest.mark.parametrize("tonic", ["C", "G", "D", "A", "E", "F", "Bb", "Eb", "F#"])
def test_keys_hold_the_degrees_that_librosa_gives(tonic: str, mode: str) -> None:
    degrees = librosa.key_to_degrees(f"{tonic}:{mode}")
    assert sorted(music.Key(tonic, mode).classes) == sorted(int(d) for d in degrees)
