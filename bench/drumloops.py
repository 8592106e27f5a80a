"""Loops of recorded General MIDI kits in known patterns, alone and under music. Invented patterns."""

import numpy as np
from numpy.typing import NDArray

from bench import instruments
from bench.figures import figure, part
from bench.lines import note
from juglant.core.measure.reference import reference

Array = NDArray[np.float64]
RATE = 48_000
# Beats of two bars from 0: kick, snare, hat.
PATTERNS: dict[str, dict[str, tuple[float, ...]]] = {
    "four to the floor": {
        "kick": tuple(map(float, range(8))), "snare": (1.0, 3.0, 5.0, 7.0),
        "hat": tuple(n + 0.5 for n in range(8)),
    },
    "break": {
        "kick": (0.0, 1.5, 2.5, 4.0, 5.5, 6.25), "snare": (1.0, 3.0, 5.0, 7.0, 7.75),
        "hat": tuple(n / 2 for n in range(16)),
    },
    "half time": {
        "kick": (0.0, 1.75, 3.5, 4.0, 6.75), "snare": (2.0, 6.0), "hat": tuple(n / 2 for n in range(16)),
    },
    "two step": {
        "kick": (0.0, 2.5, 4.0, 6.5), "snare": (1.0, 3.0, 5.0, 7.0),
        "hat": tuple(n + part for n in range(8) for part in (0.25, 0.5, 0.75)),
    },
}  # fmt: skip
KEYS = {"kick": 36, "snare": 38, "hat": 42}


def loop(pattern: str, kit: int, bpm: float, seed: int, music_db: float | None) -> Array:
    """Two bars; with `music_db` a bass and a chord lie so far above or under the drums' level."""
    rng = np.random.default_rng(seed)
    beat = 60 / bpm
    events = [
        (at * beat, 0.2, KEYS[lane], int(rng.integers(85, 120)))
        for lane, places in PATTERNS[pattern].items() for at in places
    ]  # fmt: skip
    frames = round(8 * beat * RATE)
    x = instruments.played(events, frames / RATE + 0.1, kit, drums=True).mean(axis=1)[:frames]
    if music_db is not None:
        y = np.zeros(frames)
        for n in range(8):
            tone = note(36 + int(rng.integers(0, 8)), 0.42 * beat, "saw")
            start = round((n + 0.5) * beat * RATE)
            y[start : start + tone.size] += tone[: frames - start]
        for bar in range(2):
            for semitone in (0, 3, 7):
                tone = 0.25 * note(60 + semitone, 3.9 * beat, "saw")
                start = round(4 * bar * beat * RATE)
                y[start : start + tone.size] += tone[: frames - start]
        x = x + y * 10 ** (music_db / 20) * np.sqrt(np.mean(x * x) / np.mean(y * y))
    return np.asarray(0.6 * x / np.max(np.abs(x)))


def scored(
    music_db: float | None, kits: tuple[int, ...] = (0, 8, 16, 24, 25, 40)
) -> dict[str, tuple[int, int, int]]:
    """For each lane: strokes that there are, found within 25 ms, and said that are none."""
    score = dict.fromkeys(KEYS, (0, 0, 0))
    for n, pattern in enumerate(PATTERNS):
        for kit in kits:
            bpm = 90.0 + 11 * n + kit
            found = reference(loop(pattern, kit, bpm, n + kit, music_db), RATE)
            for lane, places in PATTERNS[pattern].items():
                left = [hit.at_ms for hit in found.hits if lane in hit.kinds]
                true = [at * 60_000 / bpm for at in places]
                met = 0
                for at in true:
                    near = [one for one in left if abs(one - at) < 25]
                    if near:
                        left.remove(min(near, key=lambda one: abs(one - at)))
                        met += 1
                there, right, false = score[lane]
                score[lane] = (there + len(true), right + met, false + len(left))
    return score


def main() -> None:
    """Print recall and false strokes of every lane, and tempos of breaks."""
    part("Drum map of recorded kits")
    for name, music_db in (("alone", None), ("music 6 dB below", -6.0), ("music 6 dB above", 6.0)):
        asked = (90, 10) if music_db != 6.0 else (None, None)
        for lane, (there, right, false) in scored(music_db).items():
            figure(f"{name}: {lane} found", 100 * right / there, "%", asked[0], at_least=True)
            figure(f"{name}: {lane} false", 100 * false / max(right + false, 1), "%", asked[1])
    right = offered = 0
    for n in range(12):
        bpm = 84.0 + n
        found = reference(loop("break", 0, bpm, n, None), RATE)
        right += found.bpm is not None and abs(found.bpm - bpm) < 0.5
        offered += any(abs(one - bpm) < 0.5 for one in (found.bpm or 0.0, *found.other_bpm))
    figure("breaks of 84 to 95 BPM right, of 12", right)
    figure("the same right or offered, of 12", offered)
