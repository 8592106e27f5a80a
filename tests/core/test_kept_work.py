"""What is solved, designed, matched, held against records and heard in rooms, in numbers that are kept."""

import tempfile
import zipfile
from collections.abc import Callable
from dataclasses import replace
from functools import cache, partial
from pathlib import Path
from typing import Any

import numpy as np

from bench.faults import FAULTS, faulty
from juglant.core.designing.design import design
from juglant.core.designing.kicks import heard_on_small
from juglant.core.designing.search import asked_db
from juglant.core.findings import findings
from juglant.core.findings.room import There, room_checks
from juglant.core.findings.solving import change, solve, solve_sections
from juglant.core.hits.making import made
from juglant.core.hits.mixing import with_tone
from juglant.core.hits.render import HitRenderer
from juglant.core.kept import Kept
from juglant.core.logbook import silhouette_svg
from juglant.core.lowend.ducking import traced
from juglant.core.lowend.duckings import stand_in
from juglant.core.lowend.overview import played_ids
from juglant.core.lowend.session import Session
from juglant.core.matching.apart import taken_apart
from juglant.core.measure.record import kicks_in, record
from juglant.core.measure.reference import reference
from juglant.core.measure.transcribe import transcribe
from juglant.core.process.equaliser import equalise
from juglant.core.recipes.chain import EqualiserStage
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.hit import Made808, MadeKick
from juglant.core.recipes.kick import KickRecipe
from juglant.core.recipes.room import Car, ClubSystem, Headphones, Laptop, Phone, Room, SmallClub
from juglant.core.recipes.sections import Entry, Track
from juglant.core.recipes.tone808 import Recipe808
from juglant.core.referencing.against import against, nearer, nearest_of, track_record
from juglant.core.referencing.passages import loop_of
from juglant.core.rooms.heard import heard_in
from juglant.core.rooms.judged import everything
from juglant.core.rooms.systems import response_db
from juglant.demo.scenario import TRACKS
from juglant.files.arranged import write_arranged
from juglant.files.handed import track_files
from juglant.files.midi import write_found_notes
from tests.core.test_kept_tracks import a_refusal, midi_words
from tests.core.test_random_tracks import drawn, session
from tests.kept import kept_tests, words
from tests.signals import RATE, Array, ring

KEPT = Path(__file__).with_name("work.json")
_STATE = TRACKS["Stonefruit"]
_ROOMS: tuple[Room, ...] = (ClubSystem(), SmallClub(), Headphones(), Laptop(), Phone(), Car())


@cache
def _here() -> Session:
    return Session()


def _solved() -> object:
    here = _here()
    found = solve(here, _STATE, frozenset({_STATE.kick.id}), told=lambda looked, left: looked < 6).degrees
    degrees = [(one.steps, one.left, one.change) for one in found]
    return degrees, change(here.answer(_STATE), here.answer(found[-1].state))


def _solved_sections() -> object:
    track = Track(state=_STATE).with_section("break", "break", "main")
    there = track.at("break")
    longer = there.kick.with_source(0, MadeKick(recipe=KickRecipe(decay_ms=900.0, length_ms=1000.0)))
    track = track.with_state("break", there.with_kick(longer))
    after, found = solve_sections(_here(), track, told=lambda section, looked, left: looked < 1)
    return [(id, [one.steps for one in each.degrees]) for id, each in found.items()], [
        one.part for one in after.section("break").parts
    ]


def _designed(wanted: str) -> object:
    found = design(_here(), _STATE, wanted, told=lambda tried: tried < 5)  # type: ignore[arg-type]
    return [replace(one, state=_STATE) for one in found], [
        (one.state.kick.layers, one.state.voices[0].bass) for one in found
    ]


def _apart(source: MadeKick | Made808) -> object:
    kept: list[Array] = []

    def put(x: Array, name: str) -> str:
        kept.append(x)
        return f"{len(kept):064x}"

    x = made(source, 120.0)
    hits = HitRenderer(Kept(64), lambda digest: (kept[int(digest, 16) - 1], RATE))
    found = taken_apart(x, "one", "kick", hits, put)
    return found.hit.layers, found.likeness, [words(one) for one in found.said], kept


_SHORT = MadeKick(recipe=KickRecipe(end_hz=55.0, decay_ms=150.0, length_ms=180.0, click_db=-12.0))
_LOW = Made808(recipe=Recipe808(end_hz=49.0, decay_ms=500.0, length_ms=600.0))


def _against() -> object:
    here = _here()
    others = [track_record(here, TRACKS[name]) for name in ("Green Husk", "Cobnut Rain")]
    mine = track_record(here, _STATE)
    found = against(mine, others[:1])
    near = nearest_of(mine, others)
    ways = [a_refusal(partial(nearer, here, _STATE, others[:1], one.name)) for one in found[:6]]
    return found, near, ways


def _records() -> object:
    x = np.concatenate([everything(_here(), _STATE).samples] * 2)
    mono = x if x.ndim == 1 else x.mean(axis=1)
    told = record(x, RATE)
    return told, kicks_in(mono, RATE, _STATE.brief.bpm), loop_of(x, RATE, told)


def _keys() -> object:
    """Of held chords: with them a key has a mode."""
    found = []
    for name in TRACKS:
        state = TRACKS[name]
        x = stand_in(state.brief, RATE)
        found.append(reference(x if x.ndim == 1 else x.mean(axis=1), RATE))
    return found


def _rooms() -> object:
    here, answer = _here(), _here().answer(_STATE)
    checks = [room_checks(There(room)) for room in _ROOMS]
    found = [one.judge(here, answer) for each in checks for one in each]
    fixed = [
        a_refusal(partial(fix, here, answer)) for each in checks[:5] for one in each for fix in one.fixes.values()
    ]  # fmt: skip
    heard = [
        heard_in(here, _STATE, room, [_STATE.kick.id, _STATE.voices[0].id], ducked=ducked, by=by)
        for room, ducked, by in ((Phone(), True, "loudness"), (SmallClub(), False, "low band"))
    ]
    hz = np.geomspace(20.0, 20000.0, 24)
    return (
        found,
        fixed,
        [(loop.samples, match) for loop, match in heard],
        [response_db(room, hz, RATE) for room in _ROOMS],
    )


def _arranged() -> object:
    track = drawn(4).arranged((Entry(section="intro", bars=2), Entry(section="main", bars=1)))
    with tempfile.TemporaryDirectory() as folder:
        out = Path(folder) / "a.zip"
        named = write_arranged(session(), "Drawn", track, out)
        archive = zipfile.ZipFile(out)
        midi = [midi_words(archive.read(name)) for name in named if name.endswith(".mid")]
        return named, [archive.getinfo(name).file_size for name in named], midi


def _handed() -> object:
    track = drawn(8)
    files = track_files(session(), "Drawn", track, list(track.sections[:1]))
    texts = [words(data.decode()) for name, data in files.items() if name.endswith((".txt", ".csv"))]
    return (
        [(name, len(data)) for name, data in files.items()],
        texts,
        [midi_words(data) for name, data in files.items() if name.endswith(".mid")],
    )


def _notes() -> object:
    x = np.concatenate([0.5 * ring(hz, 900, 0.5) for hz in (55.0, 65.4, 49.0, 55.0)])
    return midi_words(write_found_notes("Line", transcribe(x, RATE), 120.0))


# The track without its fault is one and the same: what the fault does not touch is measured once.
_FILES: dict[str, Array] = {}
_JUDGE = Session(lambda digest: (_FILES[digest], RATE))


def _faulty(fault: Any) -> object:
    """Every number that the judges find in a track with a fault."""
    track = faulty(fault, 0)
    _FILES.update(track.files)
    return findings(_JUDGE, _JUDGE.answer(track.state))


CASES: dict[str, Callable[[], object]] = {
    **{f"fault, {fault[0]}": partial(_faulty, fault) for fault in FAULTS},
    "solved": _solved,
    "solved in sections": _solved_sections,
    "designed kick": partial(_designed, "kick"),
    "designed 808": partial(_designed, "808"),
    "taken apart, short": partial(_apart, _SHORT),
    "taken apart, low": partial(_apart, _LOW),
    "against": _against,
    "records": _records,
    "keys": _keys,
    "rooms": _rooms,
    "arranged": _arranged,
    "handed over": _handed,
    "notes": _notes,
    "small": lambda: (heard_on_small(_here(), _STATE)[1], asked_db(_here(), _STATE)),
    "played": lambda: played_ids(_here(), list(TRACKS.values())),
    "with a tone": lambda: with_tone(ring(60.0, 300, 0.4), 55.0, RATE),
    "silhouette": lambda: words(silhouette_svg([-3, -20, -60], [-6, -12]).replace(",", " ")),
    "curves": lambda: [
        traced(recipe)
        for recipe in (DuckRecipe(), DuckRecipe(lookahead_ms=6.0, hold_ms=40.0), _STATE.duckings[0].duck)
    ],
    "equalised": lambda: [
        equalise(ring(90.0, 200, 0.3), stage, RATE)
        for stage in (EqualiserStage(highpass_hz=40.0), EqualiserStage(phase="linear", lowpass_hz=900.0))
    ],
}

# What others pass through, too.
_THOROUGH = ("solved", "designed 808")
test_nothing_is_left_out, test_an_answer_is_what_it_was = kept_tests(KEPT, CASES, _THOROUGH.__contains__)
