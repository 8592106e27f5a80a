"""The folder beside the arranging project: hand-overs written there, files watched, only inside it."""

import io
import os
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile
from starlette.testclient import TestClient

from juglant.core.recipes.parts import Stem
from juglant.core.recipes.track import TrackState
from juglant.core.replaced import file_numbers, file_of, what_changed, with_file
from juglant.files.outlet import checked_folder, sound_in, sounds_in, written
from tests.signals import RATE, Array, ring, sine


def _wav(x: Array) -> bytes:
    out = io.BytesIO()
    soundfile.write(out, x, RATE, format="WAV", subtype="PCM_24")
    return out.getvalue()


def _with_a_stem(client: TestClient, data: bytes) -> dict[str, Any]:
    track = client.post("/api/tracks", json={"name": "Hull"}).json()
    digest = client.post("/api/audio?name=pad.wav", content=data).json()["audio"]
    state = TrackState.model_validate(track["state"])
    stem = Stem(name="Pad", audio=digest, id="pad")
    whole = TrackState.model_validate({**state.model_dump(), "parts": [*state.parts, stem]})
    save = {
        "section": track["section"], "state": whole.model_dump(mode="json"), "based_on": track["revision"],
    }  # fmt: skip
    return dict(client.put(f"/api/tracks/{track['id']}/state", json=save).json())


def test_a_watched_file_that_changed_is_told_in_numbers_and_taken_in_its_part(
    client: TestClient, tmp_path: Path
) -> None:
    folder = tmp_path / "project"
    folder.mkdir()
    soft, loud = _wav(sine(1000.0, 4.0, -24.0)), _wav(sine(1000.0, 4.0, -18.0))
    (folder / "pad.wav").write_bytes(soft)
    (folder / "notes.txt").write_text("no sound")
    track = _with_a_stem(client, soft)
    address = f"/api/tracks/{track['id']}"
    # Off until it is asked for: nothing of the folder is listed.
    named = client.put(f"{address}/outlet", json={"folder": str(folder)}).json()
    assert (named["watching"], named["files"]) == (False, [])
    assert [one["name"] for one in named["parts"]] == ["Pad"]
    watched = client.put(f"{address}/outlet", json={"folder": str(folder), "watching": True}).json()
    assert [one["name"] for one in watched["files"]] == ["pad.wav"]
    paired = client.put(f"{address}/watched", json={"part": "pad", "file": "pad.wav"}).json()
    assert paired["files"][0] == {"name": "pad.wav", "part": "pad", "changed": False, "said": None}

    (folder / "pad.wav").write_bytes(loud)
    [changed] = client.get(f"{address}/outlet").json()["files"]
    assert changed["changed"] is True
    assert changed["said"] == "loudness −27.0 → −21.0 LUFS, true peak −24.0 → −18.0 dBTP"
    take = {"part": "pad", "section": track["section"], "based_on": track["revision"]}
    taken = client.post(f"{address}/take", json=take).json()
    state = TrackState.model_validate(taken["state"])
    was = TrackState.model_validate(track["state"])
    assert file_of(state.stem("pad")) != file_of(was.stem("pad"))
    assert client.get(f"{address}/outlet").json()["files"][0]["changed"] is False
    # One step of undo brings the old file back: then the disk has another one.
    client.post(f"{address}/undo?based_on={taken['revision']}")
    assert client.post(f"{address}/take", json=take).status_code == 200

    (folder / "pad.wav").unlink()
    [gone] = client.get(f"{address}/outlet").json()["files"]
    assert gone["said"] == "It is not there any more."
    (folder / "pad.wav").write_bytes(b"RIFF broken")
    [broken] = client.get(f"{address}/outlet").json()["files"]
    assert "pad.wav" in broken["said"]


def test_a_hand_over_is_written_where_nothing_is_overwritten_and_the_log_says_which_version_it_was(
    client: TestClient, tmp_path: Path
) -> None:
    folder = tmp_path / "project"
    folder.mkdir()
    track = client.post("/api/tracks", json={"name": "Hull"}).json()
    address = f"/api/tracks/{track['id']}"
    refused = client.post(f"{address}/handed-over", json={"write": True})
    assert "No folder is named" in refused.json()["detail"]
    client.put(f"{address}/outlet", json={"folder": str(folder)})
    first = client.post(f"{address}/handed-over", json={"write": True}).json()
    again = client.post(f"{address}/handed-over", json={"write": True}).json()
    # Nothing changed between them: they are one version, in two folders.
    assert first["version"] == again["version"]
    assert first["folder"] != again["folder"]
    there = sorted(one.name for one in Path(first["folder"]).rglob("*") if one.is_file())
    listed = client.get(f"{address}/handover").json()["files"]
    assert there == sorted(Path(one["name"]).name for one in listed)
    sheet = next(Path(first["folder"]).rglob("*_sheet.txt")).read_text("utf-8")
    assert sheet.endswith(f"\nVersion {first['version']} in the log\n")
    [version] = client.get(f"{address}/versions").json()["versions"]
    assert (version["note"], version["star"]) == ("handed over", True)
    lines = client.get(f"{address}/entries").json()
    assert [one["kind"] for one in lines] == ["hand-over", "hand-over"]
    assert f"version {version['id']}, to {again['folder']}." in lines[0]["note"]
    downloaded = client.post(f"{address}/handed-over", json={}).json()
    assert downloaded["folder"] is None
    assert [one for one in os.listdir(folder) if one.startswith(".")] == []


def test_only_the_named_folder_is_looked_at(client: TestClient, tmp_path: Path) -> None:
    folder, outside = tmp_path / "project", tmp_path / "secret.wav"
    folder.mkdir()
    outside.write_bytes(_wav(sine(220.0, 1.0)))
    (folder / "link.wav").symlink_to(outside)
    track = _with_a_stem(client, _wav(sine(220.0, 1.0)))
    address = f"/api/tracks/{track['id']}"
    client.put(f"{address}/outlet", json={"folder": str(folder), "watching": True})
    for name in ("../secret.wav", str(outside), "link.wav", "missing.wav"):
        refused = client.put(f"{address}/watched", json={"part": "pad", "file": name})
        assert refused.status_code == 422, name
    made = client.put(f"{address}/watched", json={"part": "kick", "file": "link.wav"})
    assert "not made from one file" in made.json()["detail"]
    # Another folder, or none: what was watched is not any more.
    none = client.put(f"{address}/outlet", json={"folder": None}).json()
    assert (none["folder"], none["files"]) == (None, [])


@pytest.mark.parametrize(
    ("path", "said"),
    [
        ("relative/folder", "not a whole path"),
        ("/no/such/folder", "no folder"),
        ("/etc/hostname", "a file"),
    ],
)
def test_a_folder_that_cannot_be_used_is_refused_with_its_reason(
    client: TestClient, path: str, said: str
) -> None:
    track = client.post("/api/tracks", json={"name": "Hull"}).json()
    refused = client.put(f"/api/tracks/{track['id']}/outlet", json={"folder": path})
    assert refused.status_code == 422
    assert said in refused.json()["detail"]


def test_files_are_written_whole_or_not_at_all(tmp_path: Path) -> None:
    folder = checked_folder(str(tmp_path))
    assert written(folder, "Hull v1", {"a.wav": b"1", "midi/b.mid": b"2"}) == folder / "hull-v1"
    assert written(folder, "Hull v1", {"a.wav": b"1"}) == folder / "hull-v1-2"
    assert (folder / "hull-v1" / "midi" / "b.mid").read_bytes() == b"2"
    assert sounds_in(folder) == []
    (folder / "Kick.WAV").write_bytes(b"1")
    assert sounds_in(folder) == [folder / "Kick.WAV"]
    assert sound_in(folder, "Kick.WAV") == folder / "Kick.WAV"


def test_what_is_different_between_two_files_is_told_by_their_numbers() -> None:
    low, high = (file_numbers(ring(hz, 900.0, 1.0), RATE) for hz in (55.0, 58.27))
    assert "note A1 → A♯1" in what_changed(low, high).replace("#", "♯")
    assert what_changed(low, low) == "nothing that its numbers show"
    loop = file_numbers(np.concatenate([sine(55.0, 4.0)] * 2), RATE)
    assert loop.note is None
    with pytest.raises(Exception, match="not made from one file"):
        with_file(TrackState(), "kick", "0" * 64, "x.wav")
