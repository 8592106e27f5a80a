"""The low end solved as a whole over the wire: degrees, locks, steps left out, stopped."""

import time
from typing import Any

from starlette.testclient import TestClient

from juglant.core.recipes.track import TrackState
from juglant.demo.scenario import TRACKS

STATE = TRACKS["Cobnut Rain"]


def _solved(client: TestClient, **question: Any) -> dict[str, Any]:
    asked = {"state": STATE.model_dump(mode="json"), **question}
    job = client.post("/api/whole", json=asked).json()
    for _ in range(1200):
        found = next(one for one in client.get("/api/jobs").json() if one["id"] == job["id"])
        if found["state"] not in ("running", "waiting"):
            assert found["state"] == "done", found
            return dict(client.get(f"/api/whole/{job['id']}").json())
        time.sleep(0.1)
    raise AssertionError("it never ended")


def test_degrees_go_from_as_it_is_to_clear_and_a_step_that_is_left_out_is_not_taken(
    client: TestClient,
) -> None:
    degrees = _solved(client)["degrees"]
    assert degrees[0]["steps"] == []
    assert TrackState.model_validate(degrees[0]["state"]) == STATE
    # Ordered by change, and by how much is open yet.
    changes = [one["change"] for one in degrees]
    assert changes == sorted(changes)
    left = [len(one["left"]) for one in degrees]
    assert left[-1] == min(left) < left[0]
    first = degrees[-1]["steps"][0]
    out = {"finding": first["finding"], "way": first["way"]}
    again = _solved(client, without=[out])["degrees"]
    taken = [(step["finding"], step["way"]) for one in again for step in one["steps"]]
    assert (first["finding"], first["way"]) not in taken


def test_what_is_locked_stays_as_it_is(client: TestClient) -> None:
    kick = STATE.kick.id
    for one in _solved(client, locks=[kick])["degrees"]:
        state = TrackState.model_validate(one["state"])
        assert state.kick == STATE.kick
        assert state.separate.kick == STATE.separate.kick


def test_a_job_that_is_something_else_has_no_degrees(client: TestClient) -> None:
    assert client.get("/api/whole/1").status_code == 404
