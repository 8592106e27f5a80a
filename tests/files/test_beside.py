"""Files beside the studio: records of which a passage is used, folders that take hand-overs, tracks as one file."""

import hashlib
import io
import re
import zipfile
from pathlib import Path

import numpy as np
import pytest
import soundfile

from juglant.core.bringing import with_part_of
from juglant.core.errors import UserError
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.hit import Hit, Imported
from juglant.core.recipes.parts import ImportedBass, Stem, Voice
from juglant.core.recipes.sections import Track
from juglant.core.recipes.track import TrackState
from juglant.core.replaced import file_of, with_file
from juglant.demo.scenario import TRACKS
from juglant.files.names import by_scheme, numbered, plain_name
from juglant.files.outlet import checked_folder, sound_in, sounds_in, written
from juglant.files.parcel import Parcel, Sound, read_parcel, write_parcel
from juglant.files.passage import passage
from tests.signals import Array, sine

_LOW_RATE = 8000
_STATE = next(iter(TRACKS.values()))


def _record(path: Path, seconds: float, loud_from_s: float) -> Path:
    """A record whose low end is there from a time on."""
    at = np.arange(round(seconds * _LOW_RATE)) / _LOW_RATE
    x = 0.02 * np.sin(2 * np.pi * 900.0 * at) + 0.5 * (at >= loud_from_s) * np.sin(2 * np.pi * 60.0 * at)
    soundfile.write(path, x, _LOW_RATE)
    return path


def test_of_a_record_the_half_minute_with_the_most_low_end_is_used(tmp_path: Path) -> None:
    path = _record(tmp_path / "a.wav", 100.0, 65.0)
    found = passage(path)
    # A quarter of it may be weak.
    assert 57.0 <= found.from_s <= 65.0
    assert found.whole_s == pytest.approx(100.0)
    assert found.audio.samples.shape[0] == pytest.approx(30 * _LOW_RATE, abs=_LOW_RATE)
    assert passage(path, from_s=12.5).from_s == 12.5
    # A minute is used whole.
    short = passage(_record(tmp_path / "b.wav", 59.0, 0.0))
    assert (short.from_s, short.whole_s) == (0.0, 59.0)
    assert passage(tmp_path / "b.wav", from_s=20.0).from_s == 20.0


def test_what_no_passage_can_be_taken_of_says_why(tmp_path: Path) -> None:
    path = _record(tmp_path / "a.wav", 70.0, 0.0)
    passage(path, from_s=68.0)
    with pytest.raises(UserError, match="ends after 70 s"):
        passage(path, from_s=69.5)
    soundfile.write(tmp_path / "four.wav", np.zeros((70 * _LOW_RATE, 4)), _LOW_RATE)
    with pytest.raises(UserError, match="4 channels"):
        passage(tmp_path / "four.wav")
    soundfile.write(tmp_path / "long.wav", np.zeros(901 * 1000), 1000)
    with pytest.raises(UserError, match="lasts 15 min"):
        passage(tmp_path / "long.wav")
    (tmp_path / "none.wav").write_bytes(b"nothing at all")
    with pytest.raises(UserError, match="“none\\.wav” is no sound file"):
        passage(tmp_path / "none.wav")
    with pytest.raises(UserError, match="“mine” is no sound file"):
        passage(tmp_path / "none.wav", "mine")


def test_a_folder_that_takes_hand_overs_is_one_that_can(tmp_path: Path) -> None:
    assert checked_folder(str(tmp_path)) == tmp_path.resolve()
    (tmp_path / "a.txt").write_text("x")
    for text, said in (
        ("beside", "not a whole path"), (str(tmp_path / "no"), "no folder"), (str(tmp_path / "a.txt"), "is a file"),
    ):  # fmt: skip
        with pytest.raises(UserError, match=said):
            checked_folder(text)


def test_sounds_of_a_folder_are_those_that_lie_in_it(tmp_path: Path) -> None:
    (tmp_path / "deep").mkdir()
    for name in ("b.wav", "A.wav", "c.txt", "deep/d.wav"):
        (tmp_path / name).write_bytes(b"x")
    assert [one.name for one in sounds_in(tmp_path)] == ["A.wav", "b.wav"]
    assert sound_in(tmp_path, "b.wav") == tmp_path / "b.wav"
    for name in ("deep/d.wav", "../b.wav", "c.txt", "gone.wav"):
        with pytest.raises(UserError):
            sound_in(tmp_path, name)
    with pytest.raises(UserError, match="cannot be read"):
        sounds_in(tmp_path / "no")


def test_a_hand_over_never_lies_over_another(tmp_path: Path) -> None:
    first = written(tmp_path, "Name / one", {"a.wav": b"1", "in/b.wav": b"2"})
    second = written(tmp_path, "Name / one", {"a.wav": b"3"})
    assert first != second
    assert (first / "a.wav").read_bytes() == b"1"
    assert (first / "in" / "b.wav").read_bytes() == b"2"
    assert (second / "a.wav").read_bytes() == b"3"
    assert {one.name for one in tmp_path.iterdir()} == {first.name, second.name}


def test_names_are_made_by_a_scheme_and_numbered() -> None:
    assert by_scheme("{kind} {note}-{number}", kind="kick", note="G1", number="02") == "kick G1-02"
    with pytest.raises(UserError, match=re.escape("use {kind}, {number}")):
        by_scheme("{colour}", kind="kick", number="1")
    assert numbered(["a", "A", "b", "a"], taken=["B"]) == ["a", "A-2", "b-2", "a-3"]
    assert plain_name("Tom/A") == plain_name("Tom A") == "tom-a"


def _wav(x: Array) -> bytes:
    out = io.BytesIO()
    soundfile.write(out, x, 48000, "PCM_24", format="WAV")
    return out.getvalue()


def _parcel() -> Parcel:
    data = _wav(sine(60.0, 0.2, -6))
    digest = hashlib.sha256(data).hexdigest()
    state = _STATE.with_kick(Hit.of(Imported(audio=digest, name="k.wav")))
    return Parcel("One", Track(state=state), [Sound("k.wav", data)])


def test_a_track_as_one_file_comes_back_as_it_was() -> None:
    given = _parcel()
    found = read_parcel(write_parcel(given), "one.zip")
    assert (found.name, found.track) == (given.name, given.track)
    assert found.sounds == given.sounds


def test_a_track_file_that_is_none_says_what_is_wrong() -> None:
    data = write_parcel(_parcel())
    with pytest.raises(UserError):
        read_parcel(data[: len(data) // 2], "one.zip")
    with pytest.raises(UserError):
        read_parcel(b"no zip", "one.zip")
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("track.json", '{"state": 1}')
    with pytest.raises(UserError):
        read_parcel(out.getvalue(), "one.zip")


def test_a_part_is_made_from_another_file_and_the_rest_of_it_stays() -> None:
    old, new = "a" * 64, "b" * 64
    parts: dict[str, Hit | Voice | Stem] = {
        "stem": Stem(id="stem", name="Pad", audio=old),
        "line": Voice(id="line", name="sub", bass=ImportedBass(audio=old, name="s.wav", level_db=-4.0)),
        "hit": Hit.of(Imported(audio=old, name="h.wav", level_db=-3.0), id="hit", name="Clap", kind="clap"),
    }
    state = _STATE.model_copy(update={"parts": (*_STATE.parts, *parts.values())})
    for id, part in parts.items():
        assert file_of(part) == old
        after = with_file(state, id, new, "n.wav").part(id)
        assert after is not None
        assert file_of(after) == new
        text = after.model_dump_json().replace(new, old)
        assert re.sub('"[nsh]\\.wav"', "", text) == re.sub('"[nsh]\\.wav"', "", part.model_dump_json())
    assert file_of(_STATE.kick) is None
    with pytest.raises(UserError, match="not made from one file"):
        with_file(state, _STATE.kick.id, new, "n.wav")


def test_one_part_or_ducking_of_a_version_comes_back_alone() -> None:
    clap = Hit.of(Imported(audio="a" * 64, name="c.wav"), id="clap", name="Clap", kind="clap")
    version = TrackState.model_validate(
        {**_STATE.model_dump(), "parts": [*_STATE.model_dump()["parts"], clap.model_dump()]}
    )
    louder = _STATE.with_part(_STATE.kick.model_copy(update={"name": "Other"}))
    assert with_part_of(louder, version, _STATE.kick.id).kick == _STATE.kick
    assert [one.id for one in with_part_of(_STATE, version, "clap").parts][-1] == "clap"
    ducked = _STATE.with_duck(duck=DuckRecipe(depth_db=3.0))
    assert with_part_of(ducked, version, version.duckings[0].id).duckings == version.duckings
    with pytest.raises(UserError, match="no such part"):
        with_part_of(_STATE, version, "gone")
    named = clap.model_copy(update={"name": "Clap", "id": "other"})
    taken = TrackState.model_validate(
        {**_STATE.model_dump(), "parts": [*_STATE.model_dump()["parts"], named.model_dump()]}
    )
    with pytest.raises(UserError, match="cannot come back alone"):
        with_part_of(taken, version, "clap")
