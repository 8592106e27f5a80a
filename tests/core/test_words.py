"""What was changed, in words: every field of a track has its sentence, and none says more than it should."""

import pytest
from pydantic.fields import FieldInfo

from juglant.core.recipes.brief import Brief
from juglant.core.recipes.chain import DriveStage
from juglant.core.recipes.ducking import Ducking
from juglant.core.recipes.hit import Hit, MadeHat
from juglant.core.recipes.notes import on_beats
from juglant.core.recipes.parts import Chord, Output, Outputs, Sum
from juglant.core.recipes.sections import Entry, Section, Track
from juglant.core.recipes.track import TrackState
from juglant.core.words import changes, told
from tests.fields import changed, fields

HAT = Hit.of(MadeHat(), name="Hat", kind="hat", steps=on_beats(1.5, 2.5))
STATE = TrackState.of(
    brief=Brief(chord_roots=("tonic", "tonic")), hits=(HAT,), chords=(Chord(id="pad"),),
    duckings=(Ducking.model_validate({"id": "own", "triggers": ["kick"], "targets": ["hat"]}),),
)  # fmt: skip
GROUP = Outputs(id="group", name="Group", sources=(Output(of="hat"),))
STATE = TrackState.model_validate(STATE.model_dump() | {"parts": [*STATE.parts, GROUP]})
ROOTS = STATE.brief.chord_roots
SECTIONS = tuple(Section(id=id, name=id, chord_roots=ROOTS) for id in ("drop", "break"))
TRACK = Track(state=STATE, sections=SECTIONS, main="drop")


def _named(path: tuple[str | int, ...]) -> str:
    """What the sentence of a field begins with."""
    if path[0] == "brief":
        return "brief: "
    if path[0] == "parts":
        return f"{STATE.parts[int(path[1])].name}: "
    if path[0] == "duckings":
        return ("ducking of bass by Kick", "ducking of Hat by Kick")[int(path[1])]
    return {"sum": "Sum: ", "separate": "what kick and bass give up"}[str(path[0])]


def test_every_field_that_is_changed_is_named_and_nothing_else() -> None:
    seen = said = 0
    for path, value, field in fields(STATE):
        other = changed(STATE, path, value, field)
        if other is None or path[-1] == "bypass" or path[:2] == ("brief", "chord_roots"):
            continue
        found = changes(TRACK, TRACK.with_state("drop", other))
        assert len(found) == 1, path
        assert found[0].startswith(_named(path)), (path, found)
        said += _says(found[0], path, value, field)
        seen += 1
    assert seen > 150
    # All controls and choices are told by their label with what they were.
    assert said > 120


def _says(sentence: str, path: tuple[str | int, ...], value: object, field: FieldInfo | None) -> bool:
    """Whether a sentence has to name the label and the old value of a field, which it then does."""
    if field is None or not field.title or isinstance(value, bool):
        return False
    assert field.title[1:] in sentence, (path, sentence)
    old = f"{value:.5g}".replace("-", "−") if isinstance(value, float) else str(value)
    assert f"{old} → " in sentence, (path, sentence)
    return True


@pytest.mark.parametrize(
    ("new", "said"),
    [
        ({"level_db": -3.0}, "Hat: hit level 0 → −3 dB"),
        ({"steps": on_beats(1.5)}, "Hat: strokes 2 → 1"),
        ({"chain": (DriveStage(),)}, "Hat: drive added"),
        ({"steps": on_beats(1.5, 3.5)}, "Hat: stroke 2: beat 2.5 → 3.5"),
        ({"mute": True}, "Hat: mute on"),
    ],
)
def test_a_change_is_told_with_what_it_was_and_is(new: dict[str, object], said: str) -> None:
    other = STATE.with_part(STATE.hits[0].model_copy(update=new))
    assert changes(TRACK, TRACK.with_state("drop", other)) == [said]


def test_chords_are_told_by_their_bar_and_what_is_many_is_counted() -> None:
    brief = STATE.brief.model_copy(update={"chord_roots": ("tonic", "F")})
    after = TRACK.with_state("drop", STATE.model_copy(update={"brief": brief}))
    assert "brief: chord of bar 2 tonic → F" in changes(TRACK, after)
    many = STATE.hits[0].model_copy(update={"level_db": -3.0, "mute": True, "steps": (), "vary": 0.5})
    found = changes(TRACK, TRACK.with_state("drop", STATE.with_part(many)))
    assert len(found) == 1
    assert found[0].endswith(" and 1 more")


def test_what_differs_in_a_section_is_named_with_it() -> None:
    own = STATE.with_part(STATE.hits[0].model_copy(update={"level_db": -3.0}))
    track = TRACK.with_state("break", own)
    assert changes(TRACK, track) == ["break: Hat shape"]
    louder = STATE.with_part(STATE.hits[0].model_copy(update={"level_db": -6.0}))
    assert changes(track, track.with_state("break", louder)) == ["break: Hat shape: hit level −3 → −6 dB"]
    assert changes(track, track.following("break", "hat", "shape")) == ["break: Hat shape follows main"]
    assert changes(track, track.renamed("break", "bridge")) == ["break is bridge now"]
    main = track.with_main("break")
    assert "break is main" in changes(track, main)


@pytest.mark.parametrize(
    ("after", "said"),
    [
        (TRACK, []),
        (TRACK.arranged((Entry(section="break", bars=4),)), ["arrangement"]),
        (TRACK.with_section("intro", "intro", "drop"), ["section intro added"]),
        (TRACK.without_section("break"), ["section break removed"]),
        (TRACK.with_state("drop", STATE.with_part(Sum(stages=(DriveStage(),)))), ["Sum: drive added"]),
        (
            TRACK.with_state("drop", STATE.with_part(STATE.hits[0].model_copy(update={"name": "Shaker"}))),
            ["Hat is Shaker now"],
        ),
    ],
)
def test_what_comes_goes_and_is_renamed(after: Track, said: list[str]) -> None:
    assert changes(TRACK, after) == said


def test_parts_and_duckings_come_and_go() -> None:
    pad = Chord(id="two", name="Pad 2")
    more = STATE.model_copy(update={"parts": (*STATE.parts, pad)})
    after = TRACK.with_state("drop", TrackState.model_validate(more.model_dump()))
    assert changes(TRACK, after) == ["Pad 2 added"]
    assert changes(after, TRACK) == ["Pad 2 removed"]
    fewer = STATE.model_copy(update={"duckings": STATE.duckings[:1]})
    assert changes(TRACK, TRACK.with_state("drop", fewer)) == ["ducking of Hat by Kick removed"]


def test_one_line_says_the_first_few_and_how_many_more() -> None:
    brief = STATE.brief.model_copy(
        update={"bpm": 100.0, "tonic": "C", "mode": "major", "swing_percent": 60.0, "a4_hz": 442.0}
    )
    after = TRACK.with_state("drop", STATE.model_copy(update={"brief": brief}))
    assert told(TRACK, after).endswith(" · and 1 more")
    assert told(TRACK, after).startswith("brief: tempo 128 → 100 BPM · brief: swing 50 → 60 %")
    assert told(TRACK, TRACK) == ""
