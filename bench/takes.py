"""Cutting a recording into takes: struck things in rooms of their own noise, and bass loops. Invented."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.signal import lfilter

from bench.figures import figure, part
from bench.recordings import struck
from bench.tracks import line
from juglant.core.measure import takes
from juglant.core.measure.hit import measure

Array = NDArray[np.float64]
RATE = 48_000
# The gaps between strokes are as long as a hand makes them.
_GAPS_S = (0.35, 1.1)
_LATE_MS, _END_MS, _FIRST_DB = 0.2, 20.0, -40.0


@dataclass(frozen=True)
class Stroke:
    """Where a stroke begins, where it sinks into the room or meets the next one (frames), and its peak."""

    start: int
    end: int
    peak: float


def room(rng: np.random.Generator, frames: int, colour: str) -> Array:
    """Noise of a room at RMS 1: "white", "warm" (falling 6 dB per octave from 200 Hz), "mains"."""
    noise = rng.standard_normal(frames)
    if colour == "warm":
        noise = lfilter([1.0], [1.0, -np.exp(-2 * np.pi * 200 / RATE)], noise)
    elif colour == "mains":
        t = np.arange(frames) / RATE
        noise = noise + sum(a * np.sin(2 * np.pi * 50 * n * t) for n, a in ((1, 1.0), (2, 0.7), (3, 0.5)))
    return np.asarray(noise / np.sqrt(np.mean(noise**2)))


def recording(seed: int, strokes: int = 10) -> tuple[Array, list[Stroke]]:
    """Strokes of one thing, soft and hard, at full scale or under, in a room of -70 to -52 dBFS."""
    rng = np.random.default_rng((77, seed))
    room_db = float(rng.uniform(-70, -52))
    starts = (0.3 + np.cumsum(rng.uniform(*_GAPS_S, strokes))) * RATE
    out = np.zeros(round(starts[-1] + 2.0 * RATE))
    thing = struck(rng)
    placed = []
    for start in starts.astype(int):
        x = thing() * 10 ** (rng.uniform(-20, -1) / 20)
        x = x[: out.size - start]
        out[start : start + x.size] += x
        placed.append((start, x))
    found = []
    for (start, x), after in zip(placed, [*(one[0] for one in placed[1:]), out.size], strict=True):
        power = np.convolve(x * x, np.ones(480) / 480, mode="same")
        heard = np.flatnonzero(power > 10 ** (room_db / 10))
        found.append(Stroke(start, min(start + int(heard[-1]), after), float(np.max(np.abs(x)))))
    colour = ("white", "warm", "mains")[seed % 3]
    return out + 10 ** (room_db / 20) * room(rng, out.size, colour), found


def cut_well(seed: int) -> tuple[int, int, list[float], list[float]]:
    """Of one recording: strokes, takes beyond them; how late each starts (ms, infinite where it is missed
    or where its first sample is loud), how far each ends from where it should (ms).
    """
    x, strokes = recording(seed)
    found = takes.cut(x, RATE)
    late, off = [], []
    for one in strokes:
        near = [cut for cut in found if abs(cut.onset_ms - one.start / RATE * 1000) < 15]
        if not near:
            late.append(np.inf)
            off.append(np.inf)
            continue
        a, b = (round(ms / 1000 * RATE) for ms in (near[0].start_ms, near[0].end_ms))
        loud = abs(float(takes.piece_of(x, RATE, near[0])[0])) > one.peak * 10 ** (_FIRST_DB / 20)
        late.append(np.inf if loud else (a - one.start) / RATE * 1000)
        off.append((b - one.end) / RATE * 1000)
    return len(strokes), len(found) - len(strokes), late, off


def bass_loop(seed: int) -> tuple[Array, list[float], list[int]]:
    """Eight notes of a bass: samples, onsets in ms, MIDI numbers."""
    rng = np.random.default_rng((78, seed))
    kind = ("saw", "sub", "808", "pluck", "fingered", "synthetic 1")[seed % 6]
    bpm = float(rng.uniform(80, 150))
    tonic = int(rng.integers(28, 40))
    midis = [tonic + int(rng.choice([0, 0, 3, 5, 7, -2, 12])) for _ in range(8)]
    notes = [(float(n), float(rng.uniform(0.4, 0.95)), midi) for n, midi in enumerate(midis)]
    return line(notes, bpm, 2, kind, 0.5), [n * 60_000 / bpm for n in range(8)], midis


def loops_cut(seeds: range) -> tuple[int, int, int]:
    """Of bass loops: all of them, those cut into their eight notes, takes with the note's own pitch."""
    whole = pitched = 0
    for seed in seeds:
        x, onsets, midis = bass_loop(seed)
        found = takes.cut(x, RATE)
        whole += len(found) == 8 and all(
            abs(one.onset_ms - at) < 15 for one, at in zip(found, onsets, strict=True)
        )
        for midi, at in zip(midis, onsets, strict=True):
            near = [one for one in found if abs(one.onset_ms - at) < 15]
            if near:
                hz = measure(takes.piece_of(x, RATE, near[0]), RATE).hit.estimate_hz
                right = 440 * 2 ** ((midi - 69) / 12)
                pitched += hz is not None and abs(1200 * np.log2(hz / right)) < 50
    return len(seeds), whole, pitched


def main(seeds: range = range(80), loops: range = range(24)) -> None:
    """Print the table."""
    each = [cut_well(seed) for seed in seeds]
    late = np.array([ms for one in each for ms in one[2]])
    off = np.array([ms for one in each for ms in one[3]])
    extra = sum(max(one[1], 0) for one in each)
    part(f"Takes: {late.size} strokes of {len(each)} things in rooms of -70 to -52 dBFS")
    figure("missed or loud", np.sum(np.isinf(late)))
    figure("beyond the strokes", extra)
    figure("at most 0.2 ms late", 100 * np.mean(late <= _LATE_MS), "%", 95, at_least=True)
    figure("late, median", np.median(late), "ms")
    figure("end within 20 ms", 100 * np.mean(np.abs(off) <= _END_MS), "%", 90, at_least=True)
    count, whole, pitched = loops_cut(loops)
    figure(f"bass loops cut into their notes, of {count}", whole)
    figure(f"their takes with their pitch, of {8 * count}", pitched)
