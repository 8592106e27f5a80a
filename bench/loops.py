"""Generated loops with a known key, tempo and drum pattern. Invented, apart from the product's code."""

import time

import numpy as np
from numpy.typing import NDArray

from bench.figures import figure, part
from juglant.core import music
from juglant.core.measure.reference import reference

Array = NDArray[np.float64]
RATE = 44_100
# Four chords of each mode, semitones above the tonic: I vi IV V, and i VI III VII.
_CHORDS = {
    "major": ((0, 4, 7), (9, 12, 16), (5, 9, 12), (7, 11, 14)),
    "minor": ((0, 3, 7), (8, 12, 15), (3, 7, 10), (10, 14, 17)),
}


def _tone(midi: float, seconds: float, overtones: int, rng: np.random.Generator) -> Array:
    t = np.arange(round(seconds * RATE)) / RATE
    hz = 440 * 2 ** ((midi - 69) / 12)
    parts = range(1, overtones + 1)
    return np.asarray(sum(np.sin(2 * np.pi * hz * n * t + rng.uniform(0, 6)) / n**1.3 for n in parts))


def make_loop(tonic: int, mode: str, bpm: float, seed: int = 0, *, drums: bool = True) -> Array:
    """Four bars of chords over a bass; with drums, kicks on beats, noise on two and four, hats between."""
    rng = np.random.default_rng(seed)
    beat = 60 / bpm
    x = np.zeros(round(16 * beat * RATE))

    def add(at_s: float, y: Array) -> None:
        start = round(at_s * RATE)
        end = min(x.size, start + y.size)
        x[start:end] += y[: end - start]

    for bar, chord in enumerate(_CHORDS[mode]):
        t = np.arange(round(4 * beat * RATE)) / RATE
        ease = np.minimum(1, np.minimum(t / 0.01, (t[-1] - t) / 0.02))
        notes = [_tone(48 + tonic + step, 4 * beat, 5, rng) for step in chord]
        low = 1.2 * _tone(36 + tonic + chord[0], 4 * beat, 3, rng)
        add(4 * beat * bar, 0.1 * ease * np.sum([*notes, low], axis=0))
    for n in range(16 if drums else 0):
        t = np.arange(round(0.3 * RATE)) / RATE
        add(n * beat, 0.7 * np.exp(-t / 0.1) * np.sin(2 * np.pi * (50 * t + 2 * (1 - np.exp(-t / 0.02)))))
        if n % 2:
            add(n * beat, 0.2 * np.exp(-t / 0.05) * rng.standard_normal(t.size))
        short = np.arange(round(0.05 * RATE)) / RATE
        hiss = np.diff(rng.standard_normal(short.size + 1))
        add((n + 0.5) * beat, 0.15 * np.exp(-short / 0.01) * hiss)
    return x


def all_keys() -> list[tuple[int, str, float, Array]]:
    """One loop in each of the 24 keys, at tempos from 90 to 170."""
    found = []
    for mode in _CHORDS:
        for tonic in range(12):
            bpm = 90.0 + 7 * tonic + 3 * (mode == "minor")
            found.append((tonic, mode, bpm, make_loop(tonic, mode, bpm, tonic)))
    return found


def is_key(found: str | None, tonic: int, mode: str) -> bool:
    """Whether an estimate names this key, however it is spelled."""
    if found is None:
        return False
    key = music.parse_key(found)
    return music.pitch_class(key.tonic) == tonic and key.mode == mode


def main() -> None:
    """Print how many keys and tempos of generated loops are found."""
    right, tempos, unsure, took = 0, 0, [], []
    loops = all_keys()
    reference(loops[0][3], RATE)
    for tonic, mode, bpm, x in loops:
        start = time.perf_counter()
        found = reference(x, RATE)
        took.append(time.perf_counter() - start)
        if is_key(found.key, tonic, mode):
            right += 1
        else:
            unsure.append(found.key_confidence)
        tempos += found.bpm is not None and abs(found.bpm - bpm) < 0.05
    part("Key and tempo of generated loops, one in each key")
    figure("keys right, of 24", right, "", 22, at_least=True)
    figure("confidence of the wrong ones, at most", max(unsure, default=0.0))
    figure("tempos within 0.05 BPM, of 24", tempos)
    figure("a loop of four bars", 1000 * np.median(took), "ms")
