"""The whole arrangement as files: stems, mix, gains of the duckings, and MIDI with its sections marked."""

import tempfile
import zipfile
from collections.abc import Callable, Iterable
from pathlib import Path

import numpy as np
import soundfile
from numpy.typing import NDArray

from juglant.core import RATE
from juglant.core.errors import CancelledError
from juglant.core.lowend.linenotes import notes_of_lines
from juglant.core.lowend.overview import played_ids
from juglant.core.lowend.session import Session
from juglant.core.lowend.straight import Straight, Tape, blocks
from juglant.core.recipes.parts import SUM
from juglant.core.recipes.sections import Track
from juglant.files.handover import FULL
from juglant.files.midi import Stretch, write_arrangement
from juglant.files.names import file_names, plain_name

Array = NDArray[np.float64]


def _written(path: Path, channels: int, stretches: Iterable[Array]) -> None:
    """A 24-bit WAV, written block by block and held to full scale."""
    with soundfile.SoundFile(path, "w", RATE, channels, "PCM_24", format="WAV") as file:
        for x in stretches:
            file.write(np.clip(x, -1.0, FULL))


def write_arranged(
    session: Session, name: str, track: Track, out: Path,
    progress: Callable[[float], bool] = lambda _: True,
) -> list[str]:  # fmt: skip
    """Write one ZIP of the arrangement to `out`; the names of its files. `progress` is told the share
    of the way; where it says no, CancelledError is raised.

    Stems keep their levels among each other and are turned down together only where the mix would clip; the
    mix has passed the sum, they have not. All begin at the first bar and end when the last of them has rung
    out.
    """
    with tempfile.TemporaryDirectory(dir=out.parent) as folder:
        straight = Straight(session, track, folder)
        state = straight.state
        stem, tempo = plain_name(name), f"{state.brief.bpm:g}bpm"
        head = f"{stem}_arrangement"
        stems, played = straight.stems(), played_ids(session, [one.state for one in straight.passages])
        steps = iter(np.linspace(0, 1, 2 * len(stems) + len(played) + 3)[1:])

        def step() -> None:
            if not progress(float(next(steps))):
                straight.close()
                raise CancelledError

        def heard(id: str) -> Tape:
            tape = straight.heard(id)
            step()
            return tape

        tapes = {id: heard(id) for id in stems}
        mix = heard(SUM)
        frames = straight.sounding_frames([*tapes.values(), mix])
        cut = blocks(0, frames)
        peak = max((float(np.max(np.abs(mix.read(a, b)))) for a, b in cut), default=0.0)
        gain = min(1.0, 0.999 / max(peak, 1e-9))
        told = [file_names(state)[id] for id in tapes]
        files: dict[str, Path] = {}

        def new(called: str) -> Path:
            files[called] = Path(folder) / f"file-{len(files)}"
            return files[called]

        for part, tape in zip(told, tapes.values(), strict=True):
            path = new(f"{head}_{part}_{tempo}.wav")
            _written(path, tape.channels, (gain * tape.read(a, b) for a, b in cut))
            step()
        path = new(f"{head}_mix_{tempo}.wav")
        both = (mix.read(a, b).reshape(b - a, -1) * np.full(2, gain) for a, b in cut)
        _written(path, 2, both)
        step()
        for n, id in enumerate(played, 1):
            path = new(f"{head}_ducking-{n}-control_{tempo}.wav")
            _written(path, 1, (10 ** (straight.gain_db(id, a, b) / 20) * FULL for a, b in cut))
            step()
        stretches = [
            Stretch(
                passage.name, passage.state, notes_of_lines(session.sounds, passage.state),
                passage.first / RATE * 1000, passage.end / RATE * 1000,
            )
            for passage in straight.passages
        ]  # fmt: skip
        new(f"{head}_{tempo}.mid").write_bytes(write_arrangement(name, stretches))
        straight.close()
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as archive:
            for called in sorted(files):
                archive.write(files[called], called)
        return sorted(files)
