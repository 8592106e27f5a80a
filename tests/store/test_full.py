"""A disk that is full at any page of a write: what was there stays, and the sentence is right."""

import sqlite3
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from juglant.core.errors import UserError
from juglant.core.recipes.sections import Track
from juglant.store import audio, keeping, tracks, versions
from juglant.store.database import Studio, migrate, migrations

# What cannot be packed into less than it is: every write needs some pages.
NOISE = np.random.default_rng(5).bytes(40_000)
BODY = NOISE.hex()[:30_000]


class Disk:
    """So many pages more than a file has now can be written; None is as many as are needed."""

    def __init__(self, monkeypatch: pytest.MonkeyPatch) -> None:
        self.room: int | None = None
        self._connect = sqlite3.connect
        monkeypatch.setattr(sqlite3, "connect", self._limited)

    def _limited(self, *where: Any, **how: Any) -> sqlite3.Connection:
        db: sqlite3.Connection = self._connect(*where, **how)
        if self.room is not None:
            pages = db.execute("PRAGMA page_count").fetchone()[0]
            db.execute(f"PRAGMA max_page_count = {max(pages + self.room, 1)}")
        return db


@pytest.fixture
def disk(monkeypatch: pytest.MonkeyPatch) -> Disk:
    return Disk(monkeypatch)


def _held(path: Path) -> list[str]:
    with sqlite3.connect(path) as db:
        assert db.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
        assert db.execute("PRAGMA foreign_key_check").fetchall() == []
        return list(db.iterdump())


def _full(write: Callable[[], object]) -> bool:
    """Whether it ends with the sentence of a full disk."""
    try:
        write()
    except UserError as error:
        told = error.message
    else:
        return False
    assert "disk is full" in told
    return True


def _save(db: sqlite3.Connection) -> object:
    return tracks.save(db, 1, BODY, tracks.get(db, 1).revision)


def _upload(db: sqlite3.Connection) -> object:
    return audio.put(db, NOISE, "noise.wav", "WAV", 48_000, 10_000, 1)


def _keep(db: sqlite3.Connection) -> object:
    return versions.keep(db, 1, BODY, "{}", "a note")


def _begin(db: sqlite3.Connection) -> object:
    return tracks.create(db, "Another", BODY)


@pytest.mark.parametrize("write", [_save, _upload, _keep, _begin], ids=lambda one: one.__name__)
def test_whatever_was_being_written(
    tmp_path: Path, disk: Disk, write: Callable[[sqlite3.Connection], object]
) -> None:
    studio = Studio(tmp_path / "studio.sqlite")
    with studio.changing() as db:
        tracks.create(db, "One", "{}")
    before = _held(studio.path)

    def changed() -> None:
        with studio.changing() as db:
            write(db)

    for room in range(60):
        disk.room = room
        if not _full(changed):
            break
        disk.room = None
        assert _held(studio.path) == before
    # It failed at several pages, and with enough of them it did not.
    assert 3 <= room < 59
    disk.room = None
    assert _held(studio.path) != before


def test_while_a_studio_is_copied(tmp_path: Path, disk: Disk) -> None:
    studio = Studio(tmp_path / "studio.sqlite")
    with studio.changing() as db:
        tracks.create(db, "One", Track().model_dump_json())
        _upload(db)
    before, copy = _held(studio.path), tmp_path / "copy.sqlite"
    full = 0
    for room in (0, 1, 2, 3, 8):
        disk.room = room
        with pytest.raises(UserError, match=r"cannot be copied to|was not kept"):
            keeping.backup(studio.path, copy)
        full += 1
        assert not list(tmp_path.glob("copy*"))
    disk.room = None
    assert full == 5
    assert _held(studio.path) == before
    keeping.backup(studio.path, copy)
    assert _held(copy) == before


@pytest.mark.thorough
def test_while_a_studio_of_an_earlier_version_is_brought_up_to_date(tmp_path: Path, disk: Disk) -> None:
    path = tmp_path / "studio.sqlite"
    db = sqlite3.connect(path, isolation_level=None)
    migrate(db, migrations()[:2])
    db.execute("INSERT INTO track (id, name) VALUES (1, 'Old')")
    for id in range(1, 60):
        db.execute("INSERT INTO state (id, track_id, body) VALUES (?, 1, ?)", (id, BODY[:2000] + str(id)))
    db.execute("UPDATE track SET head = 59 WHERE id = 1")
    db.close()
    before = _held(path)
    failed = 0

    def opened() -> None:
        with Studio(path).reading() as db:
            tracks.get(db, 1)

    for room in range(200):
        disk.room = room
        if not _full(opened):
            break
        failed += 1
        disk.room = None
        # A step of the way is there or is not; what it holds is whole.
        with sqlite3.connect(path) as db:
            assert db.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
            assert db.execute("SELECT count(*) FROM state").fetchone()[0] == 59
    assert failed >= 1
    disk.room = None
    with Studio(path).reading() as db:
        assert tracks.get(db, 1).body == BODY[:2000] + "59"
    assert before != _held(path)
