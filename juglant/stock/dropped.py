"""Sounds that are only to be tried: measured as the stock's are, and forgotten when the server ends."""

from collections.abc import Iterable
from pathlib import Path
from tempfile import TemporaryDirectory
from threading import Lock

from juglant.core.hits.render import LoadAudio
from juglant.core.stock.known import known
from juglant.store import stock
from juglant.store.stock import STOCK_FILE, Stock


class Dropped:
    """A stock of its own for what was dropped on the page."""

    def __init__(self) -> None:
        self._lock = Lock()
        self._folder: TemporaryDirectory[str] | None = None
        self._held: Stock | None = None
        self._place = 0

    @property
    def held(self) -> Stock:
        """Its file, made when it is first asked for."""
        with self._lock:
            if self._held is None:
                self._folder = TemporaryDirectory(prefix="juglant-dropped-")
                self._held = Stock(Path(self._folder.name) / STOCK_FILE)
                with self._held.changing() as db:
                    self._place = stock.add_folder(db, Path(self._folder.name))
            return self._held

    def put(self, sounds: Iterable[tuple[str, str]], audio: LoadAudio) -> None:
        """Measure sounds, each by its content and its name, unless that was done."""
        held = self.held
        for digest, name in sounds:
            numbers = None if stock.measured(str(held.path), digest) else known(*audio(digest))
            with held.changing() as db:
                if numbers is not None:
                    stock.put_sound(db, digest, numbers)
                raw = f"{digest}/{name}".encode()
                stock.put_place(db, self._place, raw, 0, 0, digest=digest, trouble=None)
