"""The line over the API: report, trims, MIDI out and in."""

import numpy as np
import pytest
from starlette.testclient import TestClient

from juglant.core.recipes.hit import Hit, MadeHat
from juglant.core.recipes.notes import HitStep
from juglant.core.recipes.track import TrackState
from juglant.files.midi import read_midi
from tests.files_made import midi_of
from tests.tracks import part

HAT = Hit.of(MadeHat(), name="Hat", kind="hat", steps=(HitStep(at=0.5),))
STATE = TrackState.of(hits=(HAT,)).model_dump(mode="json")


def test_notes_are_reported_and_evened(client: TestClient) -> None:
    report = client.post("/api/line/voices", json={"state": STATE, "line": "bass"}).json()
    assert len(report["notes"]) == 8
    assert report["notes"][0]["timing"] == "between kicks"
    evened = client.post("/api/line/even", json={"state": STATE, "line": "bass"}).json()
    assert {note["at"] for note in part(evened, "bass")["bass"]["recipe"]["pattern"]} == {
        0.5,
        1.5,
        2.5,
        3.5,
    }


def test_a_line_goes_out_and_comes_back(client: TestClient) -> None:
    data = client.post("/api/line/midi", json={"state": STATE, "name": "Out"}).content
    assert data == midi_of("Out", TrackState.model_validate(STATE))
    read = client.post("/api/line/read?name=out.mid", content=data).json()
    assert read["bpm"] == pytest.approx(128.0, abs=1e-3)
    bass = next(track for track in read["tracks"] if track["name"] == "Bass")
    found = client.post("/api/line/fit", json={"brief": STATE["brief"], "notes": bass["notes"]}).json()
    assert found["pattern"] == part(STATE, "bass")["bass"]["recipe"]["pattern"]
    assert [track.name for track in read_midi(data, "x").tracks][1] == "Hat"


@pytest.mark.parametrize("data", [b"", b"words", b"\x00" * 5_000])
def test_what_is_no_midi_file_is_refused_by_name(client: TestClient, data: bytes) -> None:
    answer = client.post("/api/line/read?name=..%2Fbad.mid", content=data)
    assert answer.status_code == 422
    assert answer.json()["detail"].startswith("bad.mid")


def test_what_is_neither_kick_nor_line_is_the_rest(client: TestClient) -> None:
    parts = client.post("/api/sound/plan", json=STATE).json()["parts"]
    assert [one["side"] for one in parts].count("rest") == len(parts) - 2 > 0
    rest = next(one for one in parts if one["side"] == "rest")
    loop = np.frombuffer(client.get(f"/api/sound/{rest['heard']}").content, "<f4")
    assert np.max(np.abs(loop)) > 0.01
