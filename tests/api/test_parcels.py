"""A track goes from one studio to another as one file, and sounds there as it did."""

import io
import zipfile
from pathlib import Path
from typing import Any

import numpy as np
from fastapi.testclient import TestClient

from juglant.api.app import create_app
from juglant.store.database import Studio
from tests.files_made import KICK, written
from tests.shell import as_json, run


def _client(path: Path) -> TestClient:
    return TestClient(create_app(Studio(path)), base_url="http://127.0.0.1")


def _with_a_file(client: TestClient) -> Any:
    """A track whose kick is a file, and the track as it was saved."""
    brought = client.post("/api/audio?name=my%20kick.wav", content=written(KICK)).json()
    track = client.post("/api/tracks", json={"name": "Ünder/Brücke ф"}).json()
    source = track["state"]["parts"][0]["layers"][0]
    source["source"] = {"kind": "imported", "audio": brought["audio"], "name": "my kick.wav"}
    change = {"state": track["state"], "section": track["section"], "based_on": track["revision"]}
    return client.put(f"/api/tracks/{track['id']}/state", json=change).json()


def _heard(client: TestClient, state: Any) -> list[bytes]:
    plan = client.post("/api/sound/plan", json=state).json()
    return [client.get(f"/api/sound/{one['heard']}").content for one in plan["parts"]]


def test_a_track_sounds_in_another_studio_as_it_did(tmp_path: Path) -> None:
    here, there = _client(tmp_path / "one.sqlite"), _client(tmp_path / "two.sqlite")
    track = _with_a_file(here)
    packed = here.get(f"/api/tracks/{track['id']}/parcel.zip").content
    opened = there.post("/api/tracks/parcel?name=brought.zip", content=packed)
    assert opened.status_code == 201
    assert opened.json()["name"] == track["name"]
    assert opened.json()["state"] == track["state"]
    assert _heard(there, opened.json()["state"]) == _heard(here, track["state"])
    # Once more in the same studio: another track, the sound stored once.
    again = here.post("/api/tracks/parcel?name=brought.zip", content=packed).json()
    assert again["id"] != track["id"]
    # What it is made of opens in the shell too.
    with zipfile.ZipFile(io.BytesIO(packed)) as archive:
        assert sorted(archive.namelist()) == ["audio/my kick.wav", "name.txt", "track.json"]
        archive.extractall(tmp_path / "out")
    told = as_json(tmp_path / "out", "check", "track.json")
    assert isinstance(told, list | dict)


def _changed(packed: bytes, packing: int = zipfile.ZIP_STORED, **files: bytes | None) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(packed)) as old, zipfile.ZipFile(out, "w", packing) as new:
        for name in old.namelist():
            key = name.replace("/", "_").replace(" ", "_").replace(".", "_")
            data = files.get(key, old.read(name))
            if data is not None:
                new.writestr(name, data)
    return out.getvalue()


def test_what_is_no_whole_track_is_refused_and_nothing_is_stored(tmp_path: Path) -> None:
    client = _client(tmp_path / "one.sqlite")
    packed = client.get(f"/api/tracks/{_with_a_file(client)['id']}/parcel.zip").content
    before = client.get("/api/tracks").json()
    for data, said in (
        (b"", "is no track file, or it is damaged"), (packed[:-40], "is no track file, or it is damaged"),
        (b"PK" + bytes(200), "is no track file"), (_changed(packed, track_json=None), "holds no track"),
        (_changed(packed, zipfile.ZIP_LZMA), "is packed in a way that cannot be read here"),
        (_changed(packed, track_json=b"{"), "was made by another version and cannot be read"),
        (_changed(packed, audio_my_kick_wav=None), "is not whole: 1 of the track's sounds"),
        (_changed(packed, audio_my_kick_wav=b"x" * 100), "is not whole"),
    ):  # fmt: skip
        refused = client.post("/api/tracks/parcel?name=odd.zip", content=data)
        assert refused.status_code == 422
        assert "“odd.zip”" in refused.json()["detail"]
        assert said in refused.json()["detail"]
    assert client.get("/api/tracks").json() == before


def test_no_mutated_track_file_gets_further_than_a_sentence(tmp_path: Path) -> None:
    client = _client(tmp_path / "one.sqlite")
    whole = client.get(f"/api/tracks/{_with_a_file(client)['id']}/parcel.zip").content
    answers = set()
    for seed in range(120):
        rng = np.random.default_rng(seed)
        packed = bytearray(whole)
        for at in rng.integers(0, len(packed), 1 + seed % 9):
            packed[at] = rng.integers(0, 256)
        answers.add(client.post("/api/tracks/parcel?name=odd.zip", content=bytes(packed)).status_code)
    assert answers <= {201, 413, 422}
    assert 422 in answers


def test_the_shell_saves_and_opens_what_the_page_does(tmp_path: Path) -> None:
    (tmp_path / "one").mkdir()
    here = _client(tmp_path / "one" / "studio.sqlite")
    track = _with_a_file(here)
    assert track["name"] in run(tmp_path, "track", "list", "--data", "one").stdout
    saved = run(tmp_path, "track", "save", track["name"], "-o", "out", "--data", "one").stdout.strip()
    assert (tmp_path / saved).read_bytes() == here.get(f"/api/tracks/{track['id']}/parcel.zip").content
    # What can be opened is there; what cannot is said at the end.
    opened = run(tmp_path, "track", "open", "none.zip", saved, "--data", "two", code=2)
    assert "none.zip cannot be read" in opened.stderr
    there = _client(tmp_path / "two" / "studio.sqlite")
    assert _heard(there, there.get("/api/tracks/1").json()["state"]) == _heard(here, track["state"])
    refused = run(tmp_path, "track", "save", "nothing", "--data", "two", code=2)
    assert "There is no track “nothing”" in refused.stderr
