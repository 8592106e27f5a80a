"""What becomes of a stereo sound in mono."""

from functools import reduce
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy import fft

from juglant.core.process import filters

Array = NDArray[np.float64]

# What the 20 Hz edge rings is gone within this; above the other one the band has nothing left.
_RINGING_S, _HIGHEST_HZ = 0.3, 1500.0


def across(join: np.ufunc, x: Array) -> Array:
    """The channels of `x` joined, shape (frames,).

    Numpy's own reduction along so short an axis takes ten times as long.

    Parameters
    ----------
    join
        A function of two arrays.
    x
        Samples, shape (frames, channels).

    Returns
    -------
    ndarray
        Shape (frames,).

    Examples
    --------
    >>> across(np.maximum, np.array([[1.0, 2.0], [4.0, 3.0]]))
    array([2., 4.])
    """
    return x if x.ndim == 1 else np.asarray(reduce(join, x.T))


def mono(x: Array) -> Array:
    """Mean of the channels, shape (frames,).

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels); full scale is 1.

    Returns
    -------
    ndarray
        Shape (frames,).

    Examples
    --------
    >>> mono(np.array([[1.0, 0.0], [0.5, 0.5]])).tolist()
    [0.5, 0.5]
    """
    return x if x.ndim == 1 else across(np.add, x) / x.shape[1]


def both_sides(x: Array) -> Array:
    """A sound as it comes from two loudspeakers, shape (frames, 2): one channel comes from both.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels); full scale is 1.

    Returns
    -------
    ndarray
        Shape (frames, 2).

    Examples
    --------
    >>> both_sides(np.array([0.5])).tolist()
    [[0.5, 0.5]]
    """
    return np.stack([x, x], axis=1) if x.ndim == 1 else x


def _powers(sides: Array) -> list[float]:
    """Energy of every channel, shape (channels, frames), one after another in memory."""
    return [float(side @ side) for side in sides]


def louder_side(x: Array) -> int:
    """Which channel of shape (frames, channels) has most power.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels); full scale is 1.

    Returns
    -------
    int
        Its number, from 0.

    Examples
    --------
    >>> louder_side(np.array([[0.1, -0.5], [0.1, 0.5]]))
    1
    """
    return int(np.argmax(_powers(np.ascontiguousarray(x.T))))


def listening_channel(x: Array) -> Array:
    """The channel mean, or the louder channel where the two nearly cancel each other.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels); full scale is 1.

    Returns
    -------
    ndarray
        Shape (frames,).

    Examples
    --------
    >>> listening_channel(np.array([[0.5, -0.5], [0.2, -0.2]])).tolist()
    [0.5, 0.2]
    """
    if x.ndim == 1:
        return x
    sides = np.ascontiguousarray(x.T)
    middle, powers = mono(sides.T), _powers(sides)
    return sides[int(np.argmax(powers))] if float(middle @ middle) < 0.02 * max(powers) else middle


class Stereo(NamedTuple):
    """Correlation and losses; 1 and 0 for identical channels, None for mono or silence."""

    correlation: float | None
    mono_loss_db: float | None
    low_mono_loss_db: float | None


def correlation(left: Array, right: Array) -> float | None:
    """How alike two channels are, from -1 to 1; None where one is silent.

    Parameters
    ----------
    left, right
        Samples, shape (frames,) each.

    Returns
    -------
    float or None
        1 for the same, -1 for the same inverted.

    Examples
    --------
    >>> correlation(np.array([1.0, -1.0]), np.array([-0.5, 0.5]))
    -1.0
    """
    norm = float(np.sqrt(np.sum(left * left) * np.sum(right * right)))
    return float(np.sum(left * right)) / norm if norm > 0 else None


def _loss_db(left: Array, right: Array) -> float | None:
    both = float(np.mean(left * left) + np.mean(right * right)) / 2
    if both <= 0:
        return None
    middle = 0.5 * (left + right)
    return 10 * float(np.log10(max(float(np.mean(middle * middle)) / both, 1e-12)))


def _low_loss_db(left: Array, right: Array, rate: int) -> float | None:
    """The loss in mono of the low band. Energies are all that is asked for: they are summed over the
    spectrum (Parseval), where the band's filters are a weight.
    """
    size = fft.next_fast_len(left.size + round(_RINGING_S * rate), real=True)
    keep = round(_HIGHEST_HZ / rate * size)
    hz = np.arange(1, keep) * rate / size
    low_hz, high_hz = filters.LOW_BAND_HZ
    weight = filters.linkwitz_riley_gain(hz, high_hz)[0] * filters.linkwitz_riley_gain(hz, low_hz)[1]
    # Single precision keeps errors 120 dB down, and takes half the time.
    sides = [fft.rfft(side.astype(np.float32), size)[1:keep] * weight for side in (left, right)]
    both = 0.5 * sum(_energy(side) for side in sides)
    if both <= 0:
        return None
    return 10 * float(np.log10(max(_energy(0.5 * (sides[0] + sides[1])) / both, 1e-12)))


def _energy(spectrum: NDArray[np.complexfloating]) -> float:
    return float(np.sum(spectrum.real**2 + spectrum.imag**2))


def stereo(x: Array, rate: int) -> Stereo:
    """Left-right correlation and mono loss, overall and in the low band (20-150 Hz).

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels); full scale is 1.
    rate
        Frames a second.

    Returns
    -------
    Stereo
        Of mono sounds nothing but None.

    Examples
    --------
    >>> x = np.random.default_rng(0).standard_normal((48000, 2))
    >>> found = stereo(x, 48000)
    >>> round(abs(found.correlation), 1), round(found.mono_loss_db, 0)
    (0.0, -3.0)
    """
    if x.ndim == 1 or x.shape[1] != 2:
        return Stereo(None, None, None)
    left, right = np.ascontiguousarray(x.T)
    return Stereo(
        correlation(left, right),
        _loss_db(left, right),
        _low_loss_db(left, right, rate),
    )
