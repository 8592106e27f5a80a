"""A rumble made from the track's own kick."""

import numpy as np
import pytest

from juglant.core.lowend.owner import bass_pitch
from juglant.core.lowend.rumble import root_shift
from juglant.core.lowend.session import Session
from juglant.core.measure.overlap import low_level
from juglant.core.process import lowpart
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.hit import Hit, MadeKick
from juglant.core.recipes.kick import KickRecipe
from juglant.core.recipes.parts import RumbleBass
from juglant.core.recipes.track import TrackState
from tests.signals import RATE
from tests.tracks import changed

SESSION = Session()
KICK = Hit.of(
    MadeKick(recipe=KickRecipe(end_hz=52.0, decay_ms=300.0, length_ms=420.0, pitch_decay_ms=20.0))
)
BRIEF = Brief(bpm=130.0, tonic="A", chord_roots=("tonic", "tonic"))


def _state(**changes: object) -> TrackState:
    return TrackState.of(brief=BRIEF, kick=KICK, bass=RumbleBass.model_validate(changes), ducking=False)


def test_its_level_is_set_under_the_kick_as_measured() -> None:
    kick = low_level(SESSION.sounds.kick(KICK, 130.0), RATE, loop=False).level_db.max()
    for under in (6.0, 15.0):
        rumble = SESSION.parts.bass_loop(_state(under_db=under)).level.level_db.max()
        # The track's low cut takes a little of it.
        assert kick - rumble == pytest.approx(under, abs=0.8)


def test_it_lies_low_and_sounds_all_the_time() -> None:
    """Common practice: repeats, a room, drive and a low-pass, nothing below 28 Hz."""
    loop = SESSION.parts.bass_loop(_state())
    spectrum = loop.spectrum
    assert spectrum.energy(35, 140) > 30 * spectrum.energy(280, 1200)
    assert spectrum.energy(20, 26) < 0.01 * spectrum.energy(35, 140)
    level = loop.level.level_db
    assert np.percentile(level, 10) > level.max() - 16


@pytest.mark.parametrize(("tonic", "hz"), [("A", 55.0), ("G", 48.999), ("D", 36.708), ("F", 43.654)])
def test_it_is_pulled_to_the_root(tonic: str, hz: float) -> None:
    """Equal temperament with A4 = 440 Hz (ISO 16:1975): A1 55, G1 48.999, D1 36.708,
    F1 43.654 Hz.
    """
    state = _state().model_copy(update={"brief": BRIEF.model_copy(update={"tonic": tonic})})
    own = SESSION.sounds.measured_hit(KICK, state.brief).hit.fundamental_hz
    assert own is not None
    octaves = np.log2(own * 2 ** (root_shift(own, state.brief) / 12) / hz)
    assert octaves == pytest.approx(round(octaves), abs=1e-3)
    target = own * 2 ** (root_shift(own, state.brief) / 12)

    # Who owns the sub is asked of that note.
    for tune, note in (("to the root", target), ("as the kick", own)):
        pulled = changed(state, bass=RumbleBass.model_validate({"tune": tune}))
        assert bass_pitch(SESSION.sounds, pulled, 4) == pytest.approx(np.full(4, note))

    def share_db(tune: str) -> float:
        """What lies within a quarter tone of the root, of all that is low."""
        bass = RumbleBass.model_validate({"tune": tune})
        spectrum = SESSION.parts.bass_loop(changed(state, bass=bass)).spectrum
        near = spectrum.energy(target * 0.97, target * 1.03)
        return 10 * float(np.log10(near / spectrum.energy(25, 150)))

    assert share_db("to the root") > share_db("as the kick") + 10
    spectrum = SESSION.parts.bass_loop(state).spectrum
    low = (spectrum.hz > 25) & (spectrum.hz < 150)
    strongest = float(spectrum.hz[low][np.argmax(spectrum.power[low])])
    assert 1200 * np.log2(strongest / target) == pytest.approx(0, abs=20)


def test_repeats_make_the_rhythm_and_the_mid_copy_what_is_above() -> None:
    loops = {
        repeats: SESSION.parts.bass_loop(_state(repeats=repeats, decay_ms=100.0)).samples
        for repeats in ("sixteenths", "triplets", "dotted eighths")
    }
    assert len({x.tobytes() for x in loops.values()}) == 3
    copied = SESSION.parts.bass_loop(_state(mid_copy_db=-3.0)).samples
    plain = SESSION.parts.bass_loop(_state()).samples
    high = [lowpart.band(x, 400, 3000, RATE).std() for x in (plain, copied)]
    assert high[1] > 5 * high[0]


def test_it_follows_the_kick_and_is_ducked_from_it_like_any_bass() -> None:
    other = changed(_state(), kick=Hit.of(MadeKick(recipe=KickRecipe(end_hz=60.0))))
    assert not np.array_equal(
        SESSION.parts.bass_loop(other).samples, SESSION.parts.bass_loop(_state()).samples
    )
    found = SESSION.solve_ducking(_state())
    state = _state().with_duck(on=True, duck=found.recipe)
    answer = SESSION.answer(state)
    assert (answer.after.collision_share or 0) <= 0.1
    assert answer.duck.slack_ms is None or answer.duck.slack_ms > 0
