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

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels).
    start_ms
        Where in the file the loop begins.
    frames, rate
        How many; frames a second.

    Returns
    -------
    ndarray
        `frames` long.

    Examples
    --------
    >>> fitted_loop(np.array([1.0, 2.0]), 0.0, 5, 48000)
    array([1., 2., 1., 2., 1.])
    """
    start = min(round(start_ms / 1000 * rate), x.shape[0])
    if x.shape[0] - start >= frames:
        return x[start : start + frames]
    return np.roll(np.resize(x, (frames, *x.shape[1:])), -start, axis=0)


def kick_times_ms(beats: tuple[float, ...], bpm: float, length_ms: float) -> list[float]:
    """Every kick of a loop of 4/4 bars; `beats` count from 1 within the bar.

    Parameters
    ----------
    beats, bpm
        From 1, within the bar; tempo.
    length_ms
        Length of the loop.

    Returns
    -------
    list of float
        Ms.

    Examples
    --------
    >>> kick_times_ms((1.0, 3.0), 120.0, 2000.0)
    [0.0, 1000.0]
    """
    beat = beat_ms(bpm)
    bars = int(np.ceil(length_ms / (4 * beat) - 1e-6))
    every = [(4 * bar + at - 1) * beat for bar in range(bars) for at in sorted(set(beats))]
    return [time for time in every if time < length_ms - 1]


def gaps_ms(times_ms: list[float], length_ms: float) -> list[float]:
    """From each kick to the next, the last one to the first of the next pass.

    Parameters
    ----------
    times_ms, length_ms
        When it is struck, from the loop’s start; length of the loop.

    Returns
    -------
    list of float
        Ms.

    Examples
    --------
    >>> gaps_ms([0.0, 500.0], 2000.0)
    [500.0, 1500.0]
    """
    following = [*times_ms[1:], times_ms[0] + length_ms]
    return [after - at for at, after in zip(times_ms, following, strict=True)]


def click(rate: int) -> Array:
    """What stands for a trigger that has no sound: a millisecond, shape (frames,).

    Parameters
    ----------
    rate
        Frames a second.

    Returns
    -------
    ndarray
        Samples.

    Examples
    --------
    >>> click(48000).size
    48
    """
    return np.ones(round(0.001 * rate))


def fade_out(ms: float, rate: int) -> Array:
    """From 1 to 0 as a raised cosine, shape (frames,).

    Parameters
    ----------
    ms, rate
        How long; frames a second.

    Returns
    -------
    ndarray
        From 1 to 0.

    Examples
    --------
    >>> fade_out(1.0, 48000)[[0, -1]].round()
    array([1., 0.])
    """
    count = round(ms / 1000 * rate)
    return np.asarray(0.5 + 0.5 * np.cos(np.pi * np.arange(count) / count))


def cut_to(hit: Array, room: int, rate: int) -> Array:
    """A hit, shape (frames,) or (frames, channels), that ends, in 2 ms, where the next one begins.

    Parameters
    ----------
    hit
        Samples, shape (frames,) or (frames, channels).
    room, rate
        Frames until the next; frames a second.

    Returns
    -------
    ndarray
        At most `room` long.

    Examples
    --------
    >>> cut_to(np.ones(4800), 2400, 48000).size
    2400
    """
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

    Parameters
    ----------
    strokes
        Time in ms and samples of each.
    frames, rate
        How many; frames a second.
    loop
        Whether the end is followed by the start.

    Returns
    -------
    ndarray
        `frames` long.

    Examples
    --------
    >>> place([(0.0, np.ones(2))], 4, 48000, loop=True)
    array([1., 1., 0., 0.])
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

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels).
    own_ms
        When its sounds begin.
    others_ms, rate
        When the others begin; frames a second.

    Returns
    -------
    ndarray
        Shape of `x`.

    Examples
    --------
    >>> float(choked(np.ones(48000), [0.0], [500.0], 48000)[-1])
    0.0
    """
    frames = x.shape[0]
    length = frames / rate * 1000
    foreign = [
        at for at in others_ms
        if all(TOGETHER_MS < (at - own) % length < length - TOGETHER_MS for own in own_ms)
    ]  # fmt: skip
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
