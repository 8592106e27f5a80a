"""Interactive calls: from the request to the answer, beside general-purpose peers in the same run."""

import json
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from http.client import HTTPConnection
from tempfile import TemporaryDirectory
from typing import Any

import numpy as np

from juglant.core.measure.hit import measure
from juglant.core.recipes.track import TrackState
from tests.browser.serving import serving
from tests.signals import RATE, ring


def times(call: Callable[[int], object], count: int) -> np.ndarray:
    took = []
    for n in range(count):
        start = time.perf_counter()
        call(n)
        took.append(1000 * (time.perf_counter() - start))
    return np.array(took)


def row(name: str, took: np.ndarray, limit_ms: float | None, peer: tuple[str, float] | None = None) -> None:
    p95 = float(np.percentile(took, 95))
    said = f"  {name:<44}{np.median(took):>8.1f}{p95:>8.1f}"
    if limit_ms is not None:
        said += f"   asked {limit_ms:.0f}: {'met' if p95 <= limit_ms else 'MISSED'}"
    if peer is not None:
        said += f"   {peer[0]} takes {peer[1] / np.median(took):.1f} times as long"
    print(said)


class Line:
    """One kept-open connection to a running server."""

    def __init__(self, address: str) -> None:
        self._http = HTTPConnection(address.removeprefix("http://"))

    def post(self, path: str, body: object) -> bytes:
        self._http.request("POST", path, json.dumps(body), {"Content-Type": "application/json"})
        response = self._http.getresponse()
        data = response.read()
        assert response.status == 200, data
        return data


def calls() -> None:
    """Preview, measuring and the two-bar answer, over HTTP from another process."""
    import librosa

    state = TrackState().model_dump(mode="json")

    def changed(n: int, field: str, value: float) -> dict[str, Any]:
        layer = state["kick"]["layers"][0]
        recipe = {**layer["source"]["recipe"], field: value + 0.137 * n}
        layers = [{**layer, "source": {**layer["source"], "recipe": recipe}}]
        return {**state, "kick": {**state["kick"], "layers": layers}}

    # First, since a server closes lines on which nothing is said for some seconds.
    hits = [ring(40 + n, 500 + 7 * n, 1.0) for n in range(40)]
    frames = [hit.astype(np.float32) for hit in hits]

    def pyin(n: int) -> None:
        librosa.pyin(frames[n], fmin=25, fmax=400, sr=RATE, frame_length=8192)

    pyin(0)
    measure(hits[0], RATE)
    peer = float(np.median(times(pyin, 8)))

    with TemporaryDirectory() as folder, serving("--data", folder) as server:
        # As the page does it: numbers and sound are asked for at once, on two connections.
        line, other = Line(server.address), Line(server.address)
        together = ThreadPoolExecutor(2)

        def preview(n: int) -> None:
            asked = changed(n, "decay_ms", 280.0)
            question = {"brief": asked["brief"], "hit": asked["kick"]}
            asked_for = ((line, "/api/hits/view"), (other, "/api/hits/sound"))
            list(together.map(lambda pair: pair[0].post(pair[1], question), asked_for))

        def answer(n: int) -> None:
            line.post("/api/duck/answer", {"state": changed(n, "decay_ms", 380.0)})

        def ducked(n: int) -> None:
            duck = {**state["duck"], "hold_ms": 30 + 0.3 * n}
            line.post("/api/duck/answer", {"state": {**state, "duck": duck}})

        def loop(n: int) -> None:
            line.post("/api/duck/sound", changed(n, "decay_ms", 480.0))

        for warm in (preview, answer, ducked, loop):
            for n in range(3):
                warm(1000 + n)
        print(f"Interactive calls, ms{'':<25}{'median':>8}{'p95':>8}")
        row("preview of a changed kick, JSON and audio", times(preview, 80), 30)
        whole = times(lambda n: measure(hits[n], RATE), 40)
        row("all numbers of a one-second hit", whole, 30, ("librosa.pyin alone", peer))
        row("two-bar answer, kick changed", times(answer, 60), 120)
        row("two-bar answer, ducking changed", times(ducked, 60), 120)
        row("sound of the loop, kick changed", times(loop, 60), None)
        print()


def start() -> None:
    """From the command to the first answer."""
    with TemporaryDirectory() as folder:
        took = []
        for _ in range(6):
            begun = time.perf_counter()
            with serving("--data", folder) as server:
                http = HTTPConnection(server.address.removeprefix("http://"))
                http.request("GET", "/api/tracks")
                assert http.getresponse().status == 200
                took.append(1000 * (time.perf_counter() - begun))
    print("Server")
    row("from the command to the first answer", np.array(took), 3000)
    print()
