"""A line or an 808 as an instrument: every note of a range, in tune, equally loud, looped where held."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from juglant.core import RATE
from juglant.core.errors import UserError
from juglant.core.lowend.byhand import one_note
from juglant.core.lowend.played import stroke_at
from juglant.core.lowend.session import Session
from juglant.core.measure.hit import measure
from juglant.core.measure.levels import momentary_max_lufs
from juglant.core.measure.stereo import listening_channel
from juglant.core.music import cents_between, midi_to_hz
from juglant.core.process.resampling import shift_pitch
from juglant.core.recipes.hit import Hit
from juglant.core.recipes.parts import PlayedBass, Voice
from juglant.core.recipes.track import TrackState

Array = NDArray[np.float64]

# Peak of the loudest note.
PEAK_DB = -1.0
# A pitch is put right until it is so near, and no more often than this.
_IN_TUNE_CENTS, _ROUNDS = 0.1, 3
_WIDEST = 60
# A loop lies in what is held, from so far on; its ends agree to this, and its level moves by no more.
_LOOP_FROM_S, _LOOP_TO_S, _LOOP_ERROR_DB, _LOOP_FALL_DB = 0.6, 0.95, -40.0, 0.5
_SEAM_S = 0.01


@dataclass(frozen=True)
class Key:
    """One note: its samples, shape (frames,) or (frames, 2), and the loop in it, first and last frame."""

    midi: int
    samples: Array
    loop: tuple[int, int] | None


def instrument(session: Session, state: TrackState, part: str, low: int, high: int) -> list[Key]:
    """Every note from `low` to `high` (MIDI) of a line, or of a hit with a pitch.

    Tails are put in tune as they are measured; all notes are brought to one K-weighted loudness, and the
    highest peak to -1 dBFS. UserError for what has no pitch.

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.
    part
        Id of the part.
    low
        Lowest note.
    high
        Highest note.

    Returns
    -------
    list of Key
        One for every note.

    Examples
    --------
    >>> from juglant.core.recipes.track import TrackState
    >>> [key.midi for key in instrument(Session(), TrackState(), "bass", 33, 34)]
    [33, 34]
    """
    if not 0 <= low <= high <= 127 or high - low > _WIDEST:
        raise UserError(
            f"An instrument goes from a note up to another, {_WIDEST} semitones at most.", "range"
        )
    found = state.part(part)
    notes = range(low, high + 1)
    if isinstance(found, Voice) and not isinstance(found.bass, PlayedBass):
        held = 8 * 60 / state.brief.bpm / 2
        plain = [Key(midi, one_note(session, state, part, midi, 1.0), None) for midi in notes]
        keys = [_looped(key, held) for key in plain]
    else:
        hit = found.bass.hit if isinstance(found, Voice) and isinstance(found.bass, PlayedBass) else found
        if not isinstance(hit, Hit):
            raise UserError("Only a hit or a line makes an instrument.", "part")
        hz = session.sounds.pitch_hz(hit, state.brief)
        if hz is None:
            raise UserError(f"{hit.name} has no pitch: no instrument can be made of it.", "part")
        keys = [_struck(session, hit, hz, midi, state) for midi in notes]
    return _even(keys)


def _struck(session: Session, hit: Hit, hz: float, midi: int, state: TrackState) -> Key:
    """A hit at a note, put right by what its tail is measured to be."""
    brief = state.brief
    wanted = midi_to_hz(midi, brief.a4_hz)
    off = cents_between(wanted, hz) / 100
    x = stroke_at(session.sounds.hits, hit, off, brief.bpm)
    for _ in range(_ROUNDS):
        now = measure(x, RATE, brief.a4_hz, recorded=bool(hit.audio)).hit.fundamental_hz
        if now is None:
            break
        by = cents_between(wanted, now)
        if abs(by) <= _IN_TUNE_CENTS or abs(by) > 100:
            break
        x = shift_pitch(x, by / 100)
    return Key(midi, x, None)


def _looped(key: Key, held_s: float) -> Key:
    """A held note with a loop in what is held, where a clean one is found."""
    x = listening_channel(key.samples)
    first, last = round(_LOOP_FROM_S * held_s * RATE), round(_LOOP_TO_S * held_s * RATE)
    piece = x[first:last]
    if piece.size < RATE // 10 or not piece.any():
        return key
    quarters = [float(np.sqrt(np.mean(one * one))) for one in np.array_split(piece, 4)]
    if min(quarters) <= 0 or 20 * np.log10(max(quarters) / min(quarters)) > _LOOP_FALL_DB:
        return key
    period = RATE / midi_to_hz(key.midi)
    seam = round(_SEAM_S * RATE)
    rises = np.flatnonzero((piece[:-1] < 0) & (piece[1:] >= 0))
    if rises.size < 4:
        return key
    start = int(rises[0])
    best: tuple[float, int] | None = None
    ref = piece[start : start + seam]
    scale = max(float(np.sqrt(np.mean(ref * ref))), 1e-9)
    for end in rises[rises > start + max(4 * period, seam)]:
        after = piece[end : end + seam]
        if after.size < seam:
            break
        error = float(np.sqrt(np.mean((after - ref) ** 2))) / scale
        if best is None or error < best[0]:
            best = (error, int(end))
    if best is None or 20 * np.log10(max(best[0], 1e-9)) > _LOOP_ERROR_DB:
        return key
    return replace(key, loop=(first + start, first + best[1] - 1))


def _even(keys: list[Key]) -> list[Key]:
    """All notes at the loudness of the quietest that a peak of -1 dBFS lets be heard."""
    gains = [-momentary_max_lufs(key.samples, RATE) for key in keys]
    peaks = [
        20 * float(np.log10(max(float(np.abs(key.samples).max()), 1e-9))) + gain
        for key, gain in zip(keys, gains, strict=True)
    ]
    common = PEAK_DB - max(peaks)
    return [
        replace(key, samples=key.samples * 10 ** ((gain + common) / 20))
        for key, gain in zip(keys, gains, strict=True)
    ]
