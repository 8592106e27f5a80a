"""A simulated recording of things struck in a workshop: the stand-in for a microphone."""

import numpy as np
from numpy.typing import NDArray

from juglant.core import RATE
from juglant.core.hits.making import made
from juglant.core.recipes.hit import Made, MadeMembrane, MadePercussion, MadeSnare
from juglant.core.recipes.percussion import PercussionRecipe
from juglant.core.recipes.snare import MembraneRecipe, SnareRecipe

Array = NDArray[np.float64]

_ROOM_DB, _SEED = -58.0, 20
# An empty crate, a pan lid, a saw blade, a handful of screws; each struck several times.
_THINGS: tuple[Made, ...] = (
    MadeMembrane(
        recipe=MembraneRecipe(
            tune_hz=74.0, decay_ms=260.0, stiffness=0.35, wires_db=-30.0, damping=0.7, strike=0.5
        )
    ),
    MadePercussion(
        recipe=PercussionRecipe(
            end_hz=612.0, decay_ms=480.0, index=3.1, ratio=2.76, start_semitones=0.0, strike_db=-8.0
        )
    ),
    MadePercussion(
        recipe=PercussionRecipe(
            end_hz=233.0, decay_ms=340.0, index=1.1, ratio=1.59, start_semitones=1.0, strike_db=-16.0
        )
    ),
    MadeSnare(
        recipe=SnareRecipe(tone_hz=520.0, tone_ms=20.0, noise_db=8.0, noise_ms=90.0, highpass_hz=3200.0)
    ),
)
_STROKES_DB = (-2.0, -3.0, -9.0, -16.0)


def workshop_recording() -> Array:
    """About seven seconds, shape (frames,): four things, four strokes each, in a quiet room."""
    rng = np.random.default_rng(_SEED)
    out = np.zeros(round(7.2 * RATE))
    at = 0.35
    for thing in _THINGS:
        for level_db in _STROKES_DB:
            strength = 10 ** (level_db / 40)
            stroke = made(thing, 120.0, strength) * 10 ** ((level_db + rng.uniform(-0.4, 0.4)) / 20)
            a = round(at * RATE)
            out[a : a + stroke.size] += stroke[: out.size - a]
            at += rng.uniform(0.36, 0.46)
    return out + 10 ** (_ROOM_DB / 20) * rng.standard_normal(out.size)
