"""A file as one pass of the loop: brought to the tempo, repeated or cut, and silenced in places."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from juglant.core.errors import UserError
from juglant.core.lowend.loop import fade_out, fitted_loop, place
from juglant.core.measure.defects import strokes
from juglant.core.measure.stereo import listening_channel
from juglant.core.process.resampling import shift_pitch
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.track import ImportedBass, Stem
from juglant.core.synth.bass import loop_frames

Array = NDArray[np.float64]

# A slice begins so long before its stroke; a silenced place begins and ends over this.
_BEFORE_MS, _FADE_MS = 1.0, 3.0


@dataclass(frozen=True)
class FitCost:
    """What bringing a file to the tempo costs: by how many semitones it is moved, into how many slices it
    is cut, and how many ms the worst of them loses where they come closer, or leaves silent otherwise.
    """

    semitones: float = 0.0
    slices: int = 0
    cut_ms: float = 0.0
    gap_ms: float = 0.0


def named_by(file: Stem | ImportedBass) -> list[object]:
    """What decides a file's loop beside the file and the tempo, as far as it changes anything."""
    found: list[object] = [file.begin_ms] if file.begin_ms else []
    if file.fit != "as it is":
        found.append([file.fit, file.own_bpm])
    if file.silent:
        found.append(list(file.silent))
    return found


def _semitones(file: Stem | ImportedBass, brief: Brief) -> float:
    return 12 * float(np.log2(brief.bpm / file.own_bpm))


def _slices(x: Array, rate: int) -> list[int]:
    """Frames at which a file, shape (frames,) or (frames, 2), is cut: its strokes. UserError where it has
    none.
    """
    found = strokes(listening_channel(x), rate).at_ms
    cuts = sorted({max(0, round((at - _BEFORE_MS) / 1000 * rate)) for at in found})
    if len(cuts) < 2:
        raise UserError("This file has no strokes at which it could be cut: fit it by resampling.", "fit")
    return cuts


def _sliced(x: Array, factor: float, rate: int) -> Array:
    """A file whose strokes lie `factor` times as far apart."""
    cuts = _slices(x, rate)
    ends = [*cuts[1:], x.shape[0]]
    pieces = [(cut * factor / rate * 1000, x[cut:end]) for cut, end in zip(cuts, ends, strict=True)]
    if cuts[0] > 0:
        pieces.insert(0, (0.0, x[: cuts[0]]))
    frames = round(x.shape[0] * factor)
    # What a piece ends with is faded, since silence may follow now.
    fade = min(round(_FADE_MS / 1000 * rate), min(piece.shape[0] for _, piece in pieces) // 2)
    ramp = np.linspace(1.0, 0.0, max(fade, 1))
    struck = []
    for at, piece in pieces:
        piece = piece.copy()
        piece[piece.shape[0] - ramp.size :] *= ramp if piece.ndim == 1 else ramp[:, None]
        struck.append((at, piece))
    return place(struck, frames, rate, loop=True)


def at_tempo(x: Array, file: Stem | ImportedBass, brief: Brief, rate: int) -> Array:
    """A file, shape (frames,) or (frames, 2), at the track's tempo. UserError where it cannot be cut."""
    if file.fit == "as it is" or file.own_bpm == brief.bpm:
        return x
    if file.fit == "by resampling":
        return shift_pitch(x, _semitones(file, brief))
    return _sliced(x, file.own_bpm / brief.bpm, rate)


def fit_cost(x: Array, file: Stem | ImportedBass, brief: Brief, rate: int) -> FitCost:
    """What it costs. UserError where it cannot be done."""
    if file.fit == "as it is" or file.own_bpm == brief.bpm:
        return FitCost()
    if file.fit == "by resampling":
        return FitCost(semitones=_semitones(file, brief))
    cuts = _slices(x, rate)
    lengths = np.diff([*cuts, x.shape[0]]) / rate * 1000
    change = lengths * (file.own_bpm / brief.bpm - 1)
    return FitCost(
        slices=len(cuts), cut_ms=float(max(-change.min(), 0.0)), gap_ms=float(max(change.max(), 0.0))
    )


def silenced(x: Array, places: tuple[int, ...], brief: Brief, rate: int) -> Array:
    """A loop, shape (frames,) or (frames, 2), without some of its sixteenths, counted from 0; neighbours go
    together.
    """
    if not places:
        return x
    frames, count = x.shape[0], 16 * brief.bars
    gain = np.ones(frames)
    # A stroke begins a little before its place: so do the silences, and so do they end.
    edges = np.round(np.linspace(0, frames, count + 1)).astype(int) - round(_BEFORE_MS / 1000 * rate)
    silent = {one for one in places if one < count}
    fade = fade_out(_FADE_MS, rate)
    around = np.arange(-fade.size, 0)
    for one in silent:
        gain[np.arange(edges[one], edges[one + 1]) % frames] = 0.0
    for one in silent:
        # It is faded out before it and in within it: what begins where it ends keeps its attack.
        if (one - 1) % count not in silent:
            gain[(edges[one] + around) % frames] = fade
        if (one + 1) % count not in silent:
            gain[(edges[one + 1] + around) % frames] = fade[::-1]
    return np.asarray(x * (gain if x.ndim == 1 else gain[:, None]))


def loop_of(x: Array, file: Stem | ImportedBass, brief: Brief, rate: int) -> Array:
    """One pass of a file, shape (frames,) or (frames, 2)."""
    fitted = at_tempo(x, file, brief, rate)
    scale = 1.0 if fitted is x else file.own_bpm / brief.bpm
    loop = fitted_loop(fitted, file.begin_ms * scale, loop_frames(brief, rate), rate)
    return silenced(loop, file.silent, brief, rate)
