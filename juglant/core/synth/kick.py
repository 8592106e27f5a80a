"""A kick from its recipe."""

import numpy as np
from numpy.typing import NDArray

from juglant.core.music import note_value_ms
from juglant.core.process import filters, saturation
from juglant.core.recipes.kick import KickRecipe
from juglant.core.synth import envelopes
from juglant.core.synth.oscillator import oscillate

Array = NDArray[np.float64]


def length_ms(recipe: KickRecipe, bpm: float) -> float:
    """Total length, from the note value where the recipe names one."""
    if recipe.length_note == "ms":
        return recipe.length_ms
    return note_value_ms(recipe.length_note, bpm)


def pitch_hz(recipe: KickRecipe, time_s: Array) -> Array:
    """Frequency of the body over time."""
    fallen = envelopes.fall(time_s, recipe.pitch_decay_ms / 1000, recipe.pitch_curve)
    return np.asarray(recipe.end_hz * np.exp2(recipe.start_semitones / 12 * fallen))


def _click(recipe: KickRecipe, frames: int, rate: int) -> Array:
    count = min(frames, round(1.5 * recipe.click_ms / 1000 * rate) + 1)
    noise = np.random.default_rng(recipe.seed).standard_normal(count)
    time = np.arange(count) / rate
    # Twice, so that the tone is where it is set and not wherever noise is widest.
    shaped = filters.bandpass(noise, recipe.click_tone_hz, 1.0, rate)
    shaped = filters.bandpass(shaped, recipe.click_tone_hz, 1.0, rate)
    # A little attack keeps it from spiking; a third of its length at the most.
    shaped *= envelopes.rise(time, min(0.0005, recipe.click_ms / 3000))
    shaped *= envelopes.decay(time, 0.0, recipe.click_ms / 1000, 0.0)
    shaped *= envelopes.release(time, count / rate, 0.001)
    peak = float(np.max(np.abs(shaped)))
    out = np.zeros(frames)
    out[:count] = shaped / peak if peak > 0 else shaped
    return out


def render_kick(recipe: KickRecipe, rate: int, bpm: float) -> Array:
    """Samples of shape (frames,), peak at the recipe's level.

    The same recipe, rate and tempo give the same samples. `rate` is in Hz.
    """
    total_s = length_ms(recipe, bpm) / 1000
    frames = max(2, round(total_s * rate))
    time = np.arange(frames) / rate
    hz = pitch_hz(recipe, time)
    body = oscillate(hz, recipe.wave, rate, "kick")
    if recipe.sub_db > -60.0:
        body = body + 10 ** (recipe.sub_db / 20) * oscillate(hz / 2, 0.0, rate, "kick")
    body *= envelopes.rise(time, recipe.attack_ms / 1000)
    body *= envelopes.decay(time, recipe.hold_ms / 1000, recipe.decay_ms / 1000, recipe.decay_curve)
    body *= envelopes.release(time, total_s, recipe.release_ms / 1000)
    body = saturation.soft_clip(body, recipe.drive_db)
    if recipe.lowpass_hz < 20000.0:
        opened = recipe.lowpass_octaves * np.exp(-time / (recipe.lowpass_decay_ms / 1000))
        body = filters.moving_lowpass(body, recipe.lowpass_hz * 2**opened, rate)
    body /= max(float(np.max(np.abs(body))), 1e-9)
    if recipe.click_db > -60.0:
        body = body + 10 ** (recipe.click_db / 20) * _click(recipe, frames, rate)
    # The filters' own tails must not be cut off at the end either.
    body *= envelopes.release(time, total_s, min(0.005, recipe.release_ms / 1000))
    return np.asarray(body * (10 ** (recipe.level_db / 20) / max(float(np.max(np.abs(body))), 1e-9)))
