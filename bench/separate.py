"""Separate and duck: how long the searches take, and what the server holds meanwhile."""

import json
import statistics
import time
import urllib.request
from collections.abc import Callable

from bench.figures import figure, part
from bench.speed import memory_mb
from juglant.core.lowend import separation
from juglant.core.lowend.overview import overview
from juglant.core.lowend.session import Session
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.ducking import Ducking, Target
from juglant.core.recipes.parts import Chord
from juglant.core.recipes.track import TrackState
from juglant.demo.scenario import COBNUT, TRACKS
from tests.browser.serving import serving


def _timed(run: Callable[[], object]) -> float:
    begun = time.perf_counter()
    run()
    return time.perf_counter() - begun


def _targets(depth_db: float) -> TrackState:
    """A two-bar loop with four targets, each with a ducking of its own."""
    duck = DuckRecipe(depth_db=depth_db, hold_ms=20.0, release_ms=140.0)
    pad = Chord(id="pad")
    others = tuple(
        Ducking(id=f"by-{id}", triggers=("kick",), targets=(Target(part=id),), duck=duck)
        for id in ("bass", pad.id, *(hit.id for hit in COBNUT.hits[:2]))
    )
    parts = {"parts": (*COBNUT.parts, pad), "duckings": (*COBNUT.duckings, *others)}
    return COBNUT.model_copy(update=parts)


def _server_mb() -> float:
    """The most that a server held while it answered everything of every demo track."""
    with serving("--demo") as server:
        for state in TRACKS.values():
            body = json.dumps({"state": state.model_dump(mode="json")}).encode()
            for path in ("separate/view", "duck/answer", "duck/overview"):
                request = urllib.request.Request(
                    f"{server.address}/api/{path}", body, {"Content-Type": "application/json"}
                )
                urllib.request.urlopen(request).read()
        return memory_mb(server)


def main() -> None:
    """Print the numbers."""
    part("Separate and duck")
    session = Session()
    for name, state in TRACKS.items():
        session.answer(state)
        took = _timed(lambda state=state: list(separation.solve(session, state)))  # type: ignore[misc]
        keyed = _timed(lambda state=state: session.as_compressor(state, state.duckings[0]))  # type: ignore[misc]
        figure(f"{name}: parted", took, "s", 3)
        figure(f"{name}: as a compressor", keyed, "s", 3)
    times = []
    for n in range(12):
        state = _targets(3.0 + n)
        times.append(_timed(lambda state=state: (session.answer(state), overview(session, state, 0))))  # type: ignore[misc]
    median = 1000 * statistics.median(times[2:])
    figure("full answer, two bars and four targets, median", median, "ms", 150)
    figure("most memory of the server throughout", _server_mb(), "MB", 400)
