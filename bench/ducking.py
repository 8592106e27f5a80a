"""Ducking solved on the demo and on generated kick and bass pairs."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from bench.corpus import corpus
from bench.figures import figure, part
from juglant.core.lowend.ducking import CLICK_LIMIT_DB_PER_MS, apply
from juglant.core.lowend.keyed import gain_db
from juglant.core.lowend.loop import kick_times_ms
from juglant.core.lowend.pair import Pair, duck_pair
from juglant.core.lowend.session import Session
from juglant.core.measure import levels
from juglant.core.measure.overlap import colliding, low_level
from juglant.core.recipes.keyed import KeyedCompressor
from juglant.core.tempo import beat_ms
from juglant.demo.scenario import TRACKS

Array = NDArray[np.float64]
BEATS = (1.0, 2.0, 3.0, 4.0)


# The two peers: a gain that comes back over a quarter note, and a keyed compressor as it is opened.
_DEFAULT = KeyedCompressor(threshold_db=-24.0, ratio=4.0, attack_ms=10.0, release_ms=100.0, knee_db=6.0)


@dataclass(frozen=True)
class _Case:
    pair: Pair
    bass: Array
    rate: int
    bpm: float

    def taken_lu(self, gain_db: Array) -> float:
        """Loudness that a gain takes from the bass."""
        before, after = (
            levels.integrated_lufs(np.tile(x, 3), self.rate) for x in (self.bass, apply(self.bass, gain_db))
        )
        return before - after

    def quarter_db(self) -> Array:
        """As deep as the solved curve, then back in a straight line over a quarter note."""
        pair = self.pair
        at = np.arange(self.bass.size) / self.rate * 1000
        since = np.min([np.mod(at - time, pair.length_ms) for time in pair.times_ms], axis=0)
        return np.asarray(-pair.recipe.depth_db * np.clip(1 - since / beat_ms(self.bpm), 0, 1))

    def left(self, gain_db: Array) -> float:
        """Share of the collision that is left under a gain."""
        kick, bass = (
            low_level(x, self.rate, loop=True) for x in (self.pair.key, apply(self.bass, gain_db))
        )
        plain = low_level(self.bass, self.rate, loop=True)
        return float(colliding(kick, bass).sum()) / max(float(colliding(kick, plain).sum()), 1.0)


def _cases(count: int) -> list[_Case]:
    """Long and short kicks against held and gated basses and 808s, 90-180 BPM, in key and out of it."""
    rng = np.random.default_rng(7)
    made = []
    for number, case in enumerate(corpus(count, seed=7, noise_db=np.nan)):
        bpm = float(rng.uniform(90, 180))
        t = np.arange(round(4 * 60 / bpm * case.rate)) / case.rate
        bass = np.sin(2 * np.pi * rng.uniform(35, 110) * t) * 10 ** (rng.uniform(-18, 0) / 20)
        if number % 3 == 1:
            bass = bass * (np.sin(2 * np.pi * bpm / 60 * 2 * t) > 0)
        if number % 3 == 2:
            bass = bass * np.exp(-np.mod(t, 2 * 60 / bpm) / 0.5)
        times = kick_times_ms(BEATS, bpm, bass.size / case.rate * 1000)
        made.append(_Case(duck_pair(case.samples, bass, case.rate, bpm, times), bass, case.rate, bpm))
    return made


def main(count: int = 60) -> None:
    """Print how far the collision falls."""
    part("Ducking, solved")
    session = Session()
    for name, state in TRACKS.items():
        solved = session.solve_ducking(state).recipe
        answer = session.answer(state.with_duck(duck=solved, on=True))
        before, after, duck = (
            answer.before.collision_ms or 0.0,
            answer.after.collision_ms or 0.0,
            answer.duck,
        )
        print(
            f"  {name:<16}{before:6.0f} ms -> {after:4.1f} ms, slack {duck.slack_ms or 0:.0f} ms, "
            f"click {duck.click_risk:.1f} dB/ms"
        )
    cases = [case for case in _cases(count) if (case.pair.before.collision_ms or 0.0) > 5]
    pairs = [case.pair for case in cases]
    left = np.array(
        [(pair.after.collision_ms or 0.0) / (pair.before.collision_ms or 1.0) for pair in pairs]
    )
    slack = np.array([pair.duck.slack_ms or 0.0 for pair in pairs])
    click = max(pair.duck.click_risk for pair in pairs)
    figure(f"left of the collision of {len(pairs)} pairs, median", 100 * np.median(left), "%")
    figure("a tenth of it or less is left", 100 * np.mean(left <= 0.1), "%")
    figure("least slack", slack.min(), "ms")
    figure("worst click risk", click, "dB/ms", CLICK_LIMIT_DB_PER_MS)
    ours = np.array([case.taken_lu(case.pair.gain_db) for case in cases])
    for name, asked, gains in (
        ("a quarter note, same depth", 1.5, [case.quarter_db() for case in cases]),
        ("a compressor's defaults", None, [gain_db(_DEFAULT, case.pair.key, case.rate) for case in cases]),
    ):
        peer = np.array([case.taken_lu(gain) for case, gain in zip(cases, gains, strict=True)])
        rest = np.array([case.left(gain) for case, gain in zip(cases, gains, strict=True)])
        less = float(np.median(peer - ours))
        figure(f"less taken from the bass than by {name}", less, "LU", asked, at_least=True,
               peer=name, ratio=float(np.median(ours) / np.median(peer)))  # fmt: skip
        figure(f"left of the collision by {name}", 100 * np.median(rest), "%")
