"""Regions of the kick that are too full, or that neither kick nor bass has."""

from dataclasses import dataclass, replace
from typing import NamedTuple

import numpy as np

from juglant.core import RATE
from juglant.core.findings.verdict import Check, Finding, check, mend
from juglant.core.hits import jobs
from juglant.core.lowend.session import Answer, Session
from juglant.core.lowend.sounds import Sounds
from juglant.core.measure.levels import BANDS_HZ, Spectrum
from juglant.core.recipes.chain import MOST_STAGES, EqualiserStage
from juglant.core.recipes.hit import Hit
from juglant.core.recipes.track import TrackState

# How a region that is too full is called (common practice).
_FULL = {"boom": "boomy", "box": "boxy"}
# Of these two the first is looked at after so long, for so long.
_SWEPT_MS, _RINGS_MS = 40.0, 400.0
# A kick whose own note lies above this share of a region's lower edge has its note there.
_OWN_REGION = 0.75


class _Limits(NamedTuple):
    """In dB: of what rings after the sweep; of the whole, where at least so much rings after it."""

    late: float
    whole: float
    rings: float


# Recorded kicks lie 15 dB and more below the first; common practice cuts what is heard as a box.
_LIMITS_DB = {"boom": _Limits(-6.0, -3.0, -10.0), "box": _Limits(-12.0, -10.0, -22.0)}
_DEEPEST_CUT_DB, _HIGHEST_LIFT_DB, _BELL_Q = 24.0, 6.0, 1.0
# Where a kick may have a hole that the bass is asked to fill.
_HOLLOW = ("thump", "boom")


def _middle_hz(region: str) -> float:
    low, high = BANDS_HZ[region]
    return round(float(np.sqrt(low * high)), 1)


def _kick_db(answer: Answer, region: str) -> float | None:
    """A region of the kick's one-shot, dB of the whole."""
    bands = answer.kick.hit.bands_db
    return None if bands is None else bands[region]


def _usual(answer: Answer, region: str) -> tuple[int, int] | None:
    return jobs.usual_db(answer.state.kick.kind).get(region)


def late_db(session: Session, answer: Answer, region: str) -> float | None:
    """A region of the kick once its sweep is over, dB of all that sounds then: what rings there.

    Parameters
    ----------
    session, answer
        Renders and keeps what was asked for; what was rendered and measured of the track.
    region
        Of the spectrum.

    Returns
    -------
    float or None
        dB.

    Examples
    --------
    >>> session, state = Session(), TrackState()
    >>> answer = session.answer(state)
    >>> late_db(session, answer, "box") < 0
    True
    """
    onset_ms, state = answer.kick.hit.onset_ms, answer.state
    if onset_ms is None:
        return None
    return session.sounds.once(
        _late_db, session.sounds, state.kick.sounding, state.brief.bpm, onset_ms, region
    )


def _late_db(sounds: Sounds, kick: Hit, bpm: float, onset_ms: float, region: str) -> float | None:
    first = round((onset_ms + _SWEPT_MS) / 1000 * RATE)
    piece = sounds.kick(kick, bpm)[first : first + round(_RINGS_MS / 1000 * RATE)]
    if piece.size < round(0.02 * RATE) or not np.any(piece):
        return None
    eased = piece * np.minimum(1.0, np.arange(piece.size) / (0.005 * RATE))
    return Spectrum(eased, RATE).share_db(*BANDS_HZ[region])


def _strongest_hz(answer: Answer, region: str) -> float:
    """Where a region of the kick is strongest, and its middle where that is at its very edge."""
    low, high = BANDS_HZ[region]
    spectrum = Spectrum(answer.kick_samples, RATE)
    inside = (spectrum.hz > low) & (spectrum.hz < high)
    hz = float(spectrum.hz[inside][np.argmax(spectrum.power[inside])])
    return round(hz, 1) if 1.15 * low < hz < high / 1.15 else _middle_hz(region)


@dataclass(frozen=True)
class _Excess:
    """What is too much of a region: where it was looked at, the number and its limit in dB."""

    where: str
    value_db: float
    limit_db: float


def _excess(session: Session, answer: Answer, region: str) -> _Excess | None:
    """What rings in a region after the sweep, or fills it where something rings there at all.

    A sweep passes through every region, and is none of their faults; a note in it is its note.
    """
    whole, late = _kick_db(answer, region), late_db(session, answer, region)
    own = answer.kick.hit.fundamental_hz
    # What outlasts a lower tone is what rings, not the kick's own note.
    lowest = min([own, *answer.kick.hit.other_modes_hz]) if own is not None else 0.0
    has_own = lowest > _OWN_REGION * BANDS_HZ[region][0]
    if whole is None or late is None or has_own:
        return None
    limits = _LIMITS_DB[region]
    if late > limits.late:
        return _Excess("of what rings after its sweep", late, limits.late)
    if whole > limits.whole and late > limits.rings:
        return _Excess("of it", whole, limits.whole)
    return None


def _too_full(region: str) -> Check:
    word = _FULL[region]
    low, high = BANDS_HZ[region]

    def number(session: Session, answer: Answer) -> float | None:
        found = _excess(session, answer, region)
        return late_db(session, answer, region) if found is None else found.value_db

    def judge(session: Session, answer: Answer) -> Finding | None:
        found = _excess(session, answer, region)
        if found is None:
            return None
        room = len(answer.state.kick.chain) < MOST_STAGES
        return Finding(
            f"kick-{word}", "separate",
            f"The kick is {word}: {found.value_db:.0f} dB {found.where} lie at {low:.0f}–{high:.0f} Hz, "
            f"usually at most {found.limit_db:.0f}.",
            f"{region} of the kick", found.value_db, found.limit_db, "dB",
            "What piles up there hides the bass and the thump, and is heard on every small speaker.",
            mend(f"Cut the kick at {_strongest_hz(answer, region):.0f} Hz" if room else None),
            advice="Another kick, or one layer of it less.",
        )  # fmt: skip

    def cut(session: Session, answer: Answer) -> TrackState:
        kick, by_db, state = answer.state.kick, 0.0, answer.state
        at_hz = _strongest_hz(answer, region)
        # In steps of a decibel, only until it is usual again.
        while by_db < _DEEPEST_CUT_DB:
            by_db += 1.0
            stage = EqualiserStage(bell_db=-by_db, bell_hz=at_hz, bell_q=_BELL_Q)
            state = answer.state.with_kick(kick.model_copy(update={"chain": (*kick.chain, stage)}))
            tried = replace(
                answer, state=state, kick=session.sounds.measured_hit(state.kick, state.brief),
                kick_samples=session.sounds.kick(state.kick, state.brief.bpm),
            )  # fmt: skip
            if _excess(session, tried, region) is None:
                break
        return state

    return check(f"kick-{word}", number, judge, cut)


def _hollow(region: str) -> Check:
    low, high = BANDS_HZ[region]

    def filled_db(_: Session, answer: Answer) -> float | None:
        """What kick and bass together hold there, dB of the kick's loop."""
        if _kick_db(answer, region) is None:  # it is silent
            return None
        kick, bass = (one.spectrum for one in (answer.kick_loop, answer.ducked_loop))
        more = bass.energy(low, high) / max(kick.energy(low, high), 1e-30)
        return kick.share_db(low, high) + 10 * float(np.log10(1 + more))

    def judge(session: Session, answer: Answer) -> Finding | None:
        usual, kick_db = _usual(answer, region), answer.kick_loop.spectrum.share_db(low, high)
        both_db = filled_db(session, answer)
        if usual is None or both_db is None or kick_db >= usual[0] or both_db >= usual[0]:
            return None
        return Finding(
            f"hollow-{region}", "separate",
            f"At {low:.0f}–{high:.0f} Hz the kick has a hole ({kick_db:.0f} dB of it) and the bass does "
            "not fill it.",
            f"{region} of both", both_db, float(usual[0]), "dB",
            "A region that nobody has sounds thin there: the one that does not own the sub may have it.",
            mend(f"Lift the kick at {_middle_hz(region):.0f} Hz"),
        )  # fmt: skip

    def lift(session: Session, answer: Answer) -> TrackState:
        state, usual = answer.state, _usual(answer, region)
        for by_db in range(1, int(_HIGHEST_LIFT_DB) + 1):
            carve = state.separate.kick.model_copy(
                update={"cut_db": float(by_db), "cut_hz": _middle_hz(region), "cut_q": 1.0}
            )
            state = answer.state.model_copy(
                update={"separate": answer.state.separate.model_copy(update={"kick": carve})}
            )
            value = filled_db(session, session.answer(state))
            if usual is None or value is None or value >= usual[0]:
                break
        return state

    return check(f"hollow-{region}", filled_db, judge, lift)


REGION_CHECKS: tuple[Check, ...] = (
    *(_too_full(region) for region in _FULL), *(_hollow(region) for region in _HOLLOW)
)  # fmt: skip
