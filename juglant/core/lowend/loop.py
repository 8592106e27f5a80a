"""The loop in which kick and bass meet."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from juglant.core.tempo import beat_ms

Array = NDArray[np.float64]

_CUT_MS = 2.0
# A choked sound fades over this; two sounds this near to each other begin together.
CHOKE_MS, TOGETHER_MS = 8.0, 3.0


def fitted_loop(x: Array, start_ms: float, frames: int, rate: int) -> Array:
    """A file, shape (frames,) or (frames, channels), from a time on as one pass of a loop: repeated or cut
    to fit; what lies before the time comes at the end where nothing else is there.
    """
    start = min(round(start_ms / 1000 * rate), x.shape[0])
    if x.shape[0] - start >= frames:
        return x[start : start + frames]
    return np.roll(np.resize(x, (frames, *x.shape[1:])), -start, axis=0)


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


def click(rate: int) -> Array:
    """What stands for a trigger that has no sound: a millisecond, shape (frames,)."""
    return np.ones(round(0.001 * rate))


def fade_out(ms: float, rate: int) -> Array:
    """From 1 to 0 as a raised cosine, shape (frames,)."""
    count = round(ms / 1000 * rate)
    return np.asarray(0.5 + 0.5 * np.cos(np.pi * np.arange(count) / count))


def cut_to(hit: Array, room: int, rate: int) -> Array:
    """A hit, shape (frames,) or (frames, channels), that ends, in 2 ms, where the next one begins."""
    fade = fade_out(_CUT_MS, rate)
    if not hit.shape[0] > room > fade.size:
        return hit
    piece = hit[:room].copy()
    piece[-fade.size :] *= fade if piece.ndim == 1 else fade[:, None]
    return piece


def place(strokes: Sequence[tuple[float, Array]], frames: int, rate: int, *, loop: bool) -> Array:
    """Hits, shape (frames,) or (frames, channels), each at its time in ms; times rise.

    One voice: a hit ends, in 2 ms, where the next begins. With `loop`, what is left at the end
    sounds on at the start, until the first hit there.
    """
    if not strokes:
        return np.zeros(frames)
    wide = max((hit.shape[1:] for _, hit in strokes), key=len)
    out = np.zeros((frames, *wide))
    gaps = gaps_ms([at for at, _ in strokes], frames / rate * 1000)
    for (at, hit), gap in zip(strokes, gaps, strict=True):
        piece = hit if hit.shape[1:] == wide else np.repeat(hit[:, None], wide[0], axis=1)
        piece = cut_to(piece, round(gap / 1000 * rate), rate)
        where = round(at / 1000 * rate)
        end = min(frames, where + piece.shape[0])
        out[where:end] += piece[: end - where]
        rest = piece[end - where :]
        if loop and rest.shape[0]:
            out[: min(rest.shape[0], frames)] += rest[:frames]
    return out


def choked(x: Array, own_ms: Sequence[float], others_ms: Sequence[float], rate: int) -> Array:
    """A loop of shape (frames,) or (frames, channels) whose sounds end where others begin.

    What began at `own_ms` is silent from the next of `others_ms` on until it begins again. The
    fade begins with the new sound: short enough to be over before it is heard as two, long
    enough not to click.
    """
    frames = x.shape[0]
    length = frames / rate * 1000
    foreign = [at for at in others_ms if all(abs(at - own) % length > TOGETHER_MS for own in own_ms)]
    if not foreign or not own_ms:
        return x
    gain = np.ones(frames)
    fade = fade_out(CHOKE_MS, rate)
    for at in foreign:
        silent = min((own - at) % length for own in own_ms)
        start, count = round(at / 1000 * rate), round(silent / 1000 * rate)
        index = (start + np.arange(count)) % frames
        curve = np.zeros(count)
        curve[: fade.size] = fade[:count]
        gain[index] = np.minimum(gain[index], curve)
    return np.asarray(x * (gain if x.ndim == 1 else gain[:, None]))
