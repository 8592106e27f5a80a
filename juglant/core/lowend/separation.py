"""Who keeps what: settings that part kick and bass, what each does, and the least that will do."""

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from juglant.core import RATE
from juglant.core.lowend.carving import pre_ringing_db, root_hz
from juglant.core.lowend.part import undone
from juglant.core.lowend.session import Session
from juglant.core.lowend.trial import CANCELLING_DB, Side, Trial, Tried, plain
from juglant.core.measure.levels import BANDS_HZ
from juglant.core.measure.loopsound import LoopSound
from juglant.core.measure.overlap import (
    LOW_BANDS_HZ,
    Overlap,
)
from juglant.core.measure.owner import (
    OWNER_LOSS_LIMIT_DB,
)
from juglant.core.process.filters import LOW_BAND_HZ
from juglant.core.recipes.separate import SeparateRecipe
from juglant.core.recipes.track import TrackState

Array = NDArray[np.float64]

_HIGHPASSES_HZ = (20.0, 30.0, 40.0, 50.0, 56.0, 62.0, 70.0, 80.0, 92.0, 105.0, 120.0)
_CUTS_DB, _OTHER_CUTS_DB, _CUT_Q = (0.0, -3.0, -6.0, -9.0, -12.0), (0.0, -3.0, -6.0, -9.0), 1.2
_SHIFTS_MS = np.round(np.arange(-5.0, 5.01, 0.25), 2)
_NAMES = ("barely touched", "lightly parted", "half apart", "mostly apart", "fully separated")
_NOT_ENOUGH = "as far as carving goes"


@dataclass(frozen=True)
class Degree:
    """One point of the trade between leaving alone and parting, under its name."""

    name: str
    tried: Tried


def _strongest_hz(loop: LoopSound) -> float:
    """Where a side is strongest in the low band: the third octave, or better, the bin."""
    spectrum = loop.spectrum
    inside = (spectrum.hz > LOW_BAND_HZ[0]) & (spectrum.hz < LOW_BAND_HZ[1])
    return float(spectrum.hz[inside][np.argmax(spectrum.power[inside])])


def _grid(state: TrackState, kick_hz: float, bass_hz: float) -> list[SeparateRecipe]:
    """What is searched: the one that does not own the sub gives up most."""
    kick_owns = state.brief.sub_owner == "kick"
    there = {"cut_q": _CUT_Q}
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
    session
        Renders and keeps what was asked for.
    state
        The track.

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
    recipes = _grid(state, _strongest_hz(loop.kick), _strongest_hz(loop.bass))
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
    session
        Renders and keeps what was asked for.
    state
        The track.

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
    session
        Renders and keeps what was asked for.
    state
        The track.

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


@dataclass(frozen=True)
class Numbers:
    """A low end in numbers, before the ducking: collision, sums, bands, and the mix's peak."""

    overlap: Overlap
    kick_bands_db: dict[str, float]
    bass_bands_db: dict[str, float]
    peak_dbfs: float


_SHOWN_BANDS = ("sub", "thump", "boom", "box")


def _energies_db(loop: LoopSound) -> dict[str, float]:
    low, high = np.array([BANDS_HZ[name] for name in _SHOWN_BANDS], float).T
    energies = loop.spectrum.energies(low, high)
    found = 10 * np.log10(np.maximum(energies, 1e-20))
    return {name: float(db) for name, db in zip(_SHOWN_BANDS, found, strict=True)}


def numbers(session: Session, state: TrackState) -> Numbers:
    """The numbers of a state's kick and bass before the ducking.

    Parameters
    ----------
    session
        Renders and keeps what was asked for.
    state
        The track.

    Returns
    -------
    Numbers
        Of both, before the ducking.

    Examples
    --------
    >>> from juglant.core.lowend.session import Session
    >>> from juglant.core.recipes.track import TrackState
    >>> state = TrackState()
    >>> sorted(numbers(Session(), state).kick_bands_db)
    ['boom', 'box', 'sub', 'thump']
    """
    return session.sounds.once(_numbers, session, undone(state))


def _numbers(session: Session, state: TrackState) -> Numbers:
    kick, bass = session.parts.kick_loop(state), session.parts.bass_loop(state)
    peak = 20 * float(np.log10(max(float(np.max(np.abs(kick.mono + bass.mono))), 1e-9)))
    return Numbers(session.before(state), _energies_db(kick), _energies_db(bass), peak)


@dataclass(frozen=True)
class Proposal:
    """One concrete setting of the owner plan, why, and what it would do."""

    id: str
    label: str
    why: str
    recipe: SeparateRecipe
    after: Numbers
    pre_ringing_db: float | None


def _with(recipe: SeparateRecipe, side: str, **changes: object) -> SeparateRecipe:
    """The settings with some of one side's changed: "kick" or "bass"."""
    return recipe.model_copy(update={side: getattr(recipe, side).model_copy(update=changes)})


def plan(session: Session, state: TrackState) -> list[tuple[str, str, str, SeparateRecipe]]:
    """The owner plan as settings on top of those that are: id, label, why, settings.

    Parameters
    ----------
    session
        Renders and keeps what was asked for.
    state
        The track.

    Returns
    -------
    list of tuple
        Id, label, why and settings.

    Examples
    --------
    >>> from juglant.core.lowend.session import Session
    >>> from juglant.core.recipes.track import TrackState
    >>> state = TrackState()
    >>> len(plan(Session(), state)) > 0
    True
    """
    now, brief = state.separate, state.brief
    loop = session.loop(plain(state))
    strongest = {"kick": _strongest_hz(loop.kick), "bass": _strongest_hz(loop.bass)}
    owner = brief.sub_owner
    if owner == "kick":
        gives, corner_hz, slope = "bass", 62.0, "12"
        why = "The kick owns the sub: the bass rolls off softly around 60–65 Hz (common practice)."
    else:
        gives, corner_hz, slope = "kick", 60.0, "24"
        why = "The bass owns the sub: a short kick holds little below 60–80 Hz (common practice)."

    def cut(side: str, other: str, by_db: float, more: str) -> tuple[str, str, str, SeparateRecipe]:
        hz = round(strongest[other], 1)
        return (
            f"{side}-cut", f"Cut the {side} by {by_db:g} dB at {hz:.0f} Hz",
            f"There the {other} is strongest{more}.",
            _with(now, side, cut_db=-by_db, cut_hz=hz, cut_q=_CUT_Q),
        )  # fmt: skip

    found = [
        (f"{gives}-highpass", f"High-pass the {gives} at {corner_hz:.0f} Hz", why,
         _with(now, gives, highpass_hz=corner_hz, highpass_slope=slope)),
        cut(gives, owner, 6.0, ""),
        cut(owner, gives, 3.0, ": a little both ways"),
    ]  # fmt: skip
    root = root_hz(brief)
    found += [
        ("rumble", "High-pass the kick at 28 Hz",
         "Nobody hears what lies below, but limiters and cutters react to it.",
         _with(now, "kick", highpass_hz=max(28.0, now.kick.highpass_hz))),
        ("mid-copy", "A driven copy of the bass’s mids",
         "What the bass gave up below is heard above: small speakers play it.",
         _with(now, "bass", mid_copy_db=0.0)),
        ("starts", "A short sine at every note",
         "Changes of note are heard where the fundamental is masked.", _with(now, "bass", starts_db=-9.0)),
        ("steady", "Hold the bass level below the crossover",
         "A low end that stays level keeps its place under the kick.",
         _with(now, "bass", steady_ratio=4.0)),
        *(
            (f"lift-{n}", f"Lift the bass by 3 dB at {n * root:.0f} Hz",
             f"Harmonic {n} of {brief.tonic}: an emphasis belongs on the root’s own harmonics.",
             _with(now, "bass", lift_db=3.0, lift_harmonic=str(n)))
            for n in (1, 2, 3, 4)
        ),
    ]  # fmt: skip
    if now != SeparateRecipe():
        carves = {
            side: carve.model_copy(update={"phase": "linear" if carve.phase == "minimum" else "minimum"})
            for side, carve in (("kick", now.kick), ("bass", now.bass))
        }
        other = carves["kick"].phase
        found.append(
            (f"{other}-phase", f"{other.capitalize()} phase for both",
             "Linear leaves the transients where they were; minimum cannot ring before them.",
             now.model_copy(update=carves))
        )  # fmt: skip
    return [one for one in found if one[3] != now]


def proposals(session: Session, state: TrackState) -> list[Proposal]:
    """Every setting of the plan with what it does, taken alone, on top of what is set now.

    Parameters
    ----------
    session
        Renders and keeps what was asked for.
    state
        The track.

    Returns
    -------
    list of Proposal
        Each with what it does.

    Examples
    --------
    >>> from juglant.core.lowend.session import Session
    >>> from juglant.core.recipes.track import TrackState
    >>> state = TrackState()
    >>> len(proposals(Session(), state)) > 0
    True
    """
    found = []
    for id, label, why, recipe in plan(session, state):
        changed = numbers(session, state.model_copy(update={"separate": recipe}))
        if (changed.overlap.owner_loss_db or 0.0) > OWNER_LOSS_LIMIT_DB:
            continue
        rings = [pre_ringing_db(carve, state.brief, RATE) for carve in (recipe.kick, recipe.bass)]
        heard = [one for one in rings if one is not None]
        found.append(Proposal(id, label, why, recipe, changed, max(heard) if heard else None))
    return found


def checked(choice: Degree, session: Session, state: TrackState) -> Degree:
    """A choice measured again on the whole sounds, as they will be heard.

    Parameters
    ----------
    choice
        One of the degrees.
    session
        Renders and keeps what was asked for.
    state
        The track.

    Returns
    -------
    Degree
        Measured anew.
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
