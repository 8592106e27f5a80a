"""The log: what changed in words, parts brought back, marks, notes, days, and all of it as Markdown."""

import io
import zipfile
from typing import Any

import pytest
from starlette.testclient import TestClient

from juglant.core.recipes.track import TrackState


def _begun(client: TestClient) -> dict[str, Any]:
    return dict(client.post("/api/tracks", json={"name": "Hull"}).json())


def _changed(client: TestClient, track: dict[str, Any], state: TrackState) -> dict[str, Any]:
    save = {
        "section": track["section"], "state": state.model_dump(mode="json"), "based_on": track["revision"],
    }  # fmt: skip
    return dict(client.put(f"/api/tracks/{track['id']}/state", json=save).json())


def _keep(client: TestClient, track: dict[str, Any], note: str = "") -> dict[str, Any]:
    keep = {"section": track["section"], "state": track["state"], "note": note}
    return dict(client.post(f"/api/tracks/{track['id']}/versions", json=keep).json())


def _louder(state: TrackState, level_db: float, id: str = "kick") -> TrackState:
    return state.with_part(state.hit(id).model_copy(update={"level_db": level_db}))


def test_a_version_says_what_changed_since_the_one_before(client: TestClient) -> None:
    track = _begun(client)
    first = _keep(client, track, "begun")
    assert first["changed"] == []
    assert [one["name"] for one in first["numbers"]][-2:] == ["loudness", "true peak"]
    assert len(first["kick_db"]) == len(first["bass_db"]) == 32
    state = _louder(TrackState.model_validate(track["state"]), -2.0)
    track = _changed(client, track, state)
    second = _keep(client, track, "softer kick")
    assert second["changed"] == ["Kick: hit level 0 → −2 dB"]
    listed = client.get(f"/api/tracks/{track['id']}/versions").json()["versions"]
    assert listed == [second, first]


def test_one_part_of_a_version_comes_back_and_the_rest_stays(client: TestClient) -> None:
    track = _begun(client)
    kept = _keep(client, track)
    state = _louder(TrackState.model_validate(track["state"]), -2.0)
    brief = state.brief.model_copy(update={"bpm": 101.0})
    track = _changed(client, track, state.model_copy(update={"brief": brief}))
    address = f"/api/tracks/{track['id']}/versions/{kept['id']}"
    back = {"part": "kick", "section": track["section"], "based_on": track["revision"]}
    now = client.post(f"{address}/part", json=back).json()
    found = TrackState.model_validate(now["state"])
    assert found.kick.level_db == 0.0
    assert found.brief.bpm == 101.0
    undone = client.post(f"/api/tracks/{track['id']}/undo?based_on={now['revision']}").json()
    assert TrackState.model_validate(undone["state"]).kick.level_db == -2.0
    missing = client.post(
        f"{address}/part", json={**back, "part": "nobody", "based_on": undone["revision"]}
    )
    assert "no such part in this version" in missing.json()["detail"]
    stale = client.post(f"{address}/part", json={**back, "based_on": now["revision"]})
    assert stale.status_code == 409


def test_a_part_that_is_gone_comes_back_behind_the_others(client: TestClient) -> None:
    track = client.post("/api/tracks/demo", json={"name": "Green Husk"}).json()
    kept = _keep(client, track)
    state = TrackState.model_validate(track["state"])
    without = [part for part in state.parts if part.id != "low-tom"]
    fewer = TrackState.model_validate({**state.model_dump(), "parts": without})
    track = _changed(client, track, fewer)
    back = {"part": "low-tom", "section": track["section"], "based_on": track["revision"]}
    now = client.post(f"/api/tracks/{track['id']}/versions/{kept['id']}/part", json=back).json()
    assert now["state"]["parts"][-1]["id"] == "low-tom"


def test_a_ducking_comes_back_alone(client: TestClient) -> None:
    track = client.post("/api/tracks/demo", json={"name": "Green Husk"}).json()
    kept = _keep(client, track)
    state = TrackState.model_validate(track["state"])
    hats = state.duckings[1]
    track = _changed(client, track, state.model_copy(update={"duckings": (state.duckings[0],)}))
    back = {"part": hats.id, "section": track["section"], "based_on": track["revision"]}
    now = client.post(f"/api/tracks/{track['id']}/versions/{kept['id']}/part", json=back).json()
    assert [one["id"] for one in now["state"]["duckings"]] == [state.duckings[0].id, hats.id]


def test_a_version_is_heard_as_any_of_its_sections(client: TestClient) -> None:
    track = client.post("/api/tracks/demo", json={"name": "Stonefruit"}).json()
    kept = _keep(client, track)
    address = f"/api/tracks/{track['id']}/versions/{kept['id']}/state"
    main, intro = client.get(address).json(), client.get(f"{address}?section=intro").json()
    assert main != intro
    assert client.get(f"{address}?section=nowhere").json() == main


def test_stars_and_tags_are_kept_with_a_version(client: TestClient) -> None:
    track = _begun(client)
    kept = _keep(client, track, "sent")
    address = f"/api/tracks/{track['id']}/versions"
    marked = client.put(f"{address}/{kept['id']}/mark", json={"star": True, "tags": "club, v1"}).json()
    assert (marked["star"], marked["tags"]) == (True, "club, v1")
    assert client.put(f"{address}/{kept['id']}/mark", json={"star": True}).json() == marked
    assert client.get(address).json()["versions"] == [marked]
    _keep(client, track, "100 % loud")
    for asked, notes in (
        ("starred=true", ["sent"]), ("find=CLUB", ["sent"]), ("find=%25%20lo", ["100 % loud"]),
        ("find=_", []), ("find=loud&starred=true", []), ("find=%20", ["100 % loud", "sent"]),
    ):  # fmt: skip
        listed = client.get(f"{address}?{asked}").json()["versions"]
        assert [one["note"] for one in listed] == notes, asked
    # What is kept stays as it was.
    assert {**marked, "star": False, "tags": ""} == kept
    assert client.put(f"{address}/{kept['id']}/mark", json={"tags": 201 * "x"}).status_code == 422


def test_notes_are_tied_to_the_state_they_were_written_in(client: TestClient) -> None:
    track = _begun(client)
    address = f"/api/tracks/{track['id']}/entries"
    note = client.post(address, json={"note": "the tail is too long in the break"}).json()
    assert note["revision"] == track["revision"]
    blind = client.post(address, json={"note": "12 of 16 right", "kind": "blind"}).json()
    assert client.get(address).json() == [blind, note]
    assert client.delete(f"{address}/{note['id']}").status_code == 204
    assert client.get(address).json() == [blind]
    assert client.post(address, json={"note": "  "}).status_code == 422
    assert client.post("/api/tracks/999/entries", json={"note": "x"}).status_code == 404


def test_a_day_is_told_in_numbers_before_and_after(client: TestClient) -> None:
    track = _begun(client)
    _changed(client, track, _louder(TrackState.model_validate(track["state"]), -2.0))
    address = f"/api/tracks/{track['id']}/days"
    [day] = client.get(address).json()
    told = client.get(f"{address}/{day}").json()
    assert told["changed"] == ["Kick: hit level 0 → −2 dB"]
    loudness = [
        {one["name"]: one["value"] for one in told[side]}["loudness"] for side in ("before", "after")
    ]
    assert loudness[1] < loudness[0]
    assert client.get(f"{address}/1999-01-01").status_code == 404


@pytest.mark.parametrize("name", ["Hull", "Nußschale/β"])
def test_the_whole_log_is_taken_along_as_markdown_with_its_pictures(client: TestClient, name: str) -> None:
    track = _begun(client)
    client.patch(f"/api/tracks/{track['id']}", json={"name": name})
    kept = _keep(client, track, "first *try*")
    client.put(f"/api/tracks/{track['id']}/versions/{kept['id']}/mark", json={"star": True})
    client.post(f"/api/tracks/{track['id']}/entries", json={"note": "sounds small"})
    packed = client.get(f"/api/tracks/{track['id']}/log.zip")
    archive = zipfile.ZipFile(io.BytesIO(packed.content))
    text = archive.read("log.md").decode()
    assert text.startswith(f"# Log of {name}\n")
    assert "★ first \\*try\\*" in text
    assert "sounds small" in text
    picture = f"pictures/{kept['id']}.svg"
    assert f"]({picture})" in text
    assert archive.read(picture).startswith(b"<svg ")
