"""A kick from its recipe."""

import numpy as np
from numpy.typing import NDArray

from juglant.core.process import filters, movingfilters, saturation
from juglant.core.recipes.kick import KickRecipe
from juglant.core.synth import envelopes
from juglant.core.synth.common import finish, noise, seconds, to_peak
from juglant.core.synth.oscillator import oscillate
from juglant.core.tempo import note_value_ms

Array = NDArray[np.float64]


def length_ms(recipe: KickRecipe, bpm: float) -> float:
    """Total length, from the note value where the recipe names one.

    Parameters
    ----------
    recipe, bpm
        The settings; tempo.

    Returns
    -------
    float
        Ms.

    Examples
    --------
    >>> length_ms(KickRecipe(length_ms=400.0), 120.0)
    400.0
    """
    if recipe.length_note == "ms":
        return recipe.length_ms
    return note_value_ms(recipe.length_note, bpm)


def pitch_hz(recipe: KickRecipe, time_s: Array) -> Array:
    """Frequency of the body over time.

    Parameters
    ----------
    recipe, time_s
        The settings; seconds.

    Returns
    -------
    ndarray
        Hz, shape of `time_s`.

    Examples
    --------
    >>> pitch_hz(KickRecipe(end_hz=50.0), np.array([5.0])).round()
    array([50.])
    """
    return envelopes.swept_hz(
        time_s, recipe.end_hz, recipe.start_semitones / 12, recipe.pitch_decay_ms / 1000, recipe.pitch_curve
    )


def _click(recipe: KickRecipe, frames: int, rate: int) -> Array:
    count = min(frames, round(1.5 * recipe.click_ms / 1000 * rate) + 1)
    time = seconds(count, rate)
    # Twice, so that the tone is where it is set and not wherever noise is widest.
    shaped = filters.bandpass(noise(count, recipe.seed), recipe.click_tone_hz, 1.0, rate)
    shaped = filters.bandpass(shaped, recipe.click_tone_hz, 1.0, rate)
    # A little attack keeps it from spiking; a third of its length at the most.
    shaped *= envelopes.rise(time, min(0.0005, recipe.click_ms / 3000))
    shaped *= envelopes.decay(time, 0.0, recipe.click_ms / 1000, 0.0)
    shaped *= envelopes.release(time, count / rate, 0.001)
    out = np.zeros(frames)
    out[:count] = to_peak(shaped)
    return out


def _knock(recipe: KickRecipe, time: Array) -> Array:
    """The short sine under the click: three cycles at most, begun and ended at nought."""
    length_s = min(3 / recipe.click_sine_hz, 2.5 * recipe.click_ms / 1000)
    inside = np.clip(time / length_s, 0.0, 1.0)
    return np.asarray(np.sin(2 * np.pi * recipe.click_sine_hz * time) * (1 - inside) ** 2)


def _sub(recipe: KickRecipe, hz: Array, time: Array, rate: int) -> Array:
    sub = 10 ** (recipe.sub_db / 20) * oscillate(hz / 2, 0.0, rate, "kick")
    if recipe.sub_delay_ms > 0:
        sub *= envelopes.rise(time, recipe.sub_delay_ms / 1000)
    return sub


def render_kick(recipe: KickRecipe, rate: int, bpm: float) -> Array:
    """Samples of shape (frames,), peak at the recipe's level.

    The same recipe, rate and tempo give the same samples. `rate` is in Hz.

    Parameters
    ----------
    recipe, rate
        The settings; frames a second.
    bpm
        Tempo.

    Returns
    -------
    ndarray
        Shape (frames,).

    Examples
    --------
    >>> x = render_kick(KickRecipe(level_db=-6.0), 48000, 120.0)
    >>> round(float(20 * np.log10(np.max(np.abs(x)))))
    -6
    """
    total_s = length_ms(recipe, bpm) / 1000
    frames = max(2, round(total_s * rate))
    time = seconds(frames, rate)
    hz = pitch_hz(recipe, time)
    body = oscillate(hz, recipe.wave, rate, "kick")
    if recipe.sub_db > -60.0:
        body = body + _sub(recipe, hz, time, rate)
    body *= envelopes.rise(time, recipe.attack_ms / 1000)
    body *= envelopes.decay(time, recipe.hold_ms / 1000, recipe.decay_ms / 1000, recipe.decay_curve)
    body *= envelopes.release(time, total_s, recipe.release_ms / 1000)
    body = saturation.soft_clip(body, recipe.drive_db, recipe.drive_bias)
    if recipe.lowpass_hz < 20000.0:
        if recipe.opened_by == "the pitch":
            opened = envelopes.fall(time, recipe.pitch_decay_ms / 1000, recipe.pitch_curve)
        else:
            opened = np.exp(-time / (recipe.lowpass_decay_ms / 1000))
        cutoff = recipe.lowpass_hz * 2 ** (recipe.lowpass_octaves * opened)
        body = movingfilters.moving_lowpass(body, cutoff, rate, recipe.resonance)
    body = to_peak(body)
    if recipe.click_db > -60.0:
        body = body + 10 ** (recipe.click_db / 20) * _click(recipe, frames, rate)
    if recipe.click_sine_db > -60.0:
        body = body + 10 ** (recipe.click_sine_db / 20) * _knock(recipe, time)
    # The filters' own tails must not be cut off at the end either.
    return finish(body, rate, recipe.level_db, min(0.005, recipe.release_ms / 1000))
