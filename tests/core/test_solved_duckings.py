"""Any ducking timed by measurement of what starts it and what it turns down."""

import numpy as np
import pytest

from juglant.core.errors import UserError
from juglant.core.findings import effect, findings
from juglant.core.lowend import ducking
from juglant.core.lowend.overview import solve_ducking
from juglant.core.lowend.part import ducking_solved_for
from juglant.core.lowend.session import Session
from juglant.core.measure.levels import k_weighted
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.ducking import Ducking
from juglant.core.recipes.hit import Hit, MadeHat, MadeSnare
from juglant.core.recipes.notes import HitStep
from juglant.core.recipes.parts import Chord, MadeBass, Voice
from juglant.core.recipes.track import TrackState
from tests.signals import RATE, Array
from tests.tracks import changed

SESSION = Session()
STAB = Hit.of(MadeSnare(), name="Stab", kind="snare", steps=(HitStep(at=1.0), HitStep(at=2.5)))
HAT = Hit.of(MadeHat(), name="Hat", kind="hat", steps=tuple(HitStep(at=n + 0.5) for n in range(4)))
STATE = TrackState.of(
    brief=Brief(bpm=120.0, chord_roots=("tonic",)), hits=(STAB, HAT),
    lines=(Voice(name="sub", bass=MadeBass()),), chords=(Chord(),),
)  # fmt: skip


def _one(target: str = "pad", trigger: str = "kick", **fields: object) -> Ducking:
    return Ducking.model_validate(
        {"id": "one", "triggers": [trigger] if trigger else [], "targets": [target], **fields}
    )


def _with(one: Ducking, state: TrackState = STATE) -> TrackState:
    return state.model_copy(update={"duckings": (state.duckings[0], one)})


def _level_db(x: Array) -> Array:
    """K-weighted level of a loop every ms, over 10 ms, by plain means of its power."""
    power = k_weighted(np.concatenate([x, x]), RATE)[x.size :] ** 2
    step, window = RATE // 1000, RATE // 100
    total = np.cumsum(np.concatenate([power[-window // 2 :], power, power[: window // 2]]))
    at = np.arange(0, x.size - step, step)
    power_there = (total[at + window - 1] - total[at]) / window
    return np.asarray(10 * np.log10(np.maximum(power_there, 1e-12)))


@pytest.mark.parametrize(("trigger", "margin_db"), [("kick", 0.0), ("kick", 6.0), ("stab", 3.0)])
def test_a_pad_is_kept_clear_of_what_starts_its_ducking(trigger: str, margin_db: float) -> None:
    one = _one(trigger=trigger, margin_db=margin_db)
    state = _with(one)
    found = solve_ducking(SESSION, state, one)
    assert found.recipe.depth_db > margin_db
    solved = one.model_copy(update={"duck": found.recipe})
    pad = SESSION.parts.chord_loop(state, Chord()).samples
    ducked = SESSION.rest_stems(_with(solved))["pad"].samples
    part = (
        SESSION.parts.kick_loop(state)
        if trigger == "kick"
        else SESSION.parts.hit_loop(state, state.hits[0])
    )
    assert part is not None
    x = part.samples if part.samples.ndim == 1 else part.samples.mean(axis=1)
    there, before, after = (_level_db(one) for one in (x, pad, ducked))
    present = there > there.max() - 18
    covered = [
        float(np.mean((one > there - 6 - margin_db)[present & (before > before.max() - 18)]))
        for one in (before, after)
    ]
    assert covered[0] > 0.05
    assert covered[1] <= 0.1 * covered[0] + 0.005
    starts = [start.at_ms for start in SESSION.parts.starts(state, solved)]
    gaps = ducking.measure_duck(found.recipe, starts, 2000.0, 120.0)
    assert gaps.slack_ms is not None
    assert gaps.slack_ms > 0
    assert len(gaps.slacks_ms) == len(starts)
    assert min(gaps.slacks_ms) == gaps.slack_ms


def test_two_low_sounds_are_parted_in_the_low_band_as_kick_and_bass_are() -> None:
    state = _with(_one("sub"))
    found = solve_ducking(SESSION, state, state.duckings[1])
    alone = changed(state, bass_mute=True)
    assert found.recipe == SESSION.solve_ducking(alone).recipe


def test_the_kick_s_ducking_is_solved_for_the_lines_that_it_reaches() -> None:
    only = STATE.with_duck(targets=STATE.duckings[0].targets[1:])
    alone = changed(STATE, bass_mute=True)
    assert SESSION.solve_ducking(only).recipe == SESSION.solve_ducking(alone).recipe
    with pytest.raises(UserError, match="ducks no line"):
        SESSION.solve_ducking(STATE.with_duck(targets=()))


def test_two_triggers_are_kept_clear_by_one_ducking() -> None:
    both = Ducking.model_validate({"id": "both", "triggers": ["kick", "stab"], "targets": ["pad"]})
    depths = [
        solve_ducking(SESSION, STATE, one).recipe.depth_db for one in (_one(), _one(trigger="stab"), both)
    ]
    assert depths[2] >= max(depths[:2]) - 3.0


def test_a_wider_margin_takes_more() -> None:
    costs = [solve_ducking(SESSION, STATE, _one(margin_db=margin)).cost_db for margin in (0.0, 6.0, 9.0)]
    assert costs == sorted(costs)
    assert SESSION.solve_ducking(STATE, 6.0).recipe.depth_db > SESSION.solve_ducking(STATE).recipe.depth_db


def test_what_never_meets_needs_no_ducking_and_a_muted_hit_is_measured_as_a_ghost() -> None:
    assert solve_ducking(SESSION, STATE, _one("hat", "stab")).recipe.depth_db < 12
    muted = changed(STATE, hits=(STAB.model_copy(update={"mute": True}), HAT))
    pad = _one(trigger="stab")
    found = [solve_ducking(SESSION, state, pad).recipe for state in (STATE, muted)]
    assert found[0] == found[1]


@pytest.mark.parametrize(("one", "said"), [
    (_one(trigger="", rate="1/8"), "makes no sound"), (_one(trigger="gone"), "is not played"),
    (_one("gone"), "is not played"),
])  # fmt: skip
def test_what_cannot_be_measured_is_said(one: Ducking, said: str) -> None:
    with pytest.raises(UserError, match=said):
        solve_ducking(SESSION, STATE, one)


def test_a_ducking_solved_for_another_sound_says_so_and_is_solved_again() -> None:
    one = _one(trigger="stab", margin_db=3.0)
    solved = one.model_copy(
        update={
            "duck": solve_ducking(SESSION, STATE, one).recipe,
            "solved_for": ducking_solved_for(STATE, one),
        }
    )
    state = _with(solved)

    def found(one: TrackState) -> list[str]:
        return [x.id for x in findings(SESSION, SESSION.answer(one)) if x.id == "outdated-one"]

    assert found(state) == []
    # Muted it starts it all the same, as a ghost.
    assert found(changed(state, hits=(STAB.model_copy(update={"mute": True}), HAT))) == []
    assert found(_with(one)) == []
    longer = STAB.with_source(
        0, MadeSnare(recipe=MadeSnare().recipe.model_copy(update={"noise_ms": 400.0}))
    )
    later = changed(state, hits=(longer, HAT))
    assert found(later) == ["outdated-one"]
    mended = effect(SESSION, SESSION.answer(later), "outdated-one")
    assert found(mended.state) == []
    assert mended.after is not None
    assert mended.after <= mended.before
    assert mended.state.duckings[1].duck == solve_ducking(SESSION, later, solved).recipe
