"""Who owns the sub, by numbers: one of kick and bass, both, or nobody."""

from collections.abc import Callable
from dataclasses import replace
from functools import lru_cache, partial

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from juglant.core.measure.loopsound import LoopSound, low_band_gain
from juglant.core.measure.overlap import (
    LEVEL_STEP_MS,
    LEVEL_WINDOW_MS,
    PRESENT_DB,
    LowLevel,
    Overlap,
    at_each,
    colliding,
    level_db,
    over_each_other,
    read_from,
)
from juglant.core.measure.subedge import SubEdge
from juglant.core.process.filters import LOW_BAND_HZ, linkwitz_riley_gain, remembered
from juglant.core.recipes.brief import Owner

Array = NDArray[np.float64]

# The other keeps what lies above the edge, up to here.
OTHERS_HZ = 300.0
SHARED_LIMIT_MS, LEAST_SUB_DB, OWNER_LOSS_LIMIT_DB = 50.0, -10.5, 3.0
SHARED_MARGIN_DB = 6.0
_LOUDNESS_WINDOW_MS = 50.0
# What a filter delays is not lost: the level after may come this much later or earlier.
_DELAYED_MS = 12
_SILENT_DB = -160.0
NO_PITCH = "the owner of the sub has no measurable pitch"

Gain = Callable[[Array], Array]


def below_gain(edge: float, hz: Array) -> Array:
    """Zero-phase gain of what the owner keeps: 48 dB per octave.

    Parameters
    ----------
    edge
        Where the sub ends, in Hz.
    hz
        Frequencies in Hz.

    Returns
    -------
    ndarray
        Linear gain, shape of `hz`.

    Examples
    --------
    >>> below_gain(70.0, np.array([35.0, 70.0, 140.0])).round(3)
    array([0.996, 0.5  , 0.004])
    """
    return np.asarray(1 / (1 + (hz / edge) ** 8))


def sub_gain(edge: float, hz: Array) -> Array:
    """Zero-phase gain through which the sub is read: below the edge, with the low band's lower end.

    Parameters
    ----------
    edge
        Where the sub ends, in Hz.
    hz
        Frequencies in Hz.

    Returns
    -------
    ndarray
        Linear gain, shape of `hz`.

    Examples
    --------
    >>> sub_gain(70.0, np.array([5.0, 45.0, 140.0])).round(2)
    array([0.  , 0.94, 0.  ])
    """
    return np.asarray(below_gain(edge, hz) * linkwitz_riley_gain(hz, LOW_BAND_HZ[0])[1])


def _others_gain(edge: float, hz: Array) -> Array:
    return np.asarray((1 - below_gain(edge, hz)) * linkwitz_riley_gain(hz, OTHERS_HZ)[0])


def _whole_gain(hz: Array) -> Array:
    return np.asarray(linkwitz_riley_gain(hz, OTHERS_HZ)[0] * linkwitz_riley_gain(hz, LOW_BAND_HZ[0])[1])


_WHOLE = remembered(_whole_gain)


def kept_gains(owner: Owner, edge: SubEdge | None) -> list[Gain] | None:
    """What the kick keeps of the low end: all of it where it owns the sub, else what lies above the
    edge; a gain per edge. None where the bass owns it and has no pitch.

    Parameters
    ----------
    owner
        Who has the lowest octave.
    edge
        Where the owner’s sub ends; None without pitch.

    Returns
    -------
    list of callable, or None
        Gains over Hz, one for every edge.

    Examples
    --------
    >>> len(kept_gains("kick", None)), kept_gains("bass", None)
    (1, None)
    """
    if owner == "kick":
        return [low_band_gain]
    return None if edge is None else [partial(_others_gain, hz) for hz in edge.hz]


def _read_level(sound: LoopSound, gains: list[Gain], at: NDArray[np.int64] | None) -> LowLevel:
    """The level of a sound in a band, or in bands that follow each other."""
    rate, bands = sound.decimated[1], tuple(sound.low.under(gain) for gain in gains)
    found = [level_db(band, rate, LEVEL_WINDOW_MS, loop=sound.loop) for band in bands]
    return LowLevel(bands, rate, read_from(found, at), at, gains=tuple(gains))


def kept_levels(
    kick: LoopSound, bass: LoopSound, owner: Owner, edge: SubEdge | None
) -> tuple[LowLevel, LowLevel] | None:
    """Both sides in what the kick keeps: where they may collide.

    Parameters
    ----------
    kick
        One pass of the kick.
    bass
        One pass of the bass.
    owner
        Who has the lowest octave.
    edge
        Where the owner’s sub ends.

    Returns
    -------
    tuple of LowLevel, or None
        Kick and bass; None where it is not known what is kept.

    Examples
    --------
    >>> at = np.arange(48000) / 48000
    >>> sound = LoopSound(np.sin(2 * np.pi * 50 * at))
    >>> round(kept_levels(sound, sound, "kick", None)[0].top_db)
    -3
    """
    gains = kept_gains(owner, edge)
    if gains is None:
        return None
    if owner == "kick":
        return kick.level, bass.level
    assert edge is not None
    return _read_level(kick, gains, edge.at), _read_level(bass, gains, edge.at)


@lru_cache(maxsize=32)
def _sub_read(edge: float) -> Gain:
    return remembered(partial(sub_gain, edge))


def _sub_bands(sound: LoopSound, edge: SubEdge) -> list[Array]:
    """What lies below every edge."""
    return [sound.low.under(_sub_read(hz)) for hz in edge.hz]


def _levels(sound: LoopSound, bands: list[Array], window_ms: float) -> list[Array]:
    return [level_db(band, sound.decimated[1], window_ms, loop=sound.loop) for band in bands]


def sub_levels(sound: LoopSound, edge: SubEdge, window_ms: float) -> Array:
    """Level below the edge every millisecond, in dB.

    Parameters
    ----------
    sound
        One pass of a loop.
    edge
        Where the owner’s sub ends.
    window_ms
        Over how long.

    Returns
    -------
    ndarray
        Level in dB, one for every ms.

    Examples
    --------
    >>> from juglant.core.measure.subedge import sub_edge
    >>> at = np.arange(48000) / 48000
    >>> sound = LoopSound(np.sin(2 * np.pi * 50 * at))
    >>> round(float(sub_levels(sound, sub_edge(50.0), 50.0).max()))
    -4
    """
    return read_from(_levels(sound, _sub_bands(sound, edge), window_ms), edge.at)


def _shared_ms(owner_db: Array, other_db: Array, kicks: int) -> float:
    """Time per kick in which both are loud below the edge, from their levels there."""
    return float(_sharing(owner_db, other_db).sum()) * LEVEL_STEP_MS / max(kicks, 1)


def _sharing(owner_db: Array, other_db: Array) -> NDArray[np.bool_]:
    """Where both are loud below the edge, every ms."""
    loud = owner_db.max() - PRESENT_DB
    return np.asarray((owner_db > loud) & (other_db > loud) & (other_db > owner_db - SHARED_MARGIN_DB))


def loss_db(before_db: list[Array], after_db: list[Array], at: NDArray[np.int64] | None = None) -> float:
    """Largest fall of an owner's 50 ms level below the edge, where it was loud before.

    Levels are given for every edge, `at` says which is read when. A window that holds two notes has two
    edges; the one that loses less is read.

    Parameters
    ----------
    before_db
        Levels before, one row for every edge.
    after_db
        Levels after.
    at
        Which edge is read in every ms; None where there is one.

    Returns
    -------
    float or None
        dB; None where there was nothing to lose.

    Examples
    --------
    >>> round(loss_db([np.zeros(500)], [np.full(500, -4.0)]), 1)
    4.0
    """
    was = read_from(before_db, at)
    loud = was > was.max() - PRESENT_DB
    falls = [
        one - ndimage.maximum_filter1d(after, 2 * _DELAYED_MS + 1, mode="wrap")
        for one, after in zip(before_db, after_db, strict=True)
    ]
    least = falls[0]
    if at is not None:
        span = round(_LOUDNESS_WINDOW_MS) + 2 * _DELAYED_MS + 1
        at = at_each(at, least.size)
        near = [ndimage.maximum_filter1d((at == n).astype(np.int8), span, mode="wrap") > 0
                for n in range(len(falls))]  # fmt: skip
        least = np.min([np.where(there, fall, np.inf) for there, fall in zip(near, falls, strict=True)], 0)
    return max(float(np.max(least[loud], initial=0.0)), 0.0)


def owner_loss(before: LoopSound, after: LoopSound, edge: SubEdge | None) -> float | None:
    """What its owner loses of the sub; None without pitch, or where it has no sub to lose.

    Parameters
    ----------
    before
        The owner before.
    after
        The owner after.
    edge
        Where its sub ends.

    Returns
    -------
    float or None
        dB.

    Examples
    --------
    >>> from juglant.core.measure.subedge import sub_edge
    >>> at = np.arange(48000) / 48000
    >>> sound = LoopSound(np.sin(2 * np.pi * 50 * at))
    >>> quieter = LoopSound(0.5 * sound.samples)
    >>> round(owner_loss(sound, quieter, sub_edge(50.0)), 1)
    6.0
    """
    if edge is None:
        return None
    return _loss(before, after, edge, _levels(after, _sub_bands(after, edge), _LOUDNESS_WINDOW_MS))


def _loss(before: LoopSound, after: LoopSound, edge: SubEdge, after_db: list[Array]) -> float | None:
    same = after is before or (after.key and after.key == before.key)
    was = after_db if same else _levels(before, _sub_bands(before, edge), _LOUDNESS_WINDOW_MS)
    if max(float(one.max()) for one in was) <= _SILENT_DB:
        return None
    return 0.0 if same else loss_db(was, after_db, edge.at)


def overlap(
    kick: LoopSound, bass: LoopSound, kicks: int, owner: Owner = "kick",
    edge: SubEdge | None = None, before: LoopSound | None = None,
) -> tuple[Overlap, NDArray[np.bool_]]:  # fmt: skip
    """Compare a kick track with a bass track of the same length that holds `kicks` kicks: the numbers,
    and where the two collide, every ms.

    `before` is the owner of the sub before anything was taken from it.

    Parameters
    ----------
    kick
        One pass of the kick.
    bass
        One pass of the bass.
    kicks
        How many there are.
    owner
        Who has the lowest octave.
    edge
        Where its sub ends.
    before
        The owner before it gave anything up; as it is where it gave nothing.

    Returns
    -------
    tuple of Overlap and ndarray of bool
        The numbers, and where the two collide, every ms.

    Examples
    --------
    >>> at = np.arange(48000) / 48000
    >>> sound = LoopSound(np.sin(2 * np.pi * 50 * at))
    >>> numbers, where = overlap(sound, sound, 4)
    >>> round(float(np.mean(where)))
    1
    """
    found = over_each_other(kick.level, bass.level, kick.spectrum, bass.spectrum)
    reasons = dict(found.reasons)
    kept = kept_levels(kick, bass, owner, edge)
    if kept is None:
        reasons["collision_share"] = NO_PITCH
        clash = np.zeros(kick.level.level_db.size, dtype=bool)
    else:
        clash = colliding(*kept, owner)
        present = int(kept[0].present.sum())
        found = replace(
            found, collision_ms=float(clash.sum()) * LEVEL_STEP_MS / max(kicks, 1),
            collision_share=float(clash.sum()) / present if present else None,
        )  # fmt: skip
        if not present:
            reasons["collision_share"] = "the kick is silent where it would meet the bass"
    if edge is None:
        reasons["sub_edge_hz"] = NO_PITCH
        return replace(found, reasons=reasons), clash
    mine, other = (kick, bass) if owner == "kick" else (bass, kick)
    bands = [_sub_bands(one, edge) for one in (mine, other)]
    levels = [
        read_from(_levels(one, band, LEVEL_WINDOW_MS), edge.at)
        for one, band in zip((mine, other), bands, strict=True)
    ]
    both = kick.low.under(_WHOLE) + bass.low.under(_WHOLE)
    whole = level_db(both, kick.decimated[1], _LOUDNESS_WINDOW_MS, loop=kick.loop)
    mine_db = _levels(mine, bands[0], _LOUDNESS_WINDOW_MS)
    own = read_from(mine_db, edge.at)
    if whole.max() <= _SILENT_DB:
        reasons["sub_level_db"] = "there is no low end"
        return replace(found, sub_edge_hz=edge.said_hz, reasons=reasons), clash
    level = float(own.max() - whole.max())
    shared = None
    if level < LEAST_SUB_DB:
        reasons["sub_shared_ms"] = "nobody owns the sub"
    else:
        shared = _shared_ms(levels[0], levels[1], kicks)
    loss = None if before is None else _loss(before, mine, edge, mine_db)
    found = replace(
        found, sub_edge_hz=edge.said_hz, sub_shared_ms=shared, sub_level_db=level, owner_loss_db=loss,
        reasons=reasons,
    )  # fmt: skip
    return found, clash
