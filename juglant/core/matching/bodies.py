"""What is fitted to a sound: bodies of made kicks and 808s, quick, at a low rate, and free of their level.

They are the same as `juglant.core.synth` makes but for what lies above the low rate, for the click, and for
what fold back drive is kept from: the recipe that is found is rendered by the real ones afterwards.
"""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import NDArray

from juglant.core import RATE
from juglant.core.process import saturation
from juglant.core.recipes.fields import Control, Recipe, control_sheet
from juglant.core.recipes.kick import KickRecipe
from juglant.core.recipes.tone808 import Recipe808
from juglant.core.synth import envelopes
from juglant.core.synth.oscillator import oscillate

Array = NDArray[np.float64]
Values = dict[str, float]

# When it begins, after the first frame that is looked at: no field of a recipe, but a layer's own.
START_MS = "start_ms"
# How long an 808 is with its release, which is known where the release is not.
WHOLE_MS = "whole_ms"
# Which wave an 808 is pushed to: 1 triangle, 2 square.
PUSHED = "pushed"


@dataclass(frozen=True)
class Kind:
    """A kind of body: its recipe, what of it is fitted, and how it is made, from values at times in s."""

    recipe: type[Recipe]
    fitted: tuple[str, ...]
    swept: tuple[str, ...]
    make: Callable[[Values, Array, int], Array]
    hz: Callable[[Values, Array], Array]


@cache
def controls(kind: Kind) -> dict[str, Control]:
    """The controls of a kind's recipe by name.

    Parameters
    ----------
    kind
        Of body.

    Returns
    -------
    dict of str to Control
        By name.

    Examples
    --------
    >>> controls(KICK)["end_hz"].unit
    'Hz'
    """
    return {one.name: one for one in control_sheet(kind.recipe).controls}


def _stepped(hz: Array, rate: int) -> Array:
    """The frequency of every frame at a low rate, so that the phase comes out as at the engine's."""
    after = np.append(hz[1:], hz[-1])
    return np.asarray((hz + after) / 2 + rate / (2 * RATE) * (hz - after))


def toned(hz: Array, wave: float, time_s: Array, rate: int) -> Array:
    """An oscillator that begins where `time_s` passes 0, at phase 0.

    Parameters
    ----------
    hz
        Frequencies in Hz.
    wave
        0 sine, 1 triangle, and what lies between.
    time_s, rate
        Seconds; frames a second.

    Returns
    -------
    ndarray
        Shape of `time_s`.

    Examples
    --------
    >>> toned(np.full(49, 1000.0), 0.0, np.arange(49) / 48000, 48000).size
    49
    """
    begun = np.where(time_s >= 0, 1.0, np.clip(1 + time_s * rate, 0.0, 1.0))
    tone = oscillate(_stepped(hz, rate) * begun, wave, rate, "kick")
    return np.where(time_s >= 0, tone, 0.0)


def kick_hz(values: Values, time_s: Array) -> Array:
    """The pitch course of a made kick.

    Parameters
    ----------
    values
        Of the controls, by name.
    time_s
        Seconds.

    Returns
    -------
    ndarray
        Hz, shape of `time_s`.

    Examples
    --------
    >>> values = {name: control.default for name, control in controls(KICK).items()}
    >>> bool(np.all(np.diff(kick_hz(values, np.linspace(0.0, 0.5, 50))) <= 0))
    True
    """
    octaves, decay_s = values["start_semitones"] / 12, values["pitch_decay_ms"] / 1000
    return envelopes.swept_hz(
        np.maximum(time_s, 0.0), values["end_hz"], octaves, decay_s, values["pitch_curve"]
    )


def _kick_body(values: Values, time_s: Array, rate: int) -> Array:
    """The body of a made kick."""
    x = toned(kick_hz(values, time_s), values["wave"], time_s, rate)
    x = x * envelopes.rise(np.maximum(time_s, 0.0), values["attack_ms"] / 1000)
    x *= envelopes.decay(time_s, values["hold_ms"] / 1000, values["decay_ms"] / 1000, values["decay_curve"])
    x *= envelopes.release(time_s, values["length_ms"] / 1000, values["release_ms"] / 1000)
    peak = float(np.max(np.abs(x), initial=0.0))
    if values["drive_db"] <= 0 or peak == 0.0:
        return x
    return saturation.leaning(values["drive_bias"])(x * (10 ** (values["drive_db"] / 20) / peak))


def _808_hz(values: Values, time_s: Array) -> Array:
    decay_s = values["pitch_decay_ms"] / 1000
    return envelopes.swept_hz(
        np.maximum(time_s, 0.0), values["end_hz"], values["start_octaves"], decay_s, 0.0
    )


def _808_body(values: Values, time_s: Array, rate: int) -> Array:
    fallen = envelopes.fall(np.maximum(time_s, 0.0), values["pitch_decay_ms"] / 1000, 0.0)
    hz = _808_hz(values, time_s)
    x = toned(hz, 0.0, time_s, rate)
    if values["harmonics"] > 0:
        pushed = toned(hz, values[PUSHED], time_s, rate)
        x = x + values["harmonics"] * fallen * (pushed - x)
    sustain = 10 ** (values["sustain_db"] / 20)
    level = sustain + (1 - sustain) * envelopes.decay(time_s, 0.0, values["decay_ms"] / 1000, 0.0)
    x = x * level * envelopes.rise(np.maximum(time_s, 0.0), values["attack_ms"] / 1000)
    if values["drive_db"] > 0:
        grid, gains = saturation.fundamental_gains(values["drive_db"])
        x = np.tanh(x * 10 ** (values["drive_db"] / 20)) / np.interp(
            np.maximum(level, grid[0]), grid, gains
        )
    return x * envelopes.release(time_s, values[WHOLE_MS] / 1000, values["release_ms"] / 1000)


KICK = Kind(
    KickRecipe,
    ("end_hz", "start_semitones", "pitch_decay_ms", "pitch_curve", "decay_ms", "hold_ms", "decay_curve",
     "attack_ms", "wave", "drive_db", "drive_bias", "release_ms"),
    ("end_hz", "start_semitones", "pitch_decay_ms", "pitch_curve"), _kick_body, kick_hz,
)  # fmt: skip
TONE_808 = Kind(
    Recipe808,
    ("end_hz", "start_octaves", "pitch_decay_ms", "decay_ms", "harmonics", "drive_db", "sustain_db",
     "attack_ms", "release_ms"),
    ("end_hz", "start_octaves", "pitch_decay_ms"), _808_body, _808_hz,
)  # fmt: skip
