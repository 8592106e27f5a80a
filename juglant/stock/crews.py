"""Whoever measures the files of a scan: processes of this machine, or the workers of a Dask cluster."""

import os
from concurrent.futures import CancelledError, Future
from importlib import import_module
from multiprocessing import get_context
from typing import Any, Protocol

from pebble import ProcessExpired, ProcessPool

from juglant.core.aside import alone
from juglant.core.errors import UserError
from juglant.stock.look import Looked, look

# No sound takes so long to measure.
LONGEST_S = 60.0
_NICER = 10
# So many files wait for a free process: enough that none is idle, few enough to stop at once.
_AHEAD = 3
# So long a cluster may take to answer at all.
_THERE_S = 10


def _politely() -> None:
    """What every measuring process does first: it gives way to the page, and keeps to one core."""
    if hasattr(os, "nice"):
        os.nice(_NICER)
    alone()


class Looking(Protocol):
    """A file that is being looked at."""

    def result(self) -> Looked:
        """What came of it, waited for."""
        ...


class Crew(Protocol):
    """Whoever measures; so many files are with it at once."""

    at_once: int

    def begin(self, path: str) -> Looking:
        """Have a file looked at."""
        ...

    def end(self) -> None:
        """Give up what is not done."""
        ...


class Processes:
    """Processes of this machine."""

    def __init__(self, jobs: int, stock_file: str) -> None:
        self._pool = ProcessPool(jobs, initializer=_politely, context=get_context("spawn"))
        self._stock_file = stock_file
        self.at_once = jobs + _AHEAD

    def begin(self, path: str) -> Looking:
        """Have a file looked at by the next that is free."""
        looking: Future[Looked] = self._pool.schedule(
            look, args=[path, self._stock_file], timeout=LONGEST_S
        )
        return looking

    def end(self) -> None:
        """Give up what is not done, and end the processes."""
        self._pool.stop()  # type: ignore[no-untyped-call]
        self._pool.join()


class Cluster:
    """The workers of a Dask cluster, which the extra `dask` speaks to."""

    def __init__(self, address: str) -> None:
        try:
            distributed: Any = import_module("distributed")
        except ImportError as error:
            raise UserError(
                "A cluster is spoken to where the extra “dask” is installed: pip install juglant[dask].",
                "dask",
            ) from error  # fmt: skip
        try:
            self._client = distributed.Client(address, timeout=_THERE_S, set_as_default=False)
        except (OSError, ValueError, TypeError) as error:
            raise UserError(f"There is no cluster at {address}.", "dask") from error
        self._client.run(_politely)
        # Each has the next one while it measures.
        self.at_once = 2 * max(1, sum(self._client.nthreads().values())) + _AHEAD

    def begin(self, path: str) -> Looking:
        """Have a file looked at by any worker, and by another one if that is lost."""
        return _Elsewhere(self._client.submit(look, path, pure=False, retries=1))

    def end(self) -> None:
        """Give up what is not done, and leave the cluster."""
        self._client.close()


class _Elsewhere:
    """A file that a worker looks at."""

    def __init__(self, future: Any) -> None:
        self._future = future

    def result(self) -> Looked:
        """What came of it."""
        distributed: Any = import_module("distributed")
        try:
            looked: Looked = self._future.result(timeout=LONGEST_S)
        except distributed.KilledWorker as error:
            raise CancelledError from error
        finally:
            self._future.release()
        return looked


def result_of(future: Looking) -> Looked:
    """What was found; whatever went wrong with a file is said in its place."""
    try:
        return future.result()
    except TimeoutError:
        return Looked(None, None, f"It takes longer than {LONGEST_S:.0f} s to measure.")
    except (ProcessExpired, CancelledError):
        return Looked(None, None, "Reading it broke off: it is damaged in a way of its own.")
    except MemoryError:
        return Looked(None, None, "There is not enough memory for it.")
    except Exception as error:
        # A fault of ours costs one file, not what comes after it.
        return Looked(None, None, f"It could not be measured: {type(error).__name__}, {error}.")
