"""Two sounds over each other in the low band, 20-150 Hz."""

from dataclasses import asdict, dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from juglant.core.measure.levels import THIRD_OCTAVES_HZ, Spectrum
from juglant.core.process.filters import low_band

Array = NDArray[np.float64]

LEVEL_WINDOW_MS, LEVEL_STEP_MS = 10.0, 1.0
PRESENT_DB = 18.0
MARGIN_DB = 6.0
_SUM_WINDOW_MS = 50.0
_NOTHING_DB = -200.0
# The third octaves in which kick and bass may share a band.
LOW_BANDS_HZ = tuple(hz for hz in THIRD_OCTAVES_HZ if hz < 320)


@dataclass(frozen=True)
class LowLevel:
    """The low band of one sound, and its level L(t) every millisecond in dB."""

    band: Array
    rate: float
    level_db: Array

    @property
    def present(self) -> NDArray[np.bool_]:
        """Where the level is within 18 dB of its own maximum."""
        top = float(self.level_db.max())
        if top <= _NOTHING_DB + 40:
            return np.zeros(self.level_db.size, dtype=bool)
        return np.asarray(self.level_db > top - PRESENT_DB)


def low_level(x: Array, rate: float, *, loop: bool) -> LowLevel:
    """Level of the low band of `x`, shape (frames,): RMS over 10 ms, every 1 ms."""
    return levelled(*low_band(x, rate, loop=loop), loop=loop)


def levelled(band: Array, slow: float, *, loop: bool) -> LowLevel:
    """The level of a low band that is known already; `slow` is its rate in Hz."""
    count = max(1, round(LEVEL_WINDOW_MS / 1000 * slow))
    power = ndimage.uniform_filter1d(band * band, count, mode="wrap" if loop else "constant")
    at = np.arange(0.0, band.size / slow * 1000 - 1e-9, LEVEL_STEP_MS) / 1000 * slow
    sampled = np.interp(at, np.arange(band.size), np.maximum(power, 0.0))
    return LowLevel(band, slow, 10 * np.log10(np.maximum(sampled, 1e-20)))


@dataclass(frozen=True)
class Overlap:
    """The numbers of two sounds over each other; None with a reason where there are none."""

    kick_over_bass_db: float | None
    collision_ms: float
    collision_share: float | None
    summation_worst_db: float | None
    summation_mean_db: float | None
    shared_bands: list[float]
    reasons: dict[str, str]

    def as_dict(self) -> dict[str, Any]:
        """Plain values under the names of the definitions."""
        return asdict(self)


def colliding(kick: LowLevel, bass: LowLevel) -> NDArray[np.bool_]:
    """Where both are present and the bass is not at least 6 dB under the kick."""
    return np.asarray(kick.present & bass.present & (bass.level_db > kick.level_db - MARGIN_DB))


def summation(kick: LowLevel, bass: LowLevel) -> tuple[float | None, float | None]:
    """Worst and energy-weighted mean of the summation gain, over windows with both present."""
    width = max(1, round(_SUM_WINDOW_MS / 1000 * kick.rate))
    count = kick.band.size // width
    k, b = (s.band[: count * width].reshape(count, width) for s in (kick, bass))
    steps = kick.level_db.size
    both = kick.present & bass.present
    centre = np.minimum(((np.arange(count) + 0.5) * _SUM_WINDOW_MS).astype(int), steps - 1)
    # Present in most of the window, not only at its middle.
    share = ndimage.uniform_filter1d(both.astype(float), round(_SUM_WINDOW_MS), mode="nearest")
    chosen = share[centre] > 0.5
    if not chosen.any():
        return None, None
    apart = (k * k).sum(axis=1) + (b * b).sum(axis=1)
    summed = ((k + b) ** 2).sum(axis=1)
    gains = 10 * np.log10(np.maximum(summed[chosen], 1e-20) / np.maximum(apart[chosen], 1e-20))
    mean = 10 * np.log10(max(float(summed[chosen].sum() / apart[chosen].sum()), 1e-20))
    return float(gains.min()), float(mean)


def shared_bands(kick: Spectrum, bass: Spectrum) -> list[float]:
    """Mid-bands, in Hz, in which both lie within 6 dB of each other and within 18 dB of the
    louder one's strongest band.
    """
    k, b = (10 * np.log10(np.maximum(sound.third_octaves(LOW_BANDS_HZ), 1e-20)) for sound in (kick, bass))
    strongest = max(float(k.max()), float(b.max()))
    near = np.abs(k - b) <= MARGIN_DB
    strong = np.minimum(k, b) > strongest - PRESENT_DB
    return [hz for hz, yes in zip(LOW_BANDS_HZ, near & strong, strict=True) if yes]


def overlap(
    kick: LowLevel, bass: LowLevel, kicks: int, kick_spectrum: Spectrum, bass_spectrum: Spectrum
) -> Overlap:
    """Compare a kick track with a bass track of the same length that holds `kicks` kicks."""
    reasons: dict[str, str] = {}
    present = kick.present
    clash = colliding(kick, bass)
    over: float | None = None
    share: float | None = None
    if not present.any():
        reasons["kick_over_bass_db"] = "the kick has no low band"
    elif float(bass.level_db.max()) <= _NOTHING_DB + 40:
        reasons["kick_over_bass_db"] = "the bass has no low band"
        share = 0.0
    else:
        over = float(np.median(kick.level_db[present] - bass.level_db[present]))
        share = float(clash.sum() / present.sum())
    worst, mean = summation(kick, bass)
    if worst is None:
        reasons["summation_worst_db"] = "kick and bass are never present together"
    return Overlap(
        over, float(clash.sum()) * LEVEL_STEP_MS / max(kicks, 1), share, worst, mean,
        shared_bands(kick_spectrum, bass_spectrum), reasons,
    )  # fmt: skip
