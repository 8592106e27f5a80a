"""Who owns the sub, on levels that are known by construction; the limits are the definitions' own."""

import numpy as np
import pytest

from juglant.core.hits.mixing import added
from juglant.core.lowend.loop import place
from juglant.core.lowend.session import Session
from juglant.core.measure.loopsound import LoopSound
from juglant.core.measure.overlap import Overlap
from juglant.core.measure.owner import overlap, owner_loss
from juglant.core.measure.subedge import edge_hz, sub_edge
from juglant.demo.scenario import TRACKS
from tests.signals import RATE, ring, silence, sine
from tests.tracks import changed


def _kicks(hz: float, ms: float) -> np.ndarray:
    """Four kicks to a two-second bar."""
    struck = ring(hz, ms, 0.5)
    return place([(at, struck) for at in (0.0, 500.0, 1000.0, 1500.0)], 2 * RATE, RATE, loop=True)


def _off_beats(hz: float, level_db: float) -> np.ndarray:
    quarter = round(0.25 * RATE)
    gate = np.tile(np.concatenate([np.zeros(quarter), np.hanning(quarter) ** 0.25]), 4)
    return np.asarray(sine(hz, 2, level_db) * gate)


def _over(kick: np.ndarray, bass: np.ndarray, owner: str, pitch: float | None) -> Overlap:
    return overlap(LoopSound(kick), LoopSound(bass), 4, owner, sub_edge(pitch))[0]  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("pitch_hz", "expected"), [(40.0, 60.0), (50.0, 63.0), (80.0, 100.8), (87.2, 109.9), (100.0, 110.0)]
)
def test_the_edge_lies_a_third_of_an_octave_above_the_pitch_within_its_limits(
    pitch_hz: float, expected: float
) -> None:
    assert edge_hz(pitch_hz) == pytest.approx(expected, abs=0.1)


def test_sounds_that_take_turns_share_nothing_and_sounds_together_do() -> None:
    kick = _kicks(50, 200)
    turns, together = (_over(kick, bass, "kick", 50.0) for bass in (_off_beats(52, -6), sine(52, 2, -6)))
    assert turns.sub_shared_ms is not None
    assert together.sub_shared_ms is not None
    assert turns.sub_shared_ms < 10.0
    assert together.sub_shared_ms > 50.0


def test_nobody_owns_a_sub_that_lies_under_the_limit() -> None:
    # A sine at 50 Hz under another's at 200 Hz; the edge at 63 Hz takes another 0.7 dB of it: just inside
    # the limit of -10.5 dB, and just out.
    high = sine(200, 2, -6)
    for under_db, shared in ((9.5, True), (10.2, False)):
        found = _over(sine(50, 2, -6 - under_db), high, "kick", 50.0)
        assert found.sub_level_db == pytest.approx(-under_db - 0.7, abs=0.2)
        assert (found.sub_shared_ms is not None) == shared


def test_without_pitch_what_rests_on_it_is_withheld_with_its_reason() -> None:
    found = _over(_kicks(60, 100), sine(45, 2, -6), "bass", None)
    assert (found.collision_share, found.sub_edge_hz, found.sub_shared_ms) == (None, None, None)
    assert "no measurable pitch" in found.reasons["collision_share"]


@pytest.mark.parametrize("taken_db", [2.0, 6.0])
def test_what_an_owner_loses_is_what_was_taken_from_it(taken_db: float) -> None:
    bass = sine(45, 2, -6)
    gain = np.ones(bass.size)
    gain[RATE // 2 : RATE] = 10 ** (-taken_db / 20)
    lost = owner_loss(LoopSound(bass), LoopSound(bass * gain), sub_edge(45.0))
    assert lost == pytest.approx(taken_db, abs=0.2)
    assert owner_loss(LoopSound(silence(2.0)), LoopSound(bass), sub_edge(45.0)) is None


def test_a_bass_that_owns_the_sub_may_come_further_up_to_the_kick() -> None:
    kick, bass = _kicks(90, 160), sine(45, 2, -6)
    # Above the edge of 60 Hz a pure 45 Hz has next to nothing.
    assert (_over(kick, bass, "bass", 45.0).collision_share or 0.0) <= 0.30
    assert (_over(kick, sine(90, 2, 0), "bass", 45.0).collision_share or 0.0) > 0.30


def test_edges_are_the_same_where_they_say_the_same() -> None:
    pitch = np.repeat([55.0, 82.4], 200)
    assert sub_edge(pitch) == sub_edge(pitch.copy())
    assert sub_edge(pitch) != sub_edge(pitch[::-1].copy())
    assert sub_edge(55.0) != sub_edge(82.4)
    assert len({sub_edge(pitch), sub_edge(pitch.copy()), None}) == 2


@pytest.mark.thorough
def test_two_lines_under_one_ducking_are_ducked_together_over_a_bass_that_owns_the_sub() -> None:
    """Its edge changes with its notes, and both lines are under the kick's ducking alone."""
    state = changed(TRACKS["Green Husk"], duckings=())
    session = Session()
    assert len(state.duckings[0].targets) == len(state.voices) == 2
    edge = session.parts.bass_edge(state)
    assert edge is not None
    assert edge.at is not None
    answer = session.answer(state)
    lines = session.line_stems(state).values()
    apart = answer.ducked_loop.samples - added([line.samples for line in lines])
    # What is kept of a loop is of single precision.
    assert np.max(np.abs(apart)) < 1e-6
