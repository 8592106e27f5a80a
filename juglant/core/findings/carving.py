"""Kick and bass that cancel, and what lies below hearing."""

from juglant.core.findings.verdict import Check, Finding, check, mend
from juglant.core.lowend.separation import in_phase
from juglant.core.lowend.session import Answer, Session
from juglant.core.lowend.trial import CANCELLING_DB
from juglant.core.measure.levels import Spectrum
from juglant.core.recipes.track import TrackState

# Nobody hears what lies below, but limiters and cutters react to it (common practice).
RUMBLE_HZ, RUMBLE_PERCENT = 28.0, 5.0


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
        "Where their waves run against each other, both lose: inverting the bass or shifting it by a few "
        "milliseconds costs nothing else.",
        mend("Invert or shift the bass"),
        advice="A bass whose notes start at another moment of the kick, or another note of the kick.",
    )  # fmt: skip


def _turned(session: Session, answer: Answer) -> TrackState:
    state = answer.state
    return state.model_copy(update={"separate": in_phase(session, state)})


def _rumble_percent(_: Session, answer: Answer) -> float:
    """Share of the energy of kick and bass together that lies below 28 Hz, in per cent."""
    (kick, rate), (bass, _same) = answer.kick_loop.decimated, answer.ducked_loop.decimated
    spectrum = Spectrum(kick + bass, rate)
    whole = spectrum.energy(0.0, rate / 2)
    return 100 * spectrum.energy(0.0, RUMBLE_HZ) / max(whole, 1e-30)


def _rumble(session: Session, answer: Answer) -> Finding | None:
    share = _rumble_percent(session, answer)
    if share <= RUMBLE_PERCENT:
        return None
    return Finding(
        "rumble", "separate",
        f"{share:.0f} % of the energy of kick and bass lies below {RUMBLE_HZ:.0f} Hz.",
        "energy below 28 Hz", share, RUMBLE_PERCENT, "%",
        "Nobody hears it, but limiters and cutters react to it.",
        mend("High-pass the kick at 28 Hz"),
        advice="A kick or a bass that ends higher.",
    )  # fmt: skip


_CORNERS = ((28.0, "24"), (28.0, "48"), (31.0, "48"), (34.0, "48"))


def _without_rumble(session: Session, answer: Answer) -> TrackState:
    """The kick high-passed, no higher than is needed."""
    state, separate = answer.state, answer.state.separate
    for hz, slope in _CORNERS:
        kick = separate.kick.model_copy(update={"highpass_hz": hz, "highpass_slope": slope})
        state = answer.state.model_copy(update={"separate": separate.model_copy(update={"kick": kick})})
        if _rumble_percent(session, session.answer(state)) <= RUMBLE_PERCENT:
            break
    return state


CARVING: tuple[Check, ...] = (
    check("cancels", _worst_db, _cancels, _turned),
    check("rumble", _rumble_percent, _rumble, _without_rumble),
)
