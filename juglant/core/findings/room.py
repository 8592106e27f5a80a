"""What a place brings to light: notes it does not play, notes that stand out, a kick that small
loudspeakers do not have, a low end that is not mono, headroom.

A place is a stand-in that somebody chose: these are said where it is looked at, never of a track alone.
Limits without a word are common practice; those of the kick on small loudspeakers and of the limiter are
ours: on 64 clean tracks the kick keeps −28 dB or more and stands 4 dB or more over the rest, and a limiter
takes 8 dB at most.
"""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Literal

from juglant.core.findings.fixes import MONO_BELOW_HZ, Fix, mono_sum
from juglant.core.findings.hits import LOW_MONO_DB
from juglant.core.findings.verdict import MEND, Check, Finding
from juglant.core.lowend.linenotes import line_notes
from juglant.core.lowend.session import Answer, Session
from juglant.core.music import CLUB_LOWEST_HZ
from juglant.core.recipes.chain import DriveStage, EqualiserStage
from juglant.core.recipes.parts import MadeBass, PlayedBass, Voice
from juglant.core.recipes.room import Room
from juglant.core.recipes.track import TrackState
from juglant.core.rooms.judged import UNHEARD_HZ, Judged, judged

UNEVEN_LU, SMALL_LEFT_DB, SMALL_OVER_DB, LIMITED_DB, UNHEARD_DB = 6.0, -35.0, -6.0, 9.0, 1.0
_DRIVES_DB = (6.0, 9.0, 12.0, 15.0, 18.0, 24.0, 30.0, 36.0)
# Drive on what lies above the sub leaves the sub as it is.
_DRIVEN_FROM_HZ = 120.0

Look = Callable[[Session, TrackState], Judged]
Number = Callable[[Judged], float | None]


@dataclass(frozen=True)
class There:
    """A place that a track is looked at in, and how loud it is to be."""

    room: Room
    lufs: float = -10.0

    def look(self, session: Session, state: TrackState) -> Judged:
        """The numbers of a state in it, kept by the session."""
        return session.sounds.once(judged, session, state, self.room, self.lufs)


def room_checks(there: There) -> tuple[Check, ...]:
    """What is judged of a track in a place.

    Parameters
    ----------
    there
        The place.

    Returns
    -------
    tuple of Check
        In their order.

    Examples
    --------
    >>> from juglant.core.recipes.room import Phone
    >>> len(room_checks(There(Phone()))) > 0
    True
    """
    look = there.look
    driven = "Drive the kick’s harmonics"
    on_a_phone = "What is left of a kick on a phone is its click and its harmonics."
    brighter = "A click, or a layer that has its weight above 400 Hz."
    kinds = (
        _Kind(
            "room-low-note", lambda found: min((note.hz for note in found.notes), default=None), "least",
            CLUB_LOWEST_HZ, "Hz", "fundamental_hz", _low_notes,
            "What a system does not play is missing from the line, or is made up by its limiter.",
            "A line that stays above them, or another key.",
            {"octave": ("Play these notes an octave up", _notes_up),
             MEND: ("Raise the line by an octave", _line_up)},
        ),
        _Kind(
            "room-uneven", lambda found: found.spread_lu, "most", UNEVEN_LU, "LU", "spread", _uneven,
            "A room has modes, and any room may have this one: a line that lies on one note of it booms.",
            "A layer an octave up, or drive, carries the note where the mode is not. Do not cut the note "
            "itself: the next room has its mode elsewhere.",
        ),
        _Kind(
            "room-kick-gone", _left, "least", SMALL_LEFT_DB, "dB", "level above 400 Hz",
            lambda _, db: f"Of the kick, small loudspeakers play what lies {-db:.0f} dB under the track.",
            on_a_phone, brighter, {MEND: (driven, _driven(look, _left, SMALL_LEFT_DB))},
        ),
        _Kind(
            "room-kick-covered", _over, "least", SMALL_OVER_DB, "dB", "kick over the rest above 400 Hz",
            lambda _, db: f"On small loudspeakers the kick lies {-db:.0f} dB under the rest.",
            on_a_phone, brighter, {MEND: (driven, _driven(look, _over, SMALL_OVER_DB))},
        ),
        _Kind(
            "room-mono", lambda found: found.low_mono_loss_db, "least", LOW_MONO_DB, "dB",
            "low_mono_loss_db",
            lambda _, db: f"Below 150 Hz everything together loses {-db:.1f} dB in mono.",
            "Clubs play the low end in mono: what differs between the sides is gone there.", "",
            {MEND: (f"Make the sum mono below {MONO_BELOW_HZ:.0f} Hz",
                    lambda _, answer: mono_sum(answer.state))},
        ),
        _Kind(
            "room-headroom", lambda found: found.headroom.limited_db, "most", LIMITED_DB, "dB",
            "limited_db",
            lambda found, db: f"At −{-found.headroom.lufs:g} LUFS a limiter at −1 dBTP takes {db:.1f} dB.",
            "What a limiter takes is taken from the kick first: its punch goes with its peaks.",
            "A kick with lower peaks (drive, a millisecond more of attack), or a quieter track.",
        ),
        _Kind(
            "room-unheard", lambda found: found.headroom.unheard_db, "most", UNHEARD_DB, "dB", "unheard_db",
            lambda _, db: f"What lies below {UNHEARD_HZ:.0f} Hz costs {db:.1f} dB of headroom.",
            "Nobody hears it, and the limiter reacts to it.", "",
            {MEND: (f"High-pass the sum at {UNHEARD_HZ:.0f} Hz", _without_rumble)},
        ),
    )  # fmt: skip
    return tuple(kind.check(look) for kind in kinds)


@dataclass(frozen=True)
class _Kind:
    """One thing that is judged: its number, which end of it is the limit, and what is said where it is
    beyond it.
    """

    id: str
    number: Number
    end: Literal["least", "most"]
    limit: float
    unit: str
    measure: str
    sentence: Callable[[Judged, float], str]
    why: str
    advice: str = ""
    # By their words: what each is called, and what it does.
    fixes: dict[str, tuple[str, Fix]] = field(default_factory=dict)

    def check(self, look: Look) -> Check:
        """What is judged of a track, looked at in a place."""

        def number(session: Session, answer: Answer) -> float | None:
            return self.number(look(session, answer.state))

        def judge(session: Session, answer: Answer) -> Finding | None:
            value = number(session, answer)
            if value is None or (value <= self.limit if self.end == "most" else value >= self.limit):
                return None
            return Finding(
                self.id, "room", self.sentence(look(session, answer.state), value), self.measure, value,
                self.limit, self.unit, self.why, {way: label for way, (label, _) in self.fixes.items()},
                self.advice,
            )  # fmt: skip

        return Check(self.id, number, judge, {way: fix for way, (_, fix) in self.fixes.items()})


def _low_notes(found: Judged, lowest_hz: float) -> str:
    low = dict.fromkeys(note.note for note in found.notes if note.hz < CLUB_LOWEST_HZ)
    return f"Few club systems play {' and '.join(low)}: {lowest_hz:.1f} Hz is too low for them."


def _uneven(found: Judged, spread_lu: float) -> str:
    assert found.uneven is not None
    low, high = found.uneven
    return (
        f"In this room {high.note} of the {high.line} is heard {spread_lu:.1f} LU louder than {low.note}, "
        "against how they are written."
    )


def _left(found: Judged) -> float | None:
    return None if found.small is None else found.small.left_db


def _over(found: Judged) -> float | None:
    return None if found.small is None else found.small.over_rest_db


def _low_lines(state: TrackState) -> list[Voice]:
    return [voice for voice in state.heard if isinstance(voice.bass, MadeBass | PlayedBass)]


def _line_up(session: Session, answer: Answer) -> TrackState:
    """Every line with notes that few systems play, an octave higher."""
    state = answer.state
    for voice in _low_lines(state):
        line = voice.line
        if line is not None and any(hz < CLUB_LOWEST_HZ for hz in _hz_of(session, state, voice)):
            state = state.with_line(voice.id, octave=line.octave + 1)
    return state


def _notes_up(session: Session, answer: Answer) -> TrackState:
    """The notes of a pattern that few systems play in any of their bars, an octave higher."""
    state = answer.state
    for voice in _low_lines(state):
        line = voice.line
        if line is None:
            continue
        for index, note in enumerate(line.pattern):
            alone = line.model_copy(update={"pattern": (note,)})
            bass = voice.bass.model_copy(update={"recipe": alone})
            if any(hz < CLUB_LOWEST_HZ for hz in _hz_of(session, state.with_bass(voice.id, bass), voice)):
                raised = note.model_copy(update={"semitones": note.semitones + 12})
                pattern = (*line.pattern[:index], raised, *line.pattern[index + 1 :])
                line = line.model_copy(update={"pattern": pattern})
        state = state.with_line(voice.id, pattern=line.pattern)
    return state


def _hz_of(session: Session, state: TrackState, voice: Voice) -> list[float]:
    return [note.hz for note in line_notes(session.sounds, state, state.voice(voice.id))]


def _driven(look: Look, number: Number, limit: float) -> Fix:
    """The kick with as little drive above its sub as is enough."""

    def fix(session: Session, answer: Answer) -> TrackState:
        state, kick = answer.state, answer.state.kick
        for drive_db in _DRIVES_DB:
            stage = DriveStage(drive_db=drive_db, from_hz=_DRIVEN_FROM_HZ)
            state = answer.state.with_part(kick.model_copy(update={"chain": (*kick.chain, stage)}))
            if (number(look(session, state)) or 0.0) >= limit:
                break
        return state

    return fix


def _without_rumble(_: Session, answer: Answer) -> TrackState:
    """Everything together, without what nobody hears."""
    whole = answer.state.sum
    stage = EqualiserStage(highpass_hz=UNHEARD_HZ, highpass_slope="48", phase="linear")
    return answer.state.with_part(whole.model_copy(update={"stages": (*whole.stages, stage)}))
