"""A fix that changes a sound takes what was solved for it along."""

import pytest

from juglant.core.findings import findings, fixes
from juglant.core.findings.judge import effect
from juglant.core.lowend.part import solved_for
from juglant.core.lowend.session import Session
from juglant.core.recipes.bass import PATTERNS, BassRecipe
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.hit import Hit, MadeKick
from juglant.core.recipes.kick import KickRecipe
from juglant.core.recipes.parts import MadeBass
from juglant.core.recipes.track import TrackState

SESSION = Session()
AGAIN = ", and solve again what was fitted to it"


def _solved(end_hz: float, level_db: float = -5.0) -> TrackState:
    state = TrackState.of(
        brief=Brief(bpm=126.0, tonic="G", mode="minor", chord_roots=("tonic",)),
        kick=Hit.of(MadeKick(recipe=KickRecipe(end_hz=end_hz, level_db=level_db))),
        bass=MadeBass(recipe=BassRecipe(pattern=PATTERNS["with the kick"], level_db=level_db - 4.0)),
    )
    duck = SESSION.solve_ducking(state).recipe
    return state.with_duck(duck=duck, on=True, solved_for=solved_for(state))


def test_a_kick_is_tuned_and_the_ducking_that_was_solved_for_it_is_solved_again() -> None:
    state = _solved(50.6)
    answer = SESSION.answer(state)
    [fix] = fixes(SESSION, answer, "off-key-kick")
    assert fix.label == f"Tune to G1{AGAIN}"
    assert fix.closes
    assert fix.opens == []
    mended = effect(SESSION, answer, "off-key-kick").state
    assert mended.duckings[0].solved_for == solved_for(mended) != state.duckings[0].solved_for
    assert findings(SESSION, SESSION.answer(mended)) == []


def test_what_was_never_solved_is_not_solved_by_the_way() -> None:
    state = _solved(50.6).with_duck(solved_for="")
    answer = SESSION.answer(state)
    [fix] = fixes(SESSION, answer, "off-key-kick")
    assert fix.label == "Tune to G1"
    mended = effect(SESSION, answer, "off-key-kick").state
    assert (mended.duck, mended.duckings[0].solved_for) == (state.duck, "")


def test_what_was_outdated_already_stays_the_producer_s_to_solve() -> None:
    state = _solved(50.6).with_duck(solved_for="0123456789abcdef")
    answer = SESSION.answer(state)
    assert "duck-outdated" in [one.id for one in findings(SESSION, answer)]
    mended = effect(SESSION, answer, "off-key-kick").state
    assert mended.duck == state.duck
    assert mended.duckings[0].solved_for == state.duckings[0].solved_for


@pytest.mark.parametrize("level_db", [0.0])
def test_a_mix_that_clips_is_lowered_though_its_ducking_was_solved(level_db: float) -> None:
    state = _solved(49.0, level_db)
    answer = SESSION.answer(state)
    peaks = [one.id for one in findings(SESSION, answer) if one.id.endswith("peak")]
    assert peaks
    for id in peaks:
        offered = fixes(SESSION, answer, id)
        assert offered, id
        assert all(one.opens == [] for one in offered)
