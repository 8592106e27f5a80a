"""Two things at once: for work that numpy and compiled code do without the interpreter."""

from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from contextvars import copy_context
from threading import local
from typing import TypeVar

T = TypeVar("T")

_ALONE = Future[None]()
_HERE = local()


def _hands(depth: int) -> ThreadPoolExecutor:
    return ThreadPoolExecutor(
        2, thread_name_prefix=f"aside {depth}", initializer=lambda: setattr(_HERE, "depth", depth)
    )


# What runs aside has others for what it runs aside itself, so that none waits for a place that only its own
# end would clear.
_HANDS = [_hands(depth) for depth in (1, 2)]


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
    depth = getattr(_HERE, "depth", 0)
    if not _ALONE.done() and depth < len(_HANDS):
        return _HANDS[depth].submit(copy_context().run, make)
    done = Future[T]()
    try:
        done.set_result(make())
    except Exception as error:
        done.set_exception(error)
    return done
