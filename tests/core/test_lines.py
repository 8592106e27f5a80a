"""Several lines at once: sub, mid and 808, each with a mute."""

import io

import mido
import numpy as np
import pytest
from pydantic import ValidationError

from juglant.core.findings.fixes import choke, lower
from juglant.core.findings.judge import findings
from juglant.core.lowend.line import line_of
from juglant.core.lowend.session import Session
from juglant.core.lowend.voices import evened, voices
from juglant.core.recipes.bass import BassRecipe
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.notes import Note
from juglant.core.recipes.parts import MadeBass, Voice
from juglant.core.recipes.track import TrackState
from juglant.files.sheet import track_sheet
from tests.files_made import midi_of
from tests.signals import RATE
from tests.tracks import changed

SESSION = Session()
MID = Voice(
    name="mid",
    bass=MadeBass(
        recipe=BassRecipe(
            octave=3,
            pattern=(Note(at=0.5, beats=0.5), Note(at=1.5, beats=0.5, velocity=0.25)),
            highpass_hz=20.0,
        )
    ),
)
TWO = TrackState.of(lines=(MID,))


def _muted(first: bool, second: bool) -> TrackState:
    return changed(TWO, bass_mute=first, lines=(MID.model_copy(update={"mute": second}),))


def test_lines_sound_together_and_each_can_be_muted() -> None:
    both, bass, mid, none = (SESSION.parts.bass_loop(_muted(*m)).samples for m in
                             ((False, False), (False, True), (True, False), (True, True)))  # fmt: skip
    assert np.allclose(both, bass + mid, rtol=1e-6, atol=1e-12)
    assert np.array_equal(bass, SESSION.parts.bass_loop(TrackState()).samples)
    assert np.any(mid)
    assert not np.any(none)
    assert none.size == both.size


def test_a_track_whose_lines_are_all_muted_is_still_answered() -> None:
    answer = SESSION.answer(_muted(True, True))
    assert answer.after.collision_ms == 0
    assert answer.after.kick_over_bass_db is None or answer.after.kick_over_bass_db > 60
    assert "collision" not in {finding.id for finding in findings(SESSION, answer)}
    assert voices(SESSION, _muted(True, True)).spills == []


def test_names_of_lines_are_their_own() -> None:
    with pytest.raises(ValidationError, match="name of its own"):
        TrackState.of(lines=(MID.model_copy(update={"name": "Bass"}),))
    with pytest.raises(ValidationError):
        TrackState.of(lines=(MID,) * 4)


def test_every_line_has_its_report_and_is_evened_by_itself() -> None:
    assert len(voices(SESSION, TWO, "mid").notes) == 2 * TWO.brief.bars
    assert voices(SESSION, TWO, "mid").low_spread_db > 6
    even = evened(SESSION, TWO, "mid")
    assert even.bass == TWO.bass
    assert voices(SESSION, even, "mid").low_spread_db < voices(SESSION, TWO, "mid").low_spread_db - 4


def test_a_line_may_choke_another_one() -> None:
    long = Voice(name="sub", bass=MadeBass(recipe=BassRecipe(pattern=(Note(at=0, beats=4),))))
    state = TrackState.of(lines=(long,), brief=Brief(chord_roots=("tonic",)))
    spilt = [one for one in voices(SESSION, state).spills if (one.old, one.new) == ("sub", "bass")]
    assert spilt
    assert spilt[0].db > -15
    mended = choke(state, "sub", "bass")
    assert mended.voices[0].line.choke == mended.voices[1].line.choke != "none"  # type: ignore[union-attr]
    left = [one.db for one in voices(SESSION, mended).spills if (one.old, one.new) == ("sub", "bass")]
    assert max(left) < -15
    sub = SESSION.parts.line_loop(mended, mended.voices[1]).samples
    beat = round(60 / mended.brief.bpm * RATE)
    assert np.max(np.abs(sub[: beat // 2])) > 0.1
    assert np.max(np.abs(sub[round(0.7 * beat) : round(0.9 * beat)])) < 1e-6


def test_the_stems_of_the_lines_add_up_to_the_ducked_bass() -> None:
    stems = SESSION.line_stems(TWO)
    assert list(stems) == ["bass", "mid"]
    ducked = SESSION.answer(TWO).ducked_loop.samples
    assert np.allclose(sum(stem.samples for stem in stems.values()), ducked, rtol=0, atol=1e-7)
    assert list(SESSION.line_stems(_muted(False, True))) == ["bass"]


def test_fixes_reach_every_line() -> None:
    quieter = lower(TWO, 3.0, bass=True)
    assert [voice.bass.recipe.level_db for voice in quieter.voices] == [-12.0, -12.0]  # type: ignore[union-attr]


def test_each_line_has_a_midi_track_and_its_settings_in_the_sheet() -> None:
    file = mido.MidiFile(file=io.BytesIO(midi_of("x", TWO)))
    named = {track.name: sum(message.type == "note_on" for message in track) for track in file.tracks}
    assert named["Mid"] == 2 * TWO.brief.bars
    assert "Bass" in named
    muted = mido.MidiFile(file=io.BytesIO(midi_of("x", _muted(False, True))))
    assert "Mid" not in {track.name for track in muted.tracks}
    sheet = track_sheet("x", SESSION.answer(_muted(False, True)), [])
    assert "Bass settings (made)" in sheet
    assert "Mid settings (made, muted)" in sheet


def test_a_line_above_the_low_notes_may_sound_over_them() -> None:
    """Common practice: one low voice at a time; a mid line is no low voice."""
    assert not any("mid" in (one.old, one.new) for one in voices(SESSION, TWO).spills)
    low = MID.model_copy(update={"bass": MID.bass.model_copy(update={"recipe": BassRecipe(octave=1)})})
    assert any("mid" in (one.old, one.new) for one in voices(SESSION, changed(TWO, lines=(low,))).spills)


def test_where_a_sound_is_choked_and_by_what_is_told() -> None:
    first = MadeBass(recipe=BassRecipe(choke="A", pattern=(Note(at=0, beats=3), Note(at=3, beats=1))))
    sub = MadeBass(recipe=BassRecipe(choke="A", pattern=(Note(at=1, beats=0.5), Note(at=1.5, beats=0.5))))
    brief = Brief(bpm=120.0, chord_roots=("tonic",))
    state = TrackState.of(brief=brief, bass=first, lines=(Voice(name="sub", bass=sub),))
    line = line_of(state)
    assert line.cuts("bass", 2000.0) == [(500.0, "sub")]
    assert line.cuts("sub", 2000.0) == [(1500.0, "bass")]
    assert line.cuts("kick", 2000.0) == []
