"""The owner plan: concrete settings that part kick and bass, each measured alone."""

from dataclasses import dataclass

import numpy as np

from juglant.core import RATE
from juglant.core.lowend.carving import pre_ringing_db, root_hz
from juglant.core.lowend.part import undone
from juglant.core.lowend.session import Session
from juglant.core.lowend.trial import plain
from juglant.core.measure.levels import BANDS_HZ
from juglant.core.measure.loopsound import LoopSound
from juglant.core.measure.overlap import (
    Overlap,
)
from juglant.core.measure.owner import (
    OWNER_LOSS_LIMIT_DB,
)
from juglant.core.process.filters import LOW_BAND_HZ
from juglant.core.recipes.separate import SeparateRecipe
from juglant.core.recipes.track import TrackState

# How narrow a cut is.
CUT_Q = 1.2


def strongest_hz(loop: LoopSound) -> float:
    """Where a side is strongest in the low band: the third octave, or better, the bin.

    Parameters
    ----------
    loop
        One pass of it.

    Returns
    -------
    float
        Hz.

    Examples
    --------
    >>> round(strongest_hz(LoopSound(np.sin(2 * np.pi * 60 * np.arange(48000) / 48000))))
    60
    """
    spectrum = loop.spectrum
    inside = (spectrum.hz > LOW_BAND_HZ[0]) & (spectrum.hz < LOW_BAND_HZ[1])
    return float(spectrum.hz[inside][np.argmax(spectrum.power[inside])])


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
    session, state
        Renders and keeps what was asked for; the track.

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
    session, state
        Renders and keeps what was asked for; the track.

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
    strongest = {"kick": strongest_hz(loop.kick), "bass": strongest_hz(loop.bass)}
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
            _with(now, side, cut_db=-by_db, cut_hz=hz, cut_q=CUT_Q),
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
    session, state
        Renders and keeps what was asked for; the track.

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
