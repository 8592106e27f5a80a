"""Loops of recorded chords, basses and drums in known keys, and of drums alone: apart from those that the
weights of the product's key finding were fitted to. Invented.
"""

import re

import numpy as np
from numpy.typing import NDArray

from bench import instruments
from bench.figures import figure, part
from bench.loops import is_key
from juglant.core.measure.reference import reference

Array = NDArray[np.float64]
RATE = 48_000
# Chords that begin on their tonic, or on the fourth and go home: semitones above it, and what they are.
_PROGRESSIONS = {
    "minor": ("0m 5m 7m 0m", "0m 10 8 7", "0m 8 5m 7", "0m 0m 8 10", "0m7 0m7 0m7 0m7", "0m 3 10 5m"),
    "major": ("0 5 7 0", "0 9m 2m 7", "0M7 5M7 0M7 5M7", "0 7 9m 5", "5 7 0 0", "0 4m 5 7"),
}
_TONES = {"": (0, 4, 7), "m": (0, 3, 7), "M7": (0, 4, 7, 11), "m7": (0, 3, 7, 10)}
# Programs of General MIDI: pianos, organ, guitar, strings, a lead and pads.
_CHORDS, _BASSES = (0, 4, 5, 16, 25, 48, 81, 88, 89), (32, 33, 34, 38, 39)
_HELD, _OFF_BEATS, _ARPEGGIO, _PUSHED = range(4)
_KITS = (0, 25, 40)


def _parsed(chord: str) -> tuple[int, tuple[int, ...]]:
    found = re.fullmatch(r"(\d+)(\D.*)?", chord)
    assert found is not None
    return int(found[1]), _TONES[found[2] or ""]


def _placed(style: int, notes: list[int], beat: float) -> list[instruments.Event]:
    """One bar of a chord."""
    if style == _HELD:
        return [(0.0, 3.9 * beat, note, 80) for note in notes]
    if style == _OFF_BEATS:
        return [((n + 0.5) * beat, 0.4 * beat, note, 90) for n in range(4) for note in notes]
    if style == _ARPEGGIO:
        turns = [(n, notes[n % len(notes)] + (12 if n > 3 else 0)) for n in range(8)]
        return [(n * beat / 2, 0.45 * beat, note, 85) for n, note in turns]
    return [(at * beat, 1.2 * beat, note, 80) for at in (0, 1.5, 3) for note in notes]


def played_loop(seed: int) -> tuple[int, str, float, Array]:
    """Tonic, mode, tempo, and four bars of chords over a bass, three times in four with drums."""
    rng = np.random.default_rng((23, seed))
    mode, style = ("minor", "major")[seed % 2], seed % 4
    tonic, bpm = int(rng.integers(12)), float(rng.integers(80, 172))
    beat = 60 / bpm
    chords: list[instruments.Event] = []
    bass: list[instruments.Event] = []
    for bar, chord in enumerate(_PROGRESSIONS[mode][seed // 2 % 6].split()):
        above, tones = _parsed(chord)
        root, begin = tonic + above, 4 * bar * beat
        notes = [48 + (root + one) % 12 + 12 * int(rng.random() < 0.3) for one in tones]
        placed = _placed(style, notes, beat)
        chords += [(begin + at, length, note, hard) for at, length, note, hard in placed]
        low = 28 + (root - 28) % 12
        on_beats = [(0.0, 0.9), (2.0, 0.9)] if style in (_HELD, _PUSHED) else []
        for at, beats in on_beats or [(n + 0.5, 0.4) for n in range(4)]:
            bass.append((begin + at * beat, beats * beat, low, 95))
        if rng.random() < 0.5:
            bass.append((begin + 3.75 * beat, 0.2 * beat, low + 7, 85))
    seconds = 16 * beat
    x = 0.5 * instruments.played(chords, seconds, int(rng.choice(_CHORDS)))
    x += 0.8 * instruments.played(bass, seconds, int(rng.choice(_BASSES)))
    if rng.random() < 0.75:
        drums: list[instruments.Event] = []
        for n in range(16):
            drums += [(n * beat, 0.2, 36, 110), ((n + 0.5) * beat, 0.1, 42, 80)]
            drums += [(n * beat, 0.2, 38, 100)] if n % 2 else []
        x += 0.8 * instruments.played(drums, seconds, int(rng.choice(_KITS)), drums=True)
    mono = x.mean(axis=1)
    return tonic, mode, bpm, np.asarray(0.8 * mono / np.max(np.abs(mono)))


def drums_alone(seed: int) -> Array:
    """Four bars of a kit: kick, snare and hat by chance, and up to three of its other drums."""
    rng = np.random.default_rng((29, seed))
    beat = 60 / float(rng.uniform(80, 170))
    others = rng.choice(
        [35, 39, 40, 41, 45, 46, 48, 49, 51, 54, 56, 60, 63, 64, 69, 70, 75], seed % 4, False
    )
    events = [
        (n * beat / 4, 0.1, int(key), int(rng.integers(60, 120)))
        for key in (36, 38, 42, *others) for n in range(64) if rng.random() < (0.5 if key == 42 else 0.25)
    ]  # fmt: skip
    x = instruments.played(events, 16 * beat, int(rng.choice(instruments.KITS)), drums=True).mean(axis=1)
    return np.asarray(0.8 * x / np.max(np.abs(x)))


def main(count: int = 48) -> None:
    """Print how many keys are right, how many wrong and sure, and whether drums alone are given one."""
    right = named = sure = tempos = 0
    for tonic, mode, bpm, x in map(played_loop, range(count)):
        found = reference(x, RATE)
        is_right = is_key(found.key, tonic, mode)
        right += is_right
        named += is_right or is_key(found.other_key, tonic, mode)
        sure += not is_right and found.key is not None and found.key_confidence >= 0.5
        tempos += any(abs(one - bpm) < 0.05 for one in (found.bpm or 0.0, *found.other_bpm))
    part(f"Keys of {count} loops of recorded chords, basses and drums")
    figure("right", 100 * right / count, "%", 80, at_least=True)
    figure("right, or named second", 100 * named / count, "%", 100 * 10 / 12, at_least=True)
    figure("wrong at 0.5 or more", sure, "", 0)
    figure("tempos right, or named as another", 100 * tempos / count, "%")
    told = sum(reference(drums_alone(seed), RATE).key is not None for seed in range(24))
    figure("loops of drums alone that are given a key, of 24", told, "", 0)
