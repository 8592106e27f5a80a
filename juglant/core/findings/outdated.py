"""What was solved for another kick or bass: said, and solved again if asked, never by itself."""

import contextlib

from juglant.core.errors import UserError
from juglant.core.findings.verdict import Check, Finding, check, mend
from juglant.core.lowend import separation
from juglant.core.lowend.overview import covered_share, solve_bus
from juglant.core.lowend.part import bus_solved_for, solved_for
from juglant.core.lowend.session import Answer, Session
from juglant.core.measure.overlap import COLLISION_SHARE
from juglant.core.recipes.track import TrackState


def _limit(answer: Answer) -> float:
    return 100 * COLLISION_SHARE[answer.state.brief.sub_owner]


def collision_percent(_: Session, answer: Answer) -> float | None:
    """Share of the kick that the bass covers as it is heard, in per cent."""
    share = answer.after.collision_share
    return None if share is None else 100 * share


def _finding(id: str, step: str, what: str, fix: str, answer: Answer) -> Finding:
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
    if not state.ducking or state.duck_for in ("", solved_for(state)):
        return None
    return _finding("duck-outdated", "duck", "The ducking", "Solve the ducking again", answer)


def solve_duck(session: Session, answer: Answer) -> TrackState:
    """The state with its ducking solved, and for what."""
    state = answer.state
    recipe = session.solve_ducking(state).recipe
    return state.model_copy(update={"duck": recipe, "ducking": True, "duck_for": solved_for(state)})


def _separate(_: Session, answer: Answer) -> Finding | None:
    state = answer.state
    if state.separate_for in ("", solved_for(state)):
        return None
    return _finding("separate-outdated", "separate", "The separation", "Search for it again", answer)


def searched(session: Session, answer: Answer) -> TrackState:
    """The furthest of the degrees that are found now."""
    state = answer.state
    recipe = state.separate
    for _, degrees in separation.solve(session, state):
        recipe = degrees[-1].tried.recipe if degrees else recipe
    return state.model_copy(update={"separate": recipe, "separate_for": solved_for(state)})


OUTDATED: tuple[Check, ...] = (
    check("separate-outdated", collision_percent, _separate, searched),
    check("duck-outdated", collision_percent, _duck, solve_duck),
)


def _bus_outdated(index: int) -> Check:
    """Another ducking that was solved for sounds that have changed since."""

    def number(session: Session, answer: Answer) -> float | None:
        state = answer.state
        if index >= len(state.buses):
            return None
        with contextlib.suppress(UserError):  # what is not played any more covers nothing
            return 100 * covered_share(session, state, state.buses[index])
        return None

    def judge(session: Session, answer: Answer) -> Finding | None:
        state = answer.state
        bus = state.buses[index]
        if not bus.on or bus.solved_for in ("", bus_solved_for(state, bus)):
            return None
        share = number(session, answer)
        if share is None:
            return None
        return Finding(
            f"bus-outdated-{index}", "duck",
            f"The ducking of {bus.target} by {bus.trigger} was solved for other sounds; now it covers "
            f"{share:.0f} % of what starts it.",
            "collision_share", share, _limit(answer), "%",
            "Changing a sound late is dangerous: everything was fitted to the old one.",
            mend("Solve it again"),
        )  # fmt: skip

    def solved(session: Session, answer: Answer) -> TrackState:
        state = answer.state
        bus = state.buses[index]
        update = {"duck": solve_bus(session, state, bus).recipe, "solved_for": bus_solved_for(state, bus)}
        changed = bus.model_copy(update=update)
        return state.model_copy(
            update={"buses": (*state.buses[:index], changed, *state.buses[index + 1 :])}
        )

    return check(f"bus-outdated-{index}", number, judge, solved)


def bus_checks(state: TrackState) -> list[Check]:
    """One for every ducking beside that of kick and bass."""
    return [_bus_outdated(index) for index in range(len(state.buses))]
