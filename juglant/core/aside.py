"""Two things at once: for work that numpy and compiled code do without the interpreter."""

from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from typing import TypeVar

T = TypeVar("T")

# What runs aside never runs anything aside itself, so that none waits for a place.
_HANDS = ThreadPoolExecutor(2, thread_name_prefix="aside")


def aside(make: Callable[[], T]) -> Future[T]:
    """Begin `make` on another thread; its result, or what it raised, is fetched with `result()`."""
    return _HANDS.submit(make)
