"""A kick file and a bass file of the user's own: ducked without any track."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from juglant.core.hits.chain import each_channel
from juglant.core.lowend import ducking
from juglant.core.lowend.loop import place
from juglant.core.measure import levels
from juglant.core.measure.overlap import Overlap, low_level, overlap
from juglant.core.measure.stereo import listening_channel
from juglant.core.music import beat_ms, note_value_ms
from juglant.core.process import filters
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


def length_of(bass: Array, rate: int, bpm: float) -> tuple[float, bool]:
    """Length in ms, and whether that is whole bars, which go round."""
    length = bass.shape[0] / rate * 1000
    bars = length / (4 * beat_ms(bpm))
    return length, round(bars) >= 1 and abs(bars / round(bars) - 1) < _LOOP_SHARE


def ducked_band(x: Array, gain_db: Array, below_hz: float | None, rate: int) -> Array:
    """A channel under a gain, or only what of it lies below a frequency."""
    if below_hz is None:
        return ducking.apply(x, gain_db)
    low = filters.band(x, 20.0, below_hz, rate)
    return x - low + ducking.apply(low, gain_db)


def duck_pair(
    kick: Array, bass: Array, rate: int, bpm: float, times: list[float], *, margin_db: float = 0.0,
    returns: str | None = None, below_hz: float | None = None,
) -> Pair:  # fmt: skip
    """Solve and apply the ducking of `bass` under `kick`, both at `rate`.

    Shapes (frames,) or (frames, 2). `margin_db` puts the bass further under the kick, `returns` (a
    note value) says when it is to be back, `below_hz` leaves what lies above as it is. The kick is
    struck at `times`, in ms, and kept mono; a bass of whole bars is treated as a loop.
    """
    frames = bass.shape[0]
    length, is_loop = length_of(bass, rate, bpm)
    heard = listening_channel(bass)
    kicks = place([(at, listening_channel(kick)) for at in times], frames, rate, loop=is_loop)
    low_kick, low_bass = (low_level(x, rate, loop=is_loop) for x in (kicks, heard))
    kick_spectrum = levels.Spectrum(kicks, rate)
    solution = ducking.solve(low_kick, low_bass, times, length, margin_db)
    if returns is not None and solution.recipe.depth_db > 0:
        on_time = ducking.returning_on(solution.recipe, note_value_ms(returns, bpm))
        solution = replace(solution, recipe=on_time)
    gain = ducking.curve_db(solution.recipe, times, length, 1000 / rate, loop=is_loop)[:frames]
    ducked = each_channel(bass, lambda x: ducked_band(x, gain, below_hz, rate))

    def against(x: Array) -> Overlap:
        level = low_level(x, rate, loop=is_loop)
        return overlap(low_kick, level, len(times), kick_spectrum, levels.Spectrum(x, rate))

    return Pair(
        ducked, ducked + (kicks if bass.ndim == 1 else kicks[:, None]), gain, is_loop,
        solution.recipe, solution.complete,
        ducking.measure_duck(solution.recipe, times, length, bpm),
        against(heard), against(listening_channel(ducked)), kicks, times, length,
    )  # fmt: skip
