"""Sounds laid over each other: later, together, in their place."""

from collections.abc import Iterable

import numpy as np
from scipy import fft

from juglant.core import RATE
from juglant.core.hits.chain import Array, each_channel, panned
from juglant.core.measure.envelope import amplitude_envelope
from juglant.core.measure.stereo import mono
from juglant.core.process import filters
from juglant.core.recipes.fields import is_off
from juglant.core.recipes.hit import Layer
from juglant.core.synth import envelopes


def delayed_by(x: Array, frames: float) -> Array:
    """`x`, shape (frames,) or (frames, channels), later by a fraction of a frame as well.

    The fraction is a turn of the spectrum's phase: exact for what lies below half the rate.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels).
    frames
        By how many; any fraction.

    Returns
    -------
    ndarray
        Later, with the channels of `x`.

    Examples
    --------
    >>> delayed_by(np.array([1.0, 0.5]), 2.0)
    array([0. , 0. , 1. , 0.5])
    """
    whole = int(np.floor(frames + 1e-6))
    part = frames - whole
    if part > 1e-6:
        size = fft.next_fast_len(x.shape[0] + 256, real=True)
        turn = np.exp(-2j * np.pi * np.arange(size // 2 + 1) / size * part)
        x = each_channel(x, lambda c: fft.irfft(fft.rfft(c, size) * turn, size)[: c.size + 1])
    return np.concatenate([np.zeros((whole, *x.shape[1:])), x])


def added(sounds: Iterable[Array]) -> Array:
    """The sum of sounds that all start together; stereo as soon as one of them is.

    Parameters
    ----------
    sounds
        Samples of each, shape (frames,) or (frames, 2).

    Returns
    -------
    ndarray
        As long as the longest.

    Examples
    --------
    >>> added([np.ones(1), np.ones(2)])
    array([2., 1.])
    """
    out = np.zeros(0)
    # One of them in memory at a time, where they come one at a time.
    for x in sounds:
        if x.ndim > out.ndim:
            out = np.stack([out, out], axis=1)
        if x.shape[0] > out.shape[0]:
            out = np.concatenate([out, np.zeros((x.shape[0] - out.shape[0], *out.shape[1:]))])
        out[: x.shape[0]] += x[:, None] if out.ndim > x.ndim else x
    return out


def placed(x: Array, layer: Layer) -> Array:
    """A layer's sound after its chain: its range, fades, gain, polarity and pan.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels).
    layer
        Where it lies.

    Returns
    -------
    ndarray
        Samples, stereo where it is off the middle.

    Examples
    --------
    >>> from juglant.core.recipes.hit import MadeKick
    >>> round(float(placed(np.ones(4), Layer(source=MadeKick(), gain_db=-20.0))[0]), 2)
    0.1
    """
    for kind, hz in (("highpass", layer.highpass_hz), ("lowpass", layer.lowpass_hz)):
        if not is_off(layer, f"{kind}_hz"):
            x = each_channel(x, lambda c, k=kind, f=hz: filters.filtered(c, filters.steep(k, f, 24, RATE)))  # type: ignore[misc]
    if not is_off(layer, "fade_in_ms", "fade_out_ms") or layer.part == "only the tail":
        time = np.arange(x.shape[0]) / RATE
        begins_s = 0.0
        if layer.part == "only the tail":
            # Past the attack: from the highest point of the envelope on.
            begins_s = float(np.argmax(amplitude_envelope(mono(x), RATE))) / RATE
        fade = envelopes.rise(np.maximum(time - begins_s, 0.0), max(layer.fade_in_ms / 1000, 0.001))
        if is_off(layer, "fade_in_ms") and begins_s == 0.0:
            fade = np.ones(x.shape[0])
        fade = fade * envelopes.release(time, x.shape[0] / RATE, layer.fade_out_ms / 1000)
        x = x * (fade if x.ndim == 1 else fade[:, None])
    gain = 10 ** (layer.gain_db / 20) * (-1.0 if layer.polarity == "inverted" else 1.0)
    return panned(x * gain if gain != 1.0 else x, layer.pan)


def with_tone(x: Array, hz: float, rate: int) -> Array:
    """`x` over a steady sine that is as loud as it on the whole, to be judged against by ear.

    What is lower than a small loudspeaker plays is judged by its octaves: the sine has some.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels).
    hz, rate
        Of the sine; frames a second.

    Returns
    -------
    ndarray
        At least 1.2 s long.

    Examples
    --------
    >>> with_tone(np.ones(4800), 55.0, 48000).size
    57600
    """
    frames = max(x.shape[0], round(1.2 * rate))
    time = np.arange(frames) / rate
    tone = sum(np.sin(2 * np.pi * hz * part * time) / part for part in (1, 2, 4))
    ease = np.minimum(1.0, np.minimum(time, time[::-1]) / 0.02)
    peak = float(np.max(np.abs(x), initial=0.0))
    tone = 0.25 * peak * ease * tone
    out = np.zeros((frames, *x.shape[1:]))
    out[: x.shape[0]] = x
    return out + (tone if x.ndim == 1 else tone[:, None])
