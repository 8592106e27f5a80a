"""What each layer of a hit contributes, and what the hit lacks."""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy import fft

from juglant.core.hits.mixing import added
from juglant.core.measure.envelope import onset_ms
from juglant.core.measure.levels import BANDS_HZ, Spectrum
from juglant.core.measure.stereo import mono
from juglant.core.measure.width import SideDelay

Array = NDArray[np.float64]

# Parts of a hit after its onset, ms: first the transient, then the body, then the tail.
PARTS_MS: dict[str, tuple[float, float]] = {
    "transient": (0.0, 15.0), "body": (15.0, 90.0), "tail": (90.0, 4000.0),
}  # fmt: skip
# What a hit of its kind usually holds at least, in dB of its whole energy: band, part, limit.
# Common practice: a kick has its click at 2-4 kHz, a clap its energy from 1 kHz up, a snare the
# lower mids beside, a hat nothing low.
HOLES: dict[str, tuple[tuple[str, str, tuple[str, ...], float], ...]] = {
    "kick": (("click", "transient", ("snap",), -52.0), ("body", "body", ("thump", "boom"), -20.0)),
    "snare": (("body", "body", ("boom", "box"), -30.0), ("noise", "body", ("snap", "air"), -34.0)),
    "clap": (("body", "body", ("box", "mid"), -24.0),),
    "hat": (("stroke", "transient", ("snap", "air"), -30.0),),
    "808": (("sub", "tail", ("sub", "thump"), -16.0),),
    "tom": (("body", "body", ("thump", "boom", "box"), -18.0),),
}
# The usual range of each region in a finished hit of its kind, dB of the whole (common practice).
REGIONS = ("sub", "thump", "boom", "box", "mid", "snap")
_USUAL_DB: dict[str, tuple[tuple[int, int], ...]] = {
    "kick": ((-16, 0), (-14, 0), (-30, -3), (-40, -12), (-48, -12), (-56, -12)),
    "808": ((-8, 0), (-12, -1), (-24, -6), (-34, -12), (-42, -16), (-52, -22)),
    "snare": ((-99, -20), (-34, -14), (-14, -1), (-14, -1), (-20, -5), (-20, -3)),
    "clap": ((-99, -30), (-99, -26), (-99, -18), (-26, -8), (-6, 0), (-12, -2)),
    "hat": ((-199, -40), (-199, -40), (-199, -34), (-199, -28), (-99, -12), (-24, 0)),
    "tom": ((-40, -6), (-16, 0), (-14, 0), (-24, -4), (-36, -10), (-60, -16)),
}


def usual_db(kind: str) -> dict[str, tuple[int, int]]:
    """The usual range of every region in a hit of a kind; empty where there is no usual.

    Parameters
    ----------
    kind
        Of hit.

    Returns
    -------
    dict of str to tuple of int
        Lowest and highest level, dB of the whole, of every region.

    Examples
    --------
    >>> sorted(usual_db("kick"))[:2]
    ['boom', 'box']
    """
    return dict(zip(REGIONS, _USUAL_DB.get(kind, ()), strict=False))


# Below this change in every band nobody hears that a layer is gone (a level step of 1 dB is
# about the least that is heard, common practice); bands this far down do not count.
INAUDIBLE_DB, _COUNTED_DB = 0.5, 40.0


@dataclass(frozen=True)
class Share:
    """What one layer gives: its energy re the whole hit per band and per part, in dB."""

    layer: int
    bands_db: dict[str, float]
    parts_db: dict[str, float]
    # The largest change of any band when the layer is muted, in dB.
    missed_db: float


def _db(value: float, whole: float) -> float:
    return 10 * float(np.log10(max(value / max(whole, 1e-30), 1e-9)))


def _part_energies(x: Array, onset_s: float, rate: int) -> dict[str, float]:
    """Energy of each part of `x`, shape (frames,), after an onset."""
    out = {}
    for name, (low, high) in PARTS_MS.items():
        piece = x[round((onset_s + low / 1000) * rate) : round((onset_s + high / 1000) * rate)]
        out[name] = float(piece @ piece)
    return out


def shares(layers: dict[int, Array], rate: int) -> list[Share]:
    """What every layer contributes; layers with their offsets, by index.

    Parameters
    ----------
    layers, rate
        Samples of every layer, by its index; frames a second.

    Returns
    -------
    list of Share
        One for every layer.

    Examples
    --------
    >>> len(shares({0: np.ones(480), 1: 0.5 * np.ones(480)}, 48000))
    2
    """
    if not layers:
        return []
    sounds = {index: mono(x) for index, x in layers.items()}
    whole = added(list(sounds.values()))
    if float(np.max(np.abs(whole), initial=0.0)) < 1e-9:
        return []
    begin_s = onset_ms(whole, rate) / 1000
    total = float(whole @ whole)
    size = fft.next_fast_len(max(whole.size, rate // 2), real=True)
    hz = np.arange(size // 2 + 1) * rate / size
    parts = {index: fft.rfft(x, size) for index, x in sounds.items()}
    together = np.sum(list(parts.values()), axis=0)
    edges = np.searchsorted(hz, [low for low, _ in BANDS_HZ.values()] + [20000.0])

    def bands(spectrum: NDArray[np.complex128]) -> Array:
        power = spectrum.real**2 + spectrum.imag**2
        return np.array([power[a:b].sum() for a, b in pairwise(edges)])

    full = bands(together)
    counted = full > full.max() * 10 ** (-_COUNTED_DB / 10)
    # Energy in time to energy in the spectrum (Parseval).
    whole_power = 0.5 * size * total
    out = []
    for index, x in sounds.items():
        without = bands(together - parts[index])[counted]
        missed = max(abs(_db(left, now)) for left, now in zip(without, full[counted], strict=True))
        own = dict(zip(BANDS_HZ, (_db(energy, whole_power) for energy in bands(parts[index])), strict=True))
        spans = {name: _db(energy, total) for name, energy in _part_energies(x, begin_s, rate).items()}
        out.append(Share(index, own, spans, missed))
    return out


@dataclass(frozen=True)
class Hole:
    """Something that a hit of its kind usually has, and this one has not."""

    name: str
    value_db: float
    limit_db: float


def holes(kind: str, x: Array, rate: int) -> list[Hole]:
    """What a hit of a kind lacks; `x` of shape (frames,) or (frames, channels).

    Parameters
    ----------
    kind
        Of hit.
    x, rate
        Samples, shape (frames,) or (frames, channels); frames a second.

    Returns
    -------
    list of Hole
        What is missing; empty where nothing is.

    Examples
    --------
    >>> holes("kick", np.zeros(4800), 48000)
    []
    """
    heard = mono(x)
    if float(np.max(np.abs(heard), initial=0.0)) < 1e-6:
        return []
    begin = onset_ms(heard, rate) / 1000
    total = float(heard @ heard)
    found = []
    for name, part, bands, limit in HOLES.get(kind, ()):
        low, high = PARTS_MS[part]
        piece = heard[round((begin + low / 1000) * rate) : round((begin + high / 1000) * rate)]
        if piece.size < 8:
            continue
        # Ends that are cut would spread over all bands: they are eased, but for an onset.
        ease = np.minimum(1.0, np.arange(piece.size, 0, -1) / (0.4 * piece.size))
        if low > 0:
            ease = np.minimum(ease, np.arange(1, piece.size + 1) / (0.1 * piece.size))
        spectrum = Spectrum(piece * np.sin(0.5 * np.pi * ease) ** 2, rate, total / rate)
        db = spectrum.bands_db()
        value = 10 * float(np.log10(sum(10 ** (db[band] / 10) for band in bands)))
        if value < limit:
            found.append(Hole(name, value, limit))
    return found


@dataclass(frozen=True)
class HitReport:
    """What is said of a hit beyond its numbers; shares only where there are several layers."""

    holes: list[Hole]
    shares: list[Share]
    delay: SideDelay | None
