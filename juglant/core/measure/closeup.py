"""A stretch of a sound as a screen shows it: one column for every few samples, or a point for each."""

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


def extremes(x: Array, count: int) -> tuple[Array, Array]:
    """The lowest and the highest sample in each of at most `count` equal columns of `x`, shape (frames,).

    Where there are fewer samples than columns both are the samples themselves.

    Parameters
    ----------
    x
        Samples, shape (frames,).
    count
        How many columns at most.

    Returns
    -------
    tuple of ndarray
        Lowest and highest sample of every column.

    Examples
    --------
    >>> import numpy as np
    >>> low, high = extremes(np.array([0.0, 1.0, -2.0, 0.5]), 2)
    >>> low.tolist(), high.tolist()
    ([0.0, -2.0], [1.0, 0.5])
    """
    if x.size <= count:
        return x, x
    starts = np.linspace(0, x.size, count, endpoint=False).astype(int)
    return np.minimum.reduceat(x, starts), np.maximum.reduceat(x, starts)
