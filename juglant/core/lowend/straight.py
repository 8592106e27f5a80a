"""The arrangement played straight through, once per part, in blocks: tails, voices, chokes, duckings and
what stages remember go on across the borders of its sections. Long sounds lie on disk, so that memory is
bounded.
"""

import os
import tempfile
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, replace
from functools import partial
from itertools import groupby
from typing import Any

import numpy as np
from numpy.typing import NDArray

from juglant.core import RATE
from juglant.core.errors import UserError
from juglant.core.hits.chain import each_channel, heard_peak
from juglant.core.hits.moving import Moved, through_moved
from juglant.core.lowend import duckings, staging
from juglant.core.lowend.carving import carved
from juglant.core.lowend.moves import AT_THE_END, Course, bends, courses
from juglant.core.lowend.passages import Passage, Struck, acting_in, moving_through, passages, tiled
from juglant.core.lowend.session import Session
from juglant.core.measure.loopsound import LoopSound
from juglant.core.recipes.hit import Hit
from juglant.core.recipes.moves import PLACE
from juglant.core.recipes.parts import AnyPart, Outputs, Sum
from juglant.core.recipes.sections import Track
from juglant.core.recipes.track import TrackState

Array = NDArray[np.float64]
Read = Callable[[int, int], Array]

BLOCK_S = 16.0
# What is left after the last bar may ring so long.
TAIL_S = 8.0
# What a stage remembers, and what it foresees; what its filters still ring at the end of a block.
_BEFORE_S, _AFTER_S, _RING_S = 4.0, 0.5, 0.25
_SILENT = 10 ** (-90 / 20)


class Tape:
    """A long sound on disk, in single precision, written and read by stretches; silent where nothing was
    written.
    """

    def __init__(self, folder: str, frames: int, channels: int) -> None:
        self.frames, self.channels = frames, channels
        number, self._path = tempfile.mkstemp(dir=folder)
        self._file = os.fdopen(number, "r+b", buffering=0)
        self._file.truncate(frames * channels * 4)

    def read(self, first: int, end: int) -> Array:
        """A stretch, shape (frames,) or (frames, 2), which may lie beyond either end."""
        a, b = (min(max(at, 0), self.frames) for at in (first, end))
        out = np.zeros((max(end - first, 0), self.channels))
        if a < b:
            self._file.seek(4 * self.channels * a)
            data = np.frombuffer(self._file.read(4 * self.channels * (b - a)), "<f4")
            out[a - first : b - first] = data.reshape(-1, self.channels)
        return out if self.channels == 2 else out[:, 0]

    def add(self, first: int, x: Array) -> None:
        """Lay samples over what is there; what lies beyond the ends is left out."""
        x = x[max(-first, 0) : max(self.frames - first, 0)]
        first = max(first, 0)
        if not x.shape[0]:
            return
        if x.ndim == 1 and self.channels == 2:
            x = np.repeat(x[:, None], 2, axis=1)
        total = (self.read(first, first + x.shape[0]) + x).astype("<f4")
        self._file.seek(4 * self.channels * first)
        self._file.write(total.tobytes())

    def close(self) -> None:
        """Give the disk back."""
        self._file.close()
        os.unlink(self._path)


def blocks(first: int, end: int) -> list[tuple[int, int]]:
    """A stretch cut into blocks.

    Parameters
    ----------
    first
        First frame.
    end
        Frame behind the last.

    Returns
    -------
    list of tuple of int
        First frame and the one behind the last.

    Examples
    --------
    >>> blocks(0, 100)
    [(0, 100)]
    """
    step = round(BLOCK_S * RATE)
    return [(at, min(at + step, end)) for at in range(first, end, step)]


@dataclass(frozen=True)
class _Run:
    """Passages in which something about a part is the same, and the part as it is there."""

    first: int
    end: int
    part: AnyPart
    passages: list[Passage]


class Straight:
    """Plays an arrangement through; `folder` takes what is on disk meanwhile, and is the caller's."""

    def __init__(self, session: Session, track: Track, folder: str) -> None:
        self._session, self._folder = session, folder
        self.passages = passages(track)
        self.frames = self.passages[-1].end
        self._whole = self.frames + round(TAIL_S * RATE)
        self._tapes: dict[tuple[str, str], Tape] = {}

    @property
    def state(self) -> TrackState:
        """The state of the first passage: names and which parts there are hold for all."""
        return self.passages[0].state

    def stems(self) -> list[str]:
        """The parts that are heard by themselves, by their ids."""

        def alone(id: str, state: TrackState) -> bool:
            part = state.part(id)
            return part is not None and not part.mute and id not in state.grouped

        states = [passage.state for passage in self.passages]
        return [part.id for part in self.state.parts if any(alone(part.id, state) for state in states)]

    def heard(self, id: str) -> Tape:
        """A part under its duckings and through what comes behind them."""
        if ("heard", id) not in self._tapes:
            dry = self.dry(id, unmuted=False)
            ducked = self._ducked(id, dry)
            self._tapes["heard", id] = self._staged(id, ducked.read, "after", ducked.channels)
            if ducked is not dry:
                ducked.close()
        return self._tapes["heard", id]

    def dry(self, id: str, *, unmuted: bool) -> Tape:
        """A part in its place before its duckings; muted passages are silent unless it is `unmuted`."""
        parts = self._parts(id)
        name = "dry" if unmuted and any(part.mute for part in parts) else "open"
        if (name, id) not in self._tapes:
            read, wide = self._source(id, unmuted)
            turned = self._turned(id, read, wide)
            staged = self._staged(id, turned.read, "stages", wide)
            self._tapes[name, id] = self._put(id, staged)
            turned.close()
            staged.close()
        return self._tapes[name, id]

    def _parts(self, id: str) -> list[AnyPart]:
        found = [passage.state.part(id) for passage in self.passages]
        return [part for part in found if part is not None]

    def _source(self, id: str, unmuted: bool) -> tuple[Read, int]:
        """What a part plays, before anything is done to it, and how many channels it has."""
        part = self._parts(id)[0]
        if isinstance(part, Hit):
            return self._struck(id, unmuted)
        if isinstance(part, Outputs):
            return self._outputs(id, unmuted)
        if isinstance(part, Sum):
            return self._together()
        loops = [
            (one, self._session.parts.bare(passage.state, own, along), unmuted or not own.mute)  # type: ignore[arg-type]
            for passage, own in zip(self.passages, self._parts(id), strict=True)
            for one, along in (passage.passes() if bends(own) else [(passage, AT_THE_END)])
        ]
        wide = max(loop.given.ndim for _, loop, _ in loops)

        def read(first: int, end: int) -> Array:
            out = np.zeros((end - first, 2) if wide == 2 else end - first)
            for passage, loop, sounds in loops:
                if sounds and passage.inside(first, end):
                    x = tiled(passage, loop, first, end)
                    out += x[:, None] if wide == 2 and x.ndim == 1 else x
            return out

        return read, wide

    def _struck(self, id: str, unmuted: bool) -> tuple[Read, int]:
        struck = Struck(self._session.sounds, self.passages, id, unmuted=unmuted)
        state, wide = self.state, struck.channels
        carve = state.separate.kick
        if id != state.kick.id or carve == type(carve)():
            return struck.read, wide

        def read(first: int, end: int) -> Array:
            margin = round(_AFTER_S * RATE)
            x = struck.read(first - margin, end + margin)
            at_ms = (first - margin) / RATE * 1000
            starts = [at - at_ms for at in struck.starts_ms if 0 <= at - at_ms < x.shape[0] / RATE * 1000]
            y = each_channel(x, lambda channel: carved(channel, carve, state.brief, starts, RATE))
            return y[margin : margin + end - first]

        return read, wide

    def _outputs(self, id: str, unmuted: bool) -> tuple[Read, int]:
        taken: list[tuple[Passage, list[tuple[Tape, float]]]] = []
        for passage in self.passages:
            part = passage.state.part(id)
            assert isinstance(part, Outputs)
            if part.mute and not unmuted:
                continue
            sources = []
            for one in part.sources:
                tape = self.dry(one.of, unmuted=True) if one.taken == "dry" else self.heard(one.of)
                sources.append((tape, 10 ** (one.gain_db / 20)))
            taken.append((passage, sources))
        return self._added(taken)

    def _together(self) -> tuple[Read, int]:
        """Everything that is heard by itself."""
        tapes = [(self.heard(id), 1.0) for id in self.stems()]
        return self._added([(passage, tapes) for passage in self.passages])

    def _added(self, taken: list[tuple[Passage, list[tuple[Tape, float]]]]) -> tuple[Read, int]:
        """Tapes added with a gain each, by the passages in which they are."""
        wide = max((tape.channels for _, sources in taken for tape, _ in sources), default=1)

        def read(first: int, end: int) -> Array:
            out = np.zeros((end - first, 2) if wide == 2 else end - first)
            for passage, sources in taken:
                # What still rings after the last bar is heard through the last passage.
                last = self._whole if passage is self.passages[-1] else passage.end
                a, b = max(first, passage.first), min(end, last)
                for tape, gain in sources if a < b else []:
                    x = gain * tape.read(a, b)
                    out[a - first : b - first] += x[:, None] if wide == 2 and x.ndim == 1 else x
            return out

        return read, wide

    def _runs(self, id: str, decides: Callable[[AnyPart], Any]) -> list[_Run]:
        """Stretches of passages in which something about a part is the same; the last one takes what rings
        on after the last bar.
        """
        found = []
        pairs = zip(self.passages, self._parts(id), strict=True)
        for _, group in groupby(pairs, key=lambda pair: decides(pair[1])):
            members = list(group)
            played = [passage for passage, _ in members]
            found.append(_Run(played[0].first, played[-1].end, members[0][1], played))
        return [*found[:-1], replace(found[-1], end=self._whole)]

    def _tape(self, channels: int) -> Tape:
        return Tape(self._folder, self._whole, channels)

    def _turned(self, id: str, read: Read, wide: int) -> Tape:
        """A part under what acts first of its place."""
        out, margin = self._tape(wide), round(_AFTER_S * RATE)
        for run in self._runs(id, lambda part: (part.place.delay_ms, part.place.polarity)):
            for a, b in blocks(run.first, run.end):
                x = staging.turned(read(a - margin, b + margin), run.part.place, RATE)
                out.add(a, x[margin : margin + b - a])
        return out

    def _put(self, id: str, tape: Tape) -> Tape:
        """A part under the rest of its place."""
        loops = [self._session.parts.unmuted(passage.state, id) for passage in self.passages]
        out = self._tape(max((loop.given.ndim for loop in loops if loop is not None), default=1))
        for run in self._runs(id, lambda part: (part.place, [m for m in part.moves if m.of == PLACE])):
            known = self._known(id, run, "stages")
            found = courses(run.part, PLACE, run.part.place, self.state.brief)
            put = partial(staging.put, place=run.part.place, rate=RATE)
            for a, b in blocks(run.first, run.end):
                out.add(a, _between(tape, known[-1] if known else None, put, a, b, run.passages, found))
        return out

    def _known(self, id: str, run: _Run, which: str) -> list[LoopSound]:
        """What goes into each stage of a part in the loop, and what comes out of the last one, by the first
        section of a run in which it is played; none where it is played in none.
        """
        for passage in run.passages:
            with suppress(UserError):
                found = self._session.parts.stages(passage.state, id, behind=which == "after")
                off = [stage.bypass for stage in getattr(passage.state.part(id), which)]
                return [loop for loop, out in zip(found, [*off, False], strict=True) if not out]
        return []

    def _staged(self, id: str, read: Read, which: str, wide: int) -> Tape:
        """A part through its stages, of which a run begins anew where they differ."""

        def decides(part: AnyPart) -> Any:
            stages = [stage for stage in getattr(part, which) if not stage.bypass]
            return stages, [move for move in part.moves if move.of in {stage.id for stage in stages}]

        runs = self._runs(id, decides)
        made = [(run.first, self._run(id, run, read, which, wide)) for run in runs]
        if len(made) == 1:
            return made[0][1]
        out = self._tape(max(tape.channels for _, tape in made))
        for first, tape in made:
            for a, b in _sounding(tape, first):
                out.add(a, tape.read(a, b))
            tape.close()
        return out

    def _run(self, id: str, run: _Run, read: Read, which: str, wide: int) -> Tape:
        """One run through its stages; what rings past its end is kept."""
        stages = [stage for stage in getattr(run.part, which) if not stage.bypass]
        known = self._known(id, run, which) if stages else []
        tape = self._tape(wide)
        for a, b in blocks(run.first, run.end):
            tape.add(a, read(a, b))
        brief = run.passages[0].state.brief
        for n, stage in enumerate(stages):
            loop, narrow, through = known[n] if known else None, True, self._tape(2)
            found = courses(run.part, stage.id, stage, brief)
            for a, b in _sounding(tape, run.first):
                if stage.stage in staging.RINGING:
                    x = tape.read(a, b)
                    x = np.concatenate([x, np.zeros((round(_RING_S * RATE), *x.shape[1:]))])
                    moved = _moved(found, run.passages, 0, a)
                    y = through_moved(x, stage, moved, RATE, brief.bpm)
                else:
                    whole = None if loop is None else loop.given.shape[0]
                    through_it = partial(through_moved, stage=stage, rate=RATE, bpm=brief.bpm, whole=whole)
                    y = _between(tape, loop, through_it, a, b, run.passages, found)
                narrow = narrow and y.ndim == 1
                through.add(a, y)
            tape.close()
            tape = _narrowed(through, self._tape(1)) if narrow else through
        return tape

    def _ducked(self, id: str, dry: Tape) -> Tape:
        """A part under all that turns it down in any passage."""
        acts = [self._session.parts.acting(passage.state, id) for passage in self.passages]
        if not any(acts):
            return dry
        out = self._tape(dry.channels)
        margin = round(_AFTER_S * RATE)
        for a, b in blocks(0, self._whole):
            x = dry.read(a - margin, b + margin)
            acting = acting_in(self.passages, acts, a - margin, b + margin)
            under = partial(duckings.under, acting=acting, rate=RATE, loop=False)
            out.add(a, each_channel(x, under)[margin : margin + b - a])
        return out

    def gain_db(self, ducking: str, first: int, end: int) -> Array:
        """The gain of one ducking in a stretch, as it is handed over."""
        acts = []
        for passage in self.passages:
            one = passage.state.ducking_of(ducking)
            starts = [] if one is None or not one.on else self._session.parts.starts(passage.state, one)
            acts.append([duckings.Acting(one.duck, tuple(starts), 1.0, None)] if one and starts else [])
        found = acting_in(self.passages, acts, first, end)
        gains = [one.gain_db(end - first, RATE, loop=False) for one in found]
        return np.minimum.reduce(gains) if gains else np.zeros(end - first)

    def sounding_frames(self, tapes: list[Tape]) -> int:
        """How long the arrangement is with what rings after its last bar."""
        last = self.frames
        for tape in tapes:
            x = tape.read(self.frames, self._whole)
            loud = np.flatnonzero(heard_peak(x) > _SILENT)
            last = max(last, self.frames + int(loud[-1]) + 1 if loud.size else 0)
        return last

    def close(self) -> None:
        """Give the disk back."""
        for tape in set(self._tapes.values()):
            tape.close()


def _sounding(tape: Tape, first: int) -> list[tuple[int, int]]:
    """The blocks of a tape from a frame on while there is anything in it, and one for filters to ring."""
    every = blocks(first, tape.frames)
    sounds = [tape.read(a, b).any() for a, b in every]
    return every[: max((n + 2 for n, one in enumerate(sounds) if one), default=0)]


def _moved(found: dict[str, Course], played: list[Passage], loop: int, first: int) -> Moved:
    return {name: moving_through(course, played, loop, first) for name, course in found.items()}


def _between(
    tape: Tape, loop: LoopSound | None, process: Callable[..., Array], first: int, end: int,
    played: list[Passage], found: dict[str, Course],
) -> Array:  # fmt: skip
    """A stretch through a stage, with what it remembers and foresees. The loop itself goes first: what a
    stage takes of the whole (a peak, a loudness) is what it takes there. Courses move over both.
    """
    before, after = round(_BEFORE_S * RATE), round(_AFTER_S * RATE)
    x = tape.read(first - before, end + after)
    known = np.zeros((0, *x.shape[1:])) if loop is None else loop.samples
    if x.ndim != known.ndim:
        x, known = (one if one.ndim == 2 else np.repeat(one[:, None], 2, axis=1) for one in (x, known))
    at = known.shape[0] + before
    moved = _moved(found, played, known.shape[0], first - before)
    return process(np.concatenate([known, x]), moved=moved)[at : at + end - first]


def _narrowed(tape: Tape, out: Tape) -> Tape:
    """What was written wide and is not, on one channel."""
    for a, b in blocks(0, tape.frames):
        out.add(a, tape.read(a, b)[:, 0])
    tape.close()
    return out
