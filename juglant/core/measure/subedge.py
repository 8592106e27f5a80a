"""Where the sub of its owner ends."""

import hashlib
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

Array = NDArray[np.float64]

# The owner keeps what lies below a third of an octave above its pitch, within these.
LOWEST_EDGE_HZ, HIGHEST_EDGE_HZ = 60.0, 110.0
# An edge that moves with the notes is read from the nearest of these, a semitone apart.
FIXED_EDGES_HZ = tuple(LOWEST_EDGE_HZ * 2 ** (n / 12) for n in range(11))
_CROSS_MS = 6.0


@dataclass(frozen=True, eq=False)
class SubEdge:
    """Where the owner's sub ends: `said_hz` is what is told of it.

    `hz` are the edges that are used; where there are several, `at` says for every millisecond which.
    """

    said_hz: float
    hz: tuple[float, ...]
    at: NDArray[np.int64] | None = None

    @cached_property
    def key(self) -> str:
        """What it is where results are kept: equal edges have equal keys."""
        at = b"" if self.at is None else self.at.tobytes()
        return hashlib.sha256(repr((self.said_hz, self.hz)).encode() + at).hexdigest()

    def __eq__(self, other: object) -> bool:
        return isinstance(other, SubEdge) and other.key == self.key

    def __hash__(self) -> int:
        return hash(self.key)

    def shares(self, frames: int) -> list[tuple[float, Array]]:
        """Each edge in Hz with its share at every frame of a loop. Shares add up to 1 and change within
        some ms, so that no edge is heard to jump.
        """
        if self.at is None:
            return [(self.hz[0], np.ones(frames))]
        count = max(1, round(_CROSS_MS))
        where = np.arange(frames) * (self.at.size / frames)
        found = []
        for n, hz in enumerate(self.hz):
            share = ndimage.uniform_filter1d((self.at == n).astype(float), count, mode="wrap")
            found.append((hz, np.interp(where, np.arange(share.size), share)))
        return found


def edge_hz(pitch_hz: float) -> float:
    """The edge over one pitch.

    Parameters
    ----------
    pitch_hz
        Of the owner.

    Returns
    -------
    float
        Hz, within the lowest and the highest edge.

    Examples
    --------
    >>> round(edge_hz(55.0), 1), edge_hz(30.0)
    (69.3, 60.0)
    """
    return float(np.clip(pitch_hz * 2 ** (1 / 3), LOWEST_EDGE_HZ, HIGHEST_EDGE_HZ))


def _nearest_edge(pitch_hz: Array) -> NDArray[np.int64]:
    """Index into the fixed edges for every pitch in Hz."""
    exact = np.clip(pitch_hz * 2 ** (1 / 3), LOWEST_EDGE_HZ, HIGHEST_EDGE_HZ)
    index = np.round(12 * np.log2(exact / LOWEST_EDGE_HZ)).astype(np.int64)
    return np.asarray(np.minimum(index, len(FIXED_EDGES_HZ) - 1))


def sub_edge(pitch_hz: float | Array | None) -> SubEdge | None:
    """The edge of an owner that keeps one pitch, or one that is given for every millisecond.

    Parameters
    ----------
    pitch_hz
        One pitch, or one for every ms.

    Returns
    -------
    SubEdge or None
        None where there is no pitch.

    Examples
    --------
    >>> round(sub_edge(55.0).said_hz, 1)
    69.3
    """
    if pitch_hz is None:
        return None
    if not isinstance(pitch_hz, np.ndarray):
        hz = edge_hz(pitch_hz)
        return SubEdge(hz, (hz,))
    used, at = np.unique(_nearest_edge(pitch_hz), return_inverse=True)
    said = edge_hz(float(np.median(pitch_hz)))
    return SubEdge(said, tuple(FIXED_EDGES_HZ[n] for n in used), at if used.size > 1 else None)
