"""Kick and bass that cancel, and what lies below hearing."""

import numpy as np

from juglant.core.findings.verdict import Check, Finding, check, mend
from juglant.core.lowend.separation import CANCELLING_DB, in_phase
from juglant.core.lowend.session import Answer, Session
from juglant.core.process import filters
from juglant.core.recipes.track import TrackState

# Nobody hears what lies below, but limiters and cutters react to it (common practice).
RUMBLE_HZ, RUMBLE_COST_DB = 28.0, 1.0


def _worst_db(_: Session, answer: Answer) -> float | None:
    return answer.after.summation_worst_db


def _cancels(session: Session, answer: Answer) -> Finding | None:
    worst = _worst_db(session, answer)
    if worst is None or worst >= CANCELLING_DB:
        return None
    return Finding(
        "cancels", "separate",
        f"At the worst moment kick and bass add up to {-worst:.1f} dB less than their energies.",
        "summation_db", worst, CANCELLING_DB, "dB",
        "Where their waves run against each other, both lose: turning or shifting the bass by a few "
        "milliseconds costs nothing else.",
        mend("Turn or shift the bass"),
    )  # fmt: skip


def _turned(session: Session, answer: Answer) -> TrackState:
    state = answer.state
    return state.model_copy(update={"separate": in_phase(session, state)})


def rumble_cost_db(_: Session, answer: Answer) -> float:
    """Headroom that what lies below 28 Hz takes from kick and bass together, dB."""
    # Below 1.5 kHz is all that matters here, and at its rate it is quick.
    (kick, rate), (bass, _same) = answer.kick_loop.slowed, answer.ducked_loop.slowed
    x = kick + bass
    rest = filters.around_loop_by(x, lambda hz: filters.linkwitz_riley_gain(hz, RUMBLE_HZ)[1], rate)
    peaks = [float(np.max(np.abs(one), initial=0.0)) for one in (x, rest)]
    return 20 * float(np.log10(max(peaks[0], 1e-9) / max(peaks[1], 1e-9)))


def _rumble(session: Session, answer: Answer) -> Finding | None:
    cost = rumble_cost_db(session, answer)
    if cost <= RUMBLE_COST_DB or answer.state.separate.kick.highpass_hz >= RUMBLE_HZ:
        return None
    return Finding(
        "rumble", "separate",
        f"What lies below {RUMBLE_HZ:.0f} Hz takes {cost:.1f} dB of headroom.",
        "headroom", cost, RUMBLE_COST_DB, "dB",
        "Nobody hears it, but limiters and cutters react to it.",
        mend("High-pass the kick at 28 Hz"),
    )  # fmt: skip


def _without_rumble(_: Session, answer: Answer) -> TrackState:
    separate = answer.state.separate
    kick = separate.kick.model_copy(update={"highpass_hz": RUMBLE_HZ, "highpass_slope": "24"})
    return answer.state.model_copy(update={"separate": separate.model_copy(update={"kick": kick})})


CARVING: tuple[Check, ...] = (
    check("cancels", _worst_db, _cancels, _turned),
    check("rumble", rumble_cost_db, _rumble, _without_rumble),
)
