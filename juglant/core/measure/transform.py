"""One long transform of a sound, from which envelope, cycles and spectrum are all taken."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from scipy import fft


class Transform(NamedTuple):
    """Bins of a sound that was padded with silence to `size` frames."""

    bins: NDArray[np.complex128]
    size: int


def transform(x: NDArray[np.float64], rate: float, rest_s: float = 0.05) -> Transform:
    """Transform of `x`, shape (frames,), with `rest_s` of silence after it at least: without any
    it is taken for one pass of a loop.

    A short sound is padded to half a second, which resolves a semitone at 30 Hz, or to four
    times its length, which is all it has.

    Parameters
    ----------
    x, rate
        Samples, shape (frames,); frames a second.
    rest_s
        Silence after it, at least.

    Returns
    -------
    Transform
        Bins, and how many frames they stand for.

    Examples
    --------
    >>> float(transform(np.ones(4), 48000, 0.0)[0][0].real)
    4.0
    """
    least = max(x.size + round(rest_s * rate), min(int(rate / 2), 4 * x.size))
    size = fft.next_fast_len(least, real=True)
    return Transform(fft.rfft(x, size), size)
