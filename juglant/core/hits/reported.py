"""What a stage did to a sound, in numbers and as a curve."""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from juglant.core.hits.chain import apply_stage, stage_gain_db
from juglant.core.measure import levels
from juglant.core.measure.stereo import both_sides, listening_channel
from juglant.core.process.equaliser import gain_db
from juglant.core.recipes.chain import (
    ClipStage,
    DriveStage,
    EqualiserStage,
)

Array = NDArray[np.float64]

# Where the response of an equaliser is drawn.
CURVE_HZ = np.geomspace(20.0, 20000.0, 96)
# Below the strongest third octave this far down nothing is shown.
SPECTRUM_FLOOR_DB = 60.0


@dataclass(frozen=True)
class StageReport:
    """What a stage did: levels in and out, and the curve that shows its work.

    `curve_db` is its response over `CURVE_HZ` (equaliser) or its gain every millisecond
    (dynamics), empty for others; `spectrum_db` what goes into an equaliser, third octaves around
    `CURVE_HZ` re the strongest of them; `least_db` the curve's lowest point; `harmonics_db` the 2nd to 5th
    harmonic that it adds to a tone of the sound's own level, re that tone.
    """

    stage: str
    bypassed: bool
    peak_in_dbfs: float
    peak_out_dbfs: float
    lufs_in: float
    lufs_out: float
    match_db: float
    curve_db: list[float]
    over: str | None
    least_db: float | None
    harmonics_db: list[float] | None
    spectrum_db: list[float]


def _work(x: Array, stage: Any, rate: int) -> tuple[Array, str] | None:
    if isinstance(stage, EqualiserStage):
        return gain_db(stage, CURVE_HZ, rate), "frequency"
    gain = stage_gain_db(x, stage, rate, x.shape[0])
    if gain is None:
        return None
    step = max(1, round(rate / 1000))
    return gain[::step], "time"


def added_harmonics_db(
    stage: DriveStage | ClipStage, peak: float, rate: int, tone_hz: float
) -> list[float]:
    """Levels of the 2nd to 5th harmonic that a stage makes of a sine of that peak, re its tone.

    Parameters
    ----------
    stage
        The settings of the stage.
    peak, rate
        Of the sine; frames a second.
    tone_hz
        Its frequency.

    Returns
    -------
    list of float
        dB re the tone, second to fifth.

    Examples
    --------
    >>> from juglant.core.recipes.chain import DriveStage
    >>> [round(one) < -10 for one in added_harmonics_db(DriveStage(drive_db=12.0), 0.5, 48000, 55.0)][:2]
    [True, True]
    """
    # A whole number of cycles, so that every harmonic lies on a line of the spectrum.
    cycles = max(4, round(0.25 * tone_hz))
    frames = round(cycles * rate / tone_hz)
    tone = peak * np.sin(2 * np.pi * cycles * np.arange(3 * frames) / frames)
    middle = apply_stage(tone, stage, rate, 120.0)[frames : 2 * frames]
    line = np.abs(np.fft.rfft(middle))
    lines = [line[min(cycles * h, line.size - 1)] for h in range(1, 6)]
    return [20 * float(np.log10(max(one / max(lines[0], 1e-12), 1e-7))) for one in lines[1:]]


def _third_octaves_db(x: Array, rate: int) -> list[float]:
    level = np.array(levels.Spectrum(listening_channel(x), rate).third_octaves_db(tuple(CURVE_HZ)))
    return np.round(np.maximum(level - level.max(), -SPECTRUM_FLOOR_DB), 1).tolist()  # type: ignore[no-any-return]


def report(x: Array, y: Array, stage: Any, rate: int, tone_hz: float) -> StageReport:
    """What `stage` did on the way from `x` to `y`; `tone_hz` is the sound's own note, if it has one.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels). What went in.
    y
        What came out.
    stage, rate
        The settings of the stage; frames a second.
    tone_hz
        The note of the sound.

    Returns
    -------
    StageReport
        What it did, in numbers.

    Examples
    --------
    >>> from juglant.core.recipes.chain import LevelStage
    >>> x = np.sin(2 * np.pi * 60 * np.arange(9600) / 48000)
    >>> type(report(x, 0.5 * x, LevelStage(gain_db=-6.0), 48000, 60.0)).__name__
    'StageReport'
    """
    # What a stage makes stereo is held against what was heard from both loudspeakers before.
    before = both_sides(x) if y.ndim > x.ndim else x
    lufs = [levels.momentary_max_lufs(one, rate) for one in (before, y)]
    work = None if stage.bypass else _work(x, stage, rate)
    harmonics = None
    if isinstance(stage, DriveStage | ClipStage) and not stage.bypass:
        peak = float(np.max(np.abs(x), initial=0.0))
        harmonics = added_harmonics_db(stage, peak, rate, tone_hz) if peak > 0 else None
    return StageReport(
        stage.stage, stage.bypass, levels.peak_dbfs(x), levels.peak_dbfs(y), lufs[0], lufs[1],
        # By this the output is turned to be as loud as the input.
        lufs[0] - lufs[1],
        [] if work is None else np.round(work[0], 2).tolist(),
        None if work is None else work[1],
        None if work is None else float(np.min(work[0], initial=0.0)),
        harmonics,
        _third_octaves_db(x, rate) if isinstance(stage, EqualiserStage) else [],
    )  # fmt: skip
