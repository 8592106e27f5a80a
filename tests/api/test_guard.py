"""What the server refuses, and what it says with every answer."""

from typing import Any

import pytest
from starlette.testclient import TestClient

from tests.tracks import written

STATE = "/api/duck/answer"


@pytest.mark.parametrize("host", ["evil.example", "127.0.0.1.evil.example", "192.168.1.5:8137", ""])
def test_other_hosts_are_refused(client: TestClient, host: str) -> None:
    for address in ("/", "/api/tracks"):
        assert client.get(address, headers={"host": host}).status_code == 403


@pytest.mark.parametrize("host", ["127.0.0.1:8137", "localhost:8137", "[::1]:8137"])
def test_this_machine_is_served(client: TestClient, host: str) -> None:
    assert client.get("/api/tracks", headers={"host": host}).status_code == 200


def test_other_pages_cannot_change_anything(client: TestClient) -> None:
    for origin in ("https://evil.example", "null", "http://127.0.0.1:9999"):
        response = client.post("/api/tracks", json={"name": "x"}, headers={"origin": origin})
        assert response.status_code == 403
    own = client.post("/api/tracks", json={"name": "x"}, headers={"origin": "http://127.0.0.1:8137"})
    assert own.status_code == 201


def test_every_answer_carries_a_strict_policy(client: TestClient) -> None:
    for address in ("/", "/api/tracks", "/api/tracks/99"):
        policy = client.get(address).headers["content-security-policy"]
        assert "default-src 'none'" in policy
        assert "unsafe" not in policy
    assert client.get("/api/tracks").headers["cache-control"] == "no-store"


def test_pages_are_served_and_nothing_beside_them(client: TestClient) -> None:
    assert "Juglant" in client.get("/").text
    assert "Juglant" in client.get("/tracks/1/kick").text
    assert "immutable" in client.get("/assets/app-1.js").headers["cache-control"]
    for address in ("/../secret.txt", "/%2e%2e/secret.txt", "/assets/../../secret.txt"):
        assert "secret" not in client.get(address).text
    missing = client.get("/api/nothing")
    assert missing.status_code == 404
    assert missing.json()["detail"]


def test_a_body_must_say_its_length_and_keep_to_it(client: TestClient) -> None:
    big = client.post("/api/tracks", content=b" " * (1024 * 1024 + 1))
    assert big.status_code == 413
    chunked = client.post("/api/tracks", content=iter([b"{}"]))
    assert chunked.status_code == 422


@pytest.mark.parametrize(
    ("change", "field", "sentence"),
    [
        ({"brief": {"bpm": 300}}, "state.brief.bpm", "bpm must be at most 220"),
        # What is wrong with one ducking is all that is said: not that there is none left.
        ({"duck": {"depth_db": 48.1}}, "state.duckings.0.duck.depth_db", "depth db must be at most 48.0."),
        ({"brief": {"bpm": "fast"}}, "state.brief.bpm", "bpm is not usable"),
        ({"brief": {"mode": "blue"}}, "state.brief.mode", "mode must be one of"),
        ({"duck": {"wobble": 1}}, "state.duckings.0.duck.wobble", "wobble is not known here"),
        (
            {"kick": {"kind": "imported", "name": "x"}},
            "state.parts.0.hit.layers.0.source.imported.audio",
            "audio is missing",
        ),
        (
            {"kick": {"steps": [{"at": 1, "velocity": 2}]}},
            "state.parts.0.hit.steps.0.velocity",
            "at most 1",
        ),
        (
            {"stems": [{"name": "Pad", "audio": "a" * 64, "stages": [{"stage": "trim"}]}]},
            "state.parts.2.stem.stages",
            "trim works on a single stroke",
        ),
    ],
)
def test_a_wrong_value_is_named_with_its_place(
    client: TestClient, change: dict[str, Any], field: str, sentence: str
) -> None:
    response = client.post(STATE, json={"state": change})
    assert response.status_code == 422
    assert response.json()["field"] == field
    assert sentence in response.json()["detail"]
    assert "after validation" not in response.json()["detail"]


def test_json_that_is_none_and_numbers_that_are_none(client: TestClient) -> None:
    assert client.post(STATE, content=b"{not json").status_code == 422
    nan = client.post(STATE, content=b'{"state": {"brief": {"bpm": NaN}}}')
    assert nan.status_code == 422


def test_a_state_whose_sound_is_not_here_is_refused_and_not_saved(client: TestClient) -> None:
    track = client.post("/api/tracks", json={"name": "x"}).json()
    kick = {"kind": "imported", "audio": "0" * 64, "name": "gone.wav"}
    state = written(track["state"], kick=kick)
    save = {"state": state, "section": track["section"], "based_on": track["revision"]}
    assert client.put(f"/api/tracks/{track['id']}/state", json=save).status_code == 404
    answer = client.post(STATE, json={"state": state})
    assert answer.status_code == 404
    assert "never imported here" in answer.json()["detail"]


def test_an_error_of_its_own_is_a_problem_too(client: TestClient, monkeypatch: pytest.MonkeyPatch) -> None:
    from juglant.store import tracks

    def broken(_: object) -> list[tuple[int, str]]:
        raise RuntimeError

    monkeypatch.setattr(tracks, "everything", broken)
    response = client.get("/api/tracks")
    assert response.status_code == 500
    assert "what was saved is safe" in response.json()["detail"]
