"""Made sources: their samples, and what a softer stroke makes of their recipes."""

from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from juglant.core import RATE
from juglant.core.recipes.fields import Anything, of_role, within
from juglant.core.recipes.hit import Made, Velocity
from juglant.core.synth.clap import render_clap
from juglant.core.synth.hat import render_hat
from juglant.core.synth.kick import render_kick
from juglant.core.synth.membrane import render_membrane
from juglant.core.synth.percussion import render_percussion
from juglant.core.synth.snare import render_snare
from juglant.core.synth.tone808 import render_808

Array = NDArray[np.float64]


def softer(recipe: Anything, touch: Velocity, velocity: float) -> Anything:
    """A recipe as a stroke of `velocity` (0, 1] plays it; the limits of its controls still hold.

    Parameters
    ----------
    recipe, touch
        The settings; how much velocity does.
    velocity
        How hard it is struck, above 0 up to 1.

    Returns
    -------
    Recipe
        As it is struck.

    Examples
    --------
    >>> from juglant.core.recipes.kick import KickRecipe
    >>> softer(KickRecipe(decay_ms=300.0), Velocity(decay=0.5), 0.5).decay_ms
    225.0
    """
    if velocity >= 1.0:
        return recipe
    shares = dict.fromkeys(of_role(type(recipe), "decay"), touch.decay)
    shares |= dict.fromkeys(of_role(type(recipe), "sweep"), touch.pitch)
    values = {name: getattr(recipe, name) * (1 - share * (1 - velocity)) for name, share in shares.items()}
    return within(recipe, **values)


def made(source: Made, bpm: float, velocity: float = 1.0) -> Array:
    """A made source's samples, shape (frames,).

    Parameters
    ----------
    source, bpm
        What it is made by; tempo.
    velocity
        How hard it is struck, above 0 up to 1.

    Returns
    -------
    ndarray
        Shape (frames,).

    Examples
    --------
    >>> from juglant.core.recipes.hit import MadeKick
    >>> made(MadeKick(), 120.0).ndim
    1
    """
    recipe: Any = source.recipe
    if source.kind == "kick":
        return render_kick(recipe, RATE, bpm)
    if source.kind == "membrane":
        return render_membrane(recipe, RATE, velocity)
    render: dict[str, Callable[[Any, int], Array]] = {
        "808": render_808, "snare": render_snare, "clap": render_clap, "hat": render_hat,
        "percussion": render_percussion,
    }  # fmt: skip
    return render[source.kind](recipe, RATE)
