"""An arrangement as stretches in which one section is played, and what is played in them, in frames."""

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from juglant.core import RATE
from juglant.core.hits.moving import Values
from juglant.core.lowend.duckings import Acting, Start
from juglant.core.lowend.line import line_of, strokes_of
from juglant.core.lowend.loop import CHOKE_MS, TOGETHER_MS, cut_to, fade_out
from juglant.core.lowend.moves import Course, moved_at, value_at
from juglant.core.lowend.played import stroke_at
from juglant.core.lowend.sounds import Sounds
from juglant.core.measure.loopsound import LoopSound
from juglant.core.measure.subedge import SubEdge
from juglant.core.recipes.hit import Hit
from juglant.core.recipes.sections import Track
from juglant.core.recipes.track import TrackState
from juglant.core.synth.bass import loop_frames
from juglant.core.tempo import beat_ms

Array = NDArray[np.float64]

# No curve of a ducking is longer than this.
_LONGEST_CURVE_S = 6.0


@dataclass(frozen=True)
class Passage:
    """A stretch of the arrangement: the section as it sounds, its name, and from where to where."""

    name: str
    state: TrackState
    first: int
    end: int

    @cached_property
    def loop_frames(self) -> float:
        """Length of the section's loop, to a fraction of a frame."""
        return 4 * self.state.brief.bars * beat_ms(self.state.brief.bpm) / 1000 * RATE

    @property
    def turns(self) -> list[int]:
        """Where each pass of the section's loop begins: on a whole frame, so that every pass is like it."""
        count = int(np.ceil((self.end - self.first) / self.loop_frames - 1e-6))
        return [self.first + round(n * self.loop_frames) for n in range(count)]

    def passes(self) -> list[tuple["Passage", tuple[float, float]]]:
        """Every pass of the section's loop by itself, and from how far to how far along it lies."""
        ends = [*self.turns[1:], self.end]
        return [
            (
                replace(self, first=first, end=end),
                (
                    (first - self.first) / (self.end - self.first),
                    (first - self.first + self.loop_frames) / (self.end - self.first),
                ),
            )
            for first, end in zip(self.turns, ends, strict=True)
        ]

    def starts_ms(self, in_loop_ms: list[float]) -> list[float]:
        """Times in the loop as times of the arrangement, as often as they come."""
        end_ms = self.end / RATE * 1000
        every = [turn / RATE * 1000 + at for turn in self.turns for at in in_loop_ms]
        return [at for at in every if at < end_ms - 1e-6]

    def within(self, at: NDArray[np.int64]) -> NDArray[np.int64]:
        """Frames of the arrangement that lie in it as frames of its loop."""
        since = at - self.first
        turn = np.floor(since / self.loop_frames + 1e-9)
        return np.asarray(since - np.round(turn * self.loop_frames).astype(int))

    def inside(self, first: int, end: int) -> bool:
        """Whether any of a stretch lies in it."""
        return self.first < end and first < self.end


def passages(track: Track) -> list[Passage]:
    """The arrangement of a track; its main section once where nothing is arranged.

    Parameters
    ----------
    track
        The track with its sections.

    Returns
    -------
    list of Passage
        In their order.

    Examples
    --------
    >>> from juglant.core.recipes.sections import Track
    >>> len(passages(Track()))
    1
    """
    entries = [(entry.section, entry.bars) for entry in track.arrangement]
    if not entries:
        entries = [(track.main, track.state.brief.bars)]
    bar = 4 * beat_ms(track.state.brief.bpm) / 1000 * RATE
    found, at = [], 0
    for section, bars in entries:
        first, end = round(at * bar), round((at + bars) * bar)
        found.append(Passage(track.section(section).name, track.at(section), first, end))
        at += bars
    return found


def tiled(passage: Passage, loop: LoopSound, first: int, end: int) -> Array:
    """A stretch of a loop that goes round through its passage; silence outside of it.

    Parameters
    ----------
    passage
        A stretch of the arrangement.
    loop
        One pass of the loop.
    first
        First frame.
    end
        Frame behind the last.

    Returns
    -------
    ndarray
        From `first` to `end`.

    Examples
    --------
    >>> from juglant.core.recipes.sections import Track
    >>> passage = passages(Track())[0]
    >>> tiled(passage, LoopSound(np.ones(48000)), -2, 2)
    array([0., 0., 1., 1.])
    """
    x = loop.samples
    out = np.zeros((end - first, *x.shape[1:]))
    a, b = max(first, passage.first), min(end, passage.end)
    if a < b:
        # Where a pass is a frame longer than it was made, its first frame comes once more.
        out[a - first : b - first] = x[passage.within(np.arange(a, b)) % x.shape[0]]
    return out


def moving_through(course: Course, played: list[Passage], loop: int, first: int) -> Values:
    """A moving control over a loop of so many frames and then over the arrangement from a frame on;
    `played` are the passages in which it moves so, and beyond them it keeps its first and last value.

    Parameters
    ----------
    course
        How the control moves.
    played
        Stretches in which it moves so.
    loop
        Frames of one pass.
    first
        First frame.

    Returns
    -------
    callable
        Values at so many frames.

    Examples
    --------
    >>> from juglant.core.recipes.moves import Move, MovePoint
    >>> from juglant.core.recipes.sections import Track
    >>> points = (MovePoint(at=0.0, value=-12.0), MovePoint(at=1.0, value=0.0))
    >>> move = Move(of="place", control="gain_db", over="section", points=points)
    >>> stretches = passages(Track())
    >>> values = moving_through(Course(move, "linear", 128.0, 48000), stretches, 0, 0)
    >>> float(values(48000)[0])
    -12.0
    """
    # Sections may be of different lengths: each has its own pass of the curve.
    frames = {one.state.brief.bars: loop_frames(one.state.brief, RATE) for one in played}
    passes = {bars: replace(course, frames=count).loop() for bars, count in frames.items()}
    before = next((one for one in passes.values() if one.size == loop), course.loop())

    def values(frames: int) -> Array:
        at = np.clip(np.arange(first, first + frames - loop), played[0].first, played[-1].end - 1)
        out = np.zeros(at.size)
        for passage in played:
            inside = (at >= passage.first) & (at < passage.end)
            if course.move.over == "section":
                way = (at[inside] - passage.first) / (passage.end - passage.first)
                out[inside] = value_at(course.move, way, course.scale)
            else:
                once = passes[passage.state.brief.bars]
                out[inside] = once[passage.within(at[inside]) % once.size]
        return np.concatenate([np.resize(before, loop), out])

    return values


@dataclass(frozen=True)
class _Stroke:
    frame: int
    hit: Hit
    state: TrackState
    semitones: float
    velocity: float
    turn: int


class Struck:
    """A hit through the whole arrangement: one voice and its chokes go on across the borders."""

    def __init__(self, sounds: Sounds, stretches: list[Passage], id: str, *, unmuted: bool) -> None:
        self._sounds = sounds
        self._strokes: list[_Stroke] = []
        foreign: list[float] = []
        for passage in stretches:
            state = passage.state
            hit = state.hit(id)
            played = line_of(state)
            if hit.choke != "none":
                group = [part for part, theirs in played.chokes.items() if theirs == hit.choke]
                others = [at for part in group if part != id for at in played.starts(part)]
                foreign += passage.starts_ms(others)
            if hit.mute and not unmuted:
                continue
            in_loop = strokes_of(hit, state.brief)
            for turn in passage.turns:
                for n, stroke in enumerate(in_loop):
                    frame = turn + round(stroke.at_ms / 1000 * RATE)
                    if frame < passage.end:
                        way = (frame - passage.first) / (passage.end - passage.first)
                        own = moved_at(hit, state.brief, stroke.at_ms, way)
                        self._strokes.append(
                            _Stroke(frame, own.of(hit), state, own.semitones, stroke.velocity, n)
                        )
        self._strokes.sort(key=lambda one: one.frame)
        self._silent = self._choked(sorted(foreign))

    def _choked(self, foreign_ms: list[float]) -> list[tuple[int, int]]:
        """From where to where others of its choke group keep it silent."""
        own = np.array([one.frame for one in self._strokes], dtype=np.int64)
        together = TOGETHER_MS / 1000 * RATE
        found = []
        for at in foreign_ms:
            frame = round(at / 1000 * RATE)
            near = np.searchsorted(own, frame)
            if any(abs(int(own[n]) - frame) <= together for n in (near - 1, near) if 0 <= n < own.size):
                continue
            found.append((frame, int(own[near]) if near < own.size else frame + 60 * RATE))
        return found

    @property
    def channels(self) -> int:
        """Two where any section strikes something wide."""
        sounds = {one.hit.sounding.text: one for one in self._strokes}
        hits = self._sounds.hits
        return max((hits.hit(one.hit, one.state.brief.bpm).ndim for one in sounds.values()), default=1)

    @property
    def starts_ms(self) -> list[float]:
        """When it is struck."""
        return [one.frame / RATE * 1000 for one in self._strokes]

    def read(self, first: int, end: int) -> Array:
        """A stretch of it, shape (frames,) or (frames, 2)."""
        pieces = []
        for n, one in enumerate(self._strokes):
            following = self._strokes[n + 1].frame if n + 1 < len(self._strokes) else None
            if one.frame >= end:
                break
            if following is not None and following <= first:
                continue
            hits = self._sounds.hits
            x = stroke_at(hits, one.hit, one.semitones, one.state.brief.bpm, one.velocity, one.turn)
            if following is not None:
                x = cut_to(x, following - one.frame, RATE)
            pieces.append((one.frame, x))
        wide = (2,) if any(x.ndim == 2 for _, x in pieces) else ()
        out = np.zeros((end - first, *wide))
        for frame, x in pieces:
            a, b = max(frame, first), min(frame + x.shape[0], end)
            if a < b:
                piece = x[a - frame : b - frame]
                out[a - first : b - first] += piece[:, None] if wide and piece.ndim == 1 else piece
        fade = np.append(fade_out(CHOKE_MS, RATE), 0.0)
        for begins, until in self._silent:
            a, b = max(begins, first), min(until, end)
            if a < b:
                curve = fade[np.minimum(np.arange(a, b) - begins, fade.size - 1)]
                out[a - first : b - first] *= curve if out.ndim == 1 else curve[:, None]
        return out


def acting_in(stretches: list[Passage], acts: list[list[Acting]], first: int, end: int) -> list[Acting]:
    """What turns a part down in a stretch, its times counted from there; `acts` says what does so in the
    loop of each passage. A curve goes on past the border of the passage in which it starts.

    Parameters
    ----------
    stretches
        Of the arrangement.
    acts
        What does so in each.
    first
        First frame.
    end
        Frame behind the last.

    Returns
    -------
    list of Acting
        Times counted from `first`.

    Examples
    --------
    >>> from juglant.core.recipes.sections import Track
    >>> acting_in(passages(Track()), [[]], 0, 48000)
    []
    """
    found: dict[tuple[str, float, int | None], Acting] = {}
    length, at_ms = round((end - first) / RATE * 1000), first / RATE * 1000
    for passage, acting in zip(stretches, acts, strict=True):
        if not passage.inside(first - round(_LONGEST_CURVE_S * RATE), end):
            continue
        for one in acting:
            starts = tuple(
                Start(time - at_ms, start.share)
                for start in one.starts for time in passage.starts_ms([start.at_ms])
                if -1000 * _LONGEST_CURVE_S < time - at_ms < length + 1000
            )  # fmt: skip
            if not starts:
                continue
            # An edge that follows the notes of a bass is that of its passage.
            edge = None if one.edge is None else _edge_in(one.edge, passage, at_ms, length)
            name = (one.duck.text, one.share, None if edge is None else passage.first)
            if name in found:
                starts = (*found[name].starts, *starts)
            found[name] = Acting(one.duck, starts, one.share, edge)
    return list(found.values())


def _edge_in(edge: SubEdge, passage: Passage, at_ms: float, length: int) -> SubEdge:
    """An edge that moves with the notes of a loop, over a stretch of the arrangement."""
    if edge.at is None:
        return edge
    since = np.arange(length) + at_ms - passage.first / RATE * 1000
    loop_ms = passage.loop_frames / RATE * 1000
    index = np.minimum((since % loop_ms).astype(np.int64), edge.at.size - 1)
    return SubEdge(edge.said_hz, edge.hz, edge.at[index])
