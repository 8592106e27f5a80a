"""The arrangement played straight through against its sections' loops and against what it is made of."""

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest

from juglant.core.hits.chain import apply_stage
from juglant.core.lowend.duckings import Acting, Start
from juglant.core.lowend.passages import acting_in, passages
from juglant.core.lowend.session import Session
from juglant.core.lowend.straight import BLOCK_S, Straight, Tape
from juglant.core.measure.subedge import SubEdge
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.chain import DelayStage, DriveStage, EqualiserStage, SpaceStage
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.ducking import Ducking
from juglant.core.recipes.dynamics import CompressorStage, LimitStage
from juglant.core.recipes.hat import HatRecipe
from juglant.core.recipes.hit import Hit, Imported, MadeHat, MadeSnare
from juglant.core.recipes.notes import HitStep, on_beats
from juglant.core.recipes.parts import Chord, Output, Outputs
from juglant.core.recipes.place import MONO, Place
from juglant.core.recipes.sections import Entry, Section, Track
from juglant.core.recipes.track import TrackState
from tests.signals import RATE, Array, sine

# Every bar has a whole number of frames: 96000.
BRIEF = Brief(bpm=120.0, chord_roots=("tonic", "tonic"))
BAR = 2 * RATE
ECHO = DelayStage(time="1/4.", mix_db=-6.0, feedback=0.5)
SESSION = Session()


def _hat(**fields: object) -> Hit:
    return Hit.of(MadeHat(), name="Hat", kind="hat", steps=on_beats(1.5, 2.5)).model_copy(update=fields)


def _track(state: TrackState, order: list[tuple[str, int]], other: TrackState | None = None) -> Track:
    """A drop and a break, arranged; the break is like the drop but for what differs."""
    sections = (
        Section(id="drop", name="drop", chord_roots=state.brief.chord_roots),
        Section(id="break", name="break", chord_roots=state.brief.chord_roots),
    )
    track = Track(state=state, sections=sections, main="drop")
    if other is not None:
        track = track.with_state("break", other)
    return track.arranged(tuple(Entry(section=section, bars=bars) for section, bars in order))


@pytest.fixture
def played(tmp_path: Path) -> Iterator[object]:
    made: list[Straight] = []

    def play(track: Track) -> Straight:
        made.append(Straight(SESSION, track, str(tmp_path)))
        return made[-1]

    yield play
    for one in made:
        one.close()
    # Nothing is left on the disk.
    assert not list(tmp_path.iterdir())


def _level_db(x: Array) -> float:
    return 20 * float(np.log10(max(float(np.max(np.abs(x))), 1e-12)))


def _all() -> TrackState:
    """A part of every kind, with stages that remember, ring and look ahead, under two duckings."""
    space = SpaceStage(mix_db=-10.0, decay_ms=500.0, width=0.7)
    state = TrackState.of(
        brief=BRIEF,
        hits=(
            _hat(stages=(ECHO,), place=Place(pan=0.3, delay_ms=1.3)),
            Hit.of(MadeSnare(), name="Snare", kind="snare", steps=on_beats(2, 4), after=(space,)),
        ),
        chords=(Chord(stages=(CompressorStage(threshold_db=-30.0), LimitStage(amount_db=3.0))),),
        duckings=(
            Ducking.model_validate({"id": "pads", "triggers": ["kick"], "targets": ["pad"]}),
            Ducking.model_validate({
                "id": "hats", "triggers": ["snare"], "targets": ["hat"], "duck": DuckRecipe(band="above"),
            }),
        ),
    )  # fmt: skip
    send = Outputs(
        id="send", name="Send", sources=(Output(of="snare"), Output(of="hat", taken="heard")),
        stages=(DriveStage(drive_db=9.0, from_hz=300.0),),
    )  # fmt: skip
    line = state.voices[0].model_copy(update={"stages": (EqualiserStage(bell_db=4.0, phase="linear"),)})
    return state.model_copy(update={"parts": (*state.with_part(line).parts, send)})


@pytest.mark.thorough
def test_a_repeated_bar_is_as_in_the_loop(played) -> None:  # type: ignore[no-untyped-def]
    """Once the longest tail has passed, within -60 dB, wherever the blocks begin."""
    state = _all()
    straight = played(_track(state, [("drop", 20)]))
    assert 2 * BLOCK_S < 20 * 2
    for id in straight.stems():
        part = state.part(id)
        assert part is not None
        loop = SESSION.parts.part(state, id)
        assert loop is not None
        want = SESSION.parts.ducked(state, loop, part).samples
        for turn in (3, 8):
            got = straight.heard(id).read(turn * want.shape[0], (turn + 1) * want.shape[0])
            assert got.ndim == want.ndim
            assert _level_db(got - want) < _level_db(want) - 60


def test_tails_ring_on_into_the_next_section_and_past_the_last_bar(played) -> None:  # type: ignore[no-untyped-def]
    once = ECHO.model_copy(update={"feedback": 0.0})
    struck = _hat(steps=on_beats(4.75), stages=(once,))
    state = TrackState.of(brief=BRIEF, hits=(struck,))
    silent = state.with_part(state.hits[0].model_copy(update={"mute": True}))
    straight = played(_track(state, [("drop", 2), ("break", 2), ("drop", 2)], silent))
    heard = straight.heard("hat")
    # The last stroke of the drop is a sixteenth before the break; its echo comes 750 ms later, in it.
    echo = heard.read(2 * BAR + round(0.6 * RATE), 2 * BAR + round(0.7 * RATE))
    one = apply_stage(SESSION.sounds.hits.hit(struck, 120.0), once, RATE, 120.0)[round(0.72 * RATE) :]
    assert _level_db(echo) == pytest.approx(_level_db(one[: RATE // 10]), abs=0.1)
    assert _level_db(heard.read(3 * BAR + BAR // 2, 4 * BAR)) < -70
    assert straight.frames == 6 * BAR
    assert straight.sounding_frames([heard]) > 6 * BAR + RATE // 2
    # The first bar has no tail of a last one before it, as it has in the loop.
    loop = SESSION.parts.hit_loop(state, state.hits[0])
    assert loop is not None
    assert _level_db(loop.samples[: round(0.7 * RATE)]) > -40
    assert _level_db(heard.read(0, round(0.7 * RATE))) < -100


@pytest.mark.parametrize(("late_ms", "cut"), [(0.0, False), (2.1, False), (3.1, True)])
def test_what_is_struck_within_3_ms_cuts_nothing(played, late_ms: float, cut: bool) -> None:  # type: ignore[no-untyped-def]
    open_hat = MadeHat(recipe=HatRecipe(decay_ms=900.0))
    ringing = Hit.of(open_hat, name="Open", kind="hat", steps=on_beats(3), choke="A")
    late = HitStep(at=2 + late_ms / 500)
    state = TrackState.of(brief=BRIEF, hits=(ringing, _hat(steps=(late,), choke="A")))
    straight = played(_track(state, [("drop", 2)]))
    after = straight.heard("open").read(RATE + round(0.1 * RATE), RATE + round(0.2 * RATE))
    assert (_level_db(after) < -90) == cut
    # In the loop it is the same.
    loop = SESSION.parts.hit_loop(state, state.hits[0])
    assert loop is not None
    assert (_level_db(loop.samples[round(1.1 * RATE) : round(1.2 * RATE)]) < -90) == cut


def test_a_choke_cuts_across_the_border(played) -> None:  # type: ignore[no-untyped-def]
    ringing = Hit.of(
        MadeHat(recipe=HatRecipe(decay_ms=900.0)), name="Open", kind="hat", steps=on_beats(4.5), choke="A"
    )
    closed = _hat(steps=on_beats(1.5), choke="A")
    state = TrackState.of(brief=BRIEF, hits=(ringing, closed))
    other = state.with_part(state.hits[0].model_copy(update={"steps": ()}))
    straight = played(_track(state, [("drop", 2), ("break", 2)], other))
    border, cut = 2 * BAR, 2 * BAR + RATE // 4
    open_hat = straight.heard("open")
    assert _level_db(open_hat.read(border, cut)) > -40
    assert _level_db(open_hat.read(cut + round(0.009 * RATE), border + RATE)) < -110


def test_a_ducking_is_let_go_in_the_next_section(played) -> None:  # type: ignore[no-untyped-def]
    duck = DuckRecipe(depth_db=12.0, hold_ms=150.0, release_ms=400.0)
    by_hat = Ducking.model_validate({
        "id": "pads", "triggers": ["hat"], "targets": ["pad"], "duck": duck,
    })  # fmt: skip
    state = TrackState.of(
        brief=BRIEF, hits=(_hat(steps=on_beats(4.75)),), chords=(Chord(),), duckings=(by_hat,)
    )
    other = state.with_part(state.hits[0].model_copy(update={"steps": ()}))
    straight = played(_track(state, [("drop", 2), ("break", 2)], other))
    at = 2 * BAR + round(0.01 * RATE)
    dry, heard = (
        tape.read(at, at + 480) for tape in (straight.dry("pad", unmuted=False), straight.heard("pad"))
    )
    assert 20 * np.log10(np.std(heard) / np.std(dry)) == pytest.approx(-12.0, abs=0.5)
    assert straight.gain_db("pads", at, at + 480) == pytest.approx(np.full(480, -12.0), abs=0.5)
    late = 3 * BAR
    assert np.array_equal(
        straight.heard("pad").read(late, late + BAR),
        straight.dry("pad", unmuted=False).read(late, late + BAR),
    )


def test_stages_that_differ_begin_anew_and_the_others_ring_out(played) -> None:  # type: ignore[no-untyped-def]
    state = TrackState.of(brief=BRIEF, hits=(_hat(steps=on_beats(1), stages=(ECHO,)),))
    plain = state.with_part(state.hits[0].model_copy(update={"stages": ()}))
    heard = played(_track(state, [("drop", 2), ("break", 4)], plain)).heard("hat")
    # 750 ms after the stroke: an echo in the drop, none in the break but of what the drop left.
    drop, later = (heard.read(bar * BAR + 36000, bar * BAR + 40000) for bar in (0, 5))
    assert _level_db(drop) > -40
    assert _level_db(later) < -70


def test_a_muted_part_still_gives_its_dry_output_and_starts_its_ducking(played) -> None:  # type: ignore[no-untyped-def]
    muted = _hat(mute=True)
    state = TrackState.of(brief=BRIEF, hits=(muted,), chords=(Chord(),))
    by_hat = Ducking.model_validate({"id": "pads", "triggers": ["hat"], "targets": ["pad"]})
    copy = Outputs(id="copy", name="Copy", sources=(Output(of="hat"),))
    state = state.model_copy(update={
        "parts": (*state.parts, copy), "duckings": (*state.duckings, by_hat),
    })  # fmt: skip
    straight = played(_track(state, [("drop", 4)]))
    assert straight.stems() == ["kick", "bass", "pad", "copy"]
    assert _level_db(straight.heard("copy").read(0, 4 * BAR)) > -40
    assert straight.gain_db("pads", 0, BAR).min() < -3


def test_passages_lie_on_the_grid_of_the_tempo_whatever_it_is() -> None:
    brief = Brief(bpm=127.3, chord_roots=("tonic", "tonic", "tonic"))
    track = _track(TrackState.of(brief=brief), [("drop", 7), ("break", 5), ("drop", 244)])
    found = passages(track)
    bar = 4 * 60 / 127.3 * RATE
    assert [one.first for one in found] == [0, round(7 * bar), round(12 * bar)]
    assert found[-1].end == round(256 * bar)
    # Loops of three bars in seven: two whole ones and one bar of a third.
    assert found[0].turns == [0, round(3 * bar), round(6 * bar)]
    times = found[0].starts_ms([0.0, 2 * bar / RATE * 1000])
    assert len(times) == 5


def test_a_tape_adds_reads_beyond_its_ends_and_leaves_nothing(tmp_path: Path) -> None:
    tape = Tape(str(tmp_path), 1000, 1)
    tape.add(-100, np.ones(300))
    tape.add(900, np.full(300, 0.5))
    tape.add(100, np.full(50, 0.25))
    x = tape.read(-50, 1050)
    assert np.array_equal(x[:50], np.zeros(50))
    assert np.array_equal(x[50:150], np.ones(100))
    assert np.array_equal(x[150:200], np.full(50, 1.25))
    assert np.array_equal(x[950:1050], np.full(100, 0.5)[:100])
    assert x[1050:].size == 50
    tape.close()
    assert not list(tmp_path.iterdir())


def test_a_wide_kick_heard_in_mono_and_a_stage_bypassed_in_one_section_are_played(tmp_path: Path) -> None:
    sides = np.stack([sine(60.0, 0.3), 0.5 * sine(90.0, 0.3)], axis=1)
    session = Session(lambda _: (sides, RATE))
    kick = Hit.of(Imported(audio="a" * 64, name="x"), id="kick", steps=on_beats(1, 3), place=MONO)
    kick = kick.model_copy(update={"stages": (EqualiserStage(bell_db=3.0), DriveStage(drive_db=6.0))})
    state = TrackState.of(brief=BRIEF).with_part(kick)
    off = (DriveStage(bypass=True), *kick.stages)
    other = state.with_part(kick.model_copy(update={"stages": off}))
    straight = Straight(session, _track(state, [("drop", 4), ("break", 4)], other), str(tmp_path))
    heard = straight.heard("kick")
    assert heard.channels == 1
    loop = session.parts.kick_loop(state).samples
    for bar in (2, 6):
        got = heard.read(bar * BAR, bar * BAR + loop.size)
        assert _level_db(got - loop) < _level_db(loop) - 60
    straight.close()


@pytest.mark.thorough
def test_no_more_is_held_at_once_however_long_the_arrangement_is(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Counted, not weighed: the longest stretch that is read for 96 bars is that for 24."""
    longest = 0
    read = Tape.read

    def counted(tape: Tape, first: int, end: int) -> Array:
        nonlocal longest
        longest = max(longest, end - first)
        return read(tape, first, end)

    monkeypatch.setattr(Tape, "read", counted)
    state = TrackState.of(brief=BRIEF, hits=(_hat(stages=(ECHO, DriveStage(drive_db=6.0))),))
    found = []
    for bars in (24, 96):
        longest = 0
        straight = Straight(SESSION, _track(state, [("drop", bars)]), str(tmp_path))
        straight.heard("hat")
        straight.close()
        found.append(longest)
    assert found[0] == found[1] < 30 * RATE


def test_outputs_that_are_muted_at_the_end_stay_silent_there_and_a_wide_tail_is_kept(played) -> None:  # type: ignore[no-untyped-def]
    copy = Outputs(id="copy", name="Copy", sources=(Output(of="hat"),))
    state = TrackState.of(brief=BRIEF, hits=(_hat(),))
    state = state.model_copy(update={"parts": (*state.parts, copy)})
    muted = state.with_part(copy.model_copy(update={"mute": True}))
    straight = played(_track(state, [("drop", 2), ("break", 2)], muted))
    heard = straight.heard("copy")
    assert _level_db(heard.read(0, 2 * BAR)) > -40
    assert _level_db(heard.read(2 * BAR + RATE // 2, 4 * BAR)) < -110
    # A tail that only goes below nothing, on one side, is a tail.
    tape = straight._tape(2)
    tape.add(straight.frames + 1000, np.stack([np.zeros(10), np.full(10, -0.5)], axis=1))
    assert straight.sounding_frames([tape]) == straight.frames + 1010
    tape.close()


def test_two_duckings_alike_of_a_bass_that_owns_the_sub_both_act() -> None:
    edge = SubEdge(80.0, (80.0, 90.0), np.tile([0, 1], 1000))
    acting = [Acting(DuckRecipe(), (Start(at, 1.0),), 1.0, edge) for at in (0.0, 500.0)]
    [passage] = passages(_track(TrackState.of(brief=BRIEF), [("drop", 2)]))
    [found] = acting_in([passage], [acting], 0, BAR)
    assert sorted(start.at_ms for start in found.starts) == [0.0, 500.0]
