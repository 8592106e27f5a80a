"""Tops that were cut flat, rounded again by how the wave runs into them and out of them."""

import numpy as np
from numpy.typing import NDArray

from juglant.core.measure.defects import flat_runs

Array = NDArray[np.float64]

# Nothing is raised by more than this: what was cut off deeper is not known.
_MOST = 4.0
# What is still there is cut at this share of where the file was cut, restored and compared.
_LOWER, _WELL_DB = 0.8, 12.0


def restored(x: Array) -> Array:
    """`x`, shape (frames,) or (frames, channels), with every flat top replaced by the cubic that goes on
    from its neighbours with their slope (Hermite's); the rest is untouched.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels).

    Returns
    -------
    ndarray
        Shape of `x`.

    Examples
    --------
    >>> import numpy as np
    >>> wave = np.sin(2 * np.pi * 50 * np.arange(4800) / 48000)
    >>> round(float(np.max(np.abs(restored(np.clip(wave, -0.7, 0.7))))), 2)
    0.99
    """
    out = np.array(x, dtype=np.float64)
    for channel in out.reshape(out.shape[0], -1).T:
        _restore(channel)
    return out


def can_restore(x: Array) -> bool:
    """Whether the tops of `x`, shape (frames,) or (frames, channels), can be told from what is left of it:
    clipped lower still, what is cut off that time comes back with an error 12 dB smaller.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels).

    Returns
    -------
    bool
        Whether they can.

    Examples
    --------
    >>> at = np.arange(4800) / 48000
    >>> can_restore(np.clip(np.sin(2 * np.pi * 60 * at), -0.9, 0.9))
    True
    """
    return all(_told_db(channel) >= _WELL_DB for channel in x.reshape(x.shape[0], -1).T)


def _told_db(x: Array) -> float:
    """By how many dB restoring brings what is known of the tops nearer; infinite where none is clipped."""
    runs = flat_runs(x)
    if not runs:
        return float("inf")
    lower = _LOWER * float(np.median([abs(x[a]) for a, _ in runs]))
    clipped = np.clip(x, -lower, lower)
    known = np.abs(x) > lower
    for a, b in runs:
        known[a : b + 1] = False
    before, after = (float(np.sum((x - one)[known] ** 2)) for one in (clipped, restored(clipped)))
    return 10 * float(np.log10(max(before, 1e-20) / max(after, 1e-20)))


def _restore(x: Array) -> None:
    runs = flat_runs(x)
    # Slopes are those of what was there: all are read before any top is changed.
    ends = [(_slope(x, a - 1, -1), _slope(x, b + 1, 1)) for a, b in runs]
    for (a, b), (rises, falls) in zip(runs, ends, strict=True):
        left, right, span = x[a - 1], x[b + 1], float(b - a + 2)
        sign = 1.0 if x[a] > 0 else -1.0
        t = np.arange(1, b - a + 2) / span
        rise, fall = (max(sign * one, 0.0) * sign * span for one in (rises, falls))
        rounded = (
            left * (1 + 2 * t) * (1 - t) ** 2 + right * t * t * (3 - 2 * t)
            + rise * t * (1 - t) ** 2 + fall * t * t * (1 - t)
        )  # fmt: skip
        x[a : b + 1] = np.clip(rounded, -_MOST * abs(x[a]), _MOST * abs(x[a]))


def _slope(x: Array, at: int, away: int) -> float:
    """How much `x` rises per frame towards a top, next to it; `away` is −1 in front of it, 1 behind."""
    other = min(max(at + 2 * away, 0), x.size - 1)
    return float(x[at] - x[other]) / max(abs(other - at), 1)
