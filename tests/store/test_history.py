"""The history of a track, and what is deleted and brought back: nothing is lost before its time."""

import sqlite3
from pathlib import Path

import pytest

from juglant.core.errors import NotFoundError, UserError
from juglant.store import audio, keeping, references, responses, tracks, versions
from juglant.store.database import Studio, pack

LONG_AGO = "2001-01-01T00:00:00.000Z"


@pytest.fixture
def studio(tmp_path: Path) -> Studio:
    return Studio(tmp_path / "studio.sqlite")


def _saved(db: sqlite3.Connection, track_id: int, *bodies: str) -> tracks.Track:
    track = tracks.get(db, track_id)
    for body in bodies:
        track = tracks.save(db, track_id, body, track.revision, f"what {body}")
    return track


def test_every_step_is_listed_and_can_be_gone_to(studio: Studio) -> None:
    with studio.changing() as db:
        first = tracks.create(db, "One", "a")
        other = tracks.create(db, "Two", "z")
        _saved(db, first.id, "b", "c")
        tracks.undo(db, first.id)
        head = _saved(db, first.id, "d")
        steps = tracks.history(db, first.id, 99)
        assert [(one.what, one.on_path, one.here) for one in steps] == [
            ("what d", True, True), ("what c", False, False), ("what b", True, False), (None, True, False),
        ]  # fmt: skip
        # What undo left behind is a step away, and back again.
        left = tracks.go_to(db, first.id, steps[1].revision)
        assert (left.body, left.can_undo) == ("c", True)
        assert tracks.go_to(db, first.id, head.revision).body == "d"
        with pytest.raises(NotFoundError, match="no such step"):
            tracks.go_to(db, first.id, other.revision)
        assert len(tracks.history(db, first.id, 2)) == 2


@pytest.mark.thorough
def test_500_steps_of_the_way_to_the_working_state_are_kept_whatever_lies_beside_it(studio: Studio) -> None:
    with studio.changing() as db:
        one = tracks.create(db, "One", "start")
        beside = tracks.create(db, "Beside", "other")
        _saved(db, beside.id, "other 1", "other 2")
        _saved(db, one.id, *(f"old {n}" for n in range(300)))
        for _ in range(250):
            tracks.undo(db, one.id)
        # Deep undo, then on from there: the branch left behind takes none of the steps.
        _saved(db, one.id, *(f"new {n}" for n in range(480)))
        bodies = [tracks.get(db, one.id).body]
        while tracks.get(db, one.id).can_undo:
            bodies.append(tracks.undo(db, one.id).body)
        assert len(bodies) == 501
        assert bodies[479:482] == ["new 0", "old 49", "old 48"]
        # Every state of the abandoned branch is there, and the other track's.
        listed = [
            step for step in tracks.history(db, one.id, 9999) if (step.what or "").startswith("what old")
        ]
        assert len(listed) == 300 - 29
        assert [step.what for step in tracks.history(db, beside.id, 99)] == [
            "what other 2",
            "what other 1",
            None,
        ]


def test_a_branch_that_was_left_behind_goes_after_30_days(studio: Studio) -> None:
    with studio.changing() as db:
        track = tracks.create(db, "One", "a")
        _saved(db, track.id, "b")
        tracks.undo(db, track.id)
        db.execute("UPDATE state SET made_at = ?", (LONG_AGO,))
        _saved(db, track.id, "c")
        # The way itself stays however old it is.
        assert [step.what for step in tracks.history(db, track.id, 99)] == ["what c", None]


def test_what_goes_of_one_track_leaves_the_others_alone(studio: Studio) -> None:
    with studio.changing() as db:
        one, other = tracks.create(db, "One", "a"), tracks.create(db, "Other", "x")
        _saved(db, other.id, "y")
        tracks.undo(db, other.id)
        db.execute("UPDATE state SET made_at = ?", (LONG_AGO,))
        _saved(db, one.id, "b")
        assert tracks.redo(db, other.id).body == "y"
        assert [step.what for step in tracks.history(db, other.id, 99)] == ["what y", None]


def test_what_is_deleted_is_out_of_sight_and_comes_back_as_it_was(studio: Studio) -> None:
    with studio.changing() as db:
        track = tracks.create(db, "One", "a")
        _saved(db, track.id, "b")
        kept = versions.keep(db, track.id, "b", "{}", "note")
        versions.delete(db, track.id, kept.id)
        assert versions.of_track(db, track.id, 99, 9) == []
        assert versions.bring_back(db, track.id, kept.id) == kept
        assert versions.of_track(db, track.id, 99, 9) == [kept]
        tracks.delete(db, track.id)
        assert tracks.everything(db) == []
        assert [one.name for one in tracks.everything(db, deleted=True)] == ["One"]
        with pytest.raises(NotFoundError):
            tracks.get(db, track.id)
        back = tracks.bring_back(db, track.id)
        assert (back.body, back.can_undo) == ("b", True)
        assert [one.name for one in tracks.everything(db)] == ["One"]


def _sound(db: sqlite3.Connection, data: bytes, made_at: str) -> str:
    digest = audio.put(db, data, "x.wav", "WAV", 48_000, 1, 1).hash
    db.execute("UPDATE audio SET made_at = ? WHERE hash = ?", (made_at, digest))
    return digest


def test_after_30_days_it_goes_with_the_sounds_that_nothing_uses(studio: Studio) -> None:
    now = "2099-01-01T00:00:00.000Z"
    with studio.changing() as db:
        used, lost, fresh = (
            _sound(db, data, at) for data, at in ((b"1", LONG_AGO), (b"2", LONG_AGO), (b"3", now))
        )
        in_version = _sound(db, b"4", LONG_AGO)
        stays = tracks.create(db, "Stays", f'{{"audio": "{used}"}}')
        versions.keep(db, stays.id, f'{{"audio": "{in_version}"}}', "{}", "")
        goes = tracks.create(db, "Goes", f'{{"audio": "{lost}"}}')
        versions.keep(db, goes.id, "{}", "{}", "")
        recent = tracks.create(db, "Recent", "{}")
        for track in (goes, recent):
            tracks.delete(db, track.id)
        db.execute("UPDATE track SET deleted_at = ? WHERE id = ?", (LONG_AGO, goes.id))
    assert keeping.cleared(studio) == 1
    with studio.reading() as db:
        assert {row[0] for row in db.execute("SELECT hash FROM audio")} == {used, in_version, fresh}
        assert [one.name for one in tracks.everything(db)] == ["Stays"]
        assert [one.name for one in tracks.everything(db, deleted=True)] == ["Recent"]

    assert keeping.cleared(studio) == 0


@pytest.mark.parametrize("by", ["a response", "a reference", "a branch", "nothing"])
def test_a_sound_stays_as_long_as_anything_uses_it(studio: Studio, by: str) -> None:
    with studio.changing() as db:
        digest = _sound(db, b"1", LONG_AGO)
        track = tracks.create(db, "One", "{}").id
        if by == "a response":
            responses.keep(db, "The hall", digest)
        elif by == "a reference":
            references.keep(db, track, "record", digest, "{}")
        elif by == "a branch":
            _saved(db, track, f'{{"audio": "{digest}"}}')
            tracks.undo(db, track)
    stays = by != "nothing"
    assert keeping.cleared(studio) == (0 if stays else 1)
    with studio.reading() as db:
        assert [row[0] for row in db.execute("SELECT hash FROM audio")] == ([digest] if stays else [])


def test_where_a_state_cannot_be_read_nothing_is_cleared(studio: Studio) -> None:
    with studio.changing() as db:
        digest = _sound(db, b"1", LONG_AGO)
        track = tracks.create(db, "One", "{}")
        db.execute("UPDATE state SET body = ? WHERE track_id = ?", (pack("{broken"), track.id))
    with pytest.raises(UserError, match="nothing was cleared"):
        keeping.cleared(studio)
    with studio.reading() as db:
        assert audio.data(db, digest) == (b"1", "x.wav")


def test_a_studio_says_what_it_weighs(studio: Studio) -> None:
    with studio.changing() as db:
        _sound(db, b"x" * 5000, LONG_AGO)
    weight = keeping.weight(studio)
    assert weight["sounds"] == 5000
    assert weight["file"] > 0


def test_a_sound_that_was_brought_in_again_is_young_again(studio: Studio) -> None:
    with studio.changing() as db:
        digest = _sound(db, b"1", LONG_AGO)
        audio.put(db, b"1", "x.wav", "WAV", 48_000, 1, 1)
    assert keeping.cleared(studio) == 0
    with studio.reading() as db:
        assert audio.data(db, digest) == (b"1", "x.wav")


def test_what_is_saved_while_the_studio_is_looked_through_keeps_its_sound(
    studio: Studio, monkeypatch: pytest.MonkeyPatch
) -> None:
    with studio.changing() as db:
        digest = _sound(db, b"1", LONG_AGO)
        track = tracks.create(db, "One", "{}")
    plain = keeping._plain
    saved: list[bool] = []

    def slowly(body: object) -> str | None:
        if not saved:
            saved.append(True)
            with studio.changing() as db:
                tracks.save(db, track.id, f'{{"audio": "{digest}"}}', track.revision)
        return plain(body)

    monkeypatch.setattr(keeping, "_plain", slowly)
    assert keeping.cleared(studio) == 0
    with studio.reading() as db:
        assert audio.data(db, digest) == (b"1", "x.wav")


def test_the_studio_is_looked_after_once_a_day_and_never_without_a_copy(
    studio: Studio, monkeypatch: pytest.MonkeyPatch
) -> None:
    done: list[Studio] = []
    monkeypatch.setattr(keeping, "cleared", done.append)
    keeping.looked_after(studio)
    keeping.looked_after(studio)
    assert done == [studio]
    assert len(list((studio.path.parent / "backups").glob("*.sqlite"))) == 1
