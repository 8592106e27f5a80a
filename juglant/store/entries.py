"""What was noted, compared or handed over while a track was worked on; and what is said of versions."""

import sqlite3
from typing import Literal, NamedTuple

from juglant.core.errors import NotFoundError

Kind = Literal["note", "blind", "hand-over"]


class Entry(NamedTuple):
    """A line of the log, said of the state with the number `revision`."""

    id: int
    kind: Kind
    note: str
    revision: int | None
    made_at: str


class Mark(NamedTuple):
    """A star for what was sent out, and tags."""

    star: bool
    tags: str


def add(db: sqlite3.Connection, track_id: int, kind: Kind, note: str) -> Entry:
    """A new line, said of the track's working state."""
    row = db.execute("SELECT head FROM track WHERE id = ? AND deleted_at IS NULL", (track_id,)).fetchone()
    if row is None:
        raise NotFoundError("There is no such track in this studio.")
    made = db.execute(
        "INSERT INTO entry (track_id, kind, note, revision) VALUES (?, ?, ?, ?) "
        "RETURNING id, kind, note, revision, made_at",
        (track_id, kind, note, row["head"]),
    )
    return Entry(*made.fetchone())


def of_track(db: sqlite3.Connection, track_id: int, most: int = 500) -> list[Entry]:
    """The latest lines of a track, the newest first."""
    rows = db.execute(
        "SELECT id, kind, note, revision, made_at FROM entry WHERE track_id = ? ORDER BY id DESC LIMIT ?",
        (track_id, most),
    )
    return [Entry(*row) for row in rows]


def drop(db: sqlite3.Connection, track_id: int, id: int) -> None:
    """Take a line out of the log."""
    gone = db.execute("DELETE FROM entry WHERE track_id = ? AND id = ?", (track_id, id)).rowcount
    if gone == 0:
        raise NotFoundError("There is no such line in the log of this track.")


def mark(db: sqlite3.Connection, version_id: int, *, star: bool | None, tags: str | None) -> None:
    """Say something of a kept version; what is None stays as it is."""
    db.execute("INSERT OR IGNORE INTO version_mark (version_id) VALUES (?)", (version_id,))
    db.execute(
        "UPDATE version_mark SET star = coalesce(?, star), tags = coalesce(?, tags) WHERE version_id = ?",
        (star, tags, version_id),
    )


def marks(db: sqlite3.Connection, track_id: int) -> dict[int, Mark]:
    """What is said of a track's versions, by their numbers."""
    rows = db.execute(
        "SELECT version_id, star, tags FROM version_mark JOIN version ON version.id = version_id "
        "WHERE track_id = ?",
        (track_id,),
    )
    return {row["version_id"]: Mark(bool(row["star"]), row["tags"]) for row in rows}
