"""Moves that are read where a stroke or a note starts: controls of a shape, and the pitch of a line."""

from itertools import pairwise
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from juglant.core.lowend.linenotes import line_notes
from juglant.core.lowend.moves import moved_at, notes_of
from juglant.core.lowend.session import Session
from juglant.core.lowend.straight import Straight
from juglant.core.recipes.bass import BassRecipe
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.chain import STAGES, EnvelopeStage, EqualiserStage, LevelStage
from juglant.core.recipes.fields import control_sheet
from juglant.core.recipes.hit import Hit, Made808, MadeKick
from juglant.core.recipes.kick import KickRecipe
from juglant.core.recipes.moves import Move
from juglant.core.recipes.notes import Note, on_beats
from juglant.core.recipes.parts import ImportedBass, MadeBass, PlayedBass, Voice
from juglant.core.recipes.sections import Entry, Section, Track
from juglant.core.recipes.track import TrackState
from tests.core.test_moves import a_move as move
from tests.signals import RATE, Array

# A bar of two seconds: every beat is 24000 frames.
BRIEF = Brief(bpm=120.0, tonic="A", mode="minor", chord_roots=("A", "A"))
BEAT = RATE // 2
SESSION = Session()


def _hit(stage: Any, *moves: Move, click_db: float = -60.0) -> TrackState:
    tone = KickRecipe(end_hz=100.0, decay_ms=250.0, length_ms=300.0, start_semitones=0.0, click_db=click_db)
    hit = Hit.of(
        MadeKick(recipe=tone), name="Tom", kind="tom", id="tom", steps=on_beats(1, 2, 3, 4), chain=(stage,),
        moves=moves,
    )  # fmt: skip
    return TrackState.of(brief=BRIEF, hits=(hit,))


def _strokes(state: TrackState) -> list[Array]:
    loop = SESSION.parts.part(state, "tom")
    assert loop is not None
    return [loop.mono[beat * BEAT : (beat + 1) * BEAT] for beat in range(8)]


def _rms_db(x: Array) -> float:
    return float(10 * np.log10(np.mean(x**2)))


def test_a_control_of_the_shape_is_what_its_curve_says_where_the_stroke_starts() -> None:
    state = _hit(LevelStage(id="own"), move("own", "gain_db", -12.0, 0.0))
    plain = _strokes(_hit(LevelStage(id="own")))
    for beat, piece in enumerate(_strokes(state)):
        # The curve over one bar, read at each beat of it: -12, -9, -6 and -3 dB, held by the whole stroke.
        expected = -12.0 + 3.0 * (beat % 4)
        assert _rms_db(piece) - _rms_db(plain[beat]) == pytest.approx(expected, abs=0.01)


def test_what_no_passing_sound_could_follow_can_move_from_stroke_to_stroke() -> None:
    state = _hit(EnvelopeStage(id="own"),
                 move("own", "decay_ms", 60.0, 400.0))  # fmt: skip
    late = [_rms_db(piece[round(0.06 * RATE) : round(0.1 * RATE)]) for piece in _strokes(state)[:4]]
    assert all(b > a + 0.5 for a, b in pairwise(late))


def test_a_filter_of_linear_phase_can_move_from_stroke_to_stroke() -> None:
    stage = EqualiserStage(id="own", phase="linear", lowpass_slope="24")
    highs = [
        np.sum(np.abs(np.fft.rfft(piece)[200:1000]) ** 2) for piece in
        _strokes(_hit(stage, move("own", "lowpass_hz", 200.0, 12000.0), click_db=0.0))[:4]
    ]  # fmt: skip
    assert all(b > 1.2 * a for a, b in pairwise(highs))
    passing = (
        _hit(LevelStage())
        .hits[0]
        .model_copy(
            update={"chain": (), "stages": (stage,), "moves": (move("own", "lowpass_hz", 200.0, 900.0),)}
        )
    )
    with pytest.raises(ValueError, match="linear phase cannot move"):
        TrackState.of(brief=BRIEF, hits=(passing,))


@pytest.mark.parametrize("name", STAGES)
def test_every_control_of_every_stage_can_move_from_stroke_to_stroke(name: str) -> None:
    stage = STAGES[name].model_validate({"stage": name, "id": "own"})
    for one in control_sheet(STAGES[name]).controls:
        state = _hit(stage, move("own", one.name, one.low, one.high))
        at = [moved_at(state.hits[0], BRIEF, beat * 500.0) for beat in range(4)]
        stages = [found.of(state.hits[0]).chain[0] for found in at]
        values = [getattr(each, one.name) for each in stages]
        assert values[0] == one.low
        assert values == sorted(values)
        # What it is made of is what would be written: a whole number stays one.
        assert all(type(each).model_validate(each.model_dump()) == each for each in stages)
        assert all(type(value) is type(getattr(stage, one.name)) for value in values)
        loop = SESSION.parts.part(state, "tom")
        assert loop is not None
        assert np.isfinite(loop.samples).all()


@pytest.mark.parametrize(
    ("moves", "said"),
    [
        ((move("own", "nothing", 0.0, 1.0),), "nothing of Tom cannot move"),
        ((move("own", "gain_db", 0.0, 99.0),), "leaves its range"),
        ((move("own", "bypass", 0.0, 1.0),), "bypass of Tom cannot move"),
    ],
)
def test_what_cannot_move_is_refused_with_its_reason(moves: tuple[Move, ...], said: str) -> None:
    with pytest.raises(ValueError, match=said):
        _hit(LevelStage(id="own"), *moves)


def _arranged(state: TrackState, bars: int, folder: Path) -> Straight:
    only = Section(id="drop", name="drop", chord_roots=state.brief.chord_roots)
    track = Track(state=state, sections=(only,), main="drop")
    return Straight(SESSION, track.arranged((Entry(section="drop", bars=bars),)), str(folder))


def test_over_the_section_every_stroke_of_the_arrangement_has_its_own(tmp_path: Path) -> None:
    state = _hit(LevelStage(id="own"), move("own", "gain_db", -24.0, 0.0, over="section"))
    plain = _strokes(_hit(LevelStage(id="own")))
    # In the loop it stands where it ends.
    assert _rms_db(_strokes(state)[0]) == pytest.approx(_rms_db(plain[0]), abs=0.01)
    straight = _arranged(state, 8, tmp_path)
    played = straight.dry("tom", unmuted=True)
    for beat in (0, 8, 16, 31):
        piece = played.read(beat * BEAT, (beat + 1) * BEAT)
        expected = -24.0 + 24.0 * beat / 32
        assert _rms_db(piece) - _rms_db(plain[beat % 8]) == pytest.approx(expected, abs=0.06)
    straight.close()


def _line(bass: Any, *moves: Move) -> TrackState:
    line = Voice(id="bass", name="bass", bass=bass, moves=moves)
    return TrackState.model_validate(TrackState.of(brief=BRIEF).with_part(line).model_dump())


_QUARTERS = tuple(Note(at=n, beats=0.9) for n in range(4))
_MADE = MadeBass(recipe=BassRecipe(pattern=_QUARTERS, bars=1, octave=2, glide_ms=5.0))


def _hz(piece: Array) -> float:
    inner = piece[4800:16800]
    lines = np.abs(np.fft.rfft(inner * np.hanning(inner.size), 1 << 19))
    return float(np.argmax(lines) * RATE / (1 << 19))


def test_a_note_takes_the_pitch_that_its_move_has_where_it_starts() -> None:
    state = _line(_MADE, move("strokes", "semitones", 0.0, 8.0))
    loop = SESSION.parts.part(state, "bass")
    assert loop is not None
    known = line_notes(SESSION.sounds, state, state.voices[0])
    for beat in range(8):
        # A2 is 110 Hz (ISO 16:1975); over a bar of four notes the curve gives 0, 2, 4 and 6 semitones.
        hz = 110.0 * 2 ** (2.0 * (beat % 4) / 12)
        assert _hz(loop.mono[beat * BEAT : (beat + 1) * BEAT]) == pytest.approx(hz, rel=0.002)
        assert known[beat].hz == pytest.approx(hz, rel=1e-9)
        assert known[beat].midi == 45 + 2 * (beat % 4)


def test_a_line_that_a_hit_plays_bends_too_and_its_edge_follows() -> None:
    bass = PlayedBass(hit=Hit.of(Made808(), name="808"), recipe=PlayedBass().recipe.model_copy(
        update={"pattern": _QUARTERS, "bars": 1, "octave": 1}
    ))  # fmt: skip
    plain, bent = _line(bass), _line(bass, move("strokes", "semitones", 7.0, 7.0))
    low, high = (SESSION.parts.part(state, "bass") for state in (plain, bent))
    assert low is not None
    assert high is not None
    assert _hz(high.mono[:BEAT]) == pytest.approx(2 ** (7 / 12) * _hz(low.mono[:BEAT]), rel=0.01)
    owner = [
        state.model_copy(update={"brief": state.brief.model_copy(update={"sub_owner": "bass"})})
        for state in (plain, bent)
    ]
    edges = [SESSION.parts.edge(state) for state in owner]
    assert edges[0] is not None
    assert edges[1] is not None
    assert edges[1].hz > edges[0].hz


def test_a_line_that_bends_away_over_the_section_is_bent_pass_by_pass(tmp_path: Path) -> None:
    state = _line(_MADE, move("strokes", "semitones", 0.0, -12.0, over="section"))
    loop = SESSION.parts.part(state, "bass")
    assert loop is not None
    assert _hz(loop.mono[:BEAT]) == pytest.approx(55.0, rel=0.003)
    straight = _arranged(state, 8, tmp_path)
    played = straight.dry("bass", unmuted=True)
    for beat in (0, 7, 8, 16, 31):
        hz = 110.0 * 2 ** (-beat / 32)
        piece = played.read(beat * BEAT, (beat + 1) * BEAT)
        assert _hz(piece) == pytest.approx(hz, rel=0.003)
    straight.close()


def test_what_has_no_notes_has_no_pitch_that_could_move() -> None:
    with pytest.raises(ValueError, match="bass has no strokes that could move"):
        _line(ImportedBass(audio="a" * 64, name="b.wav"), move("strokes", "semitones", 0.0, 1.0))


def test_a_note_that_glides_sets_out_from_where_the_one_before_was_bent_to() -> None:
    gliding = tuple(Note(at=n, beats=0.9, glide=True) for n in range(4))
    made = MadeBass(recipe=_MADE.recipe.model_copy(update={"pattern": gliding}))
    [voice] = _line(made, move("strokes", "semitones", 0.0, 8.0)).voices
    found = notes_of(voice, BRIEF)
    assert [note.midi for note in found[:4]] == pytest.approx([45.0, 47.0, 49.0, 51.0], abs=1e-6)
    assert [note.from_midi for note in found[1:]] == [note.midi for note in found[:-1]]
    # The first one sets out from the last.
    assert found[0].from_midi == found[-1].midi
