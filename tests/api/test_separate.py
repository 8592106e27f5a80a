"""Separate over HTTP: what is shown, and the search as a job."""

from fastapi.testclient import TestClient

from juglant.core.recipes.track import TrackState
from juglant.demo.scenario import COBNUT, HUSK
from tests.api.ended import ended, followed


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


def test_a_search_is_a_job_that_ends_with_choices_or_is_stopped(client: TestClient) -> None:
    state = COBNUT.model_dump(mode="json")
    job = client.post("/api/separate/search", json=state).json()
    # Asked for again meanwhile, it is the same one.
    assert client.post("/api/separate/search", json=state).json()["id"] == job["id"]
    done = [told["done"] for told in followed(client, job)]
    assert done == sorted(done)
    found = client.get(f"/api/separate/search/{job['id']}").json()
    last = found["choices"][-1]["tried"]
    taken = TrackState.model_validate(
        {**COBNUT.model_dump(), "separate": last["recipe"], "separate_for": found["solved_for"]}
    )
    view = client.post("/api/separate/view", json={"state": taken.model_dump(mode="json")}).json()
    assert view["now"]["overlap"]["collision_share"] < view["plain"]["overlap"]["collision_share"]

    other = client.post("/api/separate/search", json=HUSK.model_dump(mode="json")).json()
    client.post(f"/api/jobs/{other['id']}/stop")
    told = ended(client, other)
    assert (told["state"], told["said"]) == ("stopped", "It was stopped.")
    assert client.get(f"/api/separate/search/{other['id']}").status_code == 404


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
