"""Every ducking of a track: when it starts, its gain, and what it does to what it turns down.

Several duckings of one part do not add up: at each moment and frequency the deepest holds.
"""

from dataclasses import dataclass
from functools import cache, cached_property
from itertools import pairwise
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from juglant.core.lowend import ducking
from juglant.core.lowend.line import Stroke, strokes_of
from juglant.core.lowend.loop import gaps_ms
from juglant.core.measure.pumping import Heard, pumping
from juglant.core.measure.subedge import SubEdge
from juglant.core.music import pitch_class
from juglant.core.process.filters import Around, linkwitz_riley_gain
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.ducking import Ducking
from juglant.core.recipes.hit import Hit
from juglant.core.recipes.parts import Voice, has_strokes
from juglant.core.recipes.track import TrackState
from juglant.core.synth.bass import loop_frames, notes
from juglant.core.tempo import beat_ms, note_value_ms, swung

Array = NDArray[np.float64]

_PAD_LOWEST_MIDI, _PAD_PARTIALS, _PAD_LEVEL_DB = 48, 12, -18.0


def triggers_of(state: TrackState) -> list[str]:
    """What can start a ducking, by its id: all that has strokes or notes, muted or not.

    Parameters
    ----------
    state
        The track.

    Returns
    -------
    list of str
        Ids.

    Examples
    --------
    >>> from juglant.core.recipes.track import TrackState
    >>> triggers_of(TrackState())
    ['kick', 'bass']
    """
    return [part.id for part in state.parts if has_strokes(part)]


def written_strokes(state: TrackState, id: str) -> list[Stroke] | None:
    """When and how hard a part is struck, as it is written, muted or not; None where it is a file.

    Parameters
    ----------
    state, id
        The track; of the part.

    Returns
    -------
    list of Stroke or None
        In their order.

    Examples
    --------
    >>> from juglant.core.recipes.track import TrackState
    >>> len(written_strokes(TrackState(), "kick"))
    8
    """
    part = state.part(id)
    if isinstance(part, Hit):
        return strokes_of(part, state.brief)
    if isinstance(part, Voice) and part.line is not None:
        return [Stroke(note.start_ms, note.velocity) for note in notes(part.line, state.brief)]
    return None


def note_values(one: Ducking, state: TrackState) -> list[Stroke]:
    """The starts of a ducking that a note value starts; none where it does not.

    Parameters
    ----------
    one, state
        The ducking; the track.

    Returns
    -------
    list of Stroke
        In their order.

    Examples
    --------
    >>> from juglant.core.recipes.track import TrackState
    >>> note_values(TrackState().duckings[0], TrackState())
    []
    """
    if one.rate == "none":
        return []
    brief = state.brief
    beat = beat_ms(brief.bpm)
    step = note_value_ms(one.rate, brief.bpm)
    straight = [n * step / beat for n in range(round(4 * beat * brief.bars / step))]
    return [Stroke(swung(at, brief.swing_percent) * beat, 1.0) for at in straight]


class Start(NamedTuple):
    """A start of a ducking, and how much of its depth it takes."""

    at_ms: float
    share: float


def starts_of(one: Ducking, strokes: list[Stroke]) -> list[Start]:
    """The starts that strokes give a ducking, softer ones shallower as far as it follows velocity.

    Of several at once the hardest counts.

    Parameters
    ----------
    one
        The ducking.
    strokes
        When and how hard.

    Returns
    -------
    list of Start
        In their order.

    Examples
    --------
    >>> from juglant.core.recipes.track import TrackState
    >>> len(starts_of(TrackState().duckings[0], [Stroke(0.0, 1.0), Stroke(500.0, 0.5)]))
    2
    """
    found: dict[float, Start] = {}
    for at, velocity in strokes:
        start = Start(at, 1 - one.velocity * (1 - velocity))
        found[round(at, 3)] = max(found.get(round(at, 3), start), start, key=lambda each: each.share)
    return [found[at] for at in sorted(found)]


@dataclass(frozen=True)
class Acting:
    """A ducking on one part: its curve, when it starts, how much of the depth the part gets, and the edge
    below which it spares a bass that owns the sub, None where it spares nothing.
    """

    duck: DuckRecipe
    starts: tuple[Start, ...]
    share: float
    edge: SubEdge | None

    def gain_db(self, frames: int, rate: int, *, loop: bool = True) -> Array:
        """The gain of the ducking in dB at every frame of the loop."""
        return gain_db(self.duck, list(self.starts), frames, rate, self.share, loop=loop)

    @cached_property
    def acts_from_hz(self) -> float | None:
        """Where its band begins, by order alone; None where it has no lower end."""
        if self.edge is not None:
            return float(np.median(self.edge.hz))
        return self.duck.edge_hz if self.duck.band == "above" else None

    @property
    def acts_to_hz(self) -> float | None:
        """Where its band ends; None where it has no upper end."""
        return self.duck.edge_hz if self.duck.band == "below" else None


def gain_db(
    duck: DuckRecipe, starts: list[Start], frames: int, rate: int, share: float = 1.0, *, loop: bool = True
) -> Array:
    """A curve's gain in dB at every frame of the loop, shape (frames,); 0 where nothing starts it.

    Parameters
    ----------
    duck
        The curve of the ducking.
    starts
        Since the loop’s start, with the share of the depth.
    frames, rate
        How many; frames a second.
    share
        Of the depth.
    loop
        Whether the end is followed by the start.

    Returns
    -------
    ndarray
        dB.

    Examples
    --------
    >>> gain_db(DuckRecipe(), [], 4, 48000)
    array([0., 0., 0., 0.])
    """
    length = frames / rate * 1000
    out = np.zeros(frames)
    for depth in sorted({start.share for start in starts}):
        times = [start.at_ms for start in starts if start.share == depth]
        scaled = duck.model_copy(update={"depth_db": duck.depth_db * share * depth})
        np.minimum(out, ducking.curve_db(scaled, times, length, 1000 / rate, loop=loop)[:frames], out=out)
    return out


def under(x: Array, acting: list[Acting], rate: int, *, loop: bool = True) -> Array:
    """A loop, shape (frames,), turned down by all that acts on it: at each moment and frequency by the
    deepest. Bands are parted without shifting phase, and add up to the whole again. What is no `loop`
    does not go round.

    Parameters
    ----------
    x
        Samples, shape (frames,).
    acting, rate
        What turns it down; frames a second.
    loop
        Whether the end is followed by the start.

    Returns
    -------
    ndarray
        Shape (frames,).

    Examples
    --------
    >>> acting = [Acting(DuckRecipe(depth_db=12.0), (Start(0.0, 1.0),), 1.0, None)]
    >>> float(under(np.ones(48000), acting, 48000).min().round(2))
    0.25
    """
    if not acting:
        return x
    if len(acting) == 1:
        [one] = acting
        alone = ducking.left_alone(x, one.duck, one.edge, rate, loop=loop)
        return ducking.under(x, one.gain_db(x.size, rate, loop=loop), alone)
    edges = {hz for one in acting for hz in (one.acts_from_hz, one.acts_to_hz) if hz is not None}
    if not edges:
        return ducking.apply(x, _deepest_db(acting, x.size, rate, loop=loop))
    lows = [np.zeros(x.size), *_lows(x, acting, sorted(edges), rate, loop=loop), x]
    out = np.zeros(x.size)
    for (low, high), (from_hz, to_hz) in zip(
        pairwise(lows), pairwise([0.0, *sorted(edges), np.inf]), strict=True
    ):
        here = [
            one for one in acting
            if (one.acts_from_hz or 0.0) <= from_hz and (one.acts_to_hz or np.inf) >= to_hz
        ]  # fmt: skip
        piece = high - low
        out += ducking.apply(piece, _deepest_db(here, x.size, rate, loop=loop)) if here else piece
    return out


def _deepest_db(acting: list[Acting], frames: int, rate: int, *, loop: bool) -> Array:
    """The lowest gain of several at every frame, shape (frames,): one of them in memory at a time."""
    deepest = acting[0].gain_db(frames, rate, loop=loop)
    for one in acting[1:]:
        np.minimum(deepest, one.gain_db(frames, rate, loop=loop), out=deepest)
    return deepest


def _lows(x: Array, acting: list[Acting], edges: list[float], rate: int, *, loop: bool) -> list[Array]:
    """What of a loop lies below each of the edges."""
    spectrum = Around(x, rate, loop=loop)
    owners = {one.acts_from_hz: one for one in acting if one.edge is not None}
    out = []
    for hz in edges:
        owner = owners.get(hz)
        if owner is not None:
            alone = ducking.left_alone(x, owner.duck, owner.edge, rate, loop=loop)
            assert alone is not None
            out.append(alone)
        else:
            out.append(spectrum.under(lambda at, hz=hz: linkwitz_riley_gain(at, hz)[0]))  # type: ignore[misc]
    return out


def stand_in(brief: Brief, rate: int) -> Array:
    """A held fifth and third over every bar's root, shape (frames,): sawtooth partials that fall off,
    so that what a ducking does to a pad is heard before there is one.

    Parameters
    ----------
    brief, rate
        Key, tempo and chords; frames a second.

    Returns
    -------
    ndarray
        Shape (frames,).

    Examples
    --------
    >>> stand_in(Brief(bpm=120.0, chord_roots=("A",)), 48000).size
    96000
    """
    frames = loop_frames(brief, rate)
    edges = np.round(np.linspace(0, frames, brief.bars + 1)).astype(int)
    out = np.zeros(frames)
    time = np.arange(int(np.max(np.diff(edges)))) / rate

    @cache
    def chord(root: int) -> Array:
        """A bar over a root: bars over the same one are alike."""
        third = 4 if (root + 4) % 12 in brief.key.classes else 3
        held = np.zeros(time.size)
        for n, semitones in enumerate((0, third, 7)):
            hz = brief.a4_hz * 2 ** ((root + semitones - 69) / 12)
            for partial in range(1, _PAD_PARTIALS + 1):
                held += np.sin(2 * np.pi * partial * hz * time + n + partial) / partial**1.5
        return held

    for bar, (first, last) in enumerate(pairwise(edges)):
        into = time[: last - first]
        # A short fade at either end: bars join without a click.
        fade = np.minimum(1.0, np.minimum(into, into[::-1]) / 0.01)
        out[first:last] = chord(_PAD_LOWEST_MIDI + pitch_class(brief.root_of(bar)))[: last - first] * fade
    return out * 10 ** (_PAD_LEVEL_DB / 20) / max(float(np.max(np.abs(out))), 1e-9)


@dataclass(frozen=True)
class TargetHeard:
    """What all duckings of a part take of its loudness, and how far it goes up and down; None where it is
    not heard.
    """

    part: str
    taken_lu: float | None
    pumping_db: float | None


@dataclass(frozen=True)
class DuckingReport:
    """What a ducking does: its numbers, its gain every ms of a bar, and what becomes of its targets.

    `heard` is False where nothing starts it, or no target is heard; `rate_hz` is how often it starts,
    `gap_ms` the shortest time between two starts.
    """

    heard: bool
    duck: ducking.Duck | None
    gain_db: list[float]
    targets: list[TargetHeard]
    rate_hz: float
    gap_ms: float | None


def report(
    one: Ducking, starts: list[Start], state: TrackState, targets: dict[str, tuple[Heard, Heard] | None],
    bar: int,
) -> DuckingReport:  # fmt: skip
    """The report of one ducking; each target as it is heard before and under all of its duckings.

    Parameters
    ----------
    one
        The ducking.
    starts, state
        Since the loop’s start, with the share of the depth; the track.
    targets
        As each is heard before and under it.
    bar
        From 0.

    Returns
    -------
    DuckingReport
        Its numbers.

    Examples
    --------
    >>> from juglant.core.recipes.track import TrackState
    >>> state = TrackState()
    >>> one = state.duckings[0]
    >>> report(one, [], state, {}, 0).heard
    False
    """
    brief = state.brief
    bar_ms = 4 * beat_ms(brief.bpm)
    length = bar_ms * brief.bars
    curve = np.zeros(round(bar_ms))
    times = [start.at_ms for start in starts]
    if starts and one.on:
        gain = gain_db(one.duck, starts, round(length), 1000)
        first = round((bar % brief.bars) * bar_ms)
        curve = gain[first : first + curve.size]
    told = []
    for part, both in targets.items():
        pumps = pumping(*both) if both is not None and both[0].mean > 0 else None
        told.append(
            TargetHeard(part, pumps.taken_lu, pumps.depth_db) if pumps else TargetHeard(part, None, None)
        )
    return DuckingReport(
        bool(starts) and one.on and any(both is not None for both in targets.values()),
        ducking.measure_duck(one.duck, times, length, brief.bpm) if times else None,
        np.round(curve, 2).tolist(), told, len(times) / (length / 1000),
        min(gaps_ms(times, length)) if times else None,
    )  # fmt: skip


def of_part(state: TrackState, part: str) -> list[tuple[Ducking, float]]:
    """The duckings that are on and turn a part down, in their order, with the share that it gets.

    Parameters
    ----------
    state, part
        The track; id of the part.

    Returns
    -------
    list of tuple
        Ducking and share.

    Examples
    --------
    >>> from juglant.core.recipes.track import TrackState
    >>> [share for _, share in of_part(TrackState(), "bass")]
    [1.0]
    """
    return [
        (one, target.share)
        for one in state.duckings if one.on
        for target in one.targets if target.part == part and target.share > 0.0
    ]  # fmt: skip
