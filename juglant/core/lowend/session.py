"""From a track's state to everything that is heard, seen and said about it.

Sounds are pure functions of their recipes; a `Session` keeps the latest of them, so that a
change of the ducking does not render the kick again. It holds no state of any track.
"""

from concurrent.futures import Future
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from juglant.core import RATE
from juglant.core.aside import aside
from juglant.core.errors import UserError
from juglant.core.hits.mixing import added
from juglant.core.hits.render import LoadAudio, nothing_imported
from juglant.core.lowend import clearing, ducking, duckings, keyed
from juglant.core.lowend.line import line_of
from juglant.core.lowend.loop import click, gaps_ms, place
from juglant.core.lowend.part import low_end, undone
from juglant.core.lowend.parts import Parts
from juglant.core.lowend.sounds import Sounds
from juglant.core.lowend.sparing import spare_owner, sparing
from juglant.core.measure import levels
from juglant.core.measure.hit import Measured
from juglant.core.measure.listening import Band, band_match_db
from juglant.core.measure.loopsound import LoopSound
from juglant.core.measure.overlap import PRESENT_DB, LowLevel, Overlap
from juglant.core.measure.owner import (
    SHARED_LIMIT_MS,
    SHARED_MARGIN_DB,
    kept_levels,
    overlap,
    owner_loss,
    sub_levels,
)
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.ducking import Ducking
from juglant.core.recipes.parts import AnyPart, Sum, Voice
from juglant.core.recipes.separate import BassCarve, KickCarve
from juglant.core.recipes.track import TrackState
from juglant.core.synth.bass import loop_frames

Array = NDArray[np.float64]


# A trigger that any detector sees: a millisecond at full level.
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
    def key(self) -> str:
        """What an answer is known by where something is made of it."""
        return self.state.text

    @property
    def gap_ms(self) -> float:
        """The shortest time from one kick to the next."""
        return min(gaps_ms(self.times_ms, self.length_ms))


def uncarved(state: TrackState, *sides: Literal["kick", "bass"]) -> TrackState:
    """The state before kick and bass, or one of them, give anything up to the other; in the same place and
    polarity.

    Parameters
    ----------
    state
        The track.
    *sides
        "kick", "bass", or both where none is named.

    Returns
    -------
    TrackState
        The state.

    Examples
    --------
    >>> uncarved(TrackState(), "kick") == TrackState()
    True
    """
    bass = state.separate.bass
    placed = BassCarve(shift_ms=bass.shift_ms, polarity=bass.polarity)
    fresh = {"kick": KickCarve(), "bass": placed}
    update = {side: fresh[side] for side in sides or fresh}
    return state.model_copy(update={"separate": state.separate.model_copy(update=update)})


Side = Literal["kick", "bass", "rest", "sum"]
SIDES: tuple[Side, ...] = ("kick", "bass", "rest")


@dataclass(frozen=True)
class Sounding:
    """A part that is heard: whose side it is on, and its pass of the loop before and under its duckings."""

    part: str
    side: Side
    before: LoopSound
    heard: LoopSound


def _side(state: TrackState, part: AnyPart) -> Side:
    if isinstance(part, Sum):
        return "sum"
    return "kick" if part.id == state.kick.id else "bass" if isinstance(part, Voice) else "rest"


class Session:
    """Renders and measures a whole track, keeping what was asked for last."""

    key = "session"

    def __init__(self, load_audio: LoadAudio = nothing_imported) -> None:
        self.sounds = Sounds(load_audio)
        self.parts = Parts(self.sounds)

    def sounding_part(self, state: TrackState, id: str) -> Sounding | None:
        """A part as it is heard; None where it is not heard by itself."""
        part = state.part(id)
        before = None if part is None or id in state.grouped else self.parts.part(state, id)
        if part is None or before is None:
            return None
        side, heard = _side(state, part), self.parts.ducked(state, before, part)
        if isinstance(part, Sum):
            before = self.parts.ducked(state, self.parts.sum_loop(state, ducked=False), part)
        return Sounding(id, side, before, heard)

    def sounding(self, state: TrackState, *sides: Side) -> list[Sounding]:
        """Every part of some sides that is heard by itself, in the order of the track. All of them together
        are the loop; none of them is rendered for that.
        """
        wanted = [part.id for part in state.parts if _side(state, part) in (sides or SIDES)]
        return [one for id in wanted if (one := self.sounding_part(state, id)) is not None]

    def band_match_db(
        self, state: TrackState, parts: tuple[str, ...], *, ducked: bool
    ) -> dict[Band, float]:
        """The gains that bring each band of some parts together to the loudness of all their bands."""
        found = [one for id in parts if (one := self.sounding_part(state, id)) is not None]
        both = self.parts.together([one.heard if ducked else one.before for one in found], state)
        return self.sounds.once(_band_match_db, both)

    def line_stems(self, state: TrackState) -> dict[str, LoopSound]:
        """Every line that is heard under its duckings, by its id."""
        return {one.part: one.heard for one in self.sounding(state, "bass")}

    def _ducked_bass(self, state: TrackState, bass: LoopSound) -> LoopSound:
        """The lines under their duckings, together: at once where all of them are ducked alike."""
        acting = [self.parts.acting(state, voice.id) for voice in state.heard]
        if not any(acting) and not any(voice.after for voice in state.heard):
            return bass
        if any(voice.after for voice in state.heard) or any(one != acting[0] for one in acting):
            return self.parts.together(list(self.line_stems(state).values()), state)
        return self.parts.turned_down(state, bass, acting[0])

    def rest_stems(self, state: TrackState) -> dict[str, LoopSound]:
        """Everything beside kick and lines that is heard, under its duckings, by its id."""
        return {one.part: one.heard for one in self.sounding(state, "rest")}

    def loop(self, state: TrackState) -> Loop:
        """Render the loop without measuring it."""
        return self.sounds.once(Session._loop, self, low_end(state))

    def _loop(self, state: TrackState) -> Loop:
        bass, kick = self.parts.bass_loop(state), self.parts.kick_loop(state)
        frames = kick.samples.shape[0]
        main, starts = state.duckings[0], self.parts.starts(state, state.duckings[0])
        recipe = main.duck if main.on else DuckRecipe(depth_db=0.0)
        gain = duckings.gain_db(recipe, starts, frames, RATE)
        times = line_of(state).starts(state.kick.id)
        ducked = self._ducked_bass(state, bass)
        kick = self.parts.ducked(state, kick, state.kick)
        return Loop(kick, bass, ducked, recipe, gain, times, frames / RATE * 1000)

    def answer(self, state: TrackState) -> Answer:
        """Render and measure the loop, before and after the ducking."""
        part = low_end(state)
        found = self.sounds.once(Session._answer, self, part)
        return found if part == state else replace(found, state=state)

    def begin(self, state: TrackState) -> Future[None]:
        """Begin on another thread what an answer and its findings wait for longest: the hits measured, and
        the level of every line. What was made is kept; what went wrong is told to who asks for it.
        """

        def ahead() -> None:
            for hit in state.all_hits:
                self.sounds.measured_hit(hit, state.brief)
            for stem in self.line_stems(state).values():
                _ = stem.level

        return aside(ahead)

    def _answer(self, state: TrackState) -> Answer:
        brief, loop = state.brief, self.loop(state)
        kick, bass, ducked = loop.kick, loop.bass, loop.ducked
        bare = self.parts.kick_loop(state)
        same = (ducked.key, kick.key) == (bass.key, bare.key)
        # What needs no pitch of the kick comes first: that may be measured meanwhile.
        mix_before = self.sounds.once(_mix, bare, bass)
        mix_after = mix_before if same else _mix(kick, ducked)
        for sound in (bare, bass, kick, ducked):
            _ = sound.low
        before, clashed = self._before(state)
        after, clashes = (before, clashed) if same else self._over(state, kick, ducked)
        return Answer(
            state=state, times_ms=loop.times_ms, length_ms=loop.length_ms,
            kick=self.sounds.measured_hit(state.kick, brief),
            kick_samples=self.sounds.kick(state.kick, brief.bpm),
            kick_loop=kick, bass_loop=bass, ducked_loop=ducked, before=before, after=after,
            collisions_before=clashed, collisions_after=clashes,
            duck=ducking.measure_duck(loop.recipe, loop.times_ms, loop.length_ms, brief.bpm),
            gain_db=loop.gain_db,
            mix_before=mix_before, mix_after=mix_after,
        )  # fmt: skip

    def _over(
        self, state: TrackState, kick: LoopSound, bass: LoopSound
    ) -> tuple[Overlap, NDArray[np.bool_]]:
        """Kick and bass over each other, as the owner of the sub has it."""
        whole, owner, edge = uncarved(state), state.brief.sub_owner, self.parts.edge(state)
        was = self.parts.kick_loop(whole) if owner == "kick" else self.parts.bass_loop(whole)
        return overlap(kick, bass, len(line_of(state).starts(state.kick.id)), owner, edge, was)

    def over(self, state: TrackState) -> Overlap:
        """Kick and bass over each other under their duckings: without the rest of an answer."""
        return self.sounds.once(Session._over_ducked, self, low_end(state))

    def _over_ducked(self, state: TrackState) -> Overlap:
        loop = self.loop(state)
        return self._over(state, loop.kick, loop.ducked)[0]

    def _before(self, state: TrackState) -> tuple[Overlap, NDArray[np.bool_]]:
        return self.sounds.once(Session._over_unducked, self, undone(state))

    def _over_unducked(self, state: TrackState) -> tuple[Overlap, NDArray[np.bool_]]:
        return self._over(state, self.parts.kick_loop(state), self.parts.bass_loop(state))

    def before(self, state: TrackState) -> Overlap:
        """Kick and bass over each other without any ducking."""
        return self._before(state)[0]

    def meeting(self, state: TrackState) -> tuple[LowLevel, LowLevel]:
        """Kick and bass where they meet, before the ducking. UserError where that is not known."""
        loop, owner, edge = self.loop(state), state.brief.sub_owner, self.parts.bass_edge(state)
        bass = self._targets(state)
        kept = kept_levels(loop.kick, bass, owner, self.parts.edge(state))
        assert kept is not None
        return kept[0], sparing(kept[1], bass, state.duck, owner, self.parts.edge(state), edge)

    def _targets(self, state: TrackState) -> LoopSound:
        """The lines that the kick ducks, together. UserError where it ducks none that is heard."""
        reached = {target.part for target in state.duckings[0].targets if target.share > 0.0}
        heard = [voice for voice in state.heard if voice.id in reached]
        if len(heard) == len(state.heard):
            return self.loop(state).bass
        if not heard:
            raise UserError("The kick ducks no line that is heard: there is nothing to solve.", "targets")
        return self.parts.together([self.parts.line_loop(state, voice) for voice in heard], state)

    def solve_ducking(self, state: TrackState, margin_db: float = 0.0) -> clearing.Solution:
        """The ducking that clears this kick from this bass with the least taken away, and never more than
        3 dB from the owner of the sub.
        """
        loop, owner, edge = self.loop(state), state.brief.sub_owner, self.parts.edge(state)
        met, bass = self.meeting(state), self._targets(state)
        found = clearing.solve(*met, loop.times_ms, loop.length_ms, margin_db, owner)
        band = {"band": state.duck.band, "edge_hz": state.duck.edge_hz}
        recipe = found.recipe.model_copy(update=band)
        if owner == "kick":
            ducked = self._over_under(state, recipe)
            if edge is None or (ducked.sub_shared_ms or 0.0) <= SHARED_LIMIT_MS:
                return replace(found, recipe=recipe)
            # Clear of each other, and yet together in the sub: the bass gives way there too.
            kick_db, bass_db = (sub_levels(one, edge, 10.0) for one in (loop.kick, bass))
            least = np.maximum(kick_db - SHARED_MARGIN_DB, kick_db.max() - PRESENT_DB) - _CLEAR_DB
            also = np.where(kick_db > kick_db.max() - PRESENT_DB, np.maximum(bass_db - least, 0.0), 0.0)
            deeper = clearing.solve(*met, loop.times_ms, loop.length_ms, margin_db, owner, also)
            return replace(deeper, recipe=deeper.recipe.model_copy(update=band))
        lost = owner_loss(self.parts.bass_loop(uncarved(state)), loop.bass, edge) or 0.0
        at, length = loop.times_ms, loop.length_ms
        spared = spare_owner(recipe, bass, edge, self.parts.bass_edge(state), at, length, lost)
        return replace(found, recipe=spared, complete=found.complete and spared == recipe)

    def _over_under(self, state: TrackState, recipe: DuckRecipe) -> Overlap:
        """What a ducking leaves of kick and bass over each other."""
        return self.answer(state.with_duck(duck=recipe, on=True)).after

    def as_compressor(self, state: TrackState, one: Ducking) -> list[keyed.AsCompressor]:
        """A ducking as a compressor that its triggers key: one with a hold, one without."""
        starts = self.parts.starts(state, one)
        if not starts:
            raise UserError("Nothing starts this ducking: there is no compressor to set.", "triggers")
        frames = loop_frames(state.brief, RATE)
        sounds = [sound for id in one.triggers if (sound := self.parts.unmuted(state, id)) is not None]
        rated_ms = [start.at_ms for start in duckings.note_values(one, state)]
        times_ms = [start.at_ms for start in starts]
        return self.sounds.once(_as_compressor, one.duck, sounds, rated_ms, times_ms, frames)


def _band_match_db(loop: LoopSound) -> dict[Band, float]:
    return band_match_db(loop.samples, RATE)


def _mix(kick: LoopSound, bass: LoopSound) -> Mix:
    both = added([kick.samples, bass.samples])
    # As loud as one channel of it: what is mono comes from both loudspeakers as well.
    channels = 10 * float(np.log10(both.ndim))
    return Mix(both, levels.integrated_lufs(both, RATE) - channels, levels.true_peak_dbtp(both))


def _as_compressor(
    duck: DuckRecipe, sounds: list[LoopSound], rated_ms: list[float], times_ms: list[float], frames: int
) -> list[keyed.AsCompressor]:
    """What a compressor hears: sounds, and clicks at some times."""
    heard = [sound.mono for sound in sounds]
    if rated_ms:
        heard.append(place([(at, click(RATE)) for at in rated_ms], frames, RATE, loop=True))
    return keyed.solve(duck, sum(heard, np.zeros(frames)), times_ms, frames / RATE * 1000, RATE)
