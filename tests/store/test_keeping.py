"""A studio that is kept: copies, restoring, and what can be saved of a damaged one."""

import json
import os
import shutil
import sqlite3
from pathlib import Path

import pytest

from juglant.core.errors import StorageError, UserError
from juglant.core.recipes.sections import Track
from juglant.store import audio, keeping, tracks, versions
from juglant.store.database import Studio, migrations
from tests.shell import run

BODY = Track().model_dump_json()


def _filled(path: Path, count: int = 3) -> Studio:
    studio = Studio(path)
    with studio.changing() as db:
        for number in range(count):
            made = tracks.create(db, f"Track {number}/ф", BODY)
            tracks.save(db, made.id, BODY.replace('"bpm":128.0', f'"bpm":{120 + number}.0'), made.revision)
            versions.keep(db, made.id, BODY, "{}", f"note {number}")
        audio.put(db, b"one" * 1000, "one.wav", "WAV", 48_000, 1500, 1)
        audio.put(db, bytes(200_000), "two.wav", "WAV", 48_000, 100_000, 1)
    return studio


def test_a_whole_studio_is_whole_and_its_copy_too_while_it_is_in_use(tmp_path: Path) -> None:
    studio = _filled(tmp_path / "studio.sqlite")
    assert keeping.check(studio.path) == []
    with studio.changing() as db:
        tracks.rename(db, 1, "in between")
        keeping.backup(studio.path, tmp_path / "elsewhere" / "copy.sqlite")
    copy = Studio(tmp_path / "elsewhere" / "copy.sqlite")
    with copy.reading() as db:
        # As it was at one moment: what was not yet kept is not in it.
        assert tracks.everything(db)[0][:2] == (1, "Track 0/ф")
    with pytest.raises(UserError, match="is there already: nothing was overwritten"):
        keeping.backup(studio.path, copy.path)


def test_a_copy_is_put_in_place_and_what_was_there_is_kept(tmp_path: Path) -> None:
    path, copy = tmp_path / "studio.sqlite", tmp_path / "copy.sqlite"
    studio = _filled(path)
    keeping.backup(path, copy)
    with studio.changing() as db:
        tracks.rename(db, 1, "later")
    kept = keeping.restore(path, copy)
    assert kept is not None
    for where, name in ((path, "Track 0/ф"), (kept, "later")):
        with Studio(where).reading() as db:
            assert tracks.get(db, 1).name == name
    copy.write_bytes(copy.read_bytes()[:9000])
    with pytest.raises(UserError, match="not whole, and was not put in place"):
        keeping.restore(path, copy)
    with Studio(path).reading() as db:
        assert tracks.get(db, 1).name == "Track 0/ф"


def test_copies_of_the_day_are_made_once_and_the_oldest_go(tmp_path: Path) -> None:
    path = _filled(tmp_path / "studio.sqlite").path
    for day in range(1, 11):
        made = keeping.copied(path, f"2026-01-{day:02d}")
        assert made is not None
        os.utime(made, (day * 86_400, day * 86_400))
    assert keeping.copied(path, "2026-01-10") is None
    assert [one.name for one in sorted((tmp_path / "backups").iterdir())] == [
        f"studio-2026-01-{day:02d}.sqlite" for day in range(4, 11)
    ]


def test_before_a_migration_the_studio_is_copied(tmp_path: Path) -> None:
    path = tmp_path / "studio.sqlite"
    with sqlite3.connect(path) as db:
        db.executescript(f"{migrations()[0]}\nPRAGMA user_version = 1;")
        db.execute("INSERT INTO track (id, name) VALUES (1, 'old')")
        db.execute("INSERT INTO state (id, track_id, body) VALUES (1, 1, ?)", (BODY,))
        db.execute("UPDATE track SET head = 1")
    db.close()
    before = path.read_bytes()
    with keeping.opened(path).reading() as now:
        assert tracks.get(now, 1).name == "old"
    copy = tmp_path / "backups" / f"studio-before-version-{len(migrations())}.sqlite"
    assert sqlite3.connect(copy).execute("PRAGMA user_version").fetchone()[0] == 1
    assert len(copy.read_bytes()) == len(before)


def test_of_a_damaged_studio_everything_readable_is_written_out(tmp_path: Path) -> None:
    path = tmp_path / "studio.sqlite"
    studio = _filled(path, 40)
    with studio.reading() as db:
        db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        pages = db.execute("PRAGMA page_count").fetchone()[0]
    whole = keeping.rescue(path, tmp_path / "whole")
    assert whole == {"tracks": 40, "versions": 40, "sounds": 2, "unreadable": 0}
    saved = json.loads(next((tmp_path / "whole" / "tracks").glob("3 *")).read_text())
    assert Track.model_validate(saved).state.brief.bpm == 122
    # Some pages in its middle are overwritten with rubbish.
    data = bytearray(path.read_bytes())
    size = len(data) // pages
    for page in range(pages // 4, pages // 4 + 4):
        data[page * size : (page + 1) * size] = os.urandom(size)
    path.write_bytes(data)
    assert keeping.check(path) != []
    with pytest.raises(UserError, match="is damaged, and was left as it is"):
        keeping.opened(path)
    assert path.read_bytes() == bytes(data)
    found = keeping.rescue(path, tmp_path / "rescued")
    assert found["tracks"] + found["versions"] >= 60
    with pytest.raises(UserError, match="not empty: nothing was written"):
        keeping.rescue(path, tmp_path / "rescued")
    for file in (tmp_path / "rescued" / "tracks").iterdir():
        Track.model_validate_json(file.read_text())
    path.write_bytes(b"x" * 9000)
    with pytest.raises(UserError, match="can be read any more; copies may be in “backups”"):
        keeping.rescue(path, tmp_path / "nothing")


def _fill_the_disk(studio: Studio) -> None:
    with studio.changing() as db:
        db.execute(f"PRAGMA max_page_count = {db.execute('PRAGMA page_count').fetchone()[0]}")
        audio.put(db, os.urandom(500_000), "big.wav", "WAV", 48_000, 1, 1)


def test_what_goes_wrong_with_the_file_is_said_with_what_to_do(tmp_path: Path) -> None:
    studio = _filled(tmp_path / "studio.sqlite")
    with sqlite3.connect(studio.path) as other:
        other.execute("BEGIN IMMEDIATE")
        studio.timeout_s = 0.05
        with pytest.raises(StorageError, match="Another program is using the studio"), studio.changing():
            pass
        other.execute("ROLLBACK")
    with pytest.raises(StorageError, match="The disk is full: nothing was saved"):
        _fill_the_disk(studio)
    with studio.reading() as db:
        assert len(tracks.everything(db)) == 3
    shutil.move(studio.path, tmp_path / "moved.sqlite")
    with pytest.raises(StorageError, match=r"The studio is not at .* any more"), studio.changing():
        pass
    assert not studio.path.exists()
    studio.path.write_bytes(b"no studio at all, but long enough to be looked at" * 100)
    with pytest.raises(StorageError, match=r"is damaged\. Stop Juglant"), studio.reading() as db:
        tracks.everything(db)


def test_the_shell_checks_copies_restores_and_rescues(tmp_path: Path) -> None:
    _filled(tmp_path / "data" / "studio.sqlite")
    assert "is whole" in run(tmp_path, "studio", "check", "--data", "data").stdout
    assert "checked" in run(tmp_path, "studio", "backup", "copy.sqlite", "--data", "data").stdout
    assert "What was there" in run(tmp_path, "studio", "restore", "copy.sqlite", "--data", "data").stdout
    assert "tracks" in run(tmp_path, "studio", "rescue", "out", "--data", "data").stdout
    assert len(list((tmp_path / "out" / "tracks").iterdir())) == 3
    assert "needs a file" in run(tmp_path, "studio", "backup", "--data", "data", code=2).stderr
    assert "There is no studio at" in run(tmp_path, "studio", "check", "--data", "none", code=2).stderr
    (tmp_path / "data" / "studio.sqlite").write_bytes(b"x" * 5000)
    assert "is not whole" in run(tmp_path, "studio", "check", "--data", "data", code=2).stderr
