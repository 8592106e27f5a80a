"""The Hits bench over HTTP: made, cut, shaped, layered, varied."""

import io
from typing import Any

import numpy as np
import pytest
import soundfile
from starlette.testclient import TestClient

from juglant.core.recipes.track import TrackState
from tests.files_made import KICK, written
from tests.tracks import written as written_state

STATE = TrackState().model_dump(mode="json")
BRIEF = STATE["brief"]


def _hit(*layers: dict[str, Any], **fields: Any) -> dict[str, Any]:
    return {"name": "Thing", "kind": "snare", "layers": list(layers), **fields}


def _sound(client: TestClient, **body: Any) -> tuple[np.ndarray, int]:
    response = client.post("/api/hits/sound", json={"brief": BRIEF, **body})
    assert response.status_code == 200, response.text
    return soundfile.read(io.BytesIO(response.content))  # type: ignore[no-any-return]


SNARE = {"source": {"kind": "snare", "recipe": {}}, "name": "tone"}
HAT = {"source": {"kind": "hat", "recipe": {}}, "name": "metal", "pan": 0.4, "offset_ms": 2.0}


def test_every_kind_has_starting_points_that_can_be_viewed(client: TestClient) -> None:
    starts = client.get("/api/hits/starts").json()
    assert set(starts) == {"kick", "808", "snare", "membrane", "clap", "hat", "percussion"}
    for kind, points in starts.items():
        source = next(iter(points.values()))
        hit = _hit({"source": source, "name": kind})
        view = client.post("/api/hits/view", json={"brief": BRIEF, "hit": hit}).json()
        assert view["hit"]["peak_dbfs"] == pytest.approx(source["recipe"]["level_db"], abs=0.1)
        assert len(view["usual"]) == 6


def test_a_hit_is_heard_whole_by_layer_and_by_stage(client: TestClient) -> None:
    hit = _hit(SNARE, HAT, chain=[{"stage": "drive", "drive_db": 18.0}])
    whole, rate = _sound(client, hit=hit)
    assert rate == 48_000
    assert whole.ndim == 2
    one, _ = _sound(client, hit=hit, layer=0)
    assert one.ndim == 1
    soft, _ = _sound(client, hit=hit, velocity=0.3)
    assert np.max(np.abs(soft)) < 0.6 * np.max(np.abs(whole))
    before, _ = _sound(client, hit=hit, ear={"stage": 0, "after": False})
    after, _ = _sound(client, hit=hit, ear={"stage": 0, "after": True})
    # Matched by loudness: driven, it is no louder than before.
    reports = client.post("/api/hits/stages", json={"brief": BRIEF, "hit": hit}).json()
    assert reports[0]["match_db"] < -1
    assert np.sqrt(np.mean(after**2)) == pytest.approx(np.sqrt(np.mean(before**2)), rel=0.25)
    high, _ = _sound(client, hit=_hit(SNARE), semitones=12.0)
    low, _ = _sound(client, hit=_hit(SNARE))
    assert not np.array_equal(high[:100], low[:100])


def test_layers_are_weighed_and_aligned_and_nothing_is_changed_by_it(client: TestClient) -> None:
    late = {**SNARE, "name": "late", "offset_ms": 7.25, "polarity": "inverted"}
    hit = _hit(SNARE, late)
    view = client.post("/api/hits/layers", json={"brief": BRIEF, "hit": hit}).json()
    assert [layer["layer"] for layer in view["layers"]] == [0, 1]
    assert view["cancellations"][0]["gain_db"] < -3
    found = client.post(
        "/api/hits/align", json={"brief": BRIEF, "hit": hit, "layer": 1, "against": 0}
    ).json()
    assert found["offset_ms"] == pytest.approx(0.0, abs=0.002)
    assert found["shift_ms"] == pytest.approx(-7.25, abs=0.002)
    assert found["inverted"] is False
    assert found["correlation"] == pytest.approx(1.0, abs=0.001)
    assert found["gain_db"]["boom"] > 0


@pytest.mark.parametrize(
    ("wrong", "said"),
    [
        ({"layer": 5, "against": 0}, "there is no layer 6"),
        ({"layer": 0, "against": 0}, "cannot be aligned with itself"),
        ({"layer": 1, "against": 0, "low_hz": 400.0, "high_hz": 100.0}, "must end above"),
    ],
)
def test_what_cannot_be_aligned_is_said(client: TestClient, wrong: dict[str, Any], said: str) -> None:
    response = client.post("/api/hits/align", json={"brief": BRIEF, "hit": _hit(SNARE, HAT), **wrong})
    assert response.status_code == 422
    assert said in response.json()["detail"]


def test_variations_have_pictures_and_numbers_and_a_file_has_none(client: TestClient) -> None:
    wish = {"brief": BRIEF, "source": SNARE["source"], "amount": 0.5, "seed": 3, "locked": ["Tone"]}
    found = client.post("/api/hits/scatter", json=wish).json()
    assert len(found) == 8
    assert {one["source"]["recipe"]["tone_hz"] for one in found} == {185.0}
    assert len({one["source"]["recipe"]["noise_ms"] for one in found}) > 1
    assert all(one["picture"]["envelope_db"] for one in found)
    file = {"kind": "imported", "audio": "a" * 64, "name": "x.wav"}
    response = client.post("/api/hits/scatter", json={**wish, "source": file})
    assert "no controls" in response.json()["detail"]


def test_a_recording_is_cut_measured_and_becomes_a_hit(client: TestClient) -> None:
    stored = client.post("/api/takes/workshop").json()
    assert stored["name"] == "simulated workshop.wav"
    # The same recording is stored once.
    assert client.post("/api/takes/workshop").json()["audio"] == stored["audio"]
    audio = stored["audio"]
    recording = {"audio": audio, "name": stored["name"]}
    takes = client.post("/api/takes/cut", json={"recording": recording, "brief": BRIEF}).json()
    assert len(takes) == 16
    assert {take["job"] for take in takes} >= {"kick", "hat"}
    assert all(take["reasons"] for take in takes)
    first = takes[0]
    moved = client.post(
        "/api/takes/measure",
        json={
            "audio": audio,
            "brief": BRIEF,
            "start_ms": first["start_ms"],
            "end_ms": first["end_ms"] - 60,
        },
    ).json()
    assert moved["length_ms"] == pytest.approx(first["length_ms"] - 60, abs=4)
    groups = client.post(
        "/api/takes/groups", json={"levels_dbfs": [take["level_dbfs"] for take in takes[:4]]}
    ).json()
    assert [len(group["takes"]) for group in groups] == [2, 1, 1]
    wave = client.post(
        "/api/takes/wave", json={"audio": audio, "from_ms": 0, "to_ms": 1000, "columns": 100}
    ).json()
    assert len(wave["lows"]) == len(wave["highs"]) == 100
    assert max(wave["highs"]) > 0.3
    layer = {
        "name": "take",
        "source": {
            "kind": "imported", "audio": audio, "name": "take 1",
            "start_ms": first["start_ms"], "end_ms": first["end_ms"],
        },
    }  # fmt: skip
    x, _ = _sound(client, hit=_hit(layer))
    assert x.size == pytest.approx(first["length_ms"] * 48, abs=2)
    track = client.post("/api/tracks", json={"name": "Crate"}).json()
    state = written_state(track["state"], hits=(_hit(layer),))
    saved = client.put(
        f"/api/tracks/{track['id']}/state",
        json={"state": state, "section": track["section"], "based_on": track["revision"]},
    )
    assert saved.status_code == 200
    files = client.get(f"/api/tracks/{track['id']}/handover").json()["files"]
    assert [file["name"] for file in files if "_hit_thing" in file["name"]]


def test_a_hit_of_a_file_that_was_never_imported_is_not_saved(client: TestClient) -> None:
    track = client.post("/api/tracks", json={"name": "One"}).json()
    layer = {"name": "x", "source": {"kind": "imported", "audio": "f" * 64, "name": "x.wav"}}
    state = written_state(track["state"], hits=(_hit(layer),))
    response = client.put(
        f"/api/tracks/{track['id']}/state",
        json={"state": state, "section": track["section"], "based_on": track["revision"]},
    )
    assert response.status_code == 404
    assert "never imported" in response.json()["detail"]


@pytest.mark.parametrize(
    "wrong",
    [
        _hit(),
        _hit(*[SNARE] * 9),
        _hit({**SNARE, "offset_ms": 900.0}),
        _hit({**SNARE, "job": "boss"}),
        _hit(SNARE, chain=[{"stage": "magic"}]),
        _hit(SNARE, chain=[{"stage": "level"}] * 13),
        _hit(
            {
                "name": "x",
                "source": {"kind": "imported", "audio": "a" * 64, "name": "x", "start_ms": 9, "end_ms": 3},
            }
        ),
    ],
)
def test_what_is_no_hit_is_refused_with_its_field(client: TestClient, wrong: dict[str, Any]) -> None:
    response = client.post("/api/hits/view", json={"brief": BRIEF, "hit": wrong})
    assert response.status_code == 422
    assert response.json()["field"].startswith("hit")


def test_two_hits_may_not_share_a_name(client: TestClient) -> None:
    track = client.post("/api/tracks", json={"name": "One"}).json()
    state = written_state(track["state"], hits=(_hit(SNARE),))
    state["parts"].append({**state["parts"][1], "id": "another"})
    response = client.put(
        f"/api/tracks/{track['id']}/state",
        json={"state": state, "section": track["section"], "based_on": track["revision"]},
    )
    assert response.status_code == 422
    assert "name of its own" in response.json()["detail"]


def test_an_imported_file_may_be_a_layer_beside_a_made_one(client: TestClient) -> None:
    stored = client.post("/api/audio", params={"name": "k.wav"}, content=written(KICK)).json()
    layer = {"name": "file", "source": {"kind": "imported", "audio": stored["audio"], "name": "k.wav"}}
    kick = {"name": "made", "source": {"kind": "kick", "recipe": {"end_hz": 57.0}}}
    answer = client.post(
        "/api/duck/answer", json={"state": written_state(STATE, kick=_hit(kick, layer, kind="kick"))}
    )
    assert answer.status_code == 200
    assert answer.json()["kick"]["hit"]["fundamental_hz"] == pytest.approx(57.0, abs=0.3)
