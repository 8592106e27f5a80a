"""From a track's state to everything that is heard, seen and said about it.

Sounds are pure functions of their recipes; a `Session` keeps the latest of them, so that a
change of the ducking does not render the kick again. It holds no state of any track.
"""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from juglant.core import RATE
from juglant.core.lowend import buses, ducking, keyed
from juglant.core.lowend.loop import gaps_ms
from juglant.core.lowend.part import low_end
from juglant.core.lowend.parts import LoopSound, Parts
from juglant.core.measure import levels
from juglant.core.measure.hit import Measured
from juglant.core.measure.overlap import Overlap, overlap
from juglant.core.recipes.bus import STAND_IN
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.track import TrackState

Array = NDArray[np.float64]

# Loops of four bars are some megabytes each, and what is held shares arrays: about half is real.
_KEPT, _KEPT_BYTES = 256, 48 << 20
# In these a spectrum's highest peak may be the sweep's: only the tail is their pitch.
_SWEPT_KINDS = ("kick", "808")
# What rings higher is heard as bright rather than as a note.
_HIGHEST_NOTE_HZ = 2000.0


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


def _undone(state: TrackState) -> TrackState:
    """What kick and bass follow from before any ducking."""
    undone = {"duck": DuckRecipe(), "ducking": False, "buses": ()}
    return low_end(state).model_copy(update=undone)


def _over(kick: LoopSound, bass: LoopSound, kicks: int) -> Overlap:
    return overlap(kick.level, bass.level, kicks, kick.spectrum, bass.spectrum)


class Session(Parts):
    """Renders and measures a whole track, keeping what was asked for last."""

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

    def _bussed(self, state: TrackState, bass: LoopSound) -> LoopSound:
        """The lines under their buses, before the ducking by the kick."""
        if not any(buses.buses_of(state, voice.name) for voice in state.heard):
            return bass
        parts = [self._under(state, voice.name, self.line_loop(state, voice)) for voice in state.heard]
        return LoopSound(sum((part.samples for part in parts), np.zeros(bass.samples.size)))

    def rest_stems(self, state: TrackState) -> dict[str, Array]:
        """Every hit beside the kick that is played, and every stem, under its buses, by its name. A pad
        that stands in is heard while a bus turns it down.
        """
        loops = {hit.name: self.hit_loop(state, index) for index, hit in enumerate(state.hits, 1)}
        loops |= {stem.name: self.stem_loop(state, stem) for stem in state.stems if not stem.mute}
        if buses.buses_of(state, STAND_IN):
            loops[STAND_IN] = self.stand_in(state)
        return {name: self._under(state, name, x).samples for name, x in loops.items() if x is not None}

    def rest_loop(self, state: TrackState) -> Array | None:
        """One pass of all hits beside the kick and of the stems under their buses, shape (frames, 2);
        None where none is played.
        """
        heard = list(self.rest_stems(state).values())
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
        before = self.before(state)
        mix_before = self.once(lambda: self._mix(kick, bass), "mix before", _undone(state))
        return Answer(
            state=state, times_ms=loop.times_ms, length_ms=loop.length_ms,
            kick=self.measured_hit(state.kick, brief), kick_samples=self.kick(state.kick, brief.bpm),
            kick_loop=kick, bass_loop=bass, ducked_loop=ducked, before=before,
            after=before if ducked is bass else _over(kick, ducked, len(loop.times_ms)),
            duck=ducking.measure_duck(loop.recipe, loop.times_ms, loop.length_ms, brief.bpm),
            gain_db=loop.gain_db,
            mix_before=mix_before,
            mix_after=mix_before if ducked is bass else self._mix(kick, ducked),
        )  # fmt: skip

    def before(self, state: TrackState) -> Overlap:
        """Kick and bass over each other without any ducking."""

        def look() -> Overlap:
            kicks = len(self.line_of(state).kick_ms)
            return _over(self.kick_loop(state), self.bass_loop(state), kicks)

        return self.once(look, "before", _undone(state))

    def solve_ducking(self, state: TrackState, margin_db: float = 0.0) -> ducking.Solution:
        """The ducking that clears this kick from this bass with the least taken away."""
        loop = self.loop(state)
        levels = (loop.kick.level, loop.bass.level)
        return ducking.solve(*levels, loop.times_ms, loop.length_ms, margin_db)

    def as_compressor(self, state: TrackState) -> list[keyed.AsCompressor]:
        """The ducking as a compressor that the kick keys: one with a hold, one without."""
        loop = self.loop(state)
        return self.once(
            lambda: keyed.solve(state.duck, loop.kick.samples, loop.times_ms, loop.length_ms, RATE),
            "as compressor", low_end(state),
        )  # fmt: skip
