"""Recipes: one place for every limit, and nothing else gets in."""

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from juglant.core.hits.making import softer
from juglant.core.recipes.bass import PATTERNS, BassRecipe
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.chain import STAGES, DriveStage
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.fields import Control, Recipe, control, control_sheet, is_off, of_role, within
from juglant.core.recipes.hit import RECIPES as MADE
from juglant.core.recipes.hit import Hit, Imported, Layer, Velocity
from juglant.core.recipes.notes import on_beats
from juglant.core.recipes.parts import MadeBass
from juglant.core.recipes.place import Place
from juglant.core.recipes.recording import Recording
from juglant.core.recipes.track import TrackState

RECIPES: list[type[Recipe]] = [
    BassRecipe,
    DuckRecipe,
    Brief,
    Layer,
    Velocity,
    *MADE.values(),
    *STAGES.values(),
    Recording,
]
CONTROLS = [(recipe, control) for recipe in RECIPES for control in control_sheet(recipe).controls]


@pytest.mark.parametrize(("recipe", "control"), CONTROLS, ids=lambda one: getattr(one, "name", ""))
def test_a_control_goes_to_its_limits_and_no_further(recipe: type[Recipe], control: Control) -> None:
    needed = {"audio": "c" * 64, "name": "x"} if recipe is Recording else {}
    for value in (control.low, control.high, control.default):
        made = recipe.model_validate({**needed, control.name: value})
        assert getattr(made, control.name) == value
    beyond = (control.low - 2 * control.step, control.high + 2 * control.step)
    for wrong in (*beyond, float("nan"), "loud"):
        with pytest.raises(ValidationError):
            recipe.model_validate({**needed, control.name: wrong})


@pytest.mark.parametrize(("recipe", "control"), CONTROLS, ids=lambda one: getattr(one, "name", ""))
def test_a_control_explains_itself(recipe: type[Recipe], control: Control) -> None:
    # What it does, and why one would turn it.
    assert control.help.endswith(".")
    assert len(control.help.split()) >= 6
    assert control.group
    assert 0 < control.step <= control.high - control.low
    if control.scale == "log":
        assert control.low > 0
    if control.off is not None:
        # At one end, or where nothing is added and nothing taken away.
        assert control.off in (control.low, control.high, 0.0, 1.0)
    assert control.name in recipe.model_fields


@pytest.mark.parametrize("recipe", RECIPES)
def test_the_important_ones_come_first(recipe: type[Recipe]) -> None:
    mains = [control.main for control in control_sheet(recipe).controls]
    assert mains == sorted(mains, reverse=True)
    assert any(mains)


def test_a_state_reads_back_from_json_as_it_was_and_cannot_be_changed_in_place() -> None:
    state = TrackState.of(
        brief=Brief(bpm=123.45, tonic="Gb", mode="lydian", chord_roots=("Gb", "tonic", "Db")),
        kick=Hit.of(
            Imported(audio="c" * 64, name="🙂.wav", shift_semitones=-1.2345), steps=on_beats(1, 3.75)
        ),
        bass=MadeBass(recipe=BassRecipe(pattern=PATTERNS["gallop"])),
    )
    again = TrackState.model_validate_json(state.model_dump_json())
    assert again == state
    assert hash(again) == hash(state)
    with pytest.raises(ValidationError):
        state.ducking = False  # type: ignore[misc]


@pytest.mark.parametrize(
    "wrong",
    [
        {"kick": {"kind": "borrowed"}},
        {"kick": {"kind": "imported", "audio": "../../etc/passwd", "name": "x"}},
        {"kick": {"kind": "imported", "audio": "c" * 64, "name": "x" * 201}},
        {"brief": {"chord_roots": []}},
        {"brief": {"chord_roots": ["C"] * 9}},
        {"brief": {"kick_beats": []}},
        {"brief": {"kick_beats": [5.0]}},
        {"bass": {"kind": "made", "recipe": {"pattern": []}}},
        {"bass": {"kind": "made", "recipe": {"pattern": [{"at": 4.01, "beats": 1}]}}},
        {"surprise": 1},
    ],
)
def test_what_is_no_state_is_refused(wrong: dict[str, object]) -> None:
    with pytest.raises(ValidationError):
        TrackState.model_validate_json(json.dumps(wrong))


@given(st.integers(0, 20), st.sampled_from(["tonic", "F#", "Db"]))
def test_chord_roots_repeat_over_the_bars(bar: int, root: str) -> None:
    brief = Brief.model_validate({"tonic": "B", "chord_roots": ["B", root]})
    assert brief.root_of(bar) == ("B" if bar % 2 == 0 or root == "tonic" else root)


def test_every_pattern_fits_the_bar() -> None:
    for name, pattern in PATTERNS.items():
        assert BassRecipe(pattern=pattern).pattern == pattern, name
        assert all(note.at + note.beats <= 4.001 for note in pattern), name


def test_a_copy_is_told_apart_and_what_is_kept_of_a_recipe_makes_no_difference() -> None:
    hit = Hit()
    text = hit.text
    assert hit.sounding.text
    assert hit == Hit()
    assert hash(hit) == hash(Hit())
    quieter = hit.model_copy(update={"level_db": -6.0})
    assert quieter.text != text
    assert quieter.text == Hit(level_db=-6.0).text
    assert quieter.sounding == Hit(level_db=-6.0).sounding
    assert hit.model_copy().text == text
    assert "text" not in hit.model_dump()


def test_a_control_is_known_by_its_role() -> None:
    class Ringing(Recipe):
        first_ms: float = control(
            500.0, 50.0, 900.0, 1.0, "ms", "Ring", "Until gone.", "Ring", role="decay"
        )
        fall: float = control(24.0, 0.0, 48.0, 0.5, "st", "Fall", "How far it falls.", "Ring", role="sweep")
        at_hz: float = control(50.0, 30.0, 90.0, 0.1, "Hz", "Pitch", "Its note.", "Ring", role="note")

    soft = softer(Ringing(), Velocity(decay=1.0, pitch=0.5), 0.05)
    # Common practice: a softer stroke is shorter and bends less, at the same note; 5 % of 500 ms is below
    # the least of the control.
    assert (soft.first_ms, round(soft.fall, 6), soft.at_hz) == (50.0, 12.6, 50.0)


def test_where_a_control_does_nothing_is_written_with_it() -> None:
    assert is_off(DriveStage(mix=0.0), "mix")
    assert not is_off(DriveStage(mix=0.01), "mix")
    assert is_off(Place(), "delay_ms", "gain_db")
    assert not is_off(Place(delay_ms=0.01), "delay_ms", "gain_db")


def test_values_are_held_within_a_control_s_limits() -> None:
    assert within(Place(), gain_db=24.01).gain_db == 24.0
    assert within(Place(), gain_db=23.99).gain_db == 23.99
    assert within(Place(), delay_ms=-20.01).delay_ms == -20.0


@pytest.mark.parametrize("made", MADE.values(), ids=MADE.keys())
def test_every_made_sound_says_what_rings_and_what_its_note_is(made: type[Recipe]) -> None:
    assert of_role(made, "decay")
    assert of_role(made, "level") == ["level_db"]
    assert len(of_role(made, "note", "tone")) == 1


@pytest.mark.parametrize(
    ("stored", "read"),
    [
        ({"aim": "as usual"}, {"aim": "by kind"}),
        ({"layers": [{"polarity": "turned"}]}, {"layers": [{"polarity": "inverted"}]}),
        ({"chain": [{"stage": "level", "polarity": "as it is"}]}, {"chain": [{"stage": "level"}]}),
    ],
)
def test_a_word_that_was_renamed_is_read_and_names_the_same_sound(
    stored: dict[str, object], read: dict[str, object]
) -> None:
    old, new = Hit.model_validate(stored), Hit.model_validate(read)
    assert old == new
    assert old.text == new.text
    # What a sound was named by before the words changed is what it is named by now.
    assert '"aim":"as usual"' in new.text
    assert "inverted" not in new.text
    assert '"polarity":"inverted"' in Place(polarity="inverted").text
