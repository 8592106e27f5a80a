"""Where the sub of a track's owner ends, from its notes."""

import numpy as np
from numpy.typing import NDArray

from juglant.core import RATE
from juglant.core.lowend.linenotes import found_notes
from juglant.core.lowend.moves import notes_of
from juglant.core.lowend.rumble import root_shift
from juglant.core.lowend.sounds import Sounds
from juglant.core.measure.hit import Measured
from juglant.core.measure.overlap import PRESENT_DB
from juglant.core.measure.subedge import SubEdge, sub_edge
from juglant.core.music import cents_between, midi_to_hz
from juglant.core.recipes.bass import BassRecipe
from juglant.core.recipes.parts import PlayedBass, RumbleBass, Voice
from juglant.core.recipes.track import TrackState
from juglant.core.synth.bass import loop_frames

Array = NDArray[np.float64]

# A note that lies above this is not one of the low end.
_LOW_HZ = 150.0
# The last cycles before the kick has fallen so far, of which the middle one is its pitch there.
_CYCLES = 5


def kick_pitch_hz(measured: Measured, rate: int) -> float | None:
    """The pitch that a kick has reached where it is 18 dB down; None where it has none.

    What its own cycles say where they agree, else what its tail settles to.

    Parameters
    ----------
    measured, rate
        Numbers of the kick; frames a second.

    Returns
    -------
    float or None
        Hz.

    Examples
    --------
    >>> from juglant.core.lowend.session import Session
    >>> from juglant.core.recipes.track import TrackState
    >>> state = TrackState()
    >>> measured = Session().sounds.measured_hit(state.kick, state.brief)
    >>> kick_pitch_hz(measured, RATE) > 30
    True
    """
    settled = measured.hit.estimate_hz
    envelope, trace = measured.envelope, measured.trace
    if not envelope.size or envelope.max() <= 0 or measured.hit.onset_ms is None:
        return None
    loud = np.flatnonzero(envelope >= envelope.max() * 10 ** (-PRESENT_DB / 20))
    until_ms = float(loud[-1]) / rate * 1000
    inside = trace.hz[trace.time_ms <= until_ms][-_CYCLES:]
    if inside.size < _CYCLES:
        return settled
    hz = float(np.median(inside))
    apart = np.abs(1200 * np.log2(inside / hz))
    # A click or noise on top makes cycles that are none.
    if np.median(apart) > 200 or not 20.0 < hz < 400.0:
        return settled
    if settled is not None and hz > 1.5 * settled and measured.hit.fundamental_hz is not None:
        harmonic = cents_between(hz, settled * round(hz / settled))
        return settled if abs(harmonic) < 60 else hz
    return hz


def _rumble_hz(sounds: Sounds, state: TrackState, bass: RumbleBass) -> float | None:
    """The note of a rumble: the root that it is pulled to, or its kick's own."""
    hz = sounds.measured_hit(state.kick, state.brief).hit.fundamental_hz
    if hz is None or bass.tune != "to the root":
        return hz
    return float(hz * 2.0 ** (root_shift(hz, state.brief) / 12))


def followed(starts: list[tuple[float, float]], count: int) -> Array:
    """Pitch every ms of a loop, from (start in ms, Hz) of each note: it holds until the next.

    Parameters
    ----------
    starts
        Time in ms and Hz of each.
    count
        How many ms.

    Returns
    -------
    ndarray
        Hz, one for every ms.

    Examples
    --------
    >>> followed([(0.0, 50.0), (2.0, 60.0)], 4)
    array([50., 50., 60., 60.])
    """
    out = np.empty(count)
    edges = [max(0, round(at)) for at, _ in starts]
    out[:] = starts[-1][1]
    for n, (_, hz) in enumerate(starts):
        out[edges[n] : edges[n + 1] if n + 1 < len(edges) else count] = hz
    return out


def _line_pitch(sounds: Sounds, state: TrackState, voice: Voice, count: int) -> Array | None:
    """The pitch of a line every ms, gliding as its notes do; None where it has none."""
    bass, brief = voice.bass, state.brief
    if voice.line is not None:
        if isinstance(bass, PlayedBass) and sounds.pitch_hz(bass.hit, brief) is None:
            return None
        played = notes_of(voice, brief)
        if not played:
            return None
        out = followed([(note.start_ms, midi_to_hz(note.midi, brief.a4_hz)) for note in played], count)
        if isinstance(voice.line, BassRecipe):
            for note in played:
                if note.from_midi != note.midi:
                    at = np.arange(round(note.start_ms), min(count, round(note.start_ms + note.length_ms)))
                    way = np.minimum((at - note.start_ms) / voice.line.glide_ms, 1.0)
                    midi = note.from_midi + (note.midi - note.from_midi) * np.maximum(way, 0.0)
                    out[at] = brief.a4_hz * 2.0 ** ((midi - 69.0) / 12.0)
        return out
    if isinstance(bass, RumbleBass):
        hz = _rumble_hz(sounds, state, bass)
        return None if hz is None else np.full(count, hz)
    found = found_notes(sounds, state, voice)
    return followed([(note.at_ms, note.hz) for note in found], count) if found else None


def bass_pitch(sounds: Sounds, state: TrackState, count: int) -> Array | None:
    """The lowest note of the lines that are heard, every ms of the loop; None where none is known.

    Lines that lie above the low end count only where there is no other.

    Parameters
    ----------
    sounds, state
        Renders and keeps what was asked for; the track.
    count
        How many ms.

    Returns
    -------
    ndarray or None
        Hz, one for every ms.

    Examples
    --------
    >>> from juglant.core.lowend.session import Session
    >>> from juglant.core.recipes.track import TrackState
    >>> bass_pitch(Session().sounds, TrackState(), 100).size
    100
    """
    found = []
    for voice in state.heard:
        one = _line_pitch(sounds, state, voice, count)
        if one is not None:
            lowest = voice.line.highpass_hz if isinstance(voice.line, BassRecipe) else 0.0
            low = bool(np.any(one < _LOW_HZ)) and float(np.median(one)) > lowest
            found.append((low, one))
    lines = [one for low, one in found if low] or [one for _, one in found]
    return np.min(lines, axis=0) if lines else None


def edge_of(sounds: Sounds, state: TrackState) -> SubEdge | None:
    """Where the sub of the owner ends; None where it has no pitch.

    Parameters
    ----------
    sounds, state
        Renders and keeps what was asked for; the track.

    Returns
    -------
    SubEdge or None
        Where it ends.

    Examples
    --------
    >>> from juglant.core.lowend.session import Session
    >>> from juglant.core.recipes.track import TrackState
    >>> 60 <= edge_of(Session().sounds, TrackState()).said_hz <= 110
    True
    """
    brief = state.brief
    if brief.sub_owner == "kick":
        return sub_edge(kick_pitch_hz(sounds.measured_hit(state.kick, brief), RATE))
    count = len(np.arange(0.0, loop_frames(brief, RATE) / RATE * 1000 - 1e-9, 1.0))
    return sub_edge(bass_pitch(sounds, state, count))


def highest_of_notes(edge: SubEdge, starts_ms: list[float]) -> SubEdge:
    """The edge with one value per note: where its pitch moves, that of the highest.

    Parameters
    ----------
    edge
        Where the sub ends.
    starts_ms
        When notes begin.

    Returns
    -------
    SubEdge
        With one value per note.

    Examples
    --------
    >>> edge = SubEdge(70.0, (70.0,))
    >>> highest_of_notes(edge, [0.0]).hz
    (70.0,)
    """
    if edge.at is None or not starts_ms:
        return edge
    at = edge.at.copy()
    marks = sorted({min(max(0, round(ms)), at.size - 1) for ms in starts_ms})
    for n, first in enumerate(marks):
        if n + 1 < len(marks):
            at[first : marks[n + 1]] = at[first : marks[n + 1]].max()
        else:
            inside = np.arange(first, marks[0] + at.size) % at.size
            at[inside] = at[inside].max()
    return SubEdge(edge.said_hz, edge.hz, at)
