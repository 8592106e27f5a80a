"""Tempos of loops of recorded General MIDI kits, whole bars and not. Invented patterns."""

import numpy as np
import pytest
from scipy import signal

from bench.drumloops import PATTERNS, RATE, loop
from juglant.core.measure.drummap import drum_map
from juglant.core.measure.reference import reference
from tests.signals import noise


@pytest.mark.parametrize("bpm", [85.0, 87.0, 90.0, 93.5])
def test_a_slow_break_is_not_counted_four_thirds_as_fast(bpm: float) -> None:
    found = reference(loop("break", 0, bpm, 3, None), RATE)
    assert found.bpm is not None
    assert abs(found.bpm - 4 / 3 * bpm) > 2
    assert any(abs(one - bpm) < 0.5 for one in (found.bpm, *found.other_bpm))


@pytest.mark.parametrize("pattern", list(PATTERNS))
def test_a_loop_that_is_cut_anywhere_has_its_tempo_all_the_same(pattern: str) -> None:
    bpm = {"break": 92.0, "half time": 141.0}.get(pattern, 128.0)
    x = np.tile(loop(pattern, 25, bpm, 1, -3.0), 2)[: round(11.3 * 60 / bpm * RATE)]
    late = np.concatenate([np.zeros(round(0.13 * RATE)), x])
    found = reference(late, RATE)
    assert found.bpm == pytest.approx(bpm, abs=0.5)
    assert len(found.other_bpm) == len(found.other_bpm_confidence) <= 3
    assert all(one <= found.bpm_confidence for one in found.other_bpm_confidence)


def test_what_a_kit_plays_is_told_though_its_snare_is_all_noise() -> None:
    """An electronic kit, whose snare has the spectrum of other kits' hats."""
    x = loop("two step", 25, 120.0, 2, None)
    found = drum_map(x, RATE)
    beat = 500.0
    for lane, places in PATTERNS["two step"].items():
        struck = [one.at_ms for one in found if lane in one.velocities]
        met = [any(abs(at - place * beat) < 25 for at in struck) for place in places]
        assert np.mean(met) >= 0.75, lane


def test_a_loop_without_a_kick_has_none() -> None:
    x = loop("break", 8, 100.0, 4, None)
    hats = np.zeros(x.size)
    rng = np.random.default_rng(2)
    for n in range(16):
        hiss = np.diff(rng.standard_normal(2881)) * np.exp(-np.arange(2880) / 500)
        start = round(n * 0.3 * RATE)
        hats[start : start + 2880] += 0.3 * hiss
    found = drum_map(hats, RATE)
    assert len(found) >= 15
    assert not any("kick" in one.velocities for one in found)


def test_velocities_follow_how_hard_a_kick_is_struck() -> None:
    t = np.arange(round(0.25 * RATE)) / RATE
    kick = np.exp(-t / 0.06) * np.sin(2 * np.pi * (52 * t + 2.2 * (1 - np.exp(-t / 0.012))))
    kick[:96] += 0.4 * noise(0.002, 5)[:96]
    x, hard = np.zeros(4 * RATE), [1.0, 0.5, 0.8, 0.6]
    for n, level in enumerate(hard):
        x[n * RATE : n * RATE + kick.size] += level * kick
    found = [one.velocities["kick"] for one in drum_map(x, RATE) if "kick" in one.velocities]
    assert found == pytest.approx(hard, abs=0.12)


@pytest.mark.parametrize("rate", [44_100, 48_000])
def test_an_off_beat_bass_alone_keeps_its_own_beat(rate: int) -> None:
    # Three of its beats last as long as four at 94.5 BPM, on which not one of its notes would lie.
    beat = 60 / 126
    t = np.arange(round(0.24 * rate)) / rate
    ease = np.minimum(1.0, np.minimum(t / 0.003, (t[-1] - t) / 0.01))
    tone = 0.4 * signal.sawtooth(2 * np.pi * 55 * t) * ease
    x = np.zeros(round(16 * beat * rate))
    for n in range(16):
        start = round((n + 0.5) * beat * rate)
        x[start : start + tone.size] += tone[: x.size - start]
    found = reference(x, rate)
    assert found.bpm == pytest.approx(126.0, abs=0.1)
