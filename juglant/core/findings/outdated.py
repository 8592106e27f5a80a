"""What was solved for another kick or bass: said, and solved again if asked, never by itself."""

import contextlib
from collections.abc import Iterable

from juglant.core.errors import UserError
from juglant.core.findings.verdict import Check, Finding, Step, check, mend
from juglant.core.lowend import separation
from juglant.core.lowend.overview import covered_share, solve_ducking
from juglant.core.lowend.part import ducking_solved_for, solved_for
from juglant.core.lowend.session import Answer, Session
from juglant.core.measure.overlap import COLLISION_SHARE
from juglant.core.recipes.track import TrackState


def _limit(answer: Answer) -> float:
    return 100 * COLLISION_SHARE[answer.state.brief.sub_owner]


def collision_percent(_: Session, answer: Answer) -> float | None:
    """Share of the kick that the bass covers as it is heard, in per cent.

    Parameters
    ----------
    _, answer
        Not asked; what was rendered and measured of the track.

    Returns
    -------
    float or None
        Per cent.

    Examples
    --------
    >>> session = Session()
    >>> answer = session.answer(TrackState())
    >>> collision_percent(session, answer) < 100
    True
    """
    share = answer.after.collision_share
    return None if share is None else 100 * share


def _finding(id: str, step: Step, what: str, fix: str, answer: Answer) -> Finding:
    share = 100 * (answer.after.collision_share or 0.0)
    return Finding(
        id, step,
        f"{what} was solved for another kick or bass; now the bass covers {share:.0f} % of the kick.",
        "collision_share", share, _limit(answer), "%",
        "Changing kick or bass late is dangerous: everything was fitted to the old one.",
        mend(fix),
    )  # fmt: skip


def _duck(_: Session, answer: Answer) -> Finding | None:
    state = answer.state
    if not state.ducking or state.duckings[0].solved_for in ("", solved_for(state)):
        return None
    return _finding("duck-outdated", "duck", "The ducking", "Solve the ducking again", answer)


def solve_duck(session: Session, answer: Answer) -> TrackState:
    """The state with its ducking solved, and for what.

    Parameters
    ----------
    session, answer
        Renders and keeps what was asked for; what was rendered and measured of the track.

    Returns
    -------
    TrackState
        The state.

    Examples
    --------
    >>> session = Session()
    >>> answer = session.answer(TrackState())
    >>> solve_duck(session, answer).duckings[0].solved_for != ""
    True
    """
    state = answer.state
    recipe = session.solve_ducking(state).recipe
    return state.with_duck(duck=recipe, on=True, solved_for=solved_for(state))


def _separate(_: Session, answer: Answer) -> Finding | None:
    state = answer.state
    if state.separate_for in ("", solved_for(state)):
        return None
    return _finding("separate-outdated", "separate", "The separation", "Search for it again", answer)


def searched(session: Session, answer: Answer) -> TrackState:
    """The furthest of the degrees that are found now.

    Parameters
    ----------
    session, answer
        Renders and keeps what was asked for; what was rendered and measured of the track.

    Returns
    -------
    TrackState
        The state.

    Examples
    --------
    >>> session, state = Session(), TrackState()
    >>> answer = session.answer(state)
    >>> searched(session, answer).separate_for != ""
    True
    """
    state = answer.state
    recipe = state.separate
    for _, degrees in separation.solve(session, state):
        recipe = degrees[-1].tried.recipe if degrees else recipe
    return state.model_copy(update={"separate": recipe, "separate_for": solved_for(state)})


OUTDATED: tuple[Check, ...] = (
    check("separate-outdated", collision_percent, _separate, searched),
    check("duck-outdated", collision_percent, _duck, solve_duck),
)


def _ducking_outdated(id: str) -> Check:
    """Another ducking that was solved for sounds that have changed since."""
    name = f"outdated-{id}"

    def number(session: Session, answer: Answer) -> float | None:
        one = answer.state.ducking_of(id)
        if one is not None:
            with contextlib.suppress(UserError):  # what is not played any more covers nothing
                return 100 * covered_share(session, answer.state, one)
        return None

    def judge(session: Session, answer: Answer) -> Finding | None:
        state = answer.state
        one = state.ducking_of(id)
        if one is None or not one.on or one.solved_for in ("", ducking_solved_for(state, one)):
            return None
        share = number(session, answer)
        if share is None:
            return None
        targets = _names(state, [target.part for target in one.targets])
        triggers = _names(state, one.triggers)
        return Finding(
            name, "duck",
            f"The ducking of {targets} by {triggers} was solved for other sounds; now it covers "
            f"{share:.0f} % of what starts it.",
            "collision_share", share, _limit(answer), "%",
            "Changing a sound late is dangerous: everything was fitted to the old one.",
            mend("Solve it again"),
        )  # fmt: skip

    def solved(session: Session, answer: Answer) -> TrackState:
        state = answer.state
        one = state.ducking_of(id)
        if one is None:
            return state
        update = {
            "duck": solve_ducking(session, state, one).recipe,
            "solved_for": ducking_solved_for(state, one),
        }
        return state.with_ducking(one.model_copy(update=update))

    return check(name, number, judge, solved)


def _names(state: TrackState, ids: Iterable[str]) -> str:
    return " and ".join(state.named(id) for id in ids)


def ducking_checks(state: TrackState) -> list[Check]:
    """One for every ducking beside that of kick and bass.

    Parameters
    ----------
    state
        The track.

    Returns
    -------
    list of Check
        One for each.

    Examples
    --------
    >>> ducking_checks(TrackState())
    []
    """
    return [_ducking_outdated(one.id) for one in state.duckings[1:]]
