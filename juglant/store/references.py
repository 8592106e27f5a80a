"""Records that a track is held against: a passage to be played, and what was measured of it."""

import sqlite3
from typing import NamedTuple

from juglant.core.errors import NotFoundError, UserError

MOST_REFERENCES = 50


class StoredReference(NamedTuple):
    """A reference; `audio` is the hash of its passage, `numbers` are JSON."""

    id: int
    track_id: int
    name: str
    audio: str
    numbers: str


_COLUMNS = "id, track_id, name, audio, numbers"


def of_track(db: sqlite3.Connection, track_id: int) -> list[StoredReference]:
    """A track's references, the first one first."""
    rows = db.execute(f"SELECT {_COLUMNS} FROM reference WHERE track_id = ? ORDER BY id", (track_id,))
    return [StoredReference(*row) for row in rows]


def get(db: sqlite3.Connection, id: int) -> StoredReference:
    """One by its number. NotFoundError where there is none."""
    row = db.execute(f"SELECT {_COLUMNS} FROM reference WHERE id = ?", (id,)).fetchone()
    if row is None:
        raise NotFoundError("There is no such reference in this studio.")
    return StoredReference(*row)


def keep(db: sqlite3.Connection, track_id: int, name: str, audio: str, numbers: str) -> StoredReference:
    """A new reference of a track."""
    if (
        db.execute("SELECT 1 FROM track WHERE id = ? AND deleted_at IS NULL", (track_id,)).fetchone()
        is None
    ):
        raise NotFoundError("There is no such track in this studio.")
    if len(of_track(db, track_id)) >= MOST_REFERENCES:
        raise UserError(f"This track has {MOST_REFERENCES} references already: take one out first.")
    made = db.execute(
        "INSERT INTO reference (track_id, name, audio, numbers) VALUES (?, ?, ?, ?)",
        (track_id, name, audio, numbers),
    ).lastrowid
    assert made is not None
    return get(db, made)


def drop(db: sqlite3.Connection, id: int) -> None:
    """Take a reference away."""
    get(db, id)
    db.execute("DELETE FROM reference WHERE id = ?", (id,))
