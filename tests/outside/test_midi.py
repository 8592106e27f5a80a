"""MIDI files as two independent libraries read them (Standard MIDI Files 1.0)."""

import io

import mido
import pretty_midi
import pytest

from juglant.core import music
from juglant.core.errors import UserError
from juglant.core.lowend.fitting import fitted
from juglant.core.recipes.bass import PATTERNS, BassRecipe
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.hit import Hit, MadeHat
from juglant.core.recipes.notes import HitStep, Note, on_beats
from juglant.core.recipes.parts import MadeBass
from juglant.core.recipes.track import TrackState
from juglant.core.synth.bass import notes
from juglant.files.midi import GHOST_KEY, key_signature, read_midi
from tests.files_made import midi_of
from tests.tracks import changed

PATTERN = (
    Note(at=0, beats=0.45, semitones=0), Note(at=0.75, beats=0.225, semitones=12, velocity=0.5),
    Note(at=4 / 3, beats=1 / 3, semitones=7), Note(at=3.25, beats=0.7, semitones=-5, velocity=0.25),
)  # fmt: skip


def _state(swing: float = 58.0) -> TrackState:
    return TrackState.of(
        brief=Brief(
            bpm=127.3, tonic="Bb", mode="minor", chord_roots=("Bb", "Gb"), swing_percent=swing,
        ),
        kick=Hit(steps=on_beats(1, 2.25, 4)),
        hits=(Hit.of(MadeHat(), name="Häcksel", kind="hat", steps=(HitStep(at=0.25, velocity=0.4),)),),
        bass=MadeBass(recipe=BassRecipe(pattern=PATTERN)),
    )  # fmt: skip


def test_two_libraries_read_the_same_notes_at_the_same_times() -> None:
    state = _state()
    data = midi_of("Probe", state)
    theirs = pretty_midi.PrettyMIDI(io.BytesIO(data))
    ours = read_midi(data, "probe.mid")
    assert theirs.get_tempo_changes()[1][0] == pytest.approx(127.3, abs=1e-3)
    assert ours.bpm == pytest.approx(127.3, abs=1e-3)
    by_name = {track.name: track for track in ours.tracks}
    assert list(by_name) == ["Kick", "Häcksel", "Bass", "Ghost trigger"]
    beat_s = 60 / 127.3
    for instrument in theirs.instruments:
        # It takes every name for Latin-1; they are written in UTF-8.
        mine = by_name[instrument.name.encode("latin-1").decode()]
        assert instrument.is_drum == mine.drums
        read = sorted((note.start, note.end, note.pitch) for note in instrument.notes)
        assert [midi for _, _, midi in read] == [note.midi for note in mine.notes]
        for (start, end, _), note in zip(read, mine.notes, strict=True):
            assert start == pytest.approx(note.at * beat_s, abs=1e-3)
            assert end == pytest.approx((note.at + note.beats) * beat_s, abs=1e-3)
    bass = next(one for one in theirs.instruments if one.name == "Bass")
    played = notes(state.bass.recipe, state.brief)  # type: ignore[union-attr]
    for note, one in zip(sorted(bass.notes, key=lambda n: n.start), played, strict=True):
        assert 1000 * note.start == pytest.approx(one.start_ms, abs=1.0)
        assert 1000 * (note.end - note.start) == pytest.approx(one.length_ms, abs=2.0)
        assert note.pitch == one.midi
        assert note.velocity == round(127 * one.velocity)
    assert {note.midi for note in by_name["Ghost trigger"].notes} == {GHOST_KEY}
    assert [note.at for note in by_name["Ghost trigger"].notes] == [
        note.at for note in by_name["Kick"].notes
    ]


@pytest.mark.parametrize("swing", [50.0, 54.0, 58.0, 66.5])
@pytest.mark.parametrize("name", [*PATTERNS, "own"])
def test_lengths_and_swing_survive_a_round_trip(name: str, swing: float) -> None:
    pattern = PATTERNS.get(name) or tuple(note for note in PATTERN if note.at != 4 / 3)
    state = _state(swing)
    state = changed(state, bass=MadeBass(recipe=BassRecipe(pattern=pattern)))
    read = read_midi(midi_of("Probe", state), "probe.mid")
    line = next(track for track in read.tracks if track.name == "Bass")
    found = fitted(line.notes, state.brief)
    assert (found.octave, found.bars, found.said) == (1, 1, [])
    swings = any(round(note.at * 4) % 2 for note in pattern)
    assert found.swing_percent == (swing if swings else 50.0)
    for note, was in zip(found.pattern, pattern, strict=True):
        assert (note.at, note.semitones) == (was.at, was.semitones)
        assert note.beats == pytest.approx(was.beats, abs=0.051)
        assert note.velocity == pytest.approx(was.velocity, abs=0.005)


@pytest.mark.parametrize("mode", list(music.SCALES))
@pytest.mark.parametrize("tonic", music.TONICS)
def test_every_key_has_a_signature_with_its_notes(tonic: str, mode: str) -> None:
    key = music.Key(tonic, mode)
    name = key_signature(key)
    # mido refuses a signature that no MIDI file can hold.
    message = mido.MetaMessage("key_signature", key=name)
    number = pretty_midi.key_name_to_key_number(
        name.removesuffix("m") + (" minor" if name.endswith("m") else " Major")
    )
    tonic_class, minor = number % 12, number >= 12
    natural = music.SCALES["minor" if minor else "major"]
    signed = {(tonic_class + step) % 12 for step in natural}
    # Harmonic and melodic minor raise notes with accidentals, not with the signature.
    raised = {"harmonic minor": 1, "melodic minor": 2}.get(mode, 0)
    assert len(set(key.classes) - signed) == raised
    assert message.key == name


def _file(*tracks: mido.MidiTrack, ticks: int = 96) -> bytes:
    file = mido.MidiFile(type=1, ticks_per_beat=ticks)
    file.tracks.extend(tracks)
    out = io.BytesIO()
    file.save(file=out)
    return out.getvalue()


def _on(note: int, time: int = 0, velocity: int = 100) -> mido.Message:
    return mido.Message("note_on", note=note, velocity=velocity, time=time)


def test_odd_files_are_read_as_far_as_they_make_sense() -> None:
    # No tempo, other ticks, an overlap, a zero-length note, one that is never ended.
    track = mido.MidiTrack(
        [_on(40), _on(43, 48), _on(40, 48, 0), _on(43, 0, 0), _on(45, 96), _on(45, 0, 0), _on(47, 96)]
    )
    found = read_midi(_file(track), "odd.mid")
    assert found.bpm is None
    assert [(note.at, note.beats, note.midi) for note in found.tracks[0].notes] == [
        (0.0, 1.0, 40), (0.5, 0.5, 43), (2.0, 0.0, 45), (3.0, 0.25, 47),
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"", "not a standard MIDI file"),
        (b"play a low note please", "not a standard MIDI file"),
        (b"RIFF\x00\x00\x00\x00WAVEfmt ", "not a standard MIDI file"),
        (midi_of("x", _state())[:60], "not a standard MIDI file|holds no notes"),
        (_file(mido.MidiTrack()), "holds no notes"),
        (_file(mido.MidiTrack([_on(40, 1) for _ in range(10_001)])), "10001 notes"),
        (b"\x00" * (4 * 1024 * 1024 + 1), "4 MB"),
        (_file(mido.MidiTrack([_on(40)]), ticks=0xE728 - 0x10000), "film frames|not a standard"),
    ],
)
def test_what_is_no_line_is_refused_in_a_sentence(data: bytes, said: str) -> None:
    with pytest.raises(UserError, match=said):
        read_midi(data, "bad.mid")


def test_ten_thousand_notes_are_read_and_four_bars_of_them_taken() -> None:
    track = mido.MidiTrack([message for _ in range(5000) for message in (_on(36, 24), _on(36, 12, 0))])
    found = read_midi(_file(track), "long.mid")
    line = fitted(found.tracks[0].notes, Brief(chord_roots=("C",)))
    assert len(line.pattern) <= 96
    assert any("were left out" in said for said in line.said)
