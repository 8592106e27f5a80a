"""A stretch of a file that is too long, over the server."""

import io

import numpy as np
import pytest
import soundfile
from starlette.testclient import TestClient

from tests.files_made import written


def test_a_file_that_is_too_long_is_drawn_heard_and_cut(client: TestClient) -> None:
    x = np.full((75 * 8_000, 2), 1e-3)
    x[70 * 8_000 :] = np.random.default_rng(1).uniform(-0.5, 0.5, (5 * 8_000, 2))
    data = written(x, 8_000)
    refused = client.post("/api/audio?name=jam.wav", content=data)
    assert refused.status_code == 422
    assert refused.json()["type"] == "urn:juglant:too-long"
    seen = client.post("/api/audio/outline?name=jam.wav", content=data).json()
    assert (round(seen["seconds"], 6), seen["most_s"]) == (75.0, 60.0)
    assert np.argmax(np.array(seen["highs"]) > 0.1) == pytest.approx(70 / 75 * 600, abs=1)
    where = "name=jam.wav&from_s=70.5&seconds=2"
    heard = client.post(f"/api/audio/stretch?{where}", content=data)
    samples, rate = soundfile.read(io.BytesIO(heard.content))
    assert rate == 8_000
    assert np.allclose(samples, x[70_5 * 800 :][: 2 * 8_000], atol=1e-4)
    taken = client.post(f"/api/audio/cut?{where}", content=data)
    assert taken.status_code == 201
    assert (taken.json()["name"], taken.json()["seconds"], taken.json()["channels"]) == ("jam.wav", 2.0, 2)


@pytest.mark.parametrize("way", ["outline", "stretch", "cut"])
def test_a_gigabyte_is_the_largest(client: TestClient, way: str) -> None:
    address = f"/api/audio/{way}?name=a.wav&from_s=0&seconds=1"
    for length, status in ((2**30, 422), (2**30 + 1, 413)):
        # What is said of its length is judged before a byte of it comes.
        told = client.post(address, content=b"RIFF", headers={"Content-Length": str(length)})
        assert told.status_code == status, told.text
