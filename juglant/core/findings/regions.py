"""Regions of the kick that are too full, or that neither kick nor bass has."""

import numpy as np

from juglant.core.findings.verdict import Check, Finding, check, mend
from juglant.core.hits import jobs
from juglant.core.lowend.session import Answer, Session
from juglant.core.measure.levels import BANDS_HZ
from juglant.core.recipes.chain import MOST_STAGES, EqualiserStage
from juglant.core.recipes.track import TrackState

# How a region that is too full is called (common practice).
_FULL = {"boom": "boomy", "box": "boxy"}
_DEEPEST_CUT_DB, _HIGHEST_LIFT_DB, _BELL_Q = 12.0, 6.0, 1.4
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


def _too_full(region: str) -> Check:
    word = _FULL[region]
    low, high = BANDS_HZ[region]

    def number(_: Session, answer: Answer) -> float | None:
        return _kick_db(answer, region)

    def judge(_: Session, answer: Answer) -> Finding | None:
        value, usual = _kick_db(answer, region), _usual(answer, region)
        if value is None or usual is None or value <= usual[1]:
            return None
        room = len(answer.state.kick.chain) < MOST_STAGES
        return Finding(
            f"kick-{word}", "separate",
            f"The kick is {word}: {value:.0f} dB of it lie at {low:.0f}–{high:.0f} Hz, usually at most "
            f"{usual[1]}.",
            f"{region} of the kick", value, float(usual[1]), "dB",
            "What piles up there hides the bass and the thump, and is heard on every small speaker.",
            mend(f"Cut the kick at {_middle_hz(region):.0f} Hz" if room else None),
        )  # fmt: skip

    def cut(session: Session, answer: Answer) -> TrackState:
        state, usual = answer.state, _usual(answer, region)
        kick, by_db = state.kick, 0.0
        # In steps of a decibel, only until it is usual again.
        while by_db < _DEEPEST_CUT_DB:
            by_db += 1.0
            stage = EqualiserStage(bell_db=-by_db, bell_hz=_middle_hz(region), bell_q=_BELL_Q)
            state = state.model_copy(
                update={"kick": kick.model_copy(update={"chain": (*kick.chain, stage)})}
            )
            bands = session.measured_hit(state.kick, state.brief).hit.bands_db
            if usual is None or bands is None or bands[region] <= usual[1]:
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
