"""The stock: folders are only read, every change is noticed, and nothing that breaks stops a scan."""

import os
import shutil
import sys
import threading
import time
from pathlib import Path

import distributed
import numpy as np
import pytest

from juglant.core.errors import UserError
from juglant.core.recipes.kick import KickRecipe
from juglant.core.stock.known import known
from juglant.core.synth.kick import render_kick
from juglant.stock.crews import Cluster
from juglant.stock.look import look
from juglant.stock.scan import Progress, Scan
from juglant.store import finding, marks, stock
from juglant.store.database import Studio
from juglant.store.finding import Likeness, Query, Range
from juglant.store.stock import Entry, Stock
from tests.files_made import written
from tests.signals import RATE, noise, ring


def _kick(hz: float) -> bytes:
    x = render_kick(KickRecipe(end_hz=hz, decay_ms=420, length_ms=450), RATE, 126.0)
    return written(x, RATE, subtype="PCM_24")


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    """A folder with doubles, odd names, what is no sound, and links out of it and in a circle."""
    root = tmp_path / "sounds"
    (root / "Kicks" / "more").mkdir(parents=True)
    (root / "Kicks" / "low.wav").write_bytes(_kick(49.0))
    (root / "Kicks" / "more" / "copy of low.WAV").write_bytes(_kick(49.0))
    (root / "Kicks" / "high_one.wav").write_bytes(_kick(65.41))
    (root / "Барабан 鼓.wav").write_bytes(written(noise(0.1) * 0.5, RATE))
    (root / "notes.txt").write_text("no sound")
    (root / "broken.wav").write_bytes(b"RIFF nothing")
    (root / "empty.flac").write_bytes(b"")
    (tmp_path / "outside.wav").write_bytes(_kick(55.0))
    (root / "link.wav").symlink_to(tmp_path / "outside.wav")
    (root / "circle").symlink_to(root)
    return root


@pytest.fixture
def held(tmp_path: Path) -> Stock:
    return Stock(tmp_path / "stock.sqlite")


def _scanned(held: Stock, *folders: Path) -> Progress:
    with held.changing() as db:
        for one in folders:
            stock.add_folder(db, one)
    return Scan(held, 1).run()


def _all(held: Stock, query: Query | None = None) -> list[Entry]:
    with held.reading() as db:
        return finding.find(db, query or Query())


@pytest.mark.thorough
def test_a_scan_measures_each_content_once_and_says_what_it_cannot_read(held: Stock, folder: Path) -> None:
    before = {path: path.stat().st_mtime_ns for path in folder.rglob("*") if path.is_file()}
    done = _scanned(held, folder)
    assert (done.done, done.total, done.troubled) == (6, 6, 2)
    found = {Path(one.path).name: one for one in _all(held)}
    assert len(found) == 3
    low = found["low.wav"]
    assert [Path(one).name for one in low.places] == ["low.wav", "copy of low.WAV"]
    # G1 is 49.00 Hz, C2 65.41 (ISO 16:1975).
    assert (low.kind, low.note) == ("kick", "G1")
    assert low.cents == pytest.approx(0.0, abs=1.0)
    with held.reading() as db:
        told = dict(stock.troubled(db))
    assert "damaged" in told[str(folder / "broken.wav")]
    assert "is empty" in told[str(folder / "empty.flac")]
    assert "link to outside" in told[str(folder / "link.wav")]
    assert len(told) == 3
    # Nothing is written in it.
    assert before == {path: path.stat().st_mtime_ns for path in folder.rglob("*") if path.is_file()}


@pytest.mark.thorough
def test_new_changed_moved_and_removed_files_are_noticed_and_nothing_else_is_measured(
    held: Stock, folder: Path
) -> None:
    _scanned(held, folder)
    assert Scan(held, 1).run().total == 0
    (folder / "Kicks" / "high_one.wav").rename(folder / "moved.wav")
    (folder / "Kicks" / "low.wav").write_bytes(_kick(51.91))
    (folder / "Kicks" / "new.wav").write_bytes(_kick(58.27))
    (folder / "Барабан 鼓.wav").unlink()
    again = Scan(held, 1).run()
    # What was moved is looked at, and known by its content.
    assert (again.total, again.measured) == (3, 2)
    names = {Path(place).name for one in _all(held) for place in one.places}
    assert names == {"moved.wav", "low.wav", "copy of low.WAV", "new.wav"}


@pytest.mark.thorough
def test_a_folder_that_is_away_keeps_its_sounds(held: Stock, folder: Path, tmp_path: Path) -> None:
    _scanned(held, folder)
    folder.rename(tmp_path / "unplugged")
    Scan(held, 1).run()
    with held.reading() as db:
        [one] = stock.folders(db)
    assert one.away
    assert len(_all(held)) == 3
    (tmp_path / "unplugged").rename(folder)
    assert Scan(held, 1).run().total == 0


@pytest.mark.thorough
def test_a_scan_that_is_stopped_goes_on_where_it_was(held: Stock, tmp_path: Path) -> None:
    root = tmp_path / "many"
    root.mkdir()
    for n in range(8):
        (root / f"{n}.wav").write_bytes(written(ring(200.0 + 20 * n, 80, 0.1) * 0.5, RATE))
    with held.changing() as db:
        stock.add_folder(db, root)
    first = Scan(held, 1)

    def told(now: Progress) -> None:
        if now.done == 3:
            first.stop.set()

    assert first.run(told).done == 3
    assert len(_all(held)) == 3
    rest = Scan(held, 1)
    assert (rest.run().total, len(_all(held))) == (5, 8)


@pytest.mark.thorough
def test_a_scan_waits_while_it_is_to_wait(held: Stock, tmp_path: Path) -> None:
    root = tmp_path / "two"
    root.mkdir()
    (root / "one.wav").write_bytes(_kick(50.0))
    with held.changing() as db:
        stock.add_folder(db, root)
    work = Scan(held, 1)
    work.wait.set()
    thread = threading.Thread(target=work.run)
    thread.start()
    time.sleep(0.3)
    assert work.progress.done == 0
    work.wait.clear()
    thread.join()
    assert work.progress.done == 1


@pytest.mark.thorough
def test_one_broken_process_costs_its_own_file_only(
    held: Stock, folder: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("juglant.stock.crews.look", _dies_of_low)
    done = _scanned(held, folder)
    assert done.done == done.total == 6
    with held.reading() as db:
        told = dict(stock.troubled(db))
    assert "broke off" in told[str(folder / "Kicks" / "low.wav")]
    assert len(_all(held)) == 3


@pytest.mark.thorough
def test_the_workers_of_a_cluster_measure_the_same(
    held: Stock, folder: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    here = Stock(tmp_path / "here.sqlite")
    _scanned(here, folder)
    with held.changing() as db:
        stock.add_folder(db, folder)
    with distributed.LocalCluster(  # type: ignore[no-untyped-call]
        n_workers=2, threads_per_worker=1, host="127.0.0.1", dashboard_address=None
    ) as cluster:
        done = Scan(held, dask=cluster.scheduler_address).run()
    assert (done.done, done.measured, done.troubled) == (6, 4, 2)
    assert _all(held) == _all(here)
    with pytest.raises(UserError, match="no cluster at nowhere"):
        Cluster("nowhere:x")
    monkeypatch.setitem(sys.modules, "distributed", None)
    with pytest.raises(UserError, match=r"pip install juglant\[dask\]"):
        Cluster(cluster.scheduler_address)


@pytest.mark.thorough
def test_a_fault_of_ours_costs_one_file_only(
    held: Stock, folder: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("juglant.stock.crews.look", _fails_at_low)
    assert _scanned(held, folder).done == 6
    with held.reading() as db:
        told = dict(stock.troubled(db))
    assert told[str(folder / "Kicks" / "low.wav")] == "It could not be measured: ValueError, odd."
    assert len(_all(held)) == 3


@pytest.mark.parametrize("rate", [8_000, 44_100, 192_000])
def test_the_shortest_sounds_are_measured(rate: int) -> None:
    for frames in (1, 2, 31, 32, 63, 64, 65, 87, 88, 89, 400):
        found = known(np.linspace(0.5, -0.5, frames), rate)
        assert np.all(np.isfinite(found.portrait))
        assert found.hit.length_ms >= 0.0


def _fails_at_low(path: str, stock_file: str | None = None) -> object:
    if path.endswith("low.wav"):
        raise ValueError("odd")
    return look(path, stock_file)


def _dies_of_low(path: str, stock_file: str | None = None) -> object:
    if path.endswith("low.wav"):
        os._exit(9)
    return look(path, stock_file)


def test_what_a_folder_may_be(held: Stock, folder: Path, tmp_path: Path) -> None:
    with held.changing() as db:
        one = stock.add_folder(db, folder)
        assert stock.add_folder(db, folder / "Kicks" / "..") == one
        with pytest.raises(UserError, match="no folder"):
            stock.add_folder(db, tmp_path / "nowhere")
        with pytest.raises(UserError, match="in the stock already"):
            stock.add_folder(db, folder / "Kicks")
        with pytest.raises(UserError, match="in the stock already"):
            stock.add_folder(db, tmp_path)
        stock.forget_folder(db, one)
        assert stock.folders(db) == []
    assert (folder / "Kicks" / "low.wav").exists()


@pytest.mark.thorough
def test_sounds_are_found_by_words_kind_note_and_numbers(held: Stock, folder: Path) -> None:
    _scanned(held, folder)

    def names(query: Query) -> list[str]:
        return [Path(one.path).name for one in _all(held, query)]

    assert names(Query(words="hi kic")) == ["high_one.wav"]
    assert names(Query(words="барабан")) == ["Барабан 鼓.wav"]
    assert names(Query(words="nothing")) == []
    assert names(Query(midi=31)) == ["low.wav"]
    assert names(Query(note_class=0, kind="kick")) == ["high_one.wav"]
    # 65.41 Hz is 500 cents above 49.00.
    assert names(Query(midi=31, cents=499.0)) == ["low.wav"]
    assert names(Query(midi=31, cents=501.0)) == ["low.wav", "high_one.wav"]
    assert names(Query(kind="kick", length_ms=Range(most=449.0))) == []
    assert len(names(Query(kind="kick", length_ms=Range(449.0, 451.0)))) == 2


@pytest.mark.thorough
def test_the_nearest_in_sound_comes_first(held: Stock, folder: Path) -> None:
    _scanned(held, folder)
    asked = known(render_kick(KickRecipe(end_hz=66.0, decay_ms=430, length_ms=450), RATE, 126.0), RATE)
    with held.reading() as db:
        apart = Likeness().like(db, asked.portrait)
        order = finding.nearest(db, Query(), apart)
        first = finding.nearest(db, Query(), apart, 1)
    assert [Path(one.path).name for one in order] == ["high_one.wav", "low.wav", "Барабан 鼓.wav"]
    assert first == order[:1]


@pytest.mark.thorough
def test_what_is_changed_in_place_is_likened_anew(held: Stock, folder: Path) -> None:
    _scanned(held, folder)
    asked = known(render_kick(KickRecipe(end_hz=66.0, decay_ms=430, length_ms=450), RATE, 126.0), RATE)
    likeness = Likeness()
    with held.reading() as db:
        before = likeness.like(db, asked.portrait)
    path = folder / "Kicks" / "high_one.wav"
    path.write_bytes(written(noise(0.2) * 0.5, RATE))
    os.utime(path, (1, 1))
    Scan(held, 1).run()
    with held.reading() as db:
        after = likeness.like(db, asked.portrait)
        order = finding.nearest(db, Query(), after)
    # As many as before, and one of them another.
    assert len(after) == len(before)
    assert set(after) != set(before)
    assert Path(order[0].path).name == "low.wav"
    assert {one.hash for one in order} == set(after)


@pytest.mark.thorough
def test_of_chosen_contents_none_is_left_out(held: Stock, folder: Path) -> None:
    _scanned(held, folder)
    low = next(one for one in _all(held) if one.note == "G1")
    assert _all(held, Query(only=frozenset({low.hash}))) == [low]
    with held.reading() as db:
        assert len(finding.find(db, Query(only=frozenset(one.hash for one in _all(held))), 2)) == 2


@pytest.mark.thorough
def test_marks_belong_to_the_content_and_survive_the_scan(
    held: Stock, folder: Path, tmp_path: Path
) -> None:
    _scanned(held, folder)
    studio = Studio(tmp_path / "studio.sqlite")
    low = next(one for one in _all(held) if one.note == "G1")
    with studio.changing() as db:
        marks.put(db, low.hash, marks.Mark(5, ("Dark ", "dark", "club  low"), "for the second track"))
    shutil.move(folder / "Kicks" / "low.wav", folder / "renamed.wav")
    Scan(held, 1).run()
    with studio.changing() as db:
        assert marks.everything(db) == {
            low.hash: marks.Mark(5, ("dark", "club low"), "for the second track")
        }
        with pytest.raises(UserError, match="0 to 5 stars"):
            marks.put(db, low.hash, marks.Mark(6))
        with pytest.raises(UserError, match="up to 20 tags"):
            marks.put(db, low.hash, marks.Mark(tags=tuple(str(n) for n in range(21))))
        marks.put(db, low.hash, marks.Mark())
        assert marks.everything(db) == {}


@pytest.mark.thorough
def test_another_engine_measures_again(held: Stock, folder: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    _scanned(held, folder)
    monkeypatch.setattr("juglant.stock.scan.KNOWN_VERSION", 999)
    work = Scan(held, 1)
    todo, gone = work._changed()
    assert (len(todo), gone) == (4, [])


def test_a_picture_is_the_envelope() -> None:
    found = known(np.concatenate([ring(100.0, 60, 0.2), np.zeros(RATE // 5)]), RATE)
    assert len(found.picture_db) == 48
    assert max(found.picture_db) == 0
    assert set(found.picture_db[24:]) == {-48}
