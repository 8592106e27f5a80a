"""Judging: places against their formulas, equal loudness against an independent meter, and how long it
takes to judge a loop in a place, to measure a record of five minutes, and to list a long log.
"""

import json
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import librosa
import numpy as np
import pyloudnorm
import soundfile
from scipy import signal
from starlette.testclient import TestClient

from bench.figures import figure, part
from bench.tracks import GENRES, clean
from juglant.api.app import create_app
from juglant.core import RATE
from juglant.core.findings.room import There, room_checks
from juglant.core.lowend.session import Session
from juglant.core.measure.record import record
from juglant.core.process.resampling import change_rate
from juglant.core.recipes.room import Car, ClubSystem, Headphones, Laptop, Phone, Room, SmallClub
from juglant.core.rooms.judged import everything
from juglant.core.rooms.systems import mode_hz, response_db
from juglant.core.rooms.through import matched, through
from juglant.files.passage import passage
from juglant.store import versions
from juglant.store.database import Studio

ASKED_DB, ASKED_LU, ASKED_ROOM_MS, ASKED_RECORD_S, ASKED_LOG_MS = 0.1, 0.05, 300.0, 8.0, 100.0
ROOMS: tuple[Room, ...] = (ClubSystem(), SmallClub(), Headphones(), Laptop(), Phone(), Car())


def _best_of(work: Callable[[], object], times: int = 5) -> float:
    found = []
    for _ in range(times):
        begun = time.perf_counter()
        work()
        found.append(time.perf_counter() - begun)
    return min(found)


def _bilinear(hz: np.ndarray, sections: list[tuple[np.ndarray, np.ndarray]]) -> np.ndarray:
    """Analogue filters as the bilinear transform gives them, by scipy."""
    out = np.ones(hz.size, complex)
    for b, a in sections:
        out *= signal.freqz(*signal.bilinear(b, a, RATE), worN=hz, fs=RATE)[1]
    return np.asarray(20 * np.log10(np.abs(out)))


def _warped(hz: float) -> float:
    return float(2 * RATE * np.tan(np.pi * hz / RATE))


def _formula_db(room: Room, hz: np.ndarray) -> np.ndarray:
    """The stand-in by scipy's filters and the cookbook's analogue prototypes."""
    if isinstance(room, Headphones | Car):
        corner, gain = (105.0, room.bass_db) if isinstance(room, Headphones) else (
            mode_hz(room.cabin_m), room.cabin_db)  # fmt: skip
        w, a = _warped(corner), 10 ** (gain / 40)
        root = np.sqrt(a) * np.sqrt(2)
        shelf = (a * np.array([1, root * w, a * w * w]), np.array([a, root * w, w * w]))
        out = _bilinear(hz, [shelf])
        if isinstance(room, Car):
            sos = signal.butter(2, room.lowest_hz, "highpass", fs=RATE, output="sos")
            out += 20 * np.log10(np.abs(signal.freqz_sos(sos, hz, fs=RATE)[1]))
        return out
    sos = signal.butter(4, room.lowest_hz, "highpass", fs=RATE, output="sos")  # type: ignore[union-attr]
    out = 20 * np.log10(np.maximum(np.abs(signal.freqz_sos(sos, hz, fs=RATE)[1]), 1e-6))
    if isinstance(room, SmallClub):
        corner = mode_hz(room.length_m)
        w, a, q = _warped(corner), 10 ** (room.mode_db / 40), corner * room.decay_s / 2.2
        out += _bilinear(hz, [(np.array([1, a * w / q, w * w]), np.array([1, w / (a * q), w * w]))])
    return np.asarray(out)


def _by_the_tables(x: np.ndarray) -> float:
    """Loudness by the coefficients that ITU-R BS.1770-5 prints for 48 kHz (tables 1 and 2), both gates."""
    shelf = ([1.53512485958697, -2.69169618940638, 1.19839281085285],
             [1, -1.69065929318241, 0.73248077421585])  # fmt: skip
    highpass = ([1, -2, 1], [1, -1.99004745483398, 0.99007225036621])
    y = x
    for b, a in (shelf, highpass):
        y = signal.lfilter(b, a, y, axis=0)
    block = round(0.4 * RATE)
    starts = range(0, len(y) - block + 1, block // 4)
    power = np.array([np.sum(np.mean(y[at : at + block] ** 2, axis=0)) for at in starts])
    level = -0.691 + 10 * np.log10(np.maximum(power, 1e-20))
    heard = power[level > -70.0]
    gate = 10 * np.log10(heard.mean()) - 10
    return float(-0.691 + 10 * np.log10(heard[10 * np.log10(heard) > gate].mean()))


def places() -> None:
    """Responses, equal loudness, and false alarms on clean tracks."""
    hz = np.geomspace(20.0, 20000.0, 1000)
    worst = max(float(np.abs(response_db(room, hz, RATE) - _formula_db(room, hz)).max()) for room in ROOMS)
    figure("responses, from scipy's filters", worst, "dB", ASKED_DB)
    meter, apart, rounded, told = pyloudnorm.Meter(RATE), [], [], 0
    tracks = [clean(genre, seed) for genre in GENRES for seed in range(4)]
    for track in tracks:
        session = Session(track.load)
        dry = everything(session, track.state).samples
        both = np.stack([dry, dry], axis=1) if dry.ndim == 1 else dry
        for room in ROOMS:
            there = through(room, [dry], RATE)[0]
            gain = matched(dry, there, RATE)
            if not gain.short:
                even = there * 10 ** (gain.gain_db / 20)
                apart.append(abs(_by_the_tables(even) - _by_the_tables(both)))
                rounded.append(abs(meter.integrated_loudness(even) - meter.integrated_loudness(both)))
        answer = session.answer(track.state)
        for room in (ClubSystem(), Phone()):
            found = [one.judge(session, answer) for one in room_checks(There(room))]
            told += sum(one is not None and one.id != "room-low-note" for one in found)
    figure(
        f"{len(apart)} loops in places equally loud, by the standard's tables", max(apart), "LU", ASKED_LU
    )
    figure("the same, by a meter that rounds them", max(rounded), "LU")
    figure(f"findings on {len(tracks)} clean tracks, in a club and on a phone", told, "", 0)
    track = clean("house", 3)
    session, state = Session(track.load), track.state
    There(Phone()).look(session, state)
    lengths = iter(np.linspace(30.0, 50.0, 200))
    ours = _best_of(lambda: There(ClubSystem(lowest_hz=float(next(lengths)))).look(session, state))
    dry = everything(session, state).samples
    mono = dry if dry.ndim == 1 else dry.mean(axis=1)
    tail = np.random.default_rng(1).standard_normal(2 * RATE)
    peer = _best_of(lambda: [signal.oaconvolve(np.tile(mono, 2), tail) for _ in range(2)])
    figure(f"a loop of {mono.size / RATE:.1f} s judged in a club", 1000 * ours, "ms", ASKED_ROOM_MS,
           peer="two plain convolutions with its hall", ratio=ours / peer)  # fmt: skip


def records(folder: Path) -> None:
    """A record of five minutes, from the file to its numbers."""
    track = clean("house", 3)
    loop = everything(Session(track.load), track.state).samples
    hats = 0.02 * np.random.default_rng(1).standard_normal(loop.shape)
    x = np.concatenate([0.5 * loop + hats] * round(300 * RATE / loop.shape[0]))
    path = folder / "five minutes.wav"
    soundfile.write(path, x, RATE, subtype="PCM_24")

    def measured() -> object:
        found = passage(path)
        return record(change_rate(found.audio.samples, found.audio.rate, RATE), RATE)

    def peer() -> None:
        y, rate = librosa.load(path, sr=None, duration=30.0)
        librosa.beat.beat_track(y=y, sr=rate)
        librosa.feature.chroma_cqt(y=y, sr=rate)
        pyloudnorm.Meter(rate).integrated_loudness(y)

    peer()
    ours, theirs = _best_of(measured, 2), _best_of(peer, 2)
    figure(f"a record of {x.shape[0] / RATE / 60:.1f} min measured", ours, "s", ASKED_RECORD_S,
           peer="beat, chroma and loudness of half a minute", ratio=ours / theirs)  # fmt: skip


def log(folder: Path) -> None:
    """A log of 500 versions, page by page."""
    client = TestClient(create_app(Studio(folder / "studio.sqlite")), base_url="http://127.0.0.1:8137")
    track = client.post("/api/tracks/demo", json={"name": "Green Husk"}).json()
    address = f"/api/tracks/{track['id']}/versions"
    keep = {"section": track["section"], "state": track["state"], "note": "first"}
    first = client.post(address, json=keep).json()
    desk = client.app.state.desk  # type: ignore[attr-defined]
    with desk.studio.changing() as db:
        whole = versions.get(db, track["id"], first["id"])
        for number in range(499):
            versions.keep(db, track["id"], whole.body, whole.numbers, f"number {number}")
    page = _best_of(lambda: client.get(address))
    find = _best_of(lambda: client.get(f"{address}?find=number%20498"))
    size = len(client.get(address).content)
    tracks_ms = _best_of(lambda: client.get("/api/tracks"))
    figure("a log of 500 versions: its first page", 1000 * page, "ms", ASKED_LOG_MS,
           peer="an answer that reads next to nothing", ratio=page / tracks_ms)  # fmt: skip
    figure("a log of 500 versions: one found", 1000 * find, "ms", ASKED_LOG_MS)
    figure("a log of 500 versions: what that page weighs", size / 1000, "kB")
    assert json.loads(client.get(f"{address}?find=number%20498").content)["versions"]


def main() -> None:
    """Print everything."""
    part("Judging: places, records, log")
    places()
    with tempfile.TemporaryDirectory() as folder:
        records(Path(folder))
        log(Path(folder))


if __name__ == "__main__":
    main()
