"""A kick changed late: what was solved for the old one says so, and changes only when asked."""

import json
from pathlib import Path

import pytest

from juglant.core.findings import effect, findings
from juglant.core.lowend.part import ducking_solved_for, solved_for
from juglant.core.lowend.separation import solve
from juglant.core.lowend.session import Session
from juglant.core.recipes.bass import PATTERNS, BassRecipe
from juglant.core.recipes.hit import Hit, MadeKick
from juglant.core.recipes.kick import KickRecipe
from juglant.core.recipes.parts import MadeBass
from juglant.core.recipes.sections import Track
from juglant.core.recipes.track import TrackState

SESSION = Session()
LONGER = Hit.of(MadeKick(recipe=KickRecipe(decay_ms=500.0, length_ms=420.0)))


def _ids(state: TrackState) -> list[str]:
    return [one.id for one in findings(SESSION, SESSION.answer(state))]


def _solved() -> TrackState:
    together = MadeBass(recipe=BassRecipe(pattern=PATTERNS["with the kick"]))
    state = TrackState.of(bass=together)
    recipe = SESSION.solve_ducking(state).recipe
    return state.with_duck(duck=recipe, solved_for=solved_for(state))


def test_a_solved_ducking_says_when_the_kick_is_another_one_and_is_solved_again_only_if_asked() -> None:
    state = _solved()
    assert "duck-outdated" not in _ids(state)
    late = state.with_kick(LONGER)
    assert "duck-outdated" in _ids(late)
    assert late.duck == state.duck
    mended = effect(SESSION, SESSION.answer(late), "duck-outdated")
    assert "duck-outdated" in mended.closes
    assert mended.state.duck == SESSION.solve_ducking(late).recipe
    assert mended.state.duck != state.duck
    # The old kick again: the old answer is right again.
    assert "duck-outdated" not in _ids(late.with_kick(state.kick))


def test_a_name_a_place_or_another_section_outdates_nothing() -> None:
    state = _solved()
    renamed = state.with_kick(state.kick.model_copy(update={"name": "Thump", "aim": "fifth"}))
    assert "duck-outdated" not in _ids(renamed)
    assert "duck-outdated" not in _ids(TrackState().with_kick(LONGER))
    faster = state.model_copy(update={"brief": state.brief.model_copy(update={"bpm": 150.0})})
    assert "duck-outdated" in _ids(faster)


@pytest.mark.thorough
def test_a_separation_is_searched_for_again() -> None:
    state = TrackState.of(ducking=False)
    *_, (_, degrees) = solve(SESSION, state)
    assert degrees
    parted = state.model_copy(
        update={"separate": degrees[-1].tried.recipe, "separate_for": solved_for(state)}
    )
    assert "separate-outdated" not in _ids(parted)
    late = parted.with_kick(LONGER)
    mended = effect(SESSION, SESSION.answer(late), "separate-outdated")
    assert "separate-outdated" in mended.closes
    assert mended.state.separate != late.separate


def test_what_was_solved_by_an_earlier_version_is_still_solved_for_the_same_sounds() -> None:
    """A state as it was stored before, with what its solutions were then said to be for."""
    stored = json.loads((Path(__file__).parent / "solved_before.json").read_text())
    state = Track.model_validate(stored["state"]).state
    assert solved_for(state) == stored["solved_for"]
    assert [ducking_solved_for(state, one) for one in state.duckings[1:]] == stored["bus_solved_for"]
    later = state.with_bass("bass", state.bass.model_copy(update={"begin_ms": 5.0}))
    assert solved_for(later) != stored["solved_for"]
    heard = state.with_kick(state.kick.model_copy(update={"heard_hz": 50.0}))
    assert solved_for(heard) == stored["solved_for"]
