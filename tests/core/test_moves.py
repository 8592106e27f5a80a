"""Controls that follow curves: in the loop, stroke by stroke, and through the arrangement."""

from pathlib import Path

import numpy as np
import pytest
from pydantic import ValidationError
from scipy import signal

from juglant.core.hits.chain import panned
from juglant.core.lowend.moves import value_at
from juglant.core.lowend.session import Session
from juglant.core.lowend.straight import Straight
from juglant.core.process import movingfilters
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.chain import STAGES, EqualiserStage, SpaceStage
from juglant.core.recipes.fields import control_sheet
from juglant.core.recipes.hit import Hit, MadeKick
from juglant.core.recipes.kick import KickRecipe
from juglant.core.recipes.moves import Move, MovePoint
from juglant.core.recipes.notes import on_beats
from juglant.core.recipes.parts import Chord
from juglant.core.recipes.place import Place
from juglant.core.recipes.sections import Entry, Section, Track
from juglant.core.recipes.track import TrackState
from tests.signals import RATE, Array

# Every bar has a whole number of frames: 96000.
BRIEF = Brief(bpm=120.0, chord_roots=("tonic", "tonic"))
BAR = 2 * RATE
SESSION = Session()
PAD = Chord(id="pad", place=Place())


def a_move(of: str, control: str, *values: float, over: str = "1 bar") -> Move:
    ways = np.linspace(0.0, 1.0, len(values))
    points = tuple(MovePoint(at=float(at), value=value) for at, value in zip(ways, values, strict=True))
    return Move.model_validate({"of": of, "control": control, "over": over, "points": points})


def _state(part: Chord) -> TrackState:
    return TrackState.of(brief=BRIEF, chords=(part,))


def _loop(part: Chord) -> Array:
    loop = SESSION.parts.part(_state(part), part.id)
    assert loop is not None
    return loop.samples


def _db(x: Array) -> float:
    return float(20 * np.log10(np.max(np.abs(x)) + 1e-12))


def test_values_run_from_point_to_point_in_decibels_or_in_octaves() -> None:
    way = np.linspace(0.0, 0.999, 50)
    straight = value_at(a_move("place", "gain_db", -20.0, 0.0, -6.0), way)
    np.testing.assert_allclose(straight, np.interp(way, [0.0, 0.5, 1.0], [-20.0, 0.0, -6.0]), atol=1e-9)
    octaves = value_at(a_move("eq", "lowpass_hz", 100.0, 6400.0), way, "log")
    np.testing.assert_allclose(octaves, 100.0 * 64.0**way, rtol=1e-9)


@pytest.mark.parametrize("kind", ["highpass", "lowpass"])
@pytest.mark.parametrize("slope", [12, 24, 48])
def test_a_filter_that_could_move_and_does_not_is_that_of_scipy(kind: str, slope: int) -> None:
    x = np.random.default_rng(5).normal(size=RATE)
    sections = signal.butter(slope // 6, 640.0, kind, fs=RATE, output="sos")
    ours = movingfilters.moving_steep(kind, x, np.full(x.size, 640.0), slope, RATE)
    assert _db(ours - signal.sosfilt(sections, x)) < -180


def test_a_filter_that_moves_slowly_lets_through_what_one_at_rest_there_does() -> None:
    hz = np.geomspace(200.0, 3200.0, 8 * RATE)
    tone = np.sin(2 * np.pi * 800.0 * np.arange(hz.size) / RATE)
    out = movingfilters.moving_steep("lowpass", tone, hz, 24, RATE)
    for at in (2, 4, 6):
        piece = out[at * RATE - 2400 : at * RATE + 2400]
        # Butterworth of fourth order: 1 / sqrt(1 + (f / fc)^8).
        expected = -10 * np.log10(1 + (800.0 / hz[at * RATE]) ** 8)
        assert 20 * np.log10(np.sqrt(2 * np.mean(piece**2))) == pytest.approx(expected, abs=0.6)


def _movables() -> list[tuple[str, str]]:
    stages = {name: recipe for name, recipe in STAGES.items() if not recipe.of_a_stroke}
    return [
        (name, one.name) for name, recipe in ({"place": Place} | stages).items()
        for one in control_sheet(recipe).controls if one.movable
    ]  # fmt: skip


def test_levels_mixes_pans_and_cut_offs_can_move() -> None:
    assert {f"{of} {control}" for of, control in _movables()} == {
        "place gain_db", "place pan", "level gain_db", "level pan", "equaliser highpass_hz",
        "equaliser lowpass_hz", "drive mix", "compressor mix", "bands mix", "space mix_db", "delay mix_db",
        "resonator mix_db",
    }  # fmt: skip


# Every control at a value that does something, in a stage that does.
_SOMEWHERE = {
    "gain_db": -7.0,
    "pan": 0.4,
    "highpass_hz": 180.0,
    "lowpass_hz": 900.0,
    "mix": 0.6,
    "mix_db": -8.0,
}
_WORKING = {
    "drive": {"drive_db": 14.0}, "compressor": {"threshold_db": -40.0}, "bands": {"mid_gain_db": 9.0},
}  # fmt: skip


@pytest.mark.parametrize(("of", "control"), _movables())
def test_a_control_that_moves_nowhere_sounds_as_it_stands(of: str, control: str) -> None:
    value = _SOMEWHERE[control]
    moves = (a_move("place" if of == "place" else "one", control, value, value),)
    if of == "place":
        still = PAD.model_copy(update={"place": PAD.place.model_copy(update={control: value})})
        moving = PAD.model_copy(update={"moves": moves})
    else:
        fields = {**_WORKING.get(of, {}), "id": "one"}
        stage = STAGES[of].model_validate(fields)
        still = PAD.model_copy(update={"stages": (STAGES[of].model_validate({**fields, control: value}),)})
        moving = PAD.model_copy(update={"stages": (stage,), "moves": moves})
        # At rest the stage sounds differently, or nothing would be shown.
        assert _db(_same(_loop(still), _loop(PAD))) > -40
    assert _db(_same(_loop(moving), _loop(still))) < (-60 if of == "drive" else -80)


def _same(a: Array, b: Array) -> Array:
    wide = a.ndim == 2 or b.ndim == 2
    a, b = (np.stack([x, x], axis=1) if wide and x.ndim == 1 else x for x in (a, b))
    return a - b


def test_a_tremolo_takes_what_its_curve_says_in_note_values_and_again_in_every_one() -> None:
    plain = _loop(PAD)
    moved = _loop(
        PAD.model_copy(update={"moves": (a_move("place", "gain_db", 0.0, -12.0, 0.0, over="1/8"),)})
    )
    # An eighth is 12000 frames: in its middle it is down by 12 dB, a quarter of the way by 6.
    for eighth in range(16):
        for way, db in ((0.25, -6.0), (0.5, -12.0), (0.75, -6.0)):
            at = round((eighth + way) * 12000) + np.arange(-24, 24)
            ratio = np.sqrt(np.sum(moved[at] ** 2) / np.sum(plain[at] ** 2))
            assert 20 * np.log10(ratio) == pytest.approx(db, abs=0.15)


def test_a_jump_of_a_curve_does_not_click() -> None:
    moved = _loop(PAD.model_copy(update={"moves": (a_move("place", "gain_db", -40.0, 0.0, over="1/4"),)}))
    # From one frame to the next a jump of the pad would be as large as the pad itself.
    assert np.max(np.abs(np.diff(moved))) < 0.1 * np.max(np.abs(moved))


def test_a_pan_that_moves_keeps_the_power() -> None:
    x = np.ones(5)
    out = panned(x, np.linspace(-1.0, 1.0, 5))
    np.testing.assert_allclose((out**2).sum(axis=1), 2.0)
    np.testing.assert_allclose(out[2], 1.0)
    np.testing.assert_allclose(out[0], [np.sqrt(2), 0.0], atol=1e-12)


def test_a_stroke_takes_the_pitch_that_its_move_has_where_it_starts() -> None:
    tone = KickRecipe(end_hz=100.0, decay_ms=300.0, start_semitones=0.0, click_db=-60.0)
    hit = Hit.of(
        MadeKick(recipe=tone), name="Tom", kind="tom", id="tom", steps=on_beats(1, 2, 3, 4),
        moves=(a_move("strokes", "semitones", 0.0, 12.0),),
    )  # fmt: skip
    state = TrackState.of(brief=BRIEF, hits=(hit,))
    loop = SESSION.parts.part(state, state.hits[0].id)
    assert loop is not None
    for beat in range(4):
        piece = loop.mono[beat * RATE // 2 :][2400 : 2400 + 9600] * np.hanning(9600)
        lines = np.abs(np.fft.rfft(piece, 1 << 18))
        hz = np.argmax(lines) * RATE / (1 << 18)
        assert 12 * np.log2(hz / 100.0) == pytest.approx(3.0 * beat, abs=0.1)


def _arranged(part: Chord, *bars: int) -> Track:
    only = Section(id="drop", name="drop", chord_roots=BRIEF.chord_roots)
    track = Track(state=_state(part), sections=(only,), main="drop")
    return track.arranged(tuple(Entry(section="drop", bars=one) for one in bars))


@pytest.mark.thorough
def test_moves_over_note_values_are_the_same_in_every_bar_of_the_arrangement(tmp_path: Path) -> None:
    sweep = EqualiserStage(id="one", lowpass_slope="24")
    part = PAD.model_copy(update={
        "stages": (sweep, SpaceStage(id="two")),
        "moves": (
            a_move("one", "lowpass_hz", 300.0, 4000.0, 300.0, over="1/2"),
            a_move("two", "mix_db", -60.0, -6.0, over="1/4"), a_move("place", "pan", -1.0, 1.0, -1.0),
        ),
    })  # fmt: skip
    straight = Straight(SESSION, _arranged(part, 8), str(tmp_path))
    played, loop = straight.dry("pad", unmuted=True), _loop(part)
    for turn in (1, 2, 3):
        piece = played.read(2 * turn * BAR, 2 * (turn + 1) * BAR)
        assert _db(piece - loop) < _db(loop) - 60
    straight.close()


def test_in_a_longer_section_a_longer_curve_is_heard_whole(tmp_path: Path) -> None:
    moves = (a_move("place", "gain_db", -24.0, 0.0, over="4 bars"),)
    track = _arranged(PAD.model_copy(update={"moves": moves}), 2).with_section("long", "long", "drop")
    there = track.at("long")
    longer = there.brief.model_copy(update={"chord_roots": ("tonic",) * 4})
    track = track.with_state("long", there.model_copy(update={"brief": longer}))
    entries = (Entry(section="drop", bars=2), Entry(section="long", bars=4))
    straight = Straight(SESSION, track.arranged(entries), str(tmp_path))
    played, plain = straight.dry("pad", unmuted=True), _loop(PAD)
    for bar, db in ((0.5, -21.0), (1.5, -15.0), (2.5, -21.0), (3.5, -15.0), (4.5, -9.0), (5.5, -3.0)):
        a = round(bar * BAR)
        piece, there_ = played.read(a, a + 480), plain[np.arange(a, a + 480) % plain.shape[0]]
        assert 10 * np.log10(np.sum(piece**2) / np.sum(there_**2)) == pytest.approx(db, abs=0.1)
    straight.close()


def test_easing_in_over_the_section_begins_low_and_ends_as_the_loop_stands(tmp_path: Path) -> None:
    part = PAD.model_copy(update={"moves": (a_move("place", "gain_db", -40.0, 0.0, over="section"),)})
    straight = Straight(SESSION, _arranged(part, 8, 4), str(tmp_path))
    played = straight.dry("pad", unmuted=True)
    plain, loop = _loop(PAD), _loop(part)
    np.testing.assert_allclose(loop, plain, atol=1e-6)
    for first, bars in ((0, 8), (8, 4)):
        for share in (0.125, 0.5, 0.875):
            a = first * BAR + round(share * bars * BAR)
            piece, there = played.read(a, a + 480), plain[np.arange(a, a + 480) % plain.size]
            ratio = 20 * np.log10(np.sqrt(np.sum(piece**2) / np.sum(there**2)))
            assert ratio == pytest.approx(-40 + 40 * share, abs=0.2)
    straight.close()


def test_a_section_may_move_otherwise_while_its_chain_follows() -> None:
    stage = EqualiserStage(id="one")
    track = _arranged(PAD.model_copy(update={"stages": (stage,)}), 2).with_section("break", "break", "drop")
    there = track.at("break").part("pad")
    assert isinstance(there, Chord)
    moving = there.model_copy(
        update={"moves": (a_move("one", "lowpass_hz", 200.0, 9000.0, over="section"),)}
    )
    track = track.with_state("break", track.at("break").with_part(moving))
    assert [(one.part, one.aspect) for one in track.section("break").parts] == [("pad", "moves")]
    assert track.state.part("pad").moves == ()  # type: ignore[union-attr]
    # The stage is changed in main: the break's move goes on moving it.
    steep = track.state.part("pad").model_copy(  # type: ignore[union-attr]
        update={"stages": (stage.model_copy(update={"lowpass_slope": "48"}),)}
    )
    track = track.with_state("drop", track.state.with_part(steep))
    there = track.at("break").part("pad")
    assert isinstance(there, Chord)
    assert there.moves == moving.moves
    assert isinstance(there.stages[0], EqualiserStage)
    assert there.stages[0].lowpass_slope == "48"


@pytest.mark.parametrize(
    ("moves", "said"),
    [
        ([a_move("place", "width", 0.0, 1.0)], "width of Pad cannot move"),
        ([a_move("place", "nothing", 0.0, 1.0)], "nothing of Pad cannot move"),
        ([a_move("place", "gain_db", 0.0, 24.1)], "leaves its range, -60 to 24"),
        ([a_move("strokes", "semitones", 0.0, 1.0)], "Pad has no strokes that could move"),
        (
            [a_move("place", "pan", 0.0, 1.0), a_move("place", "pan", 0.0, 0.5)],
            "follows one move at a time",
        ),
        ([a_move("flat", "highpass_hz", 100.0, 200.0)], "linear phase cannot move"),
    ],
)
def test_what_cannot_move_is_refused_with_its_reason(moves: list[Move], said: str) -> None:
    part = PAD.model_copy(
        update={"stages": (EqualiserStage(id="flat", phase="linear"),), "moves": tuple(moves)}
    )
    with pytest.raises(ValueError, match=said):
        _state(part)
    # Just inside its range it is taken.
    _state(PAD.model_copy(update={"moves": (a_move("place", "gain_db", -60.0, 24.0),)}))


@pytest.mark.parametrize("ways", [(0.0, 0.5), (0.1, 1.0), (0.0, 0.7, 0.6, 1.0), (0.0, 0.5, 0.5009, 1.0)])
def test_a_curve_runs_forward_from_its_start_to_its_end(ways: tuple[float, ...]) -> None:
    with pytest.raises(ValidationError):
        Move(of="place", control="pan", points=tuple(MovePoint(at=at, value=0.0) for at in ways))


def test_a_move_whose_stage_a_section_has_not_waits_for_it() -> None:
    waiting = PAD.model_copy(update={"moves": (a_move("gone", "mix_db", -60.0, 0.0),)})
    np.testing.assert_array_equal(_loop(waiting), _loop(PAD))
