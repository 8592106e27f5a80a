"""A fix is tried before it is offered: what it does to its number, what it closes, what it opens."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from juglant.core.errors import UserError
from juglant.core.findings.fixes import PEAK_DBTP, lower
from juglant.core.findings.verdict import MEND, Check, Finding
from juglant.core.lowend.session import Answer, Session
from juglant.core.measure.loopsound import LoopSound
from juglant.core.measure.overlap import level_db
from juglant.core.measure.owner import below_gain
from juglant.core.process.filters import linkwitz_riley_gain
from juglant.core.recipes.track import TrackState

Array = NDArray[np.float64]
Judge = Callable[[Session, Answer], list[Finding]]

# A fix that does not close its finding is offered where it mends this share of what is beyond the limit.
_HELPS_SHARE = 0.5
# What no fix may take from kick and bass together below the sub edge; where both share the sub, what the
# second adds to the owner may go too: in phase and equally loud that is 6 dB.
_MOST_LOWERED_DB, _MOST_SHARED_DB = 3.0, 6.0
# What the label of a fix says that brings something along.
_AGAIN = ", and solve again what was fitted to it"
# The owner alone is met within so much.
_MET_DB = 0.3
# What lies below is not heard (common practice).
_WINDOW_MS, _HEARD_HZ = 50.0, 28.0


@dataclass(frozen=True)
class TriedFix:
    """What a fix was measured to do: the number after it, whether its finding is closed, and the ids of
    findings that it would open.
    """

    way: str
    label: str
    value_after: float | None
    closes: bool
    opens: list[str]


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


def empties(session: Session, before: Answer, after: Answer) -> bool:
    """Whether the loudest 50 ms of kick and bass together lose more below the sub edge than they may.

    Parameters
    ----------
    session, before
        Renders and keeps what was asked for; as it was.
    after
        As it is.

    Returns
    -------
    bool
        Whether they do.

    Examples
    --------
    >>> session = Session()
    >>> answer = session.answer(TrackState())
    >>> empties(session, answer, answer)
    False
    """
    edge = session.parts.edge(before.state)
    hz = 60.0 if edge is None else edge.said_hz

    def heard_sub(at_hz: Array) -> Array:
        return below_gain(hz, at_hz) * linkwitz_riley_gain(at_hz, _HEARD_HZ)[1]

    def top_db(x: LoopSound) -> float:
        return float(np.max(level_db(x.low.under(heard_sub), x.decimated[1], _WINDOW_MS, loop=True)))

    was, is_ = (top_db(LoopSound(one.mix_after.samples)) for one in (before, after))
    owner = before.kick_loop if before.state.brief.sub_owner == "kick" else before.ducked_loop
    shared = min(was - top_db(owner) + _MET_DB, _MOST_SHARED_DB)
    return was - is_ > max(_MOST_LOWERED_DB, shared)


class Trying:
    """The findings of an answer and their fixes, each tried once."""

    def __init__(self, session: Session, answer: Answer, checks: list[Check], found: list[Finding]) -> None:
        self._session, self._answer = session, answer
        self._checks = {check.id: check for check in checks}
        self.found = {finding.id: finding for finding in found}

    def check(self, id: str) -> Check:
        """A kind of finding. UserError where there is none of this name."""
        if id not in self._checks:
            raise UserError(f"There is no finding called “{id}”.")
        return self._checks[id]

    def mended(self, finding: Finding, way: str) -> TrackState:
        """The state that a fix leads to. Where it would pass the peak's limit, both are lowered; what was
        solved for the old sounds is solved again.
        """
        return self._brought_along(self._alone(finding, way))

    def _alone(self, finding: Finding, way: str) -> TrackState:
        """The state that a fix leads to, without what follows from it."""
        state = self.check(finding.id).fixes[way](self._session, self._answer)
        if state == self._answer.state:
            return state
        over = self._session.answer(state).mix_after.true_peak_dbtp - PEAK_DBTP
        if over > 0 and self._answer.mix_after.true_peak_dbtp <= PEAK_DBTP:
            state = lower(state, over + 0.1, bass=True)
        return state

    def _brought_along(self, state: TrackState) -> TrackState:
        """The state with what had been solved for the old sounds, and was not outdated, solved again."""
        if state == self._answer.state:
            return state
        for id, check in self._checks.items():
            if "outdated" in id and id not in self.found:
                answer = self._session.answer(state)
                if check.judge(self._session, answer) is not None:
                    state = check.fixes[MEND](self._session, answer)
        return state

    def tried(self, finding: Finding, way: str, judged: Judge) -> TriedFix | None:
        """A fix that may be offered; None where it does nothing, harm, or too little."""
        try:
            alone = self._alone(finding, way)
            if alone == self._answer.state:
                return None
            state = self._brought_along(alone)
            mended = self._session.answer(state)
        except UserError:
            return None
        after = judged(self._session, mended)
        ids = {one.id: one for one in after}
        opens = [id for id in ids if id not in self.found]
        closes, label = finding.id not in ids, finding.fixes[way]
        if state != alone and "outdated" not in finding.id:
            label += _AGAIN
        value = (
            ids[finding.id].value if not closes else self.check(finding.id).number(self._session, mended)
        )
        if "outdated" in finding.id:
            # What was solved for another sound is solved again if asked, whatever else it brings to light.
            return TriedFix(way, label, value, closes, opens)
        levelled = finding.id.endswith("peak")
        if opens or (not levelled and empties(self._session, self._answer, mended)):
            return None
        if not closes and not _helps(finding, value):
            return None
        return TriedFix(way, label, value, closes, opens)

    def fixes(self, finding: Finding, judged: Judge) -> list[TriedFix]:
        """Every fix that closes the finding; where none does, those that help."""
        found = [one for way in finding.fixes if (one := self.tried(finding, way, judged)) is not None]
        return [one for one in found if one.closes] or found


def _helps(finding: Finding, value: float | None) -> bool:
    if value is None:
        return False
    beyond = finding.value - finding.limit
    return bool(abs(value - finding.limit) < (1 - _HELPS_SHARE) * abs(beyond))
