"""Which drums a loop holds, when and how hard: several may be struck at once, under music too.

Every onset's rise over what sounded just before is told apart as a sum of kicks, snares and hats
(non-negative least squares on band amplitudes; Lawson & Hanson, Solving Least Squares Problems, 1974).
A clap counts as a snare: it has its place in the pattern (common practice).
"""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import scipy
from numpy.typing import NDArray
from scipy import fft

Array = NDArray[np.float64]
_Set = tuple[tuple[int, ...], ...]

KINDS = ("kick", "snare", "hat")
_EDGES_HZ = (30, 60, 110, 200, 400, 800, 1600, 3200, 5000, 8000, 12000, 18000)
# How strong each band of a drum's first 50 ms usually is, dB re its strongest (the mean of recorded kits);
# what else there is: a low note that begins, a note in the middle, and noise that may be a brushed or an
# electronic snare, or a dull hat.
_USUAL_DB = (
    (-12, 0, -8, -16, -19, -16, -12, -15, -20, -30, -39),
    (-21, -12, -2, -6, -8, -10, -9, -8, -9, -15, -27),
    (-32, -33, -29, -18, -8, -9, -7, -5, -2, -5, -17),
    (-6, 0, -3, -8, -16, -24, -34, -42, -50, -60, -60),
    (-50, -30, -12, -2, 0, -4, -10, -18, -28, -40, -60),
    (-40, -32, -26, -13, 0, -2, -4, -5, -6, -9, -18),
)
# A hat of metal alone, without noise, and a clap or a brush in place of a snare's skin and wires.
_BRIGHT_HAT = (-40, -38, -36, -32, -28, -24, -18, -8, -2, 0, -3)
_CLAP = (-34, -30, -28, -20, -10, -2, 0, -7, -11, -17, -24)
# The sets that a loop may be played on. The first is the mean of many, and alone has noise that may be one
# drum or another: the others have to leave so much less of a loop unexplained.
_LESS = 1.25
_SETS = (
    _USUAL_DB,
    (*_USUAL_DB[:2], _BRIGHT_HAT, *_USUAL_DB[3:5]),
    (_USUAL_DB[0], _CLAP, _BRIGHT_HAT, *_USUAL_DB[3:5]),
)
_HOP_S, _FRAME_S = 0.004, 0.02
# So many frames before it an onset is seen: half a window, less what a rise takes.
_SEEN_AHEAD = 2
_AFTER_S, _BEFORE_S, _APART_S = 0.05, 0.04, 0.045
# An onset rises so far in some band; a lane's strokes lie within this of its strongest, and stand for this
# share of what rises in the lane's own bands.
_RISE_DB, _LANE_DB = 5.0, 10.5
_OWN_BANDS = ((0, 1), (5, 6, 7), (8, 9))
_OWN_SHARE = 0.33
# A kick has a beater, so much of it above 1.6 kHz, or dies at once: else a low rise is a bass note.
_BEATER_DB = -34.0
_FALLEN_S, _FALLEN_DB, _DIES_DB = (0.08, 0.16), 4.0, 7.0
# A plucked bass has as much at 200-400 Hz as below, and rings on in both; a kick has 10 dB less, or the
# sweep that it has there is soon over. Where such a share of what may be kicks is like that, the kick is.
_PLUCKED_DB, _RINGS_DB, _BESIDE_KICKS, _AS_DEEP = -3.5, 20.0, 0.25, 0.65
# Nor is a kick what rises there by so much less than the loudest band of the loop does.
_DEEP_DB = -30.0
# A snare or a clap has more of 110-5000 Hz than so much under what lies above.
_METAL_DB = -9.0
# What a lane's own bands rise by at least, of what they rise by at its strong strokes; a kick's sweep and
# click reach into those of a snare.
_PRESENT, _PRESENT_OVER_KICK = 0.12, 0.4
# A snare's body has some 5 dB less at 60-110 Hz than at 110-200, and 11 less than that below 60; its wires
# lie no further under it than the last.
_UNDER_BODY_DB, _UNDER_DEEP_DB, _WIRES_DB = -2.5, -8.0, -20.0
# What share of a kick's usual rise below 60 Hz is asked of one under a snare.
_UNDER_SNARE = 0.75
# A hat goes on for so many frames after an onset as a kick's click does not: within 6 dB of what hats alone
# do there, where so many of them are known.
_HIGH, _STILL_FRAMES, _STILL, _KNOWN_HATS = slice(9, 11), (6, 12), 0.5, 3
# How often a drum's bands are moved to the loop's own, and how much the usual ones count against these.
_ROUNDS, _KEPT, _KEPT_OF_A_SET = 25, 0.15, 0.4
# The lowest bands, whose periods are longer than a frame.
_SWELLS = 3
# The top is weak in every drum but a hat: there it counts for more.
_WEIGHTS = np.array((1.0, 1.0, 1.0, 1.0, 1.0, 1.0, 1.35, 1.75, 2.4, 3.2, 4.2))
# A snare's body, 110-400 Hz, dies within the beat, as what lies there under a hat on a bass note does not.
_BODY, _BODY_FALLS_DB = slice(2, 4), 12.0
# The places of a low note and of noise in the table; noise is a snare's where so much of it is body,
# 110-400 over 400-8000 Hz.
_BASS, _NOISE, _BODY_DB, _BODY_WITHIN_DB, _BODY_GAP_DB = 3, 5, -14.5, 9.0, 3.0


@dataclass(frozen=True)
class Struck:
    """One onset: what is struck there, and how hard each, from 0 to 1 of the lane's strongest."""

    at_ms: float
    velocities: dict[str, float]


def _band_levels(x: Array, rate: int) -> Array:
    """Energy of every band in every frame, shape (bands, frames)."""
    size, hop = round(_FRAME_S * rate), round(_HOP_S * rate)
    padded = np.pad(x, size)
    pieces = np.lib.stride_tricks.sliding_window_view(padded, size)[size // 2 :: hop]
    power = np.abs(fft.rfft(pieces * np.hanning(size), 2 * size, axis=1)) ** 2
    hz = np.arange(power.shape[1]) * rate / (2 * size)
    edges = np.searchsorted(hz, np.minimum(_EDGES_HZ, 0.49 * rate))
    return np.array([power[:, a : max(b, a + 1)].sum(axis=1) for a, b in pairwise(edges)])


def _onsets(levels: Array) -> list[int]:
    """Frames at which several bands, or one by much, rise together."""
    top = levels.max(axis=1, keepdims=True)
    db = 10 * np.log10(np.maximum(levels, 1e-5 * np.maximum(top, 1e-12)))
    ahead, back = 4, 6
    rise = np.zeros(db.shape[1])
    for n in range(db.shape[1]):
        after = db[:, n : n + ahead].max(axis=1)
        before = db[:, max(0, n - back) : max(n, 1)].max(axis=1) if n else np.full(db.shape[0], -99.0)
        gain = np.clip(after - before, 0.0, 20.0)
        gain[after < 10 * np.log10(np.maximum(top[:, 0], 1e-12)) - 26] = 0.0
        rise[n] = float(np.sort(gain)[-3:].sum())
    peaks, _ = scipy.signal.find_peaks(
        np.concatenate([[0.0], rise, [0.0]]), height=3 * _RISE_DB, distance=round(_APART_S / _HOP_S)
    )
    return [int(p) - 1 for p in peaks]


def drum_map(x: Array, rate: int) -> list[Struck]:
    """The strokes of a loop, shape (frames,), in their order; what is none of the drums has none.

    Parameters
    ----------
    x
        Samples, shape (frames,); full scale is 1.
    rate
        Frames a second.

    Returns
    -------
    list of Struck
        Times in ms, with the drums that are struck there and how hard.

    Examples
    --------
    >>> drum_map(np.zeros(48000), 48000)
    []
    """
    levels = _band_levels(x, rate)
    found = _onsets(levels)
    if not found:
        return []
    after, before = round(_AFTER_S / _HOP_S), round(_BEFORE_S / _HOP_S)
    rises = []
    for n, at in enumerate(found):
        until = min(at + after, found[n + 1] + 1 if n + 1 < len(found) else levels.shape[1])
        heard = levels[:, at : max(until, at + 2)].max(axis=1)
        past = levels[:, max(0, at - before) : max(at - 2, 1)]
        was = past.mean(axis=1) if at > 2 else 0 * heard
        # What rings there swells and sinks by chance.
        was[:_SWELLS] = past[:_SWELLS].max(axis=1) if at > 2 else 0.0
        rise = np.sqrt(np.maximum(heard - 1.6 * was, 0.0))
        rises.append(rise)
    rose, falls = np.array(rises), _falls_db(levels[:2].sum(axis=0), found)
    body_falls = _falls_db(levels[_BODY].sum(axis=0), found)
    table = _played_on(rose)[:_NOISE]
    lanes = _lanes(rose, falls, body_falls, table)
    if np.count_nonzero(lanes["snare"]) < 2:
        # No snare of skins and wires: then noise with a body may be one.
        lanes = _lanes(rose, falls, body_falls, (*table, _USUAL_DB[_NOISE]))
    _under_kicks(lanes, *_still_high(levels, found))
    out: list[dict[str, float]] = [{} for _ in found]
    for kind, hard in lanes.items():
        for stroke, velocity in zip(out, hard, strict=True):
            if velocity:
                stroke[kind] = float(velocity)
    # A frame is a whole number of samples, so 4 ms at some rates only.
    frame_ms = round(_HOP_S * rate) / rate * 1000
    times = ((at + _SEEN_AHEAD if at else 0) * frame_ms for at in found)
    return [Struck(at_ms, heard) for at_ms, heard in zip(times, out, strict=True)]


def _still_high(levels: Array, found: list[int]) -> tuple[Array, Array]:
    """What sounds above 8 kHz at every onset, and shortly after it, as amplitudes."""
    high = levels[_HIGH].sum(axis=0)
    out = []
    for n, at in enumerate(found):
        until = min(at + _STILL_FRAMES[1], found[n + 1] - 1 if n + 1 < len(found) else high.size)
        was = float(high[max(0, at - 6) : max(at - 2, 1)].mean())
        parts = (high[at : at + _STILL_FRAMES[0]], high[at + _STILL_FRAMES[0] : until])
        out.append([max(float(part.max(initial=0.0)) - was, 0.0) for part in parts])
    struck, still = np.sqrt(np.array(out)).T
    return struck, still


def _under_kicks(lanes: dict[str, Array], struck: Array, still: Array) -> None:
    """Hats that are struck with a kick, which is louder: when its click is over they go on."""
    kick, snare, hat = (lanes[kind] > 0 for kind in KINDS)
    alone = hat & ~kick & ~snare
    if np.count_nonzero(alone) < _KNOWN_HATS:
        return
    ratio = still[alone] / np.maximum(struck[alone], 1e-12)
    usual, lasting = float(np.median(still[alone])), float(np.median(ratio))
    if usual <= 0.0:
        return
    held = (still > _STILL * usual) & (still > _STILL * lasting * struck)
    lanes["hat"] = np.where(
        kick & ~snare & ~hat & held, np.clip(np.median(lanes["hat"][alone]) * still / usual, 0.01, 1.0),
        lanes["hat"],
    )  # fmt: skip


def _amounts(rose: Array, templates: Array) -> Array:
    """How much of every template each onset is, in least squares."""
    weighted = (templates * _WEIGHTS).T
    return np.array([scipy.optimize.nnls(weighted, _WEIGHTS * one)[0] for one in rose], np.float64)


def _played_on(rose: Array) -> _Set:
    """The set whose drums, as they usually are, leave least of the onsets unexplained."""
    loud = np.linalg.norm(rose * _WEIGHTS, axis=1, keepdims=True)
    # A soft stroke tells as much of the set as a loud one does, but for the faintest.
    even = rose / np.maximum(loud, max(float(loud.max()) / 3, 1e-12))

    def left(table: _Set) -> float:
        templates = 10 ** (np.array(table) / 20)
        return float((((_amounts(even, templates) @ templates - even) * _WEIGHTS) ** 2).sum())

    return min(_SETS, key=lambda one: left(one) / (_LESS if one is _USUAL_DB else 1.0))


def _lanes(rose: Array, falls: Array, body_falls: Array, table: _Set) -> dict[str, Array]:
    """How hard every drum is struck at every onset, 0 where it is not, told apart by what sounds of a set
    there may be.
    """
    count = len(table)
    templates = _learned(rose, table)
    amounts = _amounts(rose, templates)
    if templates[1, 2:8].max() < 10 ** (_METAL_DB / 20) * templates[1, 8:].max():
        # Where no snare is, its place was taken by another hat.
        templates[2], amounts[:, 2] = np.maximum(*templates[1:3]), amounts[:, 1:3].max(axis=1)
        amounts[:, 1] = 0.0
    without = np.maximum(rose - amounts[:, [0, _BASS]] @ templates[[0, _BASS]], 0.0)
    alone = amounts[:, 0] < 0.3 * amounts[:, 0].max(initial=0.0)
    body = _has_body(without, alone) & (body_falls > _BODY_FALLS_DB)
    out: dict[str, Array] = {}
    for lane, kind in enumerate(KINDS):
        own = list(_OWN_BANDS[lane])
        amount = amounts[:, lane]
        given = amount[:, None] * templates[lane][own]
        other = _BASS if kind == "kick" else _NOISE
        if other < count:
            also = amounts[:, other] * {"kick": np.ones_like(body), "snare": body, "hat": ~body}[kind]
            amount, given = amount + also, given + also[:, None] * templates[other][own]
        total = np.maximum(amounts @ templates[:, own], 1e-12)
        share = given.sum(axis=1) / total.sum(axis=1)
        least = np.where(out["kick"] > 0.0, _PRESENT_OVER_KICK, _PRESENT) if kind == "snare" else _PRESENT
        present = rose[:, own].sum(axis=1) > least * np.percentile(rose[:, own].sum(axis=1), 95)
        strong = np.percentile(amount, 95) * 10 ** (-_LANE_DB / 20)
        yes = (amount > max(strong, 1e-9)) & (share > _OWN_SHARE) & present
        if kind == "kick":
            yes = _kicks(yes, rose, falls, body_falls, amounts[:, 1])
        top = float(amount[yes].max()) if yes.any() else 1.0
        out[kind] = np.where(yes, np.clip(amount / top, 0.01, 1.0), 0.0)
    kicks = out["kick"] > 0.0
    if kicks.any() and np.all(out["snare"][kicks] > 0.0) and _are_bodies(rose[kicks]):
        out["kick"][:] = 0.0
    return out


def _kicks(
    yes: NDArray[np.bool_], rose: Array, falls: Array, body_falls: Array, snares: Array
) -> NDArray[np.bool_]:
    """Which of what may be kicks are no bass notes, and no bodies of snares, of which there is so much."""
    low, deep = rose[:, :2].max(axis=1), rose[:, 0]
    beater = rose[:, 6:8].max(axis=1) > low * 10 ** (_BEATER_DB / 20)
    yes = yes & (falls > _FALLEN_DB) & (beater | (falls > _DIES_DB))
    yes &= low > float(rose.max()) * 10 ** (_DEEP_DB / 20)
    plucked = np.maximum(falls, body_falls) < _RINGS_DB
    plucked &= rose[:, 3] > low * 10 ** (_PLUCKED_DB / 20)
    if np.count_nonzero(yes & ~plucked) > _BESIDE_KICKS * np.count_nonzero(yes):
        # As deep as the kicks are, it is one of them under a chord that begins.
        yes &= ~plucked | (low > _AS_DEEP * np.median(low[yes & ~plucked]))
    # A snare has a body that rises low too: under it a kick must be as deep as the others are.
    snare = snares > 0.35 * np.percentile(snares, 95)
    usual = float(np.median(deep[yes & ~snare])) if (yes & ~snare).any() else 0.0
    return np.asarray(yes & (~snare | (deep > _UNDER_SNARE * usual)))


def _are_bodies(rose: Array) -> bool:
    """Whether low rises that all lie under snares are mostly the bodies of these."""
    deepest, deep, body = rose[:, :3].T
    found = (deep < body * 10 ** (_UNDER_BODY_DB / 20)) & (deepest < deep * 10 ** (_UNDER_DEEP_DB / 20))
    found &= rose[:, 5:9].max(axis=1) > body * 10 ** (_WIRES_DB / 20)
    return bool(np.mean(found) > 0.5)


def _learned(rose: Array, table: _Set) -> Array:
    """The usual bands of every drum of a set, moved to those of this loop's own."""
    usual = 10 ** (np.array(table) / 20)
    usual = usual / usual.sum(axis=1, keepdims=True)
    shapes = usual.copy()
    heard = rose / max(float(rose.max()), 1e-12) + 1e-6
    amounts = _amounts(heard, shapes) + 1e-3
    # The mean of many is none of them exactly.
    kept = _KEPT_OF_A_SET if _BRIGHT_HAT in table else _KEPT
    for _ in range(_ROUNDS):
        ratio = heard / (amounts @ shapes)
        amounts *= ratio @ shapes.T
        ratio = heard / (amounts @ shapes)
        moved = shapes * (amounts.T @ ratio)
        for lane in range(len(KINDS)):
            mass = moved[lane].sum()
            shape = moved[lane] + kept * mass * usual[lane]
            shapes[lane] = shape / shape.sum()
    return np.asarray(shapes / shapes.max(axis=1, keepdims=True))


def _has_body(rose: Array, alone: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Which onsets have as much body as a snare has: told where the loop's own fall into two groups."""
    low, high = (np.maximum(rose[:, part].max(axis=1), 1e-12) for part in (slice(2, 4), slice(4, 9)))
    body_db = np.clip(20 * np.log10(low / high), -40.0, 20.0)
    limit = _BODY_DB
    known = np.sort(body_db[alone])
    gaps = np.diff(known)
    if gaps.size:
        between = 0.5 * (known[1:] + known[:-1])
        gaps = np.where(np.abs(between - _BODY_DB) < _BODY_WITHIN_DB, gaps, 0.0)
        widest = int(np.argmax(gaps))
        if gaps[widest] > _BODY_GAP_DB:
            limit = float(between[widest])
    return np.asarray(body_db > np.where(alone, limit, limit + _BODY_GAP_DB))


def _falls_db(level: Array, found: list[int]) -> Array:
    """How far some bands, shape (frames,), fall soon after every onset: a drum's do, a bass note's not."""
    out = []
    for at in found:
        top = float(level[at : at + round(0.06 / _HOP_S)].max())
        later = level[at + round(_FALLEN_S[0] / _HOP_S) : at + round(_FALLEN_S[1] / _HOP_S)]
        least = float(later.min()) if later.size else 0.0
        out.append(10 * float(np.log10(max(top, 1e-12) / max(least, 1e-12))))
    return np.array(out)
