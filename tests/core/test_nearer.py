"""How far a move towards a record goes: as far as the difference, times what the last try left."""

import numpy as np
import pytest

from juglant.core.hits.reported import CURVE_HZ
from juglant.core.lowend.ducking import curve_db
from juglant.core.measure.record import Difference
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.hit import Hit, MadeKick
from juglant.core.recipes.kick import KickRecipe
from juglant.core.recipes.track import TrackState
from juglant.core.referencing.against import _as_long, _balanced, _deeper, _returning

KICK = KickRecipe(decay_ms=300.0, hold_ms=10.0, length_ms=320.0, level_db=-4.0)
STATE = TrackState.of(
    brief=Brief(bpm=126.0), kick=Hit.of(MadeKick(recipe=KICK)), duck=DuckRecipe(depth_db=9.0), ducking=False
)


def _by(name: str, a: float, difference: float) -> Difference:
    return Difference(name, a, a + difference, difference, "", "", None, 1.0)


@pytest.mark.parametrize(("scale", "depth_db"), [(1.0, 12.0), (0.5, 10.5), (-1.0, 6.0), (40.0, 48.0)])
def test_the_ducking_gets_deeper_by_what_is_different_and_acts(scale: float, depth_db: float) -> None:
    made = _deeper(STATE, _by("ducking_depth_db", 9.0, 3.0), scale)
    assert (made.duck.depth_db, made.duckings[0].on) == (depth_db, True)


@pytest.mark.parametrize(("scale", "back_ms"), [(1.0, 260.0), (0.5, 230.0), (-2.0, 80.0), (-6.0, 20.0)])
def test_the_bass_is_back_when_the_record_has_it(scale: float, back_ms: float) -> None:
    made = _returning(STATE, _by("ducking_return_ms", 200.0, 60.0), scale)
    gain = curve_db(made.duck, [0.0], 1000.0, 0.1, loop=False)
    assert 0.1 * float(np.flatnonzero(gain <= -1.0)[-1]) == pytest.approx(back_ms, abs=2.0)


@pytest.mark.parametrize(("difference", "factor"), [(100.0, 1.5), (40.0, 1.2)])
def test_a_kick_is_made_longer_in_all_that_makes_it_long(difference: float, factor: float) -> None:
    made = _as_long(STATE, _by("kick_length_ms", 200.0, difference), 1.0).kick.layers[0].source
    assert isinstance(made, MadeKick)
    got = made.recipe
    assert (got.decay_ms, got.hold_ms, got.length_ms) == pytest.approx(
        (300.0 * factor, 10.0 * factor, 320.0 * factor)
    )


def test_a_kick_is_made_shorter_and_no_shorter_than_a_fifth() -> None:
    for difference, least, most in ((-50.0, 0.6, 0.9), (-190.0, 0.15, 0.45)):
        made = _as_long(STATE, _by("kick_length_ms", 200.0, difference), 1.0).kick.layers[0].source
        assert isinstance(made, MadeKick)
        assert least * 300.0 < made.recipe.decay_ms < most * 300.0


def test_the_louder_of_kick_and_bass_is_turned_down() -> None:
    kick = _balanced(STATE, _by("kick_over_bass_db", 6.0, -2.0), 1.0)
    assert (kick.kick.level_db, kick.voices[0].place.gain_db) == (-2.0, 0.0)
    bass = _balanced(STATE, _by("kick_over_bass_db", 2.0, 3.0), 0.5)
    assert (bass.kick.level_db, bass.voices[0].place.gain_db) == (0.0, -1.5)


def test_an_equaliser_is_drawn_over_the_ten_octaves_that_are_heard() -> None:
    assert (CURVE_HZ.size, round(CURVE_HZ[0], 6), round(CURVE_HZ[-1], 6)) == (96, 20.0, 20000.0)
