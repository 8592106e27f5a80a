"""Opening a studio file, and its migrations."""

import sqlite3
import zlib
from collections.abc import Iterator
from contextlib import closing, contextmanager
from importlib import resources
from pathlib import Path
from threading import Lock
from urllib.parse import quote

from platformdirs import user_data_path

from juglant.core.errors import StorageError, UserError

STUDIO_FILE = "studio.sqlite"
# One file is brought up to date at a time.
_OPENING = Lock()


def studio_path(folder: Path | None) -> Path:
    """Where a studio is: in `folder`, or in the platform's folder for the user's data."""
    return (folder or user_data_path("juglant", appauthor=False)) / STUDIO_FILE


def _told(error: sqlite3.DatabaseError, path: Path) -> str:
    """What went wrong with the file, and what to do."""
    text = str(error)
    if "full" in text:
        return "The disk is full: nothing was saved. Make room on it, then save again."
    if "locked" in text:
        return "Another program is using the studio: nothing was saved. Close it there, then save again."
    if "readonly" in text:
        return f"{path} may only be read: nothing was saved. Allow writing to its folder, then save again."
    if "unable to open" in text:
        return f"The studio is not at {path} any more: nothing was saved. Put it back, then save again."
    if "malformed" in text or "not a database" in text:
        return (
            f"{path} is damaged. Stop Juglant; “juglant studio rescue FOLDER” writes out what can be read."
        )
    return f"The studio could not be used: {text}."


def pack(body: str) -> bytes:
    """A body as it is stored."""
    return zlib.compress(body.encode(), 6)


def unpack(body: bytes) -> str:
    """A body as it was before it was stored."""
    return zlib.decompress(body).decode()


def migrations(folder_name: str = "migrations") -> list[str]:
    """The SQL of every migration, in order; number n brings a file to user_version n."""
    folder = resources.files("juglant.store") / folder_name
    names = sorted(entry.name for entry in folder.iterdir() if entry.name.endswith(".sql"))
    return [(folder / name).read_text("utf-8") for name in names]


@contextmanager
def _transaction(connection: sqlite3.Connection) -> Iterator[None]:
    """Kept when the block ends, undone when it raises."""
    connection.execute("BEGIN IMMEDIATE")
    try:
        yield
    except BaseException:
        # A full disk has undone it already.
        if connection.in_transaction:
            connection.execute("ROLLBACK")
        raise
    connection.execute("COMMIT")


def _version(connection: sqlite3.Connection) -> int:
    return int(connection.execute("PRAGMA user_version").fetchone()[0])


def _statements(sql: str) -> Iterator[str]:
    """The statements of a script one by one: all of them at once would end the transaction they are in."""
    statement = ""
    for piece in sql.split(";"):
        statement += f"{piece};"
        if sqlite3.complete_statement(statement):
            yield statement
            statement = ""


def migrate(connection: sqlite3.Connection, steps: list[str] | None = None) -> None:
    """Bring a file up to date, each step wholly or not at all."""
    steps = migrations() if steps is None else steps
    done = _version(connection)
    if done > len(steps):
        raise UserError("This studio was made by a newer Juglant and cannot be opened by this one.")
    connection.create_function("pack", 1, pack, deterministic=True)
    # A table that is made anew leaves those that refer to it as they are.
    connection.execute("PRAGMA foreign_keys = OFF")
    for number, sql in enumerate(steps[done:], done + 1):
        with _transaction(connection):
            # Somebody else who opens the file at the same moment may have done it.
            if _version(connection) < number:
                for statement in _statements(sql):
                    connection.execute(statement)
                connection.execute(f"PRAGMA user_version = {number}")
    connection.execute("PRAGMA foreign_keys = ON")


class Studio:
    """A studio file. Every use opens its own connection: safe from any thread."""

    # Where its migrations are, and how sure a change is before it is called done.
    _migrations = "migrations"
    # What was shown as saved survives a power cut, not only a killed process.
    _synchronous = "FULL"

    def __init__(self, path: Path) -> None:
        self.path = path
        # So long others may take until it is given up.
        self.timeout_s = 10.0
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            with closing(sqlite3.connect(path)):
                pass
            # Turning to a log that is written ahead waits for nobody, and fails beside another one.
            with _OPENING, self._open() as connection:
                connection.execute("PRAGMA journal_mode = WAL")
                migrate(connection, migrations(self._migrations))
        except (OSError, sqlite3.DatabaseError) as error:
            raise UserError(f"{path} cannot be opened as a studio: {error}.") from error
        except StorageError as error:
            raise UserError(f"{path} cannot be opened as a studio. {error.message}") from error

    @contextmanager
    def _open(self) -> Iterator[sqlite3.Connection]:
        # A file that was moved away is not made anew, empty.
        address = f"file:{quote(str(self.path))}?mode=rw"
        try:
            connection = sqlite3.connect(address, uri=True, isolation_level=None, timeout=self.timeout_s)
        except sqlite3.DatabaseError as error:
            raise StorageError(_told(error, self.path)) from error
        try:
            connection.row_factory = sqlite3.Row
            connection.execute("PRAGMA foreign_keys = ON")
            connection.execute(f"PRAGMA synchronous = {self._synchronous}")
            yield connection
        except sqlite3.IntegrityError:
            raise
        except sqlite3.DatabaseError as error:
            raise StorageError(_told(error, self.path)) from error
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
        with self._open() as connection, _transaction(connection):
            yield connection
