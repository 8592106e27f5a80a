"""Kicks of intro, break and drop, and kicks that follow the chords."""

import numpy as np
import pytest
from pydantic import ValidationError

from juglant.core.errors import UserError
from juglant.core.findings import effect, findings
from juglant.core.lowend import pitches
from juglant.core.lowend.session import Session
from juglant.core.measure.hit import measure
from juglant.core.music import cents_between
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.hit import Hit, MadeKick
from juglant.core.recipes.kick import KickRecipe
from juglant.core.recipes.track import SectionKick, TrackState
from tests.signals import RATE
from tests.tracks import changed

SESSION = Session()
LONG = Hit.of(MadeKick(recipe=KickRecipe(end_hz=55.0, decay_ms=1000.0, length_ms=460.0)))
MOVING = TrackState.of(brief=Brief(bpm=128.0, chord_roots=("A", "B", "E", "F")), kick=LONG)


def _finding(state: TrackState) -> dict[str, str] | None:
    found = {one.id: one for one in findings(SESSION, SESSION.answer(state))}
    return found["kick-out-of-chord"].fixes if "kick-out-of-chord" in found else None


def test_another_section_has_its_own_kick_and_ducking_and_coming_back_changes_nothing() -> None:
    there = MOVING.at("break")
    assert there.section == "break"
    assert there.kick == MOVING.kick
    short = Hit.of(MadeKick(recipe=KickRecipe(length_ms=120.0)))
    there = changed(there, kick=short, duck=DuckRecipe(depth_db=3.0))
    back = there.at("drop")
    assert (back.kick, back.duck) == (MOVING.kick, MOVING.duck)
    assert (back.at("break").kick.layers, back.at("break").duck) == (short.layers, DuckRecipe(depth_db=3.0))
    assert back.model_copy(update={"kicks": ()}) == MOVING
    assert back.at("intro").sections == ("intro", "break", "drop")


def test_a_section_has_one_kick() -> None:
    with pytest.raises(ValidationError, match="one kick"):
        TrackState.of(kicks=(SectionKick(section="drop", kick=LONG),))


def test_every_section_s_kick_is_listed_and_tuned_in_its_place() -> None:
    off = Hit.of(MadeKick(recipe=KickRecipe(end_hz=57.0)), aim="fifth")
    state = TrackState.of(kick=LONG, kicks=(SectionKick(section="break", kick=off),))
    rows = pitches.table(SESSION, state)
    assert [(row.id, row.section) for row in rows] == [("kick", "drop"), ("kick", "break")]
    assert rows[1].moves[0].note.startswith("E")
    assert pitches.table(SESSION, TrackState())[0].section is None
    tuned, changes = pitches.tuned_all(SESSION, state)
    assert tuned.section == "drop"
    assert [change.section for change in changes if change.name == "Kick"][-1] == "break"
    hz = SESSION.measured_hit(tuned.kicks[0].kick, state.brief).hit.fundamental_hz
    assert hz is not None
    assert abs(cents_between(hz, 440 * 2 ** (-41 / 12))) < 2  # E1
    with pytest.raises(UserError, match="no kick of its own"):
        pitches.tuned_to(SESSION, state, "kick", "E1", "intro")


@pytest.mark.parametrize(("root", "moved"), [("A", 0), ("B", 2), ("D#", 6), ("E", -5), ("G#", -1)])
def test_a_root_is_reached_the_short_way(root: str, moved: int) -> None:
    assert Brief(tonic="A", chord_roots=("tonic", root)).moved_by(1) == moved


def test_a_kick_that_follows_sounds_every_chord_s_note() -> None:
    """The strokes of each bar, cut from the loop and measured by themselves."""
    state = MOVING.with_kick(LONG.model_copy(update={"follow": "yes"}))
    loop = SESSION.kick_loop(state).samples
    own = SESSION.measured_hit(LONG, state.brief).hit.fundamental_hz
    assert own is not None
    bar = loop.size // 4
    for n in range(4):
        stroke = loop[n * bar : n * bar + round(60 / 128 * RATE)]
        hz = measure(stroke, RATE, 440.0, False).hit.fundamental_hz
        assert hz is not None
        assert 1200 * np.log2(hz / own) == pytest.approx(100 * state.brief.moved_by(n), abs=5)


def test_a_long_kick_over_moving_chords_is_shortened_given_a_break_or_retuned() -> None:
    assert set(_finding(MOVING) or {}) == {"shorten", "break", "follow"}
    answer = SESSION.answer(MOVING)
    for way in ("shorten", "break", "follow"):
        mended = effect(SESSION, answer, "kick-out-of-chord", way)
        assert "kick-out-of-chord" in mended.closes, way
    broken = effect(SESSION, answer, "kick-out-of-chord", "break").state
    assert broken.section == "break"
    assert broken.at("drop").kick == MOVING.kick
    with pytest.raises(UserError, match="no such fix"):
        effect(SESSION, answer, "kick-out-of-chord", "pray")


def test_what_a_ducking_was_solved_for_goes_with_its_section() -> None:
    state = MOVING.with_duck(solved_for="ab12")
    there = state.at("break").with_duck(solved_for="cd34")
    assert there.at("drop").duckings[0].solved_for == "ab12"
    assert there.at("drop").at("break").duckings[0].solved_for == "cd34"
