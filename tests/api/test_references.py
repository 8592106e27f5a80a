"""References over the wire: brought in as a job, played, held against, taken away."""

import io
from typing import Any

import numpy as np
import pytest
import soundfile
from starlette.testclient import TestClient

from bench.tracks import clean
from juglant.core.lowend.session import Session
from juglant.core.rooms.judged import everything
from tests.api.ended import ended
from tests.signals import RATE, Array


def _file(seed: int = 3, turns: int = 5) -> bytes:
    track = clean("house", seed)
    x: Array = everything(Session(track.load), track.state).samples
    out = io.BytesIO()
    soundfile.write(out, 0.5 * np.concatenate([x] * turns), RATE, format="FLAC")
    return out.getvalue()


def _track(client: TestClient) -> dict[str, Any]:
    return dict(client.post("/api/tracks", json={"name": "One"}).json())


def test_a_record_is_measured_as_a_job_played_and_held_against_the_track(client: TestClient) -> None:
    track = _track(client)
    address = f"/api/references?track={track['id']}"
    job = client.post(f"{address}&name=A%20record.flac", content=_file()).json()
    assert ended(client, job)["said"] == "A record.flac is a reference now."
    [found] = client.get(address).json()
    assert found["name"] == "A record"
    assert found["record"]["kick_length_ms"] is not None
    sound = client.get(f"/api/references/{found['id']}/sound")
    channels = int(sound.headers["X-Channels"])
    samples = np.frombuffer(sound.content, "<f4").reshape(channels, -1)
    assert samples.shape[1] == found["frames"]
    assert found["frames"] / RATE * found["record"]["bpm"] / 60 == pytest.approx(found["beats"], rel=1e-3)

    # A passage of one's own choice begins there, on the next kick.
    job = client.post(f"{address}&name=Again.flac&from_s=4", content=_file()).json()
    assert ended(client, job)["state"] == "done"
    assert 4.0 <= client.get(address).json()[1]["from_s"] < 6.5
    late = client.post(f"{address}&name=Late.flac&from_s=500", content=_file()).json()
    assert "before the passage begins" in ended(client, late)["said"]
    client.delete(f"/api/references/{client.get(address).json()[1]['id']}")

    question = {"state": track["state"], "references": [found["id"]]}
    told = client.post("/api/references/against", json=question).json()
    assert told["differences"]
    assert all(one["sentence"] for one in told["differences"])
    tried = client.post("/api/references/nearer", json={**question, "name": "no_such_number"})
    assert "no difference" in tried.json()["detail"]

    assert client.delete(f"/api/references/{found['id']}").status_code == 204
    assert client.get(address).json() == []
    assert client.post("/api/references/against", json=question).status_code == 404


@pytest.mark.parametrize(
    ("data", "said"), [(b"", "empty"), (b"no sound at all", "is no"), (b"RIFF\0\0\0\0WAVE", "")]
)
def test_what_is_no_record_is_told_by_its_name_and_nothing_is_kept(
    client: TestClient, data: bytes, said: str
) -> None:
    track = _track(client)
    address = f"/api/references?track={track['id']}"
    job = client.post(f"{address}&name=odd.wav", content=data).json()
    told = ended(client, job)
    assert told["state"] == "failed"
    assert "odd.wav" in told["said"]
    assert said in told["said"]
    assert client.get(address).json() == []


def test_a_reference_of_no_track_is_refused_before_anything_is_read(client: TestClient) -> None:
    assert client.post("/api/references?track=99&name=x.wav", content=b"x").status_code == 404
