"""Imported audio, once each, by the hash of its original bytes."""

import hashlib
import sqlite3
from typing import NamedTuple

from juglant.core.errors import NotFoundError


class StoredAudio(NamedTuple):
    """What is known of an imported file without decoding it."""

    hash: str
    name: str
    kind: str
    rate: int
    frames: int
    channels: int


def put(
    db: sqlite3.Connection, data: bytes, name: str, kind: str, rate: int, frames: int, channels: int
) -> StoredAudio:
    """Store a file; the same bytes are stored once, under the name they first came with, and are brought in
    anew.
    """
    digest = hashlib.sha256(data).hexdigest()
    db.execute(
        "INSERT INTO audio (hash, name, kind, rate, frames, channels, bytes) "
        "VALUES (?, ?, ?, ?, ?, ?, ?) ON CONFLICT (hash) "
        "DO UPDATE SET made_at = strftime('%Y-%m-%dT%H:%M:%fZ', 'now')",
        (digest, name, kind, rate, frames, channels, data),
    )
    return describe(db, digest)


def describe(db: sqlite3.Connection, digest: str) -> StoredAudio:
    """Look a file up by its hash."""
    row = db.execute(
        "SELECT hash, name, kind, rate, frames, channels FROM audio WHERE hash = ?", (digest,)
    ).fetchone()
    if row is None:
        raise NotFoundError("This sound is not in the studio: its file was never imported here.")
    return StoredAudio(*row)


def data(db: sqlite3.Connection, digest: str) -> tuple[bytes, str]:
    """The original bytes and name of a file."""
    row = db.execute("SELECT bytes, name FROM audio WHERE hash = ?", (digest,)).fetchone()
    if row is None:
        raise NotFoundError("This sound is not in the studio: its file was never imported here.")
    return bytes(row[0]), str(row[1])
