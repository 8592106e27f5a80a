"""The sum: what everything passes together, in the loop, in sections and in the arrangement."""

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from pydantic import ValidationError

from juglant.core.hits.chain import apply_stage
from juglant.core.lowend.session import Session
from juglant.core.lowend.sounded import sounded
from juglant.core.lowend.straight import Straight
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.chain import DriveStage, SpaceStage
from juglant.core.recipes.dynamics import LimitStage
from juglant.core.recipes.hit import Hit, MadeHat
from juglant.core.recipes.moves import Move, MovePoint
from juglant.core.recipes.notes import on_beats
from juglant.core.recipes.parts import SUM, Output, Outputs, Sum
from juglant.core.recipes.place import Place
from juglant.core.recipes.sections import Entry, Section, Track
from juglant.core.recipes.track import TrackState
from juglant.files.handed import section_files
from tests.signals import RATE, Array

SESSION = Session()
HAT = Hit.of(MadeHat(), name="Hat", kind="hat", steps=on_beats(1.5, 2.5))
BASE = TrackState.of(brief=Brief(bpm=120.0, chord_roots=("tonic", "tonic")), hits=(HAT,))


def _whole(state: TrackState) -> Array:
    one = SESSION.sounding_part(state, SUM)
    assert one is not None
    return one.heard.samples


def _added(state: TrackState) -> Array:
    whole: Array = np.sum([one.heard.mono for one in SESSION.sounding(state)], axis=0)
    return whole


@pytest.mark.thorough
def test_a_sum_to_which_nothing_is_done_is_everything_added_and_leaves_no_trace() -> None:
    assert np.allclose(_whole(BASE), _added(BASE), rtol=0, atol=1e-6)
    assert "the-sum" not in BASE.text
    assert not BASE.sum.acts


@pytest.mark.thorough
def test_its_gain_and_its_chain_act_on_all_together() -> None:
    softer = BASE.with_part(Sum(place=Place(gain_db=-6.0)))
    assert np.allclose(_whole(softer), _added(BASE) * 10 ** (-6 / 20), rtol=0, atol=1e-6)
    driven = BASE.with_part(Sum(stages=(DriveStage(drive_db=12.0),)))
    whole = _whole(driven)
    # What is driven together has tones that parts driven one by one do not have.
    apart = np.sum(
        [
            apply_stage(one.heard.mono, DriveStage(drive_db=12.0), RATE, 120.0)
            for one in SESSION.sounding(BASE)
        ],
        axis=0,
    )
    assert np.sqrt(np.mean((whole - apart) ** 2)) > 0.1 * np.sqrt(np.mean(apart**2))
    # Kick and bass are judged as they go into it.
    assert np.array_equal(SESSION.loop(driven).kick.samples, SESSION.loop(BASE).kick.samples)
    assert sounded(SESSION, driven) != sounded(SESSION, BASE)


def test_one_db_of_limiting_on_the_sum_takes_one_db() -> None:
    limited = _whole(BASE.with_part(Sum(stages=(LimitStage(amount_db=1.0),))))
    taken = 20 * np.log10(np.max(np.abs(_added(BASE))) / np.max(np.abs(limited)))
    assert taken == pytest.approx(1.0, abs=0.1)


@pytest.mark.thorough
def test_before_the_duckings_it_is_heard_through_the_same_chain() -> None:
    one = SESSION.sounding_part(BASE.with_part(Sum(place=Place(gain_db=-6.0))), SUM)
    assert one is not None
    plain = np.sum([part.before.mono for part in SESSION.sounding(BASE)], axis=0)
    assert np.allclose(one.before.samples, plain * 10 ** (-6 / 20), rtol=0, atol=1e-6)


def test_its_gain_moves_with_the_loop() -> None:
    move = Move(of="place", control="gain_db", over="2 bars", points=(MovePoint(at=0.0, value=0.0), MovePoint(at=1.0, value=-24.0)))  # fmt: skip
    moved = _whole(BASE.with_part(Sum(moves=(move,))))
    ratio = np.abs(moved[-RATE // 2 :]).max() / np.abs(_added(BASE)[-RATE // 2 :]).max()
    assert 20 * np.log10(ratio) < -15.0


def _track() -> Track:
    roots = BASE.brief.chord_roots
    sections = (Section(id="drop", name="drop", chord_roots=roots), Section(id="break", name="break", chord_roots=roots))  # fmt: skip
    return Track(state=BASE, sections=sections, main="drop")


def test_a_section_has_a_sum_of_its_own_until_it_follows_again() -> None:
    track = _track().with_state("break", BASE.with_part(Sum(place=Place(gain_db=-9.0))))
    assert track.at("break").sum.place.gain_db == -9.0
    assert track.at("drop") == BASE
    # Under another main every section sounds as before.
    turned = track.with_main("break")
    assert (turned.at("break").sum.place.gain_db, turned.at("drop").sum.place.gain_db) == (-9.0, 0.0)
    # What main gets reaches it only where it follows.
    wide = track.with_state("drop", BASE.with_part(Sum(stages=(LimitStage(),))))
    assert wide.at("break").sum.stages == (LimitStage(),)
    assert wide.at("break").sum.place.gain_db == -9.0
    assert track.following("break", SUM, "place").at("break").sum == Sum()


@pytest.mark.thorough
def test_played_straight_a_repeated_bar_is_as_in_the_loop(tmp_path: Path) -> None:
    """Within -60 dB, as every part."""
    whole = Sum(
        stages=(DriveStage(drive_db=6.0),), place=Place(gain_db=-3.0), after=(SpaceStage(decay_ms=300.0),)
    )
    state = BASE.with_part(whole)
    track = _track().with_state("drop", state).arranged((Entry(section="drop", bars=8),))
    straight = Straight(SESSION, track, str(tmp_path))
    try:
        want = _whole(state)
        got = straight.heard(SUM).read(2 * want.shape[0], 3 * want.shape[0])
        assert got.shape == want.shape
        assert np.max(np.abs(got - want)) < np.max(np.abs(want)) * 1e-3
    finally:
        straight.close()


@pytest.mark.thorough
def test_it_is_handed_over_where_something_is_done_to_it() -> None:
    assert "x_loop_sum_120bpm.wav" not in section_files(SESSION, "x", BASE)
    files = section_files(SESSION, "x", BASE.with_part(Sum(stages=(LimitStage(),))))
    assert "x_loop_sum_120bpm.wav" in files
    assert "groups and the sum" in files["x_sheet.txt"].decode()


REFUSED: list[tuple[dict[str, Any], str]] = [
    ({"duckings": [*BASE.model_dump()["duckings"], {"id": "two", "triggers": ["kick"], "targets": [SUM]}]}, "duck the parts"),
    ({"duckings": [*BASE.model_dump()["duckings"], {"id": "two", "triggers": [SUM], "targets": ["hat"]}]}, "duck the parts"),
    ({"parts": [*BASE.model_dump()["parts"], Outputs(id="made", sources=(Output(of=SUM),)).model_dump()]}, "goes into the sum"),
    ({"sum": {"mute": True}}, "mute"),
    ({"sum": {"stages": [{"stage": "trim"}]}}, "works on a single stroke"),
]  # fmt: skip


@pytest.mark.parametrize(("given", "why"), REFUSED)
def test_what_cannot_be_done_with_it_is_refused_with_the_reason(given: dict[str, Any], why: str) -> None:
    with pytest.raises(ValidationError, match=why):
        TrackState.model_validate({**BASE.model_dump(), **given})


def test_a_part_of_that_name_gets_another_id() -> None:
    state = TrackState.of(hits=(Hit.of(MadeHat(), name="The sum", kind="hat"),))
    assert state.hits[0].id != SUM
