"""Tracks of a studio: listed, duplicated, deleted, brought back, and the history of each."""

import pytest
from starlette.testclient import TestClient


def _save(client: TestClient, track: dict, **brief: object) -> dict:  # type: ignore[type-arg]
    state = track["state"] | {"brief": track["state"]["brief"] | brief}
    save = {"state": state, "section": track["section"], "based_on": track["revision"]}
    answer = client.put(f"/api/tracks/{track['id']}/state", json=save)
    assert answer.status_code == 200
    return answer.json()  # type: ignore[no-any-return]


def test_a_track_begins_in_its_key_or_as_an_invented_one(client: TestClient) -> None:
    made = client.post("/api/tracks", json={"name": "Own", "brief": {"bpm": 97.0, "tonic": "D"}}).json()
    assert (made["state"]["brief"]["bpm"], made["state"]["brief"]["tonic"]) == (97.0, "D")
    assert (made["main"], [one["name"] for one in made["sections"]]) == ("main", ["drop"])
    for name in ("Stonefruit", "Stonefruit 2"):
        demo = client.post("/api/tracks/demo", json={"name": "Stonefruit"})
        assert demo.status_code == 201
        assert demo.json()["name"] == name
        assert len(demo.json()["sections"]) == 2
    assert client.post("/api/tracks/demo", json={"name": "Something"}).status_code == 422
    assert client.post("/api/tracks", json={"name": "Own", "brief": {"bpm": 0}}).status_code == 422


def test_the_history_names_every_step_and_goes_to_any(client: TestClient) -> None:
    track = client.post("/api/tracks", json={"name": "One"}).json()
    changed = _save(client, _save(client, track, bpm=120.0), mode="major")
    address = f"/api/tracks/{track['id']}/history"
    steps = client.get(address).json()
    assert [step["what"] for step in steps] == [
        "brief: mode minor → major",
        "brief: tempo 128 → 120 BPM",
        "",
    ]
    first = client.post(f"{address}/{steps[2]['revision']}?based_on={changed['revision']}").json()
    assert (first["state"], first["can_redo"]) == (track["state"], True)
    # Another tab that does not know of it is told so.
    stale = client.post(f"{address}/{steps[1]['revision']}?based_on={changed['revision']}")
    assert stale.status_code == 409
    assert client.post(f"{address}/99999?based_on={first['revision']}").status_code == 404


def test_what_is_deleted_is_gone_from_every_address_until_it_is_back(client: TestClient) -> None:
    track = client.post("/api/tracks", json={"name": "One"}).json()
    address = f"/api/tracks/{track['id']}"
    assert client.delete(address).status_code == 204
    assert client.get("/api/tracks").json() == []
    assert [one["name"] for one in client.get("/api/tracks?deleted=true").json()] == ["One"]
    for asked in (client.get(address), client.get(f"{address}/history"), client.delete(address)):
        assert asked.status_code == 404
    assert client.post(f"{address}/undelete").json()["state"] == track["state"]
    assert client.get(address).status_code == 200
    assert client.post("/api/tracks/99/undelete").status_code == 404


def test_a_copy_is_as_the_track_is_and_has_its_own_way(client: TestClient) -> None:
    track = _save(client, client.post("/api/tracks", json={"name": "One"}).json(), bpm=111.0)
    copy = client.post(f"/api/tracks/{track['id']}/copy").json()
    assert (copy["name"], copy["state"], copy["can_undo"]) == ("One 2", track["state"], False)
    _save(client, copy, bpm=99.0)
    assert client.get(f"/api/tracks/{track['id']}").json()["state"]["brief"]["bpm"] == 111.0


def test_a_version_is_deleted_and_comes_back(client: TestClient) -> None:
    track = client.post("/api/tracks", json={"name": "One"}).json()
    address = f"/api/tracks/{track['id']}/versions"
    keep = {"section": track["section"], "state": track["state"], "note": "first"}
    kept = client.post(address, json=keep).json()
    assert client.delete(f"{address}/{kept['id']}").status_code == 204
    assert client.get(address).json()["versions"] == []
    assert client.post(f"{address}/{kept['id']}/undelete").json()["note"] == "first"
    assert len(client.get(address).json()["versions"]) == 1


def test_5000_tracks_are_listed_without_reading_any(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    from juglant.store import tracks
    from juglant.store.database import Studio

    studio: Studio = client.app.state.desk.studio  # type: ignore[attr-defined]
    with studio.changing() as db:
        for n in range(5000):
            tracks.create(db, f"Track {n}", "{}")
    monkeypatch.setattr(tracks, "unpack", lambda _: pytest.fail("a state was read"))
    assert len(client.get("/api/tracks").json()) == 5000


def test_the_studio_says_what_it_weighs(client: TestClient) -> None:
    weight = client.get("/api/tracks/weight").json()
    assert weight["file"] > 0
    assert weight["sounds"] == 0
