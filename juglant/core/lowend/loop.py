"""The loop in which kick and bass meet."""

import numpy as np
from numpy.typing import NDArray

from juglant.core.music import beat_ms

Array = NDArray[np.float64]


def kick_times_ms(beats: tuple[float, ...], bpm: float, length_ms: float) -> list[float]:
    """Every kick of a loop of 4/4 bars; `beats` count from 1 within the bar."""
    beat = beat_ms(bpm)
    bars = int(np.ceil(length_ms / (4 * beat) - 1e-6))
    every = [(4 * bar + at - 1) * beat for bar in range(bars) for at in sorted(set(beats))]
    return [time for time in every if time < length_ms - 1]


def gaps_ms(times_ms: list[float], length_ms: float) -> list[float]:
    """From each kick to the next, the last one to the first of the next pass."""
    following = [*times_ms[1:], times_ms[0] + length_ms]
    return [after - at for at, after in zip(times_ms, following, strict=True)]


def place(hit: Array, times_ms: list[float], frames: int, rate: int, *, loop: bool) -> Array:
    """`hit`, shape (frames,), at every time; one voice: a hit ends, in 2 ms, where the next begins.

    With `loop`, what is left at the end sounds on at the start, until the first hit there.
    """
    out = np.zeros(frames)
    fade_frames = round(0.002 * rate)
    fade = 0.5 + 0.5 * np.cos(np.pi * np.arange(fade_frames) / fade_frames)
    gaps = gaps_ms(times_ms, frames / rate * 1000)
    for at, gap in zip(times_ms, gaps, strict=True):
        piece = hit
        room = round(gap / 1000 * rate)
        if hit.size > room > fade_frames:
            piece = hit[:room].copy()
            piece[-fade_frames:] *= fade
        where = round(at / 1000 * rate)
        end = min(frames, where + piece.size)
        out[where:end] += piece[: end - where]
        rest = piece[end - where :]
        if loop and rest.size:
            out[: min(rest.size, frames)] += rest[:frames]
    return out
