"""Any ducking timed by measurement of what starts it and what it turns down."""

import numpy as np
import pytest

from juglant.core.errors import UserError
from juglant.core.findings import effect, findings
from juglant.core.lowend import buses, ducking
from juglant.core.lowend.overview import solve_bus
from juglant.core.lowend.part import bus_solved_for
from juglant.core.lowend.session import Session
from juglant.core.measure.levels import k_weighted
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.bus import STAND_IN, Bus
from juglant.core.recipes.hit import Hit, MadeHat, MadeSnare
from juglant.core.recipes.notes import HitStep
from juglant.core.recipes.track import MadeBass, TrackState, Voice
from tests.signals import RATE, Array

SESSION = Session()
STAB = Hit.of(MadeSnare(), name="Stab", kind="snare", steps=(HitStep(at=1.0), HitStep(at=2.5)))
HAT = Hit.of(MadeHat(), name="Hat", kind="hat", steps=tuple(HitStep(at=n + 0.5) for n in range(4)))
STATE = TrackState(
    brief=Brief(bpm=120.0, chord_roots=("tonic",)), hits=(STAB, HAT),
    lines=(Voice(name="sub", bass=MadeBass()),),
)  # fmt: skip


def _level_db(x: Array) -> Array:
    """K-weighted level of a loop every ms, over 10 ms, by plain means of its power."""
    power = k_weighted(np.concatenate([x, x]), RATE)[x.size :] ** 2
    step, window = RATE // 1000, RATE // 100
    total = np.cumsum(np.concatenate([power[-window // 2 :], power, power[: window // 2]]))
    at = np.arange(0, x.size - step, step)
    power_there = (total[at + window - 1] - total[at]) / window
    return np.asarray(10 * np.log10(np.maximum(power_there, 1e-12)))


@pytest.mark.parametrize(("trigger", "margin_db"), [("Kick", 0.0), ("Kick", 6.0), ("Stab", 3.0)])
def test_a_pad_is_kept_clear_of_what_starts_its_ducking(trigger: str, margin_db: float) -> None:
    bus = Bus(trigger=trigger, target=STAND_IN, margin_db=margin_db)
    state = STATE.model_copy(update={"buses": (bus,)})
    found = solve_bus(SESSION, state, bus)
    assert found.recipe.depth_db > margin_db
    solved = bus.model_copy(update={"duck": found.recipe})
    pad = SESSION.stand_in(state).samples
    ducked = buses.under(pad, [solved], state, RATE)
    part = SESSION.kick_loop(state) if trigger == "Kick" else SESSION.hit_loop(state, 1)
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
    gaps = ducking.measure_duck(found.recipe, buses.times_ms(solved, state), 2000.0, 120.0)
    assert gaps.slack_ms is not None
    assert gaps.slack_ms > 0
    assert len(gaps.slacks_ms) == len(buses.times_ms(solved, state))
    assert min(gaps.slacks_ms) == gaps.slack_ms


def test_two_low_sounds_are_parted_in_the_low_band_as_kick_and_bass_are() -> None:
    state = STATE.model_copy(update={"buses": (Bus(target="sub"),)})
    found = solve_bus(SESSION, state, state.buses[0])
    alone = state.model_copy(update={"bass_mute": True, "buses": ()})
    assert found.recipe == SESSION.solve_ducking(alone).recipe


def test_a_wider_margin_takes_more() -> None:
    state = STATE.model_copy(update={"buses": (Bus(target=STAND_IN),)})
    costs = [
        solve_bus(SESSION, state, Bus(target=STAND_IN, margin_db=margin)).cost_db
        for margin in (0.0, 6.0, 9.0)
    ]
    assert costs == sorted(costs)
    assert SESSION.solve_ducking(state, 6.0).recipe.depth_db > SESSION.solve_ducking(state).recipe.depth_db


def test_what_never_meets_needs_no_ducking_and_a_muted_hit_is_measured_as_a_ghost() -> None:
    apart = STATE.model_copy(update={"buses": (Bus(trigger="Stab", target="Hat"),)})
    assert solve_bus(SESSION, apart, apart.buses[0]).recipe.depth_db < 12
    muted = STATE.model_copy(update={"hits": (STAB.model_copy(update={"mute": True}), HAT)})
    pad = Bus(trigger="Stab", target=STAND_IN)
    found = [solve_bus(SESSION, state, pad).recipe for state in (STATE, muted)]
    assert found[0] == found[1]


@pytest.mark.parametrize(("bus", "said"), [
    (Bus(trigger="note value"), "makes no sound"), (Bus(trigger="Gone"), "is not played"),
    (Bus(target="Gone"), "is not played"),
])  # fmt: skip
def test_what_cannot_be_measured_is_said(bus: Bus, said: str) -> None:
    with pytest.raises(UserError, match=said):
        solve_bus(SESSION, STATE, bus)


def test_a_ducking_solved_for_another_sound_says_so_and_is_solved_again() -> None:
    bus = Bus(trigger="Stab", target=STAND_IN, margin_db=3.0)
    solved = bus.model_copy(
        update={"duck": solve_bus(SESSION, STATE, bus).recipe, "solved_for": bus_solved_for(STATE, bus)}
    )
    state = STATE.model_copy(update={"buses": (solved,)})

    def found(one: TrackState) -> list[str]:
        return [x.id for x in findings(SESSION, SESSION.answer(one)) if x.id.startswith("bus")]

    assert found(state) == []
    # Muted it starts it all the same, as a ghost.
    assert found(state.model_copy(update={"hits": (STAB.model_copy(update={"mute": True}), HAT)})) == []
    assert found(state.model_copy(update={"buses": (bus,)})) == []
    longer = STAB.with_source(
        0, MadeSnare(recipe=MadeSnare().recipe.model_copy(update={"noise_ms": 400.0}))
    )
    later = state.model_copy(update={"hits": (longer, HAT)})
    assert found(later) == ["bus-outdated-0"]
    mended = effect(SESSION, SESSION.answer(later), "bus-outdated-0")
    assert found(mended.state) == []
    assert mended.after is not None
    assert mended.after <= mended.before
    assert mended.state.buses[0].duck == solve_bus(SESSION, later, solved).recipe
