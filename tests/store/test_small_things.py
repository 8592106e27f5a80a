"""What is kept beside tracks: marks, things filed, shapes, responses, references, and the numbers of sounds."""

import json
from pathlib import Path

import numpy as np
import pytest

from juglant.core.errors import NotFoundError, UserError
from juglant.core.stock.known import Known, known
from juglant.store import audio, filed, finding, marks, references, responses, shapes, stock, tracks
from juglant.store.database import Studio
from juglant.store.finding import Likeness
from juglant.store.stock import STOCK_FILE, Stock
from tests.files_made import written
from tests.signals import RATE, noise, ring


@pytest.fixture
def studio(tmp_path: Path) -> Studio:
    return Studio(tmp_path / "studio.sqlite")


def _sound(studio: Studio, hz: float) -> str:
    with studio.changing() as db:
        data = written(ring(hz, 200, 0.3), RATE)
        return audio.put(db, data, f"{hz:g}", "WAV", RATE, round(0.3 * RATE), 1).hash


def test_a_mark_is_tidied_kept_and_forgotten_when_it_says_nothing(studio: Studio) -> None:
    with studio.changing() as db:
        marks.put(db, "a" * 64, marks.Mark(3, ("Dark ", "dark", " long  tail", ""), "mine"))
        marks.put(db, "b" * 64, marks.Mark(5, ("dark",)))
        assert marks.everything(db)["a" * 64] == marks.Mark(3, ("dark", "long tail"), "mine")
        assert marks.chosen(db, ["DARK"], 4) == frozenset({"b" * 64})
        assert marks.chosen(db, ["dark", "long tail"], 0) == frozenset({"a" * 64})
        assert marks.chosen(db, [], 5) == frozenset({"b" * 64})
        assert marks.chosen(db, [], 0) is None
        marks.put(db, "b" * 64, marks.Mark())
        assert marks.everything(db).keys() == {"a" * 64}


@pytest.mark.parametrize(
    ("fits", "not_so"),
    [
        (marks.Mark(5), marks.Mark(6)),
        (marks.Mark(0, ("a",)), marks.Mark(-1)),
        (marks.Mark(0, tuple(map(str, range(20)))), marks.Mark(0, tuple(map(str, range(21))))),
        (marks.Mark(0, ("x" * marks.LONGEST_TAG,)), marks.Mark(0, ("x" * (marks.LONGEST_TAG + 1),))),
        (marks.Mark(1, (), "n" * marks.LONGEST_NOTE), marks.Mark(1, (), "n" * (marks.LONGEST_NOTE + 1))),
    ],
)
def test_a_mark_has_its_limits(studio: Studio, fits: marks.Mark, not_so: marks.Mark) -> None:
    with studio.changing() as db:
        marks.put(db, "a" * 64, fits)
        assert marks.everything(db)["a" * 64] == fits
        with pytest.raises(UserError):
            marks.put(db, "a" * 64, not_so)
        assert marks.everything(db)["a" * 64] == fits


def test_what_is_filed_comes_back_whole_in_its_order(studio: Studio) -> None:
    with studio.changing() as db:
        body = json.dumps({"long": "x" * 4000})
        later = filed.put(db, "pattern", "kick", "b", "{}")
        first = filed.put(db, "hit", "snare", "a", body)
        assert first.body == body
        assert [one.id for one in filed.everything(db)] == [first.id, later.id]
        filed.drop(db, later.id)
        assert [one.name for one in filed.everything(db)] == ["a"]
        for gone in (filed.get, filed.drop):
            with pytest.raises(NotFoundError):
                gone(db, later.id)


def test_a_shape_and_a_response_have_names_of_their_own(studio: Studio) -> None:
    digest = _sound(studio, 60.0)
    with studio.changing() as db:
        shapes.keep(db, "long", "[1]")
        responses.keep(db, "hall", digest)
        with pytest.raises(UserError, match="“long” already"):
            shapes.keep(db, "long", "[2]")
        with pytest.raises(UserError, match="“hall” already"):
            responses.keep(db, "hall", digest)
        assert [(one.name, one.body) for one in shapes.everything(db)] == [("long", "[1]")]
        [hall] = responses.everything(db)
        assert (hall.name, hall.audio) == ("hall", digest)
        shapes.forget(db, shapes.everything(db)[0].id)
        responses.forget(db, hall.id)
        assert shapes.everything(db) == []
        assert responses.everything(db) == []
        for again in (shapes.forget, responses.forget):
            with pytest.raises(NotFoundError):
                again(db, 1)


def test_a_reference_belongs_to_a_track_that_is_there(studio: Studio) -> None:
    digest = _sound(studio, 60.0)
    with studio.changing() as db:
        track = tracks.create(db, "One", "{}").id
        other = tracks.create(db, "Two", "{}").id
        kept = references.keep(db, track, "record", digest, '{"a": 1}')
        assert references.of_track(db, track) == [kept]
        assert references.of_track(db, other) == []
        assert (kept.name, kept.audio, json.loads(kept.numbers)) == ("record", digest, {"a": 1})
        with pytest.raises(NotFoundError):
            references.keep(db, other + 1, "record", digest, "{}")
        for n in range(references.MOST_REFERENCES - 1):
            references.keep(db, track, str(n), digest, "{}")
        with pytest.raises(UserError, match="50 references"):
            references.keep(db, track, "one more", digest, "{}")
        references.drop(db, kept.id)
        with pytest.raises(NotFoundError):
            references.drop(db, kept.id)


def _known() -> dict[str, Known]:
    sounds = {"a": ring(60.0, 250, 0.4), "b": ring(62.0, 260, 0.4), "c": 0.3 * noise(0.2)}
    return {letter * 64: known(x, RATE) for letter, x in sounds.items()}


def test_what_was_measured_is_kept_by_content_and_found_by_likeness(tmp_path: Path) -> None:
    held, told = Stock(tmp_path / STOCK_FILE), _known()
    with held.changing() as db:
        folder = stock.add_folder(db, tmp_path)
        for n, (digest, one) in enumerate(told.items()):
            stock.put_sound(db, digest, one)
            stock.put_place(db, folder, b"%d.wav" % n, 10, 20, digest=digest, trouble=None)
        stock.put_place(db, folder, b"bad.wav", 1, 2, digest=None, trouble="It is no sound.")
    with held.reading() as db:
        assert stock.numbers(db, "a" * 64) == json.loads(json.dumps(told["a" * 64].numbers))
        with pytest.raises(NotFoundError):
            stock.numbers(db, "d" * 64)
        np.testing.assert_allclose(finding.portrait_of(db, "b" * 64), told["b" * 64].portrait, rtol=1e-6)
        with pytest.raises(NotFoundError):
            finding.portrait_of(db, "d" * 64)
        apart = Likeness().like(db, told["a" * 64].portrait)
        assert apart["a" * 64] == pytest.approx(0.0, abs=1e-5)
        assert apart["a" * 64] < apart["b" * 64] < apart["c" * 64]
        assert [(one.sounds, one.troubled) for one in stock.folders(db)] == [(3, 1)]
        assert [why for _, why in stock.troubled(db)] == ["It is no sound."]
        seen = stock.seen_in(db, folder)
        assert (seen[b"1.wav"].size, seen[b"1.wav"].mtime_ns, seen[b"1.wav"].hash) == (10, 20, "b" * 64)
        assert sum(stock.kinds(db).values()) == 3
    assert stock.measured(str(tmp_path / STOCK_FILE), "a" * 64)
    assert not stock.measured(str(tmp_path / STOCK_FILE), "d" * 64)
    # What was measured anew stands in its place; what lies nowhere any more is forgotten.
    with held.changing() as db:
        stock.put_sound(db, "a" * 64, told["c" * 64])
        assert stock.numbers(db, "a" * 64) == stock.numbers(db, "c" * 64)
        stock.drop_places(db, [stock.seen_in(db, folder)[b"0.wav"].id])
        with pytest.raises(NotFoundError):
            stock.numbers(db, "a" * 64)
