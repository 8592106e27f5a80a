"""All duckings of a track beside each other."""

from dataclasses import dataclass

from juglant.core import RATE
from juglant.core.lowend import buses
from juglant.core.lowend.buses import BusReport
from juglant.core.lowend.session import LoopSound, Session
from juglant.core.measure.stereo import listening_channel
from juglant.core.recipes.bus import STAND_IN
from juglant.core.recipes.track import TrackState


@dataclass(frozen=True)
class Overview:
    """What can start and be turned down, and the report of every bus in its order."""

    triggers: list[str]
    targets: list[str]
    reports: list[BusReport]


def _part(session: Session, state: TrackState, name: str) -> LoopSound | None:
    """A part of the loop by its name, before any ducking; None where it is not heard."""
    if name == STAND_IN:
        return session.stand_in(state)
    for voice in state.heard:
        if voice.name == name:
            return session.line_loop(state, voice)
    for index, hit in enumerate(state.hits, 1):
        if hit.name == name:
            return session.hit_loop(state, index)
    return None


def overview(session: Session, state: TrackState, bar: int) -> Overview:
    """Every bus measured; `bar` (from 0) is the one whose gain is told."""
    reports = []
    for bus in state.buses:
        part = _part(session, state, bus.target)
        plain = None if part is None else listening_channel(part.samples)
        ducked = (
            None if plain is None
            else buses.under(plain, buses.buses_of(state, bus.target), state, RATE)
        )  # fmt: skip
        reports.append(buses.report(bus, state, plain, ducked, bar, RATE))
    return Overview(buses.triggers_of(state), buses.targets_of(state), reports)
