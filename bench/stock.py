"""The stock: how fast folders are looked through beside a general-purpose library, how many kinds are
right, how fast thousands are found, and whether the first five of a fit hold the best.
"""

import json
import os
import sqlite3
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from random import Random

import librosa
import numpy as np
import pyloudnorm
import soundfile

from bench.figures import figure, memory_mb, part
from bench.fuzz import broken, sound_files
from bench.instruments import RATE, SET
from bench.kinds import drums
from bench.speed import Line, times, with_recipe
from bench.tracks import GENRES, Track, clean, hz_of, kick
from juglant.core.lowend.session import Session
from juglant.core.recipes.track import TrackState
from juglant.core.stock.fit import first_look, measured_fit
from juglant.core.stock.known import Numbers, known
from juglant.stock.scan import Progress, Scan
from juglant.store import finding, stock
from juglant.store.finding import Likeness, Query, Range
from juglant.store.stock import Stock
from tests.browser.serving import serving

ASKED_FILES_A_SECOND, ASKED_RATIO, ASKED_FIND_MS, ASKED_BEST = 60.0, 20.0, 150.0, 0.95


def _peer(x: np.ndarray) -> None:
    """Pitch, onset, loudness and spectrum with general-purpose libraries."""
    librosa.pyin(x, fmin=30, fmax=2000, sr=RATE, frame_length=4096)
    librosa.onset.onset_detect(y=x, sr=RATE)
    pyloudnorm.Meter(RATE).integrated_loudness(x)
    librosa.feature.spectral_centroid(y=x, sr=RATE)
    librosa.feature.spectral_flatness(y=x)


def _children() -> list[int]:
    """The processes that measure for this one."""
    found = []
    for task in Path("/proc/self/task").iterdir():
        found += [int(pid) for pid in (task / "children").read_text().split()]
    return found


def scanning(folder: Path) -> None:
    """Recorded one-shots of a second each, in two processes; and their kinds."""
    shots = [(kind, x[:RATE]) for kind, x in drums(SET, velocities=(110, 70))]
    (folder / "shots").mkdir()
    truth = {}
    for n, (kind, x) in enumerate(shots):
        name = f"{n:04d}.wav"
        truth[name] = kind
        soundfile.write(folder / "shots" / name, x, RATE, "PCM_24")
    held = Stock(folder / "stock.sqlite")
    with held.changing() as db:
        stock.add_folder(db, folder / "shots")
    most = 0.0

    def told(_: Progress) -> None:
        nonlocal most
        most = max(most, sum(memory_mb(child) for child in _children()))

    done = Scan(held, 2).run(told)
    figure("scan: files of 1 s a second, two processes", done.rate, "", ASKED_FILES_A_SECOND, at_least=True)
    figure("scan: memory of both", most, "MB", 600)
    some = [np.ascontiguousarray(x.mean(axis=1)) for _, x in shots[:: len(shots) // 12]]
    took = {}
    for name, call in (("ours", lambda x: known(x, RATE)), ("peer", _peer)):
        call(some[0])
        began = time.perf_counter()
        for x in some:
            call(x)
        took[name] = (time.perf_counter() - began) / len(some)
    ratio = took["peer"] / took["ours"]
    figure("one file", 1000 * took["ours"], "ms")
    figure("faster than pitch, onset, loudness and spectrum by librosa", ratio, "times", ASKED_RATIO,
           at_least=True)  # fmt: skip
    with held.reading() as db:
        entries = finding.find(db, Query())
    right = sum(truth[os.path.basename(one.path)] == one.kind for one in entries)
    share = 100 * right / len(entries)
    figure(f"kinds of {len(entries)} recorded drums, of sets learned from", share, "%", 95, at_least=True)


def beside(folder: Path) -> None:
    """How much longer the page waits for an answer while a folder is looked through."""
    state = TrackState().model_dump(mode="json")
    with serving("--data", str(folder / "page")) as server:
        line = Line(server.address)

        def answer(n: int) -> None:
            changed = with_recipe(state, 0, "decay_ms", 380.0 + 0.137 * n)
            line.post("/api/duck/answer", {"state": changed})

        def running() -> bool:
            return any(job["state"] == "running" for job in json.loads(line.get("/api/jobs")))

        times(answer, 5)
        alone = times(answer, 80)
        line.post("/api/stock/folders", {"path": str(folder / "shots")})
        time.sleep(3.0)  # until its processes measure
        scanned = times(lambda n: answer(100 + n), 80)
        assert running(), "the scan ended before the answers did"
    for name, share, asked in (("median", 50, 1.25), ("95th percentile", 95, None)):
        ratio = np.percentile(scanned, share) / np.percentile(alone, share)
        figure(f"an answer while a folder is looked through, {name}", ratio, "times", asked)


def hostile(folder: Path, count: int = 10_000) -> None:
    """A folder of so many files that are broken in every way: none stops the others."""
    rng, sounds = Random(5), sound_files(0.05)
    root = folder / "hostile"
    for n in range(count):
        at = root / chr(rng.randrange(0x3B1, 0x3C9)) / chr(rng.randrange(97, 123))
        at.mkdir(parents=True, exist_ok=True)
        ending = rng.choice(("wav", "aif", "flac", "ogg", "mp3", "caf"))
        (at / f"{n} \u202e鼓.{ending}").write_bytes(broken(rng.choice(sounds), rng))
    held = Stock(folder / "hostile.sqlite")
    with held.changing() as db:
        stock.add_folder(db, root)
    most_mb = 0.0

    def told(_: Progress) -> None:
        nonlocal most_mb
        most_mb = max(most_mb, sum(memory_mb(child) for child in _children()))

    done = Scan(held, 2).run(told)
    with held.reading() as db:
        troubled = len(stock.troubled(db, count))
    figure(f"of {count} broken files not looked at", count - done.done, "", 0)
    figure("of them refused with a sentence, the others measured", troubled)
    figure("memory of both processes meanwhile", most_mb, "MB", 600)


def finding_many(folder: Path, count: int = 50_000) -> None:
    """So many entries, found by columns, words and likeness."""
    held = Stock(folder / "many.sqlite")
    rng = np.random.default_rng(1)
    one = known(kick(50.0, 300.0), RATE)
    with held.changing() as db:
        (folder / "away").mkdir()
        at = stock.add_folder(db, folder / "away")
        for n in range(count):
            digest = f"{n:064x}"
            if n == 0:
                stock.put_sound(db, digest, one)
            else:
                db.execute("CREATE TEMP TABLE made AS SELECT * FROM sound LIMIT 1")
                numbers = (digest, 20 + 40 * rng.random(), 2000 * rng.random())
                db.execute("UPDATE made SET hash = ?, midi = ?, length_ms = ?", numbers)
                db.execute("INSERT INTO sound SELECT * FROM made")
                db.execute("DROP TABLE made")
                portrait = one.portrait + rng.normal(0, 4, one.portrait.size)
                db.execute(
                    "INSERT INTO detail (hash, numbers, portrait) SELECT ?, numbers, ? FROM detail LIMIT 1",
                    (digest, portrait.astype("<f4").tobytes()),
                )
            raw = f"kit {n % 97}/sound {n}.wav".encode()
            stock.put_place(db, at, raw, 1, 1, digest=digest, trouble=None)
    likeness, before_mb = Likeness(), memory_mb("self")
    with held.reading() as db:
        likeness.like(db, one.portrait)
    asked: dict[str, Callable[[sqlite3.Connection], object]] = {
        "kind and note": lambda db: finding.find(db, Query(kind="kick", midi=33), 200),
        "words": lambda db: finding.find(db, Query(words="kit 42"), 200),
        "length": lambda db: finding.find(db, Query(length_ms=Range(100, 200)), 200),
        "likeness": lambda db: likeness.like(db, one.portrait),
    }  # fmt: skip
    for name, call in asked.items():
        took = []
        for _ in range(5):
            with held.reading() as db:
                began = time.perf_counter()
                call(db)
                took.append(1000 * (time.perf_counter() - began))
        figure(f"{count} entries by {name}", np.median(took), "ms", ASKED_FIND_MS)
    figure("their portraits in memory", memory_mb("self") - before_mb, "MB")


def _kicks(track: Track, count: int) -> list[Numbers]:
    """Kicks made apart from the product's own: of all notes, lengths, sweeps and clicks."""
    rng = np.random.default_rng(7)
    found = []
    for n in range(count):
        hz = hz_of(26 + 16 * rng.random())
        ms = 90 * 10 ** (rng.random() * 1.1)
        x = kick(
            hz, ms, sweep=1 + 5 * rng.random(), sweep_ms=5 + 30 * rng.random(), click=0.4 * rng.random()
        )
        hit = known(x, RATE).hit
        midi = None if hit.fundamental_hz is None else 69 + 12 * np.log2(hit.fundamental_hz / 440)
        found.append(
            Numbers(track.keep(x), f"{n}.wav", midi, hit.pitch_confidence, hit.length_ms, hit.decay20_ms,
                    (hit.bands_db or {}).get("sub"))
        )  # fmt: skip
    return found


def fitting(tracks: int = 6, kicks: int = 60, measured: int = 50) -> None:
    """Whether the first five of what is offered hold the best of all, each measured in the loop."""
    held = 0
    took = []
    for n in range(tracks):
        track = clean(GENRES[n % len(GENRES)], 100 + n)
        sounds = _kicks(track, kicks)
        by_hash = {one.hash: one for one in sounds}
        session, part = Session(track.load), track.state.kick.id
        first = [one.hash for one in first_look(track.state, part, sounds)][:measured]
        began = time.perf_counter()
        exact = {one: measured_fit(session, track.state, part, by_hash[one]).fit for one in first}
        took.append((time.perf_counter() - began) / len(first))
        rest = {
            one.hash: measured_fit(session, track.state, part, one).fit
            for one in sounds if one.hash not in exact
        }  # fmt: skip
        best = max({**exact, **rest}.values())
        offered = sorted(exact.values(), reverse=True)[:5]
        held += offered[0] >= best - 1e-9
    seconds = measured * np.mean(took)
    figure(f"fit: best of {kicks} kicks in the first five, {tracks} tracks", 100 * held / tracks, "%", 95,
           at_least=True)  # fmt: skip
    figure(f"fit: {measured} measured in the loop", seconds, "s", 3)


def main() -> None:
    """All of it; `--full` fits 40 tracks × 200 kicks."""
    part("The stock")
    with tempfile.TemporaryDirectory() as folder:
        scanning(Path(folder))
        beside(Path(folder))
        hostile(Path(folder))
        finding_many(Path(folder))
    if "--full" in sys.argv:
        fitting(40, 200)
    else:
        fitting()


if __name__ == "__main__":
    main()
