"""Key, tempo and drum map of a loop of the user's own: proposals, each with its confidence."""

from dataclasses import asdict, dataclass
from typing import Any

import numpy as np
import scipy
from numpy.typing import NDArray
from scipy import fft

from juglant.core import music
from juglant.core.process.resampling import change_rate

Array = NDArray[np.float64]

# Probe-tone profiles of Krumhansl & Kessler, Psychological Review 89, 1982, from the tonic up;
# values from memory.
_MAJOR = (6.35, 2.23, 3.48, 2.33, 4.38, 4.09, 2.52, 5.19, 2.39, 3.66, 2.29, 2.88)
_MINOR = (6.33, 2.68, 3.52, 5.38, 2.60, 3.53, 2.54, 4.75, 3.98, 2.69, 3.34, 3.17)
_RATE, _FRAME, _HOP = 11025, 8192, 2048
_LOW_HZ, _HIGH_HZ, _BASS_HZ = 55.0, 2000.0, 220.0
# How much the bass, and what it begins on, weigh beside all that sounds: loops mostly begin on
# the tonic (common practice), which is all that tells a key from its relative.
_BASS_WEIGHT, _FIRST_WEIGHT = 0.2, 0.5
# A lead of this much correlation makes a key as good as certain.
_SURE_LEAD = 0.08
_SILENT = 1e-4
_FLUX_HOP_S = 0.005
_SLOWEST_BPM, _FASTEST_BPM, _USUAL_BPM = 60.0, 200.0, 125.0
# Bands of the drum map, the lowest first; a hit rises by this in one of them, to within this of
# the band's loudest moment.
_MAP_BANDS_HZ = {"low": (30.0, 130.0), "mid": (200.0, 2500.0), "high": (5000.0, 16000.0)}
_RISE_DB, _QUIETEST_DB, _TOGETHER_MS = 6.0, 18.0, 30.0
# Less than this share of what sounds in clear tones is no harmony.
_CLEAR_SHARE = 0.3
# Nearer than this to whole bars, a loop's length is taken at its word.
_WHOLE_SHARE, _WHOLE_BONUS = 0.012, 1.25
LONGEST_S = 60.0


@dataclass(frozen=True)
class MapHit:
    """One onset on the grid: beat from 1 in its bar, how far off the nearest sixteenth, and what
    it mostly is.
    """

    at_ms: float
    bar: int
    beat: float
    off_ms: float
    kind: str
    level_db: float


@dataclass(frozen=True)
class Reference:
    """What a loop seems to be; None with a reason where it does not say."""

    seconds: float
    bpm: float | None
    bpm_confidence: float
    key: str | None
    key_confidence: float
    other_key: str | None
    hits: list[MapHit]
    reasons: dict[str, str]

    def as_dict(self) -> dict[str, Any]:
        """Plain values."""
        return asdict(self)


def _chroma(power: Array, hz: Array, low_hz: float, high_hz: float) -> tuple[Array, float]:
    """Energy per pitch class, shape (12, frames), of the peaks between two frequencies, and the
    share of what sounds there that they are.

    Only local peaks count, so that a drum's spectrum gives little; the root of their power keeps
    one loud note from being all that is heard.
    """
    inside = (hz >= low_hz) & (hz <= high_hz)
    level = np.sqrt(power)
    peak = np.zeros_like(level, dtype=bool)
    peak[1:-1] = (level[1:-1] > level[:-2]) & (level[1:-1] >= level[2:])
    around = scipy.signal.medfilt(level, (31, 1)) if level.shape[0] > 31 else 0 * level
    clear = np.where(peak & (level > 3 * around) & inside[:, None], level, 0.0)
    out = np.zeros((12, power.shape[1]))
    midi = 69 + 12 * np.log2(np.maximum(hz, 1.0) / 440)
    off = np.abs(midi - np.round(midi))
    weight = np.where(inside, np.maximum(0.0, 1 - 2 * off), 0.0)
    np.add.at(out, np.round(midi).astype(int) % 12, clear * weight[:, None])
    peaks = clear + np.roll(clear, 1, 0) + np.roll(clear, -1, 0)
    heard = float(level[inside].sum())
    return out, float(np.minimum(peaks, 2 * level)[inside].sum()) / max(heard, 1e-12)


def _frames(x: Array) -> tuple[Array, Array]:
    """Power spectra, shape (bins, frames), and the frequencies of the bins."""
    padded = np.pad(x, (0, max(0, _FRAME - x.size)))
    pieces = np.lib.stride_tricks.sliding_window_view(padded, _FRAME)[::_HOP]
    power = np.abs(fft.rfft(pieces * np.hanning(_FRAME), axis=1)).T ** 2
    return np.asarray(power), np.asarray(np.fft.rfftfreq(_FRAME, 1 / _RATE))


def _key(x: Array) -> tuple[str | None, float, str | None]:
    """The likeliest key, how sure, and the next one: profiles correlated with the chroma."""
    power, hz = _frames(x)
    # Two octaves below their bins' width the low notes of a chord are told by their overtones.
    notes, clear = _chroma(power, hz, 2 * _LOW_HZ, _HIGH_HZ)
    whole, bass = notes.sum(axis=1), _chroma(power, hz, _LOW_HZ, _BASS_HZ)[0]
    if whole.sum() <= 0 or clear < _CLEAR_SHARE:
        return None, 0.0, None
    first = bass[:, : max(1, bass.shape[1] // 8)].sum(axis=1)

    def share(part: Array) -> Array:
        return part / max(float(part.sum()), 1e-12)

    heard = share(whole) + _BASS_WEIGHT * share(bass.sum(axis=1)) + _FIRST_WEIGHT * share(first)
    scores = []
    for mode, profile in (("major", _MAJOR), ("minor", _MINOR)):
        for tonic in range(12):
            scores.append((float(np.corrcoef(heard, np.roll(profile, tonic))[0, 1]), tonic, mode))
    scores.sort(reverse=True)
    names = [str(music.Key(_spelled(tonic, mode), mode)) for _, tonic, mode in scores[:2]]
    lead = scores[0][0] - scores[1][0]
    flat = float(np.std(share(whole)) * 12)
    confidence = min(1.0, lead / _SURE_LEAD) * min(1.0, max(scores[0][0], 0.0) / 0.7) * min(1.0, flat / 0.4)
    return names[0], confidence, names[1]


def _spelled(tonic: int, mode: str) -> str:
    sharp, flat = music.SHARP_NAMES[tonic], music.FLAT_NAMES[tonic]
    return flat if sharp != flat and music.Key(flat, mode).flats and tonic != 6 else sharp


def _flux(x: Array, rate: int) -> Array:
    """How much louder each moment is than the last, over bands that share the ear's width."""
    hop, frame = round(_FLUX_HOP_S * rate), 1024
    pieces = np.lib.stride_tricks.sliding_window_view(np.pad(x, frame), frame)[::hop]
    size = np.abs(fft.rfft(pieces * np.hanning(frame), axis=1))
    edges = np.unique(np.geomspace(1, size.shape[1], 25).astype(int))
    bands = np.log1p(1000 * np.add.reduceat(size, edges[:-1], axis=1))
    rise = np.maximum(np.diff(bands, axis=0), 0).sum(axis=1)
    slow = np.convolve(rise, np.ones(40) / 40, mode="same")
    return np.asarray(np.maximum(rise - slow, 0.0))


def _tempo(x: Array, rate: int) -> tuple[float | None, float]:
    """Tempo in BPM by the autocorrelation of the flux under a broad preference, and how sure.

    A loop of whole bars names its tempo by its length, as far as the two agree.
    """
    flux = _flux(x, rate)
    seconds = x.size / rate
    if seconds < 1.0 or flux.max() <= 0:
        return None, 0.0
    auto = np.correlate(flux, flux, mode="full")[flux.size - 1 :]
    auto = auto / auto[0] / np.maximum(1 - np.arange(auto.size) / auto.size, 0.2)
    bpms = np.arange(_SLOWEST_BPM, _FASTEST_BPM, 0.1)

    def strength(bpm: Array) -> Array:
        lag = 60 / bpm / _FLUX_HOP_S
        places = [np.interp(lag * k, np.arange(auto.size), auto, right=0.0) for k in (1, 2, 4, 0.5)]
        return np.asarray(places[0] + 0.7 * places[1] + 0.7 * places[2] + 0.4 * places[3])

    prefer = np.exp(-0.5 * (np.log2(bpms / _USUAL_BPM) / 0.55) ** 2)
    # Loops are cut to whole bars, mostly to a power of two of them.
    bars = seconds * bpms / 240
    whole = np.exp2(np.round(np.log2(np.maximum(bars, 0.5))))
    likely = prefer * np.where(np.abs(bars / whole - 1) < _WHOLE_SHARE, _WHOLE_BONUS, 1.0)
    raw = strength(bpms)
    at = int(np.argmax(raw * likely))
    confidence = float(np.clip((raw[at] - float(np.median(raw))) / 1.2, 0.0, 1.0))
    best = float(bpms[at])
    count = round(seconds * best / 240)
    if count >= 1 and abs(240 * count / seconds / best - 1) < _WHOLE_SHARE:
        best = 240 * count / seconds
    return best, confidence


def _band_onsets(x: Array, rate: int, low_hz: float, high_hz: float) -> list[tuple[float, float]]:
    """When a band of `x` rises sharply, in ms, and its level then: peaks in its log level's rise."""
    sections = scipy.signal.butter(
        2, [low_hz, min(high_hz, 0.45 * rate)], "bandpass", fs=rate, output="sos"
    )
    hop = round(0.002 * rate)
    banded = scipy.signal.sosfilt(sections, x)
    power = np.add.reduceat(banded * banded, np.arange(0, x.size, hop)) / hop
    level = 10 * np.log10(np.maximum(power, 1e-9 * max(float(power.max()), 1e-12)))
    # The level of the best of the next 30 ms against the best of the 30 ms before.
    wide = 15
    padded = np.concatenate([np.full(wide, level.min()), level, np.full(wide, level.min())])
    windows = np.lib.stride_tricks.sliding_window_view(padded, wide).max(axis=1)
    after, before = windows[wide : wide + level.size], windows[: level.size]
    rise = np.where(after > level.max() - _QUIETEST_DB, after - before, 0.0)
    peaks, _ = scipy.signal.find_peaks(
        np.concatenate([[0.0], rise]), height=_RISE_DB, distance=round(0.06 / 0.002)
    )
    found = []
    for peak in peaks - 1:
        # Where the level is half way up: the rise itself is a plateau as wide as its windows.
        half = 0.5 * (before[peak] + after[peak])
        around = np.arange(max(0, peak - wide), min(level.size, peak + wide))
        above = around[level[around] >= half]
        found.append((float(above[0] if above.size else peak) * hop / rate * 1000, float(after[peak])))
    return found


def _drum_map(x: Array, rate: int, bpm: float) -> list[MapHit]:
    """Onsets of three bands on the grid; what rises in several is called by the lowest of them."""
    beat = music.beat_ms(bpm)
    found: list[tuple[float, float, str]] = []
    for kind, band in _MAP_BANDS_HZ.items():
        for at, level in _band_onsets(x, rate, *band):
            if all(abs(at - other) > _TOGETHER_MS for other, _, _ in found):
                found.append((at, level, kind))
    top = max((level for _, level, _ in found), default=0.0)
    out = []
    for at, level, kind in sorted(found):
        sixteenth = round(at / beat * 4)
        off = at - sixteenth * beat / 4
        out.append(MapHit(at, sixteenth // 16 + 1, 1 + (sixteenth % 16) / 4, off, kind, level - top))
    return out


def reference(x: Array, rate: int) -> Reference:
    """What a loop, shape (frames,), seems to be; only its first minute is looked at."""
    x = x[: round(LONGEST_S * rate)]
    seconds = x.size / rate
    if x.size < rate // 2 or float(np.sqrt(np.mean(x * x))) < _SILENT:
        why = "the loop is silent" if x.size >= rate // 2 else "the loop is shorter than half a second"
        return Reference(seconds, None, 0.0, None, 0.0, None, [], {"bpm": why, "key": why})
    reasons: dict[str, str] = {}
    bpm, bpm_confidence = _tempo(x, rate)
    if bpm is None or bpm_confidence < 0.15:
        reasons["bpm"], bpm = "nothing in it comes back evenly", None
    key, key_confidence, other = _key(change_rate(x, rate, _RATE))
    if key is None or key_confidence < 0.05:
        reasons["key"] = "it favours no key" if key else "it has no clear tones"
        key, other = None, None
    hits = _drum_map(x, rate, bpm) if bpm is not None else []
    return Reference(seconds, bpm, bpm_confidence, key, key_confidence, other, hits, reasons)
