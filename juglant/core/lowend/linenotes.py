"""The notes of a line, written in its pattern or found in its file."""

from collections.abc import Mapping, Sequence
from typing import NamedTuple

from juglant.core import RATE
from juglant.core.hits.render import HitRenderer
from juglant.core.lowend.filed import loop_of
from juglant.core.lowend.moves import notes_of
from juglant.core.lowend.sounds import Array, Sounds
from juglant.core.measure.stereo import listening_channel
from juglant.core.measure.transcribe import NoteFound, are_all_of_it, transcribe
from juglant.core.music import midi_to_hz, nearest_note
from juglant.core.recipes.brief import TIMED, Brief
from juglant.core.recipes.fileloop import LOOPED
from juglant.core.recipes.parts import ImportedBass, Voice
from juglant.core.recipes.track import TrackState

# A note this far under the loudest one has no velocity of its own any more.
_SOFTEST_DB = -40.0


class LineNote(NamedTuple):
    """A note in the loop: times in ms from its start, the nearest note and its own pitch, velocity to 1."""

    start_ms: float
    length_ms: float
    midi: int
    hz: float
    velocity: float


NotesOf = Mapping[str, Sequence[LineNote]]


def as_loop(bass: ImportedBass) -> ImportedBass:
    """A file as its loop sees it.

    Parameters
    ----------
    bass
        The bass.

    Returns
    -------
    ImportedBass
        With nothing but what its loop reads.

    Examples
    --------
    >>> as_loop(ImportedBass(audio="0" * 64, name="bass.wav")).level_db
    0.0
    """
    return bass.only(*LOOPED, "side", "level_db")


def file_loop(hits: HitRenderer, bass: ImportedBass, brief: Brief, *, wide: bool = False) -> Array:
    """A file as a line of the loop, repeated or cut to fit: shape (frames,), or as wide as it is.

    Parameters
    ----------
    hits
        Reads the file.
    bass, brief
        The bass; key, tempo and chords.
    wide
        Whether it keeps its sides.

    Returns
    -------
    ndarray
        One pass.

    Examples
    --------
    >>> import numpy as np
    >>> from juglant.core.kept import Kept
    >>> hits = HitRenderer(Kept(10), lambda digest: (np.ones(4800), 48000))
    >>> bass = ImportedBass(audio="0" * 64, name="bass.wav")
    >>> file_loop(hits, bass, Brief(bpm=120.0, chord_roots=("A",))).size
    96000
    """
    file = hits.file(bass.audio, bass.tops)
    if bass.side != "both" and file.ndim == 2:
        file = file[:, ("left", "right").index(bass.side)]
    file = file if wide else listening_channel(file)
    loop = loop_of(file, bass, brief, RATE)
    return loop * 10 ** (bass.level_db / 20)


def found_notes(sounds: Sounds, state: TrackState, voice: Voice) -> list[NoteFound]:
    """What sounds like notes in a line that is a file, as it lies in the loop.

    Parameters
    ----------
    sounds, state
        Renders and keeps what was asked for; the track.
    voice
        The line.

    Returns
    -------
    list of NoteFound
        In their order.

    Examples
    --------
    >>> from juglant.core.lowend.session import Session
    >>> from juglant.core.recipes.track import TrackState
    >>> found_notes(Session().sounds, TrackState(), TrackState().voices[0])
    []
    """
    return _listened(sounds, state, voice)[0]


def _listened(sounds: Sounds, state: TrackState, voice: Voice) -> tuple[list[NoteFound], bool]:
    """What sounds like notes in a line that is a file, and whether they are all of it."""
    bass = voice.bass
    if not isinstance(bass, ImportedBass):
        return [], False
    plain = as_loop(bass.model_copy(update={"level_db": 0.0}))
    return sounds.once(_transcribed, sounds.hits, plain, state.brief.only(*TIMED))


def _transcribed(hits: HitRenderer, bass: ImportedBass, brief: Brief) -> tuple[list[NoteFound], bool]:
    x = file_loop(hits, bass, brief)
    found = transcribe(x, RATE, loop=True)
    return found, bool(found) and are_all_of_it(found, x, RATE)


def line_notes(sounds: Sounds, state: TrackState, voice: Voice) -> list[LineNote]:
    """The notes that a line plays in the loop; none where they are not known.

    Parameters
    ----------
    sounds, state
        Renders and keeps what was asked for; the track.
    voice
        The line.

    Returns
    -------
    list of LineNote
        In their order.

    Examples
    --------
    >>> from juglant.core.lowend.session import Session
    >>> from juglant.core.recipes.track import TrackState
    >>> state = TrackState()
    >>> len(line_notes(Session().sounds, state, state.voices[0])) > 0
    True
    """
    a4_hz = state.brief.a4_hz
    if voice.line is not None:
        return [
            LineNote(
                note.start_ms, note.length_ms, round(note.midi), midi_to_hz(note.midi, a4_hz), note.velocity
            )
            for note in notes_of(voice, state.brief)
        ]
    found, sure = _listened(sounds, state, voice)
    if not sure:
        return []
    top = max(note.level_db for note in found)
    return [
        LineNote(
            note.at_ms, note.length_ms, nearest_note(note.hz, a4_hz).midi, note.hz,
            10 ** (max(note.level_db - top, _SOFTEST_DB) / 40),
        )
        for note in found
    ]  # fmt: skip


def notes_of_lines(sounds: Sounds, state: TrackState) -> NotesOf:
    """The notes of every line that is heard, by its name.

    Parameters
    ----------
    sounds, state
        Renders and keeps what was asked for; the track.

    Returns
    -------
    dict of str to list
        By the line’s name.

    Examples
    --------
    >>> from juglant.core.lowend.session import Session
    >>> from juglant.core.recipes.track import TrackState
    >>> sorted(notes_of_lines(Session().sounds, TrackState()))
    ['bass']
    """
    return {voice.name: line_notes(sounds, state, voice) for voice in state.heard}
