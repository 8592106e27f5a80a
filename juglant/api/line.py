"""Line: what is played, how its low voices follow each other, and MIDI files."""

from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.concurrency import run_in_threadpool
from pydantic import Field, StringConstraints

from juglant.api.hits import shown_name
from juglant.api.inputs import Input
from juglant.api.media import FILE_BODY, Midi, Wav
from juglant.api.studio import AtDesk
from juglant.core import RATE
from juglant.core.errors import UserError
from juglant.core.lowend import voices
from juglant.core.lowend.byhand import one_note
from juglant.core.lowend.fitting import Fitted, FittedStrokes, fitted, fitted_strokes, velocity_of
from juglant.core.lowend.linenotes import notes_of_lines
from juglant.core.lowend.voices import Voices
from juglant.core.recipes.bass import PATTERNS
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.hit import Hit, PartId
from juglant.core.recipes.notes import Note, StrokeVelocity
from juglant.core.recipes.track import TrackState
from juglant.core.tempo import beat_ms
from juglant.files import midi
from juglant.files.audio import encode_wav_float
from juglant.files.midi import MidiLine

router = APIRouter(prefix="/api/line", tags=["line"])


class LineQuestion(Input):
    """A track's state, and its name for what is written."""

    state: TrackState
    name: Annotated[str, StringConstraints(max_length=120)] = "track"


class OneLine(LineQuestion):
    """A state, and the id of the line that is asked about."""

    line: PartId


# Longer than any file of notes.
_LAST_BEAT = 100_000.0


class GivenNote(Input):
    """A note of a MIDI file, in beats from its start."""

    at: Annotated[float, Field(ge=0.0, le=_LAST_BEAT)]
    beats: Annotated[float, Field(ge=0.0, le=_LAST_BEAT)]
    midi: Annotated[int, Field(ge=0, le=127)]
    velocity: Annotated[float, Field(ge=0.0, le=1.0)]


class FitQuestion(Input):
    """Notes that are to become the line under a brief."""

    brief: Brief
    notes: Annotated[list[GivenNote], Field(min_length=1, max_length=midi.MOST_NOTES)]


@router.get("/patterns")
def patterns() -> dict[str, tuple[Note, ...]]:
    """Starting patterns for the bass, by name."""
    return PATTERNS


@router.post("/voices")
def report(desk: AtDesk, question: OneLine) -> Voices:
    """How loud every note is, how it lies to the kick, and what spills into what."""
    return voices.voices(desk.session, question.state, question.line)


@router.post("/even")
def even(desk: AtDesk, question: OneLine) -> TrackState:
    """The state with the notes' velocities trimmed towards one level."""
    return voices.evened(desk.session, question.state, question.line)


@router.post("/midi", response_class=Midi)
def write(desk: AtDesk, question: LineQuestion) -> Midi:
    """One pass of the loop as a standard MIDI file."""
    lines = notes_of_lines(desk.session.sounds, question.state)
    return Midi(midi.write_midi(question.name, question.state, lines))


@router.post("/read", openapi_extra=FILE_BODY)
async def read(request: Request, name: Annotated[str, Query(max_length=200)] = "file.mid") -> MidiLine:
    """The notes of a MIDI file."""
    return await run_in_threadpool(midi.read_midi, await request.body(), shown_name(name))


@router.post("/fit")
def fit(question: FitQuestion) -> Fitted:
    """Notes laid on the brief's bars as a line above its chord roots."""
    return fitted(question.notes, question.brief)


class HeardStrokes(Input):
    """Whose strokes are to be those of which hit: a stem's, a line's, another hit's."""

    state: TrackState
    heard: PartId
    hit: PartId


@router.post("/strokes")
def strokes(desk: AtDesk, question: HeardStrokes) -> FittedStrokes:
    """The strokes of a part, as written or as heard in its file, as a hit's pattern."""
    state, hit = question.state, question.state.hit(question.hit)
    beat = beat_ms(state.brief.bpm)
    found = desk.session.parts.strokes(state, question.heard)
    if not found:
        raise UserError(f"No stroke was found in {state.named(question.heard)}.", "heard")
    return fitted_strokes(
        [(stroke.at_ms / beat, velocity_of(stroke.velocity, hit)) for stroke in found], state.brief, hit
    )


class GivenStrokes(Input):
    """Notes of one drum of a MIDI file, that are to become a hit's strokes under a brief."""

    brief: Brief
    hit: Hit = Hit()
    notes: Annotated[list[GivenNote], Field(min_length=1, max_length=midi.MOST_NOTES)]


@router.post("/fit-strokes")
def fit_strokes(question: GivenStrokes) -> FittedStrokes:
    """A drum of a MIDI file as a hit's pattern."""
    return fitted_strokes(
        [(note.at, note.velocity) for note in question.notes], question.brief, question.hit
    )


class PlayedNote(OneLine):
    """A note that a hand plays on a line."""

    midi: Annotated[int, Field(ge=0, le=127)]
    velocity: StrokeVelocity = 1.0


@router.post("/note", response_class=Wav)
def note(desk: AtDesk, question: PlayedNote) -> Wav:
    """One note of a line by itself, held for a bar, as a 32-bit float WAV."""
    x = one_note(desk.session, question.state, question.line, question.midi, question.velocity)
    return Wav(encode_wav_float(x, RATE))
