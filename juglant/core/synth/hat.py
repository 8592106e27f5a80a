"""A hat or cymbal from its recipe."""

# mypy: disable-error-code="no-untyped-def"
import numba as nb
import numpy as np
from numpy.typing import NDArray

from juglant.core.process import filters
from juglant.core.process.resampling import polyphase
from juglant.core.recipes.hat import HatRecipe
from juglant.core.synth import envelopes
from juglant.core.synth.common import finish, noise_band, seconds, to_peak

Array = NDArray[np.float64]

# Squares that bend each other make sidebands without end: made at four times the rate.
_OVERSAMPLING = 4
# No two of these are in a simple ratio: what they make is metal and not a chord.
_RATIOS = np.array([1.0, 1.342, 1.6177, 1.9021])


@nb.njit("(float64[::1], float64[::1], float64, int64, float64)", cache=True, fastmath=True, nogil=True)
def _metal(hz, start, bend, frames, rate):
    """Squares in a ring, each bent by the one before it; edges rounded over two frames."""
    count = hz.size
    phase = start.copy()
    last = np.zeros(count)
    out = np.zeros(frames)
    for i in range(frames):
        total = 0.0
        for k in range(count):
            step = hz[k] / rate * (1.0 + bend * last[(k + count - 1) % count])
            phase[k] += step
            phase[k] -= np.floor(phase[k])
            p = phase[k]
            value = 1.0 if p < 0.5 else -1.0
            width = abs(step)
            # A polynomial edge (second-order B-spline) where the square jumps.
            if width > 0.0:
                for edge, sign in ((0.0, 1.0), (0.5, -1.0)):
                    d = p - edge
                    d -= np.round(d)
                    x = d / width
                    if 0.0 <= x < 1.0:
                        value += sign * (x + x - x * x - 1.0)
                    elif -1.0 < x < 0.0:
                        value += sign * (x * x + x + x + 1.0)
            last[k] = value
            total += value
        out[i] = total / count
    return out


def render_hat(recipe: HatRecipe, rate: int) -> Array:
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
    >>> x = render_hat(HatRecipe(level_db=-6.0), 48000)
    >>> round(float(20 * np.log10(np.max(np.abs(x)))))
    -6
    """
    decay_s = recipe.decay_ms / 1000
    time = seconds(round((1.05 * decay_s + 0.01) * rate), rate)
    spread = 1 + recipe.detune * (_RATIOS[: recipe.oscillators] - 1)
    start = np.random.default_rng(recipe.seed).uniform(0, 1, recipe.oscillators)
    metal = polyphase(
        _metal(
            recipe.tone_hz * spread, start, 0.9 * recipe.modulation,
            _OVERSAMPLING * time.size, float(_OVERSAMPLING * rate),
        ), 1, _OVERSAMPLING,
    )  # fmt: skip
    out = filters.filtered(metal, filters.highpass_24(recipe.highpass_hz, rate))
    out = to_peak(out)
    if recipe.noise_db > -60:
        hiss = noise_band(time.size, recipe.seed + 1, recipe.highpass_hz, 20000.0, rate)
        out = out + 10 ** (recipe.noise_db / 20) * hiss
    if recipe.lowpass_hz < 20000.0:
        out = filters.filtered(out, filters.lowpass_24(recipe.lowpass_hz, rate))
    rest = 10 ** (-recipe.body_db / 20)
    stroke = envelopes.decay(time, 0.0, min(recipe.body_ms / 1000, decay_s), 0.0)
    level = rest * envelopes.decay(time, 0.0, decay_s, 0.0) + (1 - rest) * stroke
    return finish(
        out * level * envelopes.rise(time, recipe.attack_ms / 1000), rate, recipe.level_db, 0.2 * decay_s
    )
