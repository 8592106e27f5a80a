"""Tuned resonators that a sound sets ringing."""

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from juglant.core.synth.membrane import mode_ratios, strike_gains

Array = NDArray[np.float64]

# Where a membrane is set ringing, between centre and rim; multiples of a comb that are summed.
_STRUCK, _MULTIPLES = 0.3, 48
_FALL = np.log(1000.0)


@lru_cache(maxsize=32)
def response(kind: str, tune_hz: float, decay_ms: float, damping: float, rate: int) -> Array:
    """Impulse response of a resonator, shape (frames,), energy 1: decaying partials.

    Those of a membrane lie at the zeros of the Bessel functions (Fletcher & Rossing, The Physics of
    Musical Instruments, ch. 3), of a comb at whole multiples of `tune_hz`, each quieter by its number.
    The lowest one falls by 60 dB in `decay_ms`, the others sooner by `damping` 0..1.

    Parameters
    ----------
    kind
        "membrane" or "comb".
    tune_hz
        Its lowest partial.
    decay_ms
        Until it is 60 dB down.
    damping, rate
        How much sooner high partials die, 0 to 1; frames a second.

    Returns
    -------
    ndarray
        Shape (frames,).

    Examples
    --------
    >>> round(float(np.sum(response("membrane", 110.0, 300.0, 0.3, 48000) ** 2)), 3)
    1.0
    """
    if kind == "membrane":
        ratios, gains = mode_ratios(), np.abs(strike_gains(_STRUCK))
    else:
        ratios = np.arange(1.0, _MULTIPLES + 1)
        gains = 1 / ratios
    heard = ratios * tune_hz < 0.45 * rate
    frames = max(round(1.05 * decay_ms / 1000 * rate), 64)
    time = np.arange(frames) / rate
    out = np.zeros(frames)
    for ratio, gain in zip(ratios[heard], gains[heard], strict=True):
        falling = _FALL / (decay_ms / 1000) * (1 + damping * (ratio - 1))
        out += gain * np.exp(-falling * time) * np.sin(2 * np.pi * ratio * tune_hz * time)
    return np.asarray(out / np.sqrt(np.sum(out * out)))
