"""Duckings aimed at what is heard: so many dB, back on a note value."""

import numpy as np
import pytest

from juglant.core.errors import UserError
from juglant.core.lowend.aimed import aimed
from juglant.core.lowend.ducking import RETURNED_DB, shape_db
from juglant.core.lowend.session import Session
from juglant.core.measure.pumping import pumping
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.ducking import Ducking
from juglant.core.recipes.hit import Hit, MadeHat
from juglant.core.recipes.notes import HitStep
from juglant.core.recipes.parts import Chord
from juglant.core.recipes.track import TrackState

SESSION = Session()
SIXTEENTHS = tuple(HitStep(at=n / 4) for n in range(16))


def _state(one: Ducking, *more: Ducking, bpm: float = 124.0) -> TrackState:
    hat = Hit.of(MadeHat(), id="hat", name="Hat", kind="hat", steps=SIXTEENTHS)
    return TrackState.of(
        brief=Brief(bpm=bpm, chord_roots=("tonic", "tonic")), hits=(hat,),
        chords=(Chord(),), duckings=(one, *more),
    )  # fmt: skip


def _ducking(**fields: object) -> Ducking:
    given = {"id": "one", "triggers": ["kick"], "targets": ["hat", {"part": "pad", "share": 0.6}], **fields}
    return Ducking.model_validate(given)


@pytest.mark.thorough
@pytest.mark.parametrize("target", ["hat", "pad"])
@pytest.mark.parametrize("wish_db", [2.0, 4.0, 9.0])
@pytest.mark.parametrize("back_on", ["", "1/16", "1/8."])
def test_hats_four_db_heard_back_on_a_sixteenth(target: str, wish_db: float, back_on: str) -> None:
    one = _ducking()
    state = _state(one)
    found = aimed(SESSION, state, one, target, wish_db, back_on)
    assert found.complete
    assert found.heard_db == pytest.approx(wish_db, abs=0.5)
    # Measured again from what the page would play.
    set_ = state.with_ducking(one.model_copy(update={"duck": found.recipe}))
    loop = SESSION.parts.part(set_, target)
    assert loop is not None
    ducked = SESSION.parts.turned_down(set_, loop, SESSION.parts.acting(set_, target))
    assert pumping(loop.heard, ducked.heard).depth_db == pytest.approx(wish_db, abs=0.5)
    if back_on:
        at = np.arange(0.0, 900.0, 0.5)
        low = at[shape_db(found.recipe, at) <= RETURNED_DB]
        value_ms = {"1/16": 15000 / 124, "1/8.": 45000 / 124}[back_on]
        assert low[-1] == pytest.approx(value_ms, abs=3.0)


def test_what_cannot_be_reached_is_said_with_how_near_it_came() -> None:
    one = _ducking(duck=DuckRecipe(attack_ms=1.0, hold_ms=0.0, release_ms=20.0))
    found = aimed(SESSION, _state(one), one, "pad", 30.0)
    assert not found.complete
    assert found.heard_db < 29.5


def test_what_makes_no_sense_is_refused_with_its_reason() -> None:
    one = _ducking()
    state = _state(one)
    with pytest.raises(UserError, match="does not reach bass"):
        aimed(SESSION, state, one, "bass", 4.0)
    muted = state.with_part(state.hits[0].model_copy(update={"mute": True}))
    with pytest.raises(UserError, match="Hat is not heard"):
        aimed(SESSION, muted, one, "hat", 4.0)
    silent = _ducking(triggers=["tick"])
    tick = Hit(id="tick", name="Tick", steps=())
    with pytest.raises(UserError, match="Nothing starts this ducking"):
        aimed(SESSION, state.model_copy(update={"parts": (*state.parts, tick)}), silent, "hat", 4.0)
    deep = Ducking.model_validate({
        "id": "deep", "rate": "1/4", "targets": ["hat"], "duck": DuckRecipe(depth_db=18.0),
    })  # fmt: skip
    with pytest.raises(UserError, match="other duckings alone"):
        aimed(SESSION, _state(one, deep), one, "hat", 4.0)
