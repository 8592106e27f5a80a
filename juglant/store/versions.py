"""Kept versions: recipe, numbers and the producer's note, never changed."""

import sqlite3
from typing import NamedTuple

from juglant.core.errors import NotFoundError


class Version(NamedTuple):
    """A kept version; `body` and `numbers` are JSON. `engine` is the one that it was made by, `sounded` its
    levels then, as JSON; None of versions that were kept before either was noted.
    """

    id: int
    note: str
    made_at: str
    body: str
    numbers: str
    engine: int | None
    sounded: str | None


_COLUMNS = "id, note, made_at, body, numbers, engine, sounded"


def keep(
    db: sqlite3.Connection, track_id: int, body: str, numbers: str, note: str, engine: int | None = None,
    sounded: str | None = None,
) -> Version:  # fmt: skip
    """Add a version of a track."""
    if db.execute("SELECT 1 FROM track WHERE id = ?", (track_id,)).fetchone() is None:
        raise NotFoundError("There is no such track in this studio.")
    made = db.execute(
        "INSERT INTO version (track_id, body, numbers, note, engine, sounded) VALUES (?, ?, ?, ?, ?, ?)",
        (track_id, body, numbers, note, engine, sounded),
    ).lastrowid
    assert made is not None
    return get(db, track_id, made)


def of_track(
    db: sqlite3.Connection, track_id: int, before: int, most: int, find: str = "", *, starred: bool = False
) -> list[Version]:
    """The latest versions of a track that are older than `before`, the latest first; those with a text in
    their note, their tags or what they changed, and those with a star.
    """
    like = "%" + "".join(f"\\{one}" if one in "\\%_" else one for one in find) + "%"
    rows = db.execute(
        f"SELECT {_COLUMNS} FROM version LEFT JOIN version_mark ON version_id = id "
        "WHERE track_id = :track AND id < :before AND deleted_at IS NULL "
        "AND (note LIKE :like ESCAPE '\\' OR coalesce(tags, '') LIKE :like ESCAPE '\\' "
        "OR CASE WHEN json_valid(numbers) THEN coalesce(json_extract(numbers, '$.changed'), '') "
        "ELSE '' END LIKE :like ESCAPE '\\') "
        "AND (NOT :starred OR coalesce(star, 0)) ORDER BY id DESC LIMIT :most",
        {"track": track_id, "before": before, "most": most, "like": like, "starred": starred},
    )
    return [Version(*row) for row in rows]


def get(db: sqlite3.Connection, track_id: int, version_id: int) -> Version:
    """One version of a track."""
    row = db.execute(
        f"SELECT {_COLUMNS} FROM version WHERE track_id = ? AND id = ?", (track_id, version_id)
    ).fetchone()
    if row is None:
        raise NotFoundError("There is no such version of this track.")
    return Version(*row)


def delete(db: sqlite3.Connection, track_id: int, version_id: int) -> None:
    """Take a version out of the log; it can be brought back for 30 days."""
    get(db, track_id, version_id)
    db.execute(
        "UPDATE version SET deleted_at = strftime('%Y-%m-%dT%H:%M:%fZ', 'now') WHERE id = ?", (version_id,)
    )


def bring_back(db: sqlite3.Connection, track_id: int, version_id: int) -> Version:
    """A version that was deleted, in the log again."""
    version = get(db, track_id, version_id)
    db.execute("UPDATE version SET deleted_at = NULL WHERE id = ?", (version_id,))
    return version
