"""The tail of a hit, made ready to be fitted: decimated, with its envelope, noise and first guesses."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import fft, ndimage

from juglant.core.process.resampling import polyphase

Array = NDArray[np.float64]

# The range in which a fundamental is looked for, and the rate that suffices for it; sounds
# that lie higher are measured the same way with every time divided by `scale`.
LOWEST_HZ, _HIGHEST_HZ, _COARSE_HZ = 18.0, 420.0, 3000.0
_SCALES = (1.0, 7.0)
# Without energy below this a sound is taken to lie higher; both scales reach well across it.
_SPLIT_HZ = 300.0
_FFT = 4096
# A fall that bends to less than this share of itself, not further down than so, whose periods then
# differ by so much, has gone over into a room; it is left alone so far above the bend.
_BENT, _DEEPEST_KNEE_DB, _ROUGH_CENTS, _CLEAR_OF_ROOM_DB = 0.6, 55.0, 12.0, 3.0
# Noise does not fall; the longest room that is looked for falls by 60 dB in some six seconds.
_LEAST_FALL_DB_S = -10.0
# An octave below that is weaker than this share of the tone is none.
_FAINT = 0.1


@dataclass(frozen=True)
class Tail:
    """The low end of a hit, decimated, with its envelope and its noise (both linear)."""

    samples: Array
    envelope: Array
    rate: float
    noise: float
    peak_s: float
    end_s: float
    scale: float


def _before_fade(power: Array, fs: float, top: int, end: int, scale: float) -> int:
    """Where a closing fade begins, or `end`: the fade's shape is not the decay's.

    A fade is a last stretch, at most a third of the tail, that falls more than three times
    as fast as the tail does in its middle.
    """
    hop = max(1, int(0.004 * fs / scale))
    level = 10 * np.log10(power[top:end:hop])
    fall = -np.diff(level)
    if fall.size < 12:
        return end
    usual = max(float(np.median(fall[fall.size // 5 : 2 * fall.size // 3])), 0.02)
    calm = np.flatnonzero(fall[2 * fall.size // 3 :] <= 3 * usual)
    first = 2 * fall.size // 3 + (int(calm[-1]) + 1 if calm.size else 0)
    return end if first == fall.size else top + max(first - 1, 1) * hop


def _room_from(y: Array, power: Array, fs: float, top: int, end: int, scale: float) -> int | None:
    """Where a room takes over from a hit: its fall bends to a slower one, in which no steady tone is left.

    None where there is no such bend; a sustain bends too, and goes on steadily.
    """
    hop = max(1, int(0.004 * fs / scale))
    level = 10 * np.log10(power[top:end:hop])
    first = int(np.argmax(level < level[0] - 3.0))
    if level.size - first < 20 or not first:
        return None
    at = np.arange(level.size, dtype=float)
    best, least = 0, np.inf
    slopes = (0.0, 0.0)
    for k in range(first + 6, level.size - 8, max(2, level.size // 30)):
        fits = [np.polyfit(at[part], level[part], 1) for part in (slice(first, k), slice(k, None))]
        error = sum(
            float(np.sum((np.polyval(fit, at[part]) - level[part]) ** 2))
            for fit, part in zip(fits, (slice(first, k), slice(k, None)), strict=True)
        )
        if error < least:
            best, least, slopes = k, error, (float(fits[0][0]), float(fits[1][0]))
    if slopes[0] >= 0 or not _BENT * slopes[0] < slopes[1] < _LEAST_FALL_DB_S * hop / fs:
        return None
    knee = top + best * hop
    if level[best] < level[0] - _DEEPEST_KNEE_DB or _steadiness_cents(y[knee:end], fs) < _ROUGH_CENTS:
        return None
    # The last decibels before the bend are both.
    before = np.flatnonzero(level[: best + 1] > level[best] + _CLEAR_OF_ROOM_DB)
    return top + int(before[-1]) * hop if before.size and before[-1] > first + 4 else None


def _steadiness_cents(y: Array, fs: float) -> float:
    """How far the periods of a stretch lie from their median, on average."""
    up = np.flatnonzero((y[1:] > 0) & (y[:-1] <= 0))
    if up.size < 5:
        return 0.0
    at = up + y[up] / (y[up] - y[up + 1])
    cycle = np.diff(at)
    return float(np.mean(np.abs(1200 * np.log2(cycle / np.median(cycle)))))


def prepare(y: Array, fs: float, scale: float, *, before_room: bool = False) -> Tail | None:
    """Envelope, noise and useful length of what `scaled_down` gives; None where too little is left.

    With `before_room` only what lies before a room takes over; None where none does.

    Parameters
    ----------
    y
        Samples at the coarse rate, shape (frames,).
    fs
        That rate in Hz.
    scale
        By how much the sound was scaled.
    before_room
        Whether only what lies before the room takes over counts.

    Returns
    -------
    Tail or None
        None where too little is left.

    Examples
    --------
    >>> at = np.arange(48000) / 48000
    >>> x = np.sin(2 * np.pi * 55 * at) * np.exp(-at / 0.3)
    >>> tail = prepare(*scaled_down(x, 48000))
    >>> round(tail.peak_s, 2)
    0.02
    """
    peak = float(np.max(np.abs(y))) if y.size else 0.0
    if peak < 1e-7 or y.size < 64:
        return None
    y = y / peak
    smooth = 0.008 * fs / scale
    power = np.maximum(ndimage.gaussian_filter1d(y * y, smooth, mode="constant", truncate=3), 1e-14)
    top = int(np.argmax(power))
    # White noise from the fourth difference, in which a low tone all but vanishes; its
    # coefficients 1 -4 6 -4 1 have the square sum 70.
    rough = np.diff(y, n=4) ** 2 / 70
    quiet = ndimage.uniform_filter1d(rough, max(8, int(0.03 * fs / scale)))[top:]
    noise = float(np.sqrt(max(float(np.percentile(quiet, 30)) if quiet.size else 0.0, 1e-16)))
    useful = np.nonzero(power > max(2 * noise**2, power[top] * 1e-6))[0]
    end = (_before_fade(power, fs, top, int(useful[-1]) + 1, scale) if useful.size else 0) / fs
    if end - top / fs < 0.02 / scale:
        return None
    if before_room:
        knee = _room_from(y, power, fs, top, int(end * fs), scale)
        if knee is None:
            return None
        end, noise = knee / fs, max(noise, float(np.sqrt(power[knee])))
    return Tail(y, np.sqrt(2 * power), fs, noise, top / fs, end, scale)


def slower(tail: Tail, hz: float) -> Tail:
    """The same tail at about twelve samples per cycle of `hz`, which is all the fit needs.

    Parameters
    ----------
    tail
        What rings.
    hz
        The tone that is looked for.

    Returns
    -------
    Tail
        The same, at a lower rate.

    Examples
    --------
    >>> at = np.arange(48000) / 48000
    >>> x = np.sin(2 * np.pi * 55 * at) * np.exp(-at / 0.3)
    >>> tail = prepare(*scaled_down(x, 48000))
    >>> slower(tail, 55.0).rate < tail.rate
    True
    """
    factor = max(1, int(tail.rate / max(12 * hz, 450.0 * tail.scale)))
    noise = tail.noise / np.sqrt(factor)
    # The noise's own share of the envelope is taken out, or the late tail seems to swell.
    clean = np.sqrt(np.maximum(tail.envelope**2 - 2 * tail.noise**2, 0.1 * noise**2))
    return Tail(
        polyphase(tail.samples, 1, factor), clean[::factor].copy(), tail.rate / factor,
        noise, tail.peak_s, tail.end_s, tail.scale,
    )  # fmt: skip


def _spectral_peak(tail: Tail, start_s: float) -> float:
    a, b = int(start_s * tail.rate), int(tail.end_s * tail.rate)
    level = np.hypot(tail.envelope[a:b], 4 * tail.noise)
    piece = tail.samples[a:b] / level
    taper = np.hanning(piece.size + 2)[1:-1]
    piece = (piece - np.sum(piece * taper) / np.sum(taper)) * taper
    size = fft.next_fast_len(max(_FFT, piece.size), real=True)
    spectrum = np.abs(fft.rfft(piece, size))
    limits = (LOWEST_HZ * tail.scale, _HIGHEST_HZ * tail.scale)
    low, high = (int(hz * size / tail.rate) for hz in limits)
    return float((low + int(np.argmax(spectrum[low:high]))) * tail.rate / size)


def candidates_hz(tail: Tail) -> list[float]:
    """Frequencies the tail may settle to, from spectra that begin ever later in the decay.

    Parameters
    ----------
    tail
        What rings.

    Returns
    -------
    list of float
        Hz.

    Examples
    --------
    >>> at = np.arange(48000) / 48000
    >>> x = np.sin(2 * np.pi * 55 * at) * np.exp(-at / 0.3)
    >>> tail = prepare(*scaled_down(x, 48000))
    >>> round(candidates_hz(tail)[0])
    55
    """
    slow = slower(tail, _HIGHEST_HZ * tail.scale / 6)
    level = 20 * np.log10(slow.envelope / slow.envelope.max())
    first = int(slow.peak_s * slow.rate)
    found: list[float] = []
    for drop in (0.0, -6.0, -12.0, -20.0, -30.0):
        above = np.nonzero(level[first:] >= drop)[0]
        start = slow.peak_s + (above[-1] if drop < 0 and above.size else 0) / slow.rate
        if slow.end_s - start < 0.03 / tail.scale:
            break
        hz = _spectral_peak(slow, start)
        if all(abs(np.log(hz / other)) > 0.06 for other in found):
            found.append(hz)
    return found


def sounds_below(tail: Tail, hz: float, times: int = 2) -> bool:
    """Whether anything at all sounds where a tone of the tail would be a harmonic: `times` below.

    Parameters
    ----------
    tail
        What rings.
    hz
        A tone of it.
    times
        How many times lower is looked.

    Returns
    -------
    bool
        Whether it sounds.

    Examples
    --------
    >>> at = np.arange(48000) / 48000
    >>> x = np.sin(2 * np.pi * 55 * at) * np.exp(-at / 0.3)
    >>> tail = prepare(*scaled_down(x, 48000))
    >>> sounds_below(tail, 55.0)
    False
    """
    a, b = int(tail.peak_s * tail.rate), int(tail.end_s * tail.rate)
    piece = tail.samples[a:b]
    spectrum = np.abs(fft.rfft(piece * np.hanning(piece.size + 2)[1:-1], max(_FFT, piece.size)))
    per_hz = (spectrum.size - 1) / (tail.rate / 2)

    reach = 0.4 / times

    def most(around_hz: float) -> float:
        low, high = int(around_hz * (1 - reach) * per_hz), int(around_hz * (1 + reach) * per_hz) + 1
        return float(np.max(spectrum[low:high], initial=0.0))

    return most(hz / times) > _FAINT * most(hz)


def _evened_power(tail: Tail, start_s: float) -> tuple[Array, Array, float]:
    """Power spectrum of the tail from `start_s` on with its decay taken out, its frequencies in Hz,
    and how far a steady tone's main lobe reaches to either side (Hann taper: two cycles per length).
    """
    a, b = int(start_s * tail.rate), int(tail.end_s * tail.rate)
    level = np.hypot(tail.envelope[a:b], 4 * tail.noise)
    piece = tail.samples[a:b] / level * np.hanning(b - a + 2)[1:-1]
    size = fft.next_fast_len(4 * piece.size, real=True)
    power = np.abs(fft.rfft(piece, size)) ** 2
    at_hz = np.arange(power.size) * tail.rate / size
    power[at_hz < LOWEST_HZ * tail.scale] = 0.0
    return power, at_hz, 2 * tail.rate / max(piece.size, 1)


def inharmonic_share(tail: Tail, hz: float, start_s: float) -> float:
    """Share of the tail's energy from `start_s` on that lies off the harmonics of a steady tone.

    What noise would leave by chance between the harmonics is allowed for: noise alone gives 1.

    Parameters
    ----------
    tail
        What rings.
    hz
        The steady tone.
    start_s
        From when on.

    Returns
    -------
    float
        Share of the energy, 0 to 1.

    Examples
    --------
    >>> at = np.arange(48000) / 48000
    >>> x = np.sin(2 * np.pi * 55 * at) * np.exp(-at / 0.3)
    >>> tail = prepare(*scaled_down(x, 48000))
    >>> round(inharmonic_share(tail, 55.0, 0.05), 1)
    0.0
    """
    power, at_hz, reach_hz = _evened_power(tail, start_s)
    nearest = np.maximum(np.round(at_hz / hz), 1.0)
    on = np.abs(at_hz - nearest * hz) < reach_hz + 0.002 * nearest * hz
    by_chance = float(np.mean(on))
    share = float(np.sum(power[on])) / max(float(np.sum(power)), 1e-30)
    return float(np.clip((1 - share) / max(1 - by_chance, 1e-3), 0.0, 1.0)) if by_chance < 0.7 else 1.0


def rival(tail: Tail, hz: float, start_s: float) -> tuple[float, float]:
    """The strongest tone of the tail from `start_s` on that is no harmonic of `hz`: its Hz, and its
    level in dB against the tone at `hz`.

    Parameters
    ----------
    tail
        What rings.
    hz
        The tone.
    start_s
        From when on.

    Returns
    -------
    tuple of float
        Hz, and dB against the tone.

    Examples
    --------
    >>> at = np.arange(48000) / 48000
    >>> x = np.sin(2 * np.pi * 55 * at) * np.exp(-at / 0.3)
    >>> tail = prepare(*scaled_down(x, 48000))
    >>> rival(tail, 55.0, 0.05)[1] < -20.0
    True
    """
    power, at_hz, reach_hz = _evened_power(tail, start_s)
    nearest = np.maximum(np.round(at_hz / hz), 1.0)
    off = np.abs(at_hz - nearest * hz) > np.maximum(2 * reach_hz, 0.1 * hz)
    own = float(np.max(power[np.abs(at_hz - hz) < reach_hz], initial=1e-30))
    at = int(np.argmax(power * off))
    return float(at_hz[at]), 10 * float(np.log10(max(power[at] * off[at], 1e-30) / own))


def down_s(tail: Tail, db: float) -> float:
    """When the tail is `db` (negative) below its top; extrapolated where it cannot be seen.

    Parameters
    ----------
    tail
        What rings.
    db
        How far down, below 0.

    Returns
    -------
    float
        Seconds.

    Examples
    --------
    >>> at = np.arange(48000) / 48000
    >>> x = np.sin(2 * np.pi * 55 * at) * np.exp(-at / 0.3)
    >>> tail = prepare(*scaled_down(x, 48000))
    >>> round(down_s(tail, -20.0), 2)
    0.71
    """
    down = 20 * np.log10(tail.envelope / tail.envelope.max())
    late = np.nonzero(down > db)[0]
    at = float(late[-1]) / tail.rate
    if at < tail.end_s - 0.01 / tail.scale:
        return at
    a, b = int((0.5 * tail.peak_s + 0.5 * tail.end_s) * tail.rate), int(tail.end_s * tail.rate)
    if b - a < 4:
        return tail.end_s
    slope, level = np.polyfit(np.arange(a, b) / tail.rate, down[a:b], 1)
    if slope >= -1:
        return tail.end_s
    return float(np.clip((db - level) / slope, tail.end_s, 2 * tail.end_s))


def scaled_down(x: Array, rate: int) -> tuple[Array, float, float]:
    """`x` at the coarse rate times a scale, that rate in Hz, and the scale.

    The scale is 1 where the hit has a low end, more where all of it lies higher.

    Parameters
    ----------
    x, rate
        Samples, shape (frames,); frames a second.

    Returns
    -------
    tuple
        The samples at the coarse rate, that rate in Hz, and the scale.

    Examples
    --------
    >>> at = np.arange(48000) / 48000
    >>> scaled_down(np.sin(2 * np.pi * 55 * at), 48000)[2]
    1.0
    """

    def thinned(scale: float) -> tuple[Array, float, float]:
        factor = max(1, int(rate // (_COARSE_HZ * scale)))
        return polyphase(x, 1, factor), rate / factor, scale

    slow, fs, scale = thinned(_SCALES[0])
    size = fft.next_fast_len(slow.size, real=True)
    power = np.abs(fft.rfft(slow, size)) ** 2
    first, split = (round(hz / fs * size) for hz in (LOWEST_HZ, _SPLIT_HZ))
    # Parseval: one-sided power over half the transform's length is energy.
    per_bin = 2 / size * rate / fs
    rumble, low = (float(part.sum()) * per_bin for part in (power[:first], power[first:split]))
    has_low_end = low > 0.02 * (float(x @ x) - rumble)
    return (slow, fs, scale) if has_low_end else thinned(_SCALES[1])
