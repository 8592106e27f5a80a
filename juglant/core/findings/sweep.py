"""A kick that is long enough to be a note, and goes on falling until it is gone."""

import numpy as np

from juglant.core.findings.fixes import made_changed
from juglant.core.findings.verdict import Check, Finding
from juglant.core.lowend.session import Answer, Session
from juglant.core.lowend.tuning import short_ms
from juglant.core.measure.hit import Measured
from juglant.core.measure.trace import Trace
from juglant.core.recipes.hit import Made808, MadeKick
from juglant.core.recipes.track import TrackState

# What a kick falls by while it dies from 20 to 40 dB down, and still has a note (common practice: less than
# a semitone); how many cycles tell, and how much they may scatter.
LATE_CENTS, _LEAST_CYCLES, _SCATTER_CENTS = 100.0, 6, 25.0
_QUICKER, _MOST_STEPS = 0.8, 12


def falls_cents(measured: Measured) -> float | None:
    """How far the pitch falls while the level goes from 20 to 40 dB down; None where that is not seen.

    Parameters
    ----------
    measured
        Numbers of the hit.

    Returns
    -------
    float or None
        Cents.

    Examples
    --------
    >>> from juglant.core.lowend.session import Session
    >>> from juglant.core.recipes.track import TrackState
    >>> state = TrackState()
    >>> falls_cents(Session().sounds.measured_hit(state.kick, state.brief)) is not None
    True
    """
    hit, trace = measured.hit, measured.trace
    if hit.onset_ms is None or hit.decay20_ms is None or hit.decay60_ms is None:
        return None
    first, last = hit.decay20_ms, 0.5 * (hit.decay20_ms + hit.decay60_ms)
    time = trace.time_ms - hit.onset_ms
    seen = Trace(time[(time > first) & (time < last)], trace.hz[(time > first) & (time < last)])
    if seen.hz.size < _LEAST_CYCLES:
        return None
    cents = 1200 * np.log2(seen.hz / seen.hz[-1])
    course = np.polyfit(seen.time_ms, cents, 2)
    if float(np.std(cents - np.polyval(course, seen.time_ms))) > _SCATTER_CENTS:
        return None
    return float(np.polyval(course, seen.time_ms[0]) - np.polyval(course, seen.time_ms[-1]))


def _number(_: Session, answer: Answer) -> float | None:
    return falls_cents(answer.kick)


def _judge(session: Session, answer: Answer) -> Finding | None:
    falls, lasts = _number(session, answer), answer.kick.hit.decay20_ms
    # A short kick is a thud, whatever it does.
    if falls is None or falls <= LATE_CENTS or lasts is None or lasts <= short_ms(answer.state.brief):
        return None
    made = any(isinstance(layer.source, MadeKick | Made808) for layer in answer.state.kick.layers)
    return Finding(
        "late-sweep", "hits",
        f"The kick still falls by {falls:.0f} cents while it dies away: long enough to be a note, it comes "
        "to none.",
        "fall", falls, LATE_CENTS, "cents",
        "A sweep that has not arrived before the tail is gone cannot be tuned to anything.",
        {"quicker": "A quicker sweep"} if made else {},
        advice="Shorten it to a thud, or take a kick whose sweep arrives.",
    )  # fmt: skip


def _quicker(session: Session, answer: Answer) -> TrackState:
    """The sweep made quicker in steps, only until it arrives."""
    state = answer.state
    for _ in range(_MOST_STEPS):
        kick = made_changed(
            state.kick,
            lambda recipe: {"pitch_decay_ms": max(round(recipe.pitch_decay_ms * _QUICKER, 1), 2.0)},
            (MadeKick, Made808),
        )
        state = state.with_kick(kick)
        if _judge(session, session.answer(state)) is None:
            break
    return state


LATE_SWEEP = Check("late-sweep", _number, _judge, {"quicker": _quicker})
