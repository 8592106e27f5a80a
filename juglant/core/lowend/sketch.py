"""What is written of a track, small enough to stand in a list."""

from typing import NamedTuple

from juglant.core.lowend.line import strokes_of
from juglant.core.recipes.track import TrackState
from juglant.core.synth.bass import notes
from juglant.core.tempo import beat_ms


class Mark(NamedTuple):
    """A stroke or a note: where it begins and how long it lasts, both as a share of the loop, and how hard
    it is played, 0 to 1. A stroke has no length.
    """

    at: float
    lasts: float
    velocity: float


class Sketch(NamedTuple):
    """Strokes of the kick, strokes of the other hits, and notes of the lines, of what is heard."""

    kick: list[Mark]
    hits: list[Mark]
    lines: list[Mark]


def sketch(state: TrackState) -> Sketch:
    """The pattern of a track, without a sound of it; a line that is a file lasts the whole loop.

    Parameters
    ----------
    state
        The track.

    Returns
    -------
    Sketch
        Strokes of the kick, and notes of the lines.

    Examples
    --------
    >>> [mark.at for mark in sketch(TrackState()).kick][:4]
    [0.0, 0.125, 0.25, 0.375]
    """
    brief = state.brief
    loop_ms = 4 * brief.bars * beat_ms(brief.bpm)
    struck = {
        hit.id: [Mark(stroke.at_ms / loop_ms, 0.0, stroke.velocity) for stroke in strokes_of(hit, brief)]
        for hit in state.all_hits
        if not hit.mute
    }
    lines = [
        mark
        for voice in state.heard
        for mark in (
            [Mark(0.0, 1.0, 1.0)]
            if voice.line is None
            else [
                Mark(note.start_ms / loop_ms, note.length_ms / loop_ms, note.velocity)
                for note in notes(voice.line, brief)
            ]
        )
    ]
    kick = struck.pop(state.kick.id, [])
    return Sketch(kick, [mark for each in struck.values() for mark in each], lines)
