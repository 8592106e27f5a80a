"""An 808 from its recipe."""

import numpy as np
from numpy.typing import NDArray

from juglant.core.process import filters, saturation
from juglant.core.recipes.tone808 import Recipe808
from juglant.core.synth import envelopes
from juglant.core.synth.common import finish, seconds
from juglant.core.synth.oscillator import oscillate

Array = NDArray[np.float64]


def render_808(recipe: Recipe808, rate: int) -> Array:
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
    >>> x = render_808(Recipe808(level_db=-6.0), 48000)
    >>> round(float(20 * np.log10(np.max(np.abs(x)))))
    -6
    """
    held_s, release_s = recipe.length_ms / 1000, recipe.release_ms / 1000
    time = seconds(round((held_s + release_s) * rate), rate)
    fallen = envelopes.fall(time, recipe.pitch_decay_ms / 1000, 0.0)
    slid = 0.5 + 0.5 * np.cos(np.pi * np.clip(time * 1000 / recipe.glide_ms, 0.0, 1.0))
    octaves = recipe.start_octaves * fallen + recipe.glide_semitones / 12 * slid
    hz = recipe.end_hz * np.exp2(octaves)
    tone = oscillate(hz, 0.0, rate, "kick")
    if recipe.harmonics > 0:
        pushed = oscillate(hz, 1.0 if recipe.push_to == "triangle" else 2.0, rate, "kick")
        share = recipe.harmonics * fallen
        tone = tone + share * (pushed - tone)
    sustain = 10 ** (recipe.sustain_db / 20) if recipe.sustain_db > -60 else 0.0
    level = sustain + (1 - sustain) * envelopes.decay(time, 0.0, recipe.decay_ms / 1000, 0.0)
    tone *= level * envelopes.rise(time, recipe.attack_ms / 1000)
    if recipe.drive_db > 0:
        # Every moment is divided by what the curve does to its fundamental, so that the tail
        # is neither swollen nor its decay stretched: only harmonics are added.
        grid, gains = saturation.fundamental_gains(recipe.drive_db)
        gain = 10 ** (recipe.drive_db / 20)
        driven = saturation.oversampled(tone * gain, np.tanh)
        tone = driven / np.interp(np.maximum(level, grid[0]), grid, gains)
    if recipe.lowpass_hz < 20000.0:
        tone = filters.filtered(tone, filters.lowpass_24(recipe.lowpass_hz, rate))
    return finish(tone, rate, recipe.level_db, release_s)
