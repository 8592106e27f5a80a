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
from juglant.core.lowend.parts import Parts
from juglant.core.lowend.sparing import spare_owner, sparing
from juglant.core.measure import levels
from juglant.core.measure.hit import Measured
from juglant.core.measure.loopsound import LoopSound
from juglant.core.measure.overlap import PRESENT_DB, LowLevel, Overlap
from juglant.core.measure.owner import (
    SHARED_LIMIT_MS,
    SHARED_MARGIN_DB,
    SubEdge,
    kept_levels,
    overlap,
    owner_loss,
    sub_levels,
)
from juglant.core.recipes.bus import STAND_IN
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.separate import BassCarve, SeparateRecipe
from juglant.core.recipes.track import TrackState, Voice

Array = NDArray[np.float64]


# How far under what shares the sub a ducking aims.
_CLEAR_DB = 1.5


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
    # Where kick and bass collide, every ms, without and with the ducking.
    collisions_before: NDArray[np.bool_]
    collisions_after: NDArray[np.bool_]
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


def _without_curve(state: TrackState) -> TrackState:
    """What the lines before the ducking, and what it leaves alone, follow from: all but its curve."""
    duck = DuckRecipe(band=state.duck.band, edge_hz=state.duck.edge_hz)
    return low_end(state).model_copy(update={"duck": duck, "ducking": False})


def uncarved(state: TrackState) -> TrackState:
    """The state before kick and bass give anything up to each other; in the same place and polarity."""
    bass = state.separate.bass
    placed = BassCarve(shift_ms=bass.shift_ms, polarity=bass.polarity)
    return state.model_copy(update={"separate": SeparateRecipe(bass=placed)})


class Session(Parts):
    """Renders and measures a whole track, keeping what was asked for last."""

    def line_stems(self, state: TrackState) -> dict[str, LoopSound]:
        """Every line that is heard under the ducking, by its name."""
        answer = self.answer(state)
        if len(state.heard) == 1:
            return {voice.name: answer.ducked_loop for voice in state.heard}
        stems = {voice.name: self._bussed_line(state, voice) for voice in state.heard}
        return {
            name: LoopSound(
                ducking.under(loop.samples, answer.gain_db, self._left_alone(state, loop, name))
            )
            for name, loop in stems.items()
        }

    def _spared_edge(self, state: TrackState) -> SubEdge | None:
        """The edge below which the ducking leaves a bass that owns the sub alone."""
        ducked = state.ducking and state.duck.depth_db > 0.0
        return self.bass_edge(state) if ducked and state.duck.band == "by owner" else None

    def _left_alone(self, state: TrackState, bass: LoopSound, line: str = "") -> Array | None:
        """What the ducking leaves of a line, or of all of them together, whatever its curve."""
        edge, undone = self._spared_edge(state), _without_curve(state)
        return self.once(
            lambda: ducking.left_alone(bass.samples, undone.duck, edge, RATE),
            "left alone", undone, line, edge is None,
        )  # fmt: skip

    def _bussed_line(self, state: TrackState, voice: Voice) -> LoopSound:
        """A line under its buses, before the ducking by the kick."""
        loop = self.line_loop(state, voice)
        if not buses.buses_of(state, voice.name):
            return loop
        undone = _without_curve(state)
        return self.once(lambda: self._under(state, voice.name, loop), "bussed", undone, voice.name)

    def _bussed(self, state: TrackState, bass: LoopSound) -> LoopSound:
        """The lines under their buses, before the ducking by the kick."""
        if not any(buses.buses_of(state, voice.name) for voice in state.heard):
            return bass
        parts = [self._bussed_line(state, voice) for voice in state.heard]
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
            ducked = bussed
            if recipe.depth_db:
                alone = self._left_alone(state, bussed)
                ducked = LoopSound(ducking.under(bussed.samples, gain, alone))
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
        before, clashed = self._before(state)
        mix_before = self.once(lambda: self._mix(kick, bass), "mix before", _undone(state))
        after, clashes = (before, clashed) if ducked is bass else self._over(state, kick, ducked)
        return Answer(
            state=state, times_ms=loop.times_ms, length_ms=loop.length_ms,
            kick=self.measured_hit(state.kick, brief), kick_samples=self.kick(state.kick, brief.bpm),
            kick_loop=kick, bass_loop=bass, ducked_loop=ducked, before=before, after=after,
            collisions_before=clashed, collisions_after=clashes,
            duck=ducking.measure_duck(loop.recipe, loop.times_ms, loop.length_ms, brief.bpm),
            gain_db=loop.gain_db,
            mix_before=mix_before,
            mix_after=mix_before if ducked is bass else self._mix(kick, ducked),
        )  # fmt: skip

    def _over(
        self, state: TrackState, kick: LoopSound, bass: LoopSound
    ) -> tuple[Overlap, NDArray[np.bool_]]:
        """Kick and bass over each other, as the owner of the sub has it."""
        whole, owner = uncarved(state), state.brief.sub_owner
        was = self.kick_loop(whole) if owner == "kick" else self.bass_loop(whole)
        return overlap(kick, bass, len(self.line_of(state).kick_ms), owner, self.edge(state), was)

    def _before(self, state: TrackState) -> tuple[Overlap, NDArray[np.bool_]]:
        return self.once(
            lambda: self._over(state, self.kick_loop(state), self.bass_loop(state)), "before",
            _undone(state),
        )  # fmt: skip

    def before(self, state: TrackState) -> Overlap:
        """Kick and bass over each other without any ducking."""
        return self._before(state)[0]

    def meeting(self, state: TrackState) -> tuple[LowLevel, LowLevel]:
        """Kick and bass where they meet, before the ducking. UserError where that is not known."""
        loop, owner, edge = self.loop(state), state.brief.sub_owner, self.bass_edge(state)
        kept = kept_levels(loop.kick, loop.bass, owner, self.edge(state))
        assert kept is not None
        return kept[0], sparing(kept[1], loop.bass, state.duck, owner, self.edge(state), edge)

    def solve_ducking(self, state: TrackState, margin_db: float = 0.0) -> ducking.Solution:
        """The ducking that clears this kick from this bass with the least taken away, and never more than
        3 dB from the owner of the sub.
        """
        loop, owner, edge = self.loop(state), state.brief.sub_owner, self.edge(state)
        met = self.meeting(state)
        found = ducking.solve(*met, loop.times_ms, loop.length_ms, margin_db, owner)
        band = {"band": state.duck.band, "edge_hz": state.duck.edge_hz}
        recipe = found.recipe.model_copy(update=band)
        if owner == "kick":
            ducked = self._over_ducked(state, recipe)
            if edge is None or (ducked.sub_shared_ms or 0.0) <= SHARED_LIMIT_MS:
                return replace(found, recipe=recipe)
            # Clear of each other, and yet together in the sub: the bass gives way there too.
            kick_db, bass_db = (sub_levels(one, edge, 10.0) for one in (loop.kick, loop.bass))
            least = np.maximum(kick_db - SHARED_MARGIN_DB, kick_db.max() - PRESENT_DB) - _CLEAR_DB
            also = np.where(kick_db > kick_db.max() - PRESENT_DB, np.maximum(bass_db - least, 0.0), 0.0)
            deeper = ducking.solve(*met, loop.times_ms, loop.length_ms, margin_db, owner, also)
            return replace(deeper, recipe=deeper.recipe.model_copy(update=band))
        lost = owner_loss(self.bass_loop(uncarved(state)), loop.bass, edge) or 0.0
        spared = spare_owner(
            recipe, loop.bass, edge, self.bass_edge(state), loop.times_ms, loop.length_ms, lost
        )
        return replace(found, recipe=spared, complete=found.complete and spared == recipe)

    def _over_ducked(self, state: TrackState, recipe: DuckRecipe) -> Overlap:
        """What a ducking leaves of kick and bass over each other."""
        return self.answer(state.model_copy(update={"duck": recipe, "ducking": True})).after

    def as_compressor(self, state: TrackState) -> list[keyed.AsCompressor]:
        """The ducking as a compressor that the kick keys: one with a hold, one without."""
        loop = self.loop(state)
        return self.once(
            lambda: keyed.solve(state.duck, loop.kick.samples, loop.times_ms, loop.length_ms, RATE),
            "as compressor", low_end(state),
        )  # fmt: skip
