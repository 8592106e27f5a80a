"""Low voices after each other: what spills, how loud every note is, how it lies to the kick."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from juglant.core import RATE
from juglant.core.lowend.line import line_of
from juglant.core.lowend.linenotes import LineNote, line_notes
from juglant.core.lowend.loop import CHOKE_MS, gaps_ms
from juglant.core.lowend.session import Answer, Session
from juglant.core.measure import levels
from juglant.core.measure.loopsound import LoopSound
from juglant.core.measure.overlap import PRESENT_DB
from juglant.core.music import cents_between, midi_to_hz, note_name
from juglant.core.process.filters import LOW_BAND_HZ
from juglant.core.recipes.bass import BassRecipe
from juglant.core.recipes.hit import Hit
from juglant.core.recipes.track import TrackState
from juglant.core.tempo import beat_ms

Array = NDArray[np.float64]

# A hit counts as a low voice with a note below this: a tom above it may sound over a bass note.
LOW_NOTE_HZ = 90.0
# What begins within this of each other begins together and is no spill.
TOGETHER_MS = 15.0
# Two tones further apart are heard as two, not as one that wobbles.
_FASTEST_WOBBLE_HZ = 20.0
# A note this near to a kick starts with it; up to the second limit it just misses it.
WITH_KICK_MS, _MISSED_MS = 3.0, 45.0
# Trims beyond this would change how a line is phrased.
MOST_TRIM_DB = 6.0
_FLOOR_DB = -120.0
# A note of a file that a kick was struck in goes on where it comes back this soon after the kick, after
# such a gap, at the same pitch: it was ducked in the file.
_BACK_MS, _GAP_MS, _SAME_CENTS = 150.0, 60.0, 100.0
# A gain that turns a note down audibly.
_DUCKED_DB = -3.0
# A file whose low band lies further than this under the whole has been high-passed.
_LEAST_LOW_DB = 9.0
# A level is that of 10 ms in a band that begins at 20 Hz and rings on a little: only so long after
# a sound was cut off does it say that it is gone.
_LEVEL_MS = 12.0


@dataclass(frozen=True)
class Spill:
    """An old low sound under the start of a new one; `old` and `new` are names of hits or lines.

    `db` is `tail_spill_db`: the level of the old one then, minus the new one's own maximum. Where
    the new one chokes the old one it is read when the choke's fade is over.
    """

    at_ms: float
    old: str
    new: str
    db: float
    wobble_hz: float | None


@dataclass(frozen=True)
class NoteLevel:
    """One note of the bass as it is rendered, in the line before the ducking; `cents` off `note_midi`.

    `low_db` is its highest low-band level, `heard_db` the K-weighted level of its best 100 ms;
    `trim_db` is what brings `low_db` to the line's median, within limits. `kick_ms` is how long
    after the nearest kick it starts (negative: before), `ducked_db` the gain that it meets.
    """

    start_ms: float
    length_ms: float
    note_midi: int
    note: str
    cents: float
    low_db: float
    heard_db: float
    trim_db: float
    kick_ms: float
    timing: str
    ducked_db: float


@dataclass(frozen=True)
class Voices:
    """The line's report; the spreads are those of the notes' levels, 0 where there is one."""

    notes: list[NoteLevel]
    low_spread_db: float
    heard_spread_db: float
    spills: list[Spill]


@dataclass(frozen=True)
class _Voice:
    name: str
    level_db: Array
    starts: list[tuple[float, float]]  # when, and how long it is looked at
    hz: list[float | None]
    choke: str


def _at(level_db: Array, ms: float) -> float:
    return float(level_db[round(ms) % level_db.size])


def _most(level_db: Array, from_ms: float, length_ms: float) -> float:
    index = np.arange(round(from_ms), round(from_ms + max(length_ms, 2.0))) % level_db.size
    return float(np.max(level_db[index]))


def _hit_voice(hit: Hit, loop: LoopSound, starts: list[float], hz: float | None, length: float) -> _Voice:
    spans = [(at, min(gap, 400.0)) for at, gap in zip(starts, gaps_ms(starts, length), strict=True)]
    return _Voice(hit.name, loop.level.level_db, spans, [hz] * len(starts), hit.choke)


def _voices(session: Session, answer: Answer) -> list[_Voice]:
    """Every part with a low note: the kick, other hits that are low, and the lines with notes there.

    A note of a line is low in the low band, unless the line's high-pass takes its fundamental.
    """
    state, brief = answer.state, answer.state.brief
    played = line_of(state)
    found = []
    for hit in state.all_hits:
        measured = session.sounds.measured_hit(hit, brief) if hit.id in played.strokes else None
        hz = measured.hit.fundamental_hz if measured else None
        loop = answer.kick_loop if hit is state.kick else None
        if loop is None and hz is not None and hz < LOW_NOTE_HZ:
            loop = session.parts.hit_loop(state, hit)
        if loop is not None:
            found.append(_hit_voice(hit, loop, played.starts(hit.id), hz, answer.length_ms))
    stems = session.line_stems(state)
    for voice in state.heard:
        lowest = voice.line.highpass_hz if isinstance(voice.line, BassRecipe) else LOW_BAND_HZ[0]
        low = [
            note for note in line_notes(session.sounds, state, voice) if lowest < note.hz < LOW_BAND_HZ[1]
        ]
        level_db = stems[voice.id].level.level_db
        if voice.line is None:
            if not _has_low_end(session.parts.line_loop(state, voice)):
                continue
            low = _anew(low, answer.times_ms, answer.length_ms)
        # What the ducking leaves of a note is not heard where the line is that much louder elsewhere.
        heard = _most(level_db, 0.0, level_db.size) - PRESENT_DB
        low = [note for note in low if _most(level_db, note.start_ms, note.length_ms) > heard]
        if low:
            found.append(
                _Voice(
                    voice.name, level_db, [(note.start_ms, note.length_ms) for note in low],
                    [note.hz for note in low], "none" if voice.line is None else voice.line.choke,
                )
            )  # fmt: skip
    return found


def _anew(notes: list[LineNote], kicks_ms: list[float], length: float) -> list[LineNote]:
    """The notes of a file that begin, without those that only come back after a kick."""

    def comes_back(note: LineNote, last: LineNote) -> bool:
        gap = (note.start_ms - last.start_ms) % length - last.length_ms
        kicked = any((note.start_ms - at) % length < _BACK_MS for at in kicks_ms)
        return kicked and gap < _GAP_MS and abs(cents_between(note.hz, last.hz)) < _SAME_CENTS

    lasts = [*notes[-1:], *notes[:-1]]
    return [
        note for note, last in zip(notes, lasts, strict=True) if note is last or not comes_back(note, last)
    ]


def _has_low_end(line: LoopSound) -> bool:
    """Whether a file holds its fundamentals, and was not high-passed above them."""
    whole = 10 * float(np.log10(max(float(np.mean(line.mono**2)), 1e-12)))
    low = 10 * float(np.log10(np.mean(10 ** (line.level.level_db / 10))))
    return low > whole - _LEAST_LOW_DB


def _sounding_hz(voice: _Voice, at_ms: float, length: float) -> float | None:
    """The note that a voice has begun last, before a moment."""
    since = [(at_ms - start) % length for start, _ in voice.starts]
    return voice.hz[int(np.argmin(since))]


def spills(session: Session, answer: Answer) -> list[Spill]:
    """For every low note, the worst of what still sounds from others; a kick is not spilt on.

    The kick has the ducking to clear its way. Worst first.

    Parameters
    ----------
    session, answer
        Renders and keeps what was asked for; what was rendered and measured of the track.

    Returns
    -------
    list of Spill
        The worst first.

    Examples
    --------
    >>> from juglant.core.recipes.track import TrackState
    >>> session, state = Session(), TrackState()
    >>> answer = session.answer(state)
    >>> len(spills(session, answer)) >= 0
    True
    """
    return session.sounds.once(_spills, session, answer)


def _spills(session: Session, answer: Answer) -> list[Spill]:
    voices, length, found = _voices(session, answer), answer.length_ms, []
    state, kick = answer.state, answer.state.kick.name
    # A file may have been ducked for a kick that owns the sub, and sound on under it: how the two share the
    # low end is judged over the loop.
    lines = {voice.name: voice.line is None and state.brief.sub_owner == "kick" for voice in state.heard}
    for new in voices:
        if new.name == kick:
            continue
        for (start, span), hz in zip(new.starts, new.hz, strict=True):
            own = _most(new.level_db, start, span)
            at = round(start / 1000 * RATE) % answer.gain_db.size
            # A note that begins under the ducking has its way cleared by that.
            ducked = float(answer.gain_db[at]) < _DUCKED_DB
            clear_of_kick = new.name in lines and (lines[new.name] or ducked)
            if own < _FLOOR_DB:
                continue
            for old in voices:
                apart = [min((start - at) % length, (at - start) % length) for at, _ in old.starts]
                if old is new or min(apart) < TOGETHER_MS or (old.name == kick and clear_of_kick):
                    continue
                theirs = _sounding_hz(old, start, length)
                wobble = abs(hz - theirs) if hz is not None and theirs is not None else None
                if wobble is not None and not 0.2 < wobble < _FASTEST_WOBBLE_HZ:
                    wobble = None
                choked = old.choke == new.choke != "none"
                read_ms = start + (CHOKE_MS + _LEVEL_MS if choked else 0.0)
                found.append(Spill(start, old.name, new.name, _at(old.level_db, read_ms) - own, wobble))
    return sorted(found, key=lambda spill: -spill.db)


def _timing(start_ms: float, kicks_ms: list[float], length_ms: float) -> tuple[float, str]:
    """How long after the nearest kick, and in a word."""
    apart = [(start_ms - at + length_ms / 2) % length_ms - length_ms / 2 for at in kicks_ms]
    off = min(apart, key=abs)
    if abs(off) <= WITH_KICK_MS:
        return off, "with the kick"
    if abs(off) <= _MISSED_MS:
        return off, "just after the kick" if off > 0 else "just before the kick"
    return off, "between kicks"


def _note_levels(bass: LoopSound, played: list[LineNote], answer: Answer) -> list[NoteLevel]:
    """How loud each note of the bass is before the ducking, and how it lies to the kicks."""
    weighted = levels.k_weighted(np.concatenate([bass.mono, bass.mono]), RATE)[bass.mono.size :]
    power = np.concatenate([[0.0], np.cumsum(np.concatenate([weighted, weighted]) ** 2)])
    window = round(0.1 * RATE)

    def heard(note: LineNote) -> float:
        start, count = round(note.start_ms / 1000 * RATE), round(note.length_ms / 1000 * RATE)
        size = min(window, max(count, 1))
        ends = start + size + np.arange(0, max(count - size, 0) + 1, 48)
        best = float(np.max(power[ends] - power[ends - size])) / size
        return levels.lufs(best)

    brief = answer.state.brief
    low = [_most(bass.level.level_db, note.start_ms, note.length_ms) for note in played]
    median = float(np.median(low)) if low else 0.0
    found = []
    for note, low_db in zip(played, low, strict=True):
        off, word = _timing(note.start_ms, answer.times_ms, answer.length_ms)
        at = round(note.start_ms / 1000 * RATE) % answer.gain_db.size
        cents = cents_between(note.hz, midi_to_hz(note.midi, brief.a4_hz))
        trim = float(np.clip(median - low_db, -MOST_TRIM_DB, MOST_TRIM_DB))
        found.append(
            NoteLevel(
                note.start_ms, note.length_ms, note.midi, note_name(note.midi, brief.key.flats), cents,
                low_db, heard(note), trim, off, word, float(answer.gain_db[at]),
            )
        )  # fmt: skip
    return found


def _spread(values: list[float]) -> float:
    return max(values) - min(values) if values else 0.0


def voices(session: Session, state: TrackState, line: str | None = None) -> Voices:
    """The report on one of a state's lines, by its id, the bass unless said; spills are those of all.

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.
    line
        Id of the line.

    Returns
    -------
    Voices
        Levels, spills and timing.

    Examples
    --------
    >>> type(voices(Session(), TrackState())).__name__
    'Voices'
    """
    answer, voice = session.answer(state), state.voices[0] if line is None else state.voice(line)
    found = _note_levels(
        session.parts.line_loop(state, voice), line_notes(session.sounds, state, voice), answer
    )
    return Voices(
        found, _spread([note.low_db for note in found]), _spread([note.heard_db for note in found]),
        spills(session, answer),
    )  # fmt: skip


def evened(session: Session, state: TrackState, line: str) -> TrackState:
    """The state with every note's velocity trimmed towards the line's median low-band level.

    A note stands once in the pattern and may be played on several roots: it gets the mean of
    what its turns need. What would pass full velocity is brought down together.

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.
    line
        Id of the line.

    Returns
    -------
    TrackState
        The state.

    Examples
    --------
    >>> type(evened(Session(), TrackState(), "bass")).__name__
    'TrackState'
    """
    recipe = state.voice(line).line
    if recipe is None:
        return state
    trims: dict[float, list[float]] = {}
    beat = beat_ms(state.brief.bpm)
    for note in voices(session, state, line).notes:
        turn = (note.start_ms / beat) % (4 * recipe.bars)
        nearest = min(recipe.pattern, key=lambda one: abs(one.at - turn))
        trims.setdefault(nearest.at, []).append(note.trim_db)
    wished = [
        note.velocity * 10 ** (float(np.mean(trims.get(note.at, [0.0]))) / 20) for note in recipe.pattern
    ]
    top = max(1.0, *wished)
    pattern = tuple(
        note.model_copy(update={"velocity": round(max(value / top, 0.01), 4)})
        for note, value in zip(recipe.pattern, wished, strict=True)
    )
    return state.with_line(line, pattern=pattern)
