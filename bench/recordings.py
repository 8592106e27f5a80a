"""Generated recordings of struck things, whose onsets are known. Invented data throughout."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

RATE = 48_000


@dataclass(frozen=True)
class Recording:
    """Samples and the true onsets in ms."""

    samples: Array
    onsets_ms: list[float]


def _stroke(rng: np.random.Generator) -> Array:
    """One stroke: a few damped modes and a burst of noise, of an object of its own."""
    decay_s = float(np.exp(rng.uniform(np.log(0.03), np.log(0.5))))
    t = np.arange(round(1.2 * decay_s * RATE) + 64) / RATE
    modes = rng.integers(1, 6)
    lowest = float(np.exp(rng.uniform(np.log(60), np.log(1500))))
    out = np.zeros(t.size)
    for k in range(modes):
        hz = lowest * (1 + 1.7 * k * rng.uniform(0.6, 1.4))
        if hz < 18000:
            out += (
                rng.uniform(0.2, 1)
                * np.exp(-6.9 * t * (1 + 0.5 * k) / decay_s)
                * np.sin(2 * np.pi * hz * t + rng.uniform(0, 1))
            )
    burst = rng.standard_normal(t.size) * np.exp(-t / rng.uniform(0.001, 0.02))
    out = out / np.max(np.abs(out)) + rng.uniform(0.15, 1.2) * burst / np.max(np.abs(burst))
    attack_s = rng.uniform(0.0001, 0.003)
    out *= np.minimum(1.0, t / attack_s)
    return np.asarray(out / np.max(np.abs(out)))


def recording(seed: int, strokes: int = 24, floor_db: float = -50.0) -> Recording:
    """A take with strokes over 30 dB of level, gaps from 120 ms up, and a noise floor."""
    rng = np.random.default_rng(seed)
    gaps = np.exp(rng.uniform(np.log(0.12), np.log(0.9), strokes))
    starts = 0.25 + np.cumsum(gaps)
    out = np.zeros(round((starts[-1] + 1.0) * RATE))
    onsets = []
    for start in starts:
        stroke = _stroke(rng) * 10 ** (rng.uniform(-30, 0) / 20)
        a = round(start * RATE)
        out[a : a + stroke.size] += stroke[: out.size - a]
        onsets.append(a / RATE * 1000)
    out *= 0.8 / np.max(np.abs(out))
    return Recording(out + 10 ** (floor_db / 20) * 0.8 * rng.standard_normal(out.size), onsets)


def f_measure(found_ms: list[float], true_ms: list[float], within_ms: float) -> tuple[float, int, int]:
    """F-measure with one-to-one matches within a window (as in mir_eval.onset), misses, extras."""
    left = list(found_ms)
    hits = 0
    for at in true_ms:
        near = [one for one in left if abs(one - at) <= within_ms]
        if near:
            left.remove(min(near, key=lambda one: abs(one - at)))
            hits += 1
    total = len(found_ms) + len(true_ms)
    return (2 * hits / total if total else 1.0), len(true_ms) - hits, len(left)


def struck(rng: np.random.Generator) -> Callable[[], Array]:
    """A thing to be struck again and again: wood, metal, a skin, a shaker, or one of modes of its own."""
    kind = str(rng.choice(["modes", "metal", "skin", "shaken"]))
    lowest = float(np.exp(rng.uniform(np.log(70), np.log(900))))
    decay_s = float(np.exp(rng.uniform(np.log(0.08), np.log(0.6))))
    attack_s = float(rng.uniform(0.0001, 0.002))
    ratios = {
        "modes": [1.0, 2.1, 3.4], "metal": [1.0, 1.47, 2.09, 2.56, 3.83, 5.3],
        "skin": [1.0, 1.59, 2.14, 2.3], "shaken": [],
    }[kind]  # fmt: skip

    def stroke() -> Array:
        t = np.arange(round(1.6 * decay_s * RATE) + 480) / RATE
        out = np.zeros(t.size)
        for k, ratio in enumerate(ratios):
            weight = rng.uniform(0.3, 1.0) / (1 + 0.4 * k)
            wave = np.sin(2 * np.pi * lowest * ratio * t + rng.uniform(0, 0.5))
            out += weight * np.exp(-6.9 * t * (1 + 0.4 * k) / decay_s) * wave
        noise_s = 0.12 * decay_s if kind == "shaken" else rng.uniform(0.001, 0.006)
        out += rng.uniform(0.2, 0.8) * 0.4 * rng.standard_normal(t.size) * np.exp(-t / noise_s)
        out *= np.minimum(1.0, t / attack_s)
        return np.asarray(out / np.max(np.abs(out)))

    return stroke
