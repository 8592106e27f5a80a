"""Strokes of a made sound that differ a little, as no two strokes of a drum are alike."""

import numpy as np
from numpy.typing import NDArray

from juglant.core import RATE
from juglant.core.hits.making import made
from juglant.core.hits.scatter import drawn
from juglant.core.measure.levels import momentary_max_lufs
from juglant.core.recipes.fields import control_sheet
from juglant.core.recipes.hit import Made

Array = NDArray[np.float64]

# So many strokes differ before the first one comes again.
COUNT = 8
# How far a stroke departs from the plain one, of its energy, from the least amount to the most. The next
# one departs to the other side: the two differ by up to 6 dB more.
_LEAST_DB, _MOST_DB = -28.0, -16.5
# How far its controls wander, of what a scatter's would.
_WANDER = 0.12
_SEED = 7
# Groups of controls that make the note and its sweep: these stay.
_NOTE = ["Pitch", "Body", "Tone", "Membranes"]


def varied(plain: Array, source: Made, amount: float, index: int, bpm: float, velocity: float) -> Array:
    """A stroke like `plain`, shape (frames,), which is `source` as it is: another strike, another noise.

    What differs is drawn by `index` and laid over in so small a share that two strokes are `amount` (0..1)
    apart: -30 to -10 dB. The note stays; loudness is brought back.

    Parameters
    ----------
    plain
        The stroke as it is, shape (frames,).
    source
        What it is made by.
    amount
        0 to 1.
    index, bpm
        Which variation; tempo.
    velocity
        How hard it is struck, above 0 up to 1.

    Returns
    -------
    ndarray
        Shape of `plain`.

    Examples
    --------
    >>> from juglant.core.recipes.hit import MadeKick
    >>> from juglant.core.hits.making import made
    >>> plain = made(MadeKick(), 120.0)
    >>> varied(plain, MadeKick(), 0.5, 1, 120.0, 1.0).shape == plain.shape
    True
    """
    count = len(control_sheet(type(source.recipe)).controls)
    ways = np.random.default_rng(_SEED).choice([-1.0, 1.0], count)
    far = np.random.default_rng(_SEED + index).uniform(0.5, 1.5, count)
    draws = ways * far * (1.0 if index % 2 else -1.0)
    other = made(drawn(source, _WANDER, _NOTE, index, draws), bpm, velocity)
    frames = max(plain.size, other.size)
    x, y = (np.pad(one, (0, frames - one.size)) for one in (plain, other))
    apart = float(np.sqrt(np.sum((y - x) ** 2) / max(float(np.sum(x * x)), 1e-30)))
    wanted = 10 ** ((_LEAST_DB + amount * (_MOST_DB - _LEAST_DB)) / 20)
    out = x + min(wanted / max(apart, 1e-9), 1.0) * (y - x)
    louder = momentary_max_lufs(out, RATE) - momentary_max_lufs(x, RATE)
    return np.asarray(out * 10 ** (-louder / 20) if np.isfinite(louder) else out)
