"""Drawn curves and the user's own shapes over HTTP."""

from typing import Any

import pytest
from fastapi.testclient import TestClient

from juglant.core.recipes.duck import DuckRecipe
from juglant.demo.scenario import COBNUT

DOWN_AND_UP: list[dict[str, float]] = [
    {"at_ms": 0, "share": 0, "bend": 0}, {"at_ms": 5, "share": 1, "bend": 0.4},
    {"at_ms": 125, "share": 0, "bend": 0},
]  # fmt: skip


def _keep(client: TestClient, name: str, points: list[dict[str, float]] | None = None) -> Any:
    body = {"name": name, "bpm": 120, "points": DOWN_AND_UP if points is None else points}
    return client.post("/api/shapes", json=body)


def test_a_shape_is_kept_for_every_track_at_its_tempo_and_forgotten(client: TestClient) -> None:
    assert client.get("/api/shapes?bpm=120").json() == []
    kept = _keep(client, " Swell ")
    assert kept.status_code == 201
    assert [one["name"] for one in kept.json()] == ["Swell"]
    faster = client.get("/api/shapes?bpm=150").json()[0]
    assert [point["at_ms"] for point in faster["points"]] == [0, 4, 100]
    assert faster["bpm"] == 120
    assert client.delete(f"/api/shapes/{faster['id']}").status_code == 204
    assert client.get("/api/shapes?bpm=120").json() == []
    gone = client.delete(f"/api/shapes/{faster['id']}")
    assert gone.status_code == 404
    assert "no such shape" in gone.json()["detail"]


def test_a_name_that_is_taken_overwrites_nothing(client: TestClient) -> None:
    _keep(client, "Swell")
    again = _keep(client, "swell", [*DOWN_AND_UP[:2], {"at_ms": 300, "share": 0, "bend": 0}])
    assert again.status_code == 422
    assert again.json()["field"] == "name"
    assert "already" in again.json()["detail"]
    assert client.get("/api/shapes?bpm=120").json()[0]["points"][-1]["at_ms"] == 125


@pytest.mark.parametrize("points", [[], DOWN_AND_UP[:2], [*DOWN_AND_UP[:2], DOWN_AND_UP[1]]])
def test_what_is_no_curve_is_not_kept(client: TestClient, points: list[dict[str, float]]) -> None:
    refused = _keep(client, "None", points)
    assert refused.status_code == 422
    assert "drawn curve" in refused.json()["detail"]


def test_dials_are_drawn_looked_at_and_set_beside_what_is_needed(client: TestClient) -> None:
    duck = DuckRecipe(depth_db=12.0, lookahead_ms=5.0).model_dump()
    drawn = client.post("/api/duck/draw", json=duck).json()
    assert len(drawn["points"]) >= 4
    curve = client.post("/api/duck/curve", json=drawn).json()
    assert max(curve["share"]) == 1.0
    assert curve["share"][-1] == 0.0
    assert curve["step_ms"] * (len(curve["share"]) - 1) == pytest.approx(drawn["points"][-1]["at_ms"])
    assert curve["most_points"] >= len(drawn["points"])
    needed = client.post("/api/duck/needed", json=COBNUT.model_dump(mode="json")).json()
    assert len(needed) == int(60000 / COBNUT.brief.bpm)
    assert max(needed) > 6
    assert min(needed) == 0
