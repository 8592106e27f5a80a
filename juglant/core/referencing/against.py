"""A track's low end against records: differences, a range where there are several, ways to get nearer."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from juglant.core import RATE
from juglant.core.errors import UserError
from juglant.core.findings import Effect, Finding, findings
from juglant.core.findings.fixes import MONO_BELOW_HZ, can_shorten, made_changed, mono_sum, shortened
from juglant.core.lowend.curves import returning_on
from juglant.core.lowend.line import line_of
from juglant.core.lowend.session import Session
from juglant.core.measure.loopsound import LoopSound
from juglant.core.measure.record import Difference, Record, differences, record
from juglant.core.recipes.fields import in_limits, within
from juglant.core.recipes.kick import KickRecipe
from juglant.core.recipes.track import TrackState
from juglant.core.rooms.judged import everything

Array = NDArray[np.float64]

# A loop is gone round until it is as long as a record's passage.
_LEAST_S = 16.0
TRACK, REFERENCE, REFERENCES = "the track", "the reference", "the references"
# What a song is free in, and what mastering makes of it.
_NO_FAULT = ("bpm", "lufs", "true_peak_dbtp")
_LOW_END_HZ = 350.0
# A way is offered where it takes this share of the difference away.
_NEARER_SHARE = 0.4
_WHY = "A record that works is no rule: it tells what is unusual, not what is wrong."


def track_record(session: Session, state: TrackState) -> Record:
    """A track's loop measured as a record is, at its own tempo.

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.

    Returns
    -------
    Record
        Its numbers.

    Examples
    --------
    >>> track_record(Session(), TrackState()).bpm
    128.0
    """
    loop, starts, brief = everything(session, state), line_of(state).starts(state.kick.id), state.brief
    return session.sounds.once(_as_record, loop, starts, brief.bpm, str(brief.key))


def _as_record(loop: LoopSound, starts_ms: list[float], bpm: float, key: str) -> Record:
    x = loop.samples
    turns = max(1, int(np.ceil(_LEAST_S * RATE / x.shape[0])))
    long_ms = x.shape[0] / RATE * 1000
    kicks = [at + turn * long_ms for turn in range(turns) for at in sorted(starts_ms)]
    return record(np.concatenate([x] * turns), RATE, bpm, key, kicks)


def nearest_of(track: Record, records: list[Record]) -> Record:
    """One record out of several: of every number what is nearest to the track's, which is its own where
    that lies among them.

    Parameters
    ----------
    track
        Record of the track.
    records
        Those that it is held against.

    Returns
    -------
    Record
        One of them all.

    Examples
    --------
    >>> mine = track_record(Session(), TrackState())
    >>> nearest_of(mine, [mine]).bpm == mine.bpm
    True
    """

    def near(mine: float | None, theirs: list[float | None]) -> float | None:
        known = [value for value in theirs if value is not None]
        if mine is None or not known:
            return known[0] if known else None
        return min(max(mine, min(known)), max(known))

    fields: dict[str, Any] = {}
    for name in Record.__dataclass_fields__:
        mine, theirs = getattr(track, name), [getattr(one, name) for one in records]
        if isinstance(mine, dict) and name != "reasons":
            fields[name] = {key: near(value, [one[key] for one in theirs]) for key, value in mine.items()}
        elif name not in ("key", "reasons") and isinstance(mine, int | float | None):
            fields[name] = near(mine, theirs)
    return replace(records[0], **fields)


def against(track: Record, records: list[Record]) -> list[Difference]:
    """What is different in the records from the track, the largest first; of several, what lies outside
    their range. UserError where there are none.

    Parameters
    ----------
    track
        Record of the track.
    records
        Those that it is held against.

    Returns
    -------
    list of Difference
        The largest first.

    Examples
    --------
    >>> mine = track_record(Session(), TrackState())
    >>> against(mine, [mine])
    []
    """
    if not records:
        raise UserError("There is no reference to be held against: bring one in.", "records")
    other = REFERENCE if len(records) == 1 else REFERENCES
    found = differences(track, nearest_of(track, records), first=TRACK, second=other)
    return [one for one in found if one.name not in _NO_FAULT and not _is_high(one.name)]


def _is_high(name: str) -> bool:
    """Whether it is of a band above the low end: what else plays in a song is its own matter."""
    return name.startswith("third_") and float(name.split("_")[1]) > _LOW_END_HZ


@dataclass(frozen=True)
class _Way:
    """How one number is brought nearer: what the button says, and the state that it leads to."""

    label: str
    made: Callable[[TrackState, Difference, float], TrackState]


def _deeper(state: TrackState, difference: Difference, scale: float) -> TrackState:
    duck = state.duck
    wished = within(duck, depth_db=round(duck.depth_db + scale * difference.difference, 1))
    return state.with_duck(duck=wished, on=True)


def _returning(state: TrackState, difference: Difference, scale: float) -> TrackState:
    wished = difference.a + scale * difference.difference
    return state.with_duck(duck=returning_on(state.duck, max(20.0, wished)))


def _as_long(state: TrackState, difference: Difference, scale: float) -> TrackState:
    factor = 1 + scale * difference.difference / max(difference.a, 1.0)
    if factor < 1 and can_shorten(state.kick):
        return state.with_part(shortened(state.kick, max(factor, 0.2), difference.a))
    longer = made_changed(
        state.kick,
        lambda recipe: {
            "length_note": "ms",
            **in_limits(
                KickRecipe, decay_ms=recipe.decay_ms * factor, length_ms=recipe.length_ms * factor,
                hold_ms=recipe.hold_ms * factor,
            ),
        },
    )  # fmt: skip
    return state.with_part(longer)


def _balanced(state: TrackState, difference: Difference, scale: float) -> TrackState:
    """The louder of kick and lines turned down: nothing peaks that did not."""
    by = scale * difference.difference
    if by < 0:
        return state.with_part(within(state.kick, level_db=round(state.kick.level_db + by, 1)))
    for voice in state.heard:
        place = within(voice.place, gain_db=round(voice.place.gain_db - by, 1))
        state = state.with_part(voice.model_copy(update={"place": place}))
    return state


_WAYS: dict[str, _Way] = {
    "ducking_depth_db": _Way("Duck to the same depth", _deeper),
    "ducking_return_ms": _Way("Let the bass be back as soon", _returning),
    "kick_length_ms": _Way("Make the kick as long", _as_long),
    "kick_over_bass_db": _Way("Bring the kick as far over the bass", _balanced),
    "sub_correlation": _Way(
        f"Make the sum mono below {MONO_BELOW_HZ:.0f} Hz", lambda state, *_: mono_sum(state)
    ),
}
# What is aimed at is read off a level: it takes a try or two to get there.
_TRIES, _THERE = 4, 0.1


def way_of(difference: Difference) -> str | None:
    """What a button that brings a number nearer says; None where there is no single move for it.

    Parameters
    ----------
    difference
        One of them.

    Returns
    -------
    str or None
        What the button says.

    Examples
    --------
    >>> said = "The reference is 4 LU louder."
    >>> difference = Difference("lufs", -14.0, -10.0, 4.0, "LUFS", said, None, 4.0)
    >>> way_of(difference) is None
    True
    """
    way = _WAYS.get(difference.name)
    return None if way is None or difference.fix is None else way.label


def nearer(session: Session, state: TrackState, records: list[Record], name: str) -> Effect:
    """A state in which one number is nearer to the records, measured before and after. UserError where no
    move was found that brings it nearer by much, or that may be taken.

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.
    records
        Those that it is held against.
    name
        Of the number.

    Returns
    -------
    Effect
        Before and after.

    Examples
    --------
    >>> session, state = Session(), TrackState()
    >>> mine = track_record(session, state)
    >>> effect = nearer(session, state, [replace(mine, kick_length_ms=120.0)], "kick_length_ms")
    >>> round(effect.before), round(effect.after)
    (104, 124)
    """
    mine = track_record(session, state)
    difference = next((one for one in against(mine, records) if one.name == name), None)
    way = None if difference is None or way_of(difference) is None else _WAYS[name]
    if difference is None or way is None:
        raise UserError("This is no difference that one move would take away.", "name")
    best: tuple[float, TrackState, float] | None = None
    scale = 1.0
    for _ in range(_TRIES):
        tried = way.made(state, difference, scale)
        value = getattr(track_record(session, tried), name) if tried != state else None
        if value is None:
            break
        rest = abs(value - difference.b)
        if best is None or rest < best[0]:
            best = rest, tried, value
        # As far again as it fell short, or back as far as it went beyond.
        share = (value - difference.a) / difference.difference
        if share <= 0 or abs(share - 1) < _THERE:
            break
        scale *= min(max(1 / share, 0.4), 2.5)
    if best is None:
        why = "there is nothing left to move" if tried == state else "the number is not measured after it"
        raise UserError(f"{way.label}: {why}.", "name")
    if best[0] > (1 - _NEARER_SHARE) * abs(difference.difference):
        was_there, got, wished = (f"{one:.4g}" for one in (difference.a, best[2], difference.b))
        raise UserError(
            f"{way.label}: it was tried, and led from {was_there} to {got} {difference.unit}, which is not"
            f" much nearer to {wished}.", "name",
        )  # fmt: skip
    before, after = session.answer(state), session.answer(best[1])
    was = {one.id: one for one in findings(session, before)}
    is_ = {one.id: one for one in findings(session, after)}
    opened = [one for id, one in is_.items() if id not in was]
    if opened:
        raise UserError(f"{way.label}: it was tried, and is not worth it. {opened[0].sentence}", "name")
    return Effect(
        best[1], difference.a, best[2], before.mix_after.lufs, after.mix_after.lufs,
        [id for id in was if id not in is_], [],
    )  # fmt: skip


def as_finding(difference: Difference) -> Finding:
    """A difference in the shape of a finding, so that it is heard and taken as a fix is.

    Parameters
    ----------
    difference
        One of them.

    Returns
    -------
    Finding
        In that shape.

    Examples
    --------
    >>> said = "The reference is 4 LU louder."
    >>> difference = Difference("lufs", -14.0, -10.0, 4.0, "LUFS", said, None, 4.0)
    >>> as_finding(difference).value
    -14.0
    """
    label = way_of(difference)
    return Finding(
        f"reference-{difference.name}", "room", difference.said, difference.name, difference.a,
        difference.b, difference.unit, _WHY, {} if label is None else {"nearer": label},
    )  # fmt: skip
