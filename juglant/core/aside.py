"""Two things at once: for work that numpy and compiled code do without the interpreter."""

from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from typing import TypeVar

T = TypeVar("T")

# What runs aside never runs anything aside itself, so that none waits for a place.
_HANDS = ThreadPoolExecutor(2, thread_name_prefix="aside")
_ALONE = Future[None]()


def alone() -> None:
    """From now on everything is done where it is asked for: in a process that is one of several.

    Examples
    --------
    >>> import subprocess, sys
    >>> said = "from juglant.core.aside import alone, aside; alone(); print(aside(lambda: 2).done())"
    >>> subprocess.run([sys.executable, "-c", said], capture_output=True, text=True).stdout.strip()
    'True'
    """
    if not _ALONE.done():
        _ALONE.set_result(None)


def aside(make: Callable[[], T]) -> Future[T]:
    """Begin `make` on another thread; its result, or what it raised, is fetched with `result()`.

    Parameters
    ----------
    make
        What is done.

    Returns
    -------
    Future
        Of the result.

    Examples
    --------
    >>> aside(lambda: 2 + 2).result()
    4
    """
    if not _ALONE.done():
        return _HANDS.submit(make)
    done = Future[T]()
    try:
        done.set_result(make())
    except Exception as error:
        done.set_exception(error)
    return done
