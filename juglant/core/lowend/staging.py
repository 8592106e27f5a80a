"""A loop through stages and into its place, as if it had always been running round."""

import numpy as np
from numpy.typing import NDArray

from juglant.core.hits.chain import each_channel, panned
from juglant.core.hits.moving import Moved, levelled, through_moved
from juglant.core.lowend.moves import Course, around
from juglant.core.measure.stereo import listening_channel
from juglant.core.process import filters
from juglant.core.recipes.fields import is_off
from juglant.core.recipes.place import Place

Array = NDArray[np.float64]

# What a stage remembers of before (filters, detectors): one pass, but no more of it than this.
_REMEMBERS_S = 4.0
# What a stage knows of what is to come: a look-ahead, and what a linear phase rings before.
_FORESEES_S = 0.3
# Stages that answer with more frames than they got: what rings past the end rings into the start.
RINGING = ("space", "delay", "resonator")


def _folded(x: Array, frames: int) -> Array:
    """What rings past the end of a loop, laid over it as often as it is long."""
    out = np.zeros((frames, *x.shape[1:]))
    for first in range(0, x.shape[0], frames):
        turn = x[first : first + frames]
        out[: turn.shape[0]] += turn
    return out


def through_stage(
    x: Array, stage: object, rate: int, bpm: float, courses: dict[str, Course] | None = None
) -> Array:
    """A loop, shape (frames,) or (frames, 2), through one stage, the pass before it remembered; `courses`
    are its controls that move.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, 2).
    stage, rate
        The settings of the stage; frames a second.
    bpm, courses
        Tempo; controls that move, by name.

    Returns
    -------
    ndarray
        One pass.

    Examples
    --------
    >>> from juglant.core.recipes.chain import LevelStage
    >>> round(float(through_stage(np.ones(4800), LevelStage(gain_db=-6.0), 48000, 120.0)[0]), 2)
    0.5
    """
    if getattr(stage, "bypass", False):
        return x
    frames, moving = x.shape[0], courses or {}
    if getattr(stage, "stage", "") in RINGING:
        return _folded(through_moved(x, stage, around(moving), rate, bpm), frames)
    before, after = min(frames, round(_REMEMBERS_S * rate)), min(frames, round(_FORESEES_S * rate))
    long = np.concatenate([x[frames - before :], x, x[:after]])
    return through_moved(long, stage, around(moving, before), rate, bpm)[before : before + frames]


def turned(x: Array, place: Place, rate: int) -> Array:
    """A loop under what acts first of its place: polarity and delay.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, 2).
    place, rate
        Where it lies; frames a second.

    Returns
    -------
    ndarray
        Shape of `x`.

    Examples
    --------
    >>> turned(np.ones(2), Place(polarity="inverted"), 48000)
    array([-1., -1.])
    """
    if place.polarity == "inverted":
        x = -x
    if is_off(place, "delay_ms"):
        return x
    turn = -2j * np.pi * place.delay_ms / 1000
    return each_channel(x, lambda c: filters.around_loop_by(c, lambda hz: np.exp(turn * hz), rate))


def put(x: Array, place: Place, rate: int, moved: Moved | None = None) -> Array:
    """A loop under the rest of its place: width, the range in which it is mono, gain and pan; the last two
    may move.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, 2).
    place, rate
        Where it lies; frames a second.
    moved
        Values of controls that move.

    Returns
    -------
    ndarray
        Shape (frames, 2), or of `x` where it stays in the middle.

    Examples
    --------
    >>> float(put(np.ones(4800), Place(gain_db=-20.0), 48000).max().round(2))
    0.1
    """
    moving = moved or {}
    place = place.model_copy(update=dict.fromkeys(moving, 0.0))
    if x.ndim == 2 and place.width == 0.0:
        x = listening_channel(x)
    if x.ndim == 2 and (place.width != 1.0 or not is_off(place, "mono_below_hz")):
        middle, apart = 0.5 * (x[:, 0] + x[:, 1]), 0.5 * place.width * (x[:, 0] - x[:, 1])
        if not is_off(place, "mono_below_hz"):
            # Only the difference of the sides is taken away: the sum stays as it is.
            hz = place.mono_below_hz
            apart = apart - filters.around_loop_by(
                apart, lambda at: filters.linkwitz_riley_gain(at, hz)[0], rate
            )
        x = np.stack([middle + apart, middle - apart], axis=1)
    gain = 10 ** (place.gain_db / 20)
    return levelled(panned(x * gain if gain != 1.0 else x, place.pan), moving)
