"""Sections: what differs from main, what follows, and tracks that had kicks of intro, break and drop."""

import json
from pathlib import Path

import numpy as np
import pytest

from juglant.core.errors import UserError
from juglant.core.findings import effect, findings
from juglant.core.lowend.session import Session
from juglant.core.measure.hit import measure
from juglant.core.recipes.bass import BassRecipe
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.chain import EqualiserStage
from juglant.core.recipes.ducking import Ducking
from juglant.core.recipes.hit import Hit, MadeHat, MadeKick
from juglant.core.recipes.kick import KickRecipe
from juglant.core.recipes.notes import Note, on_beats
from juglant.core.recipes.parts import MadeBass, RumbleBass, Stem, Voice
from juglant.core.recipes.place import Place
from juglant.core.recipes.sections import Entry, Track, aspects, with_aspect
from juglant.core.recipes.track import TrackState
from tests.signals import RATE

SESSION = Session()
LONG = Hit.of(MadeKick(recipe=KickRecipe(end_hz=55.0, decay_ms=1000.0, length_ms=460.0)))
SHORT = MadeKick(recipe=KickRecipe(end_hz=55.0, length_ms=120.0))
HAT = Hit.of(MadeHat(), name="Hat", kind="hat", steps=on_beats(1.5, 2.5))
MOVING = TrackState.of(brief=Brief(bpm=128.0, chord_roots=("A", "B", "E", "F")), kick=LONG, hits=(HAT,))
TRACK = Track(state=MOVING).with_section("break", "break", "main")


def _changed(track: Track, state: TrackState, at: str = "break") -> Track:
    return track.with_state(at, state)


def _own(track: Track, at: str = "break") -> set[tuple[str, str]]:
    return {(one.part, one.aspect) for one in track.section(at).parts}


def test_a_section_begins_as_the_one_it_was_made_from() -> None:
    assert TRACK.at("break") == TRACK.at("main") == MOVING
    assert [one.name for one in TRACK.sections] == ["drop", "break"]
    again = Track.model_validate_json(TRACK.model_dump_json())
    assert again == TRACK


def test_what_is_changed_in_a_section_stays_there_and_all_else_follows_main() -> None:
    state = TRACK.at("break")
    there = _changed(TRACK, state.with_part(state.kick.with_source(0, SHORT)))
    assert _own(there) == {("kick", "sound")}
    assert there.at("main") == MOVING
    # Main's hat is turned down and its kick struck elsewhere: the break follows, with its own sound.
    main = there.at("main")
    louder = main.hits[0].model_copy(update={"level_db": -6.0, "name": "Shaker"})
    moved = main.kick.model_copy(update={"steps": on_beats(1, 3)})
    later = there.with_state("main", main.with_part(louder).with_part(moved))
    broken = later.at("break")
    assert broken.hits[0].level_db == -6.0
    assert broken.hits[0].name == "Shaker"
    assert [step.at for step in broken.kick.steps] == [0, 2]
    assert broken.kick.layers[0].source == SHORT
    assert later.at("main").kick.layers == LONG.layers


def test_editing_the_break_leaves_the_drop_sample_identical() -> None:
    before = SESSION.answer(TRACK.at("main")).mix_after.samples
    state = TRACK.at("break").with_line("bass", octave=2).with_duck(on=False)
    there = _changed(TRACK, state.with_part(state.kick.with_source(0, SHORT)))
    after = Session().answer(there.at("main")).mix_after.samples
    assert np.array_equal(before, after)
    assert not np.array_equal(before, SESSION.answer(there.at("break")).mix_after.samples)


@pytest.mark.parametrize(
    ("changes", "aspect"),
    [
        ({"level_db": -3.0}, "shape"), ({"chain": (EqualiserStage(),)}, "shape"),
        ({"steps": on_beats(2)}, "pattern"), ({"follow": "yes"}, "pattern"), ({"choke": "A"}, "pattern"),
        ({"stages": (EqualiserStage(),)}, "chain"), ({"after": (EqualiserStage(),)}, "after"),
        ({"place": Place(pan=0.3)}, "place"), ({"mute": True}, "mute"), ({"aim": "free"}, "sound"),
    ],
)  # fmt: skip
def test_a_change_makes_a_difference_of_its_aspect_only(changes: dict[str, object], aspect: str) -> None:
    state = TRACK.at("break")
    there = _changed(TRACK, state.with_part(state.hits[0].model_copy(update=changes)))
    assert _own(there) == {("hat", aspect)}
    assert there.at("break").hits[0] == state.hits[0].model_copy(update=changes)
    followed = there.following("break", "hat", aspect)  # type: ignore[arg-type]
    assert followed.at("break") == MOVING


def test_a_difference_stays_though_main_happens_to_be_equal() -> None:
    state = TRACK.at("break")
    quiet = state.hits[0].model_copy(update={"level_db": -9.0})
    there = _changed(TRACK, state.with_part(quiet)).with_state("main", MOVING.with_part(quiet))
    assert _own(there) == {("hat", "shape")}
    loud = there.with_state("main", MOVING)
    assert loud.at("break").hits[0].level_db == -9.0


def test_the_sound_and_the_pattern_of_a_line_are_two_aspects() -> None:
    state = TRACK.at("break").with_line("bass", pattern=(Note(at=0, beats=4),))
    there = _changed(TRACK, state)
    assert _own(there) == {("bass", "pattern")}
    main = there.at("main").with_line("bass", wave=0.0, octave=2)
    later = there.with_state("main", main).at("break")
    assert isinstance(later.bass, MadeBass)
    assert later.bass.recipe.wave == 0.0
    assert later.bass.recipe.pattern == (Note(at=0, beats=4),)
    # A rumble has no pattern; a line that was one takes the other's back.
    rumbling = _changed(
        TRACK, TRACK.at("break").with_bass("bass", RumbleBass()).with_duck(triggers=("kick",))
    )
    assert _own(rumbling) == {("bass", "sound")}
    assert isinstance(rumbling.at("break").bass, RumbleBass)
    assert rumbling.at("main") == MOVING


def test_chords_are_the_section_s_and_the_tempo_everybody_s() -> None:
    state = TRACK.at("break")
    brief = state.brief.model_copy(update={"chord_roots": ("F",), "bpm": 131.0})
    there = _changed(TRACK, state.model_copy(update={"brief": brief}))
    assert there.at("main").brief.chord_roots == MOVING.brief.chord_roots
    assert there.at("break").brief.chord_roots == ("F",)
    assert there.at("main").brief.bpm == 131.0


def test_a_part_that_is_added_elsewhere_is_muted_in_main_and_one_removed_is_gone_everywhere() -> None:
    state = TRACK.at("break")
    pad = Stem(id="pad", name="Pad", audio="a" * 64)
    added = state.model_copy(update={"parts": (*state.parts, pad)})
    duck = Ducking.model_validate({"id": "pads", "triggers": ["kick"], "targets": ["pad"]})
    added = added.model_copy(update={"duckings": (*state.duckings, duck)})
    there = _changed(TRACK, added)
    assert [part.mute for part in there.at("main").parts if part.id == "pad"] == [True]
    assert [part.mute for part in there.at("break").parts if part.id == "pad"] == [False]
    assert [one.on for one in there.at("main").duckings] == [True, False]
    assert [one.on for one in there.at("break").duckings] == [True, True]
    gone = there.with_state("main", MOVING)
    assert gone.at("break") == MOVING
    assert gone.section("break").parts == ()


def test_another_main_changes_no_section_s_sound() -> None:
    state = TRACK.at("break")
    state = state.with_part(state.kick.with_source(0, SHORT)).with_line("bass", octave=2)
    state = state.with_part(state.hits[0].model_copy(update={"mute": True})).with_duck(on=False)
    there = _changed(TRACK, state).with_section("intro", "intro", "main")
    turned = there.with_main("break")
    for section in ("main", "break", "intro"):
        assert turned.at(section) == there.at(section)
    assert turned.section("break").parts == ()
    assert _own(turned, "main") == {("kick", "sound"), ("bass", "pattern"), ("hat", "mute")}
    with pytest.raises(UserError, match="choose another main"):
        turned.without_section("break")
    assert [one.id for one in turned.without_section("main").sections] == ["break", "intro"]


def test_an_arrangement_may_name_a_section_again_and_256_bars_at_most() -> None:
    entries = (
        Entry(section="break", bars=8),
        Entry(section="main", bars=120),
        Entry(section="break", bars=8),
    )
    there = TRACK.arranged(entries)
    assert there.arrangement == entries
    assert there.without_section("break").arrangement == entries[1:2]
    assert TRACK.arranged((Entry(section="main", bars=256),))
    for wrong, said in (
        ((Entry(section="main", bars=256), Entry(section="break", bars=1)), "256 bars at most"),
        ((Entry(section="gone", bars=1),), "not in the track"),
    ):
        with pytest.raises(UserError, match=said):
            TRACK.arranged(wrong)
    with pytest.raises(UserError, match="a name of its own"):
        TRACK.renamed("break", "Drop")


def test_what_does_not_fit_in_one_section_is_refused_with_its_name() -> None:
    state = TRACK.at("break").with_kick(LONG)
    silent = state.with_part(state.kick.model_copy(update={"mute": True}))
    with pytest.raises(UserError, match="In break, the kick"):
        _changed(TRACK, silent)


@pytest.mark.parametrize(
    "part", [MOVING.kick, MOVING.voices[0], Voice(id="r", name="r", bass=RumbleBass())]
)
def test_a_part_is_the_sum_of_its_aspects(part: Hit | Voice) -> None:
    bare = type(part)(id=part.id, name=part.name)
    if isinstance(part, Voice) and isinstance(part.bass, MadeBass):
        part = part.model_copy(update={"bass": MadeBass(recipe=BassRecipe(octave=3, wave=0.4))})
    for aspect, values in aspects(part).items():
        bare = with_aspect(bare, aspect, values)  # type: ignore[assignment]
    assert bare == part


def test_a_track_that_had_kicks_of_its_sections_opens_with_sections() -> None:
    stored = json.loads((Path(__file__).parent / "opened_before.json").read_text())
    old = {one["name"]: one for one in stored}
    for name, main, other in (("Stonefruit", "drop", "intro"), ("Stonefruit intro", "intro", "drop")):
        track = Track.model_validate(old[name]["state"])
        assert (track.main, [one.name for one in track.sections]) == (main, [main, other])
        assert _own(track, other) == {("kick", "sound")}
    # What lay on the bench then, and the other kick: both sound as they did.
    track = Track.model_validate(old["Stonefruit"]["state"])
    for section, before in (("drop", "Stonefruit"), ("intro", "Stonefruit intro")):
        x = SESSION.loop(track.at(section)).kick.samples
        marks = np.random.default_rng(7).standard_normal((x.size, 4)) / np.sqrt(x.size)
        assert x @ marks == pytest.approx(old[before]["sounds"]["kick"][2:], abs=1e-6)


@pytest.mark.parametrize(("root", "moved"), [("A", 0), ("B", 2), ("D#", 6), ("E", -5), ("G#", -1)])
def test_a_root_is_reached_the_short_way(root: str, moved: int) -> None:
    assert Brief(tonic="A", chord_roots=("tonic", root)).moved_by(1) == moved


def test_a_kick_that_follows_sounds_every_chord_s_note() -> None:
    """The strokes of each bar, cut from the loop and measured by themselves."""
    state = MOVING.with_kick(LONG.model_copy(update={"follow": "yes"}))
    loop = SESSION.parts.kick_loop(state).samples
    own = SESSION.sounds.measured_hit(LONG, state.brief).hit.fundamental_hz
    assert own is not None
    bar = loop.size // 4
    for n in range(4):
        stroke = loop[n * bar : n * bar + round(60 / 128 * RATE)]
        hz = measure(stroke, RATE, 440.0, False).hit.fundamental_hz
        assert hz is not None
        assert 1200 * np.log2(hz / own) == pytest.approx(100 * state.brief.moved_by(n), abs=5)


@pytest.mark.thorough
def test_a_long_kick_over_moving_chords_is_shortened_in_its_section_alone_or_retuned() -> None:
    state = TRACK.at("break")
    answer = SESSION.answer(state)
    [found] = [one for one in findings(SESSION, answer) if one.id == "kick-out-of-chord"]
    assert next(iter(found.fixes)) == "shorten"
    for way in ("shorten", "follow"):
        assert "kick-out-of-chord" in effect(SESSION, answer, "kick-out-of-chord", way).closes, way
    broken = _changed(TRACK, effect(SESSION, answer, "kick-out-of-chord", "shorten").state)
    assert _own(broken) == {("kick", "sound")}
    assert broken.at("main") == MOVING
    with pytest.raises(UserError, match="no such fix"):
        effect(SESSION, answer, "kick-out-of-chord", "pray")
