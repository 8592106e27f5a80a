"""A rumble from a track's own kick."""

import numpy as np
from numpy.typing import NDArray

from juglant.core.lowend.loop import place
from juglant.core.measure.overlap import low_level
from juglant.core.music import midi_to_hz, pitch_class
from juglant.core.process import filters, saturation, space
from juglant.core.process.resampling import shift_pitch
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.parts import RumbleBass
from juglant.core.synth.bass import loop_frames
from juglant.core.tempo import beat_ms

Array = NDArray[np.float64]

# Beats from one repeat to the next.
_EVERY = {"sixteenths": 0.25, "triplets": 1 / 3, "dotted eighths": 0.75}
_DAMPING_HZ, _ROOM_LOW_CUT_HZ, _SEEDS = 900.0, 24.0, (11, 12, 13, 14, 15, 16)
_DRIVEN_FROM_DB = -6.0
_PULL_DB, _PULL_Q = 12.0, 2.5


def root_shift(kick_hz: float, brief: Brief) -> float:
    """Semitones from a kick's fundamental to the nearest octave of the key's root.

    Parameters
    ----------
    kick_hz, brief
        Its fundamental; key, tempo and chords.

    Returns
    -------
    float
        Semitones.

    Examples
    --------
    >>> round(root_shift(55.0, Brief(tonic="A")), 2)
    0.0
    """
    root = midi_to_hz(24 + pitch_class(brief.tonic), brief.a4_hz)
    away = 12 * float(np.log2(root / kick_hz))
    return (away + 6) % 12 - 6


def _room(decay_ms: float, root_hz: float | None, rate: int) -> Array:
    """A hall's answer; of a few, the one that carries the root best. A room's gain at one frequency
    is a matter of chance (Rayleigh distributed), and a dip just there would let another note through.
    """
    halls = [
        space.impulse_response("hall", decay_ms, _DAMPING_HZ, _ROOM_LOW_CUT_HZ, seed, rate)
        for seed in (_SEEDS if root_hz is not None else _SEEDS[:1])
    ]
    if root_hz is None:
        return halls[0]
    turn = np.exp(-2j * np.pi * root_hz * np.arange(halls[0].size) / rate)
    return max(halls, key=lambda hall: abs(complex(hall @ turn)))


def render_rumble(kick: Array, kick_hz: float | None, recipe: RumbleBass, brief: Brief, rate: int) -> Array:
    """One pass of the loop, shape (frames,), from the kick one-shot and its measured fundamental.

    Its loudest moment lies `under_db` below the kick's, low band. A kick in which no pitch was found
    is left at its own.

    Parameters
    ----------
    kick
        Samples of the kick, shape (frames,).
    kick_hz
        Its fundamental; None where it has none.
    recipe, brief
        The settings; key, tempo and chords.
    rate
        Frames a second.

    Returns
    -------
    ndarray
        Shape (frames,).

    Examples
    --------
    >>> kick = np.sin(2 * np.pi * 55 * np.arange(9600) / 48000)
    >>> brief = Brief(bpm=120.0, chord_roots=("A",))
    >>> render_rumble(kick, 55.0, RumbleBass(), brief, 48000).size
    96000
    """
    tuned, root = kick, None
    if recipe.tune == "to the root" and kick_hz is not None:
        shift = root_shift(kick_hz, brief)
        tuned, root = shift_pitch(kick, shift), kick_hz * 2 ** (shift / 12)
    frames, beat = loop_frames(brief, rate), beat_ms(brief.bpm)
    step = _EVERY[recipe.repeats] * beat
    bar = 4 * beat
    starts = [n * bar + k * step for n in range(brief.bars) for k in range(int(np.ceil(bar / step - 1e-9)))]
    if root is not None:
        # Repeats at one pace sound at multiples of that pace, whatever the kick's own note: each is
        # put where a steady root would be in step with it, less than half a cycle away.
        starts = [1000 * round(at / 1000 * root) / root for at in starts]
    struck = place([(at, tuned) for at in starts], frames, rate, loop=True)
    wet = space.around_loop(struck, _room(recipe.decay_ms, root, rate))
    if root is not None:
        # The sweeps of so many starts lie above the root: it is lifted out of them.
        wet = filters.around_loop(wet, filters.cookbook("bell", root, _PULL_Q, rate, _PULL_DB))
    peak = float(np.max(np.abs(wet)))
    if peak <= 1e-9:
        return np.zeros(frames)
    driven = saturation.soft_clip(wet * (10 ** (_DRIVEN_FROM_DB / 20) / peak), recipe.drive_db)
    low = filters.around_loop(driven, filters.lowpass_24(recipe.lowpass_hz, rate))
    loudest, kicks = (
        float(low_level(x, rate, loop=loop).level_db.max()) for x, loop in ((low, True), (kick, False))
    )
    out = low
    if recipe.mid_copy_db > -40.0:
        out = low + 10 ** (recipe.mid_copy_db / 20) * filters.around_loop(
            driven, filters.highpass_24(recipe.lowpass_hz, rate)
        )
    return out * 10 ** ((kicks - recipe.under_db - loudest) / 20)
