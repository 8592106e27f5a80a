"""A kick file and a bass file of the user's own: ducked without any track."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from juglant.core.errors import UserError
from juglant.core.hits.chain import each_channel
from juglant.core.lowend import clearing, curves, ducking
from juglant.core.lowend.loop import place
from juglant.core.lowend.owner import followed, highest_of_notes, kick_pitch_hz
from juglant.core.lowend.sparing import spare_owner, sparing
from juglant.core.measure.hit import measure
from juglant.core.measure.loopsound import LoopSound
from juglant.core.measure.overlap import Overlap
from juglant.core.measure.owner import kept_levels, overlap
from juglant.core.measure.stereo import listening_channel
from juglant.core.measure.subedge import sub_edge
from juglant.core.measure.transcribe import transcribe
from juglant.core.recipes.brief import Owner
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.fields import is_off
from juglant.core.tempo import beat_ms, note_value_ms

Array = NDArray[np.float64]

# A bass this near to whole bars is taken to be a loop.
_LOOP_SHARE = 0.01


@dataclass(frozen=True)
class Pair:
    """The ducked bass, shape as the bass given, the mix, and the numbers of both."""

    ducked: Array
    mix: Array
    gain_db: Array
    is_loop: bool
    recipe: DuckRecipe
    complete: bool
    duck: ducking.Duck
    before: Overlap
    after: Overlap
    key: Array
    times_ms: list[float]
    length_ms: float


def length_of(bass: Array, rate: int, bpm: float) -> tuple[float, bool]:
    """Length in ms, and whether that is whole bars, which go round.

    Parameters
    ----------
    bass, rate
        Samples of the bass’s loop; frames a second.
    bpm
        Tempo.

    Returns
    -------
    tuple of float and bool
        Ms, and whether it goes round.

    Examples
    --------
    >>> length_of(np.zeros(96000), 48000, 120.0)
    (2000.0, True)
    """
    length = bass.shape[0] / rate * 1000
    bars = length / (4 * beat_ms(bpm))
    return length, round(bars) >= 1 and abs(bars / round(bars) - 1) < _LOOP_SHARE


def in_band(recipe: DuckRecipe, below_hz: float | None, above_hz: float | None) -> DuckRecipe:
    """A ducking of only what lies below or above a frequency, where one is named.

    Parameters
    ----------
    recipe
        The ducking.
    below_hz
        None for no upper end.
    above_hz
        None for no lower end.

    Returns
    -------
    DuckRecipe
        The ducking.

    Examples
    --------
    >>> in_band(DuckRecipe(), 120.0, None).band
    'below'
    """
    if below_hz is None and above_hz is None:
        return recipe
    band = {"band": "above" if below_hz is None else "below", "edge_hz": above_hz or below_hz}
    return recipe.model_copy(update=band)


def _pitch(
    kick: Array, bass: LoopSound, owner: Owner, rate: int, count: int
) -> tuple[float | Array | None, list[float]]:
    """The owner's pitch, that of a bass every ms, and where the notes of the bass start."""
    if owner == "kick":
        return kick_pitch_hz(measure(kick, rate), rate), []
    found = transcribe(bass.mono, rate, loop=bass.loop)
    starts = [note.at_ms for note in found]
    pitches = [(note.at_ms, note.hz) for note in found]
    return (followed(pitches, count) if found else None), starts


def duck_pair(
    kick: Array, bass: Array, rate: int, bpm: float, times: list[float], *, owner: Owner = "kick",
    margin_db: float = 0.0, returns: str | None = None, below_hz: float | None = None,
    above_hz: float | None = None,
) -> Pair:  # fmt: skip
    """Solve and apply the ducking of `bass` under `kick`, both at `rate`.

    Shapes (frames,) or (frames, 2). `owner` owns the sub: of a bass that does, only what lies above it
    is ducked. `margin_db` puts the bass further under the kick, `returns` (a note value) says when it is
    to be back, `below_hz` or `above_hz` leave the rest as it is. The kick is struck at `times`, in ms, and
    kept mono; a bass of whole bars is treated as a loop. UserError where the bass owns the sub and has
    no note that could be measured.

    Parameters
    ----------
    kick
        Samples of the kick’s loop.
    bass, rate
        Samples of the bass’s loop; frames a second.
    bpm, times
        Tempo; when the kick is struck, ms.
    owner
        Who has the lowest octave.
    margin_db
        Beyond what is needed.
    returns
        Note value on which it is to be back.
    below_hz
        None for no upper end.
    above_hz
        None for no lower end.

    Returns
    -------
    Pair
        What it takes, and the sounds.

    Examples
    --------
    >>> at = np.arange(96000) / 48000
    >>> kick = np.sin(2 * np.pi * 55 * at) * np.exp(-(at % 0.5) / 0.08)
    >>> bass = 0.5 * np.sin(2 * np.pi * 55 * at)
    >>> pair = duck_pair(kick, bass, 48000, 120.0, [0.0, 500.0, 1000.0, 1500.0])
    >>> type(pair).__name__
    'Pair'
    """
    frames = bass.shape[0]
    length, is_loop = length_of(bass, rate, bpm)
    heard = LoopSound(listening_channel(bass), rate, is_loop)
    struck = [(at, listening_channel(kick)) for at in times]
    kicks = LoopSound(place(struck, frames, rate, loop=is_loop), rate, is_loop)
    pitch, starts = _pitch(kick, heard, owner, rate, heard.level.level_db.size)
    edge = sub_edge(pitch)
    kept = kept_levels(kicks, heard, owner, edge)
    if kept is None:
        raise UserError(
            "The bass is to own the sub, and no note of it could be measured: choose the kick as owner.",
            "owner",
        )
    spared = None if owner == "kick" or edge is None else highest_of_notes(edge, starts)
    wanted = in_band(DuckRecipe(), below_hz, above_hz)
    kept = (kept[0], sparing(kept[1], heard, wanted, owner, edge, spared))
    found = clearing.solve(*kept, times, length, margin_db, owner)
    recipe = found.recipe.model_copy(update={"band": wanted.band, "edge_hz": wanted.edge_hz})
    if returns is not None and not is_off(recipe, "depth_db"):
        recipe = curves.returning_on(recipe, note_value_ms(returns, bpm))
    solved = recipe
    if owner == "bass":
        recipe = spare_owner(recipe, heard, edge, spared, times, length)
    gain = ducking.curve_db(recipe, times, length, 1000 / rate, loop=is_loop)[:frames]
    ducked = each_channel(
        bass,
        lambda x: ducking.under(x, gain, ducking.left_alone(x, recipe, spared, rate, loop=is_loop)),
    )
    after = LoopSound(listening_channel(ducked), rate, is_loop)
    mine = kicks if owner == "kick" else heard

    def against(x: LoopSound) -> Overlap:
        return overlap(kicks, x, len(times), owner, edge, mine)[0]

    return Pair(
        ducked, ducked + (kicks.samples if bass.ndim == 1 else kicks.samples[:, None]), gain, is_loop,
        recipe, found.complete and solved == recipe, ducking.measure_duck(recipe, times, length, bpm),
        against(heard), against(after), kicks.samples, times, length,
    )  # fmt: skip
