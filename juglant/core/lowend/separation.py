"""The least that parts kick and bass, by search; and the phase between them."""

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from juglant.core.lowend.proposing import CUT_Q, strongest_hz
from juglant.core.lowend.session import Session
from juglant.core.lowend.trial import CANCELLING_DB, Side, Trial, Tried, plain
from juglant.core.measure.overlap import (
    LOW_BANDS_HZ,
)
from juglant.core.recipes.separate import SeparateRecipe
from juglant.core.recipes.track import TrackState

Array = NDArray[np.float64]

_HIGHPASSES_HZ = (20.0, 30.0, 40.0, 50.0, 56.0, 62.0, 70.0, 80.0, 92.0, 105.0, 120.0)
_CUTS_DB, _OTHER_CUTS_DB = (0.0, -3.0, -6.0, -9.0, -12.0), (0.0, -3.0, -6.0, -9.0)
_SHIFTS_MS = np.round(np.arange(-5.0, 5.01, 0.25), 2)
_NAMES = ("barely touched", "lightly parted", "half apart", "mostly apart", "fully separated")
_NOT_ENOUGH = "as far as carving goes"


@dataclass(frozen=True)
class Degree:
    """One point of the trade between leaving alone and parting, under its name."""

    name: str
    tried: Tried


def _grid(state: TrackState, kick_hz: float, bass_hz: float) -> list[SeparateRecipe]:
    """What is searched: the one that does not own the sub gives up most."""
    kick_owns = state.brief.sub_owner == "kick"
    there = {"cut_q": CUT_Q}
    found = []
    for highpass in _HIGHPASSES_HZ:
        for slope in ("12", "24") if highpass > 20.0 else ("24",):
            for cut in _CUTS_DB:
                for other_cut in _OTHER_CUTS_DB:
                    gives = {**there, "highpass_hz": highpass, "highpass_slope": slope, "cut_db": cut}
                    keeps = {**there, "highpass_hz": 20.0, "cut_db": other_cut}
                    for_kick, for_bass = (keeps, gives) if kick_owns else (gives, keeps)
                    kick = state.separate.kick.model_copy(update={**for_kick, "cut_hz": round(bass_hz, 1)})
                    bass = state.separate.bass.model_copy(update={**for_bass, "cut_hz": round(kick_hz, 1)})
                    found.append(SeparateRecipe.model_construct(kick=kick, bass=bass))
    return found


def _shifted(recipe: SeparateRecipe, polarity: str, shift_ms: float) -> SeparateRecipe:
    bass = recipe.bass.model_copy(update={"polarity": polarity, "shift_ms": float(shift_ms)})
    return recipe.model_copy(update={"bass": bass})


def _in_phase(trial: Trial, tried: Tried) -> Tried:
    """Settings with the bass shifted or inverted, where it cancels: the least that helps."""
    if tried.summation_worst_db is None or tried.summation_worst_db >= CANCELLING_DB:
        return tried
    best = tried
    for polarity in ("normal", "inverted"):
        for shift in sorted(_SHIFTS_MS, key=abs):
            one = trial.tried(_shifted(tried.recipe, polarity, shift))
            if (one.summation_worst_db or -99.0) > (best.summation_worst_db or -99.0) + 0.3:
                best = one
            if best.clear:
                return best
    return best


def _trade(found: list[Tried]) -> list[Tried]:
    """Of each collision the least change, from little change to little collision."""
    front: list[Tried] = []
    for one in sorted(found, key=lambda tried: (tried.change_db, tried.collision_share)):
        if not front or one.collision_share < front[-1].collision_share - 0.005:
            front.append(one)
    return front


def _points(front: list[Tried]) -> list[Tried]:
    """A few points of a trade, evenly apart in collision; the last is the first that is enough."""
    enough = next((n for n, one in enumerate(front) if one.collision_share <= one.limit_share), None)
    upto = front[: enough + 1] if enough is not None else front
    start, end = upto[0].collision_share, upto[-1].collision_share
    chosen: list[Tried] = []
    for share in np.linspace(start, end, len(_NAMES)):
        one = next(tried for tried in upto if tried.collision_share <= share + 1e-9)
        if one not in chosen:
            chosen.append(one)
    return chosen


def solve(session: Session, state: TrackState) -> Iterator[tuple[float, list[Degree] | None]]:
    """Search for the least that parts kick and bass; yields how far it is, at last the choices.

    The search is over the high-pass of the one that does not own the sub, with its slope, a cut in
    it where the other is strongest, and a lesser cut the other way. Choices go from barely touched
    to fully separated; where the bass cancels in one, it is shifted or inverted too.

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.

    Returns
    -------
    iterator of tuple
        A share from 0 to 1 and, at last, the choices.

    Examples
    --------
    >>> share, choices = next(solve(Session(), TrackState()))
    >>> 0 <= share <= 1
    True
    """
    trial = Trial(session, state)
    loop = session.loop(plain(state))
    recipes = _grid(state, strongest_hz(loop.kick), strongest_hz(loop.bass))
    found = []
    for n, recipe in enumerate(recipes):
        if n % 20 == 0:
            yield 0.9 * n / len(recipes), None
        tried = trial.tried(recipe)
        if tried.spares_owner:
            found.append(tried)
    points = _points(_trade(found))
    choices = []
    for n, point in enumerate(points):
        yield 0.9 + 0.1 * n / len(points), None
        mended = _in_phase(trial, point)
        name = _NAMES[n]
        if n == len(points) - 1 and n > 0:
            name = _NAMES[-1] if mended.collision_share <= mended.limit_share else _NOT_ENOUGH
        choices.append(Degree(name, mended))
    yield 1.0, choices


@dataclass(frozen=True)
class Phase:
    """A polarity and a shift of the bass, and what kick and bass then add up to."""

    polarity: str
    shift_ms: float
    summation_worst_db: float | None
    summation_mean_db: float | None
    bands_db: dict[str, float]


def phases(session: Session, state: TrackState) -> list[Phase]:
    """As it is now, then the best of either polarity by what the low band adds up to.

    `bands_db` is what each low third octave gains against now, in dB, where both are heard.

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.

    Returns
    -------
    list of Phase
        As it is first.

    Examples
    --------
    >>> from juglant.core.lowend.session import Session
    >>> from juglant.core.recipes.track import TrackState
    >>> state = TrackState()
    >>> len(phases(Session(), state)) > 1
    True
    """
    trial = Trial(session, state)
    now = state.separate.bass
    found = [trial.tried(state.separate)]
    for polarity in ("normal", "inverted"):
        one = [trial.tried(_shifted(state.separate, polarity, shift)) for shift in _SHIFTS_MS]
        found.append(max(one, key=lambda tried: tried.summation_mean_db or -99.0))
    loop = session.loop(state)
    k, b = (Side(side) for side in (loop.kick, loop.bass))
    rows = []
    for tried in found:
        bass = tried.recipe.bass
        turn = np.exp(-2j * np.pi * b.hz * (bass.shift_ms - now.shift_ms) / 1000)
        if bass.polarity != now.polarity:
            turn = -turn
        gains = {}
        for hz in LOW_BANDS_HZ:
            inside = b.inside(hz)
            before, after = (
                float(np.sum(np.abs(k.spectrum[inside] + b.spectrum[inside] * by) ** 2))
                for by in (np.ones(int(inside.sum())), turn[inside])
            )
            gains[f"{hz:.0f}"] = round(10 * float(np.log10(max(after, 1e-20) / max(before, 1e-20))), 2)
        rows.append(
            Phase(bass.polarity, bass.shift_ms, tried.summation_worst_db, tried.summation_mean_db, gains)
        )
    return rows


def in_phase(session: Session, state: TrackState) -> SeparateRecipe:
    """The settings with the polarity and the shift at which the worst sum is best.

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.

    Returns
    -------
    SeparateRecipe
        The settings.

    Examples
    --------
    >>> from juglant.core.lowend.session import Session
    >>> from juglant.core.recipes.track import TrackState
    >>> state = TrackState()
    >>> type(in_phase(Session(), state)).__name__
    'SeparateRecipe'
    """
    trial = Trial(session, state)
    tried = [
        trial.tried(_shifted(state.separate, polarity, shift))
        for polarity in ("normal", "inverted") for shift in _SHIFTS_MS
    ]  # fmt: skip
    # Of what is as good within half a decibel, the smallest shift.
    top = max(one.summation_worst_db or -99.0 for one in tried)
    good = [one for one in tried if (one.summation_worst_db or -99.0) > top - 0.5]
    return min(good, key=lambda one: abs(one.recipe.bass.shift_ms)).recipe


def checked(choice: Degree, session: Session, state: TrackState) -> Degree:
    """A choice measured again on the whole sounds, as they will be heard.

    Parameters
    ----------
    choice, session
        One of the degrees; renders and keeps what was asked for.
    state
        The track.

    Returns
    -------
    Degree
        Measured anew.

    Examples
    --------
    >>> session, state = Session(), TrackState()
    >>> tried = Trial(session, state).tried(state.separate)
    >>> again = checked(Degree("as it is", tried), session, state)
    >>> abs(again.tried.collision_share - tried.collision_share) < 0.05
    True
    """
    answer = session.answer(state.model_copy(update={"separate": choice.tried.recipe}))
    heard = answer.after if state.brief.cure == "ducking first" else answer.before
    return Degree(
        choice.name,
        replace(
            choice.tried, collision_share=heard.collision_share or 0.0,
            summation_worst_db=heard.summation_worst_db, summation_mean_db=heard.summation_mean_db,
        ),
    )  # fmt: skip
