"""A low sound under the start of another: shortened, choked, or out of its way."""

from juglant.core.findings.fixes import Fix, can_shorten, choke, clear_tail
from juglant.core.findings.verdict import Check, Finding
from juglant.core.lowend.session import Answer, Session
from juglant.core.lowend.voices import Spill, spills
from juglant.core.recipes.hit import Hit
from juglant.core.recipes.notes import STRAIGHT_PERCENT, Note
from juglant.core.recipes.parts import Voice
from juglant.core.recipes.track import TrackState
from juglant.core.tempo import beat_ms

# A tail so far under a new note moves the sum of both by a decibel and a half: more is heard to wobble.
SPILL_DB = -15.0
# A note that is moved out of the way of a tail goes on by sixteenths, half a beat at most.
_STEP_BEATS, _MOST_STEPS, _MOST_SPILLS = 0.25, 2, 6
# A shortened note ends as little before the new one as will do; none is made shorter than the last.
_CLEAR_BEATS, _SHORTEST_BEATS = (1 / 24, 1 / 12, 1 / 8, 1 / 6, 1 / 4), 1 / 12
_NEAR_BEATS = 0.02


def _db(session: Session, answer: Answer) -> float | None:
    found = spills(session, answer)
    return found[0].db if found else None


def _worst(session: Session, answer: Answer) -> Spill | None:
    found = spills(session, answer)
    return found[0] if found and found[0].db > SPILL_DB else None


def _like(session: Session, answer: Answer, spill: Spill) -> list[Spill]:
    """All that spills from the same into the same."""
    return [
        one for one in spills(session, answer)
        if (one.old, one.new) == (spill.old, spill.new) and one.db > SPILL_DB
    ]  # fmt: skip


def _line(state: TrackState, name: str) -> Voice | None:
    """A line by its name, if its notes are known."""
    lines = (voice for voice in state.voices if voice.name == name and voice.line is not None)
    return next(lines, None)


def _is_straight(state: TrackState, name: str) -> bool:
    """Whether a part plays without swing."""
    voice, hits = _line(state, name), (hit for hit in state.all_hits if hit.name == name)
    part = next(hits, None) if voice is None else voice.line
    return part is None or state.brief.swing_of(part) == STRAIGHT_PERCENT


def _by_tail(answer: Answer, spill: Spill) -> bool:
    return spill.old == answer.state.kick.name and can_shorten(answer.state.kick)


def _shortened(session: Session, answer: Answer) -> TrackState:
    """A made kick's tail, or the notes of a line that reach into the new sound, made shorter."""
    worst, state = _worst(session, answer), answer.state
    if worst is None:
        return state
    if _by_tail(answer, worst):
        return clear_tail(session, answer, lambda changed: (_db(session, changed) or -99.0) <= SPILL_DB)
    voice = _line(state, worst.old)
    if voice is None:
        return state
    beat = beat_ms(state.brief.bpm)
    starts = [one.at_ms / beat for one in _like(session, answer, worst)]
    for clear in _CLEAR_BEATS:
        state = answer.state.with_line(voice.id, pattern=_before(voice, starts, clear, state.brief.bars))
        if not _like(session, session.answer(state), worst):
            break
    return state


def _before(voice: Voice, starts: list[float], clear: float, bars: int) -> tuple[Note, ...]:
    """The notes of a line that reach to within half a beat of beats of the loop end before them."""
    assert voice.line is not None
    pattern = []
    for note in voice.line.pattern:
        beats = note.beats
        for first in range(0, bars, voice.line.bars):
            for at in starts:
                until = (at - 4 * first - note.at) % (4.0 * bars)
                if until < note.beats + 0.5:
                    beats = min(beats, max(_SHORTEST_BEATS, until - clear))
        pattern.append(note.model_copy(update={"beats": round(beats, 4)}))
    return tuple(pattern)


def _choked(session: Session, answer: Answer) -> TrackState:
    worst = _worst(session, answer)
    return answer.state if worst is None else choke(answer.state, worst.old, worst.new)


def _later(places: list[float], at: float, end: float) -> list[float] | None:
    """Places in beats with one of them a sixteenth later; None where the next is in the way."""
    index = min(range(len(places)), key=lambda n: abs(places[n] - at))
    after = [*places[1:], end][index]
    if abs(places[index] - at) > _NEAR_BEATS or after - places[index] < _STEP_BEATS + _NEAR_BEATS:
        return None
    return [*places[:index], places[index] + _STEP_BEATS, *places[index + 1 :]]


def _moved_once(state: TrackState, name: str, at: float) -> TrackState | None:
    """The note or stroke that begins at a beat of the loop, a sixteenth later."""
    voice = _line(state, name)
    if voice is not None:
        assert voice.line is not None
        notes, bars = voice.line.pattern, voice.line.bars
        places = _later([note.at for note in notes], at % (4 * bars), 4.0 * bars)
        if places is None:
            return None
        moved = zip(notes, places, strict=True)
        return state.with_line(
            voice.id,
            pattern=tuple(
                note if place == note.at
                else note.model_copy(
                    update={"at": place, "beats": max(note.beats - _STEP_BEATS, _SHORTEST_BEATS)})
                for note, place in moved
            ),
        )  # fmt: skip
    for hit in state.hits:
        if hit.name == name:
            places = _later([step.at for step in hit.steps], at % (4 * hit.bars), 4.0 * hit.bars)
            return None if places is None else state.with_part(_struck(hit, places))
    return None


def _struck(hit: Hit, places: list[float]) -> Hit:
    steps = zip(hit.steps, places, strict=True)
    return hit.model_copy(
        update={"steps": tuple(step.model_copy(update={"at": place}) for step, place in steps)}
    )


def _moved(session: Session, answer: Answer) -> TrackState:
    """Every new sound that finds the old one, later by sixteenths until it does not, or until
    another note or the loop's end is in the way.
    """
    worst, state = _worst(session, answer), answer.state
    if worst is None:
        return state
    beat = beat_ms(state.brief.bpm)
    for _ in range(_MOST_STEPS * 2 * state.brief.bars):
        over = _like(session, session.answer(state), worst)
        later = _moved_once(state, worst.new, over[0].at_ms / beat) if over else None
        if later is None:
            break
        state = later
    return state


def _until_clear(fix: Fix) -> Fix:
    """One fix for every spill in turn, until none is left or nothing changes any more."""

    def again(session: Session, answer: Answer) -> TrackState:
        for _ in range(_MOST_SPILLS):
            state = fix(session, answer)
            if state == answer.state or _worst(session, answer) is None:
                break
            answer = session.answer(state)
        return answer.state

    return again


_WAYS: dict[str, Fix] = {
    "shorten": _until_clear(_shortened), "choke": _until_clear(_choked), "move": _moved,
}  # fmt: skip


def _tail_spill(session: Session, answer: Answer) -> Finding | None:
    worst = _worst(session, answer)
    if worst is None:
        return None
    wobble = f", and the two wobble {worst.wobble_hz:.1f} times a second" if worst.wobble_hz else ""
    old, new = worst.old.lower(), worst.new.lower()
    by_tail = _by_tail(answer, worst)
    labels = {"choke": f"Let the {new} choke the {old}"}
    if by_tail:
        labels = {"shorten": f"Shorten the {old}", **labels}
    elif _line(answer.state, worst.old) is not None:
        labels["shorten"] = f"Shorten the notes of the {old}"
    at = worst.at_ms / beat_ms(answer.state.brief.bpm)
    # Swung places lie between the sixteenths that notes are moved by.
    straight = _is_straight(answer.state, worst.new)
    if straight and _moved_once(answer.state, worst.new, at) is not None:
        labels["move"] = f"Move the {new} out of its way"
    return Finding(
        "tail-spill", "hits" if by_tail else "line",
        f"The {old} still sounds at {worst.db:.0f} dB re the {new} that starts {worst.at_ms:.0f} ms into "
        f"the loop{wobble}.",
        "tail_spill_db", worst.db, SPILL_DB, "dB",
        "Two low tones at once wobble; a new low note should find the old one gone.",
        labels,
    )  # fmt: skip


TAIL_SPILL = Check("tail-spill", _db, _tail_spill, _WAYS)
