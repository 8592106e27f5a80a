"""Interactive calls: from the request to the answer, beside general-purpose peers in the same run."""

import json
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from http.client import HTTPConnection
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import numpy as np

from bench.figures import figure, part
from juglant.core.measure.hit import measure
from juglant.core.recipes.bass import BassRecipe
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.chain import DriveStage, EqualiserStage, SpaceStage
from juglant.core.recipes.ducking import Ducking, Target
from juglant.core.recipes.dynamics import CompressorStage
from juglant.core.recipes.hit import Hit, MadeHat, MadeSnare
from juglant.core.recipes.notes import on_beats
from juglant.core.recipes.parts import Chord, MadeBass, Output, Outputs, Voice
from juglant.core.recipes.track import TrackState
from tests.browser.serving import Server, serving
from tests.signals import RATE, ring


def times(call: Callable[[int], object], count: int) -> np.ndarray:
    took = []
    for n in range(count):
        start = time.perf_counter()
        call(n)
        took.append(1000 * (time.perf_counter() - start))
    return np.array(took)


def row(
    name: str, took: np.ndarray, limit_ms: float | None, peer: tuple[str, float] | None = None,
    usual_ms: float | None = None,
) -> None:  # fmt: skip
    """A row of times in ms: what the 95th percentile and, as the usual one, the median may be; a peer's own
    time in ms.
    """
    ratio = None if peer is None else float(np.median(took)) / peer[1]
    peers = peer[0] if peer else ""
    figure(f"{name}: median", float(np.median(took)), "ms", usual_ms, peer=peers, ratio=ratio)
    figure(f"{name}: 95th percentile", float(np.percentile(took, 95)), "ms", limit_ms)


class Line:
    """One kept-open connection to a running server."""

    def __init__(self, address: str) -> None:
        self._http = HTTPConnection(address.removeprefix("http://"))

    def post(self, path: str, body: object) -> bytes:
        self._http.request("POST", path, json.dumps(body), {"Content-Type": "application/json"})
        return self._answer()

    def get(self, path: str) -> bytes:
        self._http.request("GET", path)
        return self._answer()

    def _answer(self) -> bytes:
        response = self._http.getresponse()
        data = response.read()
        assert response.status == 200, data
        return data


class Ear:
    """Asks for what is heard as the page does: a plan, and the sounds that it has not got."""

    def __init__(self, line: Line) -> None:
        self._line = line
        self._has: set[str] = set()

    def hear(self, state: object) -> None:
        plan = json.loads(self._line.post("/api/sound/plan", state))
        keys = {one["heard"] for one in plan["parts"]}
        for key in keys - self._has:
            self._line.get(f"/api/sound/{key}")
        self._has = keys


def memory_mb(server: Server) -> float:
    """The most that a server has held so far."""
    status = Path(f"/proc/{server.process.pid}/status").read_text()
    return int(next(line.split()[1] for line in status.splitlines() if line.startswith("VmHWM"))) / 1024


def with_recipe(state: dict[str, Any], part: int, field: str, value: float) -> dict[str, Any]:
    """A state in which one control of a made hit is changed."""
    parts = list(state["parts"])
    layer = parts[part]["layers"][0]
    recipe = {**layer["source"]["recipe"], field: value}
    parts[part] = {**parts[part], "layers": [{**layer, "source": {**layer["source"], "recipe": recipe}}]}
    return {**state, "parts": parts}


def with_depth(state: dict[str, Any], ducking: int, depth_db: float) -> dict[str, Any]:
    """A state in which the depth of a ducking is changed."""
    duckings = list(state["duckings"])
    duckings[ducking] = {**duckings[ducking], "duck": {**duckings[ducking]["duck"], "depth_db": depth_db}}
    return {**state, "duckings": duckings}


def calls() -> None:
    """Preview, measuring and the two-bar answer, over HTTP from another process."""
    import librosa

    state = TrackState().model_dump(mode="json")

    def changed(n: int, field: str, value: float) -> dict[str, Any]:
        return with_recipe(state, 0, field, value + 0.137 * n)

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
        together, ear = ThreadPoolExecutor(2), Ear(line)

        def preview(n: int) -> None:
            asked = changed(n, "decay_ms", 280.0)
            question = {"brief": asked["brief"], "hit": asked["parts"][0]}
            asked_for = ((line, "/api/hits/view"), (other, "/api/hits/sound"))
            list(together.map(lambda pair: pair[0].post(pair[1], question), asked_for))

        def answer(n: int) -> None:
            line.post("/api/duck/answer", {"state": changed(n, "decay_ms", 380.0)})

        def ducked(n: int) -> None:
            line.post("/api/duck/answer", {"state": with_depth(state, 0, 9 + 0.02 * n)})

        def loop(n: int) -> None:
            ear.hear(changed(n, "decay_ms", 480.0))

        for warm in (preview, answer, ducked, loop):
            for n in range(3):
                warm(1000 + n)
        part("Interactive calls")
        row("preview of a changed kick, JSON and audio", times(preview, 80), 30)
        whole = times(lambda n: measure(hits[n], RATE), 40)
        row("all numbers of a one-second hit", whole, 30, ("librosa.pyin alone", peer))
        row("two-bar answer, kick changed", times(answer, 60), 120)
        row("two-bar answer, ducking changed", times(ducked, 60), 120)
        row("sound of the loop, kick changed", times(loop, 60), None)


def many_parts(bars: int, hats: int) -> dict[str, Any]:
    """A track of six parts and some hats, some with stages, and four duckings."""
    space = SpaceStage(kind="hall", mix_db=-14.0, decay_ms=900.0, width=0.6)
    hits = [
        Hit.of(MadeSnare(), name="Snare", kind="snare", steps=on_beats(2, 4)),
        *(Hit.of(MadeHat(), name=f"Hat {n}", kind="hat", steps=on_beats(1.5 + n / 8)) for n in range(hats)),
    ]
    mid = Voice(
        name="mid", bass=MadeBass(recipe=BassRecipe(octave=2)), stages=(EqualiserStage(highpass_hz=180),)
    )
    duckings = (
        Ducking(id="pad", triggers=("kick",), targets=(Target(part="pad"),)),
        Ducking(
            id="hats", triggers=("snare",), targets=(Target(part="hat-0"), Target(part="mid", share=0.5))
        ),
        Ducking(id="eighths", rate="1/8", targets=(Target(part="pad"), Target(part="copy"))),
    )
    state = TrackState.of(
        brief=Brief(bpm=126.0, chord_roots=("tonic",) * bars), hits=tuple(hits), lines=(mid,),
        chords=(Chord(name="pad", stages=(space,)),),
    ).model_dump(mode="json")  # fmt: skip
    copy = Outputs(
        id="copy", name="copy", sources=(Output(of="snare", gain_db=-6.0),),
        stages=(DriveStage(drive_db=6.0), CompressorStage()),
    )  # fmt: skip
    return TrackState.model_validate({
        **state, "parts": [*state["parts"], copy.model_dump(mode="json")],
        "duckings": [*state["duckings"], *(one.model_dump(mode="json") for one in duckings)],
    }).model_dump(mode="json")  # fmt: skip


def parts() -> None:
    """One control of a track of many parts changed: the numbers, and what All plays; opening a track."""
    with TemporaryDirectory() as folder, serving("--data", folder) as server:
        line = Line(server.address)
        ear = Ear(line)
        part("Many parts")
        for bars, hats, limit in ((2, 2, 100), (8, 10, 400)):
            state = many_parts(bars, hats)
            count = len(state["parts"])

            def asked(n: int, state: dict[str, Any] = state) -> dict[str, Any]:
                # In turn: the kick, a snare, a hat, and two of the duckings.
                changes = (
                    lambda: with_recipe(state, 0, "decay_ms", 250 + 0.7 * n),
                    lambda: with_recipe(state, 1, "noise_ms", 150 + 0.7 * n),
                    lambda: with_recipe(state, 2, "decay_ms", 60 + 0.3 * n),
                    lambda: with_depth(state, 0, 6 + 0.05 * n),
                    lambda: with_depth(state, 2, 4 + 0.05 * n),
                )
                return changes[n % 5]()

            def answer(n: int) -> None:
                line.post("/api/duck/answer", {"state": asked(n)})

            def sound(n: int) -> None:
                ear.hear(asked(n))

            for name, call in (("answer", answer), ("sound of all", sound)):
                for n in range(200, 205):
                    call(n)
                row(f"{bars} bars, {count} parts, 4 duckings: {name}", times(call, 60), limit)
        figure("memory of the server", memory_mb(server), "MB", 450)
    with serving("--demo") as server:
        http = HTTPConnection(server.address.removeprefix("http://"))

        def opened(n: int) -> None:
            http.request("GET", f"/api/tracks/{1 + n % 3}")
            assert http.getresponse().read()

        row("opening a track", times(opened, 30), 300)


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
    part("Server")
    row("from the command to the first answer", np.array(took), 3000)
