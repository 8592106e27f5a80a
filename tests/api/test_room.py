"""The room over the wire: places, what is heard there, own responses, fixes, hours."""

import io
from typing import Any

import numpy as np
import pytest
import soundfile
from numpy.typing import NDArray
from starlette.testclient import TestClient

from juglant.core.recipes.track import TrackState
from tests.signals import RATE, Array, noise

STATE = TrackState().model_dump(mode="json")
CLUB = {"room": "club"}
PHONE = {"room": "phone"}


def _wav(x: Array) -> bytes:
    out = io.BytesIO()
    soundfile.write(out, x, RATE, format="WAV", subtype="FLOAT")
    return out.getvalue()


def _heard(client: TestClient, room: dict[str, Any], **more: Any) -> dict[str, Any]:
    question = {"state": STATE, "room": room, "parts": ["kick", "bass"], **more}
    answer = client.post("/api/room/heard", json=question)
    assert answer.status_code == 200, answer.text
    return dict(answer.json())


def _sound(client: TestClient, key: str) -> NDArray[np.float32]:
    response = client.get(f"/api/sound/{key}")
    assert response.status_code == 200
    return np.frombuffer(response.content, "<f4").reshape(int(response.headers["X-Channels"]), -1)


def test_a_place_is_judged_with_its_response_and_its_numbers(client: TestClient) -> None:
    view = client.post("/api/room/view", json={"state": STATE, "room": CLUB}).json()
    assert len(view["response"]["hz"]) == len(view["response"]["db"]) == 181
    assert view["judged"]["there"]["kick_over_bass_db"] is not None
    assert view["judged"]["headroom"]["lufs"] == -10.0
    phone = client.post("/api/room/view", json={"state": STATE, "room": PHONE}).json()
    assert phone["judged"]["there"] is None


def test_what_is_heard_in_a_place_is_fetched_by_its_name_and_changes_with_its_controls(
    client: TestClient,
) -> None:
    first, again = _heard(client, CLUB), _heard(client, CLUB)
    assert first == again
    assert _sound(client, first["key"]).shape == (2, first["frames"])
    other = _heard(client, {**CLUB, "lowest_hz": 50.0})
    assert other["key"] != first["key"]
    assert _heard(client, PHONE, by="low band")["short"] is True
    assert _heard(client, CLUB, ducked=False)["key"] != first["key"]


def test_a_place_with_a_control_out_of_its_limits_is_refused_by_name(client: TestClient) -> None:
    inside = client.post("/api/room/response", json={"room": {**CLUB, "lowest_hz": 60.0}})
    assert inside.status_code == 200
    refused = client.post("/api/room/response", json={"room": {**CLUB, "lowest_hz": 60.1}})
    assert refused.status_code == 422
    assert "lowest_hz" in refused.text


def test_an_own_response_is_kept_heard_and_forgotten(client: TestClient) -> None:
    struck = np.zeros(4800)
    struck[0], struck[2400] = 1.0, 0.5
    kept = client.post("/api/room/responses?name=My%20garage.wav", content=_wav(struck)).json()
    assert [one["name"] for one in kept] == ["My garage"]
    place = {"room": "own", "audio": kept[0]["audio"], "name": "My garage"}
    heard = _sound(client, _heard(client, place, parts=["kick"])["key"])
    dry = _sound(client, _heard(client, {"room": "headphones", "bass_db": 0.0}, parts=["kick"])["key"])
    echoed = dry[0] + 0.5 * np.roll(dry[0], 2400)
    scale = float(np.dot(heard[0], echoed) / np.dot(echoed, echoed))
    assert np.abs(heard[0] - scale * echoed).max() < 1e-4 * np.abs(heard).max()
    assert client.post("/api/room/view", json={"state": STATE, "room": place}).status_code == 200
    taken = client.post("/api/room/responses?name=My%20garage.wav", content=_wav(struck))
    assert "already" in taken.json()["detail"]
    assert client.delete(f"/api/room/responses/{kept[0]['id']}").status_code == 204
    assert client.get("/api/room/responses").json() == []
    assert client.delete(f"/api/room/responses/{kept[0]['id']}").status_code == 404


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"", "empty"),
        (_wav(np.zeros(4800)), "silent"),
        (_wav(0.1 * noise(10.1)), "too long"),
        (b"RIFF", ""),
    ],
)
def test_what_is_no_response_is_refused_with_its_reason(client: TestClient, data: bytes, said: str) -> None:
    refused = client.post("/api/room/responses?name=x.wav", content=data)
    assert 400 <= refused.status_code < 500
    assert said in refused.json()["detail"]
    assert client.get("/api/room/responses").json() == []


def test_a_response_of_ten_seconds_is_taken(client: TestClient) -> None:
    long = 0.1 * noise(10.0) * np.linspace(1.0, 0.0, 10 * RATE)
    assert client.post("/api/room/responses?name=hall.wav", content=_wav(long)).status_code == 201


def test_a_fix_of_a_place_is_tried_with_the_place(client: TestClient) -> None:
    tried = client.post("/api/room/room-mono/fixes", json={"state": STATE, "room": CLUB})
    assert tried.json() == []
    refused = client.post("/api/room/room-mono/fix", json={"state": STATE, "room": CLUB})
    assert "no longer holds" in refused.json()["detail"]
    unknown = client.post("/api/room/room-nothing/fixes", json={"state": STATE, "room": CLUB})
    assert "no finding" in unknown.json()["detail"]


def test_hours_of_a_level_are_answered(client: TestClient) -> None:
    # NIOSH 98-126: 94 dBA for an hour.
    assert client.get("/api/room/exposure?dba=94").json()["hours_a_day"] == 1.0
    assert client.get("/api/room/exposure?dba=94&dbc=112").json()["low_heavy"] is True
    assert client.get("/api/room/exposure?dba=151").status_code == 422


def test_two_states_are_made_equally_loud_and_a_score_is_told(client: TestClient) -> None:
    loud = TrackState()
    soft = loud.with_part(loud.kick.model_copy(update={"level_db": -6.0}))
    gains = client.post("/api/compare/match", json={"a": STATE, "b": soft.model_dump(mode="json")}).json()
    assert gains["b_db"] == 0.0
    assert gains["a_db"] == pytest.approx(gains["b_lufs"] - gains["a_lufs"])
    assert gains["a_db"] < -0.5
    same = client.post("/api/compare/match", json={"a": STATE, "b": STATE}).json()
    assert same["a_db"] == same["b_db"] == 0.0
    # scipy's binomial test: 12 of 16 have p = 0.038, 11 of 16 have 0.105.
    assert client.get("/api/compare/score?right=12").json()["chance"] == pytest.approx(0.0384, abs=1e-4)
    assert "You hear" in client.get("/api/compare/score?right=12").json()["said"]
    assert "no proof" in client.get("/api/compare/score?right=11").json()["said"]
    assert client.get("/api/compare/score?right=17").status_code == 422
