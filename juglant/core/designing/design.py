"""Five answers along the trade between a long sound and much ducking, each of them heard and measured."""

import contextlib
from collections.abc import Callable, Set
from dataclasses import dataclass
from typing import Literal

import numpy as np

from juglant.core.designing.kicks import heard_on_small, kick_question
from juglant.core.designing.lines import line_question
from juglant.core.designing.search import Question, best
from juglant.core.errors import UserError
from juglant.core.findings.fixes import PEAK_DBTP, quieter
from juglant.core.findings.judge import findings
from juglant.core.findings.outdated import solve_duck
from juglant.core.findings.solving import STEPS, Step, solve
from juglant.core.lowend.session import Answer, Session
from juglant.core.music import nearest_note
from juglant.core.recipes.design import Character
from juglant.core.recipes.ducking import Ducking
from juglant.core.recipes.hit import Hit, Made808, MadeKick
from juglant.core.recipes.parts import Bass, MadeBass, PlayedBass, Voice
from juglant.core.recipes.track import TrackState

Wanted = Literal["kick", "808", "bass"]
# Answers, and about how many sounds are tried for each.
ANSWERS, MOST_TRIED = 5, 24
# How much of what is usual the character moves the answers by, and how far they lie apart.
_MOVED, _APART = 0.4, 0.15
# What is between kick and bass is told even where it was so before.
_BETWEEN = {"collision", "sub-shared", "sub-loss", "sub-nobody", "tail-spill", "cancels", "mix-peak"}
# A sound is lowered by so much at most, in so many turns, for the peak of both together: a short note that
# is as loud as a long one peaks far above it, a kick that is much softer is another kick.
_MOST_LOWERED_DB: dict[Wanted, float] = {"kick": 3.0, "808": 9.0, "bass": 9.0}
_TURNS = 4
# What is left is mended by this many fixes’ trials at most.
_MENDED_IN = 4


@dataclass(frozen=True)
class Design:
    """One answer: the track with the sound in its place, its note where it has one of its own, how long it
    is, what its ducking takes, what kick and bass do then, what was mended besides, what is left.

    `length_ms` is until a kick is 60 dB down, or until a line’s sound has come to its sustain; `depth_db`
    is 0 where nothing is ducked, `taken_lu` what the ducking takes of the loudness, `lowered_db` how far
    the sound lies under the loudness of the old one, so that both together stay under −1 dBTP;
    `more_click_db` is how much more click a kick got than was asked for, for the smallest loudspeakers.
    """

    state: TrackState
    note: str | None
    length_ms: float
    depth_db: float
    taken_lu: float
    lowered_db: float
    more_click_db: float
    collision_ms: float | None
    sub_shared_ms: float | None
    sub_level_db: float | None
    steps: tuple[Step, ...]
    left: tuple[str, ...]


def design(
    session: Session,
    state: TrackState,
    wanted: Wanted,
    line: str | None = None,
    character: Character | None = None,
    told: Callable[[int], bool] = lambda tried: True,
) -> list[Design]:
    """A kick for the lines of a track, or an 808 or a bass for its kick, the shortest first.

    `line` is the id of the one that gets another sound, the first if it is not given. The other sounds stay
    as they are; the ducking is left out where nothing has to give way, and else as little as will do.
    `told` hears how many sounds were tried and stops the search with False: what was found so far comes
    back. UserError where nothing is there to design for, or where the line's notes are not known. The same
    question gives the same answers.

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.
    wanted
        What is to be made.
    line
        Id of the line.
    character
        What it is to be like.
    told
        Hears how many were tried, and stops with False.

    Returns
    -------
    list of Design
        The shortest first.

    Examples
    --------
    >>> found = design(Session(), TrackState(), "kick", told=lambda tried: False)
    >>> found[0].state.kick.kind
    'kick'
    """
    character = character or Character()
    if wanted == "kick" and not state.heard:
        raise UserError("No line is heard: there is nothing to design a kick for.", "state")
    kick = state.kick
    if kick.mute or not kick.steps or not np.any(session.sounds.kick(kick, state.brief.bpm)):
        # Then it says neither when the sound is struck nor how loud it is.
        raise UserError("The kick is not heard: let it be, where it is to be struck.", "state")
    line = line or state.voices[0].id
    if wanted != "kick" and state.voice(line).mute:
        raise UserError(f"{state.voice(line).name} is muted: let it be heard first.", "line")
    tried, going = 0, True

    def heard() -> bool:
        nonlocal tried, going
        tried += 1
        going = going and told(tried)
        return going

    before = {one.id for one in findings(session, session.answer(state))}
    # As both are before any ducking: that is solved for each answer.
    was, state = state.duckings[0], state.with_duck(on=False)
    found = []
    for n in range(ANSWERS):
        share = _MOVED * character.length + _APART * n
        made = best(session, _question(session, state, wanted, line, character, share), heard)
        found.append(_finished(session, made, was, wanted, line, before))
        if not going:
            break
    return sorted(found, key=lambda one: one.length_ms)


def _question(
    session: Session, state: TrackState, wanted: Wanted, line: str, character: Character, share: float
) -> Question:
    if wanted == "kick":
        return kick_question(session, state, character, share)
    return line_question(session, state, line, character, share, is_808=wanted == "808")


def _left(session: Session, answer: Answer, before: Set[str]) -> dict[str, str]:
    """What is wrong between kick and bass, and what was not wrong before: sentences by their findings."""
    return {
        one.id: one.sentence
        for one in findings(session, answer)
        if one.id in _BETWEEN or (one.step in STEPS and one.id not in before)
    }


def _taken_lu(answer: Answer) -> float:
    return max(0.0, answer.mix_before.lufs - answer.mix_after.lufs) if answer.state.ducking else 0.0


def _least_ducked(
    session: Session, state: TrackState, was: Ducking, before: Set[str], designed: str, most_db: float
) -> tuple[TrackState, float]:
    """Without its ducking, under the one that was there, or under one that is solved, each with its peak
    in bounds: what leaves least open, of these what takes least; and how far the sound was lowered for it.
    """
    off = state.with_duck(on=False, solved_for="")
    tried = [_in_bounds(session, off, designed, most_db)]
    if _left(session, session.answer(tried[0][0]), before):
        more = [state.with_duck(on=True, duck=was.duck, solved_for="")] if was.on else []
        with contextlib.suppress(UserError):  # it ducks nothing that is heard
            more.append(solve_duck(session, session.answer(off)))
        tried += [_in_bounds(session, one, designed, most_db) for one in more]

    def worth(one: tuple[TrackState, float]) -> tuple[int, float]:
        answer = session.answer(one[0])
        return len(_left(session, answer, before)), _taken_lu(answer)

    return min(tried, key=worth)


def _finished(
    session: Session, state: TrackState, was: Ducking, wanted: Wanted, line: str, before: Set[str]
) -> Design:
    """A sound with the least ducking that clears it, its peak in bounds, and what is left mended where
    nothing else changes.
    """
    is_kick = wanted == "kick"
    state, more_click_db = heard_on_small(session, state) if is_kick else (state, 0.0)
    designed = state.kick.id if is_kick else line
    state, lowered = _least_ducked(session, state, was, before, designed, _MOST_LOWERED_DB[wanted])
    state = _in_phase(session, state, designed, before)
    answer = session.answer(state)
    steps: tuple[Step, ...] = ()
    if _left(session, answer, before):
        locks = {state.kick.id, *(voice.id for voice in state.voices)} - {designed}
        mended = solve(session, state, locks, told=lambda looked, left: looked < _MENDED_IN).best
        state, steps = mended.state, mended.steps
        answer = session.answer(state)
    hit, ducked = answer.kick.hit, state.ducking
    length = (hit.decay60_ms or hit.length_ms) if is_kick else _decay_ms(state.voice(line).bass)
    return Design(
        state, _note(state) if is_kick else None, length, -answer.duck.depth_db if ducked else 0.0,
        _taken_lu(answer), lowered, more_click_db,
        answer.after.collision_ms, answer.after.sub_shared_ms, answer.after.sub_level_db, steps,
        tuple(_left(session, answer, before).values()),
    )  # fmt: skip


def _in_bounds(
    session: Session, state: TrackState, designed: str, most_db: float
) -> tuple[TrackState, float]:
    """The designed sound so much quieter that both together stay under −1 dBTP, and by how much; as it is
    where that does not help, for the other is what is too loud.
    """
    made, lowered = state, 0.0
    for _ in range(_TURNS):
        over_db = session.answer(made).mix_after.true_peak_dbtp - PEAK_DBTP
        if over_db <= 0.0:
            return made, lowered
        lowered = round(lowered + over_db + 0.1, 1)
        if lowered > most_db:
            break
        made = quieter(state, designed, lowered)
        if state.duckings[0].solved_for:
            made = solve_duck(session, session.answer(made))
    return state, 0.0


def _in_phase(session: Session, state: TrackState, designed: str, before: Set[str]) -> TrackState:
    """The designed sound inverted where kick and bass cancel each other, and do not when it is."""
    if "cancels" not in _left(session, session.answer(state), before):
        return state
    part = state.part(designed)
    assert isinstance(part, Hit | Voice)
    other = state.with_part(
        part.model_copy(update={"place": part.place.model_copy(update={"polarity": "inverted"})})
    )
    return state if "cancels" in _left(session, session.answer(other), before) else other


def _note(state: TrackState) -> str:
    """The note that a designed kick was given."""
    source, brief = state.kick.layers[0].source, state.brief
    assert isinstance(source, MadeKick)
    return nearest_note(source.recipe.end_hz, brief.a4_hz, brief.key.flats).note


def _decay_ms(bass: Bass) -> float:
    """Until a line’s sound has come to its sustain."""
    source = bass.hit.layers[0].source if isinstance(bass, PlayedBass) else bass
    assert isinstance(source, MadeBass | Made808)
    return source.recipe.decay_ms
