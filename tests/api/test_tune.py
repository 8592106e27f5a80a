"""Tune over the API: how sure a note is, what an ear says of it, and where it should go."""

import io

import pytest
import soundfile
from starlette.testclient import TestClient

from bench import instruments
from bench.rooms import SHORT, in_room
from juglant.core.recipes.track import TrackState
from tests.signals import RATE, ring
from tests.tracks import part, written

STATE = TrackState().model_dump(mode="json")


def _stored(client: TestClient, x: object, name: str = "hit.wav") -> dict[str, object]:
    out = io.BytesIO()
    soundfile.write(out, x, RATE, subtype="PCM_24", format="WAV")
    audio = client.post("/api/audio", params={"name": name}, content=out.getvalue()).json()["audio"]
    return written(STATE, kick={"kind": "imported", "audio": audio, "name": name})


def _kick(client: TestClient, state: object) -> dict[str, object]:
    return client.post("/api/tune/table", json={"state": state}).json()["hits"][0]  # type: ignore[no-any-return]


def test_a_settled_tail_is_sure(client: TestClient) -> None:
    row = _kick(client, _stored(client, 0.7 * ring(55.0, 500, 0.8)))
    assert row["sounds"]["degree"] == "sure"  # type: ignore[index]
    assert row["sounds"]["note"] == "A1"  # type: ignore[index]
    assert row["ear_notes"] == ["F#1", "G1", "G#1", "A1", "A#1", "B1", "C2"]
    assert row["remarks"] == []


@pytest.mark.parametrize("kit", [0, 16, 24])
def test_a_recorded_kick_has_a_note_with_its_uncertainty(client: TestClient, kit: int) -> None:
    """Recorded General MIDI kicks: none settles to a note, all sound about one."""
    x = instruments.one_shots([36], kit, 1.0)[36].mean(axis=1)
    row = _kick(client, _stored(client, x))
    sounds = row["sounds"]
    assert sounds is not None
    assert sounds["degree"] in ("note sure, cents not", "about", "sure")  # type: ignore[index]
    if sounds["degree"] != "sure":  # type: ignore[index]
        assert sounds["sigma_cents"] > 0  # type: ignore[index]
        assert any("your ear" in said for said in row["remarks"])  # type: ignore[attr-defined]
    assert row["moves"]


def test_a_kick_that_a_room_drowns_can_be_told_by_ear(client: TestClient) -> None:
    one = next(found for seed in range(20) if (found := in_room(seed, SHORT)).hz < 80)
    state = _stored(client, one.samples)
    said = client.post(
        "/api/tune/heard", json={"state": state, "id": "kick", "text": f"{one.hz:.2f} Hz"}
    ).json()
    row = _kick(client, said)
    assert row["sounds"]["degree"] == "by ear"  # type: ignore[index]
    assert row["sounds"]["hz"] == pytest.approx(one.hz, abs=0.01)  # type: ignore[index]
    note = row["moves"][0]["note"]  # type: ignore[index]
    tuned = client.post("/api/tune", json={"state": said, "id": "kick", "note": note}).json()
    assert abs(tuned["changes"][0]["left_cents"]) < 0.1
    again = client.post("/api/tune/heard", json={"state": tuned["state"], "id": "kick", "text": ""}).json()
    assert part(again, "kick")["heard_hz"] is None


@pytest.mark.parametrize(
    ("wish", "said"),
    [
        ({"text": "H1"}, "is no pitch"),
        ({"text": "9 Hz"}, "outside 15 to 4000 Hz"),
        ({"text": "A1", "id": "tom"}, "no such part"),
    ],
)
def test_what_cannot_be_heard_is_refused_with_its_reason(
    client: TestClient, wish: dict[str, object], said: str
) -> None:
    answer = client.post("/api/tune/heard", json={"state": STATE, "id": "kick", **wish})
    assert answer.status_code == 422
    assert said in answer.json()["detail"]


def test_a_bass_file_has_a_report_and_its_notes_on_the_ladder(client: TestClient) -> None:
    from bench.tracks import line

    out = io.BytesIO()
    x = line([(0.5, 0.4, 33), (1.5, 0.4, 36), (2.5, 0.9, 40), (4.5, 0.4, 33)], 128.0, 2, "saw", 0.3)
    soundfile.write(out, x, RATE, subtype="PCM_24", format="WAV")
    audio = client.post("/api/audio", params={"name": "line.wav"}, content=out.getvalue()).json()["audio"]
    state = written(STATE, bass={"kind": "imported", "audio": audio, "name": "line.wav"})
    notes = client.post("/api/line/voices", json={"state": state, "line": "bass"}).json()["notes"]
    assert [one["note"] for one in notes] == ["A1", "C2", "E2", "A1"]
    answer = client.post("/api/duck/answer", json={"state": state}).json()
    assert [one["note"] for one in answer["bass_notes"]] == ["A1", "C2", "E2", "A1"]
