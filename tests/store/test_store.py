"""The studio file: nothing lost, nothing overwritten, nothing half done."""

import json
import sqlite3
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from random import Random
from threading import Barrier

import pytest

from bench.kills import killed
from juglant.core.errors import NotFoundError, StaleError, UserError
from juglant.core.recipes.hit import Hit, MadeSnare
from juglant.core.recipes.sections import Track
from juglant.core.recipes.track import TrackState
from juglant.store import audio, outlets, references, tracks, versions
from juglant.store.database import Studio, migrate, migrations
from juglant.store.stock import STOCK_FILE, Stock


@pytest.fixture
def studio(tmp_path: Path) -> Studio:
    return Studio(tmp_path / "deep" / "studio.sqlite")


def test_states_are_stepped_back_and_forward(studio: Studio) -> None:
    with studio.changing() as db:
        track = tracks.create(db, "One", "a")
        for body in ("b", "c"):
            track = tracks.save(db, track.id, body, track.revision)
        assert (track.body, track.can_undo, track.can_redo) == ("c", True, False)
        assert tracks.undo(db, track.id).body == "b"
        first = tracks.undo(db, track.id)
        assert (first.body, first.can_undo, first.can_redo) == ("a", False, True)
        assert tracks.undo(db, track.id).body == "a"
        assert tracks.redo(db, track.id).body == "b"
        other = tracks.save(db, track.id, "d", tracks.get(db, track.id).revision)
        assert (other.body, other.can_redo) == ("d", False)
        assert tracks.undo(db, track.id).body == "b"
        assert tracks.redo(db, track.id).body == "d"


def test_saving_the_same_again_adds_no_step(studio: Studio) -> None:
    with studio.changing() as db:
        track = tracks.create(db, "One", "a")
        assert tracks.save(db, track.id, "a", track.revision).revision == track.revision


def test_a_stale_save_is_refused_and_overwrites_nothing(studio: Studio) -> None:
    with studio.changing() as db:
        track = tracks.create(db, "One", "a")
        tracks.save(db, track.id, "from the other tab", track.revision)
    with pytest.raises(StaleError, match="Nothing was overwritten"), studio.changing() as db:
        tracks.save(db, track.id, "mine", track.revision)
    with studio.reading() as db:
        assert tracks.get(db, track.id).body == "from the other tab"


def test_a_change_that_fails_leaves_nothing(studio: Studio) -> None:
    def half() -> None:
        with studio.changing() as db:
            tracks.create(db, "Half", "a")
            tracks.rename(db, 99, "None")

    with pytest.raises(NotFoundError):
        half()
    with studio.reading() as db:
        assert tracks.everything(db) == []


def test_kept_versions_cannot_be_changed(studio: Studio) -> None:
    with studio.changing() as db:
        track = tracks.create(db, "One", "a")
        kept = versions.keep(db, track.id, "a", "{}", "first")
    with pytest.raises(sqlite3.IntegrityError, match="never changed"), studio.changing() as db:
        db.execute("UPDATE version SET note = 'other' WHERE id = ?", (kept.id,))
    with studio.reading() as db:
        assert [v.note for v in versions.of_track(db, track.id, 99, 9)] == ["first"]


def test_the_same_bytes_are_stored_once(studio: Studio) -> None:
    with studio.changing() as db:
        one = audio.put(db, b"bytes", "a.wav", "WAV", 44_100, 5, 1)
        two = audio.put(db, b"bytes", "b.wav", "WAV", 44_100, 5, 1)
        assert one.hash == two.hash
        assert db.execute("SELECT count(*) FROM audio").fetchone()[0] == 1
        assert audio.data(db, one.hash) == (b"bytes", "a.wav")


def test_what_is_not_there_is_told_so(studio: Studio) -> None:
    with studio.reading() as db:
        for ask in (
            lambda: tracks.get(db, 9),
            lambda: versions.get(db, 9, 9),
            lambda: audio.data(db, "0" * 64),
            lambda: versions.keep(db, 9, "a", "{}", ""),
        ):
            with pytest.raises(NotFoundError):
                ask()


def test_a_studio_reopens_as_it_was(studio: Studio) -> None:
    with studio.changing() as db:
        tracks.create(db, "Kept", "state")
    with Studio(studio.path).reading() as db:
        assert tracks.get(db, 1).body == "state"


def test_what_was_said_to_be_saved_survives_a_power_cut_and_nobody_waits_for_readers(
    studio: Studio,
) -> None:
    """As SQLite's own documentation has it: a log that is written ahead, synced at every commit."""
    with studio.changing() as db:
        assert db.execute("PRAGMA journal_mode").fetchone()[0] == "wal"
        assert db.execute("PRAGMA synchronous").fetchone()[0] == 2
        assert db.execute("PRAGMA foreign_keys").fetchone()[0] == 1


def test_a_folder_beside_a_project_watches_part_by_part(studio: Studio) -> None:
    with studio.changing() as db:
        for track in (tracks.create(db, "One", "a"), tracks.create(db, "Other", "b")):
            outlets.put(db, track.id, outlets.Outlet("/project", True))
            for part in ("kick", "hat"):
                outlets.watch(db, track.id, outlets.Watched(part, f"{part}.wav", "0" * 64))
        outlets.unwatch(db, 1, "kick")
        outlets.watch(db, 1, outlets.Watched("hat", "hat2.wav", "1" * 64))
        assert outlets.watched(db, 1) == [("hat", "hat2.wav", "1" * 64)]
        assert [one.part for one in outlets.watched(db, 2)] == ["hat", "kick"]
        # The same folder again keeps them; another one, or none, does not.
        outlets.put(db, 2, outlets.Outlet("/project", False))
        assert len(outlets.watched(db, 2)) == 2
        outlets.put(db, 2, outlets.Outlet("/elsewhere", True))
        assert outlets.watched(db, 2) == []
        outlets.put(db, 1, None)
        assert (outlets.get(db, 1), outlets.watched(db, 1)) == (None, [])
        assert outlets.get(db, 2) == ("/elsewhere", True)


def test_migrations_run_once_and_wholly() -> None:
    db = sqlite3.connect(":memory:", isolation_level=None)
    migrate(db)
    assert db.execute("PRAGMA user_version").fetchone()[0] == len(migrations())
    migrate(db)
    steps = [*migrations(), "CREATE TABLE extra (id INTEGER); SELECT broken;"]
    with pytest.raises(sqlite3.OperationalError):
        migrate(db, steps)
    db.execute("ROLLBACK") if db.in_transaction else None
    assert db.execute("PRAGMA user_version").fetchone()[0] == len(migrations())
    assert not db.execute("SELECT 1 FROM sqlite_master WHERE name = 'extra'").fetchall()


def test_a_file_that_several_open_at_once_for_the_first_time_is_migrated_once(tmp_path: Path) -> None:
    for turn in range(5):
        path, together = tmp_path / str(turn) / STOCK_FILE, Barrier(4)

        def opened(path: Path = path, together: Barrier = together) -> int:
            together.wait()
            with Stock(path).reading() as db:
                return int(db.execute("PRAGMA user_version").fetchone()[0])

        with ThreadPoolExecutor(4) as pool:
            found = [pool.submit(opened) for _ in range(4)]
        assert {one.result() for one in found} == {len(migrations("stock_migrations"))}


def test_a_newer_studio_or_another_file_is_refused(tmp_path: Path) -> None:
    newer = tmp_path / "newer.sqlite"
    with sqlite3.connect(newer) as db:
        db.execute("PRAGMA user_version = 99")
    with pytest.raises(UserError, match="newer Juglant"):
        Studio(newer)
    text = tmp_path / "diary.txt"
    text.write_text("Dear diary, " * 200)
    with pytest.raises(UserError, match="cannot be opened as a studio"):
        Studio(text)


@pytest.mark.thorough
def test_killing_the_writers_loses_nothing_that_was_said_to_be_saved(tmp_path: Path) -> None:
    """Two of them, and a copy that is made meanwhile; `make bench` does it two hundred times."""
    path, rng = tmp_path / "studio.sqlite", Random(4)
    Studio(path)
    for turn in range(4):
        assert killed(path, rng, turn) == (0, 0, [])


def test_an_earlier_studio_is_packed_and_nothing_of_it_is_lost(tmp_path: Path) -> None:
    """A file of the second version: its states, undo and redo, kept versions, all as they were."""
    path = tmp_path / "studio.sqlite"
    db = sqlite3.connect(path, isolation_level=None)
    migrate(db, migrations()[:2])
    body = "{" + "x" * 5000 + "}"
    db.execute("INSERT INTO track (id, name) VALUES (7, 'Old')")
    for id, parent, text in ((1, None, "first"), (2, 1, body), (3, 2, "undone")):
        db.execute("INSERT INTO state (id, track_id, parent, body) VALUES (?, 7, ?, ?)", (id, parent, text))
    db.execute("UPDATE track SET head = 2 WHERE id = 7")
    db.execute("INSERT INTO version (track_id, body, numbers, note) VALUES (7, 'kept', '{}', 'n')")
    db.close()
    with Studio(path).changing() as db:
        track = tracks.get(db, 7)
        assert (track.revision, track.body, track.can_undo, track.can_redo) == (2, body, True, True)
        assert tracks.redo(db, 7).body == "undone"
        assert tracks.undo(db, 7).body == body
        assert tracks.undo(db, 7).body == "first"
        [version] = versions.of_track(db, 7, 99, 9)
        assert (version.body, version.engine, version.sounded) == ("kept", None, None)
        # New states go on after the old ones, refer to them, and are packed.
        after = tracks.save(db, 7, body, 1)
        assert after.revision == 4
        stored = db.execute("SELECT body FROM state WHERE id = 4").fetchone()[0]
        assert len(stored) < 100
        assert not db.execute("PRAGMA foreign_key_check").fetchall()
        with pytest.raises(sqlite3.IntegrityError):
            db.execute("INSERT INTO state (track_id, body) VALUES (99, x'00')")


def test_five_hundred_steps_of_a_large_track_weigh_little(studio: Studio) -> None:
    """Twenty-five parts are some 130 kB of JSON: 67 MB of it unpacked, and under 10 packed."""
    hits = tuple(Hit.of(MadeSnare(), name=f"Hit {n}") for n in range(23))
    state = TrackState.of(hits=hits)
    with studio.changing() as db:
        track = tracks.create(db, "Large", Track(state=state).model_dump_json())
        for n in range(40):
            moved = state.with_part(state.hits[n % 23].model_copy(update={"level_db": -n / 10}))
            track = tracks.save(db, track.id, Track(state=moved).model_dump_json(), track.revision)
        packed = db.execute("SELECT sum(length(body)) FROM state").fetchone()[0]
    assert 500 / 41 * packed < 10_000_000


def test_a_reference_of_an_earlier_studio_has_its_third_octaves_by_their_name(tmp_path: Path) -> None:
    path = tmp_path / "studio.sqlite"
    db = sqlite3.connect(path, isolation_level=None)
    migrate(db, migrations()[:6])
    db.execute("INSERT INTO track (id, name) VALUES (7, 'Old')")
    db.execute(
        "INSERT INTO audio (hash, name, kind, rate, frames, channels, bytes) VALUES (?, 'a', 'WAV', 1, 1, 1, x'00')",
        ("a" * 64,),
    )
    db.execute(
        "INSERT INTO reference (track_id, name, audio, numbers) VALUES (7, 'a', ?, ?)",
        ("a" * 64, '{"record": {"thirds_db": {"50": -3.5}}}'),
    )
    db.close()
    with Studio(path).reading() as db:
        [one] = references.of_track(db, 7)
    assert json.loads(one.numbers) == {"record": {"third_octaves_db": {"50": -3.5}}}
