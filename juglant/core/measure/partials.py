"""The clear tones of a sound, for what has more than one pitch."""

from dataclasses import asdict, dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy import fft

from juglant.core import music
from juglant.core.process.resampling import polyphase

Array = NDArray[np.float64]

_LOWEST_HZ, _HIGHEST_HZ = 25.0, 6000.0
_SKIP_S, _LONGEST_S = 0.01, 0.8
# A partial rises this far over what lies around it (noise alone reaches some 9 dB over its own
# median), and is no weaker than this re the strongest.
_CLEAR_DB, _FAINTEST_DB = 15.0, -36.0
_AROUND_HZ, _AROUND_SHARE = 40.0, 0.2
MOST_PARTIALS = 8
# A ratio to the lowest within this of a whole number is harmonic.
_HARMONIC = 0.015


@dataclass(frozen=True)
class Partial:
    """One clear tone; `level_db` re the strongest, `ratio` to the lowest."""

    hz: float
    note: str
    cents: float
    level_db: float
    ratio: float
    harmonic: bool

    def as_dict(self) -> dict[str, Any]:
        """Plain values."""
        return asdict(self)


def _middle(values: Array) -> float:
    """Upper median: numpy's own spends most of its time on what cannot be here."""
    half = values.size // 2
    return float(np.partition(values, half)[half])


def blackman_harris(count: int) -> Array:
    """The four-term window of that name, -92 dB (F. J. Harris, Proc. IEEE 66(1), 1978).

    As scipy's, without waiting for the whole of its signal package to load; so are the peaks below.

    Parameters
    ----------
    count
        How many points.

    Returns
    -------
    ndarray
        Shape (count,).

    Examples
    --------
    >>> blackman_harris(5).round(3)
    array([0.   , 0.217, 1.   , 0.217, 0.   ])
    """
    turn = 2 * np.pi * np.arange(count) / max(count - 1, 1)
    terms = (0.35875, -0.48829, 0.14128, -0.01168)
    return np.asarray(sum(share * np.cos(n * turn) for n, share in enumerate(terms)))


def peaks_apart(level: Array, distance: int) -> NDArray[np.intp]:
    """Where `level`, shape (bins,), is higher than on both sides; of peaks nearer to each other than
    `distance` the higher one.

    Parameters
    ----------
    level
        Any, shape (bins,).
    distance
        In bins.

    Returns
    -------
    ndarray of int
        Bins.

    Examples
    --------
    >>> peaks_apart(np.array([0.0, 3.0, 0.0, 2.0, 0.0, 0.0, 5.0, 0.0]), 3)
    array([1, 6])
    """
    inner = level[1:-1]
    found = 1 + np.flatnonzero((inner > level[:-2]) & (inner > level[2:]))
    kept = np.ones(found.size, dtype=bool)
    for n in np.argsort(level[found])[::-1]:
        if kept[n]:
            first, last = np.searchsorted(found, (found[n] - distance + 1, found[n] + distance))
            kept[first:last] = False
            kept[n] = True
    return found[kept]


def partials(
    x: Array, rate: int, onset_ms: float, a4_hz: float = 440.0, flats: bool = False
) -> list[Partial]:
    """The strongest clear tones of `x`, shape (frames,), after the onset; the lowest first.

    Peaks of one long windowed spectrum, placed between its bins by a parabola through their
    levels (any text on spectral estimation). Empty where nothing stands out.

    Parameters
    ----------
    x, rate
        Samples, shape (frames,); frames a second.
    onset_ms
        Where the sound begins.
    a4_hz
        Tuning reference.
    flats
        Whether notes are spelled with flats.

    Returns
    -------
    list of Partial
        The lowest first.

    Examples
    --------
    >>> at = np.arange(48000) / 48000
    >>> x = (np.sin(2 * np.pi * 80 * at) + 0.5 * np.sin(2 * np.pi * 210 * at)) * np.exp(-at / 0.4)
    >>> [round(one.hz) for one in partials(x, 48000, 0.0)]
    [80, 210]
    """
    begin = round((onset_ms / 1000 + _SKIP_S) * rate)
    piece = x[begin : begin + round(_LONGEST_S * rate)]
    if piece.size < rate // 50 or not np.any(piece):
        return []
    thin = max(1, int(rate // (2.5 * _HIGHEST_HZ)))
    piece, fs = polyphase(piece, 1, thin), rate / thin
    size = fft.next_fast_len(4 * piece.size, real=True)
    power = np.abs(fft.rfft(piece * blackman_harris(piece.size), size)) ** 2
    level = 10 * np.log10(np.maximum(power, 1e-12 * power.max()))
    step = fs / size
    top = min(level.size - 2, round(_HIGHEST_HZ / step))
    apart = max(1, round(4 * fs / piece.size / step))
    peaks = peaks_apart(level[: top + 1], apart)
    found: list[tuple[float, float]] = []
    for at in peaks[level[peaks] > level[peaks].max(initial=-300.0) + _FAINTEST_DB]:
        hz = at * step
        wide = round(max(_AROUND_HZ, _AROUND_SHARE * hz) / step)
        beside = level[max(0, at - wide) : at + wide + 1]
        if hz < _LOWEST_HZ or level[at] - _middle(beside) < _CLEAR_DB:
            continue
        left, middle, right = level[at - 1 : at + 2]
        off = 0.5 * (left - right) / (left - 2 * middle + right)
        found.append((float(at + off) * step, float(middle - 0.25 * (left - right) * off)))
    strongest = sorted(found, key=lambda one: -one[1])[:MOST_PARTIALS]
    out = []
    for hz, db in sorted(strongest):
        ratio = hz / min(one[0] for one in strongest)
        near = music.nearest_note(hz, a4_hz, flats)
        harmonic = bool(abs(ratio / max(round(ratio), 1) - 1) < _HARMONIC)
        out.append(Partial(hz, near.note, near.cents, db - strongest[0][1], ratio, harmonic))
    return out
