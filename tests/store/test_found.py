"""What is found in the stock by what is asked, the log's lines, and the ear trainer's: no file is scanned for it."""

from pathlib import Path

import pytest

from juglant.core.errors import NotFoundError, UserError
from juglant.core.stock.known import Known, known
from juglant.store import ear, entries, finding, stock, tracks, versions
from juglant.store.database import Studio
from juglant.store.finding import Likeness, Query, Range
from juglant.store.stock import Stock
from tests.signals import RATE, noise, ring

# By the last letter of its hash: a tone of a note, an octave over it, a fifth over that, and hiss.
_HZ = {"a": 55.0, "b": 110.0, "c": 164.81}
_SOUNDS: dict[str, Known] = {
    **{
        letter: known(0.6 * ring(hz, 250 / n, 0.8 / n), RATE)
        for n, (letter, hz) in enumerate(_HZ.items(), 1)
    },
    "d": known(0.1 * noise(0.2), RATE),
}


def _hash(letter: str) -> str:
    return letter * 64


@pytest.fixture
def held(tmp_path: Path) -> Stock:
    """Two folders of four sounds, one of them twice, and a file that cannot be read."""
    made = Stock(tmp_path / "stock.sqlite")
    folders = [tmp_path / name for name in ("drums", "more")]
    with made.changing() as db:
        ids = []
        for one in folders:
            one.mkdir()
            ids.append(stock.add_folder(db, one))
        for letter, sound in _SOUNDS.items():
            stock.put_sound(db, _hash(letter), sound)
        names = {
            "a": b"Kicks/low kick.wav",
            "b": b"toms/tom one.wav",
            "c": b"toms/tom two.wav",
            "d": b"hat.wav",
        }
        for n, (letter, name) in enumerate(names.items()):
            stock.put_place(db, ids[0], name, 100 + n, n, digest=_hash(letter), trouble=None)
        stock.put_place(db, ids[1], b"copy.wav", 100, 9, digest=_hash("a"), trouble=None)
        stock.put_place(db, ids[1], b"no.wav", 4, 9, digest=None, trouble="It is empty.")
    return made


def _found(held: Stock, **asked: object) -> str:
    with held.reading() as db:
        return "".join(one.hash[0] for one in finding.find(db, Query(**asked)))  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("asked", "there"),
    [
        ({"words": "tom"}, "bc"), ({"words": "to two"}, "c"), ({"words": "kick tom"}, ""),
        # A1 is MIDI 33 and 55 Hz, A2 110 Hz, E3 164.81 Hz (ISO 16:1975).
        ({"midi": 33}, "a"), ({"midi": 34}, ""), ({"midi": 34, "cents": 101.0}, "a"),
        ({"note_class": 9}, "ab"), ({"note_class": 4}, "c"), ({"note_class": 3}, ""),
        ({"length_ms": Range(500.0, None)}, "a"), ({"length_ms": Range(None, 210.0)}, "d"),
        ({"only": frozenset({"c" * 64})}, "c"), ({"lufs": Range(-80.0, -70.0)}, ""), ({"bpm": Range(20.0)}, ""),
    ],
)  # fmt: skip
def test_what_is_asked_for_is_found(held: Stock, asked: dict[str, object], there: str) -> None:
    assert "".join(sorted(_found(held, **asked))) == there


def test_the_nearest_note_comes_first_and_no_more_than_asked(held: Stock) -> None:
    assert _found(held, midi=44, cents=1300.0)[0] == "b"
    with held.reading() as db:
        assert len(finding.find(db, Query(), 3)) == 3
        assert len(finding.find(db, Query())) == 4
        some = finding.find(db, Query(only=frozenset(map(_hash, "abc"))), 2)
        assert len(some) == 2
        apart = {_hash("c"): 0.1, _hash("a"): 0.5}
        order = "".join(one.hash[0] for one in finding.nearest(db, Query(), apart))
        assert order[:2] == "ca"
        assert [one.hash[0] for one in finding.nearest(db, Query(), apart, 1)] == ["c"]


def test_an_entry_says_where_it_lies_and_what_was_measured(held: Stock) -> None:
    with held.reading() as db:
        low, none = finding.entries_of(db, [_hash("a"), _hash("e"), _hash("d")])
        assert [Path(one).name for one in low.places] == ["low kick.wav", "copy.wav"]
        assert Path(low.path).parts[-2:] == ("Kicks", "low kick.wav")
        assert [one.name for one in stock.places_of(db, _hash("a"))] == ["low kick.wav", "copy.wav"]
        assert (low.kind, low.note, none.note) == ("kick", "A1", None)
        assert low.midi == pytest.approx(33.0, abs=0.01)
        assert low.length_ms == pytest.approx(800.0, abs=1.0)
        assert none.peak_dbfs == pytest.approx(_SOUNDS["d"].hit.peak_dbfs, abs=0.01)
        assert max(low.picture_db) <= 0
        assert [Path(path).name for path, _ in stock.troubled(db)] == ["no.wav"]
        assert sum(stock.kinds(db).values()) == 4
        assert stock.numbers(db, _hash("a"))["peak_dbfs"] == pytest.approx(low.peak_dbfs, abs=0.01)
        for ask in (stock.numbers, finding.portrait_of):
            with pytest.raises(NotFoundError):
                ask(db, _hash("f"))


def test_a_sound_is_likest_to_itself_and_likeness_hears_of_what_came_since(held: Stock) -> None:
    near = Likeness()
    with held.reading() as db:
        apart = near.like(db, finding.portrait_of(db, _hash("b")))
        assert apart[_hash("b")] == pytest.approx(0.0, abs=1e-5)
        assert apart[_hash("c")] < apart[_hash("d")]
    with held.changing() as db:
        stock.put_sound(db, _hash("e"), _SOUNDS["a"])
    with held.reading() as db:
        assert near.like(db, finding.portrait_of(db, _hash("a")))[_hash("e")] == pytest.approx(
            0.0, abs=1e-5
        )


def test_folders_lie_beside_each_other_and_what_is_gone_takes_its_sounds_along(
    held: Stock, tmp_path: Path
) -> None:
    inside = tmp_path / "drums" / "Kicks"
    inside.mkdir()
    with held.changing() as db:
        first, second = stock.folders(db)
        assert (first.sounds, first.troubled, second.sounds, second.troubled) == (4, 0, 1, 1)
        assert stock.add_folder(db, tmp_path / "drums") == first.id
        for wrong, said in (
            (inside, "lies in"),
            (tmp_path, "forget it first"),
            (tmp_path / "no", "no folder"),
        ):
            with pytest.raises(UserError, match=said):
                stock.add_folder(db, wrong)
        stock.watch_folder(db, first.id, True)
        assert stock.watched(db) == [first.path]
        seen = stock.seen_in(db, first.id)
        assert (seen[b"hat.wav"].size, seen[b"hat.wav"].mtime_ns, seen[b"hat.wav"].hash) == (
            103,
            3,
            _hash("d"),
        )
        stock.drop_places(db, [seen[b"hat.wav"].id])
        assert db.execute("SELECT count(*) FROM sound").fetchone()[0] == 3
        stock.forget_folder(db, first.id)
        for ask in (stock.forget_folder, lambda db, id: stock.watch_folder(db, id, True)):
            with pytest.raises(NotFoundError):
                ask(db, first.id)
        # Forgotten while it was looked through.
        stock.put_place(db, first.id, b"late.wav", 1, 1, digest=None, trouble="late")
        assert [one.path for one in stock.folders(db)] == [second.path]


def test_lines_of_the_log_belong_to_their_track_the_newest_first(tmp_path: Path) -> None:
    studio = Studio(tmp_path / "studio.sqlite")
    with studio.changing() as db:
        one, other = (tracks.create(db, name, "{}") for name in ("One", "Other"))
        first = entries.add(db, one.id, "note", "lower")
        entries.add(db, other.id, "note", "not here")
        second = entries.add(db, one.id, "blind", "12 of 16")
        assert [line.note for line in entries.of_track(db, one.id)] == ["12 of 16", "lower"]
        assert entries.of_track(db, one.id, 1) == [second]
        assert first.revision == tracks.get(db, one.id).revision
        with pytest.raises(NotFoundError):
            entries.drop(db, other.id, first.id)
        entries.drop(db, one.id, first.id)
        assert entries.of_track(db, one.id) == [second]
        tracks.delete(db, other.id)
        with pytest.raises(NotFoundError):
            entries.add(db, other.id, "note", "gone")


def test_a_star_and_tags_stay_until_they_are_said_anew(tmp_path: Path) -> None:
    studio = Studio(tmp_path / "studio.sqlite")
    with studio.changing() as db:
        track = tracks.create(db, "One", "{}")
        id = versions.keep(db, track.id, "{}", "{}", "sent").id
        entries.mark(db, id, star=True, tags=None)
        entries.mark(db, id, star=None, tags="club")
        assert entries.marks(db, track.id) == {id: entries.Mark(True, "club")}
        entries.mark(db, id, star=False, tags=None)
        assert entries.marks(db, track.id) == {id: entries.Mark(False, "club")}
        assert entries.marks(db, track.id + 1) == {}


def test_a_skill_is_kept_in_the_place_of_what_it_was_and_forgotten(tmp_path: Path) -> None:
    studio = Studio(tmp_path / "studio.sqlite")
    with studio.changing() as db:
        for skill, body in (("depth", "1"), ("tuning", "2"), ("depth", "3")):
            ear.keep(db, skill, body)
        assert ear.everything(db) == {"depth": "3", "tuning": "2"}
        ear.forget(db, "depth")
        assert ear.everything(db) == {"tuning": "2"}
