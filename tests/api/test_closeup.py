"""A stretch of the loop, or of a hit, from near."""

import numpy as np
import pytest
from fastapi.testclient import TestClient

from juglant.core.measure.closeup import extremes
from juglant.core.recipes.track import TrackState

STATE = TrackState().model_dump(mode="json")


def _loop(client: TestClient, from_ms: float, to_ms: float) -> dict:  # type: ignore[type-arg]
    answer = client.post("/api/closeup/loop", json={"state": STATE, "from_ms": from_ms, "to_ms": to_ms})
    assert answer.status_code == 200, answer.text
    return dict(answer.json())


def test_columns_hold_the_lowest_and_the_highest_sample_and_all_of_them() -> None:
    x = np.random.default_rng(1).standard_normal(4801)
    low, high = extremes(x, 100)
    assert low.size == high.size == 100
    assert (low.min(), high.max()) == (x.min(), x.max())
    assert all(np.array_equal(one, x[:50]) for one in extremes(x[:50], 100))


def test_a_cycle_of_the_loop_is_its_samples_and_all_of_it_fits_a_screen(client: TestClient) -> None:
    near = _loop(client, 10.0, 30.0)
    assert len(near["kick_wave"]["low"]) == 960
    assert near["kick_wave"]["low"] == near["kick_wave"]["high"]
    assert len(near["kick_db"]) == 20
    whole = _loop(client, 0.0, 400_000.0)
    assert len(whole["kick_wave"]["low"]) == 1200
    assert whole["to_ms"] == pytest.approx(4 * 4 * 60_000 / STATE["brief"]["bpm"], rel=1.0)
    assert max(whole["kick_db"]) >= max(near["kick_db"])


def test_a_hit_from_near_is_its_own_wave(client: TestClient) -> None:
    question = {"brief": STATE["brief"], "hit": STATE["parts"][0], "from_ms": 0.0, "to_ms": 5.0}
    wave = client.post("/api/closeup/hit", json=question).json()["wave"]
    assert len(wave["low"]) == 240
    assert max(wave["high"]) > 0.05


@pytest.mark.parametrize(("from_ms", "to_ms"), [(20.0, 20.0), (-1.0, 5.0), (399_000.0, 400_000.0)])
def test_what_is_no_stretch_of_it_is_refused(client: TestClient, from_ms: float, to_ms: float) -> None:
    answer = client.post("/api/closeup/loop", json={"state": STATE, "from_ms": from_ms, "to_ms": to_ms})
    assert answer.status_code == 422
    late = {"brief": STATE["brief"], "hit": STATE["parts"][0], "from_ms": from_ms, "to_ms": to_ms}
    assert client.post("/api/closeup/hit", json=late).status_code == 422
