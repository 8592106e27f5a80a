"""What the interface is told about a track: the core's numbers, and the curves it draws."""

from typing import Any

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel

from juglant.core import music, tempo
from juglant.core.findings import Finding, findings
from juglant.core.hits.jobs import Hole, usual_db
from juglant.core.lowend.ducking import Duck
from juglant.core.lowend.line import line_of
from juglant.core.lowend.linenotes import notes_of_lines
from juglant.core.lowend.session import Answer, Mix, Session
from juglant.core.measure.hit import HitNumbers, Measured
from juglant.core.measure.overlap import Overlap
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.hit import Hit
from juglant.core.recipes.track import TrackState

Array = NDArray[np.float64]

# The rungs of the ladder: every semitone from E0 (20.6 Hz) to D♯10 (19.9 kHz).
RUNGS = range(16, 136)
# Its third octaves, as in IEC 61260-1, to 20 kHz.
LADDER_THIRD_OCTAVES_HZ = tuple(1000 * 10 ** (n / 10) for n in range(-17, 14))
# Pins stand where a low end has its notes: up to D5.
_PINS_BELOW = 74


class NoteValue(BaseModel):
    """A note value and its length at the tempo."""

    value: str
    ms: float


class Rung(BaseModel):
    """One note of the ladder."""

    midi: int
    note: str
    hz: float
    in_key: bool
    is_tonic: bool
    root_of_bars: list[int]


class LowNote(BaseModel):
    """A note of the key in the low range, and whether a usual club system still plays it."""

    note: str
    hz: float
    is_tonic: bool
    club_plays_it: bool


class BriefFacts(BaseModel):
    """What follows from a brief alone."""

    key: str
    beat_ms: float
    bar_ms: float
    bars: int
    note_values: list[NoteValue]
    low_notes: list[LowNote]
    club_lowest_hz: float
    ladder: list[Rung]
    third_octaves_hz: list[float]


def brief_facts(brief: Brief) -> BriefFacts:
    """Everything derived from the brief."""
    key, beat = brief.key, tempo.beat_ms(brief.bpm)
    low_notes = []
    for midi in music.notes_of_key(key, *music.LOW_NOTES_HZ, brief.a4_hz):
        hz = music.midi_to_hz(midi, brief.a4_hz)
        tonic = midi % 12 == music.pitch_class(key.tonic)
        low_notes.append(
            LowNote(
                note=music.note_name(midi, key.flats), hz=hz, is_tonic=tonic,
                club_plays_it=hz >= music.CLUB_LOWEST_HZ,
            )
        )  # fmt: skip
    roots = [music.pitch_class(root) for root in brief.roots]
    ladder = [
        Rung(
            midi=midi, note=music.note_name(midi, key.flats), hz=music.midi_to_hz(midi, brief.a4_hz),
            in_key=midi % 12 in key.classes, is_tonic=midi % 12 == music.pitch_class(key.tonic),
            root_of_bars=[bar + 1 for bar, root in enumerate(roots) if root == midi % 12],
        )
        for midi in RUNGS
    ]  # fmt: skip
    return BriefFacts(
        key=str(key), beat_ms=beat, bar_ms=4 * beat, bars=brief.bars,
        note_values=[
            NoteValue(value=value, ms=tempo.note_value_ms(value, brief.bpm)) for value in tempo.NOTE_VALUES
        ],
        low_notes=low_notes, club_lowest_hz=music.CLUB_LOWEST_HZ, ladder=ladder,
        third_octaves_hz=list(LADDER_THIRD_OCTAVES_HZ),
    )  # fmt: skip


class HitPicture(BaseModel):
    """A hit by itself: envelope in dBFS every `step_ms`, and frequency per cycle."""

    step_ms: float
    envelope_db: list[float]
    trace_ms: list[float]
    trace_hz: list[float]


class UsualBand(BaseModel):
    """A region of the spectrum, and the range that is usual in a hit of this kind."""

    band: str
    low_db: float
    high_db: float


class HitView(BaseModel):
    """A measured hit."""

    hit: HitNumbers
    usual: list[UsualBand]
    holes: list[Hole]
    length_value: str
    length_difference_ms: float
    picture: HitPicture
    rungs_db: list[float]
    third_octaves_db: list[float]


def plain(values: Array, digits: int) -> list[float]:
    """Values rounded for the way to the page."""
    return np.round(values, digits).tolist()  # type: ignore[no-any-return]


_FLOOR_DB = -72.0


def floored(level_db: Array) -> Array:
    """Levels in dB, none of them below what a picture shows."""
    return np.maximum(level_db, _FLOOR_DB)


def picture(measured: Measured, rate: int) -> HitPicture:
    """The curves of a measured hit, thinned to what a screen shows."""
    step = max(1, round(rate / 1000))
    count = measured.envelope.size // step
    tops = measured.envelope[: count * step].reshape(count, step).max(axis=1)
    level = 20 * np.log10(np.maximum(tops, 10 ** (_FLOOR_DB / 20)))
    trace = measured.trace
    return HitPicture(
        step_ms=step / rate * 1000, envelope_db=plain(level, 1), trace_ms=plain(trace.time_ms, 2),
        trace_hz=plain(trace.hz, 2),
    )  # fmt: skip


def hit_view(session: Session, hit: Hit, brief: Brief, rate: int) -> HitView:
    """Render and measure a hit."""
    measured = session.sounds.measured_hit(hit, brief)
    length = tempo.nearest_note_value(measured.hit.length_ms, brief.bpm)
    spectrum = measured.spectrum
    rungs = spectrum.rungs_db(RUNGS, brief.a4_hz) if spectrum else []
    by_band = spectrum.third_octaves_db(LADDER_THIRD_OCTAVES_HZ) if spectrum else []
    return HitView(
        hit=measured.hit, length_value=length.value, length_difference_ms=length.difference_ms,
        picture=picture(measured, rate), rungs_db=plain(np.array(rungs), 1),
        third_octaves_db=plain(np.array(by_band), 1),
        usual=[
            UsualBand(band=band, low_db=low, high_db=high)
            for band, (low, high) in usual_db(hit.kind).items()
        ],
        holes=session.sounds.holes(hit, brief),
    )  # fmt: skip


class BassNote(BaseModel):
    """A note that the bass plays."""

    start_ms: float
    length_ms: float
    note: str
    hz: float


class Span(BaseModel):
    """A stretch of the bar."""

    from_ms: float
    to_ms: float


# A choke is shown where a sound is still this near to its loudest shortly before.
_CUT_DB, _BEFORE_MS = -36.0, 12.0


class Cut(BaseModel):
    """A sound that is choked: in the bar, which side of the picture it is on, and by what."""

    at_ms: float
    of_kick: bool
    what: str
    by: str


class BarPicture(BaseModel):
    """Low-band levels in dB every millisecond of one bar, the ducking gain, and what is choked."""

    bar: int
    from_ms: float
    kick_db: list[float]
    bass_db: list[float]
    ducked_db: list[float]
    gain_db: list[float]
    collisions_before: list[Span]
    collisions_after: list[Span]
    cuts: list[Cut]


class Level(BaseModel):
    """How loud a mix is, and the gain that brings it to the quieter one's loudness."""

    lufs: float
    true_peak_dbtp: float
    match_db: float


class Pin(BaseModel):
    """A hit's fundamental on the ladder."""

    name: str
    hz: float


class AnswerView(BaseModel):
    """Everything that follows from a state; `pins` are of the hits that have a low note."""

    kick: HitView
    pins: list[Pin]
    bass_rungs_db: list[float]
    ducked_rungs_db: list[float]
    ducked_third_octaves_db: list[float]
    bass_notes: list[BassNote]
    kick_times_ms: list[float]
    bar: BarPicture
    before: Overlap
    after: Overlap
    duck: Duck
    level_before: Level
    level_after: Level
    findings: list[Finding]


def spans(mask: NDArray[np.bool_]) -> list[Span]:
    """Where a mask with a place for every ms is set."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], mask, [False]]).astype(np.int8)))
    return [Span(from_ms=float(a), to_ms=float(b)) for a, b in edges.reshape(-1, 2)]


def cuts(session: Session, answer: Answer, from_ms: float, to_ms: float) -> list[Cut]:
    """Kicks and notes that are choked between two times of the loop."""
    state = answer.state
    played, kick = line_of(state), state.kick.id
    levels = {True: answer.kick_loop.level.level_db, False: answer.bass_loop.level.level_db}
    found = []
    for part in (kick, *(voice.id for voice in state.heard)):
        level = levels[part == kick]
        audible = float(np.max(level)) + _CUT_DB
        for at, by in played.cuts(part, answer.length_ms):
            if from_ms <= at < to_ms and level[round(at - _BEFORE_MS) % level.size] > audible:
                found.append(
                    Cut(
                        at_ms=at - from_ms, of_kick=part == kick, what=state.named(part),
                        by=state.named(by),
                    )
                )  # fmt: skip
    return found


def _bar(session: Session, answer: Answer, bar: int, rate: int) -> BarPicture:
    length = tempo.beat_ms(answer.state.brief.bpm) * 4
    bar %= answer.state.brief.bars
    part = slice(round(bar * length), round((bar + 1) * length))
    levels = (answer.kick_loop.level, answer.bass_loop.level, answer.ducked_loop.level)
    kick, bass, ducked = (floored(level.level_db[part]) for level in levels)
    at = np.arange(part.start, part.start + kick.size) / 1000 * rate
    gain = answer.gain_db[np.minimum(at.astype(int), answer.gain_db.size - 1)]
    return BarPicture(
        bar=bar, from_ms=part.start, kick_db=plain(kick, 1), bass_db=plain(bass, 1),
        ducked_db=plain(ducked, 1), gain_db=plain(gain, 2),
        collisions_before=spans(answer.collisions_before[part]),
        collisions_after=spans(answer.collisions_after[part]),
        cuts=cuts(session, answer, bar * length, (bar + 1) * length),
    )  # fmt: skip


def _level(mix: Mix, quietest: float) -> Level:
    return Level(lufs=mix.lufs, true_peak_dbtp=mix.true_peak_dbtp, match_db=min(0.0, quietest - mix.lufs))


def _bass_notes(session: Session, state: TrackState) -> list[BassNote]:
    flats = state.brief.key.flats
    return [
        BassNote(
            start_ms=one.start_ms, length_ms=one.length_ms, note=music.note_name(one.midi, flats), hz=one.hz
        )
        for played in notes_of_lines(session.sounds, state).values()
        for one in played
    ]


def _pins(session: Session, state: TrackState) -> list[Pin]:
    """The fundamentals of the hits beside the kick that the ladder reaches."""
    highest = music.midi_to_hz(_PINS_BELOW, state.brief.a4_hz)
    found = [(hit, session.sounds.measured_hit(hit, state.brief).hit.fundamental_hz) for hit in state.hits]
    return [Pin(name=hit.name, hz=hz) for hit, hz in found if hz is not None and hz < highest]


def answer_view(session: Session, state: TrackState, bar: int, rate: int) -> AnswerView:
    """Render and measure the whole loop; the picture shows one bar of it."""
    session.begin(state)
    answer = session.answer(state)
    quietest = min(answer.mix_before.lufs, answer.mix_after.lufs)
    a4_hz = state.brief.a4_hz
    return AnswerView(
        kick=hit_view(session, state.kick, state.brief, rate),
        bass_rungs_db=plain(np.array(answer.bass_loop.spectrum.rungs_db(RUNGS, a4_hz)), 1),
        ducked_rungs_db=plain(np.array(answer.ducked_loop.spectrum.rungs_db(RUNGS, a4_hz)), 1),
        ducked_third_octaves_db=plain(
            np.array(answer.ducked_loop.spectrum.third_octaves_db(LADDER_THIRD_OCTAVES_HZ)), 1
        ),
        pins=_pins(session, state), bass_notes=_bass_notes(session, state),
        bar=_bar(session, answer, bar, rate),
        kick_times_ms=answer.times_ms, before=answer.before, after=answer.after, duck=answer.duck,
        level_before=_level(answer.mix_before, quietest), level_after=_level(answer.mix_after, quietest),
        findings=findings(session, answer),
    )  # fmt: skip


def numbers(answer: Answer) -> dict[str, Any]:
    """The numbers that a kept version carries."""
    return {
        "hit": answer.kick.hit.as_dict(),
        "before": answer.before.as_dict(),
        "after": answer.after.as_dict(),
        "duck": answer.duck.as_dict(),
        "lufs": answer.mix_after.lufs,
        "true_peak_dbtp": answer.mix_after.true_peak_dbtp,
    }
