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
from juglant.core.recipes.parts import ImportedBass, Stem
from juglant.core.synth.bass import loop_frames
from juglant.core.tempo import beat_ms

Array = NDArray[np.float64]

# A slice begins so long before its stroke; a silenced place begins and ends over this.
BEFORE_MS, _FADE_MS = 1.0, 3.0
# Where in an eighth, in beats, a second sixteenth lies, straight, early or swung.
_SECOND = (0.19, 0.4)


@dataclass(frozen=True)
class FitCost:
    """What bringing a file to the tempo costs: by how many semitones it is moved, into how many slices it
    is cut, and how many ms the worst of them loses where they come closer, or leaves silent otherwise;
    `swing_percent` is the swing that its second sixteenths were played with, where they are moved.
    """

    semitones: float = 0.0
    slices: int = 0
    cut_ms: float = 0.0
    gap_ms: float = 0.0
    swing_percent: float | None = None


def time_factor(file: Stem | ImportedBass, brief: Brief) -> float:
    """How many times as long a file is at the track's tempo.

    Parameters
    ----------
    file, brief
        The stem or bass; key, tempo and chords.

    Returns
    -------
    float
        Above 1 where it gets longer.

    Examples
    --------
    >>> stem = Stem(name="Loop", audio="0" * 64, fit="by resampling", own_bpm=120.0)
    >>> brief = Brief(bpm=60.0, chord_roots=("A",))
    >>> time_factor(stem, brief)
    2.0
    """
    return 1.0 if file.fit == "as it is" else file.own_bpm / brief.bpm


def _semitones(file: Stem | ImportedBass, brief: Brief) -> float:
    return 12 * float(np.log2(brief.bpm / file.own_bpm))


def sliced_at(x: Array, rate: int) -> list[int]:
    """Frames at which a file, shape (frames,) or (frames, 2), is cut: its strokes. UserError where it has
    none.

    Parameters
    ----------
    x, rate
        Samples, shape (frames,) or (frames, 2); frames a second.

    Returns
    -------
    list of int
        Frames.

    Examples
    --------
    >>> click = np.exp(-np.arange(24000) / 480) * np.sin(np.arange(24000) / 7)
    >>> sliced_at(np.concatenate([click, click]), 48000)
    [0, 23952]
    """
    found = strokes(listening_channel(x), rate).at_ms
    cuts = sorted({max(0, round((at - BEFORE_MS) / 1000 * rate)) for at in found})
    if len(cuts) < 2:
        raise UserError("This file has no strokes at which it could be cut: fit it by resampling.", "fit")
    return cuts


def laid(cuts: list[int], file: Stem | ImportedBass, brief: Brief, rate: int) -> tuple[Array, float | None]:
    """Where slices begin at the track's tempo and swing, in ms from the start of the file, and the swing,
    in percent, that was found in them where that is asked for. UserError where there is none to change.

    Parameters
    ----------
    cuts
        Frames at which it is cut.
    file, brief
        The stem or bass; key, tempo and chords.
    rate
        Frames a second.

    Returns
    -------
    tuple of ndarray and float
        Ms, and a swing or None.

    Examples
    --------
    >>> stem = Stem(name="Loop", audio="0" * 64, fit="by resampling", own_bpm=120.0)
    >>> brief = Brief(bpm=60.0, chord_roots=("A",))
    >>> laid([0, 24000], stem, brief, 48000)[0].round()
    array([   0., 1000.])
    """
    factor = time_factor(file, brief)
    at = np.array(cuts) * factor / rate * 1000
    if file.swing == "as it is":
        return at, None
    beats = ((np.array(cuts) / rate * 1000 + BEFORE_MS - file.begin_ms) * factor) / beat_ms(brief.bpm)
    part = beats % 0.5
    second = (part >= _SECOND[0]) & (part <= _SECOND[1])
    if not second.any():
        raise UserError(
            "No stroke of this file lies on a second sixteenth: it has no swing to change.", "swing"
        )
    own = float(np.median(part[second]))
    wanted = brief.swing_of(file) / 200
    at = at + np.where(second, (wanted - own) * beat_ms(brief.bpm), 0.0)
    # What lies between the sixteenths is not overtaken.
    return np.maximum.accumulate(np.maximum(at, 0.0) + np.arange(at.size) * 1e-6), 200 * own


def _sliced(x: Array, file: Stem | ImportedBass, brief: Brief, rate: int) -> Array:
    """A file whose strokes lie where the track has them."""
    cuts, factor = sliced_at(x, rate), time_factor(file, brief)
    ends, (begins, _) = [*cuts[1:], x.shape[0]], laid(cuts, file, brief, rate)
    pieces = [(float(at), x[cut:end]) for at, cut, end in zip(begins, cuts, ends, strict=True)]
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


def _is_at_tempo(file: Stem | ImportedBass, brief: Brief) -> bool:
    return file.fit == "as it is" or (file.own_bpm == brief.bpm and file.swing == "as it is")


def _at_tempo(x: Array, file: Stem | ImportedBass, brief: Brief, rate: int) -> Array:
    """A file, shape (frames,) or (frames, 2), at the track's tempo. UserError where it cannot be cut."""
    if _is_at_tempo(file, brief):
        return x
    if file.fit == "by resampling":
        return shift_pitch(x, _semitones(file, brief))
    return _sliced(x, file, brief, rate)


def fit_cost(x: Array, file: Stem | ImportedBass, brief: Brief, rate: int) -> FitCost:
    """What it costs. UserError where it cannot be done.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, 2).
    file, brief
        The stem or bass; key, tempo and chords.
    rate
        Frames a second.

    Returns
    -------
    FitCost
        What it costs.

    Examples
    --------
    >>> stem = Stem(name="Loop", audio="0" * 64, fit="by resampling", own_bpm=120.0)
    >>> brief = Brief(bpm=60.0, chord_roots=("A",))
    >>> fit_cost(np.ones(4800), stem, brief, 48000).semitones
    -12.0
    """
    if _is_at_tempo(file, brief):
        return FitCost()
    if file.fit == "by resampling":
        return FitCost(semitones=_semitones(file, brief))
    cuts = sliced_at(x, rate)
    begins, swing = laid(cuts, file, brief, rate)
    lengths = np.diff([*cuts, x.shape[0]]) / rate * 1000
    room = np.diff([*begins, x.shape[0] * time_factor(file, brief) / rate * 1000])
    change = room - lengths
    return FitCost(
        slices=len(cuts), cut_ms=float(max(-change.min(), 0.0)), gap_ms=float(max(change.max(), 0.0)),
        swing_percent=swing,
    )  # fmt: skip


def silenced(x: Array, places: tuple[int, ...], brief: Brief, rate: int) -> Array:
    """A loop, shape (frames,) or (frames, 2), without some of its sixteenths, counted from 0; neighbours go
    together.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, 2).
    places, brief
        Sixteenths, from 0; key, tempo and chords.
    rate
        Frames a second.

    Returns
    -------
    ndarray
        Shape of `x`.

    Examples
    --------
    >>> brief = Brief(bpm=120.0, chord_roots=("A",))
    >>> float(silenced(np.ones(96000), (0,), brief, 48000)[3000])
    0.0
    """
    if not places:
        return x
    frames, count = x.shape[0], 16 * brief.bars
    gain = np.ones(frames)
    # A stroke begins a little before its place: so do the silences, and so do they end.
    edges = np.round(np.linspace(0, frames, count + 1)).astype(int) - round(BEFORE_MS / 1000 * rate)
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
    """One pass of a file, shape (frames,) or (frames, 2).

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, 2).
    file, brief
        The stem or bass; key, tempo and chords.
    rate
        Frames a second.

    Returns
    -------
    ndarray
        One pass.

    Examples
    --------
    >>> stem = Stem(name="Loop", audio="0" * 64, fit="by resampling", own_bpm=120.0)
    >>> brief = Brief(bpm=60.0, chord_roots=("A",))
    >>> loop_of(np.ones(4800), stem, brief, 48000).size
    192000
    """
    fitted = _at_tempo(x, file, brief, rate)
    loop = fitted_loop(fitted, file.begin_ms * time_factor(file, brief), loop_frames(brief, rate), rate)
    return silenced(loop, file.silent, brief, rate)
