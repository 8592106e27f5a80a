"""Several triggers to several targets, each pair with a ducking of its own."""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from juglant.core.hits.chain import each_channel
from juglant.core.lowend import ducking
from juglant.core.lowend.line import kicks_of, strokes_of
from juglant.core.lowend.loop import gaps_ms
from juglant.core.measure.owner import SubEdge
from juglant.core.measure.pumping import Heard, pumping
from juglant.core.music import beat_ms, note_value_ms, pitch_class, swung
from juglant.core.process import space
from juglant.core.recipes.bus import STAND_IN, Bus
from juglant.core.recipes.track import TrackState
from juglant.core.synth.bass import loop_frames

Array = NDArray[np.float64]

NOTE_VALUE = "note value"
_DAMPING_HZ, _HALL_LOW_CUT_HZ, _SEED = 5000.0, 150.0, 21
_PAD_LOWEST_MIDI, _PAD_PARTIALS, _PAD_LEVEL_DB = 48, 12, -18.0


def triggers_of(state: TrackState) -> list[str]:
    """What can start a bus: every hit that is played, muted or not, and note values."""
    return [hit.name for index, hit in enumerate(state.all_hits) if index == 0 or hit.steps] + [NOTE_VALUE]


def targets_of(state: TrackState) -> list[str]:
    """What a bus can turn down: lines, hits beside the kick, the stand-in, and stems."""
    names = [voice.name for voice in state.voices] + [hit.name for hit in state.hits]
    return [*names, STAND_IN, *(stem.name for stem in state.stems)]


def times_ms(bus: Bus, state: TrackState) -> list[float]:
    """When a bus starts in one pass of the loop; empty where its trigger is not there."""
    brief = state.brief
    beat = beat_ms(brief.bpm)
    length = 4 * beat * brief.bars
    if bus.trigger == NOTE_VALUE:
        step = note_value_ms(bus.rate, brief.bpm)
        straight = [n * step / beat for n in range(round(length / step))]
        return [swung(at, brief.swing_percent) * beat for at in straight]
    if bus.trigger == state.kick.name:
        return kicks_of(brief, length)
    for hit in state.hits:
        if hit.name == bus.trigger:
            return [stroke.at_ms for stroke in strokes_of(hit, brief)]
    return []


def gain_db(bus: Bus, state: TrackState, frames: int, rate: int) -> Array:
    """A bus's gain in dB at every frame of the loop; 0 where its trigger is not there."""
    length = frames / rate * 1000
    starts = times_ms(bus, state)
    if not starts or not bus.on:
        return np.zeros(frames)
    return ducking.curve_db(bus.duck, starts, length, 1000 / rate, loop=True)[:frames]


def _wet(x: Array, bus: Bus, rate: int) -> Array:
    """A loop with the bus's reverb on it."""
    hall = space.answer("hall", bus.reverb_ms, _DAMPING_HZ, _HALL_LOW_CUT_HZ, _SEED, rate)
    return x + 10 ** (bus.reverb_db / 20) * space.around_loop(x, hall)


def spares_owner(state: TrackState, name: str) -> bool:
    """Whether a ducking of a part leaves a bass that owns the sub what it owns."""
    return any(bus.duck.band == "by owner" for bus in buses_of(state, name))


def _turned_down(x: Array, bus: Bus, state: TrackState, rate: int, edge: SubEdge | None) -> Array:
    gain = gain_db(bus, state, x.size, rate)
    return ducking.under(x, gain, ducking.left_alone(x, bus.duck, edge, rate))


def under(x: Array, buses: list[Bus], state: TrackState, rate: int, edge: SubEdge | None = None) -> Array:
    """A loop, shape (frames,) or (frames, channels), turned down by every bus, one after another.

    `edge` is what a bass that owns the sub keeps below. A bus's reverb comes before its ducking, or after
    it where its tail is to ring through.
    """

    def one(channel: Array) -> Array:
        for bus in buses:
            reverberates = bus.reverb_db > -40.0
            if reverberates and bus.tail == "ducked":
                channel = _wet(channel, bus, rate)
            channel = _turned_down(channel, bus, state, rate, edge)
            if reverberates and bus.tail == "rings through":
                channel = _wet(channel, bus, rate)
        return channel

    return each_channel(x, one)


def stand_in(state: TrackState, rate: int) -> Array:
    """A held fifth and third over every bar's root, shape (frames,): sawtooth partials that fall off,
    so that what a bus does to a pad is heard before there is one.
    """
    brief = state.brief
    frames = loop_frames(brief, rate)
    edges = np.round(np.linspace(0, frames, brief.bars + 1)).astype(int)
    out = np.zeros(frames)
    for bar, (first, last) in enumerate(pairwise(edges)):
        time = np.arange(last - first) / rate
        root = _PAD_LOWEST_MIDI + pitch_class(brief.root_of(bar))
        third = 4 if (root + 4) % 12 in brief.key.classes else 3
        for n, semitones in enumerate((0, third, 7)):
            hz = brief.a4_hz * 2 ** ((root + semitones - 69) / 12)
            for partial in range(1, _PAD_PARTIALS + 1):
                out[first:last] += np.sin(2 * np.pi * partial * hz * time + n + partial) / partial**1.5
        # A short fade at either end: bars join without a click.
        fade = np.minimum(1.0, np.minimum(time, time[::-1]) / 0.01)
        out[first:last] *= fade
    return out * 10 ** (_PAD_LEVEL_DB / 20) / max(float(np.max(np.abs(out))), 1e-9)


@dataclass(frozen=True)
class BusReport:
    """What a bus does: its numbers, its gain every ms of a bar, and how much of the target it takes.

    `heard` is False where its trigger or target is not there. `taken_lu` and `pumping_db` are what
    all of the target's buses do to it: how much of its loudness they take over the loop, and how far
    it goes up and down; `rate_hz` is how often this one does, `gap_ms` the shortest time between two.
    """

    heard: bool
    duck: ducking.Duck | None
    gain_db: list[float]
    taken_lu: float | None
    pumping_db: float | None
    rate_hz: float
    gap_ms: float | None


def report(bus: Bus, state: TrackState, target: Heard | None, ducked: Heard | None, bar: int) -> BusReport:
    """The report of one bus on its target as it is heard before and under all of the target's buses."""
    starts = times_ms(bus, state)
    brief = state.brief
    bar_ms = 4 * beat_ms(brief.bpm)
    length = bar_ms * brief.bars
    curve = np.zeros(round(bar_ms))
    if starts and bus.on:
        gain = ducking.curve_db(bus.duck, starts, length, 1.0, loop=True)
        first = round((bar % brief.bars) * bar_ms)
        curve = gain[first : first + curve.size]
    taken = pumps = None
    if target is not None and ducked is not None and target.mean > 0:
        both = pumping(target, ducked)
        taken, pumps = both.taken_lu, both.depth_db
    return BusReport(
        bool(starts) and target is not None and bus.on,
        ducking.measure_duck(bus.duck, starts, length, brief.bpm) if starts else None,
        np.round(curve, 2).tolist(), taken, pumps,
        len(starts) / (length / 1000), min(gaps_ms(starts, length)) if starts else None,
    )  # fmt: skip


def buses_of(state: TrackState, name: str) -> list[Bus]:
    """The buses that are on and turn a part down, in their order."""
    return [bus for bus in state.buses if bus.on and bus.target == name]
