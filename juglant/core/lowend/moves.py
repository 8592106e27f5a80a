"""The values that a moving control has over the loop."""

from dataclasses import dataclass
from itertools import pairwise
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from juglant.core import RATE
from juglant.core.hits.moving import Moved, Values
from juglant.core.lowend.drawn import bent
from juglant.core.lowend.played import follows
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.chain import Stage
from juglant.core.recipes.fields import Recipe, within
from juglant.core.recipes.hit import Hit
from juglant.core.recipes.moves import STROKES, Move, movable, readable
from juglant.core.recipes.parts import AnyPart, Voice, shaping
from juglant.core.synth.bass import Played, loop_frames, notes
from juglant.core.tempo import beat_ms, note_value_ms

Array = NDArray[np.float64]

# A jump of a curve is taken over so long, that it does not click.
_SMOOTH_S = 0.003


def value_at(move: Move, way: Array, scale: str = "linear") -> Array:
    """A move's values at shares of its way, shape of `way`, from 0 to 1.

    Parameters
    ----------
    move
        The move.
    way
        Shares of its way, 0 to 1.
    scale
        "linear" or "log".

    Returns
    -------
    ndarray
        Shape of `way`.

    Examples
    --------
    >>> from juglant.core.recipes.moves import MovePoint
    >>> points = (MovePoint(at=0.0, value=-12.0), MovePoint(at=1.0, value=0.0))
    >>> move = Move(of="place", control="gain_db", points=points)
    >>> value_at(move, np.array([0.0, 0.5, 1.0]))
    array([-12.,  -6.,   0.])
    """
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
    """A control's values: `move` of a control whose values are spaced by `scale`, in a loop of so many
    frames.
    """

    move: Move
    scale: str
    bpm: float
    frames: int

    def loop(self) -> Array:
        """Over one pass of the loop, shape (frames,)."""
        at_ms = np.arange(self.frames) / RATE * 1000
        values = value_at(self.move, _way(self.move, at_ms, self.bpm), self.scale)
        return np.asarray(ndimage.uniform_filter1d(values, round(_SMOOTH_S * RATE), mode="wrap"))

    def around(self, before: int = 0) -> Values:
        """Over what begins `before` frames before the loop and goes round."""
        loop = self.loop()
        return lambda frames: np.take(loop, np.arange(-before, frames - before), mode="wrap")


def courses(part: AnyPart, of: str, target: Recipe, brief: Brief) -> dict[str, Course]:
    """What moves of a part's stage or place, by the control; nothing of a stage that no move knows.

    Parameters
    ----------
    part
        The part.
    of
        Id of the stage, or of the place.
    target, brief
        What moves; key, tempo and chords.

    Returns
    -------
    dict of str to Course
        By the control.

    Examples
    --------
    >>> from juglant.core.recipes.track import TrackState
    >>> state = TrackState()
    >>> courses(state.kick, "place", state.kick.place, state.brief)
    {}
    """
    frames = loop_frames(brief, RATE)
    return {
        move.control: Course(move, movable(type(target))[move.control].scale, brief.bpm, frames)
        for move in part.moves if of and move.of == of
    }  # fmt: skip


def around(found: dict[str, Course], before: int = 0) -> Moved:
    """Courses over what begins `before` frames before the loop.

    Parameters
    ----------
    found
        By the control.
    before
        Frames.

    Returns
    -------
    dict of str to callable
        Values at so many frames, by the control.

    Examples
    --------
    >>> around({})
    {}
    """
    return {control: course.around(before) for control, course in found.items()}


def _read(move: Move, scale: str, bpm: float, at_ms: float, way: float) -> float:
    """A move's value where a stroke starts; `way` is how far along the section that is."""
    share = way if move.over == "section" else float(_way(move, np.array(at_ms), bpm))
    return float(value_at(move, np.array([share]), scale)[0])


def _bent(part: AnyPart, bpm: float, at_ms: float, way: float) -> float:
    """By how many semitones a move takes a stroke or a note with it."""
    pitch = [move for move in part.moves if move.of == STROKES]
    return sum(_read(move, "linear", bpm, at_ms, way) for move in pitch)


class AtStroke(NamedTuple):
    """How a stroke differs from the others of its hit: in semitones, and in controls of its shape, each by
    its stage's id and its name.
    """

    semitones: float
    shape: tuple[tuple[str, str, float], ...]

    def of(self, hit: Hit) -> Hit:
        """The hit as this stroke has it."""
        if not self.shape:
            return hit
        return hit.model_copy(update={"chain": tuple(self._stage(stage) for stage in hit.chain)})

    def _stage(self, stage: Stage) -> Stage:
        own = {control: value for of, control, value in self.shape if of == stage.id}
        return within(stage, **own) if own else stage


def moved_at(hit: Hit, brief: Brief, at_ms: float, way: float = 1.0) -> AtStroke:
    """How a stroke of a hit is moved: with the chords, and by moves. `at_ms` counts from the loop's start;
    `way` is how far along the section it lies.

    Parameters
    ----------
    hit, brief
        The hit; key, tempo and chords.
    at_ms
        From the loop’s start.
    way
        How far along the section it lies, 0 to 1.

    Returns
    -------
    AtStroke
        Semitones, and controls of its shape.

    Examples
    --------
    >>> from juglant.core.recipes.track import TrackState
    >>> state = TrackState()
    >>> moved_at(state.kick, state.brief, 0.0)
    AtStroke(semitones=0, shape=())
    """
    semitones = follows(hit, brief, at_ms)
    if not hit.moves:
        return AtStroke(semitones, ())
    shape, read = shaping(hit), []
    for move in hit.moves:
        if move.of in shape:
            stage = shape[move.of]
            one = readable(stage.__class__)[move.control]
            value = _read(move, one.scale, brief.bpm, at_ms, way)
            # On the control's own steps, whole numbers too: strokes that differ by less are one sound.
            stepped = round(round(value / one.step) * one.step, 9)
            read.append((move.of, move.control, type(getattr(stage, move.control))(stepped)))
    return AtStroke(semitones + _bent(hit, brief.bpm, at_ms, way), tuple(read))


# From how far to how far along the section a pass lies; in the loop everything stands at the end.
AT_THE_END = (1.0, 1.0)


def bends(part: AnyPart) -> bool:
    """Whether a line's pitch moves over the section: then no pass of its loop is like another.

    Parameters
    ----------
    part
        The part.

    Returns
    -------
    bool
        Whether it does.

    Examples
    --------
    >>> from juglant.core.recipes.track import TrackState
    >>> bends(TrackState().voices[0])
    False
    """
    return isinstance(part, Voice) and any(
        move.of == STROKES and move.over == "section" for move in part.moves
    )


def notes_of(voice: Voice, brief: Brief, along: tuple[float, float] = AT_THE_END) -> list[Played]:
    """The notes that are written for a line, each at the pitch to which a move takes it.

    Parameters
    ----------
    voice, brief
        The line; key, tempo and chords.
    along
        From how far to how far along the section the pass lies.

    Returns
    -------
    list of Played
        In their order.

    Examples
    --------
    >>> from juglant.core.recipes.track import TrackState
    >>> state = TrackState()
    >>> len(notes_of(state.voices[0], state.brief)) > 0
    True
    """
    if voice.line is None:
        return []
    if not any(move.of == STROKES for move in voice.moves):
        return notes(voice.line, brief)
    loop_ms, (first, last) = 4 * brief.bars * beat_ms(brief.bpm), along

    def bend(start_ms: float) -> float:
        return _bent(voice, brief.bpm, start_ms, first + start_ms / loop_ms * (last - first))

    return notes(voice.line, brief, bend)
