"""Finished hits, chains and patterns, whole, for any track."""

import sqlite3
from typing import Literal, NamedTuple

from juglant.core.errors import NotFoundError, UserError
from juglant.store.database import pack, unpack

What = Literal["hit", "chain", "pattern"]
MOST_FILED = 10_000


class Filed(NamedTuple):
    """Something filed; `body` is its JSON."""

    id: int
    what: str
    kind: str
    name: str
    made_at: str
    body: str


def put(db: sqlite3.Connection, what: What, kind: str, name: str, body: str) -> Filed:
    """File something; a name may be there already, as producers have several."""
    if db.execute("SELECT count(*) FROM filed").fetchone()[0] >= MOST_FILED:
        raise UserError(f"There are {MOST_FILED} things filed already: take some out first.")
    made = db.execute(
        "INSERT INTO filed (what, kind, name, body) VALUES (?, ?, ?, ?)", (what, kind, name, pack(body))
    ).lastrowid
    assert made is not None
    return get(db, made)


def _read(row: sqlite3.Row) -> Filed:
    return Filed(row["id"], row["what"], row["kind"], row["name"], row["made_at"], unpack(row["body"]))


_COLUMNS = "id, what, kind, name, made_at, body"


def get(db: sqlite3.Connection, id: int) -> Filed:
    """One by its number. NotFoundError where there is none."""
    row = db.execute(f"SELECT {_COLUMNS} FROM filed WHERE id = ?", (id,)).fetchone()
    if row is None:
        raise NotFoundError("There is nothing filed under this number.")
    return _read(row)


def everything(db: sqlite3.Connection) -> list[Filed]:
    """All that is filed, by kind and name."""
    return [_read(row) for row in db.execute(f"SELECT {_COLUMNS} FROM filed ORDER BY what, kind, name, id")]


def drop(db: sqlite3.Connection, id: int) -> None:
    """Take something out of the file."""
    if db.execute("DELETE FROM filed WHERE id = ?", (id,)).rowcount == 0:
        raise NotFoundError("There is nothing filed under this number.")
