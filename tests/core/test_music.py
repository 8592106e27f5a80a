"""Keys, note values and nearest notes, by their properties."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from juglant.core import music, tempo
from juglant.core.errors import UserError

HZ = st.floats(20, 2000)
KEYS = st.builds(music.Key, st.sampled_from(music.TONICS), st.sampled_from(list(music.SCALES)))


@given(HZ, st.floats(415, 466))
def test_the_nearest_note_is_within_half_a_semitone_and_adds_up(hz: float, a4_hz: float) -> None:
    found = music.nearest_note(hz, a4_hz)
    assert -50.0 <= found.cents <= 50.0
    back = music.midi_to_hz(found.midi + found.cents / 100, a4_hz)
    assert back == pytest.approx(hz, rel=1e-9)
    assert music.note_to_midi(found.note) == found.midi


@given(st.integers(12, 127), st.booleans())
def test_names_read_back_as_the_note_they_name(midi: int, flats: bool) -> None:
    assert music.note_to_midi(music.note_name(midi, flats)) == midi


@given(KEYS)
def test_a_key_has_seven_notes_and_reads_back(key: music.Key) -> None:
    assert len(set(key.classes)) == 7
    assert key.classes[0] == music.pitch_class(key.tonic)
    assert music.parse_key(str(key)) == key


@given(KEYS, st.floats(415, 466))
def test_the_low_notes_of_a_key_lie_in_range_and_miss_none(key: music.Key, a4_hz: float) -> None:
    found = music.notes_of_key(key, 25, 130, a4_hz)
    assert all(25 <= music.midi_to_hz(midi, a4_hz) + 1e-6 <= 130.001 for midi in found)
    wanted = [m for m in range(128) if 25 <= music.midi_to_hz(m, a4_hz) <= 130 and m % 12 in key.classes]
    assert found == wanted


@given(st.floats(40, 220), st.sampled_from(list(tempo.NOTE_VALUES)))
def test_a_note_value_is_its_own_nearest(bpm: float, value: str) -> None:
    near = tempo.nearest_note_value(tempo.note_value_ms(value, bpm), bpm)
    assert near.value == value
    assert near.difference_ms == pytest.approx(0.0, abs=1e-6)


@given(st.floats(5, 3000), st.floats(40, 220))
def test_the_difference_leads_from_the_nearest_value_back_to_the_time(ms: float, bpm: float) -> None:
    near = tempo.nearest_note_value(ms, bpm)
    assert tempo.note_value_ms(near.value, bpm) + near.difference_ms == pytest.approx(ms)
    others = [abs(math.log(ms / tempo.note_value_ms(v, bpm))) for v in tempo.NOTE_VALUES]
    assert abs(math.log(ms / tempo.note_value_ms(near.value, bpm))) == pytest.approx(min(others))


def test_a_beat_at_120_lasts_half_a_second_and_dotted_and_triplet_follow() -> None:
    assert tempo.beat_ms(120) == 500
    assert tempo.note_value_ms("1/8.", 120) == 375
    assert tempo.note_value_ms("1/8t", 120) == pytest.approx(500 / 3)
    assert tempo.note_value_ms("1/2", 120) == 1000


@pytest.mark.parametrize("text", ["", "H minor", "C blue", "A1 minor", "minor", "🙂"])
def test_what_is_no_key_is_told_so_by_name(text: str) -> None:
    with pytest.raises(UserError, match="is not a key"):
        music.parse_key(text)


@pytest.mark.parametrize("text", ["", "A", "H1", "A#", "C99", "1A", "A##1"])
def test_what_is_no_note_is_told_so(text: str) -> None:
    with pytest.raises(UserError, match="note"):
        music.note_to_midi(text)


def test_keys_are_spelled_as_they_are_written() -> None:
    assert music.parse_key("b♭ minor").flats
    assert not music.Key("B", "minor").flats
    assert music.Key("C", "minor").flats
    assert music.note_name(34, flats=music.Key("Bb", "minor").flats) == "Bb1"
    assert music.note_name(34, flats=music.Key("A#", "minor").flats) == "A#1"


@pytest.mark.parametrize("bpm", [61.0, 124.5, 174.0])
def test_a_tempo_is_tapped(bpm: float) -> None:
    beat = 60_000 / bpm
    # A hand is some 12 ms early or late.
    off = (3.0, -9.0, 12.0, -4.0, 7.0, -12.0, 2.0, 5.0)
    taps = [500.0 + n * beat + late for n, late in enumerate(off)]
    assert tempo.tapped_bpm(taps) == pytest.approx(bpm, rel=0.01)
    assert tempo.tapped_bpm([n * beat for n in range(16)]) == round(bpm, 1)
    # A beat that was left out is no slower tempo.
    assert tempo.tapped_bpm([n * beat for n in (0, 1, 2, 4, 5, 6)]) == pytest.approx(bpm, abs=0.06)


@pytest.mark.parametrize(
    "taps", [[], [0.0, 500.0, 1000.0], [0.0, 0.0, 0.0, 0.0], [0.0, 500.0, 520.0, 1000.0]]
)
def test_what_keeps_no_beat_is_no_tempo(taps: list[float]) -> None:
    with pytest.raises(UserError, match=r"Tap four|one after another|keep no beat"):
        tempo.tapped_bpm(taps)


@pytest.mark.parametrize(
    ("text", "midi", "note_class"),
    [("G1", 31, None), (" A#0 ", 22, None), ("f#", None, 6), ("Cb", None, 11), ("B♭", None, 10)],
)
def test_a_note_is_looked_for_in_its_octave_or_in_any(
    text: str, midi: int | None, note_class: int | None
) -> None:
    assert music.parse_note(text) == (midi, note_class)


@pytest.mark.parametrize("text", ["H1", "", "G9999", "G11", "1"])
def test_what_is_no_note_is_refused(text: str) -> None:
    with pytest.raises(UserError, match="is no note"):
        music.parse_note(text)
