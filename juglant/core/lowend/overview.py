"""All duckings of a track beside each other."""

from dataclasses import dataclass, replace

import numpy as np

from juglant.core import RATE
from juglant.core.errors import UserError
from juglant.core.lowend import buses, ducking
from juglant.core.lowend.buses import BusReport
from juglant.core.lowend.session import Session
from juglant.core.lowend.sounds import Array
from juglant.core.lowend.sparing import spare_owner, sparing
from juglant.core.measure import levels
from juglant.core.measure.loopsound import LoopSound
from juglant.core.measure.overlap import COUNTED_DB, LowLevel, colliding, levelled
from juglant.core.measure.owner import kept_levels
from juglant.core.measure.pumping import GROOVE_DB, TRANSPARENT_DB, Heard, heard, pumping
from juglant.core.measure.stereo import listening_channel
from juglant.core.process import filters
from juglant.core.process.filters import LOW_BAND_HZ
from juglant.core.recipes.brief import Owner
from juglant.core.recipes.bus import Bus
from juglant.core.recipes.track import TrackState

# What is heard of all duckings together.
EVERYTHING = "everything"


@dataclass(frozen=True)
class Overview:
    """What can start and be turned down, and the report of every bus in its order.

    Pumping below `transparent_db` is heard as steady, above `groove_db` as groove (common practice).
    """

    triggers: list[str]
    targets: list[str]
    reports: list[BusReport]
    transparent_db: float = TRANSPARENT_DB
    groove_db: float = GROOVE_DB


@dataclass(frozen=True)
class PartHeard:
    """What all duckings take of a part's loudness, how deep it pumps, and how often in a second."""

    name: str
    taken_lu: float
    pumping_db: float
    rate_hz: float


@dataclass(frozen=True)
class DepthHeard:
    """Each line under the ducking by the kick, then the whole track under every ducking there is."""

    parts: list[PartHeard]
    transparent_db: float = TRANSPARENT_DB
    groove_db: float = GROOVE_DB


def overview(session: Session, state: TrackState, bar: int) -> Overview:
    """Every bus measured; `bar` (from 0) is the one whose gain is told."""
    reports = []
    for bus in state.buses:
        part = session.part(state, bus.target)
        plain = ducked = None
        if part is not None:
            wanted = buses.buses_of(state, bus.target)
            plain = part.heard
            mono, edge = listening_channel(part.samples), session.bus_edge(state, bus.target)
            ducked = heard(buses.under(mono, wanted, state, RATE, edge), RATE)
        reports.append(buses.report(bus, state, plain, ducked, bar))
    return Overview(buses.triggers_of(state), buses.targets_of(state), reports)


def depth_heard(session: Session, state: TrackState) -> DepthHeard:
    """How much of the loudness the duckings take, and how it pumps."""
    loop = session.loop(state)
    kicks_hz = len(loop.times_ms) / (loop.length_ms / 1000)
    stems = session.line_stems(state)
    found = []
    for voice in state.heard:
        plain = session.line_loop(state, voice).heard
        found.append(_depth(voice.name, plain, stems[voice.name].heard, kicks_hz))
    rest = session.rest_stems(state)
    undone = loop.kick.samples + loop.bass.samples
    ducked = loop.kick.samples + loop.ducked.samples
    for name, samples in rest.items():
        part = session.part(state, name)
        if part is not None:
            undone = undone + listening_channel(part.samples)
            ducked = ducked + listening_channel(samples)
    found.append(_depth(EVERYTHING, heard(undone, RATE), heard(ducked, RATE), kicks_hz))
    return DepthHeard(found)


def _depth(name: str, plain: Heard, ducked: Heard, rate_hz: float) -> PartHeard:
    pumps = pumping(plain, ducked)
    return PartHeard(name, pumps.taken_lu, pumps.depth_db, rate_hz)


# What has less of its energy below 150 Hz is not cleared there but over all that is heard.
_LOW_SHARE_DB = -13.0
_SOLVED_RATE = 6000
# Where loudness is compared, what is quiet counts as well.
_ALL_COUNTS_DB = 200.0


def _heard_level(x: Array) -> LowLevel:
    """K-weighted level of a loop: what is heard of a sound that is not low. Its power alone counts, so a
    rate that is enough for 10 ms is kept.
    """
    weighted = filters.around_loop(x, levels.k_weighting(RATE))
    every = RATE // _SOLVED_RATE
    frames = weighted.size // every * every
    power = (weighted[:frames] ** 2).reshape(-1, every).mean(axis=1)
    return levelled(np.sqrt(power), frames / every / (x.size / RATE), loop=True)


@dataclass(frozen=True)
class _Meeting:
    """What starts a bus and what it turns down, in the band in which both are heard."""

    there: LowLevel
    here: LowLevel
    starts_ms: list[float]
    length_ms: float
    owner: Owner = "kick"
    counted_db: float = COUNTED_DB


def _meeting(session: Session, state: TrackState, bus: Bus) -> _Meeting:
    """UserError where nothing can be measured: a note value makes no sound, and a part that is not
    played has none.
    """
    if bus.trigger == buses.NOTE_VALUE:
        raise UserError("A note value makes no sound that could be kept clear: set its depth by hand.")
    starts = buses.times_ms(bus, state)
    trigger, target = _trigger(session, state, bus.trigger), session.part(state, bus.target)
    if trigger is None or target is None or not starts:
        raise UserError(f"“{bus.trigger}” or “{bus.target}” is not played: there is nothing to measure.")
    length = trigger.samples.shape[0] / RATE * 1000
    if not all(_is_low(one) for one in (trigger, target)):
        levels = [_heard_level(listening_channel(one.samples)) for one in (trigger, target)]
        return _Meeting(levels[0], levels[1], starts, length, counted_db=_ALL_COUNTS_DB)
    owner, edge = state.brief.sub_owner, None
    is_line = any(voice.name == bus.target for voice in state.voices)
    if owner == "bass" and is_line and bus.duck.band == "by owner":
        edge = session.bass_edge(state)
    if edge is None:
        return _Meeting(trigger.level, target.level, starts, length)
    kept = kept_levels(trigger, target, owner, edge)
    assert kept is not None
    here = sparing(kept[1], target, bus.duck, owner, edge, edge)
    return _Meeting(kept[0], here, starts, length, owner)


def solve_bus(session: Session, state: TrackState, bus: Bus) -> ducking.Solution:
    """The least ducking of a bus that keeps its trigger clear of its target, and its margin.

    In the low band where both are low, else in all that is heard.
    """
    met = _meeting(session, state, bus)
    found = ducking.solve(
        met.there,
        met.here,
        met.starts_ms,
        met.length_ms,
        bus.margin_db,
        met.owner,
        counted_db=met.counted_db,
    )
    band = {"band": bus.duck.band, "edge_hz": bus.duck.edge_hz}
    recipe = found.recipe.model_copy(update=band)
    target = session.part(state, bus.target)
    if met.owner == "bass" and target is not None:
        edge = session.bass_edge(state)
        spared = spare_owner(recipe, target, edge, edge, met.starts_ms, met.length_ms)
        found = replace(found, complete=found.complete and spared == recipe)
        recipe = spared
    return replace(found, recipe=recipe)


def covered_share(session: Session, state: TrackState, bus: Bus) -> float:
    """The share of a trigger's time in which its target covers it, ducked as it is."""
    met = _meeting(session, state, bus)
    ducked = ducking.ducked_level(met.here, bus.duck, met.starts_ms, met.length_ms)
    clash = colliding(met.there, ducked, met.owner, met.counted_db)
    return float(np.sum(clash)) / max(int(met.there.present.sum()), 1)


def _trigger(session: Session, state: TrackState, name: str) -> LoopSound | None:
    """What starts a bus, as it sounds; a muted hit is measured as if it were heard."""
    if name == state.kick.name:
        return session.kick_loop(state)
    hits = tuple(hit.model_copy(update={"mute": False}) for hit in state.hits)
    return session.part(state.model_copy(update={"hits": hits, "lines": ()}), name)


def _is_low(loop: LoopSound) -> bool:
    return loop.spectrum.share_db(*LOW_BAND_HZ) > _LOW_SHARE_DB
