"""Files and questions broken at random, through the server and the command line: taken, or refused with a
sentence; never an error of the server's own, never for long.
"""

import io
import json
import os
import time
import zipfile
from collections.abc import Callable
from contextlib import redirect_stderr, redirect_stdout
from pathlib import Path
from random import Random
from tempfile import TemporaryDirectory
from typing import Any, NamedTuple

import numpy as np
from fastapi.testclient import TestClient

from bench.figures import figure, memory_mb, part
from juglant.api.app import create_app
from juglant.cli import main as command
from juglant.core.recipes.track import TrackState
from juglant.store.database import Studio
from tests.files_made import midi_of, written
from tests.signals import ring

ODD: tuple[object, ...] = (
    None, True, "", "x" * 3000, "\u202e", -1, 0, 1e308, -1e308, 10**30, [], {}, [[]], "NaN", "1/7", "../..",
)  # fmt: skip
_EXTREMES = (b"\0\0\0\0", b"\xff\xff\xff\xff", b"\x7f\xff\xff\xff", b"\x80\0\0\0")


def broken(data: bytes, rng: Random) -> bytes:
    """Some bytes of a file changed, left out, doubled or put to extremes; or the file cut."""
    out = bytearray(data)
    for _ in range(rng.randint(1, 6)):
        # Headers say most.
        at = rng.randrange(max(1, min(len(out), 200 if rng.random() < 0.7 else len(out))))
        to = at + rng.randint(1, 40)
        match rng.randrange(6):
            case 0:
                out[at : at + 1] = rng.randbytes(1)
            case 1:
                del out[at:to]
            case 2:
                out[at:at] = out[at:to]
            case 3:
                out[at : at + 4] = rng.choice(_EXTREMES)
            case 4:
                out[at:to] = rng.randbytes(to - at)
            case _:
                del out[rng.randrange(max(1, len(out))) :]
    return bytes(out)


def _leaves(value: Any, path: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
    inside = (
        value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    )
    return [path, *(leaf for key, one in inside for leaf in _leaves(one, (*path, key)))]


def odd(state: Any, rng: Random) -> bytes:
    """A state in which some values are others, are gone, or are of another kind."""
    state = json.loads(json.dumps(state))
    for _ in range(rng.randint(1, 3)):
        path = rng.choice(_leaves(state)[1:] or [("brief",)])
        inside = state
        for key in path[:-1]:
            inside = inside[key]
        if rng.random() < 0.2:
            del inside[path[-1]]
        else:
            inside[path[-1]] = rng.choice(ODD)
    return json.dumps(state).encode()


def sound_files(seconds: float = 0.2) -> list[bytes]:
    """A kick in every kind of file that people bring."""
    kick = np.asarray(0.8 * ring(57.0, 300, seconds))
    return [
        written(kick, 44_100, *kind)
        for kind in (("WAV", "PCM_16"), ("WAV", "FLOAT"), ("AIFF", "PCM_24"), ("FLAC", "PCM_16"),
                     ("OGG", "VORBIS"), ("MP3", "MPEG_LAYER_III"), ("CAF", "PCM_16"))
    ]  # fmt: skip


class Broken(NamedTuple):
    """How many were asked, what was answered with an error of the server's own, and the longest, in s."""

    asked: int
    failed: list[str]
    longest_s: float


def fuzzed(folder: Path, count: int, seed: int) -> Broken:
    """So many broken files and questions, most through the server, every tenth through a command."""
    rng = Random(seed)
    client = TestClient(
        create_app(Studio(folder / "studio.sqlite")),
        base_url="http://127.0.0.1",
        raise_server_exceptions=False,
    )
    track = client.post("/api/tracks", json={"name": "One"}).json()
    state = TrackState().model_dump(mode="json")
    sounds = sound_files()
    parcel = client.get(f"/api/tracks/{track['id']}/parcel.zip").content
    assert zipfile.is_zipfile(io.BytesIO(parcel))
    midi, json_file = midi_of("One", TrackState()), json.dumps(state).encode()
    plain = {"Content-Type": "application/json"}
    ways: list[Callable[[], Any]] = [
        lambda: client.post("/api/audio?name=a.wav", content=broken(rng.choice(sounds), rng)),
        lambda: client.post("/api/room/responses?name=a", content=broken(rng.choice(sounds), rng)),
        lambda: client.post("/api/line/read?name=a.mid", content=broken(midi, rng)),
        lambda: client.post("/api/tracks/parcel?name=a.zip", content=broken(parcel, rng)),
        lambda: client.post("/api/sound/plan", content=odd(state, rng), headers=plain),
        lambda: client.post("/api/sound/plan", content=broken(json_file, rng), headers=plain),
        lambda: client.put(
            f"/api/tracks/{track['id']}/state",
            content=b'{"section":"main","based_on":1,"state":' + odd(state, rng) + b"}", headers=plain,
        ),
    ]  # fmt: skip
    failed, longest_s = [], 0.0
    for n in range(count):
        begun = time.perf_counter()
        if n % 10 == 9:
            name, data = rng.choice([("a.wav", rng.choice(sounds)), ("a.mid", midi), ("a.json", json_file)])
            (folder / name).write_bytes(broken(data, rng))
            told = _commanded(["check" if name == "a.json" else "measure", str(folder / name)])
        else:
            response = rng.choice(ways)()
            told = (
                "" if response.status_code < 500 else f"{response.request.url.path}: {response.text[:200]}"
            )
        if told:
            failed.append(f"{n}: {told}")
        longest_s = max(longest_s, time.perf_counter() - begun)
    return Broken(count, failed, longest_s)


def _commanded(words: list[str]) -> str:
    """What goes wrong with a command; nothing where it ends by itself, with 0 or with a sentence and 2."""
    try:
        with redirect_stdout(io.StringIO()), redirect_stderr(io.StringIO()):
            command(words)
    except SystemExit as end:
        return "" if end.code in (None, 0, 1, 2) else f"{words[0]} ends with {end.code}"
    except Exception as error:
        return f"{words[0]}: {type(error).__name__}: {error}"
    return ""


def main(count: int = 10_000) -> None:
    """Print what came of it."""
    with TemporaryDirectory() as folder:
        fuzzed(Path(folder), 300, 1)
    before = memory_mb(os.getpid())
    with TemporaryDirectory() as folder:
        found = fuzzed(Path(folder), count, 2)
    part(f"{count} files and questions broken at random")
    figure("errors of the server's own, and tracebacks", len(found.failed), "", 0)
    figure("the longest answer", found.longest_s, "s", 5)
    figure("memory more than before", memory_mb(os.getpid()) - before, "MB")
    for one in found.failed[:10]:
        print(f"    {one}")
