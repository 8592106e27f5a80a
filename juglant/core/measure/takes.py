"""A recording of hits, cut into takes.

Onsets are rises of the level in several bands at once (after S. Böck & G. Widmer, "Maximum
filter vibrato suppression for onset detection", DAFx 2013, with octaves for its filter bank),
found on a coarse grid and then placed on the samples themselves.
"""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from juglant.core.measure.hit import HitNumbers, measure
from juglant.core.measure.stereo import mono
from juglant.core.process import filters
from juglant.core.recipes.recording import Recording

Array = NDArray[np.float64]

HOP_MS = 1.0
# Edges of the bands whose levels are watched.
_EDGES_HZ = (60.0, 200.0, 600.0, 1800.0, 5000.0, 12000.0)
_WINDOW_MS = 3.0
# A rise is counted against the level this long before.
_BEFORE_MS, _REFERENCE_MS = 4.0, 14.0
# Where within a rise the transient itself begins: this far above what was there before.
_ABOVE_DB, _CYCLE_MS = 10.0, 6.0
_LEAST_MS, _BEFORE_CUT_MS, _FADE_MS = 12.0, 3.0, 2.0
_DEAD_DB = 50.0
THRESHOLD_DB, MIN_GAP_MS = (
    float(Recording.model_fields[name].default) for name in ("threshold_db", "min_gap_ms")
)
MOST_TAKES = 400


@dataclass(frozen=True)
class Cut:
    """Where a take lies in its recording, ms; `onset_ms` is its first transient."""

    start_ms: float
    onset_ms: float
    end_ms: float


def _levels_db(x: Array, rate: int) -> tuple[Array, Array]:
    """Level of every band each millisecond, shape (bands, steps), and its noise floor."""
    step = round(HOP_MS / 1000 * rate)
    width = max(1, round(_WINDOW_MS / 1000 * rate))
    out = []
    for low, high in zip(_EDGES_HZ, (*_EDGES_HZ[1:], 20000.0), strict=True):
        if low > 0.4 * rate:
            break
        band = filters.filtered(x, filters.steep("highpass", low, 12, rate))
        if high < 0.45 * rate:
            band = filters.filtered(band, filters.steep("lowpass", high, 12, rate))
        power = ndimage.uniform_filter1d(band * band, width, mode="constant")[::step]
        out.append(10 * np.log10(np.maximum(power, 1e-14)))
    bands = np.array(out)
    # What is exceeded nearly always is the room.
    floor = np.percentile(bands, 15, axis=1)[:, None]
    return bands, floor


def _strength(bands: Array, floor: Array) -> Array:
    """How far all bands together rise at each step, in dB: the two largest rises count."""
    # Below 6 dB over the room nothing counts as level: noise is always on the move.
    heard = np.maximum(bands, floor + 6.0)
    before = round(_BEFORE_MS / HOP_MS)
    width = round((_REFERENCE_MS - _BEFORE_MS) / HOP_MS)
    # The highest level of a stretch that ended a little ago.
    past = ndimage.maximum_filter1d(heard, width, axis=1, mode="nearest")
    past = np.roll(past, before + width // 2, axis=1)
    past[:, : before + width] = floor + 6.0
    rise = np.sort(np.maximum(heard - past, 0.0), axis=0)
    return np.asarray(0.5 * (rise[-1] + rise[-2]))


def onsets_ms(
    x: Array, rate: int, threshold_db: float = THRESHOLD_DB, min_gap_ms: float = MIN_GAP_MS
) -> list[float]:
    """Times of the first transient of every hit in `x`, shape (frames,).

    `threshold_db` is the rise that makes an onset, the two loudest rises of six bands taken
    together; two onsets are at least `min_gap_ms` apart.
    """
    if x.size < rate // 50 or float(np.max(np.abs(x))) < 1e-6:
        return []
    # An offset that begins with the file is a step, but no onset.
    bands, floor = _levels_db(x - float(np.mean(x[: rate // 50])), rate)
    strength = _strength(bands, floor)
    gap = max(3, round(min_gap_ms / HOP_MS))
    peaks = np.flatnonzero(
        (strength == ndimage.maximum_filter1d(strength, 9, mode="constant")) & (strength >= threshold_db)
    )
    # The stronger of two that are too close is kept.
    chosen: list[int] = []
    for peak in peaks[np.argsort(-strength[peaks], kind="stable")]:
        if all(abs(int(peak) - other) >= gap for other in chosen):
            chosen.append(int(peak))
    return sorted(_placed(x, rate, bands, step) for step in chosen[:MOST_TAKES])


def _placed(x: Array, rate: int, bands: Array, step: int) -> float:
    """The transient's own beginning, on the samples, near a step where the level rose."""
    a = max(0, step - round(_REFERENCE_MS / HOP_MS))
    rise = bands[:, step : step + 6].max(axis=1) - bands[:, a : max(a + 1, step - 4)].max(axis=1)
    # The band that rose most tells when: a soft hit is hidden in the others' tails.
    best = int(np.argmax(rise))
    low, high = _EDGES_HZ[best], (*_EDGES_HZ[1:], 20000.0)[best]
    from_frame = max(0, round((step - 24) * HOP_MS / 1000 * rate))
    to_frame = min(x.size, round((step + 8) * HOP_MS / 1000 * rate))
    piece = filters.filtered(
        x[max(0, from_frame - rate // 100) : to_frame], filters.steep("highpass", low, 12, rate)
    )
    if high < 0.45 * rate:
        piece = filters.filtered(piece, filters.steep("lowpass", high, 12, rate))
    piece = piece[from_frame - max(0, from_frame - rate // 100) :]
    quick = np.sqrt(ndimage.uniform_filter1d(piece * piece, max(1, round(0.0005 * rate)), mode="constant"))
    top = float(quick.max())
    quiet = float(np.median(quick[: max(1, round(0.010 * rate))]))
    limit = min(max(quiet * 10 ** (_ABOVE_DB / 20), 0.1 * top), 0.7 * top)
    # Back from the top: what was above the limit earlier and fell again was the room, unless
    # it came back within a cycle of a low tone.
    back = max(1, round(_CYCLE_MS / 1000 * rate)) | 1
    held = ndimage.maximum_filter1d(quick, back, origin=back // 2, mode="constant")
    below = np.flatnonzero(held[: int(np.argmax(quick)) + 1] < limit)
    return float((from_frame + (below[-1] + 1 if below.size else 0)) / rate * 1000)


def zero_before(x: Array, frame: int, reach: int) -> int:
    """The last frame at or before `frame`, within `reach`, where `x` passes through zero."""
    a = max(0, frame - reach)
    piece = x[a : frame + 1]
    crossings = np.flatnonzero(np.signbit(piece[1:]) != np.signbit(piece[:-1]))
    return a + int(crossings[-1]) + 1 if crossings.size else max(0, frame)


def cut(
    x: Array, rate: int, threshold_db: float = THRESHOLD_DB, min_gap_ms: float = MIN_GAP_MS
) -> list[Cut]:
    """Cut a recording, shape (frames,) or (frames, channels), into takes.

    Each begins at a zero crossing just before its first transient and ends where its tail has
    died into the room, or before the next hit.
    """
    heard = mono(x)
    found = onsets_ms(heard, rate, threshold_db, min_gap_ms)
    starts = [
        zero_before(heard, round(at / 1000 * rate), round(_BEFORE_CUT_MS / 1000 * rate)) for at in found
    ]
    width = max(1, round(0.010 * rate))
    level = np.sqrt(ndimage.uniform_filter1d(heard * heard, width, mode="constant"))
    room = float(np.percentile(level, 10)) if level.size else 0.0
    out = []
    for index, start in enumerate(starts):
        limit = starts[index + 1] if index + 1 < len(starts) else heard.size
        piece = level[start:limit]
        top = float(piece.max(initial=0.0))
        # 3 dB over the room is the room: a tail in it is heard no more.
        alive = np.flatnonzero(piece > max(1.41 * room, top * 10 ** (-_DEAD_DB / 20)))
        end = start + (int(alive[-1]) + 1 if alive.size else piece.size)
        end = min(max(end + width, start + round(_LEAST_MS / 1000 * rate)), limit)
        if index + 1 < len(starts) and end >= limit - round(_FADE_MS / 1000 * rate):
            end = zero_before(heard, limit - 1, round(_FADE_MS / 1000 * rate))
        out.append(Cut(start / rate * 1000, found[index], max(end, start + 2) / rate * 1000))
    return out


def piece_of(x: Array, rate: int, where: Cut) -> Array:
    """A take's samples, their end faded over 2 ms so that the cut is not heard."""
    a, b = (round(ms / 1000 * rate) for ms in (where.start_ms, where.end_ms))
    piece = x[a:b].copy()
    frames = min(round(_FADE_MS / 1000 * rate), piece.shape[0])
    fade = 0.5 + 0.5 * np.cos(np.pi * np.arange(1, frames + 1) / frames)
    piece[piece.shape[0] - frames :] *= fade if x.ndim == 1 else fade[:, None]
    return piece


@dataclass(frozen=True)
class JobGuess:
    """Which part a sound could play, and why."""

    job: str
    reasons: list[str]


def guess_job(hit: HitNumbers) -> JobGuess:
    """The job that a sound's depth, attack, noise-likeness and length fit (common practice).

    Kick: deepest, sharp. Snare: short, sharp, higher than a kick. Hat: fast, noise-like, sharp,
    high. Tom: pitched, in the middle. Else texture.
    """
    bands = hit.bands_db or {}
    energy = {name: 10 ** (db / 10) for name, db in bands.items()}
    low = energy.get("sub", 0.0) + energy.get("thump", 0.0)
    high = energy.get("snap", 0.0) + energy.get("air", 0.0)
    centroid, flatness = hit.centroid_hz or 0.0, hit.flatness or 0.0
    attack = hit.attack_ms if hit.attack_ms is not None else 0.0
    length = hit.decay20_ms if hit.decay20_ms is not None else hit.length_ms
    depth = f"{100 * low:.0f} % of it lies below 120 Hz"
    noisy = f"noise-likeness {flatness:.2f}"
    sharp = f"attack {attack:.1f} ms"
    if attack > 25 or length > 900:
        return JobGuess("texture", [sharp, f"down 20 dB only after {length:.0f} ms"])
    if low > 0.5:
        return JobGuess("kick", [depth, sharp])
    if high > 0.6 and length < 400:
        return JobGuess("hat", [f"{100 * high:.0f} % of it lies above 2 kHz", sharp, noisy])
    if (
        hit.note is not None
        and hit.fundamental_hz is not None
        and hit.fundamental_hz < 500
        and flatness < 0.02
    ):
        return JobGuess("tom", [f"sounds {hit.note}", noisy])
    if centroid > 250 and length < 500:
        return JobGuess(
            "snare", [f"centroid {centroid:.0f} Hz", sharp, f"down 20 dB after {length:.0f} ms"]
        )
    return JobGuess("texture", [f"centroid {centroid:.0f} Hz", noisy])


@dataclass(frozen=True)
class TakeNumbers:
    """What is measured of one take; times in ms in the recording."""

    start_ms: float
    onset_ms: float
    end_ms: float
    length_ms: float
    level_dbfs: float
    noise_before_db: float | None
    note: str | None
    cents: float | None
    centroid_hz: float | None
    job: str
    reasons: list[str]


def take_numbers(x: Array, rate: int, where: Cut, a4_hz: float = 440.0, flats: bool = False) -> TakeNumbers:
    """Measure one take of a recording, shape (frames,) or (frames, channels).

    `level_dbfs` is its peak; `noise_before_db` the RMS of the 50 ms before it, re that peak,
    None where the recording begins sooner.
    """
    a, b = (round(ms / 1000 * rate) for ms in (where.start_ms, where.end_ms))
    piece = x[a:b]
    hit = measure(piece, rate, a4_hz, flats).hit
    before = mono(x)[max(0, a - round(0.05 * rate)) : a]
    noise = None
    if before.size >= round(0.02 * rate) and hit.peak_dbfs > -120:
        rms = float(np.sqrt(np.mean(before * before)))
        noise = 20 * float(np.log10(max(rms, 1e-9))) - hit.peak_dbfs
    guess = guess_job(hit)
    return TakeNumbers(
        where.start_ms, where.onset_ms, where.end_ms, where.end_ms - where.start_ms, hit.peak_dbfs, noise,
        hit.note, hit.cents, hit.centroid_hz, guess.job, guess.reasons,
    )  # fmt: skip


# Takes within this of each other are the same stroke (common practice); this far down is softer.
_SAME_DB = 3.0


def strength_groups(levels_dbfs: list[float]) -> list[list[int]]:
    """Takes of one sound by strength, the strongest first: each group is one velocity layer.

    A group ends where the level falls by more than 3 dB from its own strongest; the takes in it
    are round robins of each other.
    """
    order = sorted(range(len(levels_dbfs)), key=lambda index: -levels_dbfs[index])
    groups: list[list[int]] = []
    for index in order:
        if groups and levels_dbfs[groups[-1][0]] - levels_dbfs[index] <= _SAME_DB:
            groups[-1].append(index)
        else:
            groups.append([index])
    return groups


def reaches(groups: list[list[int]], levels_dbfs: list[float]) -> list[float]:
    """Up to which strength, 0 to 1, each group plays: halfway in dB to the next stronger one.

    Strength and level follow the square that playing back uses: twice as strong is 12 dB.
    """
    tops = [levels_dbfs[group[0]] for group in groups]
    out = [1.0]
    for stronger, softer in pairwise(tops):
        between = 0.5 * (stronger + softer) - tops[0]
        out.append(float(np.clip(10 ** (between / 40), 0.02, 0.99)))
    return out
