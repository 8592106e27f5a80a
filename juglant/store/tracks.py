"""Tracks and their working states."""

import sqlite3
from typing import NamedTuple

from juglant.core.errors import NotFoundError, StaleError
from juglant.store.database import pack, unpack

# States further back than this are forgotten; kept versions stay for ever.
_UNDO_STEPS = 500
# What was left behind by undo, or deleted, can be gone back to for so long.
KEPT_DAYS = 30
LONG_AGO = f"strftime('%Y-%m-%dT%H:%M:%fZ', 'now', '-{KEPT_DAYS} days')"
# From the working state back to the first one, counted from 1.
_PATH = """
WITH RECURSIVE path (id, back) AS (
    SELECT head, 1 FROM track WHERE id = :track
    UNION ALL
    SELECT state.parent, back + 1 FROM state JOIN path ON state.id = path.id WHERE state.parent IS NOT NULL
)
"""


class Track(NamedTuple):
    """A track with its working state as JSON; `revision` names that state."""

    id: int
    name: str
    revision: int
    body: str
    can_undo: bool
    can_redo: bool


class Step(NamedTuple):
    """A saved state: when, what it changed in words, whether it lies on the way to the working one."""

    revision: int
    made_at: str
    what: str | None
    on_path: bool
    here: bool


class Listed(NamedTuple):
    """A track in the list, with its working state as it is stored."""

    id: int
    name: str
    made_at: str
    changed_at: str
    deleted_at: str | None


def create(db: sqlite3.Connection, name: str, body: str) -> Track:
    """A new track whose first state is `body`."""
    track_id = db.execute("INSERT INTO track (name) VALUES (?)", (name,)).lastrowid
    assert track_id is not None
    _append(db, track_id, None, body, None)
    return get(db, track_id)


def _append(db: sqlite3.Connection, track_id: int, parent: int | None, body: str, what: str | None) -> None:
    state = db.execute(
        "INSERT INTO state (track_id, parent, body, what) VALUES (?, ?, ?, ?)",
        (track_id, parent, pack(body), what),
    ).lastrowid
    db.execute("UPDATE track SET head = ? WHERE id = ?", (state, track_id))


def everything(db: sqlite3.Connection, *, deleted: bool = False) -> list[Listed]:
    """Every track, the oldest first; or those that were deleted and can be brought back."""
    rows = db.execute(
        "SELECT track.id, track.name, track.made_at, state.made_at AS changed_at, track.deleted_at "
        "FROM track JOIN state ON state.id = track.head "
        f"WHERE track.deleted_at IS {'NOT NULL' if deleted else 'NULL'} ORDER BY track.id"
    )
    return [Listed(*row) for row in rows]


def delete(db: sqlite3.Connection, track_id: int) -> None:
    """Take a track out of the list; it can be brought back for 30 days."""
    get(db, track_id)
    db.execute(
        "UPDATE track SET deleted_at = strftime('%Y-%m-%dT%H:%M:%fZ', 'now') WHERE id = ?", (track_id,)
    )


def bring_back(db: sqlite3.Connection, track_id: int) -> Track:
    """A track that was deleted, in the list again."""
    db.execute("UPDATE track SET deleted_at = NULL WHERE id = ?", (track_id,))
    return get(db, track_id)


def history(db: sqlite3.Connection, track_id: int, most: int) -> list[Step]:
    """The latest saved states, the newest first, those that undo left behind among them."""
    here = get(db, track_id).revision
    rows = db.execute(
        f"{_PATH} SELECT id, made_at, what, id IN (SELECT id FROM path) AS on_path FROM state "
        "WHERE track_id = :track ORDER BY id DESC LIMIT :most",
        {"track": track_id, "most": most},
    )
    return [
        Step(row["id"], row["made_at"], row["what"], bool(row["on_path"]), row["id"] == here)
        for row in rows
    ]


def go_to(db: sqlite3.Connection, track_id: int, revision: int) -> Track:
    """Any saved state of a track as the working one; nothing is lost by it."""
    found = db.execute("SELECT 1 FROM state WHERE id = ? AND track_id = ?", (revision, track_id)).fetchone()
    if found is None:
        raise NotFoundError("There is no such step in the history of this track any more.")
    db.execute("UPDATE track SET head = ? WHERE id = ?", (revision, track_id))
    return get(db, track_id)


def get(db: sqlite3.Connection, track_id: int) -> Track:
    """A track with its working state."""
    row = db.execute(
        "SELECT track.id, track.name, state.id AS revision, state.body, state.parent, "
        "EXISTS (SELECT 1 FROM state AS child WHERE child.parent = state.id) AS can_redo "
        "FROM track JOIN state ON state.id = track.head WHERE track.id = ? AND track.deleted_at IS NULL",
        (track_id,),
    ).fetchone()
    if row is None:
        raise NotFoundError("There is no such track in this studio.")
    return Track(
        row["id"], row["name"], row["revision"], unpack(row["body"]),
        row["parent"] is not None, bool(row["can_redo"]),
    )  # fmt: skip


def body(db: sqlite3.Connection, track_id: int, revision: int) -> str:
    """A saved state of a track, as JSON."""
    row = db.execute(
        "SELECT body FROM state WHERE id = ? AND track_id = ?", (revision, track_id)
    ).fetchone()
    if row is None:
        raise NotFoundError("There is no such step in the history of this track any more.")
    return unpack(row["body"])


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


def save(db: sqlite3.Connection, track_id: int, body: str, based_on: int, what: str | None = None) -> Track:
    """Make `body` the working state; StaleError unless it was made from the latest one.

    So many steps of the way to it are kept, and what undo left behind for 30 days.
    """
    track = latest(db, track_id, based_on)
    if body != track.body:
        _append(db, track_id, track.revision, body, what)
        db.execute(
            f"{_PATH} DELETE FROM state WHERE track_id = :track "
            "AND id NOT IN (SELECT id FROM path WHERE back <= :steps) "
            f"AND (id IN (SELECT id FROM path) OR made_at < {LONG_AGO})",
            {"track": track_id, "steps": _UNDO_STEPS + 1},
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
