"""A bass that is a file has notes: they are judged and written like those of a pattern."""

import io

import mido
import numpy as np
import pytest

from bench.tracks import Track, ducked, hz_of, line
from juglant.core.findings import findings
from juglant.core.findings.judge import effect
from juglant.core.lowend.linenotes import line_notes
from juglant.core.lowend.loop import fitted_loop
from juglant.core.lowend.session import Session
from juglant.core.lowend.voices import spills, voices
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.parts import ImportedBass, Voice
from juglant.core.recipes.track import TrackState
from tests.files_made import midi_of
from tests.signals import RATE, noise
from tests.tracks import changed

BPM = 120.0
# Beat, beats, note number, level in dB: the fifth lies on a kick's heels.
NOTES = [
    (0.5, 0.4, 33, 0.0),
    (1.5, 0.4, 33, -6.0),
    (2.5, 0.9, 40, 0.0),
    (4.02, 0.5, 38, -3.0),
    (6.5, 1.0, 33, 0.0),
]


def _track(notes: list[tuple[float, float, int, float]] = NOTES, kind: str = "saw") -> Track:
    x = sum(
        (line([(at, beats, midi)], BPM, 2, kind, 0.4) * 10 ** (db / 20) for at, beats, midi, db in notes),
        np.zeros(round(8 * 60 / BPM * RATE)),
    )
    track = Track("file", TrackState())
    bass = ImportedBass(audio=track.keep(np.asarray(x)), name="bass.wav")
    track.state = TrackState.of(brief=Brief(bpm=BPM, sub_owner="bass"), bass=bass, ducking=False)
    return track


TRACK = _track()
SESSION = Session(TRACK.load)


def test_every_note_of_a_file_has_its_level_its_pitch_and_its_place_to_the_kick() -> None:
    found = voices(SESSION, TRACK.state).notes
    assert [one.note_midi for one in found] == [midi for *_, midi, _ in NOTES]
    for one, (at, beats, _, _) in zip(found, NOTES, strict=True):
        assert one.start_ms == pytest.approx(at * 500, abs=10)
        assert one.length_ms == pytest.approx(beats * 500, abs=40)
        assert abs(one.cents) < 10
    # The second is 6 dB softer than the first, and would be brought up by as much against it.
    assert found[0].low_db - found[1].low_db == pytest.approx(6.0, abs=0.5)
    assert found[1].trim_db - found[0].trim_db == pytest.approx(6.0, abs=0.5)
    assert [one.timing for one in found][:4] == ["between kicks"] * 3 + ["just after the kick"]


def test_the_notes_of_a_file_go_out_as_midi() -> None:
    file = mido.MidiFile(file=io.BytesIO(midi_of("x", TRACK.state, TRACK.load)))
    [bass] = [one for one in file.tracks if one.name == "Bass"]
    at, notes = 0, []
    for message in bass:
        at += message.time
        if message.type == "note_on" and message.velocity > 0:
            notes.append((at / file.ticks_per_beat, message.note, message.velocity))
    assert [note for _, note, _ in notes] == [midi for *_, midi, _ in NOTES]
    assert [beat for beat, *_ in notes] == pytest.approx([at for at, *_ in NOTES], abs=0.02)
    assert notes[1][2] < notes[0][2]


def test_what_a_file_plays_spills_into_another_line() -> None:
    long = _track([(0.5, 2.0, 33, 0.0), (4.5, 0.4, 33, 0.0)], "sub")
    other = line([(1.5, 0.9, 35), (5.5, 0.9, 35)], BPM, 2, "sub", 0.4)
    second = Voice(name="second", bass=ImportedBass(audio=long.keep(other), name="second.wav"))
    state = changed(long.state, lines=(second,))
    session = Session(long.load)
    worst = next(one for one in spills(session, session.answer(state)) if one.new == "second")
    assert worst.old == "bass"
    assert worst.at_ms == pytest.approx(750, abs=12)
    assert worst.wobble_hz == pytest.approx(hz_of(35) - hz_of(33), abs=0.3)


@pytest.mark.parametrize(("second", "begin"), [(33, [250]), (36, [250, 1035])])
def test_a_note_of_a_file_that_comes_back_after_a_kick_does_not_begin_there(
    second: int, begin: list[float]
) -> None:
    """Ducked for every kick in the file; a second note that lies elsewhere does begin after one."""
    x = line([(0.5, 1.52, 33), (2.07, 1.9, second)], BPM, 2, "sub", 0.4)
    track = Track("ducked", TrackState())
    x = ducked(x, BPM, [float(n) for n in range(8)], 18.0, 90.0)
    bass = ImportedBass(audio=track.keep(x), name="bass.wav")
    state = TrackState.of(brief=Brief(bpm=BPM, sub_owner="bass"), bass=bass, ducking=False)
    session = Session(track.load)
    assert len(line_notes(session.sounds, state, state.voices[0])) > 2
    spilt = [one for one in spills(session, session.answer(state)) if one.new == "bass"]
    assert sorted(one.at_ms for one in spilt) == pytest.approx(begin, abs=20)


def test_a_part_of_a_mix_has_no_notes() -> None:
    track = _track()
    x = track.load(track.state.bass.audio)[0] + 0.5 * noise(4.0)  # type: ignore[union-attr]
    bass = ImportedBass(audio=track.keep(x), name="mix.wav")
    state = changed(track.state, bass=bass)
    assert line_notes(Session(track.load).sounds, state, state.voices[0]) == []


@pytest.mark.thorough
@pytest.mark.parametrize("more_s", [0.0, 0.5])
def test_a_loop_that_begins_late_is_begun_where_it_sounds(more_s: float) -> None:
    """14 ms of a bounce's delay in front; its end is cut off, or there after all."""
    track = _track([(0.0, 0.4, 33, 0.0), (2.0, 0.4, 36, 0.0)])
    x = track.load(track.state.bass.audio)[0]  # type: ignore[union-attr]
    late = np.concatenate([np.zeros(round(0.014 * RATE)), x, np.zeros(RATE)])
    bass = ImportedBass(audio=track.keep(late[: x.size + round(more_s * RATE)]), name="late.wav")
    state = changed(track.state, bass=bass)
    session = Session(track.load)
    [found] = [
        one for one in findings(session, session.answer(state)) if one.id.startswith("leading-silence")
    ]
    assert found.value == pytest.approx(14.0, abs=0.5)
    mended = effect(session, session.answer(state), found.id)
    assert found.id in mended.closes
    assert not mended.opens
    [start] = [voice.bass.begin_ms for voice in mended.state.voices]  # type: ignore[union-attr]
    assert start == pytest.approx(13.7, abs=0.5)
    assert line_notes(session.sounds, mended.state, mended.state.voices[0])[0].start_ms == pytest.approx(
        0, abs=3
    )


def test_a_start_turns_a_loop_and_cuts_a_longer_file() -> None:
    ramp = np.arange(10.0)
    assert fitted_loop(ramp, 0.0, 4, 1000).tolist() == [0, 1, 2, 3]
    assert fitted_loop(ramp, 3.0, 4, 1000).tolist() == [3, 4, 5, 6]
    assert fitted_loop(ramp[:4], 1.0, 4, 1000).tolist() == [1, 2, 3, 0]
    assert fitted_loop(ramp[:2], 1.0, 4, 1000).tolist() == [1, 0, 1, 0]
    wide = np.stack([ramp, -ramp], axis=1)
    assert fitted_loop(wide, 3.0, 4, 1000).tolist() == [[3, -3], [4, -4], [5, -5], [6, -6]]
