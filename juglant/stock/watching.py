"""Folders that are watched: whatever is new or changed in them is looked at once it rests."""

import os
from collections.abc import Callable, Sequence
from pathlib import PurePath
from threading import Event, Lock, Thread

from juglant.stock.scan import SUFFIXES

# A copy of many files is looked at when nothing was added for so long.
_RESTS_MS = 1500
# So often folders are compared where the system tells nothing of its own accord.
_COMPARED_MS = 10_000


class Watching:
    """Watches folders on a thread of its own; `look` looks through the stock, and is back when it has."""

    def __init__(self, look: Callable[[], None]) -> None:
        self._look = look
        self._lock = Lock()
        self._paths: tuple[str, ...] = ()
        self._stop = Event()

    def over(self, paths: Sequence[str]) -> None:
        """Watch these folders, as far as they are there, and no others."""
        there = tuple(sorted(path for path in paths if os.path.isdir(path)))
        with self._lock:
            if there == self._paths:
                return
            self._stop.set()
            self._paths, self._stop = there, Event()
            if there:
                Thread(target=self._watch, args=(there, self._stop), daemon=True).start()

    def end(self) -> None:
        """Watch nothing any more."""
        self.over(())

    def _watch(self, paths: tuple[str, ...], stop: Event) -> None:
        from watchfiles import watch

        # Without word from the system, where it has no more watches to give, they are compared.
        for compared in (False, True):
            try:
                for _ in watch(
                    *paths, watch_filter=lambda _, path: _is_sound(path), debounce=4 * _RESTS_MS,
                    step=_RESTS_MS, stop_event=stop, rust_timeout=1000, raise_interrupt=False,
                    force_polling=compared, poll_delay_ms=_COMPARED_MS, ignore_permission_denied=True,
                ):  # fmt: skip
                    self._look()
            except OSError:
                continue
            return


def _is_sound(path: str) -> bool:
    # What has no ending may be a folder that was moved.
    return PurePath(path).suffix.lower() in SUFFIXES or not PurePath(path).suffix
