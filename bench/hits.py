"""The Hits bench: a changed layer in a full hit, and recordings cut into takes."""

import time
from concurrent.futures import ThreadPoolExecutor
from tempfile import TemporaryDirectory
from typing import Any

import numpy as np

from bench.figures import figure, part
from bench.recordings import RATE, f_measure, recording
from bench.speed import Line, row, times
from juglant.core.measure.takes import onsets_ms
from juglant.core.recipes.track import TrackState
from tests.browser.serving import serving

_CHAIN: list[dict[str, Any]] = [
    {"stage": "equaliser", "highpass_hz": 40.0, "bell_db": -4.0, "high_shelf_db": 3.0},
    {"stage": "drive", "drive_db": 6.0, "from_hz": 120.0, "to_hz": 300.0},
    {"stage": "transient", "attack_db": 4.0},
    {"stage": "compressor", "threshold_db": -24.0},
    {"stage": "level", "gain_db": -1.0},
]


def full_hit() -> dict[str, Any]:
    """Four layers, each with five stages, and six more over all of them."""
    sources = ("kick", "membrane", "clap", "hat")
    jobs = ("body", "texture", "tail", "click")
    layers = [
        {"name": kind, "job": job, "source": {"kind": kind, "recipe": {}}, "chain": _CHAIN}
        | {"gain_db": -3.0 * n, "offset_ms": 1.5 * n, "pan": 0.2 * n}
        for n, (kind, job) in enumerate(zip(sources, jobs, strict=True))
    ]
    chain = [*_CHAIN, {"stage": "clip", "ceiling_db": -1.0}]
    return {"name": "Full", "kind": "kick", "layers": layers, "chain": chain}


def changed_layer(count: int = 60) -> None:
    """From a changed control to the new sound and the new pictures, asked for at once."""
    brief = TrackState().model_dump(mode="json")["brief"]
    with TemporaryDirectory() as folder, serving("--data", folder) as server:
        lines = [Line(server.address) for _ in range(2)]
        together = ThreadPoolExecutor(2)

        def ask(hit: dict[str, Any]) -> None:
            body = {"brief": brief, "hit": hit}
            paths = ("/api/hits/view", "/api/hits/sound")
            list(together.map(lambda pair: pair[0].post(pair[1], body), zip(lines, paths, strict=True)))

        def drive(n: int) -> None:
            hit = full_hit()
            stage = {**_CHAIN[1], "drive_db": 6 + 0.01 * n}
            hit["layers"][0]["chain"] = [_CHAIN[0], stage, *_CHAIN[2:]]
            ask(hit)

        def recipe(n: int) -> None:
            hit = full_hit()
            hit["layers"][0]["source"] = {"kind": "kick", "recipe": {"decay_ms": 280.0 + n}}
            ask(hit)

        def last(n: int) -> None:
            hit = full_hit()
            hit["chain"] = [*hit["chain"][:-1], {"stage": "clip", "ceiling_db": -1.0 - 0.01 * n}]
            ask(hit)

        for warm in (drive, recipe, last):
            for n in range(3):
                warm(1000 + n)
        part("A hit of four layers with full chains")
        row("one layer's drive changed, JSON and audio", times(drive, count), 60)
        row("one layer's recipe changed", times(recipe, count), 60)
        row("the last stage changed", times(last, count), 60)


def cutting(count: int = 20) -> None:
    """Onsets of generated recordings, beside librosa on the same files."""
    import librosa

    found: dict[str, list[float]] = {"ours": [], "librosa": [], "librosa, backtracked": []}
    took: dict[str, list[float]] = {"ours": [], "librosa": []}
    for seed in range(count):
        one = recording(seed)
        start = time.perf_counter()
        ours = onsets_ms(one.samples, RATE)
        took["ours"].append(time.perf_counter() - start)
        found["ours"].append(f_measure(ours, one.onsets_ms, 5.0)[0])
        x = one.samples.astype(np.float32)
        for name, back in (("librosa", False), ("librosa, backtracked", True)):
            start = time.perf_counter()
            theirs = librosa.onset.onset_detect(y=x, sr=RATE, hop_length=128, units="time", backtrack=back)
            if not back and seed:
                took["librosa"].append(time.perf_counter() - start)
            found[name].append(f_measure(list(1000 * theirs), one.onsets_ms, 5.0)[0])
    part(f"Cutting {count} generated recordings, onsets within 5 ms")
    for name, scores in found.items():
        figure(f"{name}: F-measure", np.mean(scores))
    ratio = np.median(took["librosa"]) / np.median(took["ours"])
    ours_ms = 1000 * np.median(took["ours"])
    figure("a recording", ours_ms, "ms", peer="librosa's onsets", ratio=1 / ratio)


def main() -> None:
    """Print both."""
    changed_layer()
    cutting()
