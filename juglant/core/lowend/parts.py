"""Every part of the loop, one pass of each."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from juglant.core import RATE
from juglant.core.errors import UserError
from juglant.core.lowend import buses
from juglant.core.lowend.carving import carved
from juglant.core.lowend.line import Line, line_of
from juglant.core.lowend.linenotes import file_loop
from juglant.core.lowend.loop import choked, fitted_loop, place
from juglant.core.lowend.owner import edge_of, highest_of_notes
from juglant.core.lowend.part import low_end
from juglant.core.lowend.played import follows, played_line, stroke_at
from juglant.core.lowend.rumble import render_rumble
from juglant.core.lowend.sounds import Sounds
from juglant.core.measure.loopsound import LoopSound
from juglant.core.measure.owner import SubEdge
from juglant.core.measure.stereo import listening_channel
from juglant.core.process import filters
from juglant.core.recipes.bus import STAND_IN
from juglant.core.recipes.separate import Carve
from juglant.core.recipes.track import MadeBass, PlayedBass, RumbleBass, Stem, TrackState, Voice
from juglant.core.synth.bass import loop_frames, render_bass

Array = NDArray[np.float64]


class Parts(Sounds):
    """Renders what a track's loop is made of."""

    def bass_loop(self, state: TrackState) -> LoopSound:
        """One pass of all lines that are heard, together."""
        heard = state.heard
        loops = [self.line_loop(state, voice) for voice in heard]
        if len(loops) == 1:
            return loops[0]

        def together() -> LoopSound:
            return LoopSound(
                sum((loop.samples for loop in loops), np.zeros(loop_frames(state.brief, RATE)))
            )

        return self.once(together, "lines", low_end(state))

    def _under(self, state: TrackState, name: str, loop: LoopSound) -> LoopSound:
        """A part under the buses that turn it down."""
        wanted = buses.buses_of(state, name)
        if not wanted:
            return loop
        return LoopSound(buses.under(loop.samples, wanted, state, RATE, self.bus_edge(state, name)))

    def bus_edge(self, state: TrackState, name: str) -> SubEdge | None:
        """The edge that the other duckings of a line spare, where the bass owns the sub."""
        is_line = any(voice.name == name for voice in state.voices)
        return self.bass_edge(state) if is_line and buses.spares_owner(state, name) else None

    def line_loop(self, state: TrackState, voice: Voice) -> LoopSound:
        """One pass of a line under the brief's low cut; a file is repeated or cut to fit."""
        bass, brief = voice.bass, state.brief

        def render() -> LoopSound:
            if isinstance(bass, MadeBass):
                samples = render_bass(bass.recipe, brief, RATE)
            elif isinstance(bass, PlayedBass):
                samples = played_line(self.hits, bass, self.pitch_hz(bass.hit, brief), brief)
            elif isinstance(bass, RumbleBass):
                hz = self.measured_hit(state.kick, brief).hit.fundamental_hz
                samples = render_rumble(self.kick(state.kick, brief.bpm), hz, bass, brief, RATE)
            else:
                samples = file_loop(self, bass, brief)
            return LoopSound(filters.around_loop(samples, filters.low_cut(brief.low_cut, RATE)))

        roots = list(brief.roots)
        decided_by: tuple[Any, ...] = (brief.bpm, brief.swing_percent, brief.a4_hz, brief.low_cut, roots)
        if isinstance(bass, RumbleBass):
            decided_by = (*decided_by, state.kick.sounding, brief.tonic)
        whole = self.once(render, "bass", bass, *decided_by)
        played = self.line_of(state)
        own = played.starts(voice.name)
        if voice.line is not None and voice.line.choke != "none":
            others = played.against(voice.name, voice.line.choke)
            whole = self._choked(whole, own, others, "bass", bass, *decided_by)
            decided_by = (*decided_by, others)
        return self._carved(whole, state.separate.bass, state, own, "bass", bass, *decided_by)

    def edge(self, state: TrackState) -> SubEdge | None:
        """Where the sub of its owner ends; None where the owner has no pitch."""
        return edge_of(self, state)

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
        return highest_of_notes(edge, [at for one in self.line_of(state).notes_ms.values() for at in one])

    def _carved(
        self, loop: LoopSound, carve: Carve, state: TrackState, starts_ms: list[float], *decided_by: Any
    ) -> LoopSound:
        """A part of the loop under what it gives up to the other."""
        if carve == type(carve)():
            return loop
        return self.once(
            lambda: LoopSound(carved(loop.samples, carve, state.brief, starts_ms, RATE)),
            "carved", carve, state.brief.tonic, starts_ms, *decided_by,
        )  # fmt: skip

    def _choked(
        self, loop: LoopSound, own: list[float], others: list[float], *decided_by: Any
    ) -> LoopSound:
        """A part of the loop without what others of its choke group cut off."""
        if not others:
            return loop
        return self.once(
            lambda: LoopSound(choked(loop.samples, own, others, RATE)), "choked", *decided_by, own, others
        )

    def line_of(self, state: TrackState) -> Line:
        """When everything in the loop is played."""
        brief = state.brief
        return line_of(state, loop_frames(brief, RATE) / RATE * 1000)

    def kick_loop(self, state: TrackState) -> LoopSound:
        """One pass of the kick track."""
        brief, kick = state.brief, state.kick
        frames = loop_frames(brief, RATE)
        played = self.line_of(state)
        moves = [follows(kick, brief, at) for at in played.kick_ms]

        def render() -> LoopSound:
            struck = [
                (at, listening_channel(stroke_at(self.hits, kick, moved, brief.bpm)))
                for at, moved in zip(played.kick_ms, moves, strict=True)
            ]
            return LoopSound(place(struck, frames, RATE, loop=True))

        decided_by = (
            "kick loop",
            kick.sounding,
            moves,
            brief.bpm,
            brief.swing_percent,
            brief.kick_beats,
            brief.bars,
        )
        whole = self.once(render, *decided_by)
        others = played.against(0, kick.choke)
        whole = self._choked(whole, played.kick_ms, others, *decided_by)
        carve = state.separate.kick
        return self._carved(whole, carve, state, played.kick_ms, *decided_by, others, brief.a4_hz)

    def hit_loop(self, state: TrackState, index: int) -> LoopSound | None:
        """One pass of a hit beside the kick, as wide as it is; None where it is not played."""
        brief, hit = state.brief, state.hits[index - 1]
        frames = loop_frames(brief, RATE)
        played = self.line_of(state)
        strokes = played.strokes.get(index, [])
        if hit.mute or not strokes:
            return None
        moves = [follows(hit, brief, stroke.at_ms) for stroke in strokes]

        def render() -> LoopSound:
            struck = [
                (stroke.at_ms, stroke_at(self.hits, hit, moves[turn], brief.bpm, stroke.strength, turn))
                for turn, stroke in enumerate(strokes)
            ]
            return LoopSound(place(struck, frames, RATE, loop=True))

        struck_at = [list(stroke) for stroke in strokes]
        decided_by = ("hit loop", hit.sounding, moves, brief.bpm, brief.bars, struck_at)
        whole = self.once(render, *decided_by)
        own = [stroke.at_ms for stroke in strokes]
        return self._choked(whole, own, played.against(index, hit.choke), *decided_by)

    def stand_in(self, state: TrackState) -> LoopSound:
        """One pass of what stands in for a pad."""
        brief = state.brief
        decided_by = (brief.bpm, brief.tonic, brief.mode, brief.a4_hz, list(brief.roots))
        return self.once(lambda: LoopSound(buses.stand_in(state, RATE)), "stand-in", *decided_by)

    def stem_loop(self, state: TrackState, stem: Stem) -> LoopSound:
        """One pass of a stem, as wide as it is, repeated or cut to fit."""
        frames = loop_frames(state.brief, RATE)

        def render() -> LoopSound:
            samples = self.hits.audio(stem.audio) * 10 ** (stem.level_db / 20)
            loop = fitted_loop(samples, stem.begin_ms, frames, RATE)
            if loop.ndim == 2 and stem.mono_below_hz > 20.0:
                # Only the difference of the sides is taken away: the sum stays as it is.
                apart = 0.5 * (loop[:, 0] - loop[:, 1])
                low = filters.around_loop_by(
                    apart, lambda hz: filters.linkwitz_riley_gain(hz, stem.mono_below_hz)[0], RATE
                )
                loop = loop - np.stack([low, -low], axis=1)
            return LoopSound(loop)

        return self.once(
            render, "stem", stem.audio, stem.level_db, stem.begin_ms, stem.mono_below_hz, frames
        )

    def part(self, state: TrackState, name: str) -> LoopSound | None:
        """A part of the loop by its name, before any ducking; None where it is not heard."""
        if name == STAND_IN:
            return self.stand_in(state)
        for voice in state.heard:
            if voice.name == name:
                return self.line_loop(state, voice)
        for index, hit in enumerate(state.hits, 1):
            if hit.name == name:
                return self.hit_loop(state, index)
        for stem in state.stems:
            if stem.name == name and not stem.mute:
                return self.stem_loop(state, stem)
        return None
