"""Sections over the API: edited, undone, followed again, arranged and handed over."""

import io
import zipfile
from typing import Any

import mido
import numpy as np
import soundfile
from starlette.testclient import TestClient

from juglant.core.recipes.track import TrackState
from tests.api.ended import followed
from tests.tracks import part, written


def _track(client: TestClient) -> tuple[str, dict[str, Any]]:
    track = client.post("/api/tracks", json={"name": "Two parts"}).json()
    return f"/api/tracks/{track['id']}", track


def _with_break(client: TestClient) -> tuple[str, dict[str, Any]]:
    address, track = _track(client)
    new = {"like": track["section"], "name": "break", "based_on": track["revision"]}
    return address, client.post(f"{address}/sections", json=new).json()


def _save(client: TestClient, address: str, track: dict[str, Any], **fields: Any) -> dict[str, Any]:
    changed = written(track["state"], **fields)
    save = {"section": track["section"], "state": changed, "based_on": track["revision"]}
    return dict(client.put(f"{address}/state", json=save).json())


def test_a_new_section_is_at_hand_and_what_is_changed_there_is_marked_and_undone(
    client: TestClient,
) -> None:
    address, track = _with_break(client)
    assert [one["name"] for one in track["sections"]] == ["drop", "break"]
    assert track["section"] == track["sections"][1]["id"] != track["main"]
    there = _save(client, address, track, ducking=False)
    assert there["sections"][1]["differs"] == [{"part": "kick-and-bass", "aspect": None}]
    main = client.get(f"{address}?section={track['main']}").json()
    assert main["state"]["duckings"][0]["on"]
    assert not client.get(f"{address}?section={track['section']}").json()["state"]["duckings"][0]["on"]
    undo = f"{address}/undo?section={track['section']}&based_on="
    undone = client.post(f"{undo}{there['revision']}").json()
    assert undone["section"] == track["section"]
    assert undone["state"]["duckings"][0]["on"]
    # Which section is at hand is no step of undo: one more takes the section itself away.
    gone = client.post(f"{undo}{undone['revision']}").json()
    assert [one["name"] for one in gone["sections"]] == ["drop"]
    assert gone["section"] == gone["main"]


def test_a_difference_follows_main_again_in_one_move(client: TestClient) -> None:
    address, track = _with_break(client)
    kick = part(track["state"], "kick") | {"level_db": -3.0}
    there = _save(client, address, track, kick=kick)
    assert there["sections"][1]["differs"] == [{"part": "kick", "aspect": "shape"}]
    what = {"part": "kick", "aspect": "shape", "based_on": there["revision"]}
    followed = client.post(f"{address}/sections/{there['section']}/follow", json=what).json()
    assert followed["state"] == track["state"]
    assert followed["sections"][1]["differs"] == []


def test_sections_are_named_made_main_and_removed(client: TestClient) -> None:
    address, track = _with_break(client)
    at = f"{address}/sections/{track['section']}"
    named = client.patch(at, json={"name": " Bridge ", "based_on": track["revision"]}).json()
    assert named["sections"][1]["name"] == "Bridge"
    twice = client.patch(at, json={"name": "drop", "based_on": named["revision"]})
    assert twice.status_code == 422
    assert "a name of its own" in twice.json()["detail"]
    main = client.post(f"{at}/main", json={"based_on": named["revision"]}).json()
    assert main["main"] == track["section"]
    refused = client.delete(f"{at}?based_on={main['revision']}")
    assert "choose another main" in refused.json()["detail"]
    late = client.delete(f"{address}/sections/main?based_on={track['revision']}")
    assert late.status_code == 409
    less = client.delete(f"{address}/sections/main?based_on={main['revision']}").json()
    assert [one["name"] for one in less["sections"]] == ["Bridge"]


def test_the_arrangement_has_a_strip_and_every_section_is_judged(client: TestClient) -> None:
    address, track = _with_break(client)
    kick = {"kind": "kick", "recipe": {"end_hz": 50.4}}
    there = _save(client, address, track, kick=kick)
    entries = [{"section": track["main"], "bars": 3}, {"section": track["section"], "bars": 4}]
    order = {"at": track["section"], "entries": entries, "based_on": there["revision"]}
    arranged = client.put(f"{address}/arrangement", json=order).json()
    assert arranged["arrangement"] == entries
    told = client.get(f"{address}/arrangement").json()
    assert len(told["bars_db"]) == 7
    assert told["bars_db"][0] == told["bars_db"][2] != told["bars_db"][3]
    assert told["findings"][track["section"]] > told["findings"][track["main"]]
    long = {**order, "entries": [{"section": track["main"], "bars": 300}], "based_on": arranged["revision"]}
    assert client.put(f"{address}/arrangement", json=long).status_code == 422


def test_every_section_is_handed_over_by_itself_or_all_of_them_in_folders(client: TestClient) -> None:
    address, track = _with_break(client)
    _save(client, address, track, ducking=False)
    files = client.get(f"{address}/handover?section={track['section']}").json()["files"]
    assert all(file["name"].startswith("two-parts-break_") for file in files)
    one = client.get(f"{address}/handover.zip?section={track['section']}").content
    assert {file["name"] for file in files} == set(zipfile.ZipFile(io.BytesIO(one)).namelist())
    every = zipfile.ZipFile(io.BytesIO(client.get(f"{address}/handover.zip").content)).namelist()
    assert {name.split("/")[0] for name in every} == {"1_drop", "2_break"}
    assert client.get(f"{address}/handover?section=gone").status_code == 422


def test_the_arrangement_is_handed_over_in_one_pass_with_its_sections_marked(client: TestClient) -> None:
    address, track = _with_break(client)
    refused = client.post(f"{address}/arrangement")
    assert refused.status_code == 422
    assert "Nothing is arranged yet" in refused.json()["detail"]
    drop, break_ = (one["id"] for one in track["sections"])
    entries = [{"section": drop, "bars": 3}, {"section": break_, "bars": 2}, {"section": drop, "bars": 1}]
    order = {"entries": entries, "based_on": track["revision"], "at": drop}
    assert client.put(f"{address}/arrangement", json=order).status_code == 200
    job = client.post(f"{address}/arrangement").json()
    told = followed(client, job)
    assert (told[-1]["state"], told[-1]["said"]) == ("done", "Two parts was played straight through.")
    assert [one["done"] for one in told] == sorted(one["done"] for one in told)
    response = client.get(f"{address}/arrangement/{job['id']}")
    assert response.headers["content-type"] == "application/zip"
    archive = zipfile.ZipFile(io.BytesIO(response.content))
    head, tempo = "two-parts_arrangement", "128bpm"
    assert archive.namelist() == [
        f"{head}_{tempo}.mid", f"{head}_ducking-1-control_{tempo}.wav", f"{head}_kick_{tempo}.wav",
        f"{head}_line-bass_{tempo}.wav", f"{head}_mix_{tempo}.wav",
    ]  # fmt: skip
    sounds = {}
    for name in archive.namelist()[1:]:
        sounds[name.split("_")[2]], rate = soundfile.read(io.BytesIO(archive.read(name)))
        assert rate == 48_000
    frames = {x.shape[0] for x in sounds.values()}
    assert len(frames) == 1
    # Six bars at 128 BPM, and what rings after the last.
    assert 6 * 90_000 <= frames.pop() < 6 * 90_000 + 8 * 48_000
    together = sounds["kick"] + sounds["line-bass"]
    assert np.max(np.abs(together[:, None] - sounds["mix"])) < 1e-6
    assert sounds["ducking-1-control"].min() < 0.9
    midi = mido.MidiFile(file=io.BytesIO(archive.read(archive.namelist()[0])), charset="utf-8")
    at, marked = 0, []
    for message in midi.tracks[0]:
        at += message.time
        if message.type == "marker":
            marked.append((at / midi.ticks_per_beat / 4, message.text))
    assert marked == [(0.0, "drop"), (3.0, "break"), (5.0, "drop")]
    kicks = next(track for track in midi.tracks if track.name == "Kick")
    assert sum(message.type == "note_on" for message in kicks) == 24


def test_a_version_keeps_all_sections_and_brings_them_back(client: TestClient) -> None:
    address, track = _with_break(client)
    keep = {"section": track["section"], "state": track["state"], "note": "two"}
    kept = client.post(f"{address}/versions", json=keep).json()
    gone = client.delete(f"{address}/sections/{track['section']}?based_on={track['revision']}").json()
    assert len(gone["sections"]) == 1
    back = client.post(f"{address}/versions/{kept['id']}/back", json={"based_on": gone["revision"]}).json()
    assert [one["name"] for one in back["sections"]] == ["drop", "break"]
    assert back["can_undo"]


def test_a_state_of_one_section_cannot_hold_others(client: TestClient) -> None:
    state = TrackState().model_dump(mode="json")
    response = client.post("/api/duck/answer", json={"state": {**state, "kicks": []}})
    assert "kicks is not known here" in response.json()["detail"]
