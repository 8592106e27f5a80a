"""Strokes of made hits differ a little: by as much as asked, at the same note and loudness."""

from itertools import combinations, pairwise

import numpy as np
import pytest

from juglant.core.hits.render import HitRenderer, nothing_imported
from juglant.core.kept import Kept
from juglant.core.lowend.session import Session
from juglant.core.measure.hit import measure
from juglant.core.measure.levels import momentary_max_lufs
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.hit import (
    Hit,
    Made,
    Made808,
    MadeClap,
    MadeHat,
    MadeKick,
    MadeMembrane,
    MadePercussion,
    MadeSnare,
)
from juglant.core.recipes.notes import HitStep
from juglant.core.recipes.track import TrackState
from tests.signals import RATE, Array

SOUNDS: tuple[Made, ...] = (
    MadeKick(), Made808(), MadeSnare(), MadeClap(), MadeHat(), MadeMembrane(), MadePercussion(),
)  # fmt: skip
RENDER = HitRenderer(Kept(400), nothing_imported)


def _strokes(source: Made, amount: float, velocity: float = 1.0) -> list[Array]:
    hit = Hit.of(source, vary=amount)
    return [RENDER.hit(hit, 126.0, velocity, turn) for turn in range(8)]


def _apart_db(x: Array, y: Array) -> float:
    frames = max(x.size, y.size)
    a, b = (np.pad(one, (0, frames - one.size)) for one in (x, y))
    return 10 * float(np.log10(np.sum((a - b) ** 2) / np.sum(a * a)))


@pytest.mark.parametrize("source", SOUNDS, ids=lambda source: source.kind)
@pytest.mark.parametrize(("amount", "least_db", "most_db"), [(0.05, -30.5, -18.0), (1.0, -20.5, -9.5)])
def test_two_strokes_differ_by_as_much_as_asked(
    source: Made, amount: float, least_db: float, most_db: float
) -> None:
    """From -30 to -10 dB of their energy, at the same loudness within half a decibel."""
    strokes = _strokes(source, amount)
    apart = [_apart_db(x, y) for x, y in pairwise(strokes)]
    assert least_db < min(apart)
    assert max(apart) < most_db
    loud = [momentary_max_lufs(x, RATE) for x in strokes]
    assert max(loud) - min(loud) < 0.5


@pytest.mark.parametrize("source", [MadeKick(), Made808()], ids=lambda source: source.kind)
def test_the_note_stays_within_three_cents(source: Made) -> None:
    found = [measure(x, RATE).hit.fundamental_hz for x in _strokes(source, 1.0)]
    assert all(hz is not None for hz in found)
    cents = [1200 * float(np.log2(hz / found[0])) for hz in found if hz and found[0]]
    assert max(cents) - min(cents) < 3


def test_a_struck_head_keeps_its_modes() -> None:
    """What is heard of a membrane is its strongest mode: its tension is part of its note, and stays."""
    found = [measure(x, RATE).hit.estimate_hz for x in _strokes(MadeMembrane(), 1.0)]
    assert all(hz is not None for hz in found)
    cents = [1200 * float(np.log2(hz / found[0])) for hz in found if hz and found[0]]
    assert max(cents) - min(cents) < 3


def test_none_is_none_and_the_first_stroke_is_the_plain_one() -> None:
    plain = RENDER.hit(Hit.of(MadeHat()), 126.0)
    assert all(np.array_equal(x, plain) for x in _strokes(MadeHat(), 0.0))
    varied = _strokes(MadeHat(), 0.5)
    assert np.array_equal(varied[0], plain)
    # The same stroke is the same each time, and the ninth is the first.
    again = HitRenderer(Kept(400), nothing_imported)
    hit = Hit.of(MadeHat(), vary=0.5)
    assert np.array_equal(again.hit(hit, 126.0, 1.0, 3), varied[3])
    assert np.array_equal(again.hit(hit, 126.0, 1.0, 8), plain)
    soft = _strokes(MadeHat(), 0.5, velocity=0.4)
    assert _apart_db(soft[0], soft[1]) < -10


def test_strokes_in_the_loop_vary() -> None:
    steps = tuple(HitStep(at=n / 2) for n in range(8))
    loops = []
    for vary in (0.0, 0.6):
        hat = Hit.of(MadeHat(), name="Hat", kind="hat", steps=steps, vary=vary)
        state = TrackState.of(brief=Brief(bpm=120.0, chord_roots=("tonic",)), hits=(hat,))
        loop = Session().parts.hit_loop(state, state.hits[0])
        assert loop is not None
        loops.append(loop.samples.reshape(8, -1))
    alike, varied = loops
    assert all(np.array_equal(alike[0], one) for one in alike[1:])
    assert all(not np.allclose(x, y) for x, y in combinations(varied, 2))
