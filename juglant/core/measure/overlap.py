"""Two sounds over each other: in the low band, 20-150 Hz, and in what the kick keeps of it."""

from collections.abc import Callable
from dataclasses import asdict, dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from juglant.core.measure.levels import THIRD_OCTAVES_HZ, Spectrum
from juglant.core.process.lowpart import low_band
from juglant.core.recipes.brief import Owner

Array = NDArray[np.float64]

LEVEL_WINDOW_MS, LEVEL_STEP_MS = 10.0, 1.0
PRESENT_DB = 18.0
MARGIN_DB = 6.0
# By who owns the sub: how far over the kick the bass may come in what the kick keeps, and the share of
# the kick for which it may come further. A bass that is further than this under the kick's loudest
# moment covers nothing.
ALLOWED_DB: dict[Owner, float] = {"kick": -MARGIN_DB, "bass": 3.0}
COLLISION_SHARE: dict[Owner, float] = {"kick": 0.10, "bass": 0.30}
COUNTED_DB = 15.0
_SUM_WINDOW_MS = 50.0
_NOTHING_DB = -200.0
# The third octaves in which kick and bass may share a band.
LOW_BANDS_HZ = tuple(hz for hz in THIRD_OCTAVES_HZ if hz < 320)


@dataclass(frozen=True)
class LowLevel:
    """The low part of one sound, and its level L(t) every millisecond in dB.

    Where the band in question moves with the notes, `bands` holds the sound in each of the bands and
    `at`, one number a millisecond, says which of them is read.
    """

    bands: tuple[Array, ...]
    rate: float
    level_db: Array
    at: NDArray[np.int64] | None = None
    # What of each band a ducking would leave alone; None where it would leave nothing.
    spared: tuple[Array, ...] | None = None
    # Through which gains over Hz the bands were read: what is changed over time rings in them again.
    gains: tuple[Callable[[Array], Array], ...] | None = None

    @property
    def band(self) -> Array:
        """The sound in its only band."""
        return self.bands[0]

    @property
    def top_db(self) -> float:
        """The highest level, in dB."""
        return float(self.level_db.max())

    @property
    def present(self) -> NDArray[np.bool_]:
        """Where the level is within 18 dB of its own maximum."""
        if self.top_db <= _NOTHING_DB + 40:
            return np.zeros(self.level_db.size, dtype=bool)
        return np.asarray(self.level_db > self.top_db - PRESENT_DB)


def low_level(x: Array, rate: float, *, loop: bool) -> LowLevel:
    """Level of the low band of `x`, shape (frames,): RMS over 10 ms, every 1 ms.

    Parameters
    ----------
    x, rate
        Samples, shape (frames,); frames a second.
    loop
        Whether the end is followed by the start.

    Returns
    -------
    LowLevel
        The band and its level in dB.

    Examples
    --------
    >>> at = np.arange(48000) / 48000
    >>> x = np.sin(2 * np.pi * 60 * at)
    >>> round(low_level(x, 48000, loop=True).top_db)
    -3
    """
    return levelled(*low_band(x, rate, loop=loop), loop=loop)


def level_db(band: Array, rate: float, window_ms: float, *, loop: bool) -> Array:
    """RMS over a window around every millisecond of a band-limited sound at `rate` Hz, in dB.

    Parameters
    ----------
    band, rate
        Samples, shape (frames,); frames a second.
    window_ms
        Over how long.
    loop
        Whether the end is followed by the start.

    Returns
    -------
    ndarray
        Level in dB, one for every ms.

    Examples
    --------
    >>> round(float(level_db(np.ones(3000), 3000.0, 50.0, loop=True)[0]), 1)
    0.0
    """
    count = max(1, round(window_ms / 1000 * rate))
    power = ndimage.uniform_filter1d(band * band, count, mode="wrap" if loop else "constant")
    at = np.arange(0.0, band.size / rate * 1000 - 1e-9, LEVEL_STEP_MS) / 1000 * rate
    sampled = np.interp(at, np.arange(band.size), np.maximum(power, 0.0))
    return np.asarray(10 * np.log10(np.maximum(sampled, 1e-20)))


def levelled(band: Array, rate: float, *, loop: bool) -> LowLevel:
    """The level of a band that is known already; `rate` is its own in Hz.

    Parameters
    ----------
    band, rate
        Samples, shape (frames,); frames a second.
    loop
        Whether the end is followed by the start.

    Returns
    -------
    LowLevel
        The band and its level in dB.

    Examples
    --------
    >>> levelled(np.ones(3000), 3000.0, loop=True).level_db.size
    1000
    """
    return LowLevel((band,), rate, level_db(band, rate, LEVEL_WINDOW_MS, loop=loop))


def read_from(levels_db: list[Array], at: NDArray[np.int64] | None) -> Array:
    """At every millisecond, the level in the band that is read there.

    Parameters
    ----------
    levels_db
        Of every band, one value a ms.
    at
        Which band is read when; None where there is one.

    Returns
    -------
    ndarray
        Level in dB, one for every ms.

    Examples
    --------
    >>> read_from([np.array([-3.0, -3.0]), np.array([-9.0, -9.0])], np.array([0, 1]))
    array([-3., -9.])
    """
    if at is None:
        return levels_db[0]
    steps = levels_db[0].size
    return np.asarray(np.stack(levels_db)[at_each(at, steps), np.arange(steps)])


def at_each(at: NDArray[np.int64], steps: int) -> NDArray[np.int64]:
    """Levels for so many ms: where a loop ends within one, a band at its own rate may lack it.

    Parameters
    ----------
    at
        Which band is read in every ms.
    steps
        How many ms.

    Returns
    -------
    ndarray
        As `at`, `steps` long.

    Examples
    --------
    >>> at_each(np.array([0, 1]), 3)
    array([0, 1, 1])
    """
    return np.asarray(at[np.minimum(np.arange(steps), at.size - 1)])


@dataclass(frozen=True)
class Overlap:
    """The numbers of two sounds over each other; None with a reason where there are none."""

    kick_over_bass_db: float | None
    collision_ms: float | None
    collision_share: float | None
    summation_worst_db: float | None
    summation_mean_db: float | None
    shared_bands: list[float]
    sub_edge_hz: float | None
    sub_shared_ms: float | None
    sub_level_db: float | None
    owner_loss_db: float | None
    reasons: dict[str, str]

    def as_dict(self) -> dict[str, Any]:
        """Plain values under the names of the definitions."""
        return asdict(self)


def colliding(
    kick: LowLevel, bass: LowLevel, owner: Owner = "kick", counted_db: float = COUNTED_DB
) -> NDArray[np.bool_]:
    """Where both are present in what the kick keeps, and the bass comes further up to the kick than the
    owner of the sub lets it.

    Parameters
    ----------
    kick
        Low level of the kick.
    bass
        Low level of the bass.
    owner
        Who has the lowest octave.
    counted_db
        How far under the kick’s loudest moment a bass may lie and still count.

    Returns
    -------
    ndarray of bool
        One for every ms.

    Examples
    --------
    >>> at = np.arange(48000) / 48000
    >>> low = low_level(np.sin(2 * np.pi * 55 * at), 48000, loop=True)
    >>> float(np.mean(colliding(low, low)))
    1.0
    """
    counts = bass.level_db > kick.top_db - counted_db
    covers = bass.level_db > kick.level_db + ALLOWED_DB[owner]
    return np.asarray(kick.present & bass.present & counts & covers)


def summation(kick: LowLevel, bass: LowLevel) -> tuple[float | None, float | None]:
    """Worst and energy-weighted mean of the summation gain, over windows with both present.

    Parameters
    ----------
    kick
        Low level of the kick.
    bass
        Low level of the bass.

    Returns
    -------
    tuple of float or None
        Worst and mean gain in dB: 3 where the two are in step, below 0 where they cancel.

    Examples
    --------
    >>> at = np.arange(48000) / 48000
    >>> low = low_level(np.sin(2 * np.pi * 55 * at), 48000, loop=True)
    >>> round(summation(low, low)[1], 1)
    3.0
    """
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

    Parameters
    ----------
    kick
        Spectrum of the kick.
    bass
        Spectrum of the bass.

    Returns
    -------
    list of float
        Middles of third octaves, in Hz.

    Examples
    --------
    >>> from juglant.core.measure.levels import Spectrum
    >>> at = np.arange(48000) / 48000
    >>> x = np.sin(2 * np.pi * 62 * at)
    >>> shared_bands(Spectrum(x, 48000), Spectrum(x, 48000))
    [63.09573444801933]
    """
    k, b = (10 * np.log10(np.maximum(sound.third_octaves(LOW_BANDS_HZ), 1e-20)) for sound in (kick, bass))
    strongest = max(float(k.max()), float(b.max()))
    near = np.abs(k - b) <= MARGIN_DB
    strong = np.minimum(k, b) > strongest - PRESENT_DB
    return [hz for hz, yes in zip(LOW_BANDS_HZ, near & strong, strict=True) if yes]


def over_each_other(
    kick: LowLevel, bass: LowLevel, kick_spectrum: Spectrum, bass_spectrum: Spectrum
) -> Overlap:
    """What is said of two sounds in the low band, whoever owns the sub.

    Parameters
    ----------
    kick
        Low level of the kick.
    bass
        Low level of the bass.
    kick_spectrum
        Spectrum of the kick.
    bass_spectrum
        Spectrum of the bass.

    Returns
    -------
    Overlap
        The numbers.

    Examples
    --------
    >>> from juglant.core.measure.levels import Spectrum
    >>> at = np.arange(48000) / 48000
    >>> x = np.sin(2 * np.pi * 62 * at)
    >>> low = low_level(x, 48000, loop=True)
    >>> spectrum = Spectrum(x, 48000)
    >>> round(over_each_other(low, low, spectrum, spectrum).summation_mean_db)
    3
    """
    reasons: dict[str, str] = {}
    present = kick.present
    over: float | None = None
    if not present.any():
        reasons["kick_over_bass_db"] = "the kick has no low band"
    elif bass.top_db <= _NOTHING_DB + 40:
        reasons["kick_over_bass_db"] = "the bass has no low band"
    else:
        over = float(np.median(kick.level_db[present] - bass.level_db[present]))
    worst, mean = summation(kick, bass)
    if worst is None:
        reasons["summation_worst_db"] = "kick and bass are never present together"
    shared = shared_bands(kick_spectrum, bass_spectrum)
    return Overlap(over, None, None, worst, mean, shared, None, None, None, None, reasons)
