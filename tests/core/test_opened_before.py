"""Tracks of the version before parts had ids, opened: each sounds as it did, below -120 dBFS.

What sounded then is stored as its projections on noise, four a channel; the files that the tracks are
made from are made here.
"""

import json
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from numpy.typing import NDArray

from juglant.core.lowend.session import Session
from juglant.core.recipes.sections import Track
from juglant.core.recipes.track import TrackState
from tests.signals import RATE
from tests.tracks import rest_loop

STORED = json.loads((Path(__file__).parent / "opened_before.json").read_text())


def _file(digest: str) -> tuple[NDArray[np.float64], int]:
    """A short kick, a wide hit, a wide bass loop or a wide pad, by the first letter of its name."""
    rng = np.random.default_rng(int(digest[:4], 16))
    seconds = {"a": 0.3, "b": 0.2, "c": 3 + 777 / RATE, "d": 2 + 1234 / RATE}[digest[0]]
    t = np.arange(round(seconds * RATE)) / RATE
    if digest[0] == "a":
        return 0.7 * np.exp(-t / 0.06) * np.sin(2 * np.pi * (50 * t + 3 * np.exp(-t / 0.01))), RATE
    if digest[0] == "b":
        sides = np.stack([rng.standard_normal(t.size), rng.standard_normal(t.size)], 1)
        return sides * 0.2 * np.exp(-np.arange(t.size) / 1500)[:, None], RATE
    if digest[0] == "c":
        gate = 0.5 + 0.5 * np.sign(np.sin(2 * np.pi * 4 * t))
        low = [0.4 * np.sin(2 * np.pi * 55 * t), 0.3 * np.sin(2 * np.pi * 55 * t + 0.4)]
        return np.stack(low, 1) * gate[:, None], RATE
    under = 0.1 * np.sin(2 * np.pi * 90 * t)
    return np.stack(
        [0.1 * np.sin(2 * np.pi * hz * t) + way * under for hz, way in ((220, 1), (331, -1))], 1
    ), RATE


SESSION = Session(_file)
# Two duckings of one line added up then; now the deeper one holds.
ADDED_UP = ("Green Husk", "files")


@pytest.mark.parametrize("stored", STORED, ids=[one["name"] for one in STORED])
def test_it_sounds_as_it_did(stored: dict[str, Any]) -> None:
    state = Track.model_validate(stored["state"]).state
    loop = SESSION.loop(state)
    now = {"kick": loop.kick.samples, "bass": loop.bass.samples, "ducked": loop.ducked.samples}
    for name, x in {**now, "rest": rest_loop(SESSION, state)}.items():
        before = stored["sounds"][name]
        if name == "ducked" and stored["name"] in ADDED_UP:
            continue
        if before is None:
            assert x is None
            continue
        assert x is not None
        channels = x.reshape(x.shape[0], -1)
        assert [*channels.shape] == before[:2]
        marks = np.random.default_rng(7).standard_normal((x.shape[0], 4)) / np.sqrt(x.shape[0])
        assert (channels.T @ marks).ravel() == pytest.approx(before[2:], abs=1e-6), name


def test_what_was_accepted_and_ignored_stays_unheard() -> None:
    [stored] = [one for one in STORED if one["name"] == "files"]
    state = TrackState.model_validate(stored["state"])
    assert [part.id for part in state.parts] == ["kick", "clap", "bass", "bass-2", "pad", "pad-2"]
    assert state.parts[3].name == "bass 2"
    assert [step.at for step in state.kick.steps] == [0, 1.25, 2, 3.75]
    assert not state.kick.mute
    assert [one.on for one in state.duckings] == [True, True, False, False, True, True]
    assert state.duckings[5].targets[0].part == "bass-2"
    again = TrackState.model_validate_json(state.model_dump_json())
    assert again == state
