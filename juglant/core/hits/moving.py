"""Stages and places whose controls move while a sound passes."""

from collections.abc import Callable, Mapping
from typing import Any

import numpy as np
from numpy.typing import NDArray

from juglant.core.hits.chain import apply_stage, each_channel, panned, times, under_gain
from juglant.core.process import movingfilters
from juglant.core.recipes.chain import EqualiserStage

Array = NDArray[np.float64]
# A control's values over the first so many frames of what is processed.
Values = Callable[[int], Array]
Moved = Mapping[str, Values]

_OFF_DB = -60.0
_FILTERS = {"highpass_hz": ("highpass", 20.0), "lowpass_hz": ("lowpass", 20000.0)}
# A high-pass that is off lies where nothing is.
_NOWHERE_HZ = 1.0


def _gain(db: Array) -> Array:
    """Of a level in dB, of which the lowest is silence."""
    return np.where(db <= _OFF_DB, 0.0, 10 ** (db / 20))


def through_moved(
    x: Array, stage: Any, moved: Moved, rate: int, bpm: float, whole: int | None = None
) -> Array:
    """`x`, shape (frames,) or (frames, 2), through a stage some of whose controls move; `whole` as
    `apply_stage` takes it.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels).
    stage
        The settings of the stage.
    moved, rate
        Values at every frame, by the control; frames a second.
    bpm, whole
        Tempo; frames of one pass where it goes round.

    Returns
    -------
    ndarray
        Samples.

    Examples
    --------
    >>> from juglant.core.recipes.chain import LevelStage
    >>> softer = {"gain_db": lambda frames: np.full(frames, -20.0)}
    >>> through_moved(np.ones(4), LevelStage(), softer, 48000, 120.0).round(2)
    array([0.1, 0.1, 0.1, 0.1])
    """
    if stage.bypass or not moved:
        return apply_stage(x, stage, rate, bpm, whole)
    if isinstance(stage, EqualiserStage):
        return _filtered(x, stage, moved, rate, bpm)
    if "mix_db" in moved or "mix" in moved:
        # What the stage adds is in proportion to its mix.
        name, full = ("mix_db", 0.0) if "mix_db" in moved else ("mix", 1.0)
        y = apply_stage(x, stage.model_copy(update={name: full}), rate, bpm, whole)
        values = moved[name](y.shape[0])
        dry = np.zeros(y.shape)
        dry[: x.shape[0]] = x[:, None] if y.ndim > x.ndim else x
        return dry + times(y - dry, _gain(values) if name == "mix_db" else values)
    still = dict.fromkeys(moved, 0.0)
    y = apply_stage(x, stage.model_copy(update=still), rate, bpm, whole)
    return levelled(y, moved)


def levelled(x: Array, moved: Moved) -> Array:
    """`x` under a gain and a pan that move, as far as they do.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels).
    moved
        Values at every frame, by the control.

    Returns
    -------
    ndarray
        Samples, stereo where the pan moves.

    Examples
    --------
    >>> levelled(np.ones(2), {"gain_db": lambda n: np.linspace(0.0, -20.0, n)}).round(2)
    array([1. , 0.1])
    """
    if "gain_db" in moved:
        x = under_gain(x, moved["gain_db"](x.shape[0]))
    return panned(x, moved["pan"](x.shape[0])) if "pan" in moved else x


def _filtered(x: Array, stage: EqualiserStage, moved: Moved, rate: int, bpm: float) -> Array:
    still = stage.model_copy(update={name: _FILTERS[name][1] for name in moved})
    x = apply_stage(x, still, rate, bpm)
    for name, values in moved.items():
        kind, off = _FILTERS[name]
        slope = int(getattr(stage, f"{kind}_slope"))
        hz = values(x.shape[0])
        if kind == "highpass":
            hz = np.where(hz <= off, _NOWHERE_HZ, hz)
        x = each_channel(x, lambda c, k=kind, h=hz, s=slope: movingfilters.moving_steep(k, c, h, s, rate))  # type: ignore[misc]
    return x
