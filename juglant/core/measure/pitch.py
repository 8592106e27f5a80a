"""The note a decaying, sweeping hit settles to, and how sure that is.

The tail is fitted in samples, not in averaged instantaneous frequency: windows that start
at several points of the decay, each with and without a sweep, first from more than one
starting frequency. An early window knows more but may hold what the model does not (a
click, a filter that rings); a late one is free of these but short and nearer the noise.
Every window states its own standard uncertainty from its residual; the smallest one wins
unless later windows contradict it. Where doubt is left, a sweep made in hertz is tried beside
the one made in pitch. The model and its fit are in `sweepfit`.
"""

import math
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from juglant.core.measure import sweepfit
from juglant.core.measure.early import beside_cents, best_of, ends
from juglant.core.measure.estimate import modes
from juglant.core.measure.tail import (
    LOWEST_HZ,
    Tail,
    candidates_hz,
    down_s,
    inharmonic_share,
    prepare,
    rival,
    scaled_down,
    slower,
    sounds_below,
)
from juglant.core.measure.tailmodel import Fit, TailPitch, Window

Array = NDArray[np.float64]

SETTLED_CENTS = 20.0
SURE = 0.5
_CENTS = 1200 / np.log(2)
# How far a real tail strays from the model, as a share of its level: what the residual is
# weighted against where the noise is lower than that.
_MODEL_ERROR = 0.01
# A window whose fit leaves this share of its energy unexplained lies in the noise.
_BURIED = 0.12
_CLEAR = 0.004
# Up to this misfit (residual over expected residual) a fit's neighbours may trust it.
_POOR = 4.0
# Beyond this bend (in ln Hz) nobody asks whether there is a sweep.
_PLAIN_SWEEP = 0.12
# An early tail and the strongest mode within this say the same note.
_ONE_NOTE_CENTS = 60.0
# What leaves more than this may have a room in it; an early tail that leaves so much less is taken instead.
_ROOM_LEFT, _CLEARER = 0.02, 0.34
# Above this, noise with no tone in it is not asked again: no drum that is tuned sounds up there.
_HIGHEST_DRUM_HZ = 800.0
# A tone among noise is plain after so many cycles.
_LEAST_CYCLES = 5.0
# The most that an early tail is sure of where it says another note than the strongest tone.
_OTHER_NOTE = 0.4
# Rounds of fitting while only a place to start from is looked for.
_LOOKING = 7
# Set on generated hits so that two sigma hold the error nine times in ten: the smallest of
# several sigmas is an optimistic one, and no fit knows better than _LEAST_CENTS.
_CAUTION, _LEAST_CENTS, _DOUBT, _SHAPE_DOUBT, _TREND = 1.4, 0.03, 0.15, 0.5, 0.6
# A flat fit is off by about this share of the sweep that is left where it begins.
_UNSEEN = 0.7
# Between these, sweeps that are made in hertz are tried too.
_DOUBTED_CENTS, _HOPELESS_CENTS = 2.0, 150.0
# With this share unexplained a second tone is looked for; this far below the first one it leaves
# half the confidence.
_SECOND_TONE, _RIVAL_DB = 0.04, -12.0
# Half confidence is reached at this uncertainty, this share unexplained.
_HALF_SIGMA_CENTS, _HALF_UNEXPLAINED = 10.0, 0.15


def _fit(
    tail: Tail,
    start_s: float,
    hz: float,
    sweep: tuple[float, float, float] | None,
    *,
    in_hertz: bool = False,
    rounds: int = 14,
) -> Window | None:
    """One window's fit from `hz` and, for the swept models, a first (bend, tau_s, form).

    A sweep in hertz keeps its form, since a free one would be as good as any other model.
    """
    a, b = int(start_s * tail.rate), min(int(tail.end_s * tail.rate), tail.samples.size)
    if b - a < 24:
        return None
    y, env = tail.samples[a:b], tail.envelope[a:b]
    length_s = (b - a) / tail.rate
    weight = 1 / np.sqrt(tail.noise**2 + (_MODEL_ERROR * env) ** 2)
    swept = sweep is not None
    bend, tau_s, form = sweep or (0.0, 0.03, 0.0)
    start = np.array([np.log(hz), bend, np.log(tau_s), form, 0.0, 0.0])
    free = np.array([True, swept, swept, swept and not in_hertz, True, length_s * hz > 3])
    params, q, residual, cost, variance = sweepfit.fit(
        np.arange(b - a) / tail.rate, y, env, np.minimum(env / env[0], 1.5), weight,
        start, free, 0.003 / tail.scale, max(0.6 * length_s, 0.006 / tail.scale), rounds, in_hertz,
    )  # fmt: skip
    if not np.isfinite(cost) or not np.isfinite(variance):
        return None
    dof = max(residual.size - (16 if swept else 13), 2)
    spread = cost / dof
    lag, residual_share = sweepfit.left_over(residual, weight, y)
    # A residual that hangs together carries less information than its samples are many.
    lag = min(max(lag, 0.0), 0.98)
    inflation = (1 + lag) / (1 - lag)
    linear = q.tolist()
    second = max(math.hypot(linear[2], linear[3]), math.hypot(linear[2] + linear[4], linear[3] + linear[5]))
    return Window(
        start_s=a / tail.rate,
        end_s=tail.end_s,
        hz=math.exp(params[0]),
        bend=float(params[1]),
        tau_s=math.exp(params[2]),
        form=float(params[3]),
        # Less residual than numbers allow is luck, not knowledge: hence the small floor.
        sigma_cents=float(_CENTS * math.sqrt(max(variance, 0) * (spread + 1e-3) * inflation)),
        misfit=math.sqrt(spread),
        cost=float(cost),
        information=float(dof / inflation),
        residual_share=residual_share,
        octave_ratio=math.hypot(linear[0], linear[1]) / max(second, 1e-12),
        in_hertz=in_hertz,
    )


def _either(window: Window | None, other: Window | None) -> Window | None:
    """The likelier of two sweeps of different shape, as uncertain as both together leave it."""
    if window is None or other is None:
        return window or other
    count = max(window.information, 4.0)
    # The sweep in hertz has one parameter less (Schwarz's criterion).
    gain = count * np.log(max(window.cost, 1e-30) / max(other.cost, 1e-30)) + np.log(count)
    share = float(1 / (1 + np.exp(-np.clip(0.5 * gain, -30, 30))))
    apart = _CENTS * float(np.log(window.hz / other.hz))
    variance = share * other.sigma_cents**2 + (1 - share) * window.sigma_cents**2
    variance += share * (1 - share) * apart**2
    return replace(other if share > 0.5 else window, sigma_cents=float(np.sqrt(variance)))


def _combine(flat: Window | None, swept: Window | None) -> Fit | None:
    if flat is None or swept is None:
        only = flat or swept
        return Fit(only, only.sigma_cents, float(only is swept), flat, swept) if only else None
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
    sigma = float(np.hypot(_CAUTION * np.sqrt(variance), _LEAST_CENTS))
    return Fit(window, sigma, float(share), flat, swept)


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
                window = _fit(tail, start, hz, (bend, 0.04 / tail.scale, 0.0), rounds=_LOOKING)
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
    if anchor.hz / 2 < LOWEST_HZ * tail.scale or not sounds_below(tail, anchor.hz):
        return anchor
    below = _anchor(tail, starts, [anchor.hz / 2])
    if below is None or below.octave_ratio < 0.2:
        return anchor
    clearer = below.residual_share * below.misfit < 0.3 * anchor.residual_share * anchor.misfit
    return below if clearer else anchor


def _as_harmonic(tail: Tail, starts: list[float], anchor: Window) -> Window:
    """The tone of which the found one is but the loudest harmonic, where most else belongs to it."""
    share = inharmonic_share(tail, anchor.hz, anchor.start_s)
    for times in (2, 3, 4, 5):
        hz = anchor.hz / times
        if hz < LOWEST_HZ * tail.scale or not sounds_below(tail, anchor.hz, times):
            continue
        if inharmonic_share(tail, hz, anchor.start_s) < 0.3 * share:
            return _anchor(tail, starts, [hz]) or anchor
    return anchor


def _seen_from(window: Window, start_s: float, scale: float) -> tuple[float, float, float]:
    """Bend, tau and form of the same sweep for a window that starts elsewhere."""
    if abs(window.bend) < 1e-3:
        return 0.1, 0.03 / scale, 0.0
    form = float(np.clip(window.form, -0.9, 0.9))
    tau = window.tau_s + form * (start_s - window.start_s)
    bend = float(np.clip(window.cents_off(start_s) / _CENTS, -0.5, 1.5))
    return bend, float(np.clip(tau, 0.004 / scale, 0.25 / scale)), form


def _also_in_hertz(tail: Tail, fit: Fit) -> Fit | None:
    """The same start of the tail, with a sweep made in hertz beside the one made in pitch."""
    if fit.swept is None or fit.window.residual_share > _BURIED:
        return fit
    known = fit.swept
    bend = abs(known.bend) if abs(known.bend) > 0.02 else 0.1
    # Begun in the middle of its first sample, so that both fit the same samples.
    start_s = known.start_s + 0.5 / tail.rate
    other = _fit(tail, start_s, fit.window.hz, (bend, known.tau_s, 0.0), in_hertz=True)
    return _combine(fit.flat, _either(known, other))


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
        doubted.append(replace(fit, sigma_cents=float(np.hypot(fit.sigma_cents, left))))
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


def measure_tail(x: Array, rate: int, *, in_room: bool = True) -> TailPitch | str:
    """Fit the tail of a hit.

    `x` has shape (frames,), begins at the onset, any level; `rate` is in Hz. Returns the
    fit, or a sentence that says why there is nothing to fit. Where the whole tail says nothing sure
    because a room goes on under it, what lies before that is asked, unless it is known to be in none.

    Parameters
    ----------
    x, rate
        Samples, shape (frames,); frames a second.
    in_room
        Whether there may be a room.

    Returns
    -------
    TailPitch or str
        The fit, or why there is none.

    Examples
    --------
    >>> at = np.arange(48000) / 48000
    >>> x = np.sin(2 * np.pi * 55 * at) * np.exp(-at / 0.3)
    >>> round(measure_tail(x, 48000).hz, 2)
    55.0
    """
    slow = scaled_down(x, rate)
    tail = prepare(*slow)
    if tail is None:
        return "the sound is too short to have a pitch"
    found = _fitted_tail(tail)
    sure = isinstance(found, TailPitch) and found.confidence >= SURE
    if not in_room or (isinstance(found, TailPitch) and sure and found.unexplained < _ROOM_LEFT):
        return found
    heard = modes(x, rate)
    lost = isinstance(found, str) or found.unexplained > _HALF_UNEXPLAINED
    tones_hz = [one.hz for one in heard]
    if lost and isinstance(found, TailPitch) and min(found.hz, *tones_hz, np.inf) > _HIGHEST_DRUM_HZ:
        return found
    again = _before_room(tail, prepare(*slow, before_room=True))
    if again is None:
        return found
    # Noise that dies away has no tone that a room could hide: only one that is plain to see is believed.
    plain = again.unexplained < _ROOM_LEFT and again.lasted_s * again.hz > _LEAST_CYCLES
    if not heard and lost and not plain:
        return found
    if isinstance(found, TailPitch) and sure:
        clearer = again.unexplained < _CLEARER * found.unexplained
        return (
            again if clearer and again.sigma_cents < max(beside_cents(found), found.sigma_cents) else found
        )
    if isinstance(found, TailPitch) and again.confidence <= found.confidence:
        return found
    # The ear takes what is strongest for the note of a drum: an early tail that says another is not sure,
    # unless its own sweep has been there.
    above = _CENTS * float(np.log(heard[0].hz / again.hz)) if heard else 0.0
    swept = float(again.first.cents_off(again.first.start_s - 0.5 * again.first.tau_s))
    if -_ONE_NOTE_CENTS < above < max(_ONE_NOTE_CENTS, swept):
        return again
    why = f"its early tail is at {again.hz:.1f} Hz, and its strongest tone at {heard[0].hz:.1f} Hz"
    return replace(again, confidence=min(again.confidence, _OTHER_NOTE), reason=why) if lost else found


def _before_room(tail: Tail, knee: Tail | None) -> TailPitch | None:
    """The least uncertain fit of what lies before a room takes over; `knee` is the tail up to where its
    fall bends, where it does.
    """

    def fit(one: Tail) -> TailPitch | None:
        made = _fitted_tail(one)
        if isinstance(made, str) or abs(float(made.window.cents_off(one.end_s))) > SETTLED_CENTS:
            return None
        return made

    tails = ends(tail) + ([] if knee is None else [knee])
    best = best_of(sorted(tails, key=lambda one: one.end_s), fit)
    if best is None:
        return None
    made, doubt = best
    confidence = min(made.confidence, 1 / (1 + (doubt / _HALF_SIGMA_CENTS) ** 2))
    why = made.reason or f"its frequency is uncertain by {doubt:.0f} cents"
    return replace(
        made, sigma_cents=doubt, confidence=confidence, reason=None if confidence >= SURE else why,
        before_room=True,
    )  # fmt: skip


def _fitted_tail(tail: Tail) -> TailPitch | str:
    candidates = candidates_hz(tail)
    if not candidates:
        return "the tail is too short to have a pitch"
    fitted = slower(tail, min(candidates))
    starts = _starts(tail, min(candidates))
    anchor = _anchor(fitted, starts, candidates)
    if anchor is not None and anchor.octave_ratio < 0.2:
        # Nothing at the frequency itself, much at its double: that is the fundamental.
        anchor = _anchor(fitted, starts, [2 * anchor.hz])
    if anchor is not None and anchor.residual_share > _CLEAR:
        anchor = _octave_below(fitted, starts, anchor)
    if anchor is None:
        return "no steady tone could be fitted to the tail"
    if anchor.residual_share > _HALF_UNEXPLAINED:
        anchor = _as_harmonic(fitted, starts, anchor)
    fits = _follow(fitted, starts, anchor)
    if not fits:
        return "no steady tone could be fitted to the tail"
    window, sigma = _choose(fits)
    if _DOUBTED_CENTS < sigma < _HOPELESS_CENTS:
        wider = [_also_in_hertz(fitted, fit) for fit in fits]
        fits = [fit for fit in wider if fit is not None]
        window, sigma = _choose(fits)
    first = next((f.window for f in fits if f.window.residual_share < 0.05), window)
    minus_40 = down_s(tail, -40.0)
    off = abs(float(window.cents_off(minus_40)))
    # The fit knows three harmonics; a plucked string has many more, which are no noise.
    unexplained = window.residual_share
    if unexplained > 0.5 * _HALF_UNEXPLAINED:
        unexplained = min(unexplained, inharmonic_share(tail, window.hz, window.start_s))
    other_hz, other_db = 0.0, -99.0
    if window.residual_share > _SECOND_TONE:
        other_hz, other_db = rival(tail, window.hz, tail.peak_s)
    doubts = [
        ((sigma / _HALF_SIGMA_CENTS) ** 2, f"its frequency is uncertain by {sigma:.0f} cents"),
        ((off / SETTLED_CENTS) ** 4, f"the sweep is still {off:.0f} cents off when the tail is 40 dB down"),
        ((unexplained / _HALF_UNEXPLAINED) ** 2, "most of it is noise, not a tone"),
        (
            10 ** ((other_db - _RIVAL_DB) / 10),
            f"two tones of like strength, {window.hz:.1f} and "
            f"{other_hz:.1f} Hz: the ear decides",
        ),
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
        down_s(tail, -30.0),
        tuple(fit.window for fit in fits if fit.window.residual_share < _BURIED) or (window,),
    )
