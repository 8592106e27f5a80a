"""Spaces and repeats around a hit."""

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy import fft

from juglant.core.process import filters

Array = NDArray[np.float64]

# How long each kind builds up before it falls, and how dense its first reflections are.
_BUILD_S = {"room": 0.002, "plate": 0.0, "hall": 0.018}
_FIRST = {"room": (9, 0.022), "plate": (0, 0.0), "hall": (7, 0.060)}
_DECAYED = -60.0 / 20 * np.log(10)


def _falling(frames: int, decay_s: float, rate: int) -> Array:
    return np.asarray(np.exp(_DECAYED * np.arange(frames) / (decay_s * rate)))


@lru_cache(maxsize=32)
def impulse_response(
    kind: str, decay_ms: float, damping_hz: float, low_cut_hz: float, seed: int, rate: int
) -> Array:
    """The impulse response of a space, shape (frames,), of energy 1.

    Noise that falls by 60 dB in `decay_ms`, above `damping_hz` in half of that, after a
    build-up and first reflections of the kind (J. A. Moorer, Computer Music Journal 3(2),
    1979, on decaying noise as a room's answer).

    Parameters
    ----------
    kind
        Which space.
    decay_ms
        Until it is 60 dB down.
    damping_hz
        Above it, in half of that.
    low_cut_hz
        Below it there is none.
    seed
        Names the random choice; the same one gives the same.
    rate
        Frames a second.

    Returns
    -------
    ndarray
        Shape (frames,).

    Examples
    --------
    >>> round(float(np.sum(impulse_response("room", 400.0, 5000.0, 200.0, 1, 48000) ** 2)), 3)
    1.0
    """
    decay_s = decay_ms / 1000
    frames = max(round(1.05 * decay_s * rate), 64)
    rng = np.random.default_rng(seed)
    white = rng.standard_normal(frames)
    low = filters.filtered(white, filters.cookbook("lowpass", damping_hz, np.sqrt(0.5), rate))
    out = low * _falling(frames, decay_s, rate) + (white - low) * _falling(frames, 0.5 * decay_s, rate)
    build = _BUILD_S[kind]
    if build:
        out *= 1 - np.exp(-np.arange(frames) / (build * rate))
    count, within_s = _FIRST[kind]
    loudest = 4 * float(np.sqrt(np.mean(out[: max(1, frames // 8)] ** 2)))
    for at in rng.uniform(0.1, 1.0, count) * min(within_s, 0.5 * decay_s):
        out[round(at * rate)] += loudest * rng.choice([-1.0, 1.0]) * (1 - 0.5 * at / within_s)
    if low_cut_hz > 20.0:
        out = filters.filtered(out, filters.steep("highpass", low_cut_hz, 12, rate))
    # The end falls to nothing, so that no edge is heard.
    out *= np.minimum(1.0, np.linspace(20.0, 0.0, frames))
    return np.asarray(out / np.sqrt(np.sum(out * out)))


def convolved(x: Array, response: Array) -> Array:
    """`x`, shape (frames,), through an impulse response; as long as both together.

    Parameters
    ----------
    x
        Samples, shape (frames,).
    response
        Impulse response, shape (frames,).

    Returns
    -------
    ndarray
        Shape (frames,).

    Examples
    --------
    >>> convolved(np.array([1.0, 0.0]), np.array([0.5, 0.25])).round(2)
    array([0.5 , 0.25, 0.  ])
    """
    total = x.size + response.size - 1
    size = fft.next_fast_len(total, real=True)
    bins = fft.rfft(x, size)
    bins *= fft.rfft(response, size)
    return np.asarray(fft.irfft(bins, size, overwrite_x=True)[:total])


def around_loop(x: Array, response: Array) -> Array:
    """A loop, shape (frames,), through an impulse response, as if both had always been there.

    Parameters
    ----------
    x
        Samples, shape (frames,).
    response
        Impulse response, shape (frames,).

    Returns
    -------
    ndarray
        Shape of `x`.

    Examples
    --------
    >>> around_loop(np.array([0.0, 0.0, 1.0]), np.array([0.5, 0.25])).round(2)
    array([0.25, 0.  , 0.5 ])
    """
    turns = -(-response.size // x.size)
    folded = np.zeros(turns * x.size)
    folded[: response.size] = response
    wrapped = folded.reshape(turns, x.size).sum(axis=0)
    return np.asarray(fft.irfft(fft.rfft(x) * fft.rfft(wrapped), x.size))


def delayed(x: Array, frames: int) -> Array:
    """`x` after `frames` of silence.

    Parameters
    ----------
    x
        Samples, shape (frames,).
    frames
        How many.

    Returns
    -------
    ndarray
        Shape (frames,).

    Examples
    --------
    >>> delayed(np.ones(2), 1)
    array([0., 1., 1.])
    """
    return np.concatenate([np.zeros(frames), x])


def repeats(
    x: Array, spacing_s: float, level_db: float, feedback: float, band_hz: tuple[float, float], rate: int
) -> Array:
    """`x`, shape (frames,), with its repeats, each quieter and narrower; ends 60 dB down.

    Parameters
    ----------
    x
        Samples, shape (frames,).
    spacing_s
        From one repeat to the next.
    level_db
        Of the first one.
    feedback
        What is left from one to the next, 0 to 1.
    band_hz, rate
        What passes; frames a second.

    Returns
    -------
    ndarray
        Shape (frames,).

    Examples
    --------
    >>> click = np.zeros(480)
    >>> click[0] = 1.0
    >>> repeats(click, 0.1, -6.0, 0.5, (100.0, 8000.0), 48000).size > click.size
    True
    """
    step = max(1, round(spacing_s * rate))
    gain = 10 ** (level_db / 20)
    heard: list[float] = []
    while gain > 1e-3 and len(heard) < 64:
        heard.append(gain)
        gain *= feedback
    out = np.zeros(x.size + step * len(heard))
    out[: x.size] = x
    echo = x
    for index, level in enumerate(heard, 1):
        if band_hz[0] > 20.0:
            echo = filters.filtered(echo, filters.cookbook("highpass", band_hz[0], np.sqrt(0.5), rate))
        if band_hz[1] < 20000.0:
            echo = filters.filtered(echo, filters.cookbook("lowpass", band_hz[1], np.sqrt(0.5), rate))
        out[index * step : index * step + x.size] += level * echo
    return out
