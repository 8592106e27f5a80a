"""A one-shot taken apart into what can be edited."""

import hashlib
import time
from pathlib import Path
from typing import Annotated

import numpy as np
import typer

from juglant.cli.app import app
from juglant.cli.common import AsJson, print_json, print_table, read, write
from juglant.core import RATE
from juglant.core.lowend.session import Session
from juglant.core.matching.apart import taken_apart
from juglant.core.process.resampling import change_rate
from juglant.core.recipes.hit import HitKind
from juglant.files.audio import encode_wav_float


@app.command()
def match(
    sound: Annotated[Path, typer.Argument(help="A kick, 808, tom or snare, a one-shot.")],
    out: Annotated[Path, typer.Option("-o", "--out", help="The recipe to write, JSON.")],
    kind: Annotated[HitKind, typer.Option(help="What it is.")] = "kick",
    as_json: AsJson = False,
) -> None:
    """Make a one-shot editable: its body as a fitted recipe, its click as a sample beside that."""
    began = time.perf_counter()
    audio = read(sound)
    files: dict[str, str] = {}

    def keep(samples: np.ndarray, name: str) -> str:
        data = encode_wav_float(samples, RATE)
        path = out.with_name(f"{out.stem} {name.rsplit(' ', 1)[-1]}.wav")
        write(path, data)
        files[name] = str(path)
        return hashlib.sha256(data).hexdigest()

    x = change_rate(audio.samples, audio.rate, RATE)
    found = taken_apart(x, sound.stem, kind, Session().sounds.hits, keep)
    write(out, found.hit.model_dump_json(indent=1).encode())
    seconds = time.perf_counter() - began
    if as_json:
        print_json({
            "file": str(out), "samples": list(files.values()), **found.likeness.as_dict(),
            "seconds": round(seconds, 2), "layers": [layer.name for layer in found.hit.layers],
            "said": found.said, "recipe": found.hit.model_dump(mode="json"),
        })  # fmt: skip
        return
    likeness = found.likeness
    print(out)
    for path in files.values():
        print(path)
    print_table([
        ("left of the sound", f"{likeness.residual_db:.1f} dB"),
        ("left by the body", f"{likeness.body_residual_db:.1f} dB"),
        ("third octaves", f"{likeness.spectral_distance_db:.2f} dB apart"),
        ("pitch of the tail", "–" if likeness.pitch_error_cents is None
         else f"{likeness.pitch_error_cents:.2f} cents apart"),
        ("time taken", f"{seconds:.1f} s"),
    ])  # fmt: skip
    for sentence in found.said:
        print(sentence)
