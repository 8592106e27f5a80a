"""Impulse responses of places of the user's own."""

import sqlite3
from typing import NamedTuple

from juglant.core.errors import NotFoundError, UserError

MOST_RESPONSES = 100


class StoredResponse(NamedTuple):
    """A response by its number; `audio` is the hash of its file."""

    id: int
    name: str
    audio: str


def everything(db: sqlite3.Connection) -> list[StoredResponse]:
    """All responses by name."""
    return [
        StoredResponse(*row) for row in db.execute("SELECT id, name, audio FROM response ORDER BY name, id")
    ]


def keep(db: sqlite3.Connection, name: str, audio: str) -> None:
    """Add a response; UserError where its name is taken."""
    if db.execute("SELECT count(*) FROM response").fetchone()[0] >= MOST_RESPONSES:
        raise UserError(f"There are {MOST_RESPONSES} responses already: forget one first.")
    if db.execute("SELECT 1 FROM response WHERE name = ?", (name,)).fetchone():
        raise UserError(f"There is a response called “{name}” already: choose another name.", "name")
    db.execute("INSERT INTO response (name, audio) VALUES (?, ?)", (name, audio))


def forget(db: sqlite3.Connection, id: int) -> None:
    """Take a response out of the studio."""
    if db.execute("DELETE FROM response WHERE id = ?", (id,)).rowcount == 0:
        raise NotFoundError("There is no such response in this studio.")
