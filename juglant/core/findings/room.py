"""What a place brings to light: notes it does not play, notes that stand out, a kick that small
loudspeakers do not have, a low end that is not mono, headroom.

A place is a stand-in that somebody chose: these are said where it is looked at, never of a track alone.
Limits without a word are common practice; those of the kick on small loudspeakers and of the limiter are
ours: on 64 clean tracks the kick keeps −28 dB or more and stands 4 dB or more over the rest, and a limiter
takes 8 dB at most.
"""

from collections.abc import Callable
from dataclasses import dataclass

from juglant.core.findings.fixes import Fix
from juglant.core.findings.hits import LOW_MONO_DB
from juglant.core.findings.verdict import MEND, Check, Finding, mend
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
_CENTRED_HZ = 120.0

Look = Callable[[Session, TrackState], Judged]


@dataclass(frozen=True)
class There:
    """A place that a track is looked at in, and how loud it is to be."""

    room: Room
    lufs: float = -10.0

    def look(self, session: Session, state: TrackState) -> Judged:
        """The numbers of a state in it, kept by the session."""
        return session.once(
            lambda: judged(session, state, self.room, self.lufs), "room", state, self.room, self.lufs
        )


def room_checks(there: There) -> tuple[Check, ...]:
    """What is judged of a track in a place."""
    look = there.look
    return (
        _low_notes(look),
        _uneven(look),
        _gone(look),
        _covered(look),
        _mono(look),
        _limited(look),
        _unheard(look),
    )


def _check(id: str, number: Callable[[Judged], float | None], limit: float, *, above: bool,
           said: Callable[[Judged], Finding], look: Look, fixes: dict[str, Fix]) -> Check:  # fmt: skip
    def value(session: Session, answer: Answer) -> float | None:
        return number(look(session, answer.state))

    def judge(session: Session, answer: Answer) -> Finding | None:
        found = value(session, answer)
        if found is None or (found <= limit if above else found >= limit):
            return None
        return said(look(session, answer.state))

    return Check(id, value, judge, fixes)


def _low_notes(look: Look) -> Check:
    def lowest(found: Judged) -> float | None:
        return min((note.hz for note in found.notes), default=None)

    def said(found: Judged) -> Finding:
        low = [note for note in found.notes if note.hz < CLUB_LOWEST_HZ]
        names = " and ".join(dict.fromkeys(note.note for note in low))
        return Finding(
            "room-low-note", "room",
            f"Few club systems play {names}: {low[0].hz:.1f} Hz is too low for them.",
            "fundamental_hz", low[0].hz, CLUB_LOWEST_HZ, "Hz",
            "What a system does not play is missing from the line, or is made up by its limiter.",
            {"octave": "Play these notes an octave up", MEND: "Raise the line by an octave"},
            advice="A line that stays above them, or another key.",
        )  # fmt: skip

    return _check(
        "room-low-note", lowest, CLUB_LOWEST_HZ, above=False, said=said, look=look,
        fixes={"octave": _notes_up, MEND: _line_up},
    )  # fmt: skip


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
    return [note.hz for note in line_notes(session, state, state.voice(voice.id))]


def _uneven(look: Look) -> Check:
    def spread(found: Judged) -> float | None:
        return found.spread_lu

    def said(found: Judged) -> Finding:
        assert found.uneven is not None
        assert found.spread_lu is not None
        low, high = found.uneven
        return Finding(
            "room-uneven", "room",
            f"In this room {high.note} of the {high.line} is heard {found.spread_lu:.1f} LU louder than "
            f"{low.note}, against how they are written.",
            "spread", found.spread_lu, UNEVEN_LU, "LU",
            "A room has modes, and any room may have this one: a line that lies on one note of it booms.",
            {},
            advice="A layer an octave up, or drive, carries the note where the mode is not. Do not cut the "
            "note itself: the next room has its mode elsewhere.",
        )  # fmt: skip

    return _check("room-uneven", spread, UNEVEN_LU, above=True, said=said, look=look, fixes={})


_ON_A_PHONE = "What is left of a kick on a phone is its click and its harmonics."
_BRIGHTER = "A click, or a layer that has its weight above 400 Hz."


def _driven(look: Look, heard: Callable[[Judged], bool]) -> Fix:
    """The kick with as little drive above its sub as is enough."""

    def fix(session: Session, answer: Answer) -> TrackState:
        state, kick = answer.state, answer.state.kick
        for drive_db in _DRIVES_DB:
            stage = DriveStage(drive_db=drive_db, from_hz=_DRIVEN_FROM_HZ)
            state = answer.state.with_part(kick.model_copy(update={"chain": (*kick.chain, stage)}))
            if heard(look(session, state)):
                break
        return state

    return fix


def _gone(look: Look) -> Check:
    def left(found: Judged) -> float | None:
        return None if found.small is None else found.small.left_db

    def said(found: Judged) -> Finding:
        value = left(found)
        assert value is not None
        return Finding(
            "room-kick-gone", "room",
            f"Of the kick, small loudspeakers play what lies {-value:.0f} dB under the track.",
            "level above 400 Hz", value, SMALL_LEFT_DB, "dB", _ON_A_PHONE,
            mend("Drive the kick’s harmonics"), _BRIGHTER,
        )  # fmt: skip

    enough = _driven(look, lambda found: (left(found) or 0.0) >= SMALL_LEFT_DB)
    return _check(
        "room-kick-gone", left, SMALL_LEFT_DB, above=False, said=said, look=look, fixes={MEND: enough}
    )


def _covered(look: Look) -> Check:
    def over(found: Judged) -> float | None:
        return None if found.small is None else found.small.over_rest_db

    def said(found: Judged) -> Finding:
        value = over(found)
        assert value is not None
        return Finding(
            "room-kick-covered", "room",
            f"On small loudspeakers the kick lies {-value:.0f} dB under the rest.",
            "kick over the rest above 400 Hz", value, SMALL_OVER_DB, "dB", _ON_A_PHONE,
            mend("Drive the kick’s harmonics"), _BRIGHTER,
        )  # fmt: skip

    enough = _driven(look, lambda found: (over(found) or 0.0) >= SMALL_OVER_DB)
    return _check(
        "room-kick-covered", over, SMALL_OVER_DB, above=False, said=said, look=look, fixes={MEND: enough}
    )


def _mono(look: Look) -> Check:
    def loss(found: Judged) -> float | None:
        return found.low_mono_loss_db

    def said(found: Judged) -> Finding:
        assert found.low_mono_loss_db is not None
        return Finding(
            "room-mono", "room",
            f"Below 150 Hz everything together loses {-found.low_mono_loss_db:.1f} dB in mono.",
            "low_mono_loss_db", found.low_mono_loss_db, LOW_MONO_DB, "dB",
            "Clubs play the low end in mono: what differs between the sides is gone there.",
            mend(f"Make the sum mono below {_CENTRED_HZ:.0f} Hz"),
        )  # fmt: skip

    def centred(_: Session, answer: Answer) -> TrackState:
        whole = answer.state.sum
        place = whole.place.model_copy(update={"mono_below_hz": _CENTRED_HZ})
        return answer.state.with_part(whole.model_copy(update={"place": place}))

    return _check("room-mono", loss, LOW_MONO_DB, above=False, said=said, look=look, fixes={MEND: centred})


def _limited(look: Look) -> Check:
    def taken(found: Judged) -> float | None:
        return found.headroom.limited_db

    def said(found: Judged) -> Finding:
        room = found.headroom
        return Finding(
            "room-headroom", "room",
            f"At −{-room.lufs:.0f} LUFS a limiter at −1 dBTP takes {room.limited_db:.1f} dB.",
            "limited_db", room.limited_db, LIMITED_DB, "dB",
            "What a limiter takes is taken from the kick first: its punch goes with its peaks.",
            {}, advice="A kick with lower peaks (drive, a millisecond more of attack), or a quieter track.",
        )  # fmt: skip

    return _check("room-headroom", taken, LIMITED_DB, above=True, said=said, look=look, fixes={})


def _unheard(look: Look) -> Check:
    def cost(found: Judged) -> float | None:
        return found.headroom.unheard_db

    def said(found: Judged) -> Finding:
        return Finding(
            "room-unheard", "room",
            f"What lies below {UNHEARD_HZ:.0f} Hz costs {found.headroom.unheard_db:.1f} dB of headroom.",
            "unheard_db", found.headroom.unheard_db, UNHEARD_DB, "dB",
            "Nobody hears it, and the limiter reacts to it.",
            mend(f"High-pass the sum at {UNHEARD_HZ:.0f} Hz"),
        )  # fmt: skip

    def without(_: Session, answer: Answer) -> TrackState:
        whole = answer.state.sum
        stage = EqualiserStage(highpass_hz=UNHEARD_HZ, highpass_slope="48", phase="linear")
        return answer.state.with_part(whole.model_copy(update={"stages": (*whole.stages, stage)}))

    return _check("room-unheard", cost, UNHEARD_DB, above=True, said=said, look=look, fixes={MEND: without})
