"""The values that a moving control has over the loop."""

from dataclasses import dataclass
from itertools import pairwise
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from juglant.core import RATE
from juglant.core.hits.moving import Moved, Values
from juglant.core.lowend.drawn import bent
from juglant.core.lowend.played import follows
from juglant.core.music import beat_ms, note_value_ms
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.fields import Recipe
from juglant.core.recipes.hit import Hit
from juglant.core.recipes.moves import STROKES, Move, movable
from juglant.core.recipes.parts import AnyPart
from juglant.core.synth.bass import loop_frames

Array = NDArray[np.float64]

# A jump of a curve is taken over so long, that it does not click.
_SMOOTH_S = 0.003


def value_at(move: Move, way: Array, scale: str = "linear") -> Array:
    """A move's values at shares of its way, shape of `way`, from 0 to 1."""
    values = np.array([point.value for point in move.points])
    if scale == "log":
        values = np.log(values)
    out = np.full(np.shape(way), values[-1])
    for n, (here, there) in enumerate(pairwise(move.points)):
        inside = (way >= here.at) & (way < there.at)
        x = (way[inside] - here.at) / (there.at - here.at)
        out[inside] = values[n] + (values[n + 1] - values[n]) * bent(x, here.bend)
    return np.exp(out) if scale == "log" else out


def _length_ms(move: Move, bpm: float) -> float:
    number, _, bars = move.over.partition(" ")
    return 4 * int(number) * beat_ms(bpm) if bars else note_value_ms(number, bpm)


def _way(move: Move, at_ms: Array, bpm: float) -> Array:
    """How far along its way a move is at times since the loop began."""
    if move.over == "section":
        return np.ones(np.shape(at_ms))
    # A frame that falls on the end for the sake of rounding is the next one's first.
    return np.asarray((at_ms / _length_ms(move, bpm) + 1e-9) % 1.0)


@dataclass(frozen=True)
class Course:
    """A control's values: `move` of a control whose values are spaced by `scale`."""

    move: Move
    scale: str
    brief: Brief

    def loop(self) -> Array:
        """Over one pass of the loop, shape (frames,)."""
        at_ms = np.arange(loop_frames(self.brief, RATE)) / RATE * 1000
        values = value_at(self.move, _way(self.move, at_ms, self.brief.bpm), self.scale)
        return np.asarray(ndimage.uniform_filter1d(values, round(_SMOOTH_S * RATE), mode="wrap"))

    def around(self, before: int = 0) -> Values:
        """Over what begins `before` frames before the loop and goes round."""
        loop = self.loop()
        return lambda frames: np.take(loop, np.arange(-before, frames - before), mode="wrap")


def courses(part: AnyPart, of: str, target: Recipe, brief: Brief) -> dict[str, Course]:
    """What moves of a part's stage or place, by the control; nothing of a stage that no move knows."""
    return {
        move.control: Course(move, movable(type(target))[move.control].scale, brief)
        for move in part.moves if of and move.of == of
    }  # fmt: skip


def around(found: dict[str, Course], before: int = 0) -> Moved:
    """Courses over what begins `before` frames before the loop."""
    return {control: course.around(before) for control, course in found.items()}


def named(found: dict[str, Course]) -> list[Any]:
    """What decides courses, beside the loop that passes."""
    return [each for course in found.values() for each in (course.move, course.brief.bpm)]


def moved_at(hit: Hit, brief: Brief, at_ms: float, way: float = 1.0) -> float:
    """By how many semitones a stroke of a hit is moved: with the chords, and by a move. `at_ms` counts from
    the loop's start; `way` is how far along the section it lies.
    """
    semitones: float = follows(hit, brief, at_ms)
    for move in hit.moves:
        if move.of == STROKES:
            share = way if move.over == "section" else _way(move, np.array(at_ms), brief.bpm)
            semitones += float(value_at(move, np.array([share]))[0])
    return semitones
