"""All duckings of a track beside each other."""

from dataclasses import dataclass, replace

import numpy as np

from juglant.core import RATE
from juglant.core.errors import UserError
from juglant.core.lowend import clearing, duckings
from juglant.core.lowend.duckings import DuckingReport, Start
from juglant.core.lowend.keyed import AsCompressor
from juglant.core.lowend.session import Session
from juglant.core.lowend.sounds import Array
from juglant.core.lowend.sparing import spare_owner, sparing
from juglant.core.measure import levels
from juglant.core.measure.loopsound import LoopSound
from juglant.core.measure.overlap import COUNTED_DB, LowLevel, colliding, levelled
from juglant.core.measure.owner import kept_levels
from juglant.core.measure.pumping import GROOVE_DB, TRANSPARENT_DB, Heard, heard, pumping
from juglant.core.process import filters
from juglant.core.process.filters import LOW_BAND_HZ
from juglant.core.recipes.brief import Owner
from juglant.core.recipes.ducking import Ducking
from juglant.core.recipes.fields import is_off
from juglant.core.recipes.track import TrackState
from juglant.core.synth.bass import loop_frames

# What is heard of all duckings together.
EVERYTHING = "everything"


@dataclass(frozen=True)
class Overview:
    """What can start a ducking, by its id, and the report of every ducking in its order.

    Pumping below `transparent_db` is heard as steady, above `groove_db` as groove (common practice).
    """

    triggers: list[str]
    reports: list[DuckingReport]
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
    """Every ducking measured; `bar` (from 0) is the one whose gain is told.

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.
    bar
        From 0.

    Returns
    -------
    Overview
        Each in numbers.

    Examples
    --------
    >>> from juglant.core.lowend.session import Session
    >>> from juglant.core.recipes.track import TrackState
    >>> type(overview(Session(), TrackState(), 0)).__name__
    'Overview'
    """
    reached = {target.part for one in state.duckings for target in one.targets}
    heard_as = {part: _before_and_after(session, state, part) for part in reached}
    reports = [
        duckings.report(
            one, session.parts.starts(state, one), state,
            {target.part: heard_as[target.part] for target in one.targets}, bar,
        )
        for one in state.duckings
    ]  # fmt: skip
    return Overview(duckings.triggers_of(state), reports)


def _before_and_after(session: Session, state: TrackState, id: str) -> tuple[Heard, Heard] | None:
    """A part before and under all of its duckings; None where it is not heard."""
    loop = session.parts.part(state, id)
    if loop is None:
        return None
    return loop.heard, session.parts.turned_down(state, loop, session.parts.acting(state, id)).heard


@dataclass(frozen=True)
class PlayedDucking:
    """A ducking that is on and started: when, its gain at every frame, and the compressors that come
    closest to it.
    """

    ducking: Ducking
    starts_ms: list[float]
    gain_db: Array
    compressors: list[AsCompressor]


def _does_anything(one: Ducking, starts: list[Start]) -> bool:
    return bool(one.on and one.targets and not is_off(one.duck, "depth_db") and starts)


def played_ids(session: Session, states: list[TrackState]) -> list[str]:
    """The ids of the duckings that do anything in one of some sections, in their order.

    Parameters
    ----------
    session, states
        Renders and keeps what was asked for; of the sections.

    Returns
    -------
    list of str
        Ids.

    Examples
    --------
    >>> from juglant.core.lowend.session import Session
    >>> from juglant.core.recipes.track import TrackState
    >>> played_ids(Session(), [TrackState()]) == [TrackState().duckings[0].id]
    True
    """
    found: dict[str, None] = {}
    for state in states:
        for one in state.duckings:
            if _does_anything(one, session.parts.starts(state, one)):
                found[one.id] = None
    return [one.id for one in states[0].duckings if one.id in found]


def played_duckings(session: Session, state: TrackState) -> list[PlayedDucking]:
    """Every ducking of a track that does anything, in its order.

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.

    Returns
    -------
    list of PlayedDucking
        In their order.

    Examples
    --------
    >>> from juglant.core.lowend.session import Session
    >>> from juglant.core.recipes.track import TrackState
    >>> len(played_duckings(Session(), TrackState()))
    1
    """
    frames = loop_frames(state.brief, RATE)
    found = []
    for one in state.duckings:
        starts = session.parts.starts(state, one)
        if _does_anything(one, starts):
            found.append(
                PlayedDucking(
                    one, [start.at_ms for start in starts],
                    duckings.gain_db(one.duck, starts, frames, RATE), session.as_compressor(state, one),
                )
            )  # fmt: skip
    return found


def depth_heard(session: Session, state: TrackState) -> DepthHeard:
    """How much of the loudness the duckings take, and how it pumps.

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.

    Returns
    -------
    DepthHeard
        In LU and dB.

    Examples
    --------
    >>> from juglant.core.lowend.session import Session
    >>> from juglant.core.recipes.track import TrackState
    >>> type(depth_heard(Session(), TrackState())).__name__
    'DepthHeard'
    """
    loop = session.loop(state)
    kicks_hz = len(loop.times_ms) / (loop.length_ms / 1000)
    stems = session.line_stems(state)
    found = []
    for voice in state.heard:
        plain = session.parts.line_loop(state, voice).heard
        found.append(_depth(voice.name, plain, stems[voice.id].heard, kicks_hz))
    rest = session.rest_stems(state)
    undone = session.parts.kick_loop(state).mono + loop.bass.mono
    ducked = loop.kick.mono + loop.ducked.mono
    for id, loop_ducked in rest.items():
        part = session.parts.part(state, id)
        if part is not None:
            undone = undone + part.mono
            ducked = ducked + loop_ducked.mono
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
    """What starts a ducking and what it turns down, in the band in which both are heard."""

    there: LowLevel
    here: LowLevel
    starts_ms: list[float]
    length_ms: float
    owner: Owner = "kick"
    counted_db: float = COUNTED_DB


def _meeting(session: Session, state: TrackState, one: Ducking) -> _Meeting:
    """UserError where nothing can be measured: a note value makes no sound, and a part that is not
    played has none.
    """
    if not one.triggers:
        raise UserError("A note value makes no sound that could be kept clear: set its depth by hand.")
    starts = [start.at_ms for start in session.parts.starts(state, one)]
    there = [loop for id in one.triggers if (loop := session.parts.unmuted(state, id)) is not None]
    here = _targets(session, state, one)
    if not there or here is None or not starts:
        names = [state.named(id) for id in (*one.triggers, *(target.part for target in one.targets))]
        raise UserError(f"Of {' and '.join(names)}, one is not played: there is nothing to measure.")
    trigger, target = LoopSound(session.parts.together(there, state).mono), here
    length = trigger.samples.shape[0] / RATE * 1000
    if not all(_is_low(loop) for loop in (trigger, target)):
        levels = [_heard_level(loop.samples) for loop in (trigger, target)]
        return _Meeting(levels[0], levels[1], starts, length, counted_db=_ALL_COUNTS_DB)
    owner, edge = state.brief.sub_owner, None
    lines = {voice.id for voice in state.voices}
    if owner == "bass" and one.duck.band == "by owner" and any(t.part in lines for t in one.targets):
        edge = session.parts.bass_edge(state)
    if edge is None:
        return _Meeting(trigger.level, target.level, starts, length)
    kept = kept_levels(trigger, target, owner, edge)
    assert kept is not None
    return _Meeting(kept[0], sparing(kept[1], target, one.duck, owner, edge, edge), starts, length, owner)


def _targets(session: Session, state: TrackState, one: Ducking) -> LoopSound | None:
    """What a ducking turns down, together; None where nothing of it is heard."""
    loops = [loop for target in one.targets if (loop := session.parts.part(state, target.part)) is not None]
    return LoopSound(session.parts.together(loops, state).mono) if loops else None


def solve_ducking(session: Session, state: TrackState, one: Ducking) -> clearing.Solution:
    """The least of a ducking that keeps its triggers clear of its targets, and its margin.

    In the low band where both are low, else in all that is heard.

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.
    one
        The ducking.

    Returns
    -------
    Solution
        The curve, and whether it clears all.

    Examples
    --------
    >>> from juglant.core.lowend.session import Session
    >>> from juglant.core.recipes.track import TrackState
    >>> session, state = Session(), TrackState()
    >>> solve_ducking(session, state, state.duckings[0]).recipe.depth_db >= 0
    True
    """
    met = _meeting(session, state, one)
    found = clearing.solve(
        met.there, met.here, met.starts_ms, met.length_ms, one.margin_db, met.owner,
        counted_db=met.counted_db,
    )  # fmt: skip
    band = {"band": one.duck.band, "edge_hz": one.duck.edge_hz}
    recipe = found.recipe.model_copy(update=band)
    target = _targets(session, state, one)
    if met.owner == "bass" and target is not None:
        edge = session.parts.bass_edge(state)
        spared = spare_owner(recipe, target, edge, edge, met.starts_ms, met.length_ms)
        found = replace(found, complete=found.complete and spared == recipe)
        recipe = spared
    return replace(found, recipe=recipe)


def covered_share(session: Session, state: TrackState, one: Ducking) -> float:
    """The share of its triggers' time in which a ducking's targets cover them, ducked as they are.

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.
    one
        The ducking.

    Returns
    -------
    float
        0 to 1.

    Examples
    --------
    >>> from juglant.core.lowend.session import Session
    >>> from juglant.core.recipes.track import TrackState
    >>> state = TrackState()
    >>> 0 <= covered_share(Session(), state, state.duckings[0]) <= 1
    True
    """
    met = _meeting(session, state, one)
    ducked = clearing.ducked_level(met.here, one.duck, met.starts_ms, met.length_ms)
    clash = colliding(met.there, ducked, met.owner, met.counted_db)
    return float(np.sum(clash)) / max(int(met.there.present.sum()), 1)


def _is_low(loop: LoopSound) -> bool:
    return loop.spectrum.share_db(*LOW_BAND_HZ) > _LOW_SHARE_DB
