"""A bass line from its recipe and the brief."""

import numpy as np
from numpy.typing import NDArray

from juglant.core.music import beat_ms, midi_to_hz, pitch_class
from juglant.core.process import filters, saturation
from juglant.core.recipes.bass import STEPS, BassRecipe
from juglant.core.recipes.brief import Brief
from juglant.core.synth import envelopes
from juglant.core.synth.oscillator import oscillate

Array = NDArray[np.float64]


def loop_frames(brief: Brief, rate: int) -> int:
    """Length of the loop in frames."""
    return round(4 * brief.bars * beat_ms(brief.bpm) / 1000 * rate)


def notes(recipe: BassRecipe, brief: Brief) -> list[tuple[float, float, int]]:
    """Start and length in ms and MIDI note of every note of the loop, one voice.

    A note ends where the next one starts at the latest; the last one at the loop's end.
    """
    step_ms = beat_ms(brief.bpm) / 4
    placed = [
        (bar * STEPS + step.at, step.steps, 12 * (recipe.octave + 1) + pitch_class(brief.root_of(bar)))
        for bar in range(brief.bars)
        for step in recipe.pattern
    ]
    ends = [at for at, _, _ in placed[1:]] + [brief.bars * STEPS]
    return [
        (at * step_ms, min(length, end - at) * step_ms, midi)
        for (at, length, midi), end in zip(placed, ends, strict=True)
    ]


def _note_envelope(recipe: BassRecipe, count: int, held: int, rate: int) -> Array:
    time = np.arange(count) / rate
    sustain = 10 ** (recipe.sustain_db / 20) if recipe.sustain_db > -60 else 0.0
    falling = envelopes.decay(time, recipe.attack_ms / 1000, recipe.decay_ms / 1000, 0.0)
    level = sustain + (1 - sustain) * falling
    released = envelopes.rise(
        np.clip((count - np.arange(count)) / rate, 0, None), max(count - held, 1) / rate
    )
    return np.asarray(level * envelopes.rise(time, recipe.attack_ms / 1000) * released)


def render_bass(recipe: BassRecipe, brief: Brief, rate: int) -> Array:
    """One pass of the loop, shape (frames,), peak at the recipe's level before the high-pass.

    Loops seamlessly. One voice: every note is faded out before the next begins, so nothing overlaps.
    """
    frames = loop_frames(brief, rate)
    line = np.zeros(frames)
    played = notes(recipe, brief)
    for index, (start_ms, length_ms, midi) in enumerate(played):
        start = round(start_ms / 1000 * rate)
        limit_ms = played[index + 1][0] if index + 1 < len(played) else frames / rate * 1000
        room = min(frames, round(limit_ms / 1000 * rate)) - start
        whole = min(room, round((length_ms + recipe.release_ms) / 1000 * rate))
        # Where the next note cuts the release short, it fades within 3 ms, not less.
        held = min(round(length_ms / 1000 * rate), whole - round(0.003 * rate))
        if whole < round(0.004 * rate):
            continue
        hz = np.full(whole, midi_to_hz(midi, brief.a4_hz))
        tone = oscillate(hz, recipe.wave, rate, "bass")
        line[start : start + whole] += tone * _note_envelope(recipe, whole, held, rate)
    line = saturation.soft_clip(line, recipe.drive_db)
    # Filtered twice round, the second pass kept: what rings past the end rings into the start.
    if recipe.lowpass_hz < 20000.0:
        line = filters.around_loop(line, filters.lowpass_24(recipe.lowpass_hz, rate))
    peak = float(np.max(np.abs(line)))
    if peak > 0:
        line = line * (10 ** (recipe.level_db / 20) / peak)
    # After the level: a high-pass takes away and must not make the rest louder.
    if recipe.highpass_hz > 20.0:
        line = filters.around_loop(line, filters.highpass_24(recipe.highpass_hz, rate))
    return line
