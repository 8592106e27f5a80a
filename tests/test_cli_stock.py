"""The stock and kits from a shell."""

from pathlib import Path
from typing import Any

import pytest
import soundfile

from juglant.core.recipes.hit import Hit
from juglant.core.recipes.kick import KickRecipe
from juglant.core.recipes.notes import on_beats
from juglant.core.recipes.track import TrackState
from juglant.core.synth.kick import render_kick
from tests.shell import as_json, run
from tests.signals import RATE, noise

KICKS = {"short A": (55.0, 200.0), "long A": (55.0, 900.0), "off": (58.3, 300.0)}
STATE = TrackState.of(kick=Hit(steps=on_beats(1, 2, 3, 4)))


@pytest.fixture(scope="module")
def place(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A shell's folder with three kicks and a hat in the stock, and a track."""
    root = tmp_path_factory.mktemp("shell")
    (root / "sounds").mkdir()
    for name, (hz, decay_ms) in KICKS.items():
        recipe = KickRecipe(end_hz=hz, decay_ms=decay_ms, length_ms=decay_ms + 100)
        soundfile.write(root / "sounds" / f"{name}.wav", render_kick(recipe, RATE, 126.0), RATE, "PCM_24")
    soundfile.write(root / "sounds" / "hat.wav", noise(0.05) * 0.3, RATE, "PCM_24")
    (root / "track.json").write_text(STATE.model_dump_json())
    run(root, "stock", "add", "sounds", "--data", "studio")
    told = as_json(root, "stock", "scan", "--jobs", "1", "--data", "studio")
    assert (told["measured"], told["troubled"], told["stopped"]) == (4, 0, False)
    return root


def _find(place: Path, *asked: str) -> list[Any]:
    return as_json(place, "stock", "find", *asked, "--data", "studio")  # type: ignore[no-any-return]


def _names(found: list[Any]) -> list[str]:
    return [Path(one["path"]).stem for one in found]


def test_find_lists_what_was_measured(place: Path) -> None:
    found = _find(place, "--kind", "kick", "--note", "A1")
    assert set(_names(found)) == {"short A", "long A"}
    for one in found:
        assert one["note"] == "A1"
        assert abs(one["cents"]) < 1.0
        assert 0.5 < one["confidence"] <= 1.0
        assert one["length_ms"] == pytest.approx(KICKS[Path(one["path"]).stem][1] + 100, abs=2.0)
    assert _names(_find(place, "hat")) == ["hat"]
    assert _names(_find(place, "--longest-ms", "320", "--kind", "kick")) == ["short A"]


def test_find_by_likeness_and_by_fit(place: Path) -> None:
    like = _find(place, "--like", "sounds/long A.wav", "--limit", "2")
    assert _names(like)[0] == "long A"
    assert like[0]["apart"] < like[1]["apart"]
    fit = _find(place, "--for", "track.json", "--limit", "3")
    assert {one["kind"] for one in fit} == {"kick"}
    assert [one["fit"] for one in fit] == sorted((one["fit"] for one in fit), reverse=True)
    assert all(one["reasons"] and one["measured"] for one in fit)
    # The default track is in A minor: nothing is to be moved.
    assert abs(fit[0]["shift_cents"]) < 5.0


def test_tags_stars_and_copies_named_by_a_scheme(place: Path) -> None:
    run(place, "stock", "tag", "sounds/short A.wav", "--add", "Club", "--stars", "4", "--data", "studio")
    assert _names(_find(place, "--tag", "club")) == ["short A"]
    assert _names(_find(place, "--stars", "4")) == ["short A"]
    assert _find(place, "--stars", "5") == []
    scheme = "{kind} {note} {number}"
    run(place, "stock", "export", "-o", "out", "--tag", "club", "--name", scheme, "--data", "studio")
    assert (place / "out" / "kick-a1-001.wav").read_bytes() == (place / "sounds/short A.wav").read_bytes()
    # A second time nothing is overwritten.
    again = ("stock", "export", "-o", "out", "--tag", "club", "--name", scheme, "--data", "studio")
    assert "there already" in run(place, *again, code=2).stderr
    run(place, "stock", "tag", "sounds/short A.wav", "--remove", "club", "--stars", "0", "--data", "studio")
    assert _find(place, "--tag", "club") == []


@pytest.mark.parametrize(
    ("asked", "said"),
    [
        (("find", "--kind", "gong"), "is no kind"),
        (("find", "--note", "H1"), "is no note"),
        (("find", "--part", "Kick"), "say which track"),
        (("find", "--for", "track.json", "--part", "Gong"), "There is no part “Gong”"),
        (("find", "--for", "track.json", "--part", "bass"), "not played by one sound"),
        (("find", "--like", "none.wav"), "none.wav cannot be read"),
        (("add", "nowhere"), "There is no folder nowhere"),
        (("forget", "nowhere"), "no folder of the stock"),
        (("tag", "track.json", "--add", "x"), "is not in the stock"),
        (("export", "-o", "x", "--name", "{tempo}"), "names what no sound has"),
        (("export", "-o", "x", "nothing-like-it"), "nothing was copied"),
    ],
)
def test_what_cannot_be_done_says_why(place: Path, asked: tuple[str, ...], said: str) -> None:
    assert said in run(place, "stock", *asked, "--data", "studio", code=2).stderr


def test_a_kit_of_a_track(place: Path) -> None:
    run(place, "kit", "track.json", "-o", "kit", "--part", "Kick")
    names = sorted(path.name for path in (place / "kit" / "drums").iterdir())
    assert names[-2:] == ["map.csv", "map.mid"]
    assert names[0].startswith("036_kick_v001-")
    run(place, "kit", "track.json", "-o", "kit.zip", "--part", "bass", "--range", "C1-D1")
    assert (place / "kit.zip").stat().st_size > 1000
    assert "is no range" in run(place, "kit", "track.json", "-o", "k", "--range", "C1", code=2).stderr
    assert "no part “Gong”" in run(place, "kit", "track.json", "-o", "k", "--part", "Gong", code=2).stderr


def test_several_recipes_in_one_call_and_a_bad_one_among_them(place: Path) -> None:
    (place / "a.json").write_text('{"end_hz": 50.0}')
    (place / "b.json").write_text('{"end_hz": 60.0}')
    (place / "bad.json").write_text("{")
    told = run(place, "render", "a.json", "bad.json", "b.json", "-o", "rendered", code=2)
    assert "bad.json is not JSON" in told.stderr
    assert sorted(path.name for path in (place / "rendered").iterdir()) == ["a.wav", "b.wav"]
    assert "go into a folder" in run(place, "render", "a.json", "b.json", "-o", "c.wav", code=2).stderr


def test_find_by_ranges_of_numbers(place: Path) -> None:
    assert _names(_find(place, "--range", "centroid_hz=2000:")) == ["hat"]
    assert "hat" not in _names(_find(place, "--range", "sub_db=-20:"))
    wrong = run(place, "stock", "find", "--range", "weight=1:2", "--data", "studio", code=2)
    assert "is no range" in wrong.stderr
