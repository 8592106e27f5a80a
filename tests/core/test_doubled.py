"""A loop that carries a hit of the track already, and one that does not."""

import numpy as np
import pytest

from bench.faults import FAULTS, faulty
from juglant.core.findings import findings
from juglant.core.findings.judge import effect
from juglant.core.lowend.session import Session
from juglant.core.measure.doubled import doubled
from tests.signals import RATE, noise, ring, sine

CLAP = noise(0.15, 3) * np.exp(-np.arange(round(0.15 * RATE)) / (0.03 * RATE))
TIMES = [500.0, 1500.0]


def _loop(sound: np.ndarray, late_ms: float, gain: float = 0.5) -> np.ndarray:
    x = 0.02 * noise(2.0, 9) + 0.3 * sine(60.0, 2.0)
    for at in TIMES:
        start = round((at + late_ms) / 1000 * RATE)
        x[start : start + sound.size] += gain * sound
    return x


@pytest.mark.parametrize("late_ms", [-20.0, 0.0, 7.5, 25.0])
def test_a_copy_is_found_with_its_delay_inverted_too(late_ms: float) -> None:
    for gain in (0.5, -0.3):
        found = doubled(_loop(CLAP, late_ms, gain), CLAP, TIMES, RATE)
        assert found == pytest.approx([late_ms, late_ms], abs=0.05)


def test_another_clap_is_none() -> None:
    other = noise(0.15, 4) * np.exp(-np.arange(CLAP.size) / (0.03 * RATE))
    assert doubled(_loop(other, 0.0), CLAP, TIMES, RATE) == [None, None]


def test_of_a_tone_nobody_knows_which_cycle_is_meant() -> None:
    tom = ring(700.0, 400, 0.5)
    assert doubled(_loop(tom, 0.0), tom, TIMES, RATE) == [None, None]


@pytest.mark.thorough
def test_strokes_that_the_loop_has_are_left_to_it_and_the_others_kept() -> None:
    [fault] = [one for one in FAULTS if one[0] == "a loop with the same clap, late"]
    track = faulty(fault, 0)
    session = Session(track.load)
    answer = session.answer(track.state)
    [found] = [one for one in findings(session, answer) if one.id.startswith("doubled")]
    assert "6.0 ms apart" in found.sentence
    mended = effect(session, answer, found.id)
    assert found.id in mended.closes
    assert mended.opens == []
    assert mended.state.hits[1].mute or not mended.state.hits[1].steps
