"""Separate over HTTP: what is shown, and the search with its progress."""

import json

from fastapi.testclient import TestClient

from juglant.core.recipes.track import TrackState
from juglant.demo.scenario import COBNUT, HUSK


def test_the_step_shows_numbers_plan_phases_and_map(client: TestClient) -> None:
    state = COBNUT.model_dump(mode="json")
    view = client.post("/api/separate/view", json={"state": state, "bar": 1}).json()
    assert view["plain"] == view["now"]
    assert {"bass-highpass", "bass-cut", "kick-cut", "lift-4"} <= {one["id"] for one in view["proposals"]}
    assert [one["polarity"] for one in view["phases"]][1:] == ["normal", "inverted"]
    assert len(view["meeting"]["cells"]) == len(view["meeting"]["bands_hz"])
    state["separate"]["bass"]["highpass_hz"] = 300.0
    refused = client.post("/api/separate/view", json={"state": state})
    assert refused.status_code == 422
    assert "250" in refused.json()["detail"]


def test_a_search_tells_how_far_it_is_and_ends_with_choices(client: TestClient) -> None:
    with client.stream("POST", "/api/separate/solve", json=COBNUT.model_dump(mode="json")) as answer:
        lines = [json.loads(line) for line in answer.iter_lines()]
    assert len(lines) > 10
    assert [line["done"] for line in lines] == sorted(line["done"] for line in lines)
    assert all(line["choices"] is None for line in lines[:-1])
    last = lines[-1]["choices"][-1]["tried"]
    assert last["clear"] is True
    taken = TrackState.model_validate({**COBNUT.model_dump(), "separate": last["recipe"]})
    view = client.post("/api/separate/view", json={"state": taken.model_dump(mode="json")}).json()
    assert view["now"]["overlap"]["collision_share"] < view["plain"]["overlap"]["collision_share"]


def test_every_ducking_is_reported_and_the_curve_told_as_a_compressor(client: TestClient) -> None:
    state = HUSK.model_dump(mode="json")
    view = client.post("/api/duck/overview", json={"state": state, "bar": 1}).json()
    assert [report["heard"] for report in view["reports"]] == [True, True, True]
    assert {"kick", "shell", "bass", "mid"} <= set(view["triggers"])
    state["duckings"][1]["on"] = False
    view = client.post("/api/duck/overview", json={"state": state}).json()
    assert view["reports"][1]["heard"] is False
    for one in ("kick-and-bass", "mid"):
        found = client.post("/api/duck/compressor", json={"state": state, "ducking": one}).json()
        assert [one["settings"]["hold_ms"] > 0 for one in found] == [True, False]
    state["duckings"][1]["targets"] = [{"part": "nothing"}]
    refused = client.post("/api/duck/overview", json={"state": state}).json()
    assert "not in the track" in refused["detail"]
    unknown = client.post("/api/duck/solve", json={"state": HUSK.model_dump(mode="json"), "ducking": "x"})
    assert "no such ducking" in unknown.json()["detail"]
