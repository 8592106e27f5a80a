"""Ducking solved on the demo and on generated kick and bass pairs."""

import numpy as np

from bench.corpus import corpus
from juglant.core.lowend.ducking import CLICK_LIMIT_DB_PER_MS
from juglant.core.lowend.pair import Pair, duck_pair
from juglant.core.lowend.session import Session
from juglant.demo.scenario import TRACKS

BEATS = (1.0, 2.0, 3.0, 4.0)


def _pairs(count: int) -> list[Pair]:
    rng = np.random.default_rng(7)
    made = []
    for case in corpus(count, seed=7, noise_db=np.nan, decay_ms=300.0):
        bpm = float(rng.uniform(90, 150))
        t = np.arange(round(4 * 60 / bpm * case.rate)) / case.rate
        bass = np.sin(2 * np.pi * rng.uniform(35, 110) * t) * 10 ** (rng.uniform(-18, 0) / 20)
        if rng.random() < 0.5:
            bass = bass * (np.sin(2 * np.pi * bpm / 60 * 2 * t) > 0)
        made.append(duck_pair(case.samples, bass, case.rate, bpm, BEATS))
    return made


def main(count: int = 60) -> None:
    """Print how far the collision falls."""
    print("Ducking, solved")
    session = Session()
    for name, state in TRACKS.items():
        solved = session.solve_ducking(state).recipe
        answer = session.answer(state.model_copy(update={"duck": solved, "ducking": True}))
        before, after, duck = answer.before.collision_ms, answer.after.collision_ms, answer.duck
        print(
            f"  {name:<16}{before:6.0f} ms -> {after:4.1f} ms, slack {duck.slack_ms or 0:.0f} ms, "
            f"click {duck.click_risk:.1f} dB/ms"
        )
    pairs = [pair for pair in _pairs(count) if pair.before.collision_ms > 5]
    left = np.array([pair.after.collision_ms / pair.before.collision_ms for pair in pairs])
    slack = np.array([pair.duck.slack_ms or 0.0 for pair in pairs])
    click = max(pair.duck.click_risk for pair in pairs)
    print(f"  {len(pairs)} generated pairs: left of the collision, median {100 * np.median(left):.1f} %, "
          f"worst {100 * left.max():.1f} %; a tenth or less in {np.sum(left <= 0.1)}")  # fmt: skip
    print(f"  least slack {slack.min():.0f} ms, worst click risk {click:.1f} dB/ms "
          f"(limit {CLICK_LIMIT_DB_PER_MS:.0f})\n")  # fmt: skip
