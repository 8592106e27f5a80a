"""Strokes from elsewhere as a hit's pattern: played, in a loop, in a MIDI file."""

import numpy as np
import pytest

from juglant.core.lowend.fitting import fitted_strokes, velocity_of
from juglant.core.lowend.line import strokes_of
from juglant.core.lowend.session import Session
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.hit import Hit, MadeKick, Velocity
from juglant.core.recipes.kick import KickRecipe
from juglant.core.recipes.parts import Stem
from juglant.core.recipes.track import TrackState
from juglant.core.synth.kick import render_kick
from juglant.core.tempo import beat_ms
from tests.signals import RATE

BRIEF = Brief(bpm=116.0, chord_roots=("tonic",) * 4)
LOOP = "d" * 64
SHORT = KickRecipe(end_hz=55.0, decay_ms=90.0, length_ms=120.0, level_db=0.0)


def _played(seed: int, count: int) -> tuple[list[float], list[float], np.ndarray]:
    """A kick track as a hand plays it: off the grid by some ms, each stroke as hard as it comes."""
    rng = np.random.default_rng(seed)
    places = np.sort(rng.choice(64, count, replace=False)) / 4
    at_ms = (places * beat_ms(BRIEF.bpm) + rng.uniform(0, 14, count)).tolist()
    levels_db = (-rng.uniform(0.0, 14.0, count)).tolist()
    levels_db[0] = 0.0
    x = np.zeros(round(16 * beat_ms(BRIEF.bpm) / 1000 * RATE))
    one = render_kick(SHORT, RATE, BRIEF.bpm)
    for at, db in zip(at_ms, levels_db, strict=True):
        start = round(at / 1000 * RATE)
        piece = one[: x.size - start] * 0.8 * 10 ** (db / 20)
        x[start : start + piece.size] += piece
    return at_ms, levels_db, x


@pytest.mark.parametrize(("seed", "count"), [(1, 15), (2, 24), (3, 40)])
def test_a_played_kick_track_becomes_a_pattern_within_3_ms_and_1_db(seed: int, count: int) -> None:
    at_ms, levels_db, x = _played(seed, count)
    session = Session(lambda _: (x, RATE))
    kick = Hit.of(MadeKick(recipe=SHORT), velocity=Velocity(level=1.0, brightness=0, decay=0, pitch=0))
    state = TrackState.of(brief=BRIEF, kick=kick, stems=(Stem(name="Played", audio=LOOP),))
    beat = beat_ms(BRIEF.bpm)
    heard = session.parts.strokes(state, "played")
    found = fitted_strokes([(one.at_ms / beat, velocity_of(one.velocity, kick)) for one in heard], BRIEF)
    assert found.bars == 4
    assert len(found.steps) == count
    placed = strokes_of(state.kick.model_copy(update={"steps": found.steps, "bars": found.bars}), BRIEF)
    assert [one.at_ms for one in placed] == pytest.approx(at_ms, abs=3.0)
    full = float(np.max(np.abs(session.sounds.hits.hit(kick, BRIEF.bpm))))
    made = [
        20 * np.log10(np.max(np.abs(session.sounds.hits.hit(kick, BRIEF.bpm, one.velocity))) / full)
        for one in placed
    ]
    assert made == pytest.approx(levels_db, abs=1.0)


def test_strokes_stay_off_the_grid_and_the_swing_is_taken_back() -> None:
    swung = BRIEF.model_copy(update={"swing_percent": 62.0})
    found = fitted_strokes([(0.0, 1.0), (0.31, 0.5), (1.07, 0.7)], swung)
    assert [step.at for step in found.steps] == pytest.approx([0.0, 0.25, 1.07], abs=1 / 900)
    hit = Hit(name="x", steps=found.steps)
    again = strokes_of(hit, swung.model_copy(update={"chord_roots": ("tonic",)}))
    assert [one.at_ms / beat_ms(116.0) for one in again] == pytest.approx([0.0, 0.31, 1.07], abs=1 / 900)


def test_two_strokes_within_30_ms_are_one_and_what_is_left_out_is_said() -> None:
    near = 29.0 / beat_ms(116.0)
    found = fitted_strokes([(1.0, 0.4), (1.0 + near, 0.9), (40.0, 1.0)], BRIEF)
    assert [(step.at, step.velocity) for step in found.steps] == [(1.0, 0.9)]
    assert "after bar 8" in found.said[0]
    apart = 31.0 / beat_ms(116.0)
    assert len(fitted_strokes([(1.0, 0.4), (1.0 + apart, 0.9)], BRIEF).steps) == 2
    dense = [(n * 0.08, 1.0) for n in range(250)]
    assert "first 192" in fitted_strokes(dense, BRIEF.model_copy(update={"bpm": 60.0})).said[0]


@pytest.mark.parametrize("level", [0.5, 0.7, 1.0])
def test_a_stroke_is_as_loud_as_the_one_that_was_heard_whatever_the_velocity(level: float) -> None:
    hit = Hit.of(MadeKick(recipe=SHORT), velocity=Velocity(level=level, brightness=0, decay=0, pitch=0))
    velocity = velocity_of(10 ** (-8.0 / 40), hit)
    hits = Session().sounds.hits
    full, soft = (float(np.max(np.abs(hits.hit(hit, 116.0, s)))) for s in (1.0, velocity))
    assert 20 * np.log10(soft / full) == pytest.approx(-8.0, abs=0.05)
