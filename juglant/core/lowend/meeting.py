"""Where kick and bass meet over time and frequency."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import fft, ndimage

from juglant.core.lowend.session import Answer
from juglant.core.measure import levels
from juglant.core.measure.loopsound import LoopSound
from juglant.core.measure.overlap import MARGIN_DB

Array = NDArray[np.float64]

# The third octaves from 20 to 400 Hz, exact mid-band frequencies as in IEC 61260-1.
MAP_BANDS_HZ = tuple(1000 * 10 ** (n / 10) for n in range(-17, -3))
NOTHING, KICK, BASS, BOTH = range(4)
_HEARD_DB = 24.0
_SMOOTH_MS = 20.0


@dataclass(frozen=True)
class Meeting:
    """One bar in cells: for each third octave and stretch of time, who is heard.

    `cells` has a row per band, lowest first, of `columns` numbers each: 0 nothing, 1 the kick, 2 the
    bass, 3 both within 6 dB of each other. `met_share` is the part of the kick's cells that are 3.
    """

    bands_hz: list[float]
    column_ms: float
    cells: list[list[int]]
    met_share: float


def _levels(loop: LoopSound, from_ms: float, column_ms: float, columns: int) -> Array:
    """Level in dB of every band in every column, shape (bands, columns)."""
    low, rate = loop.decimated
    size = fft.next_fast_len(low.size, real=True)
    spectrum = fft.rfft(np.take(low, np.arange(size), mode="wrap"))
    hz = np.arange(spectrum.size) * rate / size
    smooth = max(1, round(_SMOOTH_MS / 1000 * rate))
    at = (from_ms + (np.arange(columns) + 0.5) * column_ms) / 1000 * rate
    rows = []
    for middle in MAP_BANDS_HZ:
        # A round band a third of an octave wide: Gaussian in log frequency, no ringing beyond it.
        octaves = np.log2(np.maximum(hz, 1e-3) / middle)
        band = fft.irfft(spectrum * np.exp(-0.5 * (octaves / 0.14) ** 2), size)[: low.size]
        power = ndimage.uniform_filter1d(band * band, smooth, mode="wrap")
        rows.append(power[np.minimum(at.astype(int), low.size - 1)])
    return np.asarray(10 * np.log10(np.maximum(np.array(rows), 1e-20)))


def meeting(answer: Answer, bar: int, columns: int = 64) -> Meeting:
    """The map of one bar, counted from 0, with the ducking as it is.

    Parameters
    ----------
    answer, bar
        What was rendered and measured of the track; from 0.
    columns
        How many the bar is cut into.

    Returns
    -------
    Meeting
        Levels by band and column.

    Examples
    --------
    >>> from juglant.core.lowend.session import Session
    >>> from juglant.core.recipes.track import TrackState
    >>> type(meeting(Session().answer(TrackState()), 0)).__name__
    'Meeting'
    """
    bar_ms = answer.length_ms / answer.state.brief.bars
    column = bar_ms / columns
    first = (bar % answer.state.brief.bars) * bar_ms
    kick, bass = (_levels(loop, first, column, columns) for loop in (answer.kick_loop, answer.ducked_loop))
    top_kick, top_bass = float(kick.max()), float(bass.max())
    # What is far below the loudest of either is not heard beside it.
    loudest = max(top_kick, top_bass)
    heard_kick, heard_bass = (
        (level > max(top, loudest - 12.0) - _HEARD_DB) & (top > -190)
        for level, top in ((kick, top_kick), (bass, top_bass))
    )
    near = np.abs(kick - bass) < MARGIN_DB
    cells = np.where(heard_kick & (kick >= bass), KICK, NOTHING)
    cells = np.where(heard_bass & (bass > kick), BASS, cells)
    cells = np.where(heard_kick & heard_bass & near, BOTH, cells)
    kicks = int(np.sum(heard_kick))
    return Meeting(
        [float(hz) for hz in MAP_BANDS_HZ], column, cells.tolist(),
        float(np.sum(cells == BOTH)) / kicks if kicks else 0.0,
    )  # fmt: skip


# Long enough to tell notes a few semitones apart, short enough to tell a kick from its tail.
_MOMENT_MS = 120.0


@dataclass(frozen=True)
class Moment:
    """Energy of each rung and third octave around a moment, in dB re that side's strongest moment."""

    kick_rungs_db: list[float]
    bass_rungs_db: list[float]
    kick_third_octaves_db: list[float]
    bass_third_octaves_db: list[float]


def _spectrum_at(loop: LoopSound, at_ms: float) -> levels.Spectrum:
    """Around a moment, re the most that any window of this length holds."""
    x, rate = loop.decimated
    size = round(_MOMENT_MS / 1000 * rate)
    window = np.hanning(size)
    power = ndimage.convolve1d(x * x, window**2, mode="wrap")
    most_s = max(float(power.max()), 1e-12) / rate
    at = round(at_ms / 1000 * rate) - size // 2
    part = np.take(x, np.arange(at, at + size), mode="wrap") * window
    return levels.Spectrum(np.concatenate([part, np.zeros(7 * size)]), rate, most_s)


def moment(answer: Answer, at_ms: float, midis: range, bands_hz: tuple[float, ...]) -> Moment:
    """Kick and bass as they are heard around a moment of the loop, per semitone and third octave.

    Parameters
    ----------
    answer, at_ms
        What was rendered and measured of the track; from the loop’s start.
    midis
        Notes that are looked at.
    bands_hz
        Middles of third octaves.

    Returns
    -------
    Moment
        Levels by semitone and band.

    Examples
    --------
    >>> from juglant.core.lowend.session import Session
    >>> from juglant.core.recipes.track import TrackState
    >>> type(moment(Session().answer(TrackState()), 40.0, range(24, 60), (40.0, 80.0))).__name__
    'Moment'
    """
    a4_hz = answer.state.brief.a4_hz
    sides = [_spectrum_at(loop, at_ms) for loop in (answer.kick_loop, answer.ducked_loop)]
    rungs = [side.rungs_db(midis, a4_hz) for side in sides]
    by_band = [side.third_octaves_db(bands_hz) for side in sides]
    return Moment(rungs[0], rungs[1], by_band[0], by_band[1])
