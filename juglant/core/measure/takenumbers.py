"""The takes of a recording by their numbers: which job they fit, and how hard each was struck."""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from juglant.core.measure.hit import HitNumbers, measure
from juglant.core.measure.stereo import mono
from juglant.core.measure.takes import Cut

Array = NDArray[np.float64]


@dataclass(frozen=True)
class JobGuess:
    """Which part a sound could play, and why."""

    job: str
    reasons: list[str]


def guess_job(hit: HitNumbers) -> JobGuess:
    """The job that a sound's depth, attack, noise-likeness and length fit (common practice).

    Kick: deepest, sharp. Snare: short, sharp, higher than a kick. Hat: fast, noise-like, sharp,
    high. Tom: pitched, in the middle. Else texture.

    Parameters
    ----------
    hit
        Numbers of the sound.

    Returns
    -------
    JobGuess
        A job and how sure that is.

    Examples
    --------
    >>> from juglant.core.measure.hit import measure
    >>> at = np.arange(24000) / 48000
    >>> kick = np.sin(2 * np.pi * 55 * at) * np.exp(-at / 0.1)
    >>> guess_job(measure(kick, 48000).hit).job
    'kick'
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

    Parameters
    ----------
    x, rate
        Samples, shape (frames,) or (frames, channels); frames a second.
    where
        Where the take lies.
    a4_hz
        Tuning reference.
    flats
        Whether notes are spelled with flats.

    Returns
    -------
    TakeNumbers
        What is told of the take.

    Examples
    --------
    >>> x = np.zeros(24000)
    >>> x[4800:9600] = 0.5 * np.sin(2 * np.pi * 100 * np.arange(4800) / 48000)
    >>> round(take_numbers(x, 48000, Cut(100.0, 100.0, 200.0)).level_dbfs)
    -6
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


def velocity_groups(levels_dbfs: list[float]) -> list[list[int]]:
    """Takes of one sound by how hard they are struck, the hardest first: each group is one velocity layer.

    A group ends where the level falls by more than 3 dB from its own strongest; the takes in it
    are round robins of each other.

    Parameters
    ----------
    levels_dbfs
        Level of each take.

    Returns
    -------
    list of list of int
        Numbers of takes.

    Examples
    --------
    >>> velocity_groups([-12.0, -3.0, -13.5, -4.0])
    [[1, 3], [0, 2]]
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
    """Up to which velocity, 0 to 1, each group plays: halfway in dB to the next stronger one.

    Velocity and level follow the square that playing back uses: twice the velocity is 12 dB.

    Parameters
    ----------
    groups
        Numbers of takes, the hardest first.
    levels_dbfs
        Level of each take.

    Returns
    -------
    list of float
        One for each group, the first one 1.

    Examples
    --------
    >>> [round(one, 2) for one in reaches([[1, 3], [0, 2]], [-12.0, -3.0, -13.5, -4.0])]
    [1.0, 0.77]
    """
    tops = [levels_dbfs[group[0]] for group in groups]
    out = [1.0]
    for stronger, softer in pairwise(tops):
        between = 0.5 * (stronger + softer) - tops[0]
        out.append(float(np.clip(10 ** (between / 40), 0.02, 0.99)))
    return out
