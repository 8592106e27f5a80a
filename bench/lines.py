"""Bass loops and full loops in known keys, made apart from the product's code. Invented."""

from collections.abc import Container, Iterator

import numpy as np
from numpy.typing import NDArray

from bench.figures import figure, part
from bench.loops import is_key
from bench.tracks import kick
from juglant.core.measure.reference import reference

Array = NDArray[np.float64]
RATE = 48_000
SCALES = {"minor": (0, 2, 3, 5, 7, 8, 10), "major": (0, 2, 4, 5, 7, 9, 11)}
# Degrees from 1, one a beat or two: each names its mode by its third.
LINES = (
    (1, 1, 3, 5, 1, 1, 6, 7), (1, 5, 3, 1, 4, 4, 5, 5), (1, 1, 1, 3, 6, 6, 5, 3), (1, 3, 4, 5, 6, 5, 3, 1),
)  # fmt: skip
WAVES = ("saw", "square", "sine", "driven")


def note(midi: float, seconds: float, wave: str) -> Array:
    """A bass note."""
    t = np.arange(round(seconds * RATE)) / RATE
    hz = 440 * 2 ** ((midi - 69) / 12)
    if wave == "sine":
        y = np.sin(2 * np.pi * hz * t)
    elif wave == "driven":
        y = np.tanh(4 * np.sin(2 * np.pi * hz * t) + 0.6)
    else:
        step = 2 if wave == "square" else 1
        parts = [n for n in range(1, 30, step) if n * hz < 8000]
        # Sums of sines of one phase: the imaginary part of a polynomial, by Horner's rule.
        turn = np.exp(2j * np.pi * hz * t)
        y = np.imag(np.polyval([1 / n if n in parts else 0.0 for n in range(29, -1, -1)], turn))
    return np.asarray(y * np.minimum(1, np.minimum(t / 0.004, t[::-1] / 0.01)))


def bass_loop(tonic: int, mode: str, degrees: tuple[int, ...], wave: str, bpm: float, octave: int) -> Array:
    """Two bars, a degree a beat."""
    beat = 60 / bpm
    x = np.zeros(round(8 * beat * RATE))
    for n, degree in enumerate(degrees):
        y = note(12 * (octave + 1) + tonic + SCALES[mode][degree - 1], 0.9 * beat, wave)
        start = round(n * beat * RATE)
        x[start : start + y.size] += y[: x.size - start]
    return np.asarray(0.4 * x / np.max(np.abs(x)))


def bass_loops(wanted: Container[int] = range(96)) -> Iterator[tuple[int, str, Array]]:
    """96 of them: four waves and four lines, keys and octaves all over."""
    rng = np.random.default_rng(11)
    for n in range(96):
        tonic, mode = int(rng.integers(12)), str(rng.choice(["minor", "major"]))
        bpm, octave = float(rng.uniform(85, 165)), int(rng.integers(1, 3))
        if n in wanted:
            yield tonic, mode, bass_loop(tonic, mode, LINES[n // 4 % 4], WAVES[n % 4], bpm, octave)


def full_loop(tonic: int, mode: str, bpm: float, seed: int) -> Array:
    """Drums, a bass on the roots and held chords: i VI III VII, or I vi IV V."""
    rng = np.random.default_rng(seed)
    beat = 60 / bpm
    frames = round(16 * beat * RATE)
    x = np.zeros(frames)

    def add(at: float, y: Array) -> None:
        start = round(at * beat * RATE)
        x[start : start + y.size] += y[: frames - start]

    scale = SCALES[mode]
    degrees = (1, 6, 3, 7) if mode == "minor" else (1, 6, 4, 5)
    for bar, degree in enumerate(degrees):
        tones = [scale[(degree - 1 + k) % 7] + 12 * ((degree - 1 + k) // 7) for k in (0, 2, 4)]
        for semitone in tones:
            add(4 * bar, 0.05 * note(48 + tonic + semitone, 3.95 * beat, "saw"))
        for n in range(4):
            add(4 * bar + n + 0.5, 0.22 * note(24 + tonic + scale[degree - 1] % 12, 0.4 * beat, "saw"))
    for n in range(16):
        add(n, 0.6 * kick(50, 260))
        t = np.arange(round(0.12 * RATE)) / RATE
        if n % 2:
            add(n, 0.25 * rng.standard_normal(t.size) * np.exp(-t / 0.04))
        add(n + 0.5, 0.12 * np.diff(rng.standard_normal(t.size + 1)) * np.exp(-t / 0.015))
    return np.asarray(0.5 * x / np.max(np.abs(x)))


def main() -> None:
    """Print how many keys are right, and how many are wrong and sure."""
    loops = list(bass_loops())
    right = sure_wrong = unread = 0
    for tonic, mode, x in loops:
        found = reference(x, RATE)
        right += is_key(found.key, tonic, mode)
        unread += found.key is None
        wrong = found.key is not None and not is_key(found.key, tonic, mode)
        sure_wrong += wrong and found.key_confidence >= 0.5
    part("Keys of bass loops alone, and of drums with bass and chords")
    figure(f"bass loops right, of {len(loops)}", right, "", 77, at_least=True)
    figure("unread", unread)
    figure("wrong at 0.5 or more", sure_wrong, "", 0)
    met = 0
    for n in range(12):
        tonic, mode = (n * 7) % 12, ("minor", "major")[n % 2]
        found = reference(full_loop(tonic, mode, 118 + 3 * n, n), RATE)
        met += is_key(found.key, tonic, mode) or is_key(found.other_key, tonic, mode)
    figure("full loops right, first or second, of 12", met, "", 10, at_least=True)
