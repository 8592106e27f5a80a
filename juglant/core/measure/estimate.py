"""The note of a hit that settles to none: the strongest of its tones, and how sure that is."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import fft

from juglant.core.process.resampling import polyphase

Array = NDArray[np.float64]

LOWEST_HZ, HIGHEST_HZ = 28.0, 1000.0
# What is heard as the note of a drum: its first part after the attack.
_HEARD_S, _SKIPPED_S, _RATE = 0.3, 0.004, 4800
# A tone stands out of what lies within an octave around it by this much; noise reaches some 8 dB by chance.
_STANDS_OUT_DB = 13.0
# Two semitones to either side: the share of two octaves that makes a tone there (noise has 0.15), and
# the share of the whole hit below which it is not heard.
_BROAD, _MUCH_OF_IT, _LEAST_SHARE = 2 ** (2 / 12), 0.32, 0.005
_ONE_TONE = 2 ** (4 / 12)
# What is less sure than this, in cents, is told as this.
ABOUT_CENTS = 100.0
# Louder than the tone that lies lowest by less than this, a higher one is not taken for the note.
_LOW_FIRST_DB = 4.0
_CENTS = 1200 / np.log(2)
_OTHERS, _OTHERS_DB = 4, 26.0


@dataclass(frozen=True)
class Mode:
    """A tone in the first 300 ms: Hz, level re the strongest in dB, standard uncertainty in cents."""

    hz: float
    level_db: float
    sigma_cents: float


def _power(x: Array, size: int) -> Array:
    """Power spectrum of a decaying stretch: only its end is faded."""
    fade = np.ones(x.size)
    count = x.size // 2
    fade[x.size - count :] = 0.5 + 0.5 * np.cos(np.pi * np.arange(count) / count)
    return np.asarray(np.abs(fft.rfft(x * fade, size)) ** 2)


def _peak(power: Array, at: int) -> float:
    """The bin of a local maximum with its fraction: a parabola through logarithms."""
    left, here, right = np.log(np.maximum(power[at - 1 : at + 2], 1e-30))
    bend = left - 2 * here + right
    return at + (float(np.clip(0.5 * (left - right) / bend, -0.5, 0.5)) if bend < 0 else 0.0)


def _near(power: Array, around: float, reach: float) -> float:
    """The bin of the highest point within a ratio of another."""
    first, last = int(around / reach), int(np.ceil(around * reach)) + 1
    return _peak(power, first + int(np.argmax(power[first:last])))


def modes(x: Array, rate: int) -> list[Mode]:
    """The tones that stand out in a hit, shape (frames,), that begins at its onset: its note first.

    Empty for noise and silence.

    Parameters
    ----------
    x, rate
        Samples, shape (frames,); frames a second.

    Returns
    -------
    list of Mode
        Its note first.

    Examples
    --------
    >>> at = np.arange(24000) / 48000
    >>> skin = np.sin(2 * np.pi * 110 * at) * np.exp(-at / 0.2)
    >>> [round(one.hz) for one in modes(skin, 48000)][:1]
    [110]
    """
    factor = max(1, round(rate / _RATE))
    slow, fs = polyphase(x, 1, factor), rate / factor
    first = round(_SKIPPED_S * fs)
    piece = slow[first : first + round(_HEARD_S * fs)]
    if piece.size < 0.02 * fs or float(np.max(np.abs(piece))) < 1e-6:
        return []
    size = 1 << 15
    per_bin = fs / size
    power = _power(piece, size)
    low, high = round(LOWEST_HZ / per_bin), round(HIGHEST_HZ / per_bin)
    inside = power[low:high]
    tops = np.flatnonzero((inside[1:-1] > inside[:-2]) & (inside[1:-1] >= inside[2:])) + 1 + low
    if not tops.size:
        return []
    # The lobe of one tone is as wide as its window is short.
    lobe = round(2 * size / piece.size)
    sums = np.concatenate([[0.0], np.cumsum(power)])
    loudest = float(power[tops].max())
    # Energy in the units of the spectrum (Parseval), of all that the hit holds in that time.
    everything = x[: round((_SKIPPED_S + _HEARD_S) * rate)]
    whole = 0.5 * size * float(everything @ everything) * fs / rate
    found: list[tuple[float, int]] = []
    for at in map(int, tops[np.argsort(-power[tops], kind="stable")]):
        if power[at] < loudest * 10 ** (-_OTHERS_DB / 10) or len(found) > _OTHERS:
            break
        # One tone that sweeps has several tops, near each other.
        if any(abs(at - other) < lobe or max(at, other) < _ONE_TONE * min(at, other) for _, other in found):
            continue
        a, b = max(1, round(at / 2)), min(round(2 * at), power.size - 1)
        own_a, own_b = max(a, at - lobe), min(b, at + lobe)
        rest = sums[b] - sums[a] - (sums[own_b] - sums[own_a])
        mean = rest / max(b - a - (own_b - own_a), 1)
        # A tone that sweeps is broad, and yet most of what there is.
        around = sums[round(at * _BROAD)] - sums[round(at / _BROAD)]
        stands_out = power[at] > mean * 10 ** (_STANDS_OUT_DB / 10)
        if around > _LEAST_SHARE * whole and (stands_out or around > _MUCH_OF_IT * (sums[b] - sums[a])):
            found.append((float(power[at]), at))
    if not found:
        return []
    top = found[0][0]
    # Of tones that are about as strong the ear takes the lowest for the drum's note.
    found.sort(key=lambda one: (one[0] < top * 10 ** (-_LOW_FIRST_DB / 10), one[1]))
    return [
        Mode(_peak(power, at) * per_bin, 10 * float(np.log10(value / top)), _sigma(piece, at, size, power))
        for value, at in found
    ]


def _sigma(piece: Array, at: int, size: int, power: Array) -> float:
    """How far the tone moves between the halves of what is heard, and how broad it is."""
    centre = _peak(power, at)
    half = piece.size // 2
    moved = [_near(_power(part, size), centre, 1.19) for part in (piece[:half], piece[half:])]
    levels = [float(np.sum(part**2)) for part in (piece[:half], piece[half:])]
    apart = abs(_CENTS * np.log(moved[0] / moved[1]))
    weight = min(levels[1] / max(levels[0], 1e-30) * 4, 1.0)
    # Bins within 3 dB of the top: a tone that sweeps or dies at once is broad.
    level = power[at] * 0.5
    a = at
    while a > 1 and power[a] > level:
        a -= 1
    b = at
    while b < power.size - 1 and power[b] > level:
        b += 1
    width = _CENTS * np.log(max(b, 2) / max(a, 1))
    return float(np.hypot(0.25 * weight * apart, 0.06 * width) + 1.0)
