"""Every part of the loop, one pass of each."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from juglant.core import RATE
from juglant.core.errors import UserError
from juglant.core.hits.chain import each_channel
from juglant.core.hits.mixing import added
from juglant.core.hits.render import HitRenderer
from juglant.core.lowend import ducking, duckings, staging
from juglant.core.lowend.carving import carved
from juglant.core.lowend.duckings import Acting, Start
from juglant.core.lowend.filed import loop_of
from juglant.core.lowend.line import Stroke, line_of
from juglant.core.lowend.linenotes import as_loop, file_loop, line_notes
from juglant.core.lowend.loop import choked, place
from juglant.core.lowend.moves import AT_THE_END, AtStroke, Course, around, courses, moved_at, notes_of
from juglant.core.lowend.owner import edge_of, highest_of_notes
from juglant.core.lowend.played import played_line, stroke_at
from juglant.core.lowend.rumble import render_rumble
from juglant.core.lowend.sounds import Sounds
from juglant.core.measure.defects import Strokes
from juglant.core.measure.defects import strokes as strokes_in
from juglant.core.measure.loopsound import LoopSound
from juglant.core.measure.subedge import SubEdge
from juglant.core.process import filters
from juglant.core.recipes.brief import TIMED, Brief
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.ducking import Ducking
from juglant.core.recipes.fields import is_off
from juglant.core.recipes.fileloop import LOOPED
from juglant.core.recipes.hit import Hit
from juglant.core.recipes.moves import PLACE
from juglant.core.recipes.parts import (
    AnyPart,
    Chord,
    ImportedBass,
    MadeBass,
    Outputs,
    PlayedBass,
    RumbleBass,
    Stem,
    Sum,
    Voice,
)
from juglant.core.recipes.place import MONO, Place
from juglant.core.recipes.separate import Carve
from juglant.core.recipes.track import TrackState
from juglant.core.synth.bass import Played, loop_frames, render_bass

Array = NDArray[np.float64]

# What acts after the stages of a loop: without it, what comes out of them is seen.
_UNPLACED = {"gain_db": 0.0, "pan": 0.0, "mono_below_hz": 20.0}


class Parts:
    """Renders what a track's loop is made of."""

    key = "parts"

    def __init__(self, sounds: Sounds) -> None:
        self.sounds = sounds

    def bass_loop(self, state: TrackState) -> LoopSound:
        """One pass of all lines that are heard, together."""
        return self.together([self.line_loop(state, voice) for voice in state.heard], state)

    def together(self, loops: list[LoopSound], state: TrackState) -> LoopSound:
        """Several loops as one; silence where there are none."""
        if len(loops) == 1:
            return loops[0]
        return self.sounds.sound(_together, loops, loop_frames(state.brief, RATE))

    def line_loop(self, state: TrackState, voice: Voice) -> LoopSound:
        """One pass of a line under the brief's low cut, in its place."""
        return self._placed(self.bare_line(state, voice), voice, state)

    def bare_line(
        self, state: TrackState, voice: Voice, along: tuple[float, float] = AT_THE_END
    ) -> LoopSound:
        """A line before its stages and its place; a file is repeated or cut to fit. `along` says from how
        far to how far along the section this pass lies.
        """
        bass, brief = voice.bass, state.brief
        if isinstance(bass, ImportedBass):
            loop = self.sounds.sound(
                _file_line, self.sounds.hits, as_loop(bass), brief.only(*TIMED, "low_cut"),
                wide=voice.place.width > 0.0,
            )  # fmt: skip
        elif isinstance(bass, RumbleBass):
            loop = self.sounds.sound(_rumble, self.sounds, state.kick.sounding, bass, brief.only(*_TUNED))
        else:
            given = notes_of(voice, brief, along)
            if isinstance(bass, MadeBass):
                loop = self.sounds.sound(_made_line, bass, given, brief.only("a4_hz", *TIMED, "low_cut"))
            else:
                loop = self.sounds.sound(_played_line, self.sounds, bass, given, brief.only(*_TUNED))
        loop = self._choked(loop, state, voice.id)
        return self._carved(loop, state.separate.bass, state, line_of(state).starts(voice.id))

    def edge(self, state: TrackState) -> SubEdge | None:
        """Where the sub of its owner ends; None where the owner has no pitch."""
        return edge_of(self.sounds, state)

    def bass_edge(self, state: TrackState) -> SubEdge | None:
        """The edge over which a bass that owns the sub is ducked, one for every note; None where the kick
        owns it. UserError where the bass has no pitch.
        """
        if state.brief.sub_owner == "kick":
            return None
        edge = self.edge(state)
        if edge is None:
            raise UserError(
                "The bass owns the sub, and no note of it could be measured: choose what the ducking turns "
                "down, everything or above a frequency of your own.", "band",
            )  # fmt: skip
        return highest_of_notes(edge, [at for one in line_of(state).notes_ms.values() for at in one])

    def _carved(
        self, loop: LoopSound, carve: Carve, state: TrackState, starts_ms: list[float]
    ) -> LoopSound:
        """A part of the loop under what it gives up to the other."""
        if carve == type(carve)():
            return loop
        return self.sounds.sound(_carved, loop, carve, state.brief.only("tonic", "a4_hz"), starts_ms)

    def _choked(self, loop: LoopSound, state: TrackState, part: str) -> LoopSound:
        """A part of the loop without what others of its choke group cut off."""
        played = line_of(state)
        own, others = played.starts(part), played.against(part)
        if not others:
            return loop
        return self.sounds.sound(_choked, loop, own, others)

    def _placed(self, loop: LoopSound, part: AnyPart, state: TrackState) -> LoopSound:
        """A part of the loop through its stages and in its place."""
        where = part.place
        loop = self._turned(loop, part)
        loop = self._through(loop, part, part.stages, state)
        neutral = where.model_copy(update={"delay_ms": 0.0, "polarity": "normal"})
        found = courses(part, PLACE, where, state.brief)
        # A line that is heard in mono is mono from the start, unless a stage makes it wide.
        mono = isinstance(part, Voice) and where == MONO and not part.stages
        if (mono or neutral == type(where)()) and not found:
            return loop
        return self.sounds.sound(_put, loop, neutral, found)

    def _turned(self, loop: LoopSound, part: AnyPart) -> LoopSound:
        where = part.place
        if is_off(where, "delay_ms") and where.polarity == "normal":
            return loop
        return self.sounds.sound(_turned, loop, where.only("delay_ms", "polarity"))

    def _through(
        self, loop: LoopSound, part: AnyPart, stages: tuple[Any, ...], state: TrackState
    ) -> LoopSound:
        """A loop through stages of a part, one after another, each kept by itself."""
        for stage in stages:
            if not stage.bypass:
                loop = self._staged(loop, part, stage, state.brief)
        return loop

    def stages(self, state: TrackState, id: str, *, behind: bool = False) -> list[LoopSound]:
        """What goes into the stages of a part's loop, or of those behind its duckings, and what comes out
        of each in turn. UserError where the part is not played.
        """
        part, loop = state.part(id), None
        if part is not None:
            # Its width acts behind the stages; a line's says whether it is rendered wide at all.
            width = part.place.width if isinstance(part, Voice) else 1.0
            unplaced = part.place.model_copy(update={**_UNPLACED, "width": width})
            still = tuple(move for move in part.moves if move.of != PLACE)
            bare = {"mute": False} if behind else {
                "mute": False, "stages": (), "place": unplaced, "moves": still,
            }  # fmt: skip
            loop = self.part(state.with_part(part.model_copy(update=bare)), id)
        if part is None or loop is None:
            raise UserError("This part is not played: its stages have nothing to work on.", "part")
        found = [self.turned_down(state, loop, self.acting(state, id)) if behind else loop]
        for stage in part.after if behind else part.stages:
            found.append(found[-1] if stage.bypass else self._staged(found[-1], part, stage, state.brief))
        return found

    def _staged(self, loop: LoopSound, part: AnyPart, stage: Any, brief: Brief) -> LoopSound:
        found = courses(part, stage.id, stage, brief)
        return self.sounds.sound(_staged, loop, stage, brief.bpm, found)

    def kick_loop(self, state: TrackState) -> LoopSound:
        """One pass of the kick track."""
        kick = self.hit_loop(state, state.kick)
        assert kick is not None
        return kick

    def hit_loop(self, state: TrackState, hit: Hit) -> LoopSound | None:
        """One pass of a hit in its place; None where it is not played."""
        brief, frames = state.brief, loop_frames(state.brief, RATE)
        strokes = line_of(state).strokes.get(hit.id, [])
        if not strokes:
            return None
        moves = [moved_at(hit, brief, stroke.at_ms) for stroke in strokes]
        hits = self.sounds.hits
        loop = self.sounds.sound(_hit_loop, hits, hit.sounding, strokes, moves, brief.bpm, frames)
        loop = self._choked(loop, state, hit.id)
        if hit.id == state.kick.id:
            starts = [stroke.at_ms for stroke in strokes]
            loop = self._carved(loop, state.separate.kick, state, starts)
        return self._placed(loop, hit, state)

    def chord_loop(self, state: TrackState, chord: Chord) -> LoopSound:
        """One pass of a held chord, in its place."""
        return self._placed(self.bare(state, chord), chord, state)

    def bare(
        self, state: TrackState, part: Voice | Stem | Chord, along: tuple[float, float] = AT_THE_END
    ) -> LoopSound:
        """One pass of what is not struck, before its stages and its place; `along` as in `bare_line`."""
        if isinstance(part, Voice):
            return self.bare_line(state, part, along)
        if isinstance(part, Stem):
            timed = TIMED if part.swing == "the track’s" else TIMED[:2]
            return self.sounds.sound(_stem, self.sounds.hits, part.only(*LOOPED), state.brief.only(*timed))
        return self.sounds.sound(duckings.stand_in, state.brief.only(*_CHORDS), RATE)

    def stem_loop(self, state: TrackState, stem: Stem) -> LoopSound:
        """One pass of a stem in its place, repeated or cut to fit."""
        return self._placed(self.bare(state, stem), stem, state)

    def outputs_loop(self, state: TrackState, outputs: Outputs) -> LoopSound | None:
        """One pass of outputs of other parts, in their place; None where none of them is heard."""
        taken = []
        for one in outputs.sources:
            loop = self.unmuted(state, one.of) if one.taken == "dry" else self.part(state, one.of)
            if loop is not None:
                source = state.part(one.of)
                if one.taken != "dry" and source is not None:
                    loop = self.ducked(state, loop, source)
                taken.append((loop, one.gain_db))
        if not taken:
            return None
        return self._placed(self.sounds.sound(_added, taken), outputs, state)

    def sum_loop(self, state: TrackState, *, ducked: bool = True) -> LoopSound:
        """One pass of everything that is heard, together in the place of the sum."""
        loops = []
        for part in state.parts:
            loop = None if part.id in state.grouped else self.part(state, part.id)
            if loop is not None:
                loops.append(self.ducked(state, loop, part) if ducked else loop)
        return self._placed(self.together(loops, state), state.sum, state)

    def part(self, state: TrackState, id: str) -> LoopSound | None:
        """A part of the loop by its id, before any ducking; None where it is not heard."""
        part = state.part(id)
        if part is None or part.mute:
            return None
        if isinstance(part, Hit):
            return self.hit_loop(state, part)
        if isinstance(part, Chord):
            return self.chord_loop(state, part)
        if isinstance(part, Outputs):
            return self.outputs_loop(state, part)
        if isinstance(part, Sum):
            return self.sum_loop(state)
        return self.line_loop(state, part) if isinstance(part, Voice) else self.stem_loop(state, part)

    def unmuted(self, state: TrackState, id: str) -> LoopSound | None:
        """A part as it sounds, or would if it were not muted."""
        part = state.part(id)
        if part is None or not part.mute:
            return self.part(state, id)
        return self.part(state.with_part(part.model_copy(update={"mute": False})), id)

    def strokes(self, state: TrackState, id: str) -> list[Stroke]:
        """When and how hard a part is struck, muted or not: as written, or as heard in its file."""
        part = state.part(id)
        if isinstance(part, Outputs):
            return sorted(stroke for one in part.sources for stroke in self.strokes(state, one.of))
        written = duckings.written_strokes(state, id)
        if written is not None:
            return written
        if isinstance(part, Voice) and (found := line_notes(self.sounds, state, part)):
            return [Stroke(note.start_ms, note.velocity) for note in found]
        loop = self.unmuted(state, id)
        if loop is None:
            return []
        heard = self.sounds.once(_strokes_heard, loop)
        return [Stroke(at, 10 ** (db / 40)) for at, db in zip(heard.at_ms, heard.levels_db, strict=True)]

    def starts(self, state: TrackState, one: Ducking) -> list[Start]:
        """When a ducking starts in one pass of the loop."""
        struck = [stroke for id in one.triggers for stroke in self.strokes(state, id)]
        return duckings.starts_of(one, struck + duckings.note_values(one, state))

    def acting(self, state: TrackState, id: str) -> list[Acting]:
        """What turns a part down."""
        is_line = any(voice.id == id for voice in state.voices)
        found = []
        for one, share in duckings.of_part(state, id):
            if is_off(one.duck, "depth_db"):
                continue
            edge = self.bass_edge(state) if is_line and one.duck.band == "by owner" else None
            if starts := self.starts(state, one):
                found.append(Acting(one.duck, tuple(starts), share, edge))
        return found

    def ducked(self, state: TrackState, loop: LoopSound, part: AnyPart) -> LoopSound:
        """A part of the loop under its duckings, and through what comes behind them."""
        down = self.turned_down(state, loop, self.acting(state, part.id))
        return self._through(down, part, part.after, state)

    def turned_down(self, state: TrackState, loop: LoopSound, acting: list[Acting]) -> LoopSound:
        """A loop under all that acts on it."""
        return self.sounds.sound(_turned_down, self.sounds, loop, acting) if acting else loop


# What of a brief decides which chords are held, and what a played line or a rumble is tuned and timed by.
_CHORDS = ("bpm", "chord_roots", "tonic", "mode", "a4_hz")
_TUNED = (*_CHORDS, "swing_percent", "low_cut")


def _together(loops: list[LoopSound], frames: int) -> Array:
    return added(loop.samples for loop in loops) if loops else np.zeros(frames)


def _added(taken: list[tuple[LoopSound, float]]) -> Array:
    return added(loop.samples * 10 ** (gain_db / 20) for loop, gain_db in taken)


def _cut_low(x: Array, brief: Brief) -> Array:
    """A line under the track's low cut."""
    cut = filters.low_cut(brief.low_cut, RATE)
    return each_channel(x, lambda channel: filters.around_loop(channel, cut))


def _made_line(bass: MadeBass, given: list[Played], brief: Brief) -> Array:
    return _cut_low(render_bass(bass.recipe, brief, RATE, given), brief)


def _played_line(sounds: Sounds, bass: PlayedBass, given: list[Played], brief: Brief) -> Array:
    hz = sounds.pitch_hz(bass.hit, brief)
    return _cut_low(played_line(sounds.hits, bass, hz, brief, given), brief)


def _rumble(sounds: Sounds, kick: Hit, bass: RumbleBass, brief: Brief) -> Array:
    hz = sounds.measured_hit(kick, brief).hit.fundamental_hz
    return _cut_low(render_rumble(sounds.kick(kick, brief.bpm), hz, bass, brief, RATE), brief)


def _file_line(hits: HitRenderer, bass: ImportedBass, brief: Brief, *, wide: bool) -> Array:
    return _cut_low(file_loop(hits, bass, brief, wide=wide), brief)


def _stem(hits: HitRenderer, stem: Stem, brief: Brief) -> Array:
    return loop_of(hits.file(stem.audio, stem.tops), stem, brief, RATE)


def _hit_loop(
    hits: HitRenderer, hit: Hit, strokes: list[Stroke], moves: list[AtStroke], bpm: float, frames: int
) -> Array:
    struck = [
        (stroke.at_ms, stroke_at(hits, own.of(hit), own.semitones, bpm, stroke.velocity, turn))
        for turn, (stroke, own) in enumerate(zip(strokes, moves, strict=True))
    ]
    return place(struck, frames, RATE, loop=True)


def _carved(loop: LoopSound, carve: Carve, brief: Brief, starts_ms: list[float]) -> Array:
    return each_channel(loop.samples, lambda x: carved(x, carve, brief, starts_ms, RATE))


def _choked(loop: LoopSound, own_ms: list[float], others_ms: list[float]) -> Array:
    return choked(loop.samples, own_ms, others_ms, RATE)


def _turned(loop: LoopSound, where: Place) -> Array:
    return staging.turned(loop.samples, where, RATE)


def _put(loop: LoopSound, where: Place, moved: dict[str, Course]) -> Array:
    return staging.put(loop.samples, where, RATE, around(moved))


def _staged(loop: LoopSound, stage: Any, bpm: float, moved: dict[str, Course]) -> Array:
    return staging.through_stage(loop.samples, stage, RATE, bpm, moved)


def _strokes_heard(loop: LoopSound) -> Strokes:
    return strokes_in(loop.mono, RATE)


def _turned_down(sounds: Sounds, loop: LoopSound, acting: list[Acting]) -> Array:
    x = loop.samples
    if len(acting) > 1 or x.ndim > 1:
        return each_channel(x, lambda channel: duckings.under(channel, acting, RATE))
    # The part that is left alone is costly, and stays while the curve changes.
    one = acting[0]
    alone = sounds.once(_left_alone, loop, one.duck.only("band", "edge_hz"), one.edge)
    return ducking.under(x, one.gain_db(x.size, RATE), alone)


def _left_alone(loop: LoopSound, duck: DuckRecipe, edge: SubEdge | None) -> Array | None:
    """What a ducking leaves of a loop, whatever its curve."""
    return ducking.left_alone(loop.samples, duck, edge, RATE)
