"""One note of a line by itself, as a hand plays it."""

import numpy as np
from numpy.typing import NDArray

from juglant.core.errors import UserError
from juglant.core.lowend.session import Session
from juglant.core.music import SHARP_NAMES, note_name
from juglant.core.recipes.notes import Note
from juglant.core.recipes.parts import MadeBass, PlayedBass
from juglant.core.recipes.track import TrackState

Array = NDArray[np.float64]

# Held for a bar, and as long again for what rings on. Behind it the same in full: a bass is as loud as its
# loudest note.
_HELD_BEATS, _BARS, _FULL_AT = 4.0, 4, 8.0
_HIGHEST_OCTAVE, _FURTHEST = 3, 24


def one_note(session: Session, state: TrackState, line: str, midi: int, velocity: float) -> Array:
    """A line's note, shape (frames,) or (frames, 2), over two bars and held through the first.

    UserError where the line has no notes of its own, or none as high as that.

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.
    line
        Id of the line.
    midi
        Its number.
    velocity
        How hard it is struck, above 0 up to 1.

    Returns
    -------
    ndarray
        Its samples.

    Examples
    --------
    >>> from juglant.core.lowend.session import Session
    >>> from juglant.core.recipes.track import TrackState
    >>> one_note(Session(), TrackState(), "bass", 33, 1.0).ndim
    1
    """
    voice = state.voice(line)
    if not isinstance(voice.bass, MadeBass | PlayedBass):
        raise UserError(f"{voice.name} has no notes of its own: nothing plays it by hand.", "line")
    octave = min(max(midi // 12 - 1, 0), _HIGHEST_OCTAVE)
    semitones = midi - 12 * (octave + 1) - midi % 12
    if abs(semitones) > _FURTHEST:
        raise UserError(f"{voice.name} goes up to B5: it has no {note_name(midi)}.", "midi")
    pattern = tuple(
        Note(at=at, beats=_HELD_BEATS, semitones=semitones, velocity=hard)
        for at, hard in ((0.0, velocity), (_FULL_AT, 1.0))
    )
    changes = {"octave": octave, "bars": _BARS, "pattern": pattern}
    bass = voice.bass.model_copy(update={"recipe": voice.bass.recipe.model_copy(update=changes)})
    brief = state.brief.model_copy(update={"chord_roots": (SHARP_NAMES[midi % 12],) * _BARS})
    played = voice.model_copy(update={"bass": bass, "moves": ()})
    both = session.parts.line_loop(state.model_copy(update={"brief": brief}), played).samples
    return both[: both.shape[0] // 2]
