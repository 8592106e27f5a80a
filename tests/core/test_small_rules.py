"""Small rules of tracks and parts, each at the place where it turns."""

import numpy as np
import pytest

from juglant.core.designing.design import design
from juglant.core.errors import UserError
from juglant.core.findings import findings
from juglant.core.findings.fixes import slower_attack
from juglant.core.findings.mono import mono_checks
from juglant.core.hits.render import HitRenderer
from juglant.core.hits.render import strokes_of as kinds_of_stroke
from juglant.core.kept import Kept
from juglant.core.lowend.clearing import solve
from juglant.core.lowend.ducking import shape_db
from juglant.core.lowend.duckings import written_strokes
from juglant.core.lowend.keyed import warnings
from juglant.core.lowend.line import line_of
from juglant.core.lowend.moves import bends
from juglant.core.lowend.passages import passages
from juglant.core.lowend.session import Session
from juglant.core.lowend.sparing import spare_owner
from juglant.core.measure.loopsound import LoopSound
from juglant.core.measure.overlap import LowLevel, low_level
from juglant.core.measure.subedge import sub_edge
from juglant.core.music import pitch_class
from juglant.core.recipes.bass import BassRecipe
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.duck import DuckRecipe, Point, checked_points
from juglant.core.recipes.ducking import Ducking
from juglant.core.recipes.earlier import struck
from juglant.core.recipes.hit import Hit, Imported, Made808, MadeClap, MadeHat, MadeKick, Take
from juglant.core.recipes.keyed import KeyedCompressor
from juglant.core.recipes.moves import Move
from juglant.core.recipes.notes import Note, on_beats
from juglant.core.recipes.parts import ImportedBass, MadeBass, Output, Outputs, PlayedBass, Stem
from juglant.core.recipes.sections import Entry, Track, without
from juglant.core.recipes.track import TrackState
from juglant.core.stock.fit import with_hit
from juglant.files.sheet import track_sheet
from tests.signals import RATE, ring, silence, sine

A = "a" * 64


def test_a_file_has_no_written_strokes() -> None:
    state = TrackState.of(bass=ImportedBass(audio=A, name="a.wav"))
    [voice] = state.voices
    assert written_strokes(state, voice.id) is None
    assert len(written_strokes(TrackState(), "bass") or ()) == 8


@pytest.mark.parametrize(("rate", "on"), [("none", False), ("1/4", True)])
def test_a_ducking_whose_trigger_is_gone_is_off_unless_it_runs_by_itself(rate: str, on: bool) -> None:
    one = Ducking(triggers=("kick",), targets=("bass", "pad"), rate=rate)
    left = without(one, {"kick", "pad"})
    assert (left.triggers, [target.part for target in left.targets], left.on) == ((), ["bass"], on)
    assert without(one.model_copy(update={"on": False}), {"kick"}).on is False
    assert without(one, {"hat"}) is one
    # What has a trigger left goes on.
    assert without(one.model_copy(update={"triggers": ("kick", "clap")}), {"kick"}).on


@pytest.mark.parametrize(
    "shares", [(0.0, 1.0), (0.1, 1.0, 0.0), (0.0, 1.0, 0.1), (0.0, 0.0), (0.3,)], ids=str
)
def test_a_drawn_curve_begins_and_ends_with_nothing_taken(shares: tuple[float, ...]) -> None:
    points = tuple(Point(at_ms=20.0 * n, share=share) for n, share in enumerate(shares))
    with pytest.raises(ValueError, match="begins and ends with nothing taken"):
        checked_points(points)
    checked_points((Point(at_ms=0.0, share=0.0), Point(at_ms=0.5, share=1.0), Point(at_ms=90.0, share=0.0)))
    with pytest.raises(ValueError, match=r"follow each other by 0\.5 ms"):
        checked_points(
            (Point(at_ms=0.0, share=0.0), Point(at_ms=0.4, share=1.0), Point(at_ms=90.0, share=0.0))
        )


def test_a_drawn_curve_that_clicks_is_slowed_to_a_tenth_under_the_limit() -> None:
    # Common practice: a gain that moves by more than 12 dB in a millisecond clicks.
    steep = (Point(at_ms=0.0, share=0.0), Point(at_ms=0.5, share=1.0), Point(at_ms=90.0, share=0.0))
    state = TrackState().with_duck(duck=DuckRecipe(depth_db=24.0, points=steep))
    session = Session()
    slower = slower_attack(session, session.answer(state)).duck
    rises = np.abs(np.diff(shape_db(slower, np.arange(-50.0, 120.0, 0.1)))) / 0.1
    assert 9.7 < float(rises.max()) <= 10.9


def test_a_stretch_lies_in_a_passage_where_any_of_it_does() -> None:
    track = Track(state=TrackState()).arranged(
        (Entry(section="main", bars=1), Entry(section="main", bars=2))
    )
    one = passages(track)[0]
    for first, end, inside in (
        (one.first, one.end, True), (one.end - 1, one.end + 9, True), (one.first - 9, one.first + 1, True),
        (one.end, one.end + 9, False), (one.first - 9, one.first, False),
    ):  # fmt: skip
        assert one.inside(first, end) is inside


def test_beats_of_the_first_version_count_from_one() -> None:
    steps = struck({"name": "Kick"}, [3, 1, 2.5, 1])["steps"]
    assert [(step["at"], step["strength"]) for step in steps] == [(0, 1.0), (1.5, 1.0), (2, 1.0)]


def test_takes_of_a_hit_are_counted_by_the_velocity_they_reach() -> None:
    soft = [Take(audio=A, name="s.wav", up_to=0.5), Take(audio=A, name="t.wav", up_to=0.5)]
    hit = Hit.of(Imported(audio=A, name="h.wav", takes=tuple(soft)))
    assert kinds_of_stroke(hit) == [("_to100_rr1", 1.0, 0), ("_to050_rr1", 0.5, 0), ("_to050_rr2", 0.5, 1)]
    assert kinds_of_stroke(Hit.of(MadeKick())) == [("", 1.0, 0)]
    assert kinds_of_stroke(Hit.of(Imported(audio=A, name="h.wav"))) == [("", 1.0, 0)]


def test_a_part_that_fits_is_left_at_the_depth_it_had_and_one_that_does_not_becomes_shallower() -> None:
    loop = LoopSound(sine(50.0, 1.0), RATE)
    edge = sub_edge(50.0)
    shallow, deep = DuckRecipe(depth_db=0.55, hold_ms=40.0), DuckRecipe(depth_db=24.0, hold_ms=300.0)
    assert spare_owner(shallow, loop, edge, None, [0.0], 1000.0) is shallow
    spared = spare_owner(deep, loop, edge, None, [0.0], 1000.0)
    # Common practice: what owns the sub loses 3 dB of it at most.
    assert 2.0 < spared.depth_db < 4.0
    # What other things have taken already is not taken again.
    assert spare_owner(deep, loop, edge, None, [0.0], 1000.0, 2.9).depth_db < spared.depth_db - 2.0


def _under(kick_db: float, bass_db: float) -> tuple[LowLevel, LowLevel]:
    """A kick of 55 Hz that falls within 200 ms, and a bass that goes on."""
    return (
        low_level(10 ** (kick_db / 20) * ring(55.0, 400, 0.5), RATE, loop=True),
        low_level(sine(55.0, 0.5, bass_db), RATE, loop=True),
    )


def test_a_margin_takes_as_much_more_from_the_bass() -> None:
    kick, bass = _under(0.0, -6.0)
    depths = [solve(kick, bass, [0.0], 500.0, margin).recipe.depth_db for margin in (0.0, 3.0)]
    assert depths[1] - depths[0] == pytest.approx(3.0, abs=1.6)
    # A bass that owns the sub may be covered in part, but not where a margin is asked.
    owns = [solve(kick, bass, [0.0], 500.0, margin, "bass").recipe.depth_db for margin in (0.0, 3.0)]
    assert owns[0] < owns[1]
    assert owns[0] < depths[0]


def test_what_is_spared_for_the_owner_is_not_called_clear() -> None:
    session = Session()
    held = MadeBass(recipe=BassRecipe(octave=1, wave=0.3, pattern=(Note(at=0.0, beats=4.0),)))
    state = TrackState.of(brief=Brief(bpm=126.0, sub_owner="bass", chord_roots=("tonic",)), bass=held)
    state = state.with_duck(duck=DuckRecipe(band="all"))
    for margin, whole in ((6.0, True), (12.0, False)):
        found = session.solve_ducking(state, margin)
        loop = session.loop(state)
        wanted = solve(*session.meeting(state), loop.times_ms, loop.length_ms, margin, "bass")
        assert (found.recipe.depth_db == wanted.recipe.depth_db) == whole
        assert found.complete == (wanted.complete and whole)
        # Common practice: 3 dB at most from what owns the sub.
        assert (session.answer(state.with_duck(duck=found.recipe, on=True)).after.owner_loss_db or 0) <= 3.0


@pytest.mark.parametrize(("mute", "count"), [(False, 1), (True, 0)])
def test_a_muted_file_is_not_judged_in_mono(mute: bool, count: int) -> None:
    state = TrackState.of(bass=ImportedBass(audio=A, name="a.wav"))
    [voice] = state.voices
    muted = state.with_part(voice.model_copy(update={"mute": mute}))
    assert len(mono_checks(muted)) == count
    assert mono_checks(TrackState()) == []


def test_only_a_pitch_that_moves_over_the_section_bends_a_line() -> None:
    [voice] = TrackState().voices

    def with_move(**fields: object) -> bool:
        points = [{"at": 0.0, "value": 0.0}, {"at": 1.0, "value": 2.0}]
        move = Move.model_validate({"control": "pitch", "points": points, **fields})
        return bends(voice.model_copy(update={"moves": (move,)}))

    assert with_move(of="strokes", over="section")
    assert not with_move(of="strokes", over="1 bar")
    assert not with_move(of="place", over="section")


@pytest.mark.parametrize(("of", "said"), [("kick", "The kick is not heard"), ("bass", "No line is heard")])
def test_nothing_is_designed_for_what_is_silent(of: str, said: str) -> None:
    state = TrackState()
    part = state.part(of)
    muted = state.with_part(part.model_copy(update={"mute": True}))  # type: ignore[union-attr]
    with pytest.raises(UserError, match=said):
        design(Session(), muted, "kick")


def _gains(**fields: float) -> KeyedCompressor:
    return KeyedCompressor(**{"attack_ms": 10.0, "release_ms": 100.0, **fields})


def test_gain_made_up_is_not_counted_as_gain_taken() -> None:
    key = np.concatenate([sine(55.0, 0.1), silence(0.4)])
    plain = warnings(_gains(), 6.0, key, 500.0, RATE)
    assert warnings(_gains(makeup_db=6.0), 6.0, key, 500.0, RATE) == plain


def test_a_muted_group_takes_nothing_out_of_the_mix() -> None:
    state = TrackState.of(hits=(Hit.of(MadeClap(), name="Clap", kind="clap"),))
    sources = (Output(of="clap", taken="instead"),)
    for mute, there in ((False, {"clap"}), (True, set())):
        group = Outputs(id="group", name="Group", sources=sources, mute=mute)
        assert state.model_copy(update={"parts": (*state.parts, group)}).grouped == there


def test_a_sound_goes_into_a_line_only_where_the_line_plays_one() -> None:
    hit = Hit.of(Made808(), name="808", kind="808")
    played = TrackState.of(bass=PlayedBass(hit=hit))
    other = hit.model_copy(update={"vary": 0.5})
    assert with_hit(played, "bass", other).voice("bass").bass == PlayedBass(hit=other)
    clap = Hit.of(MadeClap(), name="Clap", kind="clap", id="clap")
    state = TrackState.of(hits=(clap,))
    assert with_hit(state, "clap", clap.model_copy(update={"vary": 0.5})).hit("clap").vary == 0.5


def test_only_takes_in_turn_make_strokes_of_one_velocity_differ() -> None:
    files = {A: ring(60.0, 100, 0.1), "b" * 64: ring(90.0, 100, 0.1)}
    hits = HitRenderer(Kept(16), lambda digest: (files[digest], RATE))
    take = Take(audio="b" * 64, name="t.wav")
    for one, differ in (("in turn", True), ("the first", False)):
        hit = Hit.of(Imported(audio=A, name="a.wav", takes=(take,), alternate=one))
        first, second = (hits.hit(hit, 120.0, turn=turn) for turn in (0, 1))
        assert np.array_equal(first, second) != differ


def test_what_is_struck_by_itself_is_not_choked_by_itself() -> None:
    hats = tuple(
        Hit.of(MadeHat(), name=name, kind="hat", steps=on_beats(*beats), choke="A")
        for name, beats in (("Open", (1.5, 3.5)), ("Closed", (2.0,)))
    )
    state = TrackState.of(brief=Brief(bpm=120.0, chord_roots=("tonic",)), hits=hats)
    line = line_of(state)
    assert line.against("open") == [500.0]
    assert line.against("closed") == [250.0, 1250.0]
    assert line.against("kick") == []


def test_what_is_faulty_in_a_file_is_not_told_while_it_is_muted() -> None:
    late = np.concatenate([silence(0.014), ring(200.0, 200, 1.0)])
    session = Session(lambda _: (late, RATE))
    stem = Stem(id="loop", name="Loop", audio=A)
    bass = ImportedBass(audio=A, name="a.wav")
    for state in (TrackState.of(stems=(stem,)), TrackState.of(bass=bass)):
        file = state.part("loop") or state.voices[0]
        told = {one.id for one in findings(session, session.answer(state))}
        muted = state.with_part(file.model_copy(update={"mute": True}))
        quiet = {one.id for one in findings(session, session.answer(muted))}
        here = {id for id in told if "silence" in id}
        assert here
        assert not here & quiet


@pytest.mark.parametrize("name", ["H", "C4", "", "Bbb"])
def test_a_note_name_has_a_letter_and_an_accidental_at_most(name: str) -> None:
    with pytest.raises(UserError, match="is not a note name"):
        pitch_class(name)
    assert (pitch_class("Eb"), pitch_class("e♭"), pitch_class("D#")) == (3, 3, 3)


def test_the_sheet_says_what_is_off_and_that_nothing_is_open() -> None:
    session, state = Session(), TrackState()
    for one, heading in ((state, "Ducking"), (state.with_duck(on=False), "Ducking (switched off)")):
        lines = track_sheet("Name", session.answer(one), []).splitlines()
        assert heading in lines
        assert lines[lines.index("Open findings") + 1] == "  none"
