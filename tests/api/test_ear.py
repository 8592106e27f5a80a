"""The ear trainer over the wire: asked, heard, answered once, kept by skill."""

import io

import soundfile
from starlette.testclient import TestClient

from juglant.core.recipes.track import TrackState

STATE = TrackState().model_dump(mode="json")


def test_a_question_is_heard_and_answered_once_and_its_skill_goes_on_from_there(client: TestClient) -> None:
    skills = {one["id"]: one for one in client.get("/api/ear").json()}
    assert list(skills) == ["note", "cents", "ducking", "late", "polarity", "band"]
    assert skills["cents"]["answered"] == 0
    asked = client.post("/api/ear/cents/ask", json=STATE).json()
    assert asked["difference"] == skills["cents"]["difference"] == 200.0
    assert "right" not in asked
    for n in range(len(asked["sounds"])):
        x, rate = soundfile.read(io.BytesIO(client.get(f"/api/ear/questions/{asked['id']}/{n}").content))
        assert rate == 48_000
        assert len(x) > 1000
    assert client.get(f"/api/ear/questions/{asked['id']}/9").status_code == 404
    told = client.post(f"/api/ear/questions/{asked['id']}", json={"answer": 0}).json()
    assert told["right"] is (told["was"] == asked["answers"][0])
    assert told["skill"]["answered"] == 1
    again = client.post(f"/api/ear/questions/{asked['id']}", json={"answer": 0})
    assert again.status_code == 404
    assert "answered already" in again.json()["detail"]
    kept = {one["id"]: one for one in client.get("/api/ear").json()}
    assert kept["cents"] == told["skill"]
    assert kept["band"] == skills["band"]
    assert client.delete("/api/ear/cents").status_code == 204
    assert client.get("/api/ear").json()[1] == skills["cents"]


def test_an_unknown_skill_and_an_odd_answer_are_refused(client: TestClient) -> None:
    assert client.post("/api/ear/smell/ask", json=STATE).status_code == 422
    asked = client.post("/api/ear/late/ask", json=STATE).json()
    assert client.post(f"/api/ear/questions/{asked['id']}", json={"answer": -1}).status_code == 422
    # What was refused is still to be answered.
    assert client.post(f"/api/ear/questions/{asked['id']}", json={"answer": 1}).status_code == 200
