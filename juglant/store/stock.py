"""The stock: folders of the user's own sounds, and what was measured of each content.

A file of its own beside the studio: everything in it can be measured again, and a scan never keeps a save
of the studio waiting.
"""

import json
import os
import sqlite3
from collections.abc import Iterable
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path
from typing import Any, NamedTuple
from urllib.parse import quote

import numpy as np
from numpy.typing import NDArray

from juglant.core.errors import NotFoundError, UserError
from juglant.core.music import hz_to_midi
from juglant.core.stock.kinds import Kind, guessed
from juglant.core.stock.known import KNOWN_VERSION, Known, Numbers
from juglant.store.database import Studio, pack, unpack

STOCK_FILE = "stock.sqlite"


class Stock(Studio):
    """The stock file."""

    _migrations = "stock_migrations"
    # What a power cut takes is measured again.
    _synchronous = "NORMAL"


def stock_of(studio: Path) -> Stock:
    """The stock that belongs to a studio file."""
    return Stock(studio.with_name(STOCK_FILE))


class Folder(NamedTuple):
    """A folder of the user's, with how many of its files are known and how many cannot be read."""

    id: int
    path: str
    sounds: int
    troubled: int
    # Whether it is looked through by itself when something in it changes.
    watched: bool

    @property
    def away(self) -> bool:
        """Whether it is not there now: a drive that is unplugged."""
        return not os.path.isdir(self.path)


class Seen(NamedTuple):
    """A file as it was when it was last looked at."""

    id: int
    size: int
    mtime_ns: int
    hash: str | None
    engine: int | None


@dataclass(frozen=True)
class Entry(Numbers):
    """A sound of the stock: one content, all places where it lies, and its numbers."""

    places: tuple[str, ...]
    kind: Kind
    confidence: float
    note: str | None
    cents: float | None
    centroid_hz: float | None
    click_db: float | None
    lufs: float | None
    peak_dbfs: float
    bpm: float | None
    key: str | None
    reasons: tuple[str, ...]
    picture_db: tuple[int, ...]


def add_folder(db: sqlite3.Connection, path: Path) -> int:
    """Add a folder, or find it. UserError where there is none, or where it lies in another one."""
    whole = Path(os.path.realpath(path))
    if not whole.is_dir():
        raise UserError(f"There is no folder {path}.", "path")
    for row in db.execute("SELECT id, path FROM folder"):
        there = Path(row["path"])
        if there == whole:
            return int(row["id"])
        if there in whole.parents:
            raise UserError(f"{path} lies in {there}, which is in the stock already.", "path")
        if whole in there.parents:
            raise UserError(
                f"{there}, which lies in {path}, is in the stock already: forget it first.", "path"
            )
    made = db.execute("INSERT INTO folder (path) VALUES (?)", (str(whole),)).lastrowid
    assert made is not None
    return made


def forget_folder(db: sqlite3.Connection, id: int) -> None:
    """Leave a folder out of the stock; its files stay as they are."""
    if db.execute("DELETE FROM folder WHERE id = ?", (id,)).rowcount == 0:
        raise NotFoundError("There is no such folder in the stock.")


def folders(db: sqlite3.Connection) -> list[Folder]:
    """All folders by path."""
    rows = db.execute(
        "SELECT folder.id, folder.path, count(place.hash), count(place.trouble), folder.watched "
        "FROM folder "
        "LEFT JOIN place ON place.folder = folder.id GROUP BY folder.id ORDER BY folder.path"
    )
    return [Folder(*row)._replace(watched=bool(row[-1])) for row in rows]


def watched(db: sqlite3.Connection) -> list[str]:
    """The paths of the folders that are to be watched."""
    return [row[0] for row in db.execute("SELECT path FROM folder WHERE watched")]


def watch_folder(db: sqlite3.Connection, id: int, watched: bool) -> None:
    """Have a folder watched, or not any more."""
    if db.execute("UPDATE folder SET watched = ? WHERE id = ?", (watched, id)).rowcount == 0:
        raise NotFoundError("There is no such folder in the stock.")


def seen_in(db: sqlite3.Connection, folder: int) -> dict[bytes, Seen]:
    """What is known of a folder's files, by their names as the system has them."""
    rows = db.execute(
        "SELECT raw, place.id, size, mtime_ns, place.hash, engine FROM place "
        "LEFT JOIN sound ON sound.hash = place.hash WHERE folder = ?",
        (folder,),
    )
    return {bytes(row[0]): Seen(*row[1:]) for row in rows}


def measured(stock_file: str, digest: str) -> bool:
    """Whether the present engine measured a content already: asked by processes that only read."""
    with closing(sqlite3.connect(f"file:{quote(stock_file)}?mode=ro", uri=True, timeout=10)) as db:
        found = db.execute("SELECT engine FROM sound WHERE hash = ?", (digest,)).fetchone()
    return found is not None and found[0] == KNOWN_VERSION


def put_sound(db: sqlite3.Connection, digest: str, known: Known) -> None:
    """Keep what was measured of a content, in the place of what an older engine measured."""
    hit = known.hit
    note, cents, hz = hit.note, hit.cents, hit.fundamental_hz
    if hz is None:
        note, cents, hz = hit.estimate_note, hit.estimate_cents, hit.estimate_hz
    bands, loop = hit.bands_db or {}, known.loop
    values = {
        "hash": digest, "engine": KNOWN_VERSION, "midi": None if hz is None else hz_to_midi(hz),
        "note": note, "cents": cents, "note_confidence": hit.pitch_confidence, "length_ms": hit.length_ms,
        "decay_ms": hit.decay20_ms, "centroid_hz": hit.centroid_hz, "sub_db": bands.get("sub"),
        "click_db": bands.get("snap"), "lufs": hit.momentary_max_lufs, "peak_dbfs": hit.peak_dbfs,
        "bpm": loop.bpm if loop else None, "song_key": loop.key if loop else None,
        "odds": json.dumps({kind: round(value, 2) for kind, value in known.odds.items()}),
        "reasons": json.dumps(known.reasons), "picture": bytes(-db for db in known.picture_db),
    }  # fmt: skip
    names = ", ".join(values)
    given = ", ".join(f":{name}" for name in values)
    changed = ", ".join(f"{name} = excluded.{name}" for name in values if name != "hash")
    db.execute(
        f"INSERT INTO sound ({names}) VALUES ({given}) ON CONFLICT (hash) DO UPDATE SET {changed}", values
    )
    portrait = known.portrait.astype("<f4").tobytes()
    db.execute(
        "INSERT OR REPLACE INTO detail (hash, numbers, portrait) VALUES (?, ?, ?)",
        (digest, pack(json.dumps(known.numbers)), portrait),
    )


def put_place(
    db: sqlite3.Connection, folder: int, raw: bytes, size: int, mtime_ns: int, *, digest: str | None,
    trouble: str | None,
) -> None:  # fmt: skip
    """Keep where a content lies, or why a file cannot be read."""
    if db.execute("SELECT 1 FROM folder WHERE id = ?", (folder,)).fetchone() is None:
        # Forgotten while it was looked through.
        return
    path = raw.decode("utf-8", "replace")
    kind: Kind | None = None
    confidence = None
    if digest is not None:
        row = db.execute("SELECT odds, reasons FROM sound WHERE hash = ?", (digest,)).fetchone()
        guess = guessed(json.loads(row["odds"]), tuple(json.loads(row["reasons"])), path)
        kind, confidence = guess.kind, guess.confidence
    db.execute(
        "INSERT INTO place (folder, raw, path, size, mtime_ns, hash, kind, confidence, trouble) "
        "VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?) ON CONFLICT (folder, raw) DO UPDATE SET size = excluded.size, "
        "mtime_ns = excluded.mtime_ns, hash = excluded.hash, kind = excluded.kind, "
        "confidence = excluded.confidence, trouble = excluded.trouble",
        (folder, raw, path, size, mtime_ns, digest, kind, confidence, trouble),
    )


def drop_places(db: sqlite3.Connection, ids: Iterable[int]) -> None:
    """Forget files that are gone, and what was measured of contents that lie nowhere any more."""
    db.executemany("DELETE FROM place WHERE id = ?", [(id,) for id in ids])
    db.execute("DELETE FROM sound WHERE hash NOT IN (SELECT hash FROM place WHERE hash IS NOT NULL)")


def troubled(db: sqlite3.Connection, most: int = 1000) -> list[tuple[str, str]]:
    """Files that cannot be read, each with its sentence."""
    rows = db.execute(
        "SELECT folder.path || '/' || place.path, trouble FROM place "
        "JOIN folder ON folder.id = place.folder WHERE trouble IS NOT NULL ORDER BY 1 LIMIT ?",
        (most,),
    )
    return [(str(path), str(trouble)) for path, trouble in rows]


def kinds(db: sqlite3.Connection) -> dict[Kind, int]:
    """How many contents of each kind there are, the most first."""
    rows = db.execute(
        "SELECT kind, count(DISTINCT hash) FROM place WHERE hash IS NOT NULL GROUP BY kind ORDER BY 2 DESC"
    )
    return {row[0]: row[1] for row in rows}


def numbers(db: sqlite3.Connection, digest: str) -> dict[str, Any]:
    """All numbers of a content. NotFoundError where it is not in the stock."""
    row = db.execute("SELECT numbers FROM detail WHERE hash = ?", (digest,)).fetchone()
    if row is None:
        raise NotFoundError("This sound is not in the stock.")
    found = json.loads(unpack(row[0]))
    assert isinstance(found, dict)
    return found


def places_of(db: sqlite3.Connection, digest: str) -> list[Path]:
    """Where a content lies, by name."""
    rows = db.execute(
        "SELECT folder.path, place.raw FROM place JOIN folder ON folder.id = place.folder "
        "WHERE place.hash = ? ORDER BY folder.path, place.path",
        (digest,),
    )
    return [Path(row[0]) / os.fsdecode(bytes(row[1])) for row in rows]


def portraits(db: sqlite3.Connection) -> tuple[list[str], NDArray[np.float32]]:
    """All contents with their portraits, shape (sounds, numbers)."""
    rows = db.execute("SELECT hash, portrait FROM detail ORDER BY hash").fetchall()
    held = np.frombuffer(b"".join(row[1] for row in rows), "<f4")
    return [str(row[0]) for row in rows], held.reshape(len(rows), -1) if rows else np.zeros((0, 1), "<f4")
