"""Tracks and their working states."""

import sqlite3
from typing import NamedTuple

from juglant.core.errors import NotFoundError, StaleError
from juglant.store.database import pack, unpack

# States further back than this are forgotten; kept versions stay for ever.
_UNDO_STEPS = 500


class Track(NamedTuple):
    """A track with its working state as JSON; `revision` names that state."""

    id: int
    name: str
    revision: int
    body: str
    can_undo: bool
    can_redo: bool


def create(db: sqlite3.Connection, name: str, body: str) -> Track:
    """A new track whose first state is `body`."""
    track_id = db.execute("INSERT INTO track (name) VALUES (?)", (name,)).lastrowid
    assert track_id is not None
    _append(db, track_id, None, body)
    return get(db, track_id)


def _append(db: sqlite3.Connection, track_id: int, parent: int | None, body: str) -> None:
    state = db.execute(
        "INSERT INTO state (track_id, parent, body) VALUES (?, ?, ?)", (track_id, parent, pack(body))
    ).lastrowid
    db.execute("UPDATE track SET head = ? WHERE id = ?", (state, track_id))


def everything(db: sqlite3.Connection) -> list[tuple[int, str]]:
    """Id and name of every track, the oldest first."""
    return [(row["id"], row["name"]) for row in db.execute("SELECT id, name FROM track ORDER BY id")]


def get(db: sqlite3.Connection, track_id: int) -> Track:
    """A track with its working state."""
    row = db.execute(
        "SELECT track.id, track.name, state.id AS revision, state.body, state.parent, "
        "EXISTS (SELECT 1 FROM state AS child WHERE child.parent = state.id) AS can_redo "
        "FROM track JOIN state ON state.id = track.head WHERE track.id = ?",
        (track_id,),
    ).fetchone()
    if row is None:
        raise NotFoundError("There is no such track in this studio.")
    return Track(
        row["id"], row["name"], row["revision"], unpack(row["body"]),
        row["parent"] is not None, bool(row["can_redo"]),
    )  # fmt: skip


def rename(db: sqlite3.Connection, track_id: int, name: str) -> Track:
    """Give a track another name."""
    db.execute("UPDATE track SET name = ? WHERE id = ?", (name, track_id))
    return get(db, track_id)


def latest(db: sqlite3.Connection, track_id: int, based_on: int) -> Track:
    """A track whose working state is the one that something was made from.

    Raises StaleError otherwise: somebody else, another tab say, has saved in between.
    """
    track = get(db, track_id)
    if track.revision != based_on:
        raise StaleError(
            "This track was changed elsewhere, in another tab perhaps, after you opened it here. "
            "Nothing was overwritten: keep yours as a version, or go on from the other."
        )
    return track


def save(db: sqlite3.Connection, track_id: int, body: str, based_on: int) -> Track:
    """Make `body` the working state; StaleError unless it was made from the latest one."""
    track = latest(db, track_id, based_on)
    if body != track.body:
        _append(db, track_id, track.revision, body)
        db.execute(
            "DELETE FROM state WHERE track_id = ? AND id <= (SELECT id FROM state "
            "WHERE track_id = ? ORDER BY id DESC LIMIT 1 OFFSET ?)",
            (track_id, track_id, _UNDO_STEPS),
        )
    return get(db, track_id)


def undo(db: sqlite3.Connection, track_id: int) -> Track:
    """Back to the state that the working one was made from; stays where there is none."""
    db.execute(
        "UPDATE track SET head = coalesce((SELECT parent FROM state WHERE id = head), head) WHERE id = ?",
        (track_id,),
    )
    return get(db, track_id)


def redo(db: sqlite3.Connection, track_id: int) -> Track:
    """Forward again, to the latest state made from the working one."""
    db.execute(
        "UPDATE track SET head = coalesce((SELECT max(id) FROM state WHERE parent = head), head) "
        "WHERE id = ?",
        (track_id,),
    )
    return get(db, track_id)
