"""A folder beside the arranging project: where hand-overs go, and which of its files are watched."""

import sqlite3
from typing import NamedTuple


class Outlet(NamedTuple):
    """A track's folder, and whether its files are looked at."""

    folder: str
    watching: bool


class Watched(NamedTuple):
    """A part that is made from a file of the folder; `audio` is the file as it was taken last."""

    part: str
    file: str
    audio: str


def get(db: sqlite3.Connection, track_id: int) -> Outlet | None:
    """A track's folder; None where none was named."""
    row = db.execute("SELECT folder, watching FROM outlet WHERE track_id = ?", (track_id,)).fetchone()
    return None if row is None else Outlet(row["folder"], bool(row["watching"]))


def put(db: sqlite3.Connection, track_id: int, outlet: Outlet | None) -> None:
    """Name a folder, or none; what was watched in another one is not any more."""
    old = get(db, track_id)
    if outlet is None or (old is not None and old.folder != outlet.folder):
        db.execute("DELETE FROM watched WHERE track_id = ?", (track_id,))
    if outlet is None:
        db.execute("DELETE FROM outlet WHERE track_id = ?", (track_id,))
        return
    db.execute(
        "INSERT INTO outlet (track_id, folder, watching) VALUES (?, ?, ?) "
        "ON CONFLICT (track_id) DO UPDATE SET folder = excluded.folder, watching = excluded.watching",
        (track_id, outlet.folder, int(outlet.watching)),
    )


def watched(db: sqlite3.Connection, track_id: int) -> list[Watched]:
    """The parts of a track that are made from files of its folder."""
    rows = db.execute("SELECT part, file, audio FROM watched WHERE track_id = ? ORDER BY file", (track_id,))
    return [Watched(*row) for row in rows]


def watch(db: sqlite3.Connection, track_id: int, one: Watched) -> None:
    """A part is made from a file, as that is now."""
    db.execute(
        "INSERT INTO watched (track_id, part, file, audio) VALUES (?, ?, ?, ?) "
        "ON CONFLICT (track_id, part) DO UPDATE SET file = excluded.file, audio = excluded.audio",
        (track_id, *one),
    )


def unwatch(db: sqlite3.Connection, track_id: int, part: str) -> None:
    """A part is looked after by hand again."""
    db.execute("DELETE FROM watched WHERE track_id = ? AND part = ?", (track_id, part))
