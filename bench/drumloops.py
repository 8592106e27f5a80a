"""Loops of recorded General MIDI kits and of drum machines in known patterns, alone and under music.

Invented sounds and patterns.
"""

from collections.abc import Callable, Iterable
from functools import partial

import numpy as np
from numpy.typing import NDArray
from scipy import signal

from bench import instruments
from bench.figures import figure, part
from bench.lines import note
from bench.tracks import kick
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
# Sixteenths of two bars from 0, of others: a busy break, a slow one, one that pushes, eighths, no kick, a
# fill.
OTHERS: tuple[dict[str, tuple[int, ...]], ...] = (
    {"kick": (0, 2, 10, 11, 16, 18, 26, 27), "snare": (4, 7, 9, 12, 15, 20, 23, 25, 28, 31),
     "hat": tuple(range(0, 32, 2))},
    {"kick": (0, 6, 16, 22, 27), "snare": (8, 24), "hat": (*range(0, 32, 2), 5, 7, 29)},
    {"kick": tuple(range(0, 32, 4)), "snare": (3, 6, 11, 14, 19, 22, 27, 30),
     "hat": tuple(range(2, 32, 4))},
    {"kick": (0, 8, 10, 16, 24, 26), "snare": (4, 12, 20, 28), "hat": tuple(range(0, 32, 2))},
    {"kick": (), "snare": (4, 12, 20, 28), "hat": tuple(range(0, 32, 2))},
    {"kick": (0, 6, 10, 16, 22), "snare": (4, 12, 20, 26, 28, 29, 30, 31), "hat": tuple(range(0, 26, 2))},
)  # fmt: skip
# Kits with a kick: an orchestra's has a concert drum in its place.
_POP_KITS = instruments.KITS[:-1]


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


def other_loop(seed: int, *, music: bool) -> tuple[dict[str, list[float]], Array]:
    """When in ms each lane is struck, and two bars of it: swung or not, a little off the grid, the hats
    softer than the rest; with music a plucked bass between the beats and held chords, 6 dB under the drums.
    """
    rng = np.random.default_rng((31, seed))
    beat = 60 / float(rng.integers(72, 176))
    swing = float(rng.choice([0.0, 0.0, 0.02, 0.0375]))
    events: list[instruments.Event] = []
    struck: dict[str, list[float]] = {lane: [] for lane in KEYS}
    for lane, places in OTHERS[seed % len(OTHERS)].items():
        for n in places:
            at = max((n / 4 + swing * (n % 2)) * beat + float(rng.normal(0, 0.002)), 0.0)
            hard = int(rng.integers(55, 95) if lane == "hat" else rng.integers(70, 118))
            events.append((at, 0.1, KEYS[lane] + 2 * (lane == "snare" and seed % 3 == 0), hard))
            struck[lane].append(1000 * at)
    x = instruments.played(events, 8 * beat, _POP_KITS[seed % len(_POP_KITS)], drums=True)
    if music:
        root = int(rng.integers(28, 40))
        chord = (root + 24, root + 27 + seed % 2, root + 31)
        held = [(2 * n * beat, 1.9 * beat, note, 80) for n in range(4) for note in chord]
        low = [((n + 0.5) * beat, 0.4 * beat, root, 95) for n in range(8)]
        y = 0.5 * instruments.played(held, 8 * beat, int(rng.choice([0, 48, 88])))
        y += 0.8 * instruments.played(low, 8 * beat, instruments.BASSES["fingered"])
        x = x + y * np.sqrt(np.mean(x * x) / np.mean(y * y)) * 10 ** (-6 / 20)
    mono = x.mean(axis=1)
    return struck, np.asarray(0.8 * mono / np.max(np.abs(mono)))


def hiss(rng: np.random.Generator, low_hz: float, high_hz: float, t60_ms: float) -> Array:
    """Half a second of noise between two corners, falling by 60 dB in `t60_ms`."""
    sections = signal.butter(2, [low_hz, high_hz], "bandpass", fs=RATE, output="sos")
    x = signal.sosfilt(sections, rng.standard_normal(round(0.5 * RATE)))
    return np.asarray(x * 10 ** (-3000 * np.arange(x.size) / RATE / t60_ms))


def _clap(rng: np.random.Generator) -> Array:
    """Some hands, a little apart, and what the room adds."""
    middle = float(rng.uniform(900, 2200))
    x = hiss(rng, 0.6 * middle, 1.7 * middle, float(rng.uniform(150, 400))) * 0.6
    for n in range(int(rng.integers(2, 5))):
        start = round(n * rng.uniform(0.007, 0.013) * RATE)
        x[start:] += hiss(rng, 0.7 * middle, 1.8 * middle, 25.0)[: x.size - start]
    return x


def _snare(rng: np.random.Generator) -> Array:
    """Two modes of a skin, and wires."""
    hz, t = float(rng.uniform(150, 240)), np.arange(round(0.5 * RATE)) / RATE
    skin = sum(np.sin(2 * np.pi * k * hz * t) * 10 ** (-3 * t / rng.uniform(0.1, 0.25)) for k in (1.0, 1.6))
    wires = hiss(rng, 800, float(rng.uniform(5000, 10000)), float(rng.uniform(120, 350)))
    return np.asarray(skin + rng.uniform(0.4, 1.2) * wires / np.std(wires[:2000]) * 0.5)


def _hat(rng: np.random.Generator) -> Array:
    """Square waves that are in no tune, or noise, high-passed."""
    high_hz = float(rng.uniform(5500, 9000))
    if rng.random() < 0.5:
        return hiss(rng, high_hz, 16000, float(rng.uniform(40, 120)))
    t = np.arange(round(0.3 * RATE)) / RATE
    x = sum(np.sign(np.sin(2 * np.pi * hz * t)) for hz in rng.uniform(300, 900, 6))
    sections = signal.butter(4, high_hz, "highpass", fs=RATE, output="sos")
    return np.asarray(signal.sosfilt(sections, x) * 10 ** (-3 * t / rng.uniform(0.04, 0.12)))


def programmed(pattern: str, bpm: float, seed: int) -> Array:
    """Two bars of a drum machine: one sound a lane, a clap in place of the snare every other time."""
    rng = np.random.default_rng((77, seed))
    low = kick(float(rng.uniform(42, 62)), float(rng.uniform(150, 450)), sweep=float(rng.uniform(2, 6)),
               sweep_ms=float(rng.uniform(8, 30)), click=float(rng.uniform(0, 0.3)))  # fmt: skip
    sounds = {"kick": low, "snare": _clap(rng) if seed % 2 else _snare(rng), "hat": _hat(rng)}
    gains = {"kick": 0.9, "snare": float(rng.uniform(0.4, 0.8)), "hat": float(rng.uniform(0.15, 0.4))}
    beat = 60 / bpm * RATE
    out = np.zeros(round(8 * beat) + 2 * RATE)
    for lane, places in PATTERNS[pattern].items():
        x = gains[lane] * sounds[lane] / np.max(np.abs(sounds[lane]))
        for at in places:
            start = round(at * beat)
            out[start : start + x.size] += float(rng.uniform(0.8, 1.0)) * x
    out = out[: round(8 * beat)]
    return np.asarray(0.6 * out / np.max(np.abs(out)))


Score = dict[str, tuple[int, int, int]]


def met(true: Iterable[float], found: list[float], within_ms: float) -> tuple[int, int]:
    """How many strokes are met by one that was found, each by its own, and how many of these are left."""
    left, right = list(found), 0
    for at in true:
        near = [one for one in left if abs(one - at) < within_ms]
        if near:
            left.remove(min(near, key=lambda one, at=at: abs(one - at)))  # type: ignore[misc]
            right += 1
    return right, len(left)


def _counted(score: Score, true: dict[str, list[float]], x: Array) -> None:
    """Add what is found in one loop."""
    found = reference(x, RATE)
    for lane, places in true.items():
        right, false = met(places, [hit.at_ms for hit in found.hits if lane in hit.kinds], 25)
        there, before, wrong = score[lane]
        score[lane] = (there + len(places), before + right, wrong + false)


def scored_others(seeds: Iterable[int], *, music: bool) -> Score:
    """As `scored`, of the other patterns."""
    score = dict.fromkeys(KEYS, (0, 0, 0))
    for seed in seeds:
        _counted(score, *other_loop(seed, music=music))
    return score


def scored(
    make: Callable[[str, int, float, int], Array], kits: tuple[int, ...] = (0, 8, 16, 24, 25, 40)
) -> Score:
    """For each lane: strokes that there are, found within 25 ms, and said that are none."""
    score = dict.fromkeys(KEYS, (0, 0, 0))
    for n, pattern in enumerate(PATTERNS):
        for kit in kits:
            bpm = 90.0 + 11 * n + kit
            true = {
                lane: [at * 60_000 / bpm for at in places] for lane, places in PATTERNS[pattern].items()
            }
            _counted(score, true, make(pattern, kit, bpm, n + kit))
    return score


def main() -> None:
    """Print recall and false strokes of every lane, and tempos of breaks."""
    part("Drum map of recorded kits")
    kinds: tuple[tuple[str, Callable[[str, int, float, int], Array]], ...] = (
        ("alone", partial(loop, music_db=None)),
        ("music 6 dB below", partial(loop, music_db=-6.0)),
        ("music 6 dB above", partial(loop, music_db=6.0)),
        (
            "programmed, snare or clap",
            lambda pattern, kit, bpm, seed: programmed(pattern, bpm, seed + 100 * kit),
        ),
    )
    for name, make in kinds:
        asked = (90, 10) if name in ("alone", "music 6 dB below") else (None, None)
        for lane, (there, right, false) in scored(make).items():
            figure(f"{name}: {lane} found", 100 * right / there, "%", asked[0], at_least=True)
            figure(f"{name}: {lane} false", 100 * false / max(right + false, 1), "%", asked[1])
    for music in (False, True):
        name = "other patterns, soft hats" + (", a plucked bass" if music else "")
        kicked = [seed for seed in range(42) if OTHERS[seed % len(OTHERS)]["kick"]]
        for lane, (there, right, false) in scored_others(kicked, music=music).items():
            figure(f"{name}: {lane} found", 100 * right / there, "%")
            figure(f"{name}: {lane} false", 100 * false / max(right + false, 1), "%")
        none = [seed for seed in range(42) if seed not in kicked]
        said = scored_others(none, music=music)["kick"][2]
        figure(f"{name}: kicks said in {len(none)} loops without any", said)
    right = offered = 0
    for n in range(12):
        bpm = 84.0 + n
        found = reference(loop("break", 0, bpm, n, None), RATE)
        right += found.bpm is not None and abs(found.bpm - bpm) < 0.5
        offered += any(abs(one - bpm) < 0.5 for one in (found.bpm or 0.0, *found.other_bpm))
    figure("breaks of 84 to 95 BPM right, of 12", right)
    figure("the same right or offered, of 12", offered)
