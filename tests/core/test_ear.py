"""The ear trainer: the staircase against simulated listeners, and questions whose right answer is measured."""

import numpy as np
import pytest

from juglant.core import RATE
from juglant.core.ear.questions import SKILLS, Question
from juglant.core.ear.staircase import Staircase, after, threshold
from juglant.core.lowend.session import Session
from juglant.core.measure import levels
from juglant.core.measure.hit import measure
from juglant.core.process import lowpart
from juglant.demo.scenario import TRACKS
from tests.signals import Array

BY_ID = {skill.id: skill for skill in SKILLS}
STATE = TRACKS["Green Husk"]


@pytest.fixture(scope="module")
def session() -> Session:
    return Session()


@pytest.mark.parametrize("heard_at", [2.0, 5.0, 20.0])
def test_it_comes_to_rest_where_seventy_per_cent_are_right(heard_at: float) -> None:
    # Levitt, JASA 49, 1971: two down, one up converges on 70.7 %. Listeners of a known threshold: a
    # Weibull function from chance (50 %), which passes 70.7 % at `heard_at`.
    found = []
    for seed in range(24):
        rng = np.random.default_rng(seed)
        stairs = Staircase(100.0)
        for _ in range(120):
            share = (stairs.difference / heard_at) ** 2 * -np.log(2 * (1 - 0.7071))
            right = bool(rng.random() < 1 - 0.5 * np.exp(-share))
            stairs = after(stairs, right=right, hardest=0.1, easiest=100.0)
        told = threshold(stairs)
        assert told is not None
        found.append(told)
    assert float(np.exp(np.mean(np.log(found)))) == pytest.approx(heard_at, rel=0.15)


def test_two_right_answers_make_it_harder_one_wrong_one_easier_inside_its_limits() -> None:
    stairs = Staircase(8.0)
    stairs = after(stairs, right=True, hardest=1.0, easiest=16.0)
    assert (stairs.difference, stairs.in_a_row) == (8.0, 1)
    stairs = after(stairs, right=True, hardest=1.0, easiest=16.0)
    assert (stairs.difference, stairs.in_a_row, stairs.turns) == (4.0, 0, ())
    stairs = after(stairs, right=False, hardest=1.0, easiest=16.0)
    assert (stairs.difference, stairs.turns) == (8.0, (4.0,))
    assert (stairs.answered, stairs.right) == (3, 2)
    for _ in range(20):
        stairs = after(stairs, right=True, hardest=1.0, easiest=16.0)
    assert stairs.difference == 1.0
    for _ in range(20):
        stairs = after(stairs, right=False, hardest=1.0, easiest=16.0)
    assert stairs.difference == 16.0
    assert threshold(Staircase(1.0, turns=(1.0, 2.0, 1.0, 2.0, 1.0))) is None
    assert threshold(Staircase(1.0, turns=(1.0, 4.0, 1.0, 4.0, 1.0, 4.0))) == pytest.approx(2.0)


def _asked(session: Session, skill: str, difference: float, seed: int) -> Question:
    return BY_ID[skill].made(session, STATE, difference, np.random.default_rng(seed))


def _pair(question: Question) -> tuple[Array, Array]:
    """The sound that is asked for, and the other one."""
    sounds = list(question.sounds.values())
    return sounds[question.right], sounds[1 - question.right]


@pytest.mark.parametrize("seed", range(4))
def test_the_note_that_is_right_is_the_note_that_is_measured(session: Session, seed: int) -> None:
    question = _asked(session, "note", 3.0, seed)
    kick = measure(question.sounds["Kick"], RATE, flats=STATE.brief.key.flats).hit
    assert kick.note == question.answers[question.right]


@pytest.mark.parametrize("seed", range(4))
def test_higher_is_higher_by_the_cents_that_are_said(session: Session, seed: int) -> None:
    question = _asked(session, "cents", 30.0, seed)
    first, second = (measure(x, RATE).hit.fundamental_hz for x in question.sounds.values())
    assert first is not None
    assert second is not None
    cents = 1200 * np.log2(second / first)
    assert cents == pytest.approx(30.0 if question.answers[question.right] == "Higher" else -30.0, abs=4.0)


def _low_db(x: Array) -> Array:
    band = lowpart.band(x, 20, 150, RATE)
    power = np.convolve(band**2, np.ones(480) / 480, mode="same")
    return np.asarray(10 * np.log10(np.maximum(power, 1e-12)))


@pytest.mark.thorough
@pytest.mark.parametrize("seed", range(3))
def test_what_is_ducked_deeper_dips_deeper_and_is_as_loud(session: Session, seed: int) -> None:
    right, other = _pair(_asked(session, "ducking", 9.0, seed))
    swing = [np.percentile(_low_db(x), 90) - np.percentile(_low_db(x), 20) for x in (right, other)]
    assert swing[0] > swing[1]
    loud = [levels.momentary_max_lufs(x, RATE) for x in (right, other)]
    assert loud[0] == pytest.approx(loud[1], abs=0.05)


@pytest.mark.parametrize("seed", range(3))
def test_the_later_click_lies_so_many_ms_later(session: Session, seed: int) -> None:
    right, other = _pair(_asked(session, "late", 12.0, seed))
    tops = [
        int(np.argmax(np.convolve(lowpart.band(x, 6000, 20000, RATE) ** 2, np.ones(96), mode="same")))
        for x in (right, other)
    ]
    assert (tops[0] - tops[1]) / RATE * 1000 == pytest.approx(12.0, abs=2.0)


@pytest.mark.parametrize("seed", range(3))
def test_the_layer_out_of_polarity_takes_so_many_db_of_the_sub(session: Session, seed: int) -> None:
    right, other = _pair(_asked(session, "polarity", 6.0, seed))

    def ratio_db(x: Array) -> float:
        low, high = (float(np.sum(lowpart.band(x, *hz, RATE) ** 2)) for hz in ((40, 90), (1500, 8000)))
        return 10 * float(np.log10(low / high))

    assert ratio_db(other) - ratio_db(right) == pytest.approx(6.0, abs=0.7)


@pytest.mark.parametrize("seed", range(5))
def test_the_band_that_was_lifted_is_where_most_was_added(session: Session, seed: int) -> None:
    question = _asked(session, "band", 9.0, seed)
    plain, lifted = question.sounds["As it is"], question.sounds["Lifted"]
    gains = {}
    for name, hz in (("50 Hz", 50), ("100 Hz", 100), ("250 Hz", 250), ("800 Hz", 800), ("3 kHz", 3000)):
        energies = [levels.Spectrum(x, RATE).energy(hz * 0.95, hz * 1.05) for x in (lifted, plain)]
        gains[name] = energies[0] / energies[1]
    assert max(gains, key=lambda name: gains[name]) == question.answers[question.right]


@pytest.mark.thorough
def test_the_same_question_is_asked_for_the_same_seed_and_every_track_can_ask_all(session: Session) -> None:
    for state in TRACKS.values():
        for skill in SKILLS:
            one, again = (skill.made(session, state, skill.easiest, np.random.default_rng(5)) for _ in "ab")
            assert one.answers[one.right] == again.answers[again.right]
            for name, x in one.sounds.items():
                assert np.array_equal(x, again.sounds[name])
                assert np.isfinite(x).all()
                assert 0.01 < np.abs(x).max() < 4.0
