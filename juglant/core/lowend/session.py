"""From a track's state to everything that is heard, seen and said about it.

Sounds are pure functions of their recipes; a `Session` keeps the latest of them, so that a
change of the ducking does not render the kick again. It holds no state of any track.
"""

from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from juglant.core import RATE
from juglant.core.hits import jobs
from juglant.core.hits.moved import resampled, shifted
from juglant.core.hits.render import HitRenderer, LoadAudio, nothing_imported
from juglant.core.kept import Kept
from juglant.core.lowend import buses, ducking, keyed, tuning
from juglant.core.lowend.carving import carved
from juglant.core.lowend.line import Line, line_of
from juglant.core.lowend.loop import choked, gaps_ms, place
from juglant.core.lowend.part import low_end
from juglant.core.lowend.played import follows, played_line, stroke_at
from juglant.core.lowend.rumble import render_rumble
from juglant.core.measure import levels
from juglant.core.measure.hit import Measured, measure
from juglant.core.measure.overlap import LowLevel, Overlap, low_level, overlap
from juglant.core.measure.partials import Partial, partials
from juglant.core.measure.stereo import listening_channel
from juglant.core.measure.width import side_delay
from juglant.core.music import cents_between, midi_to_hz, note_to_midi
from juglant.core.process import filters
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.bus import STAND_IN
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.hit import Hit
from juglant.core.recipes.separate import Carve
from juglant.core.recipes.track import MadeBass, PlayedBass, RumbleBass, TrackState, Voice
from juglant.core.synth.bass import loop_frames, render_bass

Array = NDArray[np.float64]

# Loops of four bars are some megabytes each, and what is held shares arrays: about half is real.
_KEPT, _KEPT_BYTES = 256, 48 << 20
# In these a spectrum's highest peak may be the sweep's: only the tail is their pitch.
_SWEPT_KINDS = ("kick", "808")
# What rings higher is heard as bright rather than as a note.
_HIGHEST_NOTE_HZ = 2000.0


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
    def spectrum(self) -> levels.Spectrum:
        """Power spectrum of the pass, up to 1.5 kHz."""
        energy_s = float(self._mono @ self._mono) / RATE
        return levels.Spectrum(*self.slowed, energy_s)


@dataclass(frozen=True)
class Loop:
    """One pass of kick, bass and ducked bass, and the gain between the last two."""

    kick: LoopSound
    bass: LoopSound
    ducked: LoopSound
    recipe: DuckRecipe
    gain_db: Array
    times_ms: list[float]
    length_ms: float


@dataclass(frozen=True)
class Mix:
    """Kick and bass together, and how loud that is."""

    samples: Array
    lufs: float
    true_peak_dbtp: float


@dataclass(frozen=True)
class Answer:
    """Everything that follows from a state."""

    state: TrackState
    times_ms: list[float]
    length_ms: float
    kick: Measured
    kick_samples: Array
    kick_loop: LoopSound
    bass_loop: LoopSound
    ducked_loop: LoopSound
    before: Overlap
    after: Overlap
    duck: ducking.Duck
    gain_db: Array
    mix_before: Mix
    mix_after: Mix

    @property
    def gap_ms(self) -> float:
        """The shortest time from one kick to the next."""
        return min(gaps_ms(self.times_ms, self.length_ms))


class Session:
    """Renders and measures, keeping what was asked for last. Safe to share by threads."""

    def __init__(self, load_audio: LoadAudio = nothing_imported) -> None:
        kept = Kept(_KEPT, _KEPT_BYTES)
        # A result is computed once for what decides it: for the modules beside this one.
        self.once = kept.once
        self.hits = HitRenderer(kept, load_audio)

    def kick(self, kick: Hit, bpm: float) -> Array:
        """The kick one-shot, shape (frames,): a wide one is heard as its mono sum."""
        return listening_channel(self.hits.hit(kick, bpm))

    def measured_hit(self, hit: Hit, brief: Brief) -> Measured:
        """A hit's numbers at the brief's A4 and in its key's spelling."""
        return self._measured(self.hits.hit(hit, brief.bpm), brief, "hit", hit.sounding)

    def measured_layer(self, hit: Hit, index: int, brief: Brief) -> Measured:
        """One audible layer's numbers, as it lies in the hit."""
        layers = self.hits.layers(hit, brief.bpm)
        return self._measured(layers[index], brief, "layer", hit.sounding, index)

    def _measured(self, samples: Array, brief: Brief, *who: Any) -> Measured:
        """The numbers of a sound under a brief; `who` names the sound."""
        a4_hz, flats = brief.a4_hz, brief.key.flats
        return self.once(
            lambda: measure(samples, RATE, a4_hz, flats), "measured", *who, brief.bpm, a4_hz, flats
        )

    def holes(self, hit: Hit, brief: Brief) -> list[jobs.Hole]:
        """What a hit lacks."""
        whole = self.hits.hit(hit, brief.bpm)
        return self.once(lambda: jobs.holes(hit.kind, whole, RATE), "holes", hit, brief.bpm)

    def hit_report(self, hit: Hit, brief: Brief) -> jobs.HitReport:
        """What a hit lacks, what each of its layers gives, and what its width is made of."""

        def look() -> jobs.HitReport:
            whole = self.hits.hit(hit, brief.bpm)
            shares = jobs.shares(self.hits.layers(hit, brief.bpm), RATE) if len(hit.layers) > 1 else []
            return jobs.HitReport(self.holes(hit, brief), shares, side_delay(whole, RATE))

        return self.once(look, "report", hit, brief.bpm)

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

    def line_stems(self, state: TrackState) -> dict[str, LoopSound]:
        """Every line that is heard under the ducking, by its name."""
        answer = self.answer(state)
        if len(state.heard) == 1:
            return {voice.name: answer.ducked_loop for voice in state.heard}
        loops = {voice.name: self.line_loop(state, voice) for voice in state.heard}
        return {
            name: LoopSound(ducking.apply(self._under(state, name, loop).samples, answer.gain_db))
            for name, loop in loops.items()
        }

    def _under(self, state: TrackState, name: str, loop: LoopSound) -> LoopSound:
        """A part under the buses that turn it down."""
        wanted = buses.buses_of(state, name)
        return LoopSound(buses.under(loop.samples, wanted, state, RATE)) if wanted else loop

    def _bussed(self, state: TrackState, bass: LoopSound) -> LoopSound:
        """The lines under their buses, before the ducking by the kick."""
        if not any(buses.buses_of(state, voice.name) for voice in state.heard):
            return bass
        parts = [self._under(state, voice.name, self.line_loop(state, voice)) for voice in state.heard]
        return LoopSound(sum((part.samples for part in parts), np.zeros(bass.samples.size)))

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
                samples = np.resize(
                    listening_channel(self.hits.audio(bass.audio)), loop_frames(brief, RATE)
                )
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

    def rest_loop(self, state: TrackState) -> Array | None:
        """One pass of all hits beside the kick under their buses, shape (frames, 2); None where none
        is played. A pad that stands in is heard while a bus turns it down.
        """
        loops = {hit.name: self.hit_loop(state, index) for index, hit in enumerate(state.hits, 1)}
        if buses.buses_of(state, STAND_IN):
            loops[STAND_IN] = self.stand_in(state)
        heard = [self._under(state, name, x).samples for name, x in loops.items() if x is not None]
        if not heard:
            return None
        out = np.zeros((heard[0].shape[0], 2))
        for x in heard:
            out += x if x.ndim == 2 else x[:, None]
        return out

    def _mix(self, kick: LoopSound, bass: LoopSound) -> Mix:
        both = kick.samples + bass.samples
        return Mix(both, levels.integrated_lufs(both, RATE), levels.true_peak_dbtp(both))

    def loop(self, state: TrackState) -> Loop:
        """Render the loop without measuring it."""

        def render() -> Loop:
            kick, bass = self.kick_loop(state), self.bass_loop(state)
            frames = kick.samples.size
            length = frames / RATE * 1000
            times = self.line_of(state).kick_ms
            recipe = state.duck if state.ducking else DuckRecipe(depth_db=0.0)
            gain = ducking.curve_db(recipe, times, length, 1000 / RATE, loop=True)[:frames]
            bussed = self._bussed(state, bass)
            ducked = LoopSound(ducking.apply(bussed.samples, gain)) if recipe.depth_db else bussed
            return Loop(kick, bass, ducked, recipe, gain, times, length)

        return self.once(render, "loop", low_end(state))

    def answer(self, state: TrackState) -> Answer:
        """Render and measure the loop, before and after the ducking."""
        part = low_end(state)
        found = self.once(lambda: self._answer(part), "answer", part)
        return found if part == state else replace(found, state=state)

    def _answer(self, state: TrackState) -> Answer:
        brief, loop = state.brief, self.loop(state)
        kick, bass, ducked = loop.kick, loop.bass, loop.ducked
        count = len(loop.times_ms)

        def against(other: LoopSound) -> Overlap:
            return overlap(kick.level, other.level, count, kick.spectrum, other.spectrum)

        undone = (state.model_copy(update={"duck": DuckRecipe(), "ducking": False, "buses": ()}),)
        before = self.once(lambda: against(bass), "before", *undone)
        mix_before = self.once(lambda: self._mix(kick, bass), "mix before", *undone)
        return Answer(
            state=state, times_ms=loop.times_ms, length_ms=loop.length_ms,
            kick=self.measured_hit(state.kick, brief), kick_samples=self.kick(state.kick, brief.bpm),
            kick_loop=kick, bass_loop=bass, ducked_loop=ducked, before=before,
            after=before if ducked is bass else against(ducked),
            duck=ducking.measure_duck(loop.recipe, loop.times_ms, loop.length_ms, brief.bpm),
            gain_db=loop.gain_db,
            mix_before=mix_before,
            mix_after=mix_before if ducked is bass else self._mix(kick, ducked),
        )  # fmt: skip

    def solve_ducking(self, state: TrackState) -> ducking.Solution:
        """The ducking that clears this kick from this bass with the least taken away."""
        loop = self.loop(state)
        return ducking.solve(loop.kick.level, loop.bass.level, loop.times_ms, loop.length_ms)

    def as_compressor(self, state: TrackState) -> list[keyed.AsCompressor]:
        """The ducking as a compressor that the kick keys: one with a hold, one without."""
        loop = self.loop(state)
        return self.once(
            lambda: keyed.solve(state.duck, loop.kick.samples, loop.times_ms, loop.length_ms, RATE),
            "as compressor", low_end(state),
        )  # fmt: skip

    def partials(self, hit: Hit, brief: Brief) -> list[Partial]:
        """The clear tones of a hit."""
        flats = brief.key.flats

        def look() -> list[Partial]:
            onset_ms = self.measured_hit(hit, brief).hit.onset_ms
            if onset_ms is None:
                return []
            return partials(self.kick(hit, brief.bpm), RATE, onset_ms, brief.a4_hz, flats)

        return self.once(look, "partials", hit.sounding, brief.bpm, brief.a4_hz, flats)

    def pitch_hz(self, hit: Hit, brief: Brief) -> float | None:
        """What a hit is tuned by: the note its tail settles to or, in percussion that settles to
        none, its strongest clear tone.
        """
        fundamental = self.measured_hit(hit, brief).hit.fundamental_hz
        if fundamental is not None or hit.kind in _SWEPT_KINDS or hit.aims_at == "free":
            return fundamental
        clear = [one for one in self.partials(hit, brief) if one.hz < _HIGHEST_NOTE_HZ]
        return max(clear, key=lambda one: one.level_db).hz if clear else None

    def moves(self, hit: Hit, brief: Brief, *, balance: bool = False) -> list[tuning.Move]:
        """Where a hit can be tuned to: what it aims at first, then the nearest; empty while it
        has no pitch. With `balance`, what each move does to the spectrum too.
        """
        hz = self.pitch_hz(hit, brief)
        if hz is None:
            return []
        measured = self.measured_hit(hit, brief)
        return tuning.moves(
            hz, measured.hit.length_ms, tuning.harmony(brief), resampled=resampled(hit), aim=hit.aims_at,
            spectrum=measured.spectrum if balance else None,
        )  # fmt: skip

    def tuned(self, hit: Hit, brief: Brief, note: str) -> Hit:
        """The hit moved to a note such as A#1, by the exact ratio from its measured pitch.

        Measured again and put right once.
        """
        for _ in range(2):
            hz = self.pitch_hz(hit, brief)
            if hz is None:
                return hit
            target = midi_to_hz(note_to_midi(note), brief.a4_hz)
            hit = shifted(hit, cents_between(target, hz) / 100)
        return hit
