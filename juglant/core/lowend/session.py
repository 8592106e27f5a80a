"""From a track's state to everything that is heard, seen and said about it.

Sounds are pure functions of their recipes; a `Session` keeps the latest of them, so that a
change of the ducking does not render the kick again. It holds no state of any track.
"""

import hashlib
import json
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from threading import Lock
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel

from juglant.core import ENGINE_VERSION, RATE
from juglant.core.errors import UserError
from juglant.core.lowend import ducking, tuning
from juglant.core.lowend.loop import gaps_ms, kick_times_ms, place
from juglant.core.measure import levels
from juglant.core.measure.hit import Measured, measure
from juglant.core.measure.overlap import LowLevel, Overlap, low_level, overlap
from juglant.core.measure.stereo import listening_channel
from juglant.core.music import note_to_midi
from juglant.core.process import filters
from juglant.core.process.resampling import change_rate, shift_pitch
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.track import ImportedKick, MadeBass, MadeKick, TrackState
from juglant.core.synth.bass import loop_frames, render_bass
from juglant.core.synth.kick import render_kick

Array = NDArray[np.float64]
LoadAudio = Callable[[str], tuple[Array, int]]
T = TypeVar("T")

_KEPT = 64


def sound_key(*parts: Any) -> str:
    """Hash of what decides a sound's samples: recipes, rate and engine version."""
    plain = [part.model_dump(mode="json") if isinstance(part, BaseModel) else part for part in parts]
    text = json.dumps([ENGINE_VERSION, RATE, plain], sort_keys=True)
    return hashlib.sha256(text.encode()).hexdigest()


@dataclass(frozen=True)
class LoopSound:
    """One pass of the loop of one part, with what is measured of it once."""

    samples: Array

    @cached_property
    def _slowed(self) -> tuple[Array, float]:
        """Its low part, from which level and spectrum are taken: one long transform for both."""
        return filters.slowed(self.samples, RATE, loop=True)

    @cached_property
    def level(self) -> LowLevel:
        """Low-band level over the loop."""
        return low_level(*self._slowed, loop=True)

    @cached_property
    def spectrum(self) -> levels.Spectrum:
        """Power spectrum of the pass, up to 1.5 kHz."""
        energy_s = float(self.samples @ self.samples) / RATE
        return levels.Spectrum(*self._slowed, energy_s)


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


def nothing_imported(digest: str) -> tuple[Array, int]:
    """The audio of a session that has no studio behind it: none."""
    raise UserError(f"There is no imported sound {digest[:8]} here.")


class _Entry:
    """One kept result, or the place where it is being made."""

    def __init__(self) -> None:
        self.lock = Lock()
        self.made = False
        self.value: Any = None


class Session:
    """Renders and measures, keeping what was asked for last. Safe to share by threads."""

    def __init__(self, load_audio: LoadAudio = nothing_imported) -> None:
        self._load_audio = load_audio
        self._kept: OrderedDict[str, _Entry] = OrderedDict()
        self._lock = Lock()

    def _once(self, make: Callable[[], T], *decided_by: Any) -> T:
        key = sound_key(*decided_by)
        with self._lock:
            entry = self._kept.pop(key, None) or _Entry()
            self._kept[key] = entry
            while len(self._kept) > _KEPT:
                self._kept.popitem(last=False)
        # Two requests for the same sound: the second waits rather than rendering it again.
        with entry.lock:
            if not entry.made:
                entry.value, entry.made = make(), True
        return entry.value  # type: ignore[no-any-return]

    def _imported(self, audio: str) -> Array:
        def load() -> Array:
            samples, rate = self._load_audio(audio)
            return change_rate(listening_channel(samples), rate, RATE)

        return self._once(load, "imported", audio)

    def kick(self, kick: MadeKick | ImportedKick, bpm: float) -> Array:
        """The kick one-shot, shape (frames,), at the engine's rate."""

        def render() -> Array:
            if isinstance(kick, MadeKick):
                return render_kick(kick.recipe, RATE, bpm)
            shifted = shift_pitch(self._imported(kick.audio), kick.shift_semitones)
            return shifted * 10 ** (kick.level_db / 20)

        follows_tempo = isinstance(kick, MadeKick) and kick.recipe.length_note != "ms"
        return self._once(render, "kick", kick, bpm if follows_tempo else None)

    def measured_kick(self, kick: MadeKick | ImportedKick, brief: Brief) -> Measured:
        """The kick's numbers at the brief's A4 and in its key's spelling."""
        samples = self.kick(kick, brief.bpm)
        flats = brief.key.flats
        return self._once(
            lambda: measure(samples, RATE, brief.a4_hz, flats),
            "measured", kick, samples.size, brief.a4_hz, flats,
        )  # fmt: skip

    def bass_loop(self, state: TrackState) -> LoopSound:
        """One pass of the bass under the brief's low cut; a file is repeated or cut to fit."""
        bass, brief = state.bass, state.brief

        def render() -> LoopSound:
            if isinstance(bass, MadeBass):
                samples = render_bass(bass.recipe, brief, RATE)
            else:
                samples = np.resize(self._imported(bass.audio), loop_frames(brief, RATE))
                samples = samples * 10 ** (bass.level_db / 20)
            return LoopSound(filters.around_loop(samples, filters.low_cut(brief.low_cut, RATE)))

        roots = [brief.root_of(bar) for bar in range(brief.bars)]
        return self._once(render, "bass", bass, brief.bpm, brief.a4_hz, brief.low_cut, roots)

    def kick_loop(self, state: TrackState) -> LoopSound:
        """One pass of the kick track."""
        brief = state.brief
        hit = self.kick(state.kick, brief.bpm)
        frames = loop_frames(brief, RATE)

        def render() -> LoopSound:
            times = kick_times_ms(brief.kick_beats, brief.bpm, frames / RATE * 1000)
            return LoopSound(place(hit, times, frames, RATE, loop=True))

        return self._once(render, "kick loop", state.kick, brief.bpm, brief.kick_beats, brief.bars)

    def _mix(self, kick: LoopSound, bass: LoopSound) -> Mix:
        both = kick.samples + bass.samples
        return Mix(both, levels.integrated_lufs(both, RATE), levels.true_peak_dbtp(both))

    def loop(self, state: TrackState) -> Loop:
        """Render the loop without measuring it."""

        def render() -> Loop:
            kick, bass = self.kick_loop(state), self.bass_loop(state)
            frames = kick.samples.size
            length = frames / RATE * 1000
            times = kick_times_ms(state.brief.kick_beats, state.brief.bpm, length)
            recipe = state.duck if state.ducking else DuckRecipe(depth_db=0.0)
            gain = ducking.curve_db(recipe, times, length, 1000 / RATE, loop=True)[:frames]
            ducked = LoopSound(ducking.apply(bass.samples, gain)) if recipe.depth_db else bass
            return Loop(kick, bass, ducked, recipe, gain, times, length)

        return self._once(render, "loop", state)

    def answer(self, state: TrackState) -> Answer:
        """Render and measure the loop, before and after the ducking."""
        return self._once(lambda: self._answer(state), "answer", state)

    def _answer(self, state: TrackState) -> Answer:
        brief, loop = state.brief, self.loop(state)
        kick, bass, ducked = loop.kick, loop.bass, loop.ducked
        count = len(loop.times_ms)

        def against(other: LoopSound) -> Overlap:
            return overlap(kick.level, other.level, count, kick.spectrum, other.spectrum)

        undone = (state.kick, state.bass, brief)
        before = self._once(lambda: against(bass), "before", *undone)
        mix_before = self._once(lambda: self._mix(kick, bass), "mix before", *undone)
        return Answer(
            state=state, times_ms=loop.times_ms, length_ms=loop.length_ms,
            kick=self.measured_kick(state.kick, brief), kick_samples=self.kick(state.kick, brief.bpm),
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

    def moves(self, state: TrackState) -> list[tuning.Move]:
        """Where the kick can be tuned to, nearest first; empty while it has no pitch."""
        hit = self.measured_kick(state.kick, state.brief).hit
        if hit.fundamental_hz is None:
            return []
        brief = state.brief
        return tuning.moves(
            hit.fundamental_hz, hit.length_ms, brief.key, brief.a4_hz,
            resampled=isinstance(state.kick, ImportedKick),
        )  # fmt: skip

    def tuned(self, state: TrackState, note: str) -> TrackState:
        """The state with its kick moved to a note such as A#1.

        A made kick's recipe is changed, an imported one's resampling; both by the exact
        ratio from the measured fundamental, measured again and put right once.
        """
        for _ in range(2):
            hit = self.measured_kick(state.kick, state.brief).hit
            if hit.fundamental_hz is None:
                return state
            move = tuning.move_to(
                note_to_midi(note), hit.fundamental_hz, hit.length_ms, state.brief.key,
                state.brief.a4_hz, resampled=False,
            )  # fmt: skip
            state = state.model_copy(update={"kick": _shifted(state.kick, move.shift_semitones)})
        return state


def _shifted(kick: MadeKick | ImportedKick, semitones: float) -> MadeKick | ImportedKick:
    """The same kick higher by `semitones`; the limits of its controls still hold."""
    if isinstance(kick, MadeKick):
        values = kick.recipe.model_dump()
        values["end_hz"] = round(kick.recipe.end_hz * 2 ** (semitones / 12), 3)
        return MadeKick(recipe=type(kick.recipe)(**values))
    values = kick.model_dump()
    values["shift_semitones"] = round(kick.shift_semitones + semitones, 5)
    return ImportedKick(**values)
