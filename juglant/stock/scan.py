"""Looking through folders: what is new is measured, what is gone is forgotten, nothing is written there.

Files are measured by other processes, of lower priority, here or elsewhere; one that breaks, or takes too
long, costs its own file only.
"""

import os
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from pathlib import Path
from threading import Event

from juglant.core.stock.known import KNOWN_VERSION
from juglant.stock.crews import Cluster, Crew, Looking, Processes, result_of
from juglant.stock.look import Looked
from juglant.store import stock
from juglant.store.stock import Stock

# What is taken for a sound file by its name; what it is, its bytes decide.
_ENDINGS = "wav wave flac aif aiff aifc caf ogg oga mp3 w64 rf64 au"
SUFFIXES = frozenset(f".{ending}" for ending in _ENDINGS.split())
_LOOKS_S = 0.05
# How long it takes is said after so many.
_SURE = 8


@dataclass(frozen=True)
class Progress:
    """How far a scan is: files looked at and measured, of how many; files a second, seconds left."""

    done: int = 0
    total: int = 0
    measured: int = 0
    troubled: int = 0
    rate: float = 0.0
    left_s: float | None = None
    folder: str = ""


@dataclass(frozen=True)
class _File:
    """A file of a folder as it is now."""

    folder: int
    raw: bytes
    path: str
    size: int
    mtime_ns: int


def _inside(folder: Path) -> Iterator[tuple[bytes, os.stat_result | None, str | None]]:
    """Every sound file of a folder and of those in it: its name from there, what it is, or why it is not
    looked at. Links are followed nowhere else.
    """
    root = os.fsencode(folder)
    for at, folders, names in os.walk(root):
        folders[:] = sorted(one for one in folders if not one.startswith(b"."))
        for name in sorted(names):
            if os.fsdecode(os.path.splitext(name)[1]).lower() not in SUFFIXES or name.startswith(b"._"):
                continue
            path = os.path.join(at, name)
            raw = os.path.relpath(path, root)
            try:
                if os.path.islink(path) and not os.path.realpath(path).startswith(root + b"/"):
                    yield raw, None, "It is a link to outside of its folder, and was not followed."
                elif os.path.isfile(path):
                    yield raw, os.stat(path), None
                else:
                    yield raw, None, "It is no file that could be read."
            except OSError as error:
                yield raw, None, f"It cannot be read: {error.strerror}."


class Scan:
    """One look through all folders of a stock. It can wait, be stopped, and be begun again where it was."""

    def __init__(self, held: Stock, jobs: int | None = None, dask: str | None = None) -> None:
        """`dask` is the address of a cluster that measures in place of processes of this machine; its
        workers reach the files under the same paths.
        """
        self._stock = held
        # A core is left to the page.
        self._jobs = jobs or max(1, (os.cpu_count() or 2) - 1)
        self._dask = dask
        self.stop, self.wait = Event(), Event()
        self.progress = Progress()

    def run(self, told: Callable[[Progress], None] = lambda _: None) -> Progress:
        """Look through every folder that is there; what a folder that is away holds stays as it was."""
        todo, gone = self._changed()
        self.progress = Progress(total=len(todo))
        told(self.progress)
        if todo and not self.stop.is_set():
            self._measure(todo, told)
        if (todo or gone) and not self.stop.is_set():
            # Not before: what was only moved is known by its content then.
            with self._stock.changing() as db:
                stock.drop_places(db, gone)
        return self.progress

    def _measure(self, todo: list[_File], told: Callable[[Progress], None]) -> None:
        # Counted from the first file on: until then the processes start.
        began, waited = 0.0, 0.0
        crew: Crew = (
            Processes(self._jobs, str(self._stock.path)) if self._dask is None else Cluster(self._dask)
        )
        pending: list[tuple[_File, Looking]] = []
        files = iter(todo)
        try:
            while not self.stop.is_set():
                if self.wait.is_set():
                    time.sleep(_LOOKS_S)
                    waited += _LOOKS_S
                    continue
                while len(pending) < crew.at_once and (one := next(files, None)) is not None:
                    pending.append((one, crew.begin(one.path)))
                if not pending:
                    return
                file, future = pending.pop(0)
                self._keep(file, result_of(future))
                began = began or time.monotonic()
                self._count(time.monotonic() - began - waited)
                told(self.progress)
        finally:
            crew.end()

    def _changed(self) -> tuple[list[_File], list[int]]:
        """Files that are new or were changed, or were measured by an older engine; and places where nothing
        is any more. Nothing is said of a folder that is away.
        """
        with self._stock.reading() as db:
            known_folders = [(one, stock.seen_in(db, one.id)) for one in stock.folders(db) if not one.away]
        todo: list[_File] = []
        gone: list[int] = []
        for folder, seen in known_folders:
            there: set[bytes] = set()
            for raw, now, trouble in _inside(Path(folder.path)):
                if self.stop.is_set():
                    return todo, []
                there.add(raw)
                old = seen.get(raw)
                if now is None:
                    self._refuse(folder.id, raw, trouble or "")
                    continue
                same = old is not None and (old.size, old.mtime_ns) == (now.st_size, now.st_mtime_ns)
                if old is None or not same or (old.hash is not None and old.engine != KNOWN_VERSION):
                    path = os.fsdecode(os.path.join(os.fsencode(folder.path), raw))
                    todo.append(_File(folder.id, raw, path, now.st_size, now.st_mtime_ns))
            gone += [one.id for raw, one in seen.items() if raw not in there]
        return todo, gone

    def _refuse(self, folder: int, raw: bytes, trouble: str) -> None:
        with self._stock.changing() as db:
            stock.put_place(db, folder, raw, 0, 0, digest=None, trouble=trouble)

    def _keep(self, file: _File, looked: Looked) -> None:
        with self._stock.changing() as db:
            if looked.digest is not None and looked.known is not None:
                stock.put_sound(db, looked.digest, looked.known)
            stock.put_place(
                db, file.folder, file.raw, file.size, file.mtime_ns, digest=looked.digest,
                trouble=looked.trouble,
            )  # fmt: skip
        now = self.progress
        self.progress = replace(
            now, done=now.done + 1, measured=now.measured + (looked.known is not None),
            troubled=now.troubled + (looked.trouble is not None), folder=os.path.dirname(file.path),
        )  # fmt: skip

    def _count(self, seconds: float) -> None:
        now = self.progress
        rate = (now.done - 1) / seconds if seconds > 0 else 0.0
        left = (now.total - now.done) / rate if rate > 0 and now.done >= _SURE else None
        self.progress = replace(now, rate=round(rate, 1), left_s=left)
