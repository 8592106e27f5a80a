"""Opening a studio file, and its migrations."""

import sqlite3
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from importlib import resources
from pathlib import Path

from juglant.core.errors import UserError


def pack(body: str) -> bytes:
    """A body as it is stored."""
    return zlib.compress(body.encode(), 6)


def unpack(body: bytes) -> str:
    """A body as it was before it was stored."""
    return zlib.decompress(body).decode()


def migrations() -> list[str]:
    """The SQL of every migration, in order; number n brings a file to user_version n."""
    folder = resources.files("juglant.store") / "migrations"
    names = sorted(entry.name for entry in folder.iterdir() if entry.name.endswith(".sql"))
    return [(folder / name).read_text("utf-8") for name in names]


def migrate(connection: sqlite3.Connection, steps: list[str] | None = None) -> None:
    """Bring a file up to date, each step wholly or not at all."""
    steps = migrations() if steps is None else steps
    done = int(connection.execute("PRAGMA user_version").fetchone()[0])
    if done > len(steps):
        raise UserError("This studio was made by a newer Juglant and cannot be opened by this one.")
    connection.create_function("pack", 1, pack, deterministic=True)
    # A table that is made anew leaves those that refer to it as they are.
    connection.execute("PRAGMA foreign_keys = OFF")
    for number, sql in enumerate(steps[done:], done + 1):
        connection.executescript(f"BEGIN IMMEDIATE;\n{sql}\nPRAGMA user_version = {number};\nCOMMIT;")
    connection.execute("PRAGMA foreign_keys = ON")


class Studio:
    """A studio file. Every use opens its own connection: safe from any thread."""

    def __init__(self, path: Path) -> None:
        self.path = path
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            with self._open() as connection:
                connection.execute("PRAGMA journal_mode = WAL")
                migrate(connection)
        except (OSError, sqlite3.DatabaseError) as error:
            raise UserError(f"{path} cannot be opened as a studio: {error}.") from error

    @contextmanager
    def _open(self) -> Iterator[sqlite3.Connection]:
        connection = sqlite3.connect(self.path, isolation_level=None, timeout=10)
        try:
            connection.row_factory = sqlite3.Row
            connection.execute("PRAGMA foreign_keys = ON")
            # What was shown as saved survives a power cut, not only a killed process.
            connection.execute("PRAGMA synchronous = FULL")
            yield connection
        finally:
            connection.close()

    @contextmanager
    def reading(self) -> Iterator[sqlite3.Connection]:
        """A connection for queries."""
        with self._open() as connection:
            yield connection

    @contextmanager
    def changing(self) -> Iterator[sqlite3.Connection]:
        """One transaction: kept when the block ends, undone when it raises."""
        with self._open() as connection:
            connection.execute("BEGIN IMMEDIATE")
            try:
                yield connection
            except BaseException:
                connection.execute("ROLLBACK")
                raise
            connection.execute("COMMIT")
