"""The search behind every answer: alternatives are tried in turn, dials by Powell’s method.

What is made smallest is what would have to be ducked, by the measures that are shown: what a bass gives way
at least, how long both sound in the sub, how far the sub’s owner lies under the low end.
Powell, "An efficient method for finding the minimum of a function of several variables without calculating
derivatives", Computer Journal 7, 1964; scipy’s version of it.
"""

from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import minimize

from juglant.core.errors import UserError
from juglant.core.lowend.clearing import needed_db
from juglant.core.lowend.session import Session, uncarved
from juglant.core.measure.overlap import COLLISION_SHARE
from juglant.core.measure.owner import LEAST_SUB_DB, SHARED_LIMIT_MS
from juglant.core.recipes.track import TrackState

Array = NDArray[np.float64]

# So many settings of the dials are tried for one answer, beside its alternatives.
_MOST_TRIED = 16
# Full way of a dial from where the character has it counts as much as so many dB of ducking.
_MOVED_DB = 0.5
# What covers more of the kick than it may is to be ducked at all: at twice its limit worth so many dB.
_COVERED_DB, _MOST_COVERED = 2.0, 1.0
# A dB that the owner lacks in the sub, and a ms for which both are in it, count as much as so many dB.
_LACKING, _SHARED = 0.7, 0.01


@dataclass(frozen=True)
class Question:
    """What one answer is looked for among: alternatives, each with what it costs by itself in dB, and dials
    from 0 to 1, which start where the character has them.
    """

    alternatives: tuple[tuple[Any, float], ...]
    dials: tuple[float, ...]
    made: Callable[[Any, Array], TrackState]


def made_anew(state: TrackState, side: Literal["kick", "bass"]) -> TrackState:
    """The state without what one side gave up for the sound that it had.

    Parameters
    ----------
    state, side
        The track; "kick" or "bass".

    Returns
    -------
    TrackState
        Without it.

    Examples
    --------
    >>> made_anew(TrackState(), "kick").separate_for
    ''
    """
    return uncarved(state, side).model_copy(update={"separate_for": ""})


def asked_db(session: Session, state: TrackState) -> float:
    """What a pair of sounds asks of its ducking, in dB: the mean of what the bass must give way at least
    while the loop runs, and what it costs that the sub is shared or empty.

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.

    Returns
    -------
    float or None
        dB; None where it is not known.

    Examples
    --------
    >>> asked_db(Session(), TrackState()) >= 0
    True
    """
    over = session.before(state)
    lacking = max(0.0, LEAST_SUB_DB - (over.sub_level_db or 0.0))
    limit = COLLISION_SHARE[state.brief.sub_owner]
    covered = min(max(0.0, (over.collision_share or 0.0) / limit - 1.0), _MOST_COVERED)
    shared = max(0.0, (over.sub_shared_ms or 0.0) - SHARED_LIMIT_MS)
    try:
        needed = float(needed_db(*session.meeting(state), 0.0, state.brief.sub_owner).mean())
    except UserError:
        # The kick ducks nothing that is heard.
        needed = 0.0
    return needed + _COVERED_DB * covered + _LACKING * lacking + _SHARED * shared


class _EnoughError(Exception):
    """The search was stopped, or has tried as much as it may."""


def best(session: Session, question: Question, told: Callable[[], bool]) -> TrackState:
    """The state that asks for least, not far from the character. `told` hears of every state that was
    tried, and stops the search with False: then the best so far.

    Parameters
    ----------
    session, question
        Renders and keeps what was asked for; what is looked for, among what.
    told
        Hears how many were tried, and stops with False.

    Returns
    -------
    TrackState
        With what was found.

    Examples
    --------
    >>> state = TrackState()
    >>> question = Question(((None, 0.0),), (0.5,), lambda alternative, dials: state)
    >>> best(Session(), question, lambda: True) == state
    True
    """
    start = np.array(question.dials)
    going = True

    def cost(which: tuple[Any, float], dials: Array) -> float:
        nonlocal going
        if not going:
            return np.inf
        what, own = which
        found = asked_db(session, question.made(what, dials))
        going = told()
        return found + own + _MOVED_DB * float(np.mean(np.abs(dials - start)))

    least, n = min((cost(one, start), n) for n, one in enumerate(question.alternatives))
    chosen, tried = question.alternatives[n], {start.tobytes(): least}

    def dialled(dials: Array) -> float:
        at = np.clip(np.round(dials, 2), 0.0, 1.0)
        if at.tobytes() not in tried:
            if not going or len(tried) > _MOST_TRIED:
                raise _EnoughError
            tried[at.tobytes()] = cost(chosen, at)
        return tried[at.tobytes()]

    with suppress(_EnoughError):
        minimize(
            dialled, start, method="Powell", bounds=[(0.0, 1.0)] * start.size,
            options={"maxfev": _MOST_TRIED, "xtol": 0.05, "ftol": 0.02},
        )  # fmt: skip
    nearest = min(tried, key=lambda at: tried[at])
    return question.made(chosen[0], np.frombuffer(nearest))
