"""A bass line from its recipe and the brief."""

from collections.abc import Callable, Iterable, Iterator
from typing import NamedTuple, TypeVar

import numpy as np
from numpy.typing import NDArray

from juglant.core.music import pitch_class
from juglant.core.process import filters, saturation
from juglant.core.recipes.bass import BassRecipe, LineRecipe
from juglant.core.recipes.brief import Brief
from juglant.core.synth import envelopes
from juglant.core.synth.oscillator import oscillate
from juglant.core.tempo import beat_ms, swung

Array = NDArray[np.float64]
T = TypeVar("T")


def loop_frames(brief: Brief, rate: int) -> int:
    """Length of the loop in frames.

    Parameters
    ----------
    brief, rate
        Key, tempo and chords; frames a second.

    Returns
    -------
    int
        Frames.

    Examples
    --------
    >>> loop_frames(Brief(bpm=120.0, chord_roots=("A",)), 48000)
    96000
    """
    return round(4 * brief.bars * beat_ms(brief.bpm) / 1000 * rate)


class Played(NamedTuple):
    """A note as it is played: times in ms from the start of the loop, and what it glides from."""

    start_ms: float
    length_ms: float
    midi: float
    velocity: float
    from_midi: float


def repeated(places: Iterable[T], bars: int, loop_bars: int) -> Iterator[tuple[int, T]]:
    """A pattern of some bars through a loop: the bar at which each turn begins, and its parts.

    Parameters
    ----------
    places
        What the pattern is made of.
    bars
        How long it is.
    loop_bars
        How long the loop is.

    Returns
    -------
    iterator of int and T
        The bar at which each turn begins, and its parts.

    Examples
    --------
    >>> list(repeated(["a"], 1, 2))
    [(0, 'a'), (1, 'a')]
    """
    listed = list(places)
    for first in range(0, loop_bars, bars):
        for one in listed:
            yield first, one


def notes(recipe: LineRecipe, brief: Brief, bend: Callable[[float], float] | None = None) -> list[Played]:
    """Every note of the loop, one voice, under its swing.

    A note ends where the next one starts at the latest; the last one at the loop's end. Its pitch
    is counted from the root of the bar in which it starts, and moved by what `bend` says in semitones for
    the ms at which it starts.

    Parameters
    ----------
    recipe, brief
        The settings; key, tempo and chords.
    bend
        Semitones that are added to a note that starts at a time in ms.

    Returns
    -------
    list of Played
        In their order.

    Examples
    --------
    >>> played = notes(LineRecipe(), Brief(bpm=120.0, chord_roots=("A",)))
    >>> played[0].length_ms > 0
    True
    """
    beat, end, swing = beat_ms(brief.bpm), 4.0 * brief.bars, brief.swing_of(recipe)
    placed = []
    for first, note in repeated(recipe.pattern, recipe.bars, brief.bars):
        at = 4 * first + note.at
        if at < end:
            root = pitch_class(brief.root_of(int(at // 4)))
            midi: float = 12 * (recipe.octave + 1) + root + note.semitones
            start, stop = (swung(place, swing) for place in (at, at + note.beats))
            if bend is not None:
                midi += bend(start * beat)
            placed.append((start, stop, midi, note))
    found = []
    for n, (start, stop, midi, note) in enumerate(placed):
        limit = placed[n + 1][0] if n + 1 < len(placed) else end
        before = placed[n - 1][2] if note.glide else midi
        found.append(Played(start * beat, (min(stop, limit) - start) * beat, midi, note.velocity, before))
    return found


def _note_envelope(recipe: BassRecipe, count: int, held: int, rate: int) -> Array:
    time = np.arange(count) / rate
    sustain = 10 ** (recipe.sustain_db / 20) if recipe.sustain_db > -60 else 0.0
    falling = envelopes.decay(time, recipe.attack_ms / 1000, recipe.decay_ms / 1000, 0.0)
    level = sustain + (1 - sustain) * falling
    released = envelopes.rise(
        np.clip((count - np.arange(count)) / rate, 0, None), max(count - held, 1) / rate
    )
    return np.asarray(level * envelopes.rise(time, recipe.attack_ms / 1000) * released)


def render_bass(recipe: BassRecipe, brief: Brief, rate: int, given: list[Played] | None = None) -> Array:
    """One pass of the loop, shape (frames,), peak at the recipe's level before the high-pass. Its notes are
    those of the recipe where others are not `given`.

    Loops seamlessly. One voice: every note is faded out before the next begins, so nothing overlaps.

    Parameters
    ----------
    recipe, brief
        The settings; key, tempo and chords.
    rate, given
        Frames a second; notes to play in place of its own.

    Returns
    -------
    ndarray
        Shape (frames,).

    Examples
    --------
    >>> render_bass(BassRecipe(), Brief(bpm=120.0, chord_roots=("A",)), 48000).size
    96000
    """
    frames = loop_frames(brief, rate)
    line = np.zeros(frames)
    played = notes(recipe, brief) if given is None else given
    for index, note in enumerate(played):
        start = round(note.start_ms / 1000 * rate)
        limit_ms = played[index + 1].start_ms if index + 1 < len(played) else frames / rate * 1000
        room = min(frames, round(limit_ms / 1000 * rate)) - start
        whole = min(room, round((note.length_ms + recipe.release_ms) / 1000 * rate))
        # Where the next note cuts the release short, it fades within 3 ms, not less.
        held = min(round(note.length_ms / 1000 * rate), whole - round(0.003 * rate))
        if whole < round(0.004 * rate):
            continue
        way = np.minimum(np.arange(whole) / rate * 1000 / recipe.glide_ms, 1.0)
        midi = note.from_midi + (note.midi - note.from_midi) * way
        hz = brief.a4_hz * 2.0 ** ((midi - 69.0) / 12.0)
        tone = oscillate(hz, recipe.wave, rate, "bass") * note.velocity
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
