"""Toms, congas, claves and metal: frequency modulation after J. Chowning (JAES 21(7), 1973)."""

import numpy as np
from numpy.typing import NDArray

from juglant.core.process import filters, saturation
from juglant.core.process.resampling import polyphase
from juglant.core.recipes.percussion import PercussionRecipe
from juglant.core.synth import envelopes
from juglant.core.synth.common import finish, noise, seconds, to_peak

Array = NDArray[np.float64]

# Modulated tones above 1 kHz reach far up: made at twice the rate and taken down.
_OVERSAMPLING = 2
_STRIKE_S = 0.006


def render_percussion(recipe: PercussionRecipe, rate: int) -> Array:
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
    >>> x = render_percussion(PercussionRecipe(level_db=-6.0), 48000)
    >>> round(float(20 * np.log10(np.max(np.abs(x)))))
    -6
    """
    fine = _OVERSAMPLING * rate
    frames = round((1.05 * recipe.decay_ms / 1000 + 0.01) * rate)
    time = seconds(_OVERSAMPLING * frames, fine)
    fallen = envelopes.fall(time, recipe.pitch_decay_ms / 1000, 0.0)
    hz = recipe.end_hz * np.exp2(recipe.start_semitones / 12 * fallen)
    cycles = 2 * np.pi * np.cumsum(hz) / fine
    bending = envelopes.decay(time, 0.0, recipe.modulation_ms / 1000, 0.0)
    # What would lie beyond hearing is not made: the index yields where the sidebands would fold.
    room = np.maximum(0.9 * fine / 2 / hz - 1, 0.0)
    second = np.minimum(recipe.second_index * bending, room / recipe.second_ratio)
    inner = recipe.ratio * cycles + second * np.sin(recipe.second_ratio * cycles)
    reach = recipe.ratio + second * recipe.second_ratio
    tone = np.sin(cycles + np.minimum(recipe.index * bending, room / reach) * np.sin(inner))
    tone *= envelopes.decay(time, 0.0, recipe.decay_ms / 1000, 0.0)
    out = polyphase(tone, 1, _OVERSAMPLING)[:frames]
    time = seconds(frames, rate)
    out = out * envelopes.rise(time, recipe.attack_ms / 1000)
    if recipe.strike_db > -60:
        strike = noise(frames, recipe.seed) * envelopes.decay(time, 0.0, _STRIKE_S, 0.0)
        out = out + 10 ** (recipe.strike_db / 20) * to_peak(strike * envelopes.rise(time, 0.0003))
    if recipe.band_share > 0:
        band = filters.bandpass(out, recipe.band_hz, recipe.band_q, rate)
        out = (1 - recipe.band_share) * out + recipe.band_share * band
    return finish(saturation.soft_clip(out, recipe.drive_db), rate, recipe.level_db)
