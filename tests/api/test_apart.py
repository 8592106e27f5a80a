"""A file taken apart over the API: a job, and what comes of it."""

from typing import Any

from starlette.testclient import TestClient

from juglant.core import RATE
from juglant.core.hits.making import made
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.hit import Hit, Imported, MadeKick
from tests.api.ended import ended
from tests.files_made import written
from tests.signals import noise

BRIEF = Brief().model_dump(mode="json")


def _hit(client: TestClient) -> dict[str, Any]:
    wav = written(made(MadeKick(), 120.0), RATE)
    audio = client.post("/api/audio?name=kick.wav", content=wav).json()["audio"]
    return Hit.of(Imported(audio=audio, name="kick.wav"), name="Kick").model_dump(mode="json")


def test_a_file_becomes_layers_that_sound_like_it(client: TestClient) -> None:
    hit = _hit(client)
    question = {"brief": BRIEF, "hit": hit, "layer": 0}
    job = client.post("/api/apart", json=question).json()
    assert ended(client, job)["state"] == "done"
    found = client.get(f"/api/apart/{job['id']}").json()
    assert [layer["name"] for layer in found["hit"]["layers"]][:2] == ["body", "click"]
    assert found["likeness"]["spectral_distance_db"] < 1.5
    # It can be heard at once: its samples are stored.
    assert client.post("/api/hits/sound", json={"brief": BRIEF, "hit": found["hit"]}).status_code == 200


def test_it_can_be_stopped_and_what_is_no_layer_is_refused(client: TestClient) -> None:
    hit = _hit(client)
    job = client.post("/api/apart", json={"brief": BRIEF, "hit": hit, "layer": 0}).json()
    client.post(f"/api/jobs/{job['id']}/stop")
    assert ended(client, job)["state"] in ("stopped", "done")
    assert client.post("/api/apart", json={"brief": BRIEF, "hit": hit, "layer": 3}).status_code == 422
    assert client.get("/api/apart/999999").status_code == 404


def test_what_has_no_tone_says_why(client: TestClient) -> None:
    x = noise(0.02)
    audio = client.post("/api/audio?name=short.wav", content=written(x, RATE)).json()["audio"]
    hit = Hit.of(Imported(audio=audio, name="short.wav"), name="Kick").model_dump(mode="json")
    job = ended(client, client.post("/api/apart", json={"brief": BRIEF, "hit": hit, "layer": 0}).json())
    assert job["state"] == "failed"
    assert job["said"]
