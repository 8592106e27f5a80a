"""A struck pair of circular membranes.

Modes of an ideal circular membrane lie at the zeros of the Bessel functions: f(m,n)/f(0,1) =
j(m,n)/j(0,1) (Fletcher & Rossing, The Physics of Musical Instruments, ch. 3). A strike at
radius r drives mode (m,n) by J_m(j(m,n) r): at the centre every mode with a nodal diameter
(m > 0) stays silent. The second membrane is moved by the air between: only modes that
displace air, those with m = 0, take part.
"""

from functools import cache

import numpy as np
from numpy.typing import NDArray
from scipy import special

from juglant.core.process import filters, saturation
from juglant.core.recipes.snare import MembraneRecipe
from juglant.core.synth import envelopes
from juglant.core.synth.common import finish, noise, seconds, to_peak

Array = NDArray[np.float64]

_DIAMETERS, _CIRCLES = 7, 4
# A strike at the very edge would move nothing at all.
_RIM = 0.92
# Contact of the striker in seconds: felt to hard tip at full velocity; softer strikes stay longer.
_FELT_S, _TIP_S, _SOFTER = 0.006, 0.0004, 3.0
# Modes this far under the strongest are left out.
_LEAST_GAIN = 1e-5


@cache
def modes() -> tuple[Array, Array]:
    """Nodal diameters m and zeros j(m,n) of the modes that are summed, shapes (modes,).

    Returns
    -------
    tuple of ndarray
        Diameters and zeros.

    Examples
    --------
    >>> round(float(modes()[1][0]), 3)
    2.405
    """
    m = np.repeat(np.arange(_DIAMETERS, dtype=np.float64), _CIRCLES)
    zeros = np.concatenate([special.jn_zeros(k, _CIRCLES) for k in range(_DIAMETERS)])
    return m, zeros


def mode_ratios() -> Array:
    """Frequencies of the modes over the lowest one, in the order of `modes`.

    Returns
    -------
    ndarray
        Shape (modes,).

    Examples
    --------
    >>> mode_ratios()[:3].round(3)
    array([1.   , 2.295, 3.598])
    """
    _, zeros = modes()
    return np.asarray(zeros / zeros[0])


def strike_gains(position: float) -> Array:
    """How far a strike at 0 (centre) to 1 (rim) drives each mode.

    Parameters
    ----------
    position
        0 in the middle, 1 at the rim.

    Returns
    -------
    ndarray
        Shape (modes,).

    Examples
    --------
    >>> strike_gains(0.0)[:2].round(2)
    array([1.93, 2.94])
    """
    m, zeros = modes()
    shape = special.jv(m, zeros * position * _RIM)
    # Normalised by the mode's own energy on the disc.
    return np.asarray(shape / np.abs(special.jv(m + 1, zeros)))


def _contact(hz: Array, stiffness: float, velocity: float) -> Array:
    """Spectrum of a half-sine contact, which shortens with stiffness and with velocity."""
    contact_s = _FELT_S * (_TIP_S / _FELT_S) ** stiffness * _SOFTER ** (1 - velocity)
    return np.asarray(np.exp(-0.5 * (np.pi * hz * contact_s / 2) ** 2))


def _rates(hz: Array, lowest_hz: float, decay_s: float, damping: float) -> Array:
    """Decay rates in nepers per second: the higher, the sooner gone."""
    return np.asarray(6.91 / decay_s * (1 + 3 * damping * (hz / lowest_hz - 1)))


def render_membrane(recipe: MembraneRecipe, rate: int, velocity: float = 1.0) -> Array:
    """Samples of shape (frames,), peak at the recipe's level.

    `velocity` in (0, 1] says how hard it is struck: a softer one is duller. How much quieter
    it is, the hit decides. `rate` in Hz.

    Parameters
    ----------
    recipe, rate
        The settings; frames a second.
    velocity
        How hard it is struck, above 0 up to 1.

    Returns
    -------
    ndarray
        Shape (frames,).

    Examples
    --------
    >>> x = render_membrane(MembraneRecipe(level_db=-6.0), 48000)
    >>> round(float(20 * np.log10(np.max(np.abs(x)))))
    -6
    """
    decay_s = recipe.decay_ms / 1000
    wires_s = recipe.wires_ms / 1000 if recipe.wires_db > -60 else 0.0
    time = seconds(round((1.05 * max(decay_s, wires_s) + 0.05) * rate), rate)
    lowest = recipe.tune_hz * 2 ** (recipe.tension_semitones / 12)
    hz = lowest * mode_ratios()
    heard = hz < 0.45 * rate
    hz, gains = hz[heard], strike_gains(recipe.strike)[heard]
    # A soft strike leaves next to nothing high up: how much there is of it all, the level says.
    gains = gains * _contact(hz, recipe.stiffness, velocity)
    gains = gains / max(float(np.max(np.abs(gains), initial=0.0)), 1e-300)
    rates = _rates(hz, lowest, decay_s, recipe.damping)
    first = np.zeros(time.size)
    for f, gain, falling in zip(hz, gains, rates, strict=True):
        if abs(gain) > _LEAST_GAIN:
            first += gain * np.exp(-falling * time) * np.sin(2 * np.pi * f * time)
    out = first + _second(recipe, first, lowest, rate)
    if recipe.wires_db > -60:
        # What moves the second membrane shakes the wires; a soft strike shakes them less.
        shaken = filters.filtered(noise(time.size, recipe.seed), filters.highpass_24(recipe.wires_hz, rate))
        shaken = to_peak(shaken) * envelopes.rise(time, 0.001)
        shaken *= envelopes.decay(time, 0.001, wires_s, 0.0)
        out = out + 10 ** (recipe.wires_db / 20) * velocity**0.5 * float(np.max(np.abs(out))) * shaken
    out = saturation.soft_clip(out, recipe.drive_db * velocity)
    return finish(out, rate, recipe.level_db)


def _second(recipe: MembraneRecipe, first: Array, lowest: float, rate: int) -> Array:
    """The second membrane's answer: resonators at its modes without nodal diameters."""
    if recipe.coupling == 0:
        return np.zeros(first.size)
    _, zeros = modes()
    hz = lowest * 2 ** (recipe.second_semitones / 12) * zeros[:_CIRCLES] / zeros[0]
    rates = _rates(hz, hz[0], recipe.decay_ms / 1000, recipe.damping)
    out = np.zeros(first.size)
    for f, falling in zip(hz[hz < 0.45 * rate], rates, strict=False):
        radius, angle = np.exp(-falling / rate), 2 * np.pi * f / rate
        # Two poles, scaled to a gain of about 1 at resonance for a tone that lasts.
        section = [1 - radius, 0.0, -(1 - radius), 1.0, -2 * radius * np.cos(angle), radius**2]
        out += filters.filtered(first, np.array([section]))
    return np.asarray(recipe.coupling * out * (np.max(np.abs(first)) / max(np.max(np.abs(out)), 1e-9)))
