"""Every hit of a track against its harmony: what it sounds, where it should go, what is odd."""

from dataclasses import dataclass
from typing import Literal

from juglant.core import music
from juglant.core.errors import UserError
from juglant.core.hits.moved import resampled
from juglant.core.lowend import tuning
from juglant.core.lowend.played import moved_in
from juglant.core.lowend.session import Session
from juglant.core.measure.estimate import ABOUT_CENTS
from juglant.core.measure.hit import HitNumbers
from juglant.core.measure.partials import Partial
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.hit import Hit
from juglant.core.recipes.track import TrackState

# Off by less than this nobody hears a hit out of tune (some 5 cents are heard at best, and only
# on steady tones; common practice).
IN_TUNE_CENTS = 5.0
# Layers further apart than this within an octave are heard as two notes.
_APART_CENTS = 20.0
# A sweep this near to whole octaves keeps the sound in tune (common practice).
_OCTAVE_SLACK_ST = 0.6
# The notes that an ear is offered: so many to either side, of a low one where nothing is known.
_EAR_REACH, _EAR_MIDDLE = 3, 33
# Up to a third of a semitone a note is sure, if its cents are not; beyond, it is about there.
_NOTE_SURE_CENTS = 33.0


@dataclass(frozen=True)
class Beat:
    """A chord root that a hit beats against, and how often."""

    root: str
    bars: list[int]
    beat_hz: float


Degree = Literal["by ear", "sure", "note sure, cents not", "about"]


@dataclass(frozen=True)
class Sounding:
    """The note that a hit is taken to sound, and how sure that is: `sigma_cents` is 0 by ear."""

    hz: float
    note: str
    cents: float
    sigma_cents: float
    degree: Degree


@dataclass(frozen=True)
class Pitched:
    """One hit of the table; `moves` are empty where it sounds no note."""

    id: str
    name: str
    kind: str
    aim: str
    hit: HitNumbers
    sounds: Sounding | None
    # Notes around it, for an ear to compare it with.
    ear_notes: list[str]
    partials: list[Partial]
    moves: list[tuning.Candidate]
    resampled: bool
    in_tune: bool
    beats: list[Beat]
    remarks: list[str]


def _beats(state: TrackState, hit: Hit, hz: float) -> list[Beat]:
    brief = state.brief
    bars: dict[str, list[int]] = {}
    for bar, root in enumerate(brief.roots, 1):
        bars.setdefault(root, []).append(bar)
    found = []
    for root, where in bars.items():
        moved = moved_in(hit, brief, where[0] - 1)
        beat = tuning.beat_hz(hz * 2 ** (moved / 12), music.pitch_class(root), brief.a4_hz)
        if beat is not None:
            found.append(Beat(root, where, beat))
    return found


def _layers_apart(session: Session, state: TrackState, hit: Hit) -> str | None:
    """The sentence where two layers of one hit sound different notes."""
    brief = state.brief
    sounding = []
    for index in session.sounds.hits.layers(hit, brief.bpm):
        hz = session.sounds.measured_layer(hit, index, brief).hit.fundamental_hz
        if hz is not None:
            sounding.append((hit.layers[index].name, hz))
    for n, (name, hz) in enumerate(sounding):
        for other, other_hz in sounding[n + 1 :]:
            cents = music.cents_between(other_hz, hz)
            apart = cents - 1200 * round(cents / 1200)
            if abs(apart) > _APART_CENTS:
                return (
                    f"Its layers disagree: “{name}” sounds {hz:.1f} Hz, “{other}” {other_hz:.1f} Hz, "
                    f"{abs(apart):.0f} cents from the octave."
                )
    return None


def sounding(session: Session, hit: Hit, brief: Brief) -> Sounding | None:
    """What a hit is tuned by; None where it has no pitch, or where nobody asks for one.

    Parameters
    ----------
    session, hit
        Renders and keeps what was asked for; the hit.
    brief
        Key, tempo and chords.

    Returns
    -------
    Sounding or None
        Its pitch.

    Examples
    --------
    >>> from juglant.core.lowend.session import Session
    >>> from juglant.core.recipes.track import TrackState
    >>> state = TrackState()
    >>> sounding(Session(), state.kick, state.brief) is not None
    True
    """
    hz, numbers = session.sounds.pitch_hz(hit, brief), session.sounds.measured_hit(hit, brief).hit
    if hz is None:
        return None
    near = music.nearest_note(hz, brief.a4_hz, brief.key.flats)
    if hit.heard_hz is not None:
        return Sounding(hz, near.note, near.cents, 0.0, "by ear")
    degree: Degree = "sure"
    # A tone that was found among the partials alone is no more than that.
    sigma = ABOUT_CENTS if numbers.estimate_sigma_cents is None else numbers.estimate_sigma_cents
    if numbers.fundamental_hz is None:
        degree = "note sure, cents not" if sigma <= _NOTE_SURE_CENTS else "about"
    return Sounding(hz, near.note, near.cents, sigma, degree)


def _ear_notes(found: Sounding | None, brief: Brief) -> list[str]:
    middle = music.note_to_midi(found.note) if found else _EAR_MIDDLE
    reach = range(middle - _EAR_REACH, middle + _EAR_REACH + 1)
    return [music.note_name(midi, brief.key.flats) for midi in reach]


def _remarks(
    session: Session, state: TrackState, hit: Hit, numbers: HitNumbers, found: Sounding | None
) -> list[str]:
    if hit.aims_at == "free":
        return []
    said = []
    sweep, settles, falls = numbers.sweep_semitones, numbers.settle_ms, numbers.decay20_ms
    if sweep is not None and sweep > 6 and abs(sweep - 12 * round(sweep / 12)) > _OCTAVE_SLACK_ST:
        said.append(
            f"It sweeps down {sweep:.1f} semitones: whole octaves, as {12 * max(1, round(sweep / 12))}, "
            "keep the start in tune too."
        )
    if settles is not None and falls and settles > falls:
        said.append(
            f"It comes to its note after {settles:.0f} ms, when it is more than 20 dB down: what is heard "
            "of it is on the way there."
        )
    if found is not None and found.degree in ("note sure, cents not", "about"):
        said.append(
            f"Its note is known to ±{found.sigma_cents:.0f} cents, and no better after a move: your ear "
            "has the last word."
        )
    if len(hit.layers) > 1 and (apart := _layers_apart(session, state, hit)):
        said.append(apart)
    return said


def held_roots(session: Session, state: TrackState, id: str) -> set[int]:
    """The chord roots that a hit is held against, as pitch classes, each moved back by as much as the hit
    follows it; none unless it is a kick that is long enough to be a note.

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.
    id
        Of the part.

    Returns
    -------
    set of int
        0 to 11.

    Examples
    --------
    >>> from juglant.core.lowend.session import Session
    >>> from juglant.core.recipes.track import TrackState
    >>> state = TrackState()
    >>> held_roots(Session(), state, "kick") <= set(range(12))
    True
    """
    hit, brief = state.hit(id), state.brief
    falls = session.sounds.measured_hit(hit, brief).hit.decay20_ms
    if id != state.kick.id or falls is None or falls <= tuning.short_ms(brief):
        return set()
    return {
        (music.pitch_class(root) - moved_in(hit, brief, bar)) % 12 for bar, root in enumerate(brief.roots)
    }


def recommended(
    session: Session, state: TrackState, id: str, moves: list[tuning.Candidate] | None = None
) -> tuning.Candidate | None:
    """The move that a hit should make, of all that it could: the smallest that leaves it in tune with the
    key and with what it is held against. None where it has no pitch, or aims at nothing.

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.
    id, moves
        Of the part; those that were found already.

    Returns
    -------
    Candidate or None
        The move.

    Examples
    --------
    >>> from juglant.core.lowend.session import Session
    >>> from juglant.core.recipes.track import TrackState
    >>> state = TrackState()
    >>> recommended(Session(), state, "kick") is not None
    True
    """
    if moves is None:
        moves = session.sounds.moves(state.hit(id), state.brief)
    return tuning.recommended(moves, held_roots(session, state, id))


def tuned_as_recommended(session: Session, state: TrackState, id: str) -> TrackState:
    """The state with a hit where it should be; itself where it has nowhere to go.

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.
    id
        Of the part.

    Returns
    -------
    TrackState
        The state.

    Examples
    --------
    >>> from juglant.core.lowend.session import Session
    >>> from juglant.core.recipes.track import TrackState
    >>> state = TrackState()
    >>> tuned_as_recommended(Session(), state, "kick").kick.kind
    'kick'
    """
    best, hit = recommended(session, state, id), state.hit(id)
    return state if best is None else state.with_part(session.sounds.tuned(hit, state.brief, best.note))


def pitched(session: Session, state: TrackState, id: str) -> Pitched:
    """One row of the table.

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.
    id
        Of the part.

    Returns
    -------
    Pitched
        Note, aim and moves.

    Examples
    --------
    >>> from juglant.core.lowend.session import Session
    >>> from juglant.core.recipes.track import TrackState
    >>> state = TrackState()
    >>> pitched(Session(), state, "kick").id
    'kick'
    """
    hit, brief = state.hit(id), state.brief
    numbers = session.sounds.measured_hit(hit, brief).hit
    moves = session.sounds.moves(hit, brief, balance=True)
    best = recommended(session, state, id, moves)
    if best is not None:
        moves = [best, *(move for move in moves if move is not best)]
    near = best is not None and abs(best.shift_cents) <= IN_TUNE_CENTS
    found = sounding(session, hit, brief)
    return Pitched(
        id, hit.name, hit.kind, hit.aims_at, numbers,
        found, _ear_notes(found, brief), session.sounds.partials(hit, brief), moves, resampled(hit),
        near or hit.aims_at == "free",
        _beats(state, hit, found.hz) if found is not None else [],
        _remarks(session, state, hit, numbers, found),
    )  # fmt: skip


def table(session: Session, state: TrackState) -> list[Pitched]:
    """Every hit of the track, the kick first.

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.

    Returns
    -------
    list of Pitched
        The kick first.

    Examples
    --------
    >>> from juglant.core.lowend.session import Session
    >>> from juglant.core.recipes.track import TrackState
    >>> state = TrackState()
    >>> len(table(Session(), state))
    1
    """
    return [pitched(session, state, hit.id) for hit in state.all_hits]


@dataclass(frozen=True)
class Change:
    """What tuning did to one hit, measured again afterwards."""

    id: str
    name: str
    from_hz: float
    note: str
    shift_cents: float
    left_cents: float
    length_before_ms: float
    length_after_ms: float


def tuned_to(session: Session, state: TrackState, id: str, note: str) -> tuple[TrackState, Change]:
    """The state with one hit tuned to a note such as A#1. UserError where it has no pitch.

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.
    id, note
        Of the part; such as A#1.

    Returns
    -------
    tuple of TrackState and Change
        The state, and what moved.

    Examples
    --------
    >>> from juglant.core.lowend.session import Session
    >>> from juglant.core.recipes.track import TrackState
    >>> state = TrackState()
    >>> tuned, _ = tuned_to(Session(), state, "kick", "A1")
    >>> round(Session().sounds.pitch_hz(tuned.kick, tuned.brief))
    55
    """
    hit, brief = state.hit(id), state.brief
    before = session.sounds.pitch_hz(hit, brief)
    if before is None:
        raise UserError(
            f"The {hit.name.lower()} has no measurable pitch, so it cannot be tuned by measurement.", "note"
        )
    tuned = session.sounds.tuned(hit, brief, note)
    after = session.sounds.pitch_hz(tuned, brief)
    target = music.midi_to_hz(music.note_to_midi(note), brief.a4_hz)
    lengths = [session.sounds.measured_hit(one, brief).hit.length_ms for one in (hit, tuned)]
    change = Change(
        id, hit.name, before, note,
        music.cents_between(target, before), music.cents_between(after or before, target), *lengths,
    )  # fmt: skip
    return state.with_part(tuned), change


def tuned_all(session: Session, state: TrackState) -> tuple[TrackState, list[Change]]:
    """Every hit that is out of tune moved to the note that it should sound.

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.

    Returns
    -------
    tuple
        The state, and what moved.

    Examples
    --------
    >>> from juglant.core.lowend.session import Session
    >>> from juglant.core.recipes.track import TrackState
    >>> state = TrackState()
    >>> len(tuned_all(Session(), state)[1]) <= 1
    True
    """
    changes = []
    for row in table(session, state):
        if row.moves and not row.in_tune and row.moves[0].wanted:
            state, change = tuned_to(session, state, row.id, row.moves[0].note)
            changes.append(change)
    return state, changes


def heard_as(state: TrackState, id: str, text: str) -> TrackState:
    """The state in which an ear says what a hit sounds: A#1, A#1 +12, 58.3 Hz, or nothing for what is
    measured. UserError where that is no pitch.

    Parameters
    ----------
    state, id
        The track; of the part.
    text
        What was typed.

    Returns
    -------
    TrackState
        The state.

    Examples
    --------
    >>> from juglant.core.recipes.track import TrackState
    >>> heard_as(TrackState(), "kick", "A1").kick.heard_hz
    55.0
    """
    hz = music.parse_pitch(text, state.brief.a4_hz) if text.strip() else None
    return state.with_part(state.hit(id).model_copy(update={"heard_hz": hz}))
