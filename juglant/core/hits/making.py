"""Made sources: their samples, and what a softer stroke makes of their recipes."""

from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from juglant.core import RATE
from juglant.core.recipes.fields import Recipe
from juglant.core.recipes.hit import Made, Velocity
from juglant.core.synth.clap import render_clap
from juglant.core.synth.hat import render_hat
from juglant.core.synth.kick import render_kick
from juglant.core.synth.membrane import render_membrane
from juglant.core.synth.percussion import render_percussion
from juglant.core.synth.snare import render_snare
from juglant.core.synth.tone808 import render_808

Array = NDArray[np.float64]

# What a softer stroke shortens and flattens, in whichever recipe has such a field.
_DECAYS = ("decay_ms", "noise_ms", "tone_ms", "tail_ms", "wires_ms", "modulation_ms")
_SWEEPS = ("start_semitones", "start_octaves")


def softer(recipe: Recipe, velocity: Velocity, strength: float) -> Recipe:
    """A recipe as a stroke of `strength` (0, 1] plays it; the limits of its controls still hold."""
    if strength >= 1.0:
        return recipe
    changed: dict[str, float] = {}
    for names, share in ((_DECAYS, velocity.decay), (_SWEEPS, velocity.pitch)):
        for name in names:
            if name in type(recipe).model_fields:
                value = getattr(recipe, name) * (1 - share * (1 - strength))
                low = next(m.ge for m in type(recipe).model_fields[name].metadata if hasattr(m, "ge"))
                changed[name] = max(value, float(low))
    return recipe.model_copy(update=changed)


def made(source: Made, bpm: float, strength: float = 1.0) -> Array:
    """A made source's samples, shape (frames,)."""
    recipe: Any = source.recipe
    if source.kind == "kick":
        return render_kick(recipe, RATE, bpm)
    if source.kind == "membrane":
        return render_membrane(recipe, RATE, strength)
    render: dict[str, Callable[[Any, int], Array]] = {
        "808": render_808, "snare": render_snare, "clap": render_clap, "hat": render_hat,
        "percussion": render_percussion,
    }  # fmt: skip
    return render[source.kind](recipe, RATE)
