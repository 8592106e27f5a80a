"""Stems of the arrangement, the reverb of a ducking, and how deep it all is heard."""

import numpy as np
import pytest
from pydantic import ValidationError

from juglant.core.lowend.ducking import apply, curve_db
from juglant.core.lowend.overview import EVERYTHING, depth_heard, overview
from juglant.core.lowend.session import Session
from juglant.core.measure.pumping import heard, pumping
from juglant.core.recipes.bass import PATTERNS, BassRecipe
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.chain import SpaceStage
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.ducking import Ducking
from juglant.core.recipes.parts import MadeBass, Stem
from juglant.core.recipes.place import Place
from juglant.core.recipes.track import TrackState
from tests.signals import RATE, Array, noise, sine
from tests.tracks import changed, rest_loop

PAD, SHORT = "a" * 64, "b" * 64
FILES: dict[str, tuple[Array, int]] = {
    PAD: (np.stack([sine(300, 30, -20), sine(451, 30, -20)], axis=1), RATE),
    SHORT: (noise(0.3) * 0.1, RATE),
}
SESSION = Session(lambda digest: FILES[digest])
BRIEF = Brief(bpm=120.0, chord_roots=("tonic",))
DUCK = DuckRecipe(depth_db=18.0, attack_ms=3.0, hold_ms=60.0, release_ms=120.0)


def _with(*stems: Stem, duckings: tuple[Ducking, ...] = ()) -> TrackState:
    return TrackState.of(brief=BRIEF, stems=stems, duckings=duckings)


def test_a_stem_is_heard_as_wide_as_it_is_cut_or_repeated_to_the_loop() -> None:
    state = _with(Stem(name="Pad", audio=PAD, place=Place(gain_db=-6.0)), Stem(name="Tick", audio=SHORT))
    assert state.audio >= {PAD, SHORT}
    rest = rest_loop(SESSION, state)
    assert rest is not None
    frames = 2 * RATE
    assert rest.shape == (frames, 2)
    tick = np.resize(FILES[SHORT][0], frames)
    wide = FILES[PAD][0][:frames] * 10 ** (-6 / 20)
    assert np.max(np.abs(rest - (wide + tick[:, None]))) < 1e-7
    muted = changed(state, stems=(state.stems[0], Stem(name="Tick", audio=SHORT, mute=True)))
    assert list(SESSION.rest_stems(muted)) == ["pad"]


def test_a_ducking_turns_a_stem_down_and_nothing_else_does() -> None:
    one = Ducking.model_validate({"id": "pads", "triggers": ["kick"], "targets": ["pad"], "duck": DUCK})
    state = _with(Stem(name="Pad", audio=PAD), duckings=(one,))
    ducked = SESSION.rest_stems(state)["pad"].samples
    plain = SESSION.rest_stems(_with(Stem(name="Pad", audio=PAD)))["pad"].samples
    gain = curve_db(DUCK, [0, 500, 1000, 1500], 2000, 1000 / RATE, loop=True)[: plain.shape[0]]
    assert np.max(np.abs(ducked - apply(plain, gain[:, None]))) < 1e-7
    told = overview(SESSION, state, 0).reports[1]
    assert told.heard
    assert told.gap_ms == pytest.approx(500)


@pytest.mark.parametrize("name", ["bass", "KICK", "pad"])
def test_a_part_has_a_name_of_its_own(name: str) -> None:
    state = _with(Stem(name="Pad", audio=PAD))
    extra = Stem(id="another", name=name, audio=PAD)
    with pytest.raises(ValidationError, match="a name of its own"):
        TrackState(parts=(*state.parts, extra))


def test_a_tail_before_the_ducking_is_ducked_and_one_behind_it_rings_through() -> None:
    """Where the kick is, the tail is as far down as the ducking goes, or it is there."""
    hall = SpaceStage(kind="hall", mix_db=-3.0, decay_ms=1500.0, predelay_ms=0.0)
    one = Ducking.model_validate({"id": "pads", "triggers": ["kick"], "targets": ["pad"], "duck": DUCK})

    def at_the_kick_db(**chains: tuple[SpaceStage, ...]) -> float:
        state = _with(Stem(name="Pad", audio=PAD, **chains), duckings=(one,))
        part = SESSION.rest_stems(state)["pad"].samples[round(0.015 * RATE) : round(0.060 * RATE)]
        return 10 * float(np.log10(np.mean(part * part)))

    dry = 10 * float(np.log10(np.mean(FILES[PAD][0] ** 2)))
    assert at_the_kick_db(stages=(hall,)) < dry - 12
    assert at_the_kick_db(after=(hall,)) > at_the_kick_db(stages=(hall,)) + 6
    off = hall.model_copy(update={"bypass": True})
    assert at_the_kick_db(after=(off,)) == at_the_kick_db()


def test_pumping_is_how_far_a_steady_gain_goes_down_and_how_much_it_takes() -> None:
    x = noise(2.0) * 0.1
    for depth in (3.0, 12.0):
        gain = np.where(np.arange(x.size) // (RATE // 4) % 2, -depth, 0.0)
        found = pumping(heard(x, RATE), heard(apply(x, gain), RATE))
        assert found.depth_db == pytest.approx(depth, abs=0.2)
        # Half of the time at full level, half of it under the gain.
        assert found.taken_lu == pytest.approx(-10 * np.log10(0.5 + 0.5 * 10 ** (-depth / 10)), abs=0.05)
    assert pumping(heard(x, RATE), heard(x, RATE)).depth_db == 0
    assert pumping(heard(x, RATE), heard(x, RATE)).taken_lu == pytest.approx(0, abs=1e-9)


def test_pumping_is_not_heard_where_the_sound_is_silent_anyway() -> None:
    """A hat between the kicks is not ducked by them, however deep the curve."""
    at = np.arange(2 * RATE) % (RATE // 2)
    x = noise(2.0) * (at > RATE // 4) * 0.1
    gain = np.where(at < RATE // 5, -20.0, 0.0)
    assert pumping(heard(x, RATE), heard(apply(x, gain), RATE)).depth_db < 0.5


def test_the_whole_pumps_less_than_the_line_that_is_ducked() -> None:
    loud = MadeBass(recipe=BassRecipe(level_db=-3.0, pattern=PATTERNS["with the kick"]))
    state = TrackState.of(brief=BRIEF, duck=DUCK, bass=loud)
    told = {part.name: part for part in depth_heard(SESSION, state).parts}
    assert list(told) == ["bass", EVERYTHING]
    assert told["bass"].pumping_db > told[EVERYTHING].pumping_db
    assert told["bass"].taken_lu > told[EVERYTHING].taken_lu > 0
    assert told["bass"].rate_hz == pytest.approx(2.0)
    still = depth_heard(SESSION, state.with_duck(on=False)).parts
    assert [part.taken_lu for part in still] == pytest.approx([0, 0], abs=1e-9)
