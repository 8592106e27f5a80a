"""The order of work over HTTP, from a new track to the ZIP."""

import copy
import io
import zipfile
from typing import Any

import numpy as np
import pytest
import soundfile
from starlette.testclient import TestClient

from juglant.api import log
from juglant.core import ENGINE_VERSION
from juglant.core.lowend.sounded import sounded
from juglant.core.recipes.chain import STAGES
from juglant.core.recipes.hit import RECIPES
from juglant.core.recipes.room import ROOMS
from juglant.core.recipes.sections import Track
from juglant.core.recipes.track import TrackState
from juglant.demo.scenario import COBNUT
from juglant.store import versions
from tests.files_made import BAD, KICK, written
from tests.tracks import part
from tests.tracks import written as written_state

SHEETS = {
    "strokes", "move", "judging", "character", *(f"room:{name}" for name in ROOMS),
    "brief", "track", "bass", "played", "imported_bass", "rumble", "carve_kick", "carve_bass", "duck", "ducking", "target", "place", "output", "stem", "keyed", "hit", "layer", "velocity", "recording",
    *(f"source:{kind}" for kind in (*RECIPES, "imported")), *(f"stage:{name}" for name in STAGES),
}  # fmt: skip


def _track(client: TestClient, name: str = "One") -> dict[str, Any]:
    response = client.post("/api/tracks", json={"name": name})
    assert response.status_code == 201
    return dict(response.json())


def _import(client: TestClient, data: bytes, name: str) -> Any:
    return client.post("/api/audio", params={"name": name}, content=data)


def test_a_new_track_is_listed_opened_and_renamed(client: TestClient) -> None:
    assert client.get("/api/tracks").json() == []
    made = _track(client, "  Low Road ")
    (listed,) = client.get("/api/tracks").json()
    assert (listed["id"], listed["name"], listed["deleted_at"]) == (made["id"], "Low Road", None)
    assert client.get(f"/api/tracks/{made['id']}").json() == made
    assert (
        client.patch(f"/api/tracks/{made['id']}", json={"name": "High Road"}).json()["name"] == "High Road"
    )


def test_a_brief_has_its_times_its_notes_and_its_ladder(client: TestClient) -> None:
    brief = {"bpm": 120, "tonic": "Bb", "mode": "minor", "chord_roots": ["Bb", "Gb"]}
    facts = client.post("/api/brief/facts", json=brief).json()
    values = {value["value"]: value["ms"] for value in facts["note_values"]}
    assert values["1/8"] == 250
    assert values["1/16."] == pytest.approx(187.5)
    assert values["1/4t"] == pytest.approx(1000 / 3)
    assert len(values) == 18
    lows = {note["note"]: note for note in facts["low_notes"]}
    assert lows["Bb1"]["hz"] == pytest.approx(58.27, abs=0.01)
    assert lows["Bb1"]["is_tonic"]
    assert "E1" not in lows
    assert lows["Bb0"]["club_plays_it"] is False
    rungs = {rung["note"]: rung for rung in facts["ladder"]}
    assert rungs["Bb1"]["root_of_bars"] == [1]
    assert rungs["Gb1"]["root_of_bars"] == [2]
    assert not rungs["E1"]["in_key"]


def test_every_control_comes_with_its_limits_and_help(client: TestClient) -> None:
    sheets = client.get("/api/brief/controls").json()
    assert set(sheets) == SHEETS
    for sheet in sheets.values():
        for control in sheet["controls"]:
            assert control["low"] <= control["default"] <= control["high"]
            assert control["help"]
            assert control["label"]
    tempo = next(c for c in sheets["brief"]["controls"] if c["name"] == "bpm")
    assert (tempo["low"], tempo["high"], tempo["unit"]) == (40, 220, "BPM")


def test_the_kick_is_measured_and_heard(client: TestClient) -> None:
    state = _track(client)["state"]
    question = {"brief": state["brief"], "hit": part(state, "kick")}
    view = client.post("/api/hits/view", json=question).json()
    assert view["hit"]["fundamental_hz"] == pytest.approx(49, rel=1e-3)
    assert len(view["rungs_db"]) == len(
        client.post("/api/brief/facts", json=state["brief"]).json()["ladder"]
    )
    assert max(view["picture"]["envelope_db"]) == pytest.approx(view["hit"]["peak_dbfs"], abs=1.5)
    table = client.post("/api/tune/table", json={"state": state}).json()["hits"]
    assert table[0]["moves"][0]["note"] == "G1"
    x, rate = soundfile.read(io.BytesIO(client.post("/api/hits/sound", json=question).content))
    assert rate == 48_000
    assert 20 * np.log10(np.max(np.abs(x))) == pytest.approx(view["hit"]["peak_dbfs"], abs=0.01)


def test_a_dropped_kick_is_stored_measured_tuned_and_saved(client: TestClient) -> None:
    track = _track(client)
    response = _import(client, written(KICK, subtype="PCM_24"), r"C:\hits\..\found 🙂.wav")
    assert response.status_code == 201
    stored = response.json()
    assert stored["name"] == "found 🙂.wav"
    assert (stored["rate"], stored["channels"], stored["kind"]) == (44_100, 1, "WAV")
    kick = {"kind": "imported", "audio": stored["audio"], "name": stored["name"]}
    state = written_state(track["state"], kick=kick)
    tuned = client.post("/api/tune", json={"state": state, "id": "kick", "note": "A1"}).json()["state"]
    assert part(tuned, "kick")["layers"][0]["source"]["shift_semitones"] == pytest.approx(
        12 * np.log2(55 / 57), abs=0.02
    )
    answer = client.post("/api/duck/answer", json={"state": tuned}).json()
    assert answer["kick"]["hit"]["note"] == "A1"
    assert answer["kick"]["hit"]["cents"] == pytest.approx(0, abs=2)
    saved = client.put(
        f"/api/tracks/{track['id']}/state",
        json={"state": tuned, "section": track["section"], "based_on": track["revision"]},
    )
    assert saved.json()["state"] == tuned
    assert client.get(f"/api/tracks/{track['id']}").json()["state"] == tuned


def test_the_answer_has_a_bar_of_pictures_and_the_numbers_before_and_after(client: TestClient) -> None:
    state = _track(client)["state"]
    part(state, "bass")["bass"]["recipe"]["pattern"] = client.get("/api/line/patterns").json()[
        "with the kick"
    ]
    solved = client.post("/api/duck/solve", json={"state": state, "ducking": "kick-and-bass"}).json()
    assert solved["complete"]
    state["duckings"][0]["duck"] = solved["recipe"]
    answer = client.post("/api/duck/answer", json={"state": state, "bar": 1}).json()
    bar_ms = 4 * 60_000 / state["brief"]["bpm"]
    bar = answer["bar"]
    assert bar["from_ms"] == round(bar_ms)
    for curve in ("kick_db", "bass_db", "ducked_db", "gain_db"):
        assert len(bar[curve]) == pytest.approx(bar_ms, abs=2)
    assert min(bar["gain_db"]) == pytest.approx(answer["duck"]["depth_db"], abs=0.01)
    assert answer["after"]["collision_ms"] < 0.1 * answer["before"]["collision_ms"]
    assert sum(s["to_ms"] - s["from_ms"] for s in bar["collisions_before"]) == pytest.approx(
        4 * answer["before"]["collision_ms"], abs=40
    )
    matched = [answer[f"level_{side}"] for side in ("before", "after")]
    assert matched[0]["lufs"] + matched[0]["match_db"] == pytest.approx(
        matched[1]["lufs"] + matched[1]["match_db"]
    )
    assert max(level["match_db"] for level in matched) == 0


def _sound(client: TestClient, key: str) -> np.ndarray:
    answer = client.get(f"/api/sound/{key}")
    assert answer.status_code == 200, answer.json()
    assert "immutable" in answer.headers["cache-control"]
    return np.frombuffer(answer.content, "<f4").reshape(int(answer.headers["x-channels"]), -1)


def test_the_loop_is_heard_part_by_part_before_and_under_its_duckings(client: TestClient) -> None:
    state = _track(client)["state"]
    plan = client.post("/api/sound/plan", json=state).json()
    assert plan["frames"] == round(2 * 4 * 60 / state["brief"]["bpm"] * 48_000)
    kick, bass = plan["parts"]
    assert [(one["part"], one["side"]) for one in plan["parts"]] == [("kick", "kick"), ("bass", "bass")]
    assert kick["before"] == kick["heard"] != bass["heard"] != bass["before"]
    struck, plain, ducked = (_sound(client, key) for key in (kick["heard"], bass["before"], bass["heard"]))
    assert struck.shape == plain.shape == ducked.shape == (1, plan["frames"])
    assert np.max(np.abs(struck)) == pytest.approx(10 ** (-3 / 20), rel=0.01)
    assert (np.abs(ducked) <= np.abs(plain) + 1e-7).all()
    assert not np.array_equal(plain, ducked)


def test_a_change_names_only_the_sounds_anew_that_it_changes(client: TestClient) -> None:
    state = _track(client)["state"]
    kick, bass = client.post("/api/sound/plan", json=state).json()["parts"]
    state["duckings"][0]["duck"]["depth_db"] += 1.0
    same, ducked = client.post("/api/sound/plan", json=state).json()["parts"]
    assert same == kick
    assert ducked["before"] == bass["before"]
    assert ducked["heard"] != bass["heard"]


def test_a_sound_that_nobody_planned_is_refused(client: TestClient) -> None:
    answer = client.get(f"/api/sound/{'0' * 64}")
    assert answer.status_code == 422
    assert answer.json()["detail"] == "This sound is not planned any more: ask for a plan."
    assert client.get("/api/sound/nothing").status_code == 422


def test_a_finding_is_tried_before_it_is_taken(client: TestClient) -> None:
    track = _track(client)
    state = copy.deepcopy(track["state"])
    part(state, "kick")["layers"][0]["source"]["recipe"]["end_hz"] = 50.2
    found = client.post("/api/duck/answer", json={"state": state}).json()["findings"]
    off_key = next(finding for finding in found if finding["id"] == "off-key-kick")
    assert off_key["value"] == pytest.approx(1200 * np.log2(50.2 / 48.999), abs=1)
    effect = client.post("/api/findings/off-key-kick/fix", json=state).json()
    assert effect["before"] == off_key["value"]
    assert effect["after"] == pytest.approx(0, abs=2)
    assert "off-key-kick" in effect["closes"]
    assert client.get(f"/api/tracks/{track['id']}").json()["state"] == track["state"]


def test_undo_redo_and_versions_bring_everything_back(client: TestClient) -> None:
    track = _track(client)
    address = f"/api/tracks/{track['id']}"
    changed = written_state(track["state"], ducking=False)
    saved = client.put(
        f"{address}/state",
        json={"state": changed, "section": track["section"], "based_on": track["revision"]},
    ).json()
    kept = client.post(
        f"{address}/versions", json={"section": track["section"], "state": changed, "note": " no ducking "}
    ).json()
    assert kept["note"] == "no ducking"
    assert kept["said"] == "A minor, 128 BPM · kick G1 ±0.0 ¢ · collision 4 ms · not ducked"
    undone = client.post(f"{address}/undo?based_on={saved['revision']}").json()
    assert undone["state"] == track["state"]
    # A tab that does not know of this neither reverts nor repeats anything.
    for step in ("undo", "redo"):
        stale = client.post(f"{address}/{step}?based_on={saved['revision']}")
        assert stale.status_code == 409
        assert "Nothing was overwritten" in stale.json()["detail"]
    redone = client.post(f"{address}/redo?based_on={undone['revision']}").json()
    assert redone["revision"] == saved["revision"]
    listed = client.get(f"{address}/versions").json()
    assert listed["versions"] == [kept]
    assert listed["more"] is False
    assert Track.model_validate(client.get(f"{address}/versions/{kept['id']}/raw").json()).state == (
        TrackState.model_validate(changed)
    )


def test_versions_come_in_pages_and_one_that_cannot_be_read_closes_nothing(client: TestClient) -> None:
    track = _track(client)
    address = f"/api/tracks/{track['id']}/versions"
    keep = {"section": track["section"], "state": track["state"], "note": "first"}
    first = client.post(address, json=keep).json()
    desk = client.app.state.desk  # type: ignore[attr-defined]
    with desk.studio.changing() as db:
        whole = versions.get(db, track["id"], first["id"])
        for number in range(120):
            body = whole.body if number != 118 else '{"version": 99}'
            versions.keep(db, track["id"], body, whole.numbers, f"number {number}")
    page = client.get(address)
    # Fifty lines, each with its numbers and its picture.
    assert len(page.content) < 50_000
    assert [one["note"] for one in page.json()["versions"]] == [f"number {n}" for n in range(119, 69, -1)]
    assert page.json()["more"] is True
    told = page.json()["versions"][1]
    assert told["said"] is None
    assert told["trouble"] == "This version cannot be read by this Juglant."
    raw = client.get(f"{address}/{told['id']}/raw")
    assert raw.json() == {"version": 99}
    assert "attachment" in raw.headers["content-disposition"]
    oldest = client.get(f"{address}?before={first['id'] + 1}").json()
    assert [one["note"] for one in oldest["versions"]] == ["first"]
    assert oldest["more"] is False


def test_a_second_tab_is_told_and_may_keep_its_state_as_a_version(client: TestClient) -> None:
    track = _track(client)
    address = f"/api/tracks/{track['id']}"
    one, two = (written_state(track["state"], ducking=on) for on in (False, True))
    two["brief"] = two["brief"] | {"bpm": 131}
    client.put(
        f"{address}/state", json={"state": one, "section": track["section"], "based_on": track["revision"]}
    )
    late = client.put(
        f"{address}/state", json={"state": two, "section": track["section"], "based_on": track["revision"]}
    )
    assert late.status_code == 409
    assert late.headers["content-type"] == "application/problem+json"
    assert late.json()["type"] == "urn:juglant:stale"
    assert client.get(address).json()["state"] == one
    assert (
        client.post(
            f"{address}/versions", json={"section": track["section"], "state": two, "note": "from tab two"}
        ).status_code
        == 201
    )


def test_the_handover_is_listed_and_downloaded(client: TestClient) -> None:
    track = _track(client, "Ünder Bridge")
    listed = client.get(f"/api/tracks/{track['id']}/handover").json()
    response = client.get(f"/api/tracks/{track['id']}/handover.zip")
    assert response.headers["content-disposition"].endswith("utf-8''%C3%BCnder-bridge.zip")
    with zipfile.ZipFile(io.BytesIO(response.content)) as archive:
        assert {i.filename: i.file_size for i in archive.infolist()} == {
            file["name"]: file["bytes"] for file in listed["files"]
        }
    assert "Ünder Bridge" in listed["sheet"]


@pytest.mark.parametrize("name", BAD)
def test_bad_files_get_a_sentence_store_nothing_and_the_server_goes_on(
    client: TestClient, name: str
) -> None:
    data, _ = BAD[name]
    response = _import(client, data, "kick.wav")
    assert response.status_code in (413, 422)
    problem = response.json()
    assert problem["detail"].endswith(".")
    assert problem["field"] == "file"
    with client.app.state.desk.studio.reading() as db:  # type: ignore[attr-defined]
        assert db.execute("SELECT count(*) FROM audio").fetchone()[0] == 0
    assert client.get("/api/tracks").status_code == 200


def test_fixes_are_offered_with_what_they_were_measured_to_do(client: TestClient) -> None:
    state = COBNUT.model_dump(mode="json")
    offered = client.post("/api/findings/collision/fixes", json=state).json()
    assert offered[0]["closes"] is True
    assert offered[0]["value_after"] <= 10.0
    assert client.post("/api/findings/mix-peak/fixes", json=state).json() == []
    assert client.post("/api/findings/nothing/fixes", json=state).status_code == 422


def test_a_kept_version_can_be_heard_again_and_says_when_it_sounds_different(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    track = _track(client, "Kept")
    keep = {"section": track["section"], "state": track["state"], "note": "one"}
    address = f"/api/tracks/{track['id']}/versions"
    version = client.post(address, json=keep).json()
    found = client.get(f"{address}/{version['id']}/as-kept").json()
    assert found["same"] is True
    assert found["apart_db"] < 0.001
    assert found["engine_then"] == found["engine_now"] == ENGINE_VERSION
    # Another engine, under which the same recipe sounds half a decibel louder.
    louder = lambda *asked: [db + 0.5 for db in sounded(*asked)]  # noqa: E731
    monkeypatch.setattr(log, "sounded", louder)
    found = client.get(f"{address}/{version['id']}/as-kept").json()
    assert found["same"] is False
    assert found["apart_db"] == pytest.approx(0.5, abs=0.01)
