"""The key of a loop: of chords over a bass by their tones, of a line of one voice by its notes."""

import numpy as np
import scipy
from numpy.typing import NDArray
from scipy import fft

from juglant.core import music
from juglant.core.measure.transcribe import NoteFound, is_one_voice, transcribe
from juglant.core.process.resampling import change_rate

Array = NDArray[np.float64]

# Probe-tone profiles of Krumhansl & Kessler, Psychological Review 89, 1982, from the tonic up;
# values from memory.
_MAJOR = (6.35, 2.23, 3.48, 2.33, 4.38, 4.09, 2.52, 5.19, 2.39, 3.66, 2.29, 2.88)
_MINOR = (6.33, 2.68, 3.52, 5.38, 2.60, 3.53, 2.54, 4.75, 3.98, 2.69, 3.34, 3.17)
_RATE, _FRAME, _HOP = 11025, 8192, 2048
# Tones are looked for up to the highest; those of chords from the first up, a bass's below the second.
_LOWEST_HZ, _CHORDS_HZ, _BASS_HZ, _HIGHEST_HZ = 40.0, 105.0, 200.0, 2000.0
# A tone stands so much over what lies around it. Loops of recorded drums alone, some of them with a note of
# their own, hold up to a tenth of what sounds in such tones; with chords behind the drums it is more.
_STANDS_OUT, _CLEAR_SHARE = 3.0, 0.11
# What speaks for a key and against it, fitted to 180 generated loops of chords, bass and drums, of recorded
# instruments and made ones: what lies outside its scale, in energy and in its root, the tonic triad, the
# bass that begins, the triad that begins, its third against the other mode's, in all and where it begins.
_WEIGHTS = np.array([-24.6, -16.2, 10.2, 1.5, 6.6, 17.9, -9.3])
_MOST_THIRD = 0.1
# The last degree of a minor scale is mostly raised under its dominant: half of it lies outside.
_INSIDE = {
    "major": np.array([1, 0, 1, 0, 1, 1, 0, 1, 0, 1, 0, 1.0]),
    "minor": np.array([1, 0, 1, 1, 0, 1, 0, 1, 1, 0, 1, 0.5]),
}
_BEGINS_SHARE = 1 / 8
# Such a lead over the next key makes one certain; with half of it none of those that begin on their tonic
# was wrong.
_SURE_LEAD = 10.0
# Of a line alone: what its first note and its longest weigh for the tonic, what lies outside weighs
# against it, the lead that makes it certain, and how sure a mode without its third can be.
_FIRST_NOTE, _HELD_NOTE, _OUTSIDE, _SURE_LINE_LEAD, _OPEN_MODE = 0.3, 0.4, 2.0, 0.3, 0.4
# So many notes are a line.
_LEAST_NOTES = 3
# How closely their fractions of a semitone agree, from 0 to 1.
_TOGETHER_IN_TUNE = 0.8


def _frames(x: Array) -> Array:
    """Spectra of a sound at `_RATE`, shape (bins, frames)."""
    padded = np.pad(x, (0, max(0, _FRAME - x.size)))
    pieces = np.lib.stride_tricks.sliding_window_view(padded, _FRAME)[::_HOP]
    return np.asarray(np.abs(fft.rfft(pieces * np.hanning(_FRAME), axis=1)).T)


def _chroma(level: Array) -> tuple[Array, Array, float]:
    """What sounds of each pitch class, shape (12, frames), in chords and in the bass, and the share of what
    sounds there that clear tones are.

    Only local peaks count, so that a drum's spectrum gives little. They are held against the loop's own
    tuning, whatever it is.
    """
    per_bin = _RATE / _FRAME
    hz = np.arange(level.shape[0]) * per_bin
    peak = np.zeros_like(level, dtype=bool)
    peak[1:-1] = (level[1:-1] > level[:-2]) & (level[1:-1] >= level[2:])
    clear = peak & (level > _STANDS_OUT * scipy.signal.medfilt(level, (31, 1)))
    bins, frames = np.nonzero(clear & ((hz > _LOWEST_HZ) & (hz < _HIGHEST_HZ))[:, None])
    chords, bass = np.zeros((2, 12, level.shape[1]))
    if not bins.size:
        return chords, bass, 0.0
    strength = level[bins, frames]
    # The top of a parabola through logarithms.
    left, here, right = (np.log(level[bins + n, frames] + 1e-12) for n in (-1, 0, 1))
    bend = np.minimum(left - 2 * here + right, -1e-9)
    midi = 69 + 12 * np.log2((bins + np.clip(0.5 * (left - right) / bend, -0.5, 0.5)) * per_bin / 440)
    midi -= np.angle(np.sum(strength * np.exp(2j * np.pi * midi))) / (2 * np.pi)
    classes = np.round(midi).astype(int) % 12
    strength = strength * np.sqrt(np.maximum(0.0, 1 - 2 * np.abs(midi - np.round(midi))))
    for out, of in ((chords, hz[bins] > _CHORDS_HZ), (bass, hz[bins] < _BASS_HZ)):
        np.add.at(out, (classes[of], frames[of]), strength[of])
    inside = (hz >= _CHORDS_HZ) & (hz <= _HIGHEST_HZ)
    tones = np.where(clear & inside[:, None], level, 0.0)
    tones = np.minimum(tones + np.roll(tones, 1, 0) + np.roll(tones, -1, 0), 2 * level)[inside].sum()
    return chords, bass, float(tones) / max(float(level[inside].sum()), 1e-12)


def _share(of: Array) -> Array:
    return np.asarray(of / max(float(of.sum()), 1e-12))


def _key_of_chords(x: Array) -> tuple[str | None, float, str | None]:
    """The likeliest key of a sound at `_RATE`, how sure, and the next one."""
    chords, bass, clear = _chroma(_frames(x))
    if clear < _CLEAR_SHARE:
        return None, 0.0, None
    begins = max(1, round(_BEGINS_SHARE * chords.shape[1]))
    parts = (
        _share(chords.sum(axis=1)), _share(np.sqrt(chords).sum(axis=1)),
        _share(bass[:, :begins].sum(axis=1)), _share(chords[:, :begins].sum(axis=1)),
    )  # fmt: skip
    scores = []
    for mode, third, other in (("major", 4, 3), ("minor", 3, 4)):
        outside = 1 - _INSIDE[mode]
        for tonic in range(12):
            energy, root, low, first = (np.roll(one, -tonic) for one in parts)
            says = (
                energy @ outside, root @ outside, energy[[0, third, 7]].sum(), low[0],
                first[[0, third, 7]].sum(), min(energy[third] - energy[other], _MOST_THIRD),
                first[third] - first[other],
            )  # fmt: skip
            scores.append((float(_WEIGHTS @ says), tonic, mode))
    names, lead = _likeliest(scores)
    return names[0], min(1.0, lead / _SURE_LEAD), names[1]


def _in_tune(found: list[NoteFound]) -> bool:
    """Whether notes lie on one equal-tempered scale, whatever its tuning: speech does not."""
    turns = np.exp(2j * np.pi * np.array([note.midi for note in found]))
    return abs(complex(np.mean(turns))) > _TOGETHER_IN_TUNE


def _key_of_line(found: list[NoteFound]) -> tuple[str | None, float, str | None]:
    """The likeliest key of a line of one voice, how sure, and the next one.

    By how long each pitch class sounds, by what does not belong, and by what the line begins on and
    mostly holds. A line without a third leaves the mode open.
    """
    classes = np.array([round(note.midi) % 12 for note in found])
    lengths = np.array([note.length_ms for note in found])
    held = np.bincount(classes, lengths, 12) / max(float(lengths.sum()), 1e-9)
    first = classes[0]
    scores = []
    for mode, profile in (("major", _MAJOR), ("minor", _MINOR)):
        for tonic in range(12):
            fits = float(np.corrcoef(held, np.roll(profile, tonic))[0, 1])
            inside = np.roll([n in music.SCALES[mode] for n in range(12)], tonic)
            outside = float(held[~inside].sum())
            begins = _FIRST_NOTE * (first == tonic) + _HELD_NOTE * float(held[tonic])
            scores.append((fits - _OUTSIDE * outside + begins, tonic, mode))
    names, lead = _likeliest(scores)
    confidence = min(1.0, lead / _SURE_LINE_LEAD)
    _, tonic, _ = max(scores)
    minor_and_major = held[(tonic + 3) % 12] > 0, held[(tonic + 4) % 12] > 0
    if minor_and_major[0] == minor_and_major[1]:  # both, or none: the mode is anybody's guess
        confidence = min(confidence, _OPEN_MODE)
    return names[0], confidence, names[1]


def _likeliest(scores: list[tuple[float, int, str]]) -> tuple[list[str], float]:
    """The two keys with the highest scores, and how far the first is ahead."""
    first, second = sorted(scores, reverse=True)[:2]
    names = [str(music.Key(_spelled(tonic, mode), mode)) for _, tonic, mode in (first, second)]
    return names, first[0] - second[0]


def _spelled(tonic: int, mode: str) -> str:
    sharp, flat = music.SHARP_NAMES[tonic], music.FLAT_NAMES[tonic]
    return flat if sharp != flat and music.Key(flat, mode).flats and tonic != 6 else sharp


def key_of(x: Array, rate: int) -> tuple[str | None, float, str | None]:
    """The likeliest key of a loop, shape (frames,), how sure from 0 to 1, and the next one.

    Parameters
    ----------
    x, rate
        Samples, shape (frames,); frames a second.

    Returns
    -------
    tuple
        Both names and how sure; None where it has no clear tones.

    Examples
    --------
    >>> at = np.arange(2 * 48000) / 48000
    >>> chord = sum(np.sin(2 * np.pi * hz * at) for hz in (220.0, 261.63, 329.63))
    >>> key_of(chord, 48000)[0]
    'A minor'
    """
    line = transcribe(x, rate) if is_one_voice(x, rate) else []
    if len(line) >= _LEAST_NOTES and _in_tune(line):
        return _key_of_line(line)
    return _key_of_chords(change_rate(x, rate, _RATE))
