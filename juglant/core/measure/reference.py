"""Key, tempo and drum map of a loop of the user's own: proposals, each with its confidence."""

from dataclasses import asdict, dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy import fft

from juglant.core import tempo
from juglant.core.measure.drummap import KINDS, drum_map
from juglant.core.measure.keyfinding import key_of

Array = NDArray[np.float64]

_SILENT = 1e-4
_FLUX_HOP_S, _FLUX_FRAME_S, _FLUX_MOST_HZ = 0.005, 1024 / 48000, 24000.0
_SLOWEST_BPM, _FASTEST_BPM, _USUAL_BPM = 60.0, 200.0, 125.0
# What another tempo's beats can be to those found, where some of one last as long as some of the other.
_ALIKE = (0.75, 4 / 3, 1.5, 2 / 3, 1.25, 0.8)
# How much more evenly another tempo's sixteenths must lie, from 0 to 1, to be taken for it.
_MUCH_MORE_EVEN = 0.2
# And how much of the first one's strength it needs itself.
_COMES_BACK_SHARE = 0.4
# Nearer than this to whole bars, a loop's length is taken at its word.
_WHOLE_SHARE, _WHOLE_BONUS = 0.012, 1.25
LONGEST_S = 60.0


@dataclass(frozen=True)
class MapHit:
    """One onset on the grid: beat from 1 in its bar, how far off the nearest sixteenth, what is struck
    (kick, snare, hat, or other), and how hard, from 0 to 1: the hardest of them, and each.
    """

    at_ms: float
    bar: int
    beat: float
    off_ms: float
    kinds: list[str]
    velocity: float
    velocities: dict[str, float]


@dataclass(frozen=True)
class Reference:
    """What a loop seems to be; None with a reason where it does not say."""

    seconds: float
    bpm: float | None
    bpm_confidence: float
    key: str | None
    key_confidence: float
    other_key: str | None
    # Other tempos that it may be counted in, the likeliest first, and how sure each is.
    other_bpm: list[float]
    other_bpm_confidence: list[float]
    hits: list[MapHit]
    reasons: dict[str, str]

    def as_dict(self) -> dict[str, Any]:
        """Plain values."""
        return asdict(self)


def _flux(x: Array, rate: int) -> tuple[Array, float]:
    """How much louder each moment is than the last, over bands that share the ear's width; and the time
    in s from one to the next, of whole frames.
    """
    hop, frame = round(_FLUX_HOP_S * rate), round(_FLUX_FRAME_S * rate)
    pieces = np.lib.stride_tricks.sliding_window_view(np.pad(x, frame), frame)[::hop]
    size = np.abs(fft.rfft(pieces * np.hanning(frame), axis=1))
    size = size[:, : round(_FLUX_MOST_HZ * frame / rate) + 1]
    edges = np.unique(np.geomspace(1, size.shape[1], 25).astype(int))
    bands = np.log1p(1000 * np.add.reduceat(size, edges[:-1], axis=1))
    rise = np.maximum(np.diff(bands, axis=0), 0).sum(axis=1)
    slow = np.convolve(rise, np.ones(40) / 40, mode="same")
    return np.asarray(np.maximum(rise - slow, 0.0)), hop / rate


def _evenness(flux: Array, period: float) -> float:
    """How closely what begins keeps to a grid of one period, in hops, from 0 to 1."""
    turns = np.exp(2j * np.pi * np.arange(flux.size) / period)
    return abs(complex(flux @ turns)) / max(float(flux.sum()), 1e-12)


def _tempo(x: Array, rate: int) -> tuple[float | None, float, list[tuple[float, float]]]:
    """Tempo in BPM by the autocorrelation of the flux under a broad preference, and how sure.

    A loop of whole bars names its tempo by its length, as far as the two agree. Then half and double of
    it, and two thirds and three halves, each with how sure that would be, the likeliest first.
    """
    flux, hop_s = _flux(x, rate)
    seconds = x.size / rate
    if seconds < 1.0 or flux.max() <= 0:
        return None, 0.0, []
    auto = np.correlate(flux, flux, mode="full")[flux.size - 1 :]
    auto = auto / auto[0] / np.maximum(1 - np.arange(auto.size) / auto.size, 0.2)
    bpms = np.arange(_SLOWEST_BPM, _FASTEST_BPM, 0.1)

    def strength(bpm: Array) -> Array:
        lag = 60 / bpm / hop_s
        places = [np.interp(lag * k, np.arange(auto.size), auto, right=0.0) for k in (1, 2, 4, 0.5)]
        return np.asarray(places[0] + 0.7 * places[1] + 0.7 * places[2] + 0.4 * places[3])

    prefer = np.exp(-0.5 * (np.log2(bpms / _USUAL_BPM) / 0.55) ** 2)
    # Loops are cut to whole bars, mostly to a power of two of them.
    bars = seconds * bpms / 240
    whole = np.exp2(np.round(np.log2(np.maximum(bars, 0.5))))
    likely = prefer * np.where(np.abs(bars / whole - 1) < _WHOLE_SHARE, _WHOLE_BONUS, 1.0)
    raw = strength(bpms)
    usual = float(np.median(raw))
    at = int(np.argmax(raw * likely))

    def around(bpm: float) -> float:
        return float(strength(bpm * np.linspace(0.99, 1.01, 9)).max())

    def sure(bpm: float) -> float:
        return float(np.clip((around(bpm) - usual) / 1.2, 0.0, 1.0))

    # Three of one tempo's beats last as long as four of another's: sixteenths tell which of them it is,
    # among those in whose beats the loop comes back at all.
    first = float(bpms[at])
    alike = [first, *(first * ratio for ratio in _ALIKE if _SLOWEST_BPM <= first * ratio <= _FASTEST_BPM)]
    even = [
        _evenness(flux, 15 / bpm / hop_s) - (_MUCH_MORE_EVEN if n else 0.0) for n, bpm in enumerate(alike)
    ]
    found = max(
        (n for n in range(len(alike)) if n == 0 or around(alike[n]) >= _COMES_BACK_SHARE * raw[at]),
        key=lambda n: even[n],
    )
    best, confidence = _whole_bars(alike[found], seconds), sure(alike[found])
    others = []
    for ratio in (0.5, 2.0, 0.75, 4 / 3, 2 / 3, 1.5):
        bpm = best * ratio
        if _SLOWEST_BPM <= bpm <= _FASTEST_BPM + 20:
            others.append((bpm, min(sure(bpm), confidence)))
    return best, confidence, sorted(others, key=lambda one: -one[1])[:3]


def _whole_bars(bpm: float, seconds: float) -> float:
    """The tempo at which a loop lasts whole bars, where that is next to the one found; else this."""
    count = round(seconds * bpm / 240)
    exact = 240 * count / seconds
    return exact if count >= 1 and abs(exact / bpm - 1) < _WHOLE_SHARE else bpm


def _drum_map(x: Array, rate: int, bpm: float) -> list[MapHit]:
    """Strokes on the grid, and what is struck at each; an onset that is no drum is told as “other”."""
    beat = tempo.beat_ms(bpm)
    out = []
    for one in drum_map(x, rate):
        sixteenth = round(one.at_ms / beat * 4)
        off = one.at_ms - sixteenth * beat / 4
        kinds = [kind for kind in KINDS if kind in one.velocities] or ["other"]
        velocity = max(one.velocities.values(), default=0.0)
        out.append(
            MapHit(
                one.at_ms, sixteenth // 16 + 1, 1 + (sixteenth % 16) / 4, off, kinds, velocity,
                one.velocities,
            )
        )  # fmt: skip
    return out


def reference(x: Array, rate: int) -> Reference:
    """What a loop, shape (frames,), seems to be; only its first minute is looked at.

    Parameters
    ----------
    x, rate
        Samples, shape (frames,); frames a second.

    Returns
    -------
    Reference
        Tempo, key and hits, each with its confidence; None where it is not told.

    Examples
    --------
    >>> at = np.arange(24000) / 48000
    >>> kick = np.sin(2 * np.pi * 55 * at) * np.exp(-at / 0.1)
    >>> reference(np.tile(kick, 16), 48000).bpm
    120.0
    """
    x = x[: round(LONGEST_S * rate)]
    seconds = x.size / rate
    if x.size < rate // 2 or float(np.sqrt(np.mean(x * x))) < _SILENT:
        why = "the loop is silent" if x.size >= rate // 2 else "the loop is shorter than half a second"
        return Reference(seconds, None, 0.0, None, 0.0, None, [], [], [], {"bpm": why, "key": why})
    reasons: dict[str, str] = {}
    bpm, bpm_confidence, others = _tempo(x, rate)
    if bpm is None or bpm_confidence < 0.15:
        reasons["bpm"], bpm, others = "nothing in it comes back evenly", None, []
    key, key_confidence, other = key_of(x, rate)
    if key is None or key_confidence < 0.05:
        reasons["key"] = "it favours no key" if key else "it has no clear tones"
        key, other = None, None
    hits = _drum_map(x, rate, bpm) if bpm is not None else []
    return Reference(
        seconds, bpm, bpm_confidence, key, key_confidence, other, [one for one, _ in others],
        [sure for _, sure in others], hits, reasons,
    )  # fmt: skip
