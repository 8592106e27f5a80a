"""Many variations at once: filed under names by a scheme, and handed out as a kit."""

import csv
import io
import zipfile

import numpy as np
import pytest
import soundfile
from httpx2 import Response
from starlette.testclient import TestClient

from juglant.core.recipes.brief import Brief
from juglant.core.recipes.hit import Hit, Imported, MadeKick

BRIEF = Brief(bpm=124.0).model_dump(mode="json")
KICK = Hit.of(MadeKick(), name="Thud")


def _batch(client: TestClient, **wish: object) -> Response:
    return client.post(
        "/api/stock/filed/batch", json={"brief": BRIEF, "hit": KICK.model_dump(mode="json"), **wish}
    )


def test_24_variations_are_filed_named_by_a_scheme_and_exported_as_a_kit(client: TestClient) -> None:
    made = _batch(client, count=24, scheme="{kind} {note} {number}", amount=0.5).json()
    assert len(made) == 24
    assert [one["name"][-2:] for one in made] == [f"{n:02d}" for n in range(1, 25)]
    assert all(one["name"].startswith("kick ") for one in made)
    # No two are alike, and the same seed gives the same.
    sources = [str(one["hit"]["layers"][0]["source"]) for one in made]
    assert len(set(sources)) == 24
    again = _batch(client, count=24, amount=0.5).json()
    assert [str(one["hit"]["layers"][0]["source"]) for one in again] == sources
    assert again[6]["name"] == "Thud 07"
    assert len(client.get("/api/stock/filed").json()) == 48
    ids = [one["id"] for one in made]
    kit = client.post("/api/stock/filed/kit.zip", json={"name": "Thuds", "bpm": 124.0, "ids": ids})
    assert kit.headers["content-type"] == "application/zip"
    with zipfile.ZipFile(io.BytesIO(kit.content)) as archive:
        rows = list(csv.DictReader(io.StringIO(archive.read("drums/map.csv").decode())))
        keys = sorted({int(row["root_note"]) for row in rows})
        assert keys == list(range(36, 60))
        # The loudest file of every hit is brought to -1 dBFS.
        for row in rows:
            if row["high_velocity"] == "127":
                samples, _ = soundfile.read(io.BytesIO(archive.read(f"drums/{row['file']}")))
                assert 20 * np.log10(np.max(np.abs(samples))) == pytest.approx(-1.0, abs=0.01)


@pytest.mark.parametrize(
    ("wish", "said"),
    [
        ({"count": 0}, "count must be at least 1"), ({"count": 65}, "count must be at most 64"),
        ({"layer": 1}, "The hit has 1 layers: there is no layer 2."), ({"scheme": "{artist}"}, "names what no sound has"),
        ({"scheme": "{name.__class__}"}, "names what no sound has"),
        ({"hit": Hit.of(Imported(audio="a" * 64, name="a")).model_dump(mode="json")}, "no controls"),
    ],
)  # fmt: skip
def test_what_cannot_be_done_is_said_and_files_nothing(
    client: TestClient, wish: dict[str, object], said: str
) -> None:
    refused = _batch(client, **wish)
    assert refused.status_code == 422
    assert said in refused.json()["detail"]
    assert client.get("/api/stock/filed").json() == []


def test_a_kit_is_made_of_hits(client: TestClient) -> None:
    hit = {**KICK.model_dump(mode="json"), "steps": [{"at": 0.0}]}
    pattern = client.post("/api/stock/filed", json={"what": "pattern", "hit": hit}).json()
    question = {"name": "A", "bpm": 124.0, "ids": [pattern["id"]]}
    refused = client.post("/api/stock/filed/kit.zip", json=question)
    assert "Thud is a pattern" in refused.json()["detail"]
    assert client.post("/api/stock/filed/kit.zip", json={**question, "ids": [99]}).status_code == 404
