"""What is wrong with a low end, by which number, and what would mend it.

The limits are common practice unless a source stands beside them; a producer may have a
reason to break each.
"""

from juglant.core.errors import UserError
from juglant.core.findings.carving import CARVING
from juglant.core.findings.doubled import doubled_checks
from juglant.core.findings.files import file_checks
from juglant.core.findings.fixes import PEAK_DBTP, lower, return_in_time, slower_attack
from juglant.core.findings.harmony import KICK_OUT_OF_CHORD
from juglant.core.findings.hits import hit_checks, off_key_check
from juglant.core.findings.mono import mono_checks
from juglant.core.findings.outdated import OUTDATED, collision_percent, ducking_checks, searched, solve_duck
from juglant.core.findings.regions import REGION_CHECKS
from juglant.core.findings.spill import TAIL_SPILL
from juglant.core.findings.sub import SUB
from juglant.core.findings.sweep import LATE_SWEEP
from juglant.core.findings.trying import Effect, TriedFix, Trying
from juglant.core.findings.verdict import MEND, Check, Finding, check, mend
from juglant.core.lowend.ducking import CLICK_LIMIT_DB_PER_MS
from juglant.core.lowend.session import Answer, Session
from juglant.core.measure.overlap import COLLISION_SHARE
from juglant.core.recipes.track import TrackState


def _collision(_: Session, answer: Answer) -> Finding | None:
    share, owner = answer.after.collision_share, answer.state.brief.sub_owner
    if share is None or share <= COLLISION_SHARE[owner]:
        return None
    where = "" if owner == "kick" else " above the sub"
    return Finding(
        "collision", "duck",
        f"The bass covers the kick{where} for {answer.after.collision_ms:.0f} ms of every kick, "
        f"{100 * share:.0f} % of the time it sounds there.",
        "collision_share", 100 * share, 100 * COLLISION_SHARE[owner], "%",
        "Two sounds in the same low range blur each other; ducked apart, both may keep it.",
        {MEND: "Solve the ducking", "part": "Search for what parts them"},
        advice="A bass that is quieter while the kick sounds, or that lies elsewhere.",
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
        {MEND: "Return in time", "solve": "Solve the ducking"},
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
        {MEND: "Slow the attack and release", "solve": "Solve the ducking"},
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
        {"both": f"Lower kick and bass by {peak + 1:.1f} dB", MEND: f"Lower the kick by {peak + 1:.1f} dB"},
    )  # fmt: skip


_CARVE = (KICK_OUT_OF_CHORD, LATE_SWEEP, *SUB, TAIL_SPILL, *CARVING, *REGION_CHECKS)
_DUCK = (
    Check("collision", collision_percent, _collision, {MEND: solve_duck, "part": searched}),
    Check("duck-never-returns", lambda _, answer: answer.duck.slack_ms, _never_back,
          {MEND: return_in_time, "solve": solve_duck}),
    Check("duck-clicks", lambda _, answer: answer.duck.click_risk, _clicks,
          {MEND: slower_attack, "solve": solve_duck}),
)  # fmt: skip


def _lowered_kick(_: Session, answer: Answer) -> TrackState:
    return lower(answer.state, answer.kick.hit.true_peak_dbtp + 1, bass=False)


def _lowered_both(_: Session, answer: Answer) -> TrackState:
    return lower(answer.state, answer.kick.hit.true_peak_dbtp + 1, bass=True)


_LEVEL = (
    Check("kick-peak", lambda _, answer: answer.kick.hit.true_peak_dbtp, _kick_peak,
          {"both": _lowered_both, MEND: _lowered_kick}),
    check(
        "mix-peak", lambda _, answer: answer.mix_after.true_peak_dbtp, _peak,
        lambda _, answer: lower(
            answer.state, answer.mix_after.true_peak_dbtp - PEAK_DBTP + 0.1, bass=True),
    ),
)  # fmt: skip


def findings(session: Session, answer: Answer, more: tuple[Check, ...] = ()) -> list[Finding]:
    """Everything beyond its limit, in the order of cure that the brief names, and behind it what is judged
    `more`: in a place.

    Parameters
    ----------
    session, answer
        Renders and keeps what was asked for; what was rendered and measured of the track.
    more
        What is judged beside.

    Returns
    -------
    list of Finding
        In the order of cure.

    Examples
    --------
    >>> session = Session()
    >>> answer = session.answer(TrackState())
    >>> findings(session, answer)
    []
    """
    return [found for kind in _checks(answer, more) if (found := kind.judge(session, answer)) is not None]


def _checks(answer: Answer, more: tuple[Check, ...]) -> tuple[Check, ...]:
    ducking_first = answer.state.brief.cure == "ducking first"
    state = answer.state
    carve = (off_key_check(state.kick.id), *_CARVE)
    low_end = (*_DUCK, *carve) if ducking_first else (*carve, *_DUCK)
    return (
        *OUTDATED, *ducking_checks(state), *low_end, *_LEVEL, *mono_checks(state), *hit_checks(state),
        *file_checks(state), *doubled_checks(state), *more,
    )  # fmt: skip


def _trying(session: Session, answer: Answer, more: tuple[Check, ...]) -> Trying:
    return Trying(session, answer, list(_checks(answer, more)), findings(session, answer, more))


def fixes(
    session: Session, answer: Answer, finding_id: str, more: tuple[Check, ...] = ()
) -> list[TriedFix]:
    """The fixes of a finding that were tried and may be offered, the best first. What is judged `more` is
    not kept.

    Parameters
    ----------
    session, answer
        Renders and keeps what was asked for; what was rendered and measured of the track.
    finding_id
        Of the finding.
    more
        What is judged beside.

    Returns
    -------
    list of TriedFix
        The best first.

    Examples
    --------
    >>> session = Session()
    >>> answer = session.answer(TrackState())
    >>> fixes(session, answer, "collision")
    []
    """
    if more:
        return _tried(session, answer, finding_id, more)
    return session.sounds.once(_tried, session, answer, finding_id)


def _tried(
    session: Session, answer: Answer, finding_id: str, more: tuple[Check, ...] = ()
) -> list[TriedFix]:
    trying = _trying(session, answer, more)
    trying.check(finding_id)
    finding = trying.found.get(finding_id)

    def judged(session: Session, answer: Answer) -> list[Finding]:
        return findings(session, answer, more)

    return [] if finding is None else trying.fixes(finding, judged)


def effect(
    session: Session, answer: Answer, finding_id: str, way: str | None = None, more: tuple[Check, ...] = ()
) -> Effect:
    """Try one of a finding's fixes, the best one unless `way` names another.

    UserError if there is none to take.

    Parameters
    ----------
    session, answer
        Renders and keeps what was asked for; what was rendered and measured of the track.
    finding_id
        Of the finding.
    way
        Of the fix; the best one where none is named.
    more
        What is judged beside.

    Returns
    -------
    Effect
        Before and after.

    Examples
    --------
    >>> from juglant.core.recipes.bass import PATTERNS, BassRecipe
    >>> from juglant.core.recipes.parts import MadeBass
    >>> from juglant.core.recipes.track import TrackState
    >>> bass = MadeBass(recipe=BassRecipe(pattern=PATTERNS["with the kick"]))
    >>> session = Session()
    >>> answer = session.answer(TrackState.of(bass=bass, ducking=False))
    >>> effect(session, answer, "collision").closes
    ['collision', 'sub-shared', 'mix-peak']
    """
    trying = _trying(session, answer, more)
    kind, found = trying.check(finding_id), trying.found.get(finding_id)
    if found is None:
        raise UserError("This finding no longer holds: there is nothing to mend.")
    if way is None:
        way = next((one.way for one in fixes(session, answer, finding_id, more)), None)
    if way is None or way not in found.fixes:
        raise UserError("This finding has no such fix that could be taken for you.")
    state = trying.mended(found, way)
    mended = session.answer(state)
    new = {finding.id: finding for finding in findings(session, mended, more)}
    after = new[found.id].value if found.id in new else kind.number(session, mended)
    return Effect(
        state, found.value, after, answer.mix_after.lufs, mended.mix_after.lufs,
        [id for id in trying.found if id not in new],
        [finding.sentence for id, finding in new.items() if id not in trying.found],
    )  # fmt: skip
