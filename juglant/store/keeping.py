"""Keeping a studio file: whether it is whole, copies of it, and what can be saved of one that is not."""

import hashlib
import json
import os
import re
import sqlite3
import sys
from collections.abc import Iterator
from contextlib import closing, contextmanager
from datetime import UTC, datetime
from pathlib import Path
from urllib.parse import quote

from juglant.core.errors import UserError
from juglant.store.database import Studio, migrations, unpack
from juglant.store.tracks import LONG_AGO

# So many copies that were made without being asked for are kept.
KEPT_COPIES = 7
# A damaged file may say that it has any number of rows; this many in a row that cannot be read are enough.
_MOST_ROWS, _MOST_MISSED = 1_000_000, 1000
_STEPS_BACK = 50
_HASH = re.compile("[0-9a-f]{64}")


@contextmanager
def _reading(path: Path) -> Iterator[sqlite3.Connection]:
    """A studio file that is not changed, not even by opening it. UserError where there is none."""
    if not path.is_file():
        raise UserError(f"There is no studio at {path}.")
    with closing(sqlite3.connect(f"file:{quote(str(path))}?mode=ro", uri=True, timeout=10)) as db:
        yield db


def _damage(db: sqlite3.Connection) -> list[str]:
    told = [str(row[0]) for row in db.execute("PRAGMA quick_check(20)")]
    return [] if told == ["ok"] else [f"The file is damaged: {line}." for line in told]


def opened(path: Path) -> Studio:
    """A studio for use, made where there is none. What is to be migrated is copied first.

    UserError where it is damaged: it is left as it is.
    """
    if path.exists():
        try:
            with _reading(path) as db:
                wrong = _damage(db)
                version = int(db.execute("PRAGMA user_version").fetchone()[0])
        except sqlite3.OperationalError:
            # It cannot be opened just now: what is in the way is said when it is opened for use.
            wrong, version = [], 0
        except sqlite3.DatabaseError as error:
            wrong, version = [f"{error}."], 0
        if wrong:
            raise UserError(
                f"{path} is damaged, and was left as it is. {' '.join(wrong)} “juglant studio rescue "
                "FOLDER” writes out everything that can be read; copies of earlier days are in “backups” "
                "beside it."
            )
        if 0 < version < len(migrations()):
            copied(path, f"before-version-{len(migrations())}")
    return Studio(path)


def check(path: Path) -> list[str]:
    """What is wrong with a studio file, each in a sentence; empty where it is whole."""
    found: list[str] = []
    try:
        with _reading(path) as db:
            found += _damage(db)
            version = int(db.execute("PRAGMA user_version").fetchone()[0])
            if version > len(migrations()):
                found.append("It was made by a newer Juglant.")
            for table, row, *_ in db.execute("PRAGMA foreign_key_check"):
                found.append(f"Row {row} of {table} refers to something that is not there.")
            for digest, name, data in db.execute("SELECT hash, name, bytes FROM audio"):
                if hashlib.sha256(data).hexdigest() != digest:
                    found.append(f"The sound “{name}” is not what it was.")
            for id, name, body in db.execute(
                "SELECT track.id, track.name, state.body FROM track JOIN state ON state.id = track.head"
            ):
                if _plain(body) is None:
                    found.append(f"The track “{name}” (number {id}) cannot be read.")
    except sqlite3.DatabaseError as error:
        found.append(f"The file is damaged, or no studio: {error}.")
    return found


def backup(path: Path, to: Path) -> None:
    """A copy of a studio that may be in use meanwhile: as it was at one moment, checked after writing.

    UserError where something is there already, or where the copy is not whole.
    """
    if to.exists():
        raise UserError(f"{to} is there already: nothing was overwritten.")
    beside = to.with_name(f"{to.name}.part")
    try:
        to.parent.mkdir(parents=True, exist_ok=True)
        beside.unlink(missing_ok=True)
        with _reading(path) as db, closing(sqlite3.connect(beside)) as copy:
            db.backup(copy)
            copy.execute("PRAGMA journal_mode = DELETE")
        wrong = check(beside)
        if wrong:
            raise UserError(f"The copy would not be whole, and was not kept. {' '.join(wrong)}")
        os.replace(beside, to)
    except (OSError, sqlite3.DatabaseError) as error:
        raise UserError(f"{path} cannot be copied to {to}: {error}.") from error
    finally:
        beside.unlink(missing_ok=True)


def copied(path: Path, why: str) -> Path | None:
    """A copy in the folder “backups” beside a studio, made once for what `why` says; only the latest ones
    are kept. None where there is one already.
    """
    folder = path.parent / "backups"
    to = folder / f"{path.stem}-{why}.sqlite"
    if to.exists():
        return None
    backup(path, to)
    every = sorted(folder.glob(f"{path.stem}-*.sqlite"), key=lambda one: one.stat().st_mtime)
    for old in every[:-KEPT_COPIES]:
        old.unlink()
    return to


def cleared(studio: Studio) -> int:
    """Forget what was deleted more than 30 days ago, and the sounds that nothing uses and nobody brought in
    since then. How many bytes of sound that is. UserError where a state cannot be read: then it is not
    known what it is made from, and nothing is cleared.
    """
    with studio.reading() as db:
        used, seen = _used(db, {"state": 0, "version": 0})
    with studio.changing() as db:
        # What was saved while all that was read uses more.
        more, _ = _used(db, seen)
        db.execute(f"UPDATE track SET head = NULL WHERE deleted_at < {LONG_AGO}")
        db.execute(f"DELETE FROM track WHERE deleted_at < {LONG_AGO}")
        db.execute(f"DELETE FROM version WHERE deleted_at < {LONG_AGO}")
        old = db.execute(
            f"SELECT hash, length(bytes) AS size FROM audio WHERE made_at < {LONG_AGO}"
        ).fetchall()
        gone = [(row["hash"], row["size"]) for row in old if row["hash"] not in used | more]
        db.executemany("DELETE FROM audio WHERE hash = ?", [(digest,) for digest, _ in gone])
        return sum(size for _, size in gone)


def _used(db: sqlite3.Connection, after: dict[str, int]) -> tuple[set[str], dict[str, int]]:
    """The sounds of every state and version that stays, from some ids on; and the last ids of both."""
    used: set[str] = set()
    last = dict(after)
    # What is filed is used, by a track or not.
    for (body,) in db.execute("SELECT body FROM filed"):
        used.update(_HASH.findall(_plain(body) or ""))
    used.update(
        row[0] for row in db.execute("SELECT audio FROM response UNION SELECT audio FROM reference")
    )
    for table in after:
        rows = db.execute(
            f"SELECT {table}.id, {table}.body FROM {table} JOIN track ON track.id = track_id "
            f"WHERE {table}.id > ? AND (track.deleted_at IS NULL OR track.deleted_at >= {LONG_AGO})",
            (after[table],),
        )
        for id, body in rows:
            text = _plain(body)
            if text is None:
                raise UserError(
                    "A state cannot be read: what it is made from is not known, and nothing was cleared."
                )
            used.update(_HASH.findall(text))
            last[table] = max(last[table], id)
    return used, last


def looked_after(studio: Studio) -> None:
    """What is done once a day: a copy, then what was deleted long ago goes.

    A day without it is better than one without the studio: what goes wrong is said, and no more.
    """
    try:
        if copied(studio.path, datetime.now(UTC).strftime("%Y-%m-%d")) is not None:
            cleared(studio)
    except UserError as error:
        print(f"The studio was not looked after today. {error.message}", file=sys.stderr, flush=True)


def weight(studio: Studio) -> dict[str, int]:
    """What a studio weighs, in bytes: the file, and the sounds in it."""
    with studio.reading() as db:
        sounds = db.execute("SELECT coalesce(sum(length(bytes)), 0) FROM audio").fetchone()[0]
    return {"file": studio.path.stat().st_size, "sounds": int(sounds)}


def restore(path: Path, source: Path) -> Path | None:
    """A copy in place of a studio, which is kept beside it; where to, None where there was none.

    The copy is checked first; nobody may be using the studio.
    """
    wrong = check(source)
    if wrong:
        raise UserError(f"{source} is not whole, and was not put in place. {' '.join(wrong)}")
    kept = None
    if path.exists():
        kept = path.with_name(f"{path.stem}-before-{datetime.now(UTC).strftime('%Y-%m-%d-%H%M%S')}.sqlite")
    try:
        fresh = path.with_name(f"{path.name}.restored")
        fresh.unlink(missing_ok=True)
        backup(source, fresh)
        if kept is not None:
            # Nothing that is still in its journal is left behind.
            with closing(sqlite3.connect(path, timeout=2)) as db:
                db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
            os.replace(path, kept)
        for journal in ("-wal", "-shm"):
            path.with_name(path.name + journal).unlink(missing_ok=True)
        os.replace(fresh, path)
    except (OSError, sqlite3.DatabaseError) as error:
        raise UserError(f"{source} cannot be put in place of {path}: {error}.") from error
    return kept


def _plain(body: object) -> str | None:
    """A stored body as JSON; None where it cannot be read."""
    try:
        text = unpack(body) if isinstance(body, bytes) else str(body)
        json.loads(text)
    except Exception:
        return None
    return text


def _rows(
    db: sqlite3.Connection, table: str, columns: str, key: str = "id"
) -> Iterator[tuple[object, ...]]:
    """Every row that can still be read; those on damaged pages are left out one by one."""
    try:
        last = int(db.execute(f"SELECT max({key}) FROM {table}").fetchone()[0] or 0)
    except (sqlite3.DatabaseError, TypeError):
        last = _MOST_ROWS
    missed = 0
    for id in range(1, min(last, _MOST_ROWS) + 1):
        try:
            row = db.execute(f"SELECT {columns} FROM {table} WHERE {key} = ?", (id,)).fetchone()
        except (sqlite3.DatabaseError, UnicodeDecodeError):
            missed += 1
            if missed > _MOST_MISSED:
                return
            continue
        if row is not None:
            yield tuple(row)


def _latest(db: sqlite3.Connection, track: object, head: object) -> str | None:
    """The state a track is in, or where that is lost the nearest earlier one that can be read."""
    for id in range(int(str(head or 0)), max(int(str(head or 0)) - _STEPS_BACK, 0), -1):
        try:
            row = db.execute("SELECT body FROM state WHERE id = ? AND track_id = ?", (id, track)).fetchone()
        except sqlite3.DatabaseError:
            continue
        text = None if row is None else _plain(row[0])
        if text is not None:
            return text
    return None


def rescue(path: Path, folder: Path) -> dict[str, int]:
    """Write out everything of a studio that can be read, damaged or not: tracks and kept versions as JSON,
    imported sounds as the files they were. How many of each.
    """
    if folder.exists() and any(folder.iterdir()):
        raise UserError(f"{folder} is not empty: nothing was written.")
    counts = {"tracks": 0, "versions": 0, "sounds": 0, "unreadable": 0}

    def put(kind: str, name: str, data: str | bytes | None) -> None:
        if data is None:
            counts["unreadable"] += 1
            return
        to = folder / kind / re.sub(r'[/\\:*?"<>|\x00-\x1f]', "-", name)
        to.parent.mkdir(parents=True, exist_ok=True)
        to.write_bytes(data.encode() if isinstance(data, str) else data)
        counts[kind] += 1

    with _reading(path) as db:
        names: dict[object, str] = {}
        for id, name, head in _rows(db, "track", "id, name, head"):
            names[id] = str(name)[:60]
            put("tracks", f"{id} {names[id]}.json", _latest(db, id, head))
        for id, track, note, body in _rows(db, "version", "id, track_id, note, body"):
            put("versions", f"{id} {names.get(track, track)} {str(note)[:40]}.json", _plain(body))
        for digest, name, data in _rows(db, "audio", "hash, name, bytes", "rowid"):
            whole = isinstance(data, bytes) and hashlib.sha256(data).hexdigest() == digest
            put("sounds", f"{str(digest)[:12]} {str(name)[-80:]}", data if whole else None)  # type: ignore[arg-type]
    if not any(counts.values()):
        raise UserError(f"Nothing in {path} can be read any more; copies may be in “backups” beside it.")
    return counts
