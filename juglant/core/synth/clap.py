"""A clap from its recipe."""

import numpy as np
from numpy.typing import NDArray

from juglant.core.process import filters, saturation
from juglant.core.recipes.clap import ClapRecipe
from juglant.core.synth import envelopes
from juglant.core.synth.common import finish, noise, noise_band, seconds, to_peak

Array = NDArray[np.float64]

_AIR_FROM_HZ = 5000.0


def burst_times_ms(recipe: ClapRecipe) -> Array:
    """When each burst begins, the first at 0, spread unevenly by the recipe's seed.

    Parameters
    ----------
    recipe
        The settings.

    Returns
    -------
    ndarray
        Ms.

    Examples
    --------
    >>> float(burst_times_ms(ClapRecipe())[0])
    0.0
    """
    gaps = np.random.default_rng(recipe.seed + 1).uniform(-1, 1, recipe.bursts - 1)
    return np.concatenate([[0.0], np.cumsum(recipe.spacing_ms * (1 + 0.6 * recipe.spread * gaps))])


def render_clap(recipe: ClapRecipe, rate: int) -> Array:
    """Samples of shape (frames,), peak at the recipe's level; `rate` in Hz.

    Parameters
    ----------
    recipe, rate
        The settings; frames a second.

    Returns
    -------
    ndarray
        Shape (frames,).

    Examples
    --------
    >>> x = render_clap(ClapRecipe(level_db=-6.0), 48000)
    >>> round(float(20 * np.log10(np.max(np.abs(x)))))
    -6
    """
    starts = burst_times_ms(recipe)
    tail_s = recipe.tail_ms / 1000 if recipe.tail_db > -60 else 0.0
    last_s = float(starts[-1]) / 1000 + max(tail_s, 2 * recipe.burst_ms / 1000)
    time = seconds(round((1.1 * last_s + 0.01) * rate), rate)
    strengths = np.random.default_rng(recipe.seed + 2).uniform(-1, 1, starts.size)
    level = np.zeros(time.size)
    for start, strength in zip(starts / 1000, strengths, strict=True):
        since = time - start
        burst = envelopes.rise(since, 0.0006) * envelopes.decay(since, 0.0006, recipe.burst_ms / 1000, 0.0)
        gain = 1 - 0.5 * recipe.spread * (0.5 + 0.5 * strength)
        np.maximum(level, np.where(since >= 0, gain * burst, 0.0), out=level)
    if tail_s:
        since = time - starts[-1] / 1000
        tail = envelopes.rise(since, 0.002) * envelopes.decay(since, 0.002, tail_s, 0.0)
        np.maximum(level, np.where(since >= 0, 10 ** (recipe.tail_db / 20) * tail, 0.0), out=level)
    # The Q of a band whose edges lie half its breadth to either side.
    q = 1 / (2 ** (recipe.width_octaves / 2) - 2 ** (-recipe.width_octaves / 2))
    hands = filters.bandpass(noise(time.size, recipe.seed), recipe.tone_hz, q, rate)
    hands = to_peak(filters.bandpass(hands, recipe.tone_hz, q, rate))
    if recipe.air_db > -60:
        air = noise_band(time.size, recipe.seed + 3, _AIR_FROM_HZ, 20000.0, rate)
        hands = hands + 10 ** (recipe.air_db / 20) * air
    return finish(saturation.soft_clip(hands * level, recipe.drive_db), rate, recipe.level_db)
