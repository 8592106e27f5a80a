"""Several triggers to several targets, each pair with a ducking of its own."""

import numpy as np
import pytest

from juglant.core.lowend.buses import gain_db, report, times_ms, triggers_of
from juglant.core.lowend.session import Session
from juglant.core.measure.pumping import heard
from juglant.core.process import filters
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.bus import STAND_IN, Bus
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.hit import Hit, MadeHat, MadeSnare
from juglant.core.recipes.notes import HitStep
from juglant.core.recipes.track import MadeBass, TrackState, Voice
from tests.signals import RATE

SESSION = Session()
DUCK = DuckRecipe(depth_db=12.0, attack_ms=2.0, hold_ms=40.0, release_ms=80.0)
HAT = Hit.of(MadeHat(), name="Hat", kind="hat", steps=tuple(HitStep(at=n / 2) for n in range(8)))
STAB = Hit.of(MadeSnare(), name="Stab", kind="snare", steps=(HitStep(at=1.0), HitStep(at=2.5)))
STATE = TrackState(brief=Brief(bpm=120.0, chord_roots=("tonic", "E")), hits=(HAT, STAB))


def _with(*buses: Bus, **changes: object) -> TrackState:
    return STATE.model_copy(update={"buses": buses, **changes})


@pytest.mark.parametrize(
    ("trigger", "rate", "expected"),
    [
        ("Kick", "1/8", [0, 500, 1000, 1500]),
        ("Stab", "1/8", [500, 1250]),
        ("note value", "1/8", [250 * n for n in range(8)]),
        ("note value", "1/16", [125 * n for n in range(16)]),
        ("note value", "1/8t", [500 / 3 * n for n in range(12)]),
        ("Gone", "1/8", []),
    ],
)
def test_what_starts_a_bus(trigger: str, rate: str, expected: list[float]) -> None:
    bus = Bus.model_validate({"trigger": trigger, "rate": rate})
    first_bar = [at for at in times_ms(bus, STATE) if at < 1999]
    assert first_bar == pytest.approx(expected)


def test_a_muted_hit_triggers_on_as_a_ghost_and_swing_moves_it() -> None:
    silent = STAB.model_copy(update={"mute": True})
    bus = Bus(trigger="Stab")
    state = STATE.model_copy(update={"hits": (HAT, silent)})
    assert times_ms(bus, state) == times_ms(bus, STATE)
    assert "Stab" in triggers_of(state)
    swung = STATE.model_copy(update={"brief": STATE.brief.model_copy(update={"swing_percent": 60.0})})
    assert times_ms(Bus(trigger="note value", rate="1/16"), swung)[1] == pytest.approx(150.0)


def test_each_target_is_turned_down_by_its_own_buses_only() -> None:
    plain = SESSION.rest_loop(_with())
    hat = Bus(trigger="Kick", target="Hat", duck=DUCK)
    ducked = SESSION.rest_loop(_with(hat))
    assert plain is not None
    assert ducked is not None
    gain = 10 ** (gain_db(hat, STATE, plain.shape[0], RATE) / 20)
    stab = SESSION.hit_loop(STATE, 2)
    hats = SESSION.hit_loop(STATE, 1)
    assert stab is not None
    assert hats is not None
    wide = [x if x.ndim == 2 else np.stack([x, x], axis=1) for x in (hats.samples, stab.samples)]
    assert ducked == pytest.approx(wide[0] * gain[:, None] + wide[1], abs=1e-9)
    # Kick, bass and their ducking know nothing of it.
    assert SESSION.answer(_with(hat)).mix_after.lufs == SESSION.answer(STATE).mix_after.lufs


def test_two_buses_of_one_target_add_their_decibels() -> None:
    kick, stab = Bus(trigger="Kick", target="Hat", duck=DUCK), Bus(trigger="Stab", target="Hat", duck=DUCK)
    alone = SESSION.rest_loop(_with(kick, hits=(HAT, STAB.model_copy(update={"mute": True}))))
    both = SESSION.rest_loop(_with(kick, stab, hits=(HAT, STAB.model_copy(update={"mute": True}))))
    assert alone is not None
    assert both is not None
    gain = 10 ** (gain_db(stab, STATE, both.shape[0], RATE) / 20)
    assert both == pytest.approx(alone * gain[:, None], abs=1e-9)


def test_a_line_is_ducked_by_its_bus_beside_the_kick_s_and_stems_still_add_up() -> None:
    mid = Voice(name="mid", bass=MadeBass())
    bus = Bus(trigger="Stab", target="mid", duck=DUCK)
    state = _with(bus, lines=(mid,))
    answer, plain = SESSION.answer(state), SESSION.answer(_with(lines=(mid,)))
    at = round(0.53 * RATE)
    stems = SESSION.line_stems(state)
    assert sum(stem.samples for stem in stems.values()) == pytest.approx(answer.ducked_loop.samples)
    whole = SESSION.line_stems(_with(lines=(mid,)))
    ratio = (
        np.abs(stems["mid"].samples[at : at + 400]).max()
        / np.abs(whole["mid"].samples[at : at + 400]).max()
    )
    assert 20 * np.log10(ratio) == pytest.approx(-12, abs=0.5)
    assert np.array_equal(stems["bass"].samples, whole["bass"].samples)
    # Before the ducking by the kick nothing is turned down.
    assert np.array_equal(answer.bass_loop.samples, plain.bass_loop.samples)


def test_a_band_is_ducked_and_the_rest_left() -> None:
    below = DUCK.model_copy(update={"band": "below", "edge_hz": 300.0})
    bus = Bus(trigger="note value", rate="1/4", target=STAND_IN, duck=below)
    pad = SESSION.stand_in(STATE).samples
    rest = SESSION.rest_loop(_with(bus, hits=()))
    assert rest is not None
    under = slice(round(0.51 * RATE), round(0.54 * RATE))
    for low, high, taken in ((60, 250, -9), (1200, 4000, 0)):
        before, after = (filters.band(x, low, high, RATE)[under].std() for x in (pad, rest[:, 0]))
        assert 20 * np.log10(after / before) == pytest.approx(taken, abs=3.0)


def test_the_stand_in_is_heard_only_while_a_bus_turns_it_down_and_is_in_key() -> None:
    assert SESSION.rest_loop(TrackState()) is None
    heard = SESSION.rest_loop(TrackState(buses=(Bus(),)))
    assert heard is not None
    assert np.max(np.abs(heard)) < 0.2
    assert np.max(np.abs(heard)) > 0.05


def test_a_report_says_what_is_taken_and_how_it_pumps() -> None:
    bus = Bus(trigger="note value", rate="1/8", target=STAND_IN, duck=DUCK)
    state = _with(bus)
    pad = SESSION.stand_in(state).samples
    rest = SESSION.rest_loop(_with(bus, hits=()))
    assert rest is not None
    told = report(bus, state, heard(pad, RATE), heard(rest[:, 0], RATE), 0)
    assert told.heard
    assert told.rate_hz == pytest.approx(4.0)
    # Windows of 50 ms hold a little of the way down and up.
    assert told.pumping_db == pytest.approx(12.0, abs=1.0)
    assert told.taken_lu is not None
    gain = gain_db(bus, state, pad.size, RATE)
    # A steady sound loses what its mean power loses.
    assert told.taken_lu == pytest.approx(-10 * np.log10(np.mean(10 ** (gain / 10))), abs=0.2)
    assert told.duck is not None
    assert told.duck.slack_ms == pytest.approx(250 - (told.duck.returns_ms or 0), abs=0.2)
    assert len(told.gain_db) == 2000
    gone = report(Bus(trigger="Gone"), state, heard(pad, RATE), heard(pad, RATE), 0)
    assert not gone.heard
    assert gone.duck is None
    assert gone.taken_lu == 0
