"""What was freed is given back to the system: the C library keeps what the threads of a large track left
behind, more than all that is kept on purpose.
"""

import ctypes
from collections.abc import Callable
from functools import cache
from time import monotonic

# The number of that option in the C library.
_MOST_POOLS = -8
# It takes some ms: not after every step of a slider.
_APART_S = 0.15


def share_pools() -> None:
    """Let all threads have what was freed, rather than each its own: a hundred MB of a large track."""
    set_option: Callable[[int, int], int] = getattr(ctypes.CDLL(None), "mallopt", lambda *_: 0)
    set_option(_MOST_POOLS, 1)


@cache
def _trim() -> Callable[[int], int]:
    """The C library's own; nothing where it has none."""
    found: Callable[[int], int] = getattr(ctypes.CDLL(None), "malloc_trim", lambda _: 0)
    return found


class GivenBack:
    """Gives back what is free, at most so often."""

    def __init__(self) -> None:
        self._last = 0.0

    def is_due(self) -> bool:
        """Whether it may be done again; from then on it is done."""
        now = monotonic()
        if now - self._last < _APART_S:
            return False
        self._last = now
        return True

    @staticmethod
    def give_back() -> None:
        """Do it: on a thread of its own, for nothing else waits for it."""
        _trim()(0)
