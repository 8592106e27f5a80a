"""What is wrong with a low end, by which number, and what would mend it.

The limits are common practice unless a source stands beside them; a producer may have a
reason to break each.
"""

from dataclasses import dataclass

import numpy as np

from juglant.core.errors import UserError
from juglant.core.findings.carving import CARVING
from juglant.core.findings.fixes import (
    can_shorten,
    lower,
    made_lines,
    return_in_time,
    slower_attack,
    split_sub,
)
from juglant.core.findings.harmony import KICK_OUT_OF_CHORD
from juglant.core.findings.hits import hit_checks, off_key_check
from juglant.core.findings.mono import mono_checks
from juglant.core.findings.outdated import OUTDATED, bus_checks, collision_percent, solve_duck
from juglant.core.findings.regions import REGION_CHECKS
from juglant.core.findings.spill import TAIL_SPILL
from juglant.core.findings.verdict import Check, Finding, check, mend
from juglant.core.lowend.ducking import CLICK_LIMIT_DB_PER_MS
from juglant.core.lowend.separation import COLLISION_SHARE
from juglant.core.lowend.session import Answer, Session
from juglant.core.recipes.track import TrackState

SUB_APART_DB = 6.0
PEAK_DBTP = -1.0


def sub_apart_db(answer: Answer) -> float:
    """By how much the owner of the sub is above the other from 20 to 60 Hz, as heard."""
    kick = answer.kick_loop.spectrum.energy(20, 60)
    bass = answer.ducked_loop.spectrum.energy(20, 60)
    ratio = 10 * float(np.log10(max(kick, 1e-20) / max(bass, 1e-20)))
    return ratio if answer.state.brief.sub_owner == "kick" else -ratio


def _two_owners(_: Session, answer: Answer) -> Finding | None:
    apart = sub_apart_db(answer)
    if apart >= SUB_APART_DB:
        return None
    owner = answer.state.brief.sub_owner
    other = "bass" if owner == "kick" else "kick"
    state = answer.state
    mendable = can_shorten(state.kick) if other == "kick" else bool(made_lines(state))
    label = "High-pass the bass" if owner == "kick" else "Shorten the kick"
    relation = f"only {apart:.1f} dB above" if apart >= 0 else f"{-apart:.1f} dB below"
    return Finding(
        "two-sub-owners", "line" if owner == "kick" else "hits",
        f"From 20 to 60 Hz the {owner}, which owns the sub, is {relation} the {other}.",
        "sub above the other", apart, SUB_APART_DB, "dB",
        "Two owners of the lowest octave turn to mush: one of them must leave it.",
        mend(label if mendable else None),
    )  # fmt: skip


def _collision(_: Session, answer: Answer) -> Finding | None:
    share = answer.after.collision_share
    if share is None or share <= COLLISION_SHARE:
        return None
    return Finding(
        "collision", "duck",
        f"The bass covers the kick for {answer.after.collision_ms:.0f} ms of every kick, "
        f"{100 * share:.0f} % of the time it sounds.",
        "collision_share", 100 * share, 100 * COLLISION_SHARE, "%",
        "Two sounds in the same low range blur each other; ducked apart, both may keep it.",
        mend("Solve the ducking"),
    )  # fmt: skip


def _never_back(_: Session, answer: Answer) -> Finding | None:
    slack = answer.duck.slack_ms
    if slack is None or slack >= 0:
        return None
    return Finding(
        "duck-never-returns", "duck",
        f"The bass is not back when the next kick comes: {-slack:.0f} ms too late.",
        "slack_ms", slack, 0.0, "ms",
        "A sound that never comes back is not ducked but turned down.",
        mend("Return in time"),
    )  # fmt: skip


def _clicks(_: Session, answer: Answer) -> Finding | None:
    risk = answer.duck.click_risk
    if risk <= CLICK_LIMIT_DB_PER_MS:
        return None
    return Finding(
        "duck-clicks", "duck",
        f"The ducking moves by {risk:.0f} dB in a millisecond and clicks on a held low note.",
        "click_risk", risk, CLICK_LIMIT_DB_PER_MS, "dB/ms",
        "A gain that jumps cuts the wave and is heard as a tick.",
        mend("Slow the attack and release"),
    )  # fmt: skip


def _peak(_: Session, answer: Answer) -> Finding | None:
    peak = answer.mix_after.true_peak_dbtp
    if peak <= PEAK_DBTP:
        return None
    return Finding(
        "mix-peak", "duck",
        f"Kick and bass together reach {peak:+.1f} dBTP.",
        "true_peak_dbtp", peak, PEAK_DBTP, "dBTP",
        "Peaks between the samples clip in converters and encoders; headroom is needed "
        "for everything else.",
        mend(f"Lower both by {peak - PEAK_DBTP + 0.1:.1f} dB"),
    )  # fmt: skip


def _kick_peak(_: Session, answer: Answer) -> Finding | None:
    peak = answer.kick.hit.true_peak_dbtp
    if peak <= 0.0:
        return None
    return Finding(
        "kick-peak", "hits",
        f"The kick alone peaks at {peak:+.1f} dBTP.",
        "true_peak_dbtp", peak, 0.0, "dBTP",
        "Above full scale it clips before anything else is added.",
        mend(f"Lower the kick by {peak + 1:.1f} dB"),
    )  # fmt: skip


_CARVE = (
    off_key_check(0),
    KICK_OUT_OF_CHORD,
    check(
        "two-sub-owners", lambda _, answer: sub_apart_db(answer), _two_owners,
        lambda session, answer: split_sub(
            session, answer, lambda changed: sub_apart_db(changed) >= SUB_APART_DB),
    ),
    TAIL_SPILL,
    *CARVING,
    *REGION_CHECKS,
)  # fmt: skip
_DUCK = (
    check("collision", collision_percent, _collision, solve_duck),
    check("duck-never-returns", lambda _, answer: answer.duck.slack_ms, _never_back, return_in_time),
    check("duck-clicks", lambda _, answer: answer.duck.click_risk, _clicks, slower_attack),
)
_LEVEL = (
    check(
        "kick-peak", lambda _, answer: answer.kick.hit.true_peak_dbtp, _kick_peak,
        lambda _, answer: lower(answer.state, answer.kick.hit.true_peak_dbtp + 1, bass=False),
    ),
    check(
        "mix-peak", lambda _, answer: answer.mix_after.true_peak_dbtp, _peak,
        lambda _, answer: lower(
            answer.state, answer.mix_after.true_peak_dbtp - PEAK_DBTP + 0.1, bass=True),
    ),
)  # fmt: skip


def findings(session: Session, answer: Answer) -> list[Finding]:
    """Everything beyond its limit, in the order of cure that the brief names."""
    return [found for kind in _checks(answer) if (found := kind.judge(session, answer)) is not None]


def _checks(answer: Answer) -> tuple[Check, ...]:
    ducking_first = answer.state.brief.cure == "ducking first"
    low_end = (*_DUCK, *_CARVE) if ducking_first else (*_CARVE, *_DUCK)
    state = answer.state
    return (*OUTDATED, *bus_checks(state), *low_end, *_LEVEL, *mono_checks(state), *hit_checks(state))


@dataclass(frozen=True)
class Effect:
    """What taking a fix does: the mended state, the number before and after, and what else
    closes (ids of findings) or opens (their sentences).
    """

    state: TrackState
    before: float
    after: float | None
    lufs_before: float
    lufs_after: float
    closes: list[str]
    opens: list[str]


def effect(session: Session, answer: Answer, finding_id: str, way: str | None = None) -> Effect:
    """Try one of a finding's fixes, the best one unless `way` names another.

    UserError if there is none to take.
    """
    for kind in _checks(answer):
        if kind.id == finding_id:
            found = kind.judge(session, answer)
            if found is None:
                raise UserError("This finding no longer holds: there is nothing to mend.")
            chosen = next(iter(found.fixes), None) if way is None else way
            if chosen not in found.fixes:
                raise UserError("This finding has no such fix that could be taken for you.")
            state = kind.fixes[chosen](session, answer)
            mended = session.answer(state)
            old = {finding.id: finding for finding in findings(session, answer)}
            new = {finding.id: finding for finding in findings(session, mended)}
            return Effect(
                state, found.value, kind.number(session, mended), answer.mix_after.lufs,
                mended.mix_after.lufs,
                [id for id in old if id not in new],
                [finding.sentence for id, finding in new.items() if id not in old],
            )  # fmt: skip
    raise UserError(f"There is no finding called “{finding_id}”.")
