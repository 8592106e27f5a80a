"""A line that a hit plays."""

import numpy as np
from numpy.typing import NDArray
from pydantic import ValidationError

from juglant.core import RATE
from juglant.core.hits.moved import shifted
from juglant.core.hits.render import HitRenderer
from juglant.core.lowend.loop import place
from juglant.core.measure.stereo import listening_channel
from juglant.core.music import cents_between, midi_to_hz
from juglant.core.process.resampling import shift_pitch
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.hit import Hit
from juglant.core.recipes.parts import PlayedBass
from juglant.core.synth.bass import Played, loop_frames
from juglant.core.synth.envelopes import release
from juglant.core.tempo import beat_ms

Array = NDArray[np.float64]


def stroke_at(
    hits: HitRenderer, hit: Hit, semitones: float, bpm: float, velocity: float = 1.0, turn: int = 0
) -> Array:
    """The hit at another note: by its recipe where that reaches, else resampled.

    Parameters
    ----------
    hits, hit
        Renders the hit; the hit.
    semitones, bpm
        By how many; tempo.
    velocity
        How hard it is struck, above 0 up to 1.
    turn
        Which of those in turn, from 0.

    Returns
    -------
    ndarray
        Its samples.

    Examples
    --------
    >>> from juglant.core.lowend.session import Session
    >>> from juglant.core.recipes.track import TrackState
    >>> state = TrackState()
    >>> stroke_at(Session().sounds.hits, state.kick, 2.0, 128.0).ndim
    1
    """
    if semitones == 0.0:
        return hits.hit(hit, bpm, velocity, turn)
    try:
        return hits.hit(shifted(hit, semitones), bpm, velocity, turn)
    except ValidationError:
        return shift_pitch(hits.hit(hit, bpm, velocity, turn), semitones)


def moved_in(hit: Hit, brief: Brief, bar: int) -> int:
    """By how many semitones a hit is moved in a bar, counted from 0: none unless it follows.

    Parameters
    ----------
    hit, brief
        The hit; key, tempo and chords.
    bar
        From 0.

    Returns
    -------
    int
        Semitones.

    Examples
    --------
    >>> from juglant.core.recipes.track import TrackState
    >>> state = TrackState()
    >>> moved_in(state.kick, state.brief, 1)
    0
    """
    return brief.moved_by(bar) if hit.follow == "yes" else 0


def follows(hit: Hit, brief: Brief, at_ms: float) -> int:
    """By how many semitones a hit's stroke at a time in the loop is moved.

    Parameters
    ----------
    hit, brief
        The hit; key, tempo and chords.
    at_ms
        From the loop’s start.

    Returns
    -------
    int
        Semitones.

    Examples
    --------
    >>> from juglant.core.recipes.track import TrackState
    >>> state = TrackState()
    >>> follows(state.kick, state.brief, 0.0)
    0
    """
    return moved_in(hit, brief, int((at_ms + 1.0) // (4 * beat_ms(brief.bpm))))


def played_line(
    hits: HitRenderer, bass: PlayedBass, hit_hz: float | None, brief: Brief, given: list[Played]
) -> Array:
    """One pass of the loop, shape (frames,): the hit, which sounds `hit_hz`, moved to each given note.

    One voice: a note ends with its release, or where the next begins. A hit in which no pitch was
    found plays every note as it is.

    Parameters
    ----------
    hits
        Renders the hit.
    bass
        The bass.
    hit_hz
        What the hit sounds; None where it has no pitch.
    brief, given
        Key, tempo and chords; notes to play.

    Returns
    -------
    ndarray
        Shape (frames,).

    Examples
    --------
    >>> from juglant.core.lowend.session import Session
    >>> from juglant.core.recipes.track import TrackState
    >>> state = TrackState()
    >>> bass = PlayedBass(hit=state.kick)
    >>> bool(played_line(Session().sounds.hits, bass, 50.0, state.brief, []).any())
    False
    """
    recipe, struck = bass.recipe, []
    for note in given:
        off = cents_between(midi_to_hz(note.midi, brief.a4_hz), hit_hz) / 100 if hit_hz else 0.0
        x = listening_channel(stroke_at(hits, bass.hit, off, brief.bpm, note.velocity))
        length_s = (note.length_ms + recipe.release_ms) / 1000
        x = x[: round(length_s * RATE)]
        struck.append(
            (note.start_ms, x * release(np.arange(x.size) / RATE, length_s, recipe.release_ms / 1000))
        )
    return place(struck, loop_frames(brief, RATE), RATE, loop=True) * 10 ** (recipe.level_db / 20)
