"""A user's own ducking curves, for any track."""

import sqlite3
from typing import NamedTuple

from juglant.core.errors import NotFoundError, UserError

MOST_SHAPES = 200


class StoredShape(NamedTuple):
    """A kept shape; `body` is JSON."""

    id: int
    name: str
    body: str


def everything(db: sqlite3.Connection) -> list[StoredShape]:
    """All shapes by name."""
    return [StoredShape(*row) for row in db.execute("SELECT id, name, body FROM shape ORDER BY name, id")]


def keep(db: sqlite3.Connection, name: str, body: str) -> None:
    """Add a shape; UserError where its name is taken: nothing is overwritten in silence."""
    if db.execute("SELECT count(*) FROM shape").fetchone()[0] >= MOST_SHAPES:
        raise UserError(f"There are {MOST_SHAPES} shapes already: forget one first.")
    try:
        db.execute("INSERT INTO shape (name, body) VALUES (?, ?)", (name, body))
    except sqlite3.IntegrityError as error:
        raise UserError(
            f"There is a shape called “{name}” already: choose another name.", "name"
        ) from error


def forget(db: sqlite3.Connection, shape_id: int) -> None:
    """Remove a shape; curves drawn from it stay as they are."""
    if db.execute("DELETE FROM shape WHERE id = ?", (shape_id,)).rowcount == 0:
        raise NotFoundError("There is no such shape in this studio.")
