"""A kick file and a bass file of the user's own: ducked without any track."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from juglant.core.lowend import ducking
from juglant.core.lowend.loop import kick_times_ms, place
from juglant.core.measure import levels
from juglant.core.measure.overlap import Overlap, low_level, overlap
from juglant.core.measure.stereo import listening_channel
from juglant.core.music import beat_ms
from juglant.core.recipes.duck import DuckRecipe

Array = NDArray[np.float64]

# A bass this near to whole bars is taken to be a loop.
_LOOP_SHARE = 0.01


@dataclass(frozen=True)
class Pair:
    """The ducked bass, shape as the bass given, the mix, and the numbers of both."""

    ducked: Array
    mix: Array
    gain_db: Array
    is_loop: bool
    recipe: DuckRecipe
    complete: bool
    duck: ducking.Duck
    before: Overlap
    after: Overlap
    key: Array
    times_ms: list[float]
    length_ms: float


def duck_pair(kick: Array, bass: Array, rate: int, bpm: float, beats: tuple[float, ...]) -> Pair:
    """Solve and apply the ducking of `bass` under `kick`, both at `rate`.

    Shapes (frames,) or (frames, 2). The kick is placed on `beats` of every bar of the bass,
    counted from 1, and kept mono; a bass of whole bars is treated as a loop.
    """
    frames = bass.shape[0]
    length = frames / rate * 1000
    bars = length / (4 * beat_ms(bpm))
    is_loop = round(bars) >= 1 and abs(bars / round(bars) - 1) < _LOOP_SHARE
    times = kick_times_ms(beats, bpm, length)
    heard = listening_channel(bass)
    kicks = place([(at, listening_channel(kick)) for at in times], frames, rate, loop=is_loop)
    low_kick, low_bass = (low_level(x, rate, loop=is_loop) for x in (kicks, heard))
    kick_spectrum = levels.Spectrum(kicks, rate)
    solution = ducking.solve(low_kick, low_bass, times, length)
    gain = ducking.curve_db(solution.recipe, times, length, 1000 / rate, loop=is_loop)[:frames]
    ducked = ducking.apply(bass.T, gain).T

    def against(x: Array) -> Overlap:
        level = low_level(x, rate, loop=is_loop)
        return overlap(low_kick, level, len(times), kick_spectrum, levels.Spectrum(x, rate))

    return Pair(
        ducked, ducked + (kicks if bass.ndim == 1 else kicks[:, None]), gain, is_loop,
        solution.recipe, solution.complete,
        ducking.measure_duck(solution.recipe, times, length, bpm),
        against(heard), against(listening_channel(ducked)), kicks, times, length,
    )  # fmt: skip
