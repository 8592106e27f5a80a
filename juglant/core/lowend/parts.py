"""Every part of the loop, one pass of each."""

from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from juglant.core import RATE
from juglant.core.lowend import buses
from juglant.core.lowend.carving import carved
from juglant.core.lowend.line import Line, line_of
from juglant.core.lowend.loop import choked, place
from juglant.core.lowend.part import low_end
from juglant.core.lowend.played import follows, played_line, stroke_at
from juglant.core.lowend.rumble import render_rumble
from juglant.core.lowend.sounds import Sounds
from juglant.core.measure import levels
from juglant.core.measure.overlap import LowLevel, low_level
from juglant.core.measure.pumping import Heard, heard
from juglant.core.measure.stereo import listening_channel
from juglant.core.process import filters
from juglant.core.recipes.bus import STAND_IN
from juglant.core.recipes.separate import Carve
from juglant.core.recipes.track import MadeBass, PlayedBass, RumbleBass, Stem, TrackState, Voice
from juglant.core.synth.bass import loop_frames, render_bass

Array = NDArray[np.float64]


@dataclass(frozen=True)
class LoopSound:
    """One pass of the loop of one part, with what is measured of it once."""

    samples: Array

    @cached_property
    def _mono(self) -> Array:
        return listening_channel(self.samples)

    @cached_property
    def slowed(self) -> tuple[Array, float]:
        """Its low part, from which level and spectrum are taken: one long transform for both."""
        return filters.slowed(self._mono, RATE, loop=True)

    @cached_property
    def level(self) -> LowLevel:
        """Low-band level over the loop."""
        return low_level(*self.slowed, loop=True)

    @cached_property
    def heard(self) -> Heard:
        """How loud it is heard, on the whole and by the moment."""
        return heard(self._mono, RATE)

    @cached_property
    def spectrum(self) -> levels.Spectrum:
        """Power spectrum of the pass, up to 1.5 kHz."""
        energy_s = float(self._mono @ self._mono) / RATE
        return levels.Spectrum(*self.slowed, energy_s)


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
        return LoopSound(buses.under(loop.samples, wanted, state, RATE)) if wanted else loop

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
                file = self.hits.audio(bass.audio)
                if bass.side != "both" and file.ndim == 2:
                    file = file[:, ("left", "right").index(bass.side)]
                samples = np.resize(listening_channel(file), loop_frames(brief, RATE))
                samples = samples * 10 ** (bass.level_db / 20)
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
            loop = np.resize(samples, (frames, *samples.shape[1:]))
            if loop.ndim == 2 and stem.mono_below_hz > 20.0:
                # Only the difference of the sides is taken away: the sum stays as it is.
                apart = 0.5 * (loop[:, 0] - loop[:, 1])
                low = filters.around_loop_by(
                    apart, lambda hz: filters.linkwitz_riley_gain(hz, stem.mono_below_hz)[0], RATE
                )
                loop = loop - np.stack([low, -low], axis=1)
            return LoopSound(loop)

        return self.once(render, "stem", stem.audio, stem.level_db, stem.mono_below_hz, frames)

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
