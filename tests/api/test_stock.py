"""The stock as the page asks for it."""

import json
import time
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from juglant.api.app import create_app
from juglant.core.recipes.kick import KickRecipe
from juglant.core.synth.kick import render_kick
from juglant.store import keeping
from juglant.store.database import Studio
from tests.api.ended import ended
from tests.files_made import written
from tests.signals import RATE, noise


@pytest.fixture(scope="module")
def client(tmp_path_factory: pytest.TempPathFactory) -> TestClient:
    """A server whose stock holds four sounds and a file that is none."""
    root = tmp_path_factory.mktemp("served")
    sounds = root / "sounds"
    sounds.mkdir()
    for name, hz, decay_ms in (("one", 55.0, 250.0), ("two", 49.0, 700.0), ("three", 61.0, 300.0)):
        recipe = KickRecipe(end_hz=hz, decay_ms=decay_ms, length_ms=decay_ms + 100)
        (sounds / f"{name}.wav").write_bytes(written(render_kick(recipe, RATE, 126.0), RATE))
    (sounds / "hat.wav").write_bytes(written(noise(0.05) * 0.3, RATE))
    (sounds / "broken.wav").write_bytes(b"no sound")
    client = TestClient(create_app(Studio(root / "studio.sqlite")), base_url="http://127.0.0.1")
    job = client.post("/api/stock/folders", json={"path": str(sounds)}).json()
    assert job["sort"] == "scan"
    assert ended(client, job)["said"] == "4 of 5 files were measured, 1 cannot be read."
    return client


def _sounds(client: TestClient, **wish: Any) -> dict[str, Any]:
    found = client.post("/api/stock/find", json=wish)
    assert found.status_code == 200
    return {Path(one["path"]).stem: one for one in found.json()}


def _track(client: TestClient) -> Any:
    return client.post("/api/tracks", json={"name": "A track"}).json()


def _fits(client: TestClient, **question: Any) -> list[Any]:
    answer = client.post("/api/stock/fit", json=question)
    assert answer.status_code == 200
    return [json.loads(line) for line in answer.text.splitlines()]


def test_the_overview_tells_folders_kinds_and_troubles(client: TestClient) -> None:
    told = client.get("/api/stock").json()
    [folder] = told["folders"]
    assert (folder["sounds"], folder["troubled"], folder["away"]) == (4, 1, False)
    assert told["kinds"]["kick"] == 3
    assert "no sound file" in told["troubles"][0]["trouble"]


def test_sounds_are_found_and_marked(client: TestClient) -> None:
    assert set(_sounds(client, kind="kick", longest_ms=500.0)) == {"one", "three"}
    one = _sounds(client)["one"]
    assert one["note"] == "A1"
    assert len(one["picture_db"]) == 48
    given = {"stars": 3, "tags": ["Warm"], "comment": "mine"}
    kept = client.put(f"/api/stock/marks/{one['hash']}", json=given).json()
    assert kept == {"stars": 3, "tags": ["warm"], "comment": "mine"}
    assert set(_sounds(client, tags=["warm"])) == {"one"}
    assert set(_sounds(client, stars=4)) == set()
    assert next(iter(_sounds(client, like=one["hash"]))) == "one"
    state = _track(client)["state"]
    question = {"state": state, "part": state["parts"][0]["id"]}
    [first, *_] = _fits(client, **question, wish={"tags": ["warm"]})
    assert [sound["hash"] for sound in first["sounds"]] == [one["hash"]]
    [first, *_] = _fits(client, **question, wish={"like": one["hash"]})
    assert len(first["sounds"]) == 3
    assert client.get(f"/api/stock/numbers/{one['hash']}").json()["note"] == "A1"
    assert client.get(f"/api/stock/numbers/{'0' * 64}").status_code == 404


def test_fit_ranks_at_once_and_then_measures_in_the_loop(client: TestClient) -> None:
    state = _track(client)["state"]
    kick = state["parts"][0]["id"]
    lines = _fits(client, state=state, part=kick)
    assert len(lines[0]["sounds"]) == len(lines[0]["fits"]) == 3
    assert not any(one["measured"] for one in lines[0]["fits"])
    assert [line["left"] for line in lines] == [3, 2, 1, 0]
    assert all(line["fits"][0]["measured"] for line in lines[1:])
    refused = client.post("/api/stock/fit", json={"state": state, "part": kick, "weights": {"luck": 1.0}})
    assert refused.status_code == 422
    assert "no reason “luck”" in refused.json()["detail"]


def test_a_sound_is_tried_taken_filed_and_its_file_stays(client: TestClient) -> None:
    track = _track(client)
    state = track["state"]
    one = _sounds(client)["three"]
    question = {"state": state, "part": state["parts"][0]["id"], "hash": one["hash"]}
    tried = client.post("/api/stock/try", json=question).json()
    studio = client.app.state.desk.studio  # type: ignore[attr-defined]
    # What is tried is heard, and not kept.
    assert client.post("/api/sound/plan", json=tried["state"]).status_code == 200
    refused = client.post("/api/stock/filed", json={"what": "hit", "hit": tried["hit"]})
    assert refused.status_code == 404
    assert client.post(f"/api/stock/take/{one['hash']}").status_code == 204
    source = tried["hit"]["layers"][0]["source"]
    assert source["audio"] == one["hash"]
    assert tried["state"]["parts"][0] == tried["hit"]
    assert [part["id"] for part in tried["state"]["parts"]] == [part["id"] for part in state["parts"]]
    filed = client.post("/api/stock/filed", json={"what": "hit", "hit": tried["hit"]})
    assert filed.status_code == 201
    assert filed.json()["hit"]["layers"] == tried["hit"]["layers"]
    assert client.get("/api/stock/filed").json() == [filed.json()]
    with studio.changing() as db:
        db.execute("UPDATE audio SET made_at = '2000-01-01T00:00:00.000Z'")
    # No track has it, and yet it is used.
    assert keeping.cleared(studio) == 0
    assert client.delete(f"/api/stock/filed/{filed.json()['id']}").status_code == 204
    assert keeping.cleared(studio) > 0


def test_chains_and_patterns_are_filed_by_themselves(client: TestClient) -> None:
    hit = _track(client)["state"]["parts"][0]
    pattern = client.post("/api/stock/filed", json={"what": "pattern", "hit": hit}).json()
    assert pattern["pattern"] == {"steps": hit["steps"], "bars": hit["bars"]}
    refused = client.post("/api/stock/filed", json={"what": "chain", "hit": {**hit, "chain": []}})
    assert "has no chain" in refused.json()["detail"]


@pytest.mark.parametrize(
    ("path", "said"),
    [("sounds", "whole path"), ("/nowhere/at/all", "There is no folder")],
)
def test_a_folder_that_cannot_be_added_says_why(client: TestClient, path: str, said: str) -> None:
    answer = client.post("/api/stock/folders", json={"path": path})
    assert answer.status_code == 422
    assert said in answer.json()["detail"]


def test_a_job_waits_goes_on_and_stops(client: TestClient) -> None:
    from juglant.api.jobs import Job, Jobs, view

    jobs = Jobs()

    def work(job: Job) -> str:
        while not job.stop.is_set():
            if not job.wait.is_set():
                job.done += 1
            time.sleep(0.01)
        return "as far as it came"

    job = jobs.start("sort", "Something", work)
    assert jobs.start("sort", "Something", work) is job
    job.wait.set()
    assert view(job).state == "waiting"
    job.stop.set()
    while view(job).state in ("running", "waiting"):
        time.sleep(0.01)
    assert (view(job).state, view(job).said) == ("stopped", "as far as it came")
    assert client.post("/api/jobs/99999/stop").status_code == 404


def _told_within(client: TestClient, sounds: int) -> bool:
    for _ in range(400):
        [folder] = client.get("/api/stock").json()["folders"]
        if folder["sounds"] == sounds:
            return True
        time.sleep(0.05)
    return False


def test_a_watched_folder_is_looked_through_by_itself(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("juglant.stock.watching._RESTS_MS", 50)
    sounds = tmp_path / "sounds"
    sounds.mkdir()
    (sounds / "one.wav").write_bytes(written(noise(0.05), RATE))
    app = create_app(Studio(tmp_path / "studio.sqlite"))
    client = TestClient(app, base_url="http://127.0.0.1")
    ended(client, client.post("/api/stock/folders", json={"path": str(sounds)}).json())
    [folder] = client.get("/api/stock").json()["folders"]
    assert not folder["watched"]
    address = f"/api/stock/folders/{folder['id']}"
    assert client.put("/api/stock/folders/99", json={"watched": True}).status_code == 404
    assert client.put(address, json={"watched": True}).status_code == 204
    assert client.get("/api/stock").json()["folders"][0]["watched"]
    # The system needs a moment until it tells of changes.
    time.sleep(0.3)
    (sounds / "deep").mkdir()
    (sounds / "deep" / "two.wav").write_bytes(written(noise(0.06, seed=2), RATE))
    assert _told_within(client, 2)
    (sounds / "one.wav").unlink()
    assert _told_within(client, 1)
    # A server that is begun again goes on watching; what is not watched any more is left alone.
    app.state.watching.end()
    again = create_app(Studio(tmp_path / "studio.sqlite"))
    client = TestClient(again, base_url="http://127.0.0.1")
    assert client.get("/api/stock").json()["folders"][0]["watched"]
    time.sleep(0.3)
    (sounds / "three.wav").write_bytes(written(noise(0.07, seed=3), RATE))
    assert _told_within(client, 2)
    client.put(address, json={"watched": False})
    assert again.state.watching._paths == ()


def test_what_is_dropped_is_ranked_and_tried_without_being_in_the_stock(tmp_path: Path) -> None:
    client = TestClient(create_app(Studio(tmp_path / "studio.sqlite")), base_url="http://127.0.0.1")
    dropped = []
    for n, hz in enumerate((55.0, 49.0, 61.0)):
        recipe = KickRecipe(end_hz=hz, decay_ms=250.0 + 100 * n, length_ms=400.0 + 100 * n)
        data = written(render_kick(recipe, RATE, 126.0), RATE)
        # Two files of one name are two sounds.
        brought = client.post(f"/api/audio?name={'same' if n else 'first'}.wav", content=data).json()
        dropped.append({"audio": brought["audio"], "name": brought["name"]})
    assert client.post("/api/stock/dropped", json={"sounds": dropped}).status_code == 204
    assert client.post("/api/stock/dropped", json={"sounds": dropped[:1]}).status_code == 204
    assert _sounds(client) == {}
    hashes = [one["audio"] for one in dropped]
    found = client.post("/api/stock/find", json={"dropped": hashes}).json()
    assert sorted(one["path"] for one in found) == ["first.wav", "same.wav", "same.wav"]
    assert {one["kind"] for one in found} == {"kick"}
    # Of two drops each knows its own.
    assert len(client.post("/api/stock/find", json={"dropped": hashes[1:2]}).json()) == 1
    state = _track(client)["state"]
    first, *measured = _fits(client, state=state, part="kick", wish={"dropped": hashes})
    assert len(first["sounds"]) == len(measured) == 3
    assert all(one["fits"][0]["measured"] for one in measured)
    best = max((one["fits"][0] for one in measured), key=lambda one: one["fit"])["hash"]
    tried = client.post(
        "/api/stock/try", json={"state": state, "part": "kick", "hash": best, "tuned": True}
    )
    assert tried.json()["hit"]["layers"][0]["source"]["audio"] == best
    assert client.post(f"/api/stock/take/{best}").status_code == 204
    unknown = client.post("/api/stock/dropped", json={"sounds": [{"audio": "0" * 64, "name": "x"}]})
    assert unknown.status_code == 404
