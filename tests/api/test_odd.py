"""Odd requests get a sentence: numbers that are none, ids that cannot be, names that cannot be seen."""

import io
from typing import Any

import mido
import pytest
from fastapi.testclient import TestClient

from juglant.core.recipes.brief import Brief

HEAD = {"content-type": "application/json"}
BRIEF = Brief().model_dump_json()


def _refused(answer: Any, status: int = 422) -> str:
    assert answer.status_code == status, answer.text
    assert answer.headers["content-type"] == "application/problem+json"
    return str(answer.json()["detail"])


@pytest.mark.parametrize("beats", ["Infinity", "NaN", "1e308", "1e400", "100000.1"])
def test_notes_of_no_length_that_can_be_are_refused(client: TestClient, beats: str) -> None:
    notes = f'[{{"at":0,"beats":{beats},"midi":40,"velocity":1}}]'
    answer = client.post("/api/line/fit", content=f'{{"brief":{BRIEF},"notes":{notes}}}', headers=HEAD)
    assert "beats" in _refused(answer)


@pytest.mark.parametrize("level", ["NaN", "Infinity", "-1e308", "100.1"])
def test_levels_that_are_none_are_refused(client: TestClient, level: str) -> None:
    _refused(client.post("/api/takes/groups", content=f'{{"levels_dbfs":[{level},-3]}}', headers=HEAD))


@pytest.mark.parametrize("id", [2**63, 2**80, -1])
def test_ids_that_no_row_can_have_are_refused(client: TestClient, id: int) -> None:
    for method, path in (
        ("GET", f"/api/tracks/{id}"), ("DELETE", f"/api/shapes/{id}"), ("GET", f"/api/tracks/{id}/versions"),
        ("GET", f"/api/tracks/1/versions/{id}/as-kept"), ("POST", f"/api/tracks/1/undo?based_on={id}"),
    ):  # fmt: skip
        _refused(client.request(method, path))
    _refused(client.get(f"/api/tracks/{2**63 - 1}"), 404)


@pytest.mark.parametrize("path", ["/x%00y", "/" + "a/" * 4000, "/assets/%1f", "/%e2%80%ae"])
def test_paths_that_no_file_has_are_not_found(client: TestClient, path: str) -> None:
    _refused(client.get(path), 404)


@pytest.mark.parametrize("name", ["\u200b\u200b", "\u2060", "\u00ad", " \u3164 ", "\u202e\u202c", "\u2800"])
def test_names_that_cannot_be_seen_are_refused(client: TestClient, name: str) -> None:
    assert "a letter that can be seen" in _refused(client.post("/api/tracks", json={"name": name}))
    new = {"name": name, "like": "main", "based_on": 1}
    assert "a letter that can be seen" in _refused(client.post("/api/tracks/1/sections", json=new))
    assert client.post("/api/tracks", json={"name": name + "ф"}).status_code == 201


@pytest.mark.parametrize("signature", [(9, 0), (200, 1), (0, 7), (127, 255)])
def test_a_midi_file_with_an_odd_key_signature_is_read_without_it(
    client: TestClient, signature: tuple[int, int]
) -> None:
    file = mido.MidiFile()
    track = mido.MidiTrack([
        mido.MetaMessage("key_signature", key="C"), mido.Message("note_on", note=40, velocity=90),
        mido.Message("note_off", note=40, time=480),
    ])  # fmt: skip
    file.tracks.append(track)
    out = io.BytesIO()
    file.save(file=out)
    data = out.getvalue()
    odd = data.replace(b"\xff\x59\x02\x00\x00", b"\xff\x59\x02" + bytes(signature))
    assert odd != data
    read = client.post("/api/line/read?name=odd.mid", content=odd).json()
    assert read["key"] is None
    assert read["tracks"][0]["notes"][0]["midi"] == 40
    assert client.post("/api/line/read?name=even.mid", content=data).json()["key"] == "C"
