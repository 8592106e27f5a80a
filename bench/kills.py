"""Two writers of one studio, killed at random moments: what was said to be saved is there."""

import os
import signal
import sqlite3
import subprocess
import sys
import time
from pathlib import Path
from random import Random
from tempfile import TemporaryDirectory
from typing import NamedTuple

from bench.figures import figure, part
from juglant.store import keeping, tracks, versions
from juglant.store.database import Studio

# Saves, versions and sounds of a track of its own; each is said once it is kept.
WRITER = """
import sys
from pathlib import Path
from juglant.store import audio, tracks, versions
from juglant.store.database import Studio
studio, first = Studio(Path(sys.argv[1])), int(sys.argv[2])
with studio.changing() as db:
    track = tracks.create(db, "T", str(first))
print(track.id, first, flush=True)
for n in range(first + 1, first + 100000):
    with studio.changing() as db:
        track = tracks.save(db, track.id, str(n), track.revision)
        if n % 5 == 0:
            versions.keep(db, track.id, str(n), "{}", str(n))
            audio.put(db, str(n).encode() * 50, str(n), "WAV", 48000, 1, 1)
    print(track.id, n, flush=True)
"""


class Lost(NamedTuple):
    """What was said to be kept and is not, and what is wrong with the file, or with a copy of it."""

    saves: int
    versions: int
    damage: list[str]


def _damage(db: sqlite3.Connection) -> list[str]:
    return [row[0] for row in db.execute("PRAGMA integrity_check") if row[0] != "ok"]


def killed(path: Path, rng: Random, turn: int) -> Lost:
    """Two writers, killed while both write; every third time a copy is made meanwhile."""
    writers = [
        subprocess.Popen(
            [sys.executable, "-c", WRITER, str(path), str(1_000_000 * (2 * turn + n + 1))],
            stdout=subprocess.PIPE, text=True,
        )
        for n in range(2)
    ]  # fmt: skip
    copy = path.with_name(f"copy-{turn}.sqlite")
    said: list[list[str]] = [[], []]
    for writer, lines in zip(writers, said, strict=True):
        assert writer.stdout is not None
        lines += [writer.stdout.readline() for _ in range(3)]
    if turn % 3 == 0:
        keeping.backup(path, copy)
    time.sleep(rng.uniform(0.0, 0.05))
    for writer in rng.sample(writers, 2):
        os.kill(writer.pid, signal.SIGKILL)
        time.sleep(rng.uniform(0.0, 0.005))
    lost_saves = lost_versions = 0
    damage: list[str] = []
    with Studio(path).reading() as db:
        damage += _damage(db)
        damage += ["foreign keys"] if db.execute("PRAGMA foreign_key_check").fetchall() else []
        for writer, lines in zip(writers, said, strict=True):
            assert writer.stdout is not None
            lines += writer.stdout.readlines()
            writer.wait()
            writer.stdout.close()
            id, last = (int(one) for one in [line for line in lines if line.endswith("\n")][-1].split())
            lost_saves += max(0, last - int(tracks.get(db, id).body))
            kept = {one.note for one in versions.of_track(db, id, 2**63 - 1, 10**6)}
            first = int(lines[0].split()[1])
            lost_versions += sum(str(n) not in kept for n in range(first + 1, last + 1) if n % 5 == 0)
    if copy.exists():
        with Studio(copy).reading() as db:
            damage += _damage(db)
        copy.unlink()
    return Lost(lost_saves, lost_versions, damage)


def main(count: int = 200) -> None:
    """Print what was lost."""
    rng = Random(11)
    with TemporaryDirectory() as folder:
        path = Path(folder) / "studio.sqlite"
        Studio(path)
        found = [killed(path, rng, turn) for turn in range(count)]
    part(f"Two writers of one studio, killed {count} times")
    figure("saves lost that were said to be kept", sum(one.saves for one in found), "", 0)
    figure("versions lost", sum(one.versions for one in found), "", 0)
    figure("files and copies that are not whole", sum(bool(one.damage) for one in found), "", 0)
