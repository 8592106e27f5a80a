"""All duckings of a track beside each other."""

from dataclasses import dataclass

from juglant.core import RATE
from juglant.core.lowend import buses
from juglant.core.lowend.buses import BusReport
from juglant.core.lowend.session import Session
from juglant.core.lowend.sounds import Array
from juglant.core.measure.pumping import GROOVE_DB, TRANSPARENT_DB, pumping
from juglant.core.measure.stereo import listening_channel
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
        plain = None if part is None else listening_channel(part.samples)
        ducked = (
            None if plain is None
            else buses.under(plain, buses.buses_of(state, bus.target), state, RATE)
        )  # fmt: skip
        reports.append(buses.report(bus, state, plain, ducked, bar, RATE))
    return Overview(buses.triggers_of(state), buses.targets_of(state), reports)


def depth_heard(session: Session, state: TrackState) -> DepthHeard:
    """How much of the loudness the duckings take, and how it pumps."""
    loop = session.loop(state)
    kicks_hz = len(loop.times_ms) / (loop.length_ms / 1000)
    stems = session.line_stems(state)
    found = []
    for voice in state.heard:
        plain = session.line_loop(state, voice).samples
        found.append(_depth(voice.name, plain, stems[voice.name].samples, kicks_hz))
    rest = session.rest_stems(state)
    plain = loop.kick.samples + loop.bass.samples
    ducked = loop.kick.samples + loop.ducked.samples
    for name, samples in rest.items():
        part = session.part(state, name)
        if part is not None:
            plain, ducked = plain + listening_channel(part.samples), ducked + listening_channel(samples)
    found.append(_depth(EVERYTHING, plain, ducked, kicks_hz))
    return DepthHeard(found)


def _depth(name: str, plain: Array, ducked: Array, rate_hz: float) -> PartHeard:
    heard = pumping(plain, ducked, RATE)
    return PartHeard(name, heard.taken_lu, heard.depth_db, rate_hz)
