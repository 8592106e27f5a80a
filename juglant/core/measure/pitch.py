"""The note a decaying, sweeping hit settles to, and how sure that is.

The tail is fitted in samples, not in averaged instantaneous frequency: windows that start
at several points of the decay, each with and without a sweep, first from more than one
starting frequency. An early window knows more but may hold what the model does not (a
click, a filter that rings); a late one is free of these but short and nearer the noise.
Every window states its own standard uncertainty from its residual; the smallest one wins
unless later windows contradict it. The model and its fit are in `sweepfit`.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import fft, ndimage

from juglant.core.measure import sweepfit
from juglant.core.process.resampling import polyphase

Array = NDArray[np.float64]

SETTLED_CENTS = 20.0
SURE = 0.5
_CENTS = 1200 / np.log(2)
# The range in which a fundamental is looked for, and the rate that suffices for it; sounds
# that lie higher are measured the same way with every time divided by `scale`.
_LOWEST_HZ, _HIGHEST_HZ, _COARSE_HZ = 18.0, 420.0, 3000.0
_SCALES = (1.0, 7.0)
# Without energy below this a sound is taken to lie higher; both scales reach well across it.
_SPLIT_HZ = 300.0
# How far a real tail strays from the model, as a share of its level: what the residual is
# weighted against where the noise is lower than that.
_MODEL_ERROR = 0.01
_FFT = 4096
# A window whose fit leaves this share of its energy unexplained lies in the noise.
_BURIED = 0.12
_CLEAR = 0.004
# Up to this misfit (residual over expected residual) a fit's neighbours may trust it.
_POOR = 4.0
# Beyond this bend (in ln Hz) nobody asks whether there is a sweep.
_PLAIN_SWEEP = 0.12
# Set on generated hits so that two sigma hold the error nine times in ten: the smallest of
# several sigmas is an optimistic one, and no fit knows better than _LEAST_CENTS.
_CAUTION, _LEAST_CENTS, _DOUBT, _SHAPE_DOUBT, _TREND = 1.4, 0.03, 0.15, 0.5, 0.6
# A flat fit is off by about this share of the sweep that is left where it begins.
_UNSEEN = 0.7
# Half confidence is reached at this uncertainty, this share unexplained.
_HALF_SIGMA_CENTS, _HALF_UNEXPLAINED = 10.0, 0.15


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


@dataclass(frozen=True)
class Window:
    """One fit of the tail from `start_s` on."""

    start_s: float
    end_s: float
    hz: float
    bend: float
    tau_s: float
    form: float
    sigma_cents: float
    misfit: float
    cost: float
    information: float
    residual_share: float
    octave_ratio: float

    def cents_off(self, time_s: Array | float) -> Array:
        """Deviation of the swept frequency from its end, in cents, at `time_s`."""
        late = np.maximum(np.asarray(time_s, float) - self.start_s, -4 * self.tau_s)
        if abs(self.form) < 1e-3:
            return np.asarray(_CENTS * self.bend * np.exp(-late / self.tau_s))
        base = np.maximum(1 + self.form * late / self.tau_s, 1e-9)
        return np.asarray(_CENTS * self.bend * base ** (-1 / self.form))


@dataclass(frozen=True)
class Fit:
    """What one start of the tail says, whichever of the two models it speaks for."""

    window: Window
    sigma_cents: float
    share: float  # how far the swept model is the likelier one


@dataclass(frozen=True)
class TailPitch:
    """Result of `measure_tail`; `hz` is the best estimate even where confidence is low."""

    hz: float
    sigma_cents: float
    confidence: float
    reason: str | None
    window: Window
    first: Window
    minus_30_s: float


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


def _prepare(y: Array, fs: float, scale: float) -> Tail | None:
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
    return Tail(y, np.sqrt(2 * power), fs, noise, top / fs, end, scale)


def _slower(tail: Tail, hz: float) -> Tail:
    """The same tail at about twelve samples per cycle of `hz`, which is all the fit needs."""
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
    limits = (_LOWEST_HZ * tail.scale, _HIGHEST_HZ * tail.scale)
    low, high = (int(hz * size / tail.rate) for hz in limits)
    return float((low + int(np.argmax(spectrum[low:high]))) * tail.rate / size)


def _candidates(tail: Tail) -> list[float]:
    """Frequencies the tail may settle to, from spectra that begin ever later in the decay."""
    slow = _slower(tail, _HIGHEST_HZ * tail.scale / 6)
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


def _fit(tail: Tail, start_s: float, hz: float, sweep: tuple[float, float, float] | None) -> Window | None:
    """One window's fit from `hz` and, for the swept model, a first (bend, tau_s, form)."""
    a, b = int(start_s * tail.rate), min(int(tail.end_s * tail.rate), tail.samples.size)
    if b - a < 24:
        return None
    y, env = tail.samples[a:b], tail.envelope[a:b]
    length_s = (b - a) / tail.rate
    weight = 1 / np.sqrt(tail.noise**2 + (_MODEL_ERROR * env) ** 2)
    swept = sweep is not None
    bend, tau_s, form = sweep or (0.0, 0.03, 0.0)
    start = np.array([np.log(hz), bend, np.log(tau_s), form, 0.0, 0.0])
    free = np.array([True, swept, swept, swept, True, length_s * hz > 3])
    params, q, residual, cost, variance = sweepfit.fit(
        np.arange(b - a) / tail.rate, y, env, np.minimum(env / env[0], 1.5), weight,
        start, free, 0.003 / tail.scale, max(0.6 * length_s, 0.006 / tail.scale), 14,
    )  # fmt: skip
    if not np.isfinite(cost) or not np.isfinite(variance):
        return None
    dof = max(residual.size - (16 if swept else 13), 2)
    spread = cost / dof
    centred = residual - residual.mean()
    lag = float(np.sum(centred[1:] * centred[:-1]) / max(float(np.sum(centred**2)), 1e-30))
    # A residual that hangs together carries less information than its samples are many.
    lag = min(max(lag, 0.0), 0.98)
    inflation = (1 + lag) / (1 - lag)
    second = max(np.hypot(q[2], q[3]), np.hypot(q[2] + q[4], q[3] + q[5]))
    return Window(
        start_s=a / tail.rate,
        end_s=tail.end_s,
        hz=float(np.exp(params[0])),
        bend=float(params[1]),
        tau_s=float(np.exp(params[2])),
        form=float(params[3]),
        # Less residual than numbers allow is luck, not knowledge: hence the small floor.
        sigma_cents=float(_CENTS * np.sqrt(max(variance, 0) * (spread + 1e-3) * inflation)),
        misfit=float(np.sqrt(spread)),
        cost=float(cost),
        information=float(dof / inflation),
        residual_share=float(np.sum((residual / weight) ** 2) / max(float(np.sum(y**2)), 1e-30)),
        octave_ratio=float(np.hypot(q[0], q[1]) / max(second, 1e-12)),
    )


def _combine(flat: Window | None, swept: Window | None) -> Fit | None:
    if flat is None or swept is None:
        only = flat or swept
        return Fit(only, only.sigma_cents, float(only is swept)) if only else None
    # Three parameters more must earn their keep (Schwarz's criterion on the samples that count).
    count = max(swept.information, 4.0)
    gain = count * np.log(max(flat.cost, 1e-30) / max(swept.cost, 1e-30)) - 3 * np.log(count)
    share = 1 / (1 + np.exp(-np.clip(0.5 * gain, -30, 30)))
    apart = _CENTS * np.log(flat.hz / swept.hz)
    window = swept if share > 0.5 else flat
    variance = share * swept.sigma_cents**2 + (1 - share) * flat.sigma_cents**2
    # A sweep too small to be proven may still be there, and a proven one of another shape.
    doubt = max(1 - share, _DOUBT) if window is swept else max(share, _DOUBT)
    variance += doubt * min(apart**2, 4 * swept.sigma_cents**2 + 0.01)
    variance += (_SHAPE_DOUBT * float(window.cents_off(window.end_s))) ** 2
    return Fit(window, float(np.hypot(_CAUTION * np.sqrt(variance), _LEAST_CENTS)), float(share))


def _starts(tail: Tail, hz: float) -> list[float]:
    room = tail.end_s - tail.peak_s
    shares = (0.0, 0.08, 0.19, 0.33, 0.48, 0.66)
    return [tail.peak_s + s * room for s in shares if (1 - s) * room * hz >= 1.6] or [tail.peak_s]


def _anchor(tail: Tail, starts: list[float], candidates: list[float]) -> Window | None:
    """The clearest of the fits begun at every candidate: where the search goes on from."""
    best, least = None, np.inf
    for start in dict.fromkeys((starts[len(starts) // 3], starts[len(starts) // 2])):
        for hz in candidates:
            for bend in (0.03, 0.4):
                window = _fit(tail, start, hz, (bend, 0.04 / tail.scale, 0.0))
                if window is None:
                    continue
                worth = window.residual_share * window.misfit
                if worth < least:
                    best, least = window, worth
                if window.residual_share < _CLEAR:
                    break
        if best is not None and best.residual_share < _CLEAR and best.misfit < _POOR:
            break
    return best


def _octave_below(tail: Tail, starts: list[float], anchor: Window) -> Window:
    """The sub an octave under the found tone, where one plainly sounds; else the tone."""
    if anchor.hz / 2 < _LOWEST_HZ * tail.scale:
        return anchor
    below = _anchor(tail, starts, [anchor.hz / 2])
    if below is None or below.octave_ratio < 0.2:
        return anchor
    clearer = below.residual_share * below.misfit < 0.3 * anchor.residual_share * anchor.misfit
    return below if clearer else anchor


def _seen_from(window: Window, start_s: float, scale: float) -> tuple[float, float, float]:
    """Bend, tau and form of the same sweep for a window that starts elsewhere."""
    if abs(window.bend) < 1e-3:
        return 0.1, 0.03 / scale, 0.0
    form = float(np.clip(window.form, -0.9, 0.9))
    tau = window.tau_s + form * (start_s - window.start_s)
    bend = float(np.clip(window.cents_off(start_s) / _CENTS, -0.5, 1.5))
    return bend, float(np.clip(tau, 0.004 / scale, 0.25 / scale)), form


def _follow(tail: Tail, starts: list[float], anchor: Window) -> list[Fit]:
    """Fits from every start, each begun from what its neighbour on the anchor's side found."""
    middle = min(range(len(starts)), key=lambda k: abs(starts[k] - anchor.start_s))
    fits: dict[int, Fit] = {}
    proven = False  # once a later window needs its sweep, no earlier one is without
    for k in [*range(middle, len(starts)), *range(middle - 1, -1, -1)]:
        side = fits.get(k + 1 if k < middle else k - 1)
        known = side.window if side and side.window.residual_share < _BURIED else anchor
        swept = _fit(tail, starts[k], known.hz, _seen_from(known, starts[k], tail.scale))
        plain = not (proven and k < middle) or swept is None or abs(swept.bend) < _PLAIN_SWEEP
        flat = _fit(tail, starts[k], known.hz, None) if plain else None
        fit = _combine(flat, swept)
        if fit is not None:
            fits[k] = fit
            proven = proven or fit.share > 0.999
    return [fits[k] for k in sorted(fits)]


def _with_what_is_left(fits: list[Fit]) -> list[Fit]:
    """Windows too late to see the sweep are doubted by what an earlier one says is left of it."""
    doubted, sweep = [], None
    for fit in fits:
        left = 0.0
        if sweep is not None and fit.share < 0.5:
            left = _UNSEEN * float(sweep.cents_off(fit.window.start_s))
        elif fit.share > 0.9:
            sweep = fit.window
        doubted.append(Fit(fit.window, float(np.hypot(fit.sigma_cents, left)), fit.share))
    return doubted


def _choose(fits: list[Fit]) -> tuple[Window, float]:
    """The fit with the least uncertainty that no later one contradicts, and its sigma."""
    fits = _with_what_is_left([fit for fit in fits if fit.window.residual_share < _BURIED] or fits)
    ranked: list[tuple[float, Window]] = []
    for k, fit in enumerate(fits):
        contradiction = 0.0
        for other in fits[k + 1 :]:
            apart = abs(_CENTS * np.log(fit.window.hz / other.window.hz))
            contradiction = max(contradiction, apart - other.sigma_cents)
        # Fits that move as their start moves have a shape that is not the model's: what is
        # still to come is of the order of the last move.
        trend = 0.0
        if k and fits[k - 1].window.misfit < _POOR:
            trend = _TREND * abs(_CENTS * np.log(fit.window.hz / fits[k - 1].window.hz))
        sigma = float(np.sqrt(fit.sigma_cents**2 + contradiction**2 + trend**2))
        ranked.append((sigma, fit.window))
    sigma, window = min(ranked, key=lambda pair: pair[0])
    return window, sigma


def _down_s(tail: Tail, db: float) -> float:
    """When the tail is `db` (negative) below its top; extrapolated where it cannot be seen."""
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


def _scaled_down(x: Array, rate: int) -> tuple[Array, float, float]:
    """`x` at the coarse rate times a scale, that rate in Hz, and the scale.

    The scale is 1 where the hit has a low end, more where all of it lies higher.
    """

    def thinned(scale: float) -> tuple[Array, float, float]:
        factor = max(1, int(rate // (_COARSE_HZ * scale)))
        return polyphase(x, 1, factor), rate / factor, scale

    slow, fs, scale = thinned(_SCALES[0])
    size = fft.next_fast_len(slow.size, real=True)
    power = np.abs(fft.rfft(slow, size)) ** 2
    first, split = (round(hz / fs * size) for hz in (_LOWEST_HZ, _SPLIT_HZ))
    # Parseval: one-sided power over half the transform's length is energy.
    per_bin = 2 / size * rate / fs
    rumble, low = (float(part.sum()) * per_bin for part in (power[:first], power[first:split]))
    has_low_end = low > 0.02 * (float(x @ x) - rumble)
    return (slow, fs, scale) if has_low_end else thinned(_SCALES[1])


def measure_tail(x: Array, rate: int) -> TailPitch | str:
    """Fit the tail of a hit.

    `x` has shape (frames,), begins at the onset, any level; `rate` is in Hz. Returns the
    fit, or a sentence that says why there is nothing to fit.
    """
    tail = _prepare(*_scaled_down(x, rate))
    if tail is None:
        return "the sound is too short to have a pitch"
    candidates = _candidates(tail)
    if not candidates:
        return "the tail is too short to have a pitch"
    fitted = _slower(tail, min(candidates))
    starts = _starts(tail, min(candidates))
    anchor = _anchor(fitted, starts, candidates)
    if anchor is not None and anchor.octave_ratio < 0.2:
        # Nothing at the frequency itself, much at its double: that is the fundamental.
        anchor = _anchor(fitted, starts, [2 * anchor.hz])
    if anchor is not None and anchor.residual_share > _CLEAR:
        anchor = _octave_below(fitted, starts, anchor)
    if anchor is None:
        return "no steady tone could be fitted to the tail"
    fits = _follow(fitted, starts, anchor)
    if not fits:
        return "no steady tone could be fitted to the tail"
    window, sigma = _choose(fits)
    first = next((f.window for f in fits if f.window.residual_share < 0.05), window)
    minus_40 = _down_s(tail, -40.0)
    off = abs(float(window.cents_off(minus_40)))
    doubts = [
        ((sigma / _HALF_SIGMA_CENTS) ** 2, f"its frequency is uncertain by {sigma:.0f} cents"),
        ((off / SETTLED_CENTS) ** 4, f"the sweep is still {off:.0f} cents off when the tail is 40 dB down"),
        ((window.residual_share / _HALF_UNEXPLAINED) ** 2, "most of it is noise, not a tone"),
    ]  # fmt: skip
    worst, why = max(doubts)
    confidence = float(1 / (1 + worst))
    return TailPitch(
        window.hz,
        sigma,
        confidence,
        None if confidence >= SURE else why,
        window,
        first,
        _down_s(tail, -30.0),
    )
