"""A ducking curve as a compressor makes it: simulated, and solved for.

The compressor is that of Giannoulis, Massberg & Reiss, "Digital Dynamic Range Compressor Design",
JAES 60(6), 2012 (`process/dynamics.py`), keyed by the trigger, with a hold before its release.
"""

from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

from juglant.core.lowend.curves import times_of
from juglant.core.lowend.ducking import curve_db
from juglant.core.lowend.loop import gaps_ms
from juglant.core.process import dynamics
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.fields import in_limits
from juglant.core.recipes.keyed import KeyedCompressor

Array = NDArray[np.float64]

# Common practice: an attack of 1 ms or less clicks; below 2:1 little is ducked.
_CLICKING_MS, _LEAST_RATIO = 1.0, 2.0
# A dip beyond the wanted depth that is told.
_OVERSHOOT_DB = 1.0
_ROUNDS = 220
_STEP_MS = 1.0


def _seen_db(key: Array, lookahead_ms: float, detector: str, rate: int) -> Array:
    """Level of two passes of a trigger loop as a detector sees it, earlier by the lookahead."""
    turned = np.roll(key, -round(lookahead_ms / 1000 * rate))
    return dynamics.detected_db(np.tile(turned, 2), rate, detector)


def _of_level(settings: KeyedCompressor, seen_db: Array, rate: int) -> Array:
    """Gain in dB over the second of two passes, whose level is `seen_db`."""
    reduction = dynamics.reduction_db(
        seen_db, rate, settings.threshold_db, settings.ratio, settings.knee_db, settings.attack_ms,
        settings.release_ms, hold_ms=settings.hold_ms,
    )  # fmt: skip
    return np.asarray(settings.makeup_db - reduction[seen_db.size // 2 :])


def gain_db(settings: KeyedCompressor, key: Array, rate: int) -> Array:
    """Gain in dB at every frame of a loop whose trigger is `key`, shape (frames,), going round.

    Parameters
    ----------
    settings
        Of the compressor.
    key, rate
        The trigger, shape (frames,); frames a second.

    Returns
    -------
    ndarray
        dB, shape (frames,).

    Examples
    --------
    >>> float(gain_db(KeyedCompressor(makeup_db=0.0), np.zeros(480), 48000).max())
    0.0
    """
    return _of_level(settings, _seen_db(key, settings.lookahead_ms, settings.detector, rate), rate)


@dataclass(frozen=True)
class AsCompressor:
    """Settings that come closest to a curve, what is left (RMS over the loop, dB), what to mind.

    `curve_db` and `made_db` are the gain that was asked for and the one that is made, every ms from
    the trigger before the tightest gap to the next.
    """

    settings: KeyedCompressor
    difference_db: float
    warnings: list[str]
    curve_db: list[float]
    made_db: list[float]


def warnings(settings: KeyedCompressor, depth_db: float, key: Array, gap_ms: float, rate: int) -> list[str]:
    """What to mind about settings that are to reach `depth_db` (above 0) and to return in `gap_ms`.

    Parameters
    ----------
    settings
        Of the compressor.
    depth_db
        Above 0.
    key
        The trigger, shape (frames,).
    gap_ms, rate
        From one trigger to the next; frames a second.

    Returns
    -------
    list of str
        Sentences.

    Examples
    --------
    >>> warnings(KeyedCompressor(attack_ms=0.5), 6.0, np.zeros(4800), 500.0, 48000)[0]
    'An attack of 0.5 ms clicks on a held low note.'
    """
    said = []
    if settings.attack_ms <= _CLICKING_MS:
        said.append(f"An attack of {settings.attack_ms:.1f} ms clicks on a held low note.")
    made = gain_db(settings, key, rate) - settings.makeup_db
    deepest = -float(made.min())
    # Back within 1 dB, as the ducking itself is judged.
    after = settings.hold_ms + settings.release_ms * float(np.log(max(deepest, 1.0)))
    if after > gap_ms:
        said.append(
            f"The release reaches past the next trigger: {after:.0f} ms until it is back, {gap_ms:.0f} ms "
            "between triggers."
        )
    if deepest > depth_db + _OVERSHOOT_DB:
        why = "" if settings.hold_ms else ", as it must without a hold"
        beyond = deepest - depth_db
        said.append(f"It dips {beyond:.1f} dB deeper than the {depth_db:.1f} dB wanted, for a moment{why}.")
    if depth_db > 1 and deepest < 0.8 * depth_db:
        said.append(
            f"It reaches {deepest:.1f} dB of the {depth_db:.1f} dB wanted: a higher ratio or a "
            "lower threshold goes deeper."
        )
    elif settings.ratio < _LEAST_RATIO:
        said.append("A ratio below 2:1 makes the depth depend on every change of the trigger’s level.")
    return said


def _limited(x: Array, detector: str, lookahead_ms: float) -> KeyedCompressor:
    """Settings from a point of the search, on their controls' steps and within their limits."""
    values = in_limits(
        KeyedCompressor, threshold_db=round(float(x[0]), 1), ratio=round(float(np.exp(x[1])), 1),
        attack_ms=max(round(float(np.exp(x[2])), 1), _CLICKING_MS + 0.1),
        release_ms=float(np.round(np.exp(x[3]))), knee_db=round(float(x[4]), 1),
        hold_ms=float(np.round(np.exp(x[5]) - 1)) if x.size > 5 else 0.0,
        lookahead_ms=round(lookahead_ms, 1),
    )  # fmt: skip
    return KeyedCompressor.model_validate({**values, "detector": detector})


def _searched(target: Array, key: Array, recipe: DuckRecipe, rate: int, *, holds: bool) -> KeyedCompressor:
    """The closest settings over one stretch of curve and trigger, with or without a hold."""
    every = max(1, round(_STEP_MS / 1000 * rate))
    loudest = 20 * float(np.log10(max(float(np.max(np.abs(key))), 1e-6)))
    depth = max(recipe.depth_db, 0.1)
    attack, held, release_ms = times_of(recipe)
    best: tuple[float, KeyedCompressor] | None = None
    starts = (("peak", 8.0, 1.0), ("peak", 20.0, 0.3), ("RMS", 8.0, 1.0))
    for detector, ratio, share in starts if holds else starts[::2]:
        hold = share * held
        release = release_ms / 3 if holds else (held + release_ms) / 3
        start = np.array([
            loudest - depth / (1 - 1 / ratio) - 3.0, np.log(ratio), np.log(max(attack, 2.4) / 2),
            np.log(max(release, 5.0)), 6.0, np.log(1 + hold),
        ])  # fmt: skip
        steps = np.diag([4.0, 0.5, 0.6, 0.5, 4.0, 0.8])
        if not holds:
            start, steps = start[:5], steps[:5, :5]

        lookahead_ms = _limited(start, detector, recipe.lookahead_ms).lookahead_ms
        seen_db = _seen_db(key, lookahead_ms, detector, rate)

        def off_by(x: Array, detector: str = detector, seen_db: Array = seen_db) -> float:
            made = _of_level(_limited(x, detector, recipe.lookahead_ms), seen_db, rate)
            return float(np.mean((made - target)[::every] ** 2))

        found = scipy.optimize.minimize(
            off_by, start, method="Nelder-Mead",
            options={
                "maxfev": _ROUNDS, "initial_simplex": np.vstack([start, start + steps]), "xatol": 0.02,
                "fatol": 1e-4,
            },
        )  # fmt: skip
        if best is None or found.fun < best[0]:
            best = (float(found.fun), _limited(found.x, detector, recipe.lookahead_ms))
    assert best is not None
    return best[1]


def _tightest(frames: int, times_ms: list[float], length_ms: float, rate: int) -> NDArray[np.int64]:
    """Frames of the loop from the trigger before the tightest gap to the next one."""
    gaps = gaps_ms(times_ms, length_ms)
    at = int(np.argmin(gaps))
    return (round(times_ms[at] / 1000 * rate) + np.arange(round(gaps[at] / 1000 * rate))) % frames


def solve(
    recipe: DuckRecipe, key: Array, times_ms: list[float], length_ms: float, rate: int
) -> list[AsCompressor]:
    """The settings whose gain comes closest to a ducking curve, keyed by the loop `key`: for a
    compressor that has a hold, then for one that has none.

    Searched over the tightest gap between triggers (Nelder & Mead's simplex from several starts,
    peak and RMS detector); what is then left is measured over the whole loop.

    Parameters
    ----------
    recipe
        The curve.
    key, times_ms
        The trigger, shape (frames,); when it is struck, from the loop’s start.
    length_ms, rate
        Length of the loop; frames a second.

    Returns
    -------
    list of AsCompressor
        One with a hold, one without.

    Examples
    --------
    >>> key = np.zeros(24000)
    >>> key[:2400] = 0.5 * np.sin(2 * np.pi * 60 * np.arange(2400) / 48000)
    >>> len(solve(DuckRecipe(depth_db=6.0), key, [0.0], 500.0, 48000))
    2
    """
    target = curve_db(recipe, times_ms, length_ms, 1000 / rate, loop=True)[: key.size]
    gaps = gaps_ms(times_ms, length_ms)
    part = _tightest(key.size, times_ms, length_ms, rate)
    every = max(1, round(_STEP_MS / 1000 * rate))
    found = []
    for holds in (True, False):
        settings = _searched(target[part], key[part], recipe, rate, holds=holds)
        made = gain_db(settings, key, rate)
        left = float(np.sqrt(np.mean((made - target) ** 2)))
        said = warnings(settings, recipe.depth_db, key, min(gaps), rate)
        curves = (target[part][::every], made[part][::every])
        found.append(AsCompressor(settings, left, said, *(curve.round(2).tolist() for curve in curves)))
    return found
