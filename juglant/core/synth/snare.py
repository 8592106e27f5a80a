"""A snare from a tone and noise."""

import numpy as np
from numpy.typing import NDArray

from juglant.core.process import saturation
from juglant.core.recipes.snare import SnareRecipe
from juglant.core.synth import envelopes
from juglant.core.synth.common import finish, noise_band, seconds
from juglant.core.synth.oscillator import oscillate

Array = NDArray[np.float64]


def render_snare(recipe: SnareRecipe, rate: int) -> Array:
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
    >>> x = render_snare(SnareRecipe(level_db=-6.0), 48000)
    >>> round(float(20 * np.log10(np.max(np.abs(x)))))
    -6
    """
    longest_s = max(recipe.tone_ms, recipe.noise_ms) / 1000
    time = seconds(round((1.1 * longest_s + 0.02) * rate), rate)
    fallen = envelopes.fall(time, recipe.pitch_decay_ms / 1000, 0.0)
    hz = recipe.tone_hz * np.exp2(recipe.start_semitones / 12 * fallen)
    out = oscillate(hz, recipe.wave, rate, "kick") * envelopes.decay(time, 0.0, recipe.tone_ms / 1000, 0.0)
    if recipe.noise_db > -60.0:
        low = min(recipe.highpass_hz, recipe.lowpass_hz / 1.5)
        rattle = noise_band(time.size, recipe.seed, low, recipe.lowpass_hz, rate)
        rattle *= envelopes.rise(time, recipe.noise_attack_ms / 1000)
        rattle *= envelopes.decay(time, recipe.noise_attack_ms / 1000, recipe.noise_ms / 1000, 0.0)
        out = out + 10 ** (recipe.noise_db / 20) * rattle
    return finish(saturation.soft_clip(out, recipe.drive_db), rate, recipe.level_db)
