"""What becomes of tracks that are drawn by lot, and of sounds at the edges, in numbers that are kept."""

import io
import tempfile
from collections.abc import Callable
from functools import cache
from pathlib import Path

import mido
import numpy as np

from juglant.core.differences import differing
from juglant.core.ear.questions import SKILLS
from juglant.core.ear.staircase import Staircase, after, threshold
from juglant.core.errors import UserError
from juglant.core.findings import findings
from juglant.core.hits.align import align, cancellations
from juglant.core.hits.scatter import scatter
from juglant.core.lowend import tuning
from juglant.core.lowend.fitting import fitted, fitted_strokes
from juglant.core.lowend.instrument import instrument
from juglant.core.lowend.linenotes import line_notes, notes_of_lines
from juglant.core.lowend.session import Session
from juglant.core.lowend.sketch import sketch
from juglant.core.lowend.straight import Straight
from juglant.core.lowend.voices import evened, spills, voices
from juglant.core.measure.hit import measure
from juglant.core.measure.hum import find_hum
from juglant.core.measure.takenumbers import guess_job, reaches, take_numbers, velocity_groups
from juglant.core.measure.takes import cut
from juglant.core.recipes.sections import Entry, Track
from juglant.core.rooms.exposure import exposure
from juglant.core.stock.fit import first_look, measured_fit
from juglant.core.stock.known import known
from juglant.core.words import changes
from juglant.demo.scenario import TRACKS
from juglant.files.kit import drum_kit
from juglant.files.midi import MidiNote, read_midi, write_midi
from juglant.files.sheet import compressor_rows, track_sheet
from tests.core import test_fit as fitting
from tests.core.test_golden import SOURCES
from tests.core.test_random_tracks import SEEDS, drawn, session
from tests.kept import kept_tests, words
from tests.signals import RATE, Array, noise, ring, silence, sine

KEPT = Path(__file__).with_name("tracks.json")
_PLAYED = (Entry(section="intro", bars=2), Entry(section="main", bars=2), Entry(section="break", bars=1))


@cache
def _track(seed: int) -> tuple[Session, Track]:
    return session(), drawn(seed)


def midi_words(data: bytes) -> list[object]:
    return [
        word for track in mido.MidiFile(file=io.BytesIO(data)).tracks for message in track
        for word in str(message).replace("=", " ").split()
    ]  # fmt: skip


def _of_drawn(seed: int) -> dict[str, Callable[[], object]]:
    def judged() -> object:
        here, track = _track(seed)
        return [findings(here, here.answer(track.at(one.id))) for one in track.sections]

    def heard() -> object:
        here, track = _track(seed)
        found: list[object] = []
        for section in track.sections:
            state = track.at(section.id)
            for part in state.parts:
                loop = here.parts.part(state, part.id)
                found.append(None if loop is None else here.parts.ducked(state, loop, part).samples)
        return found

    def straight() -> object:
        here, track = _track(seed)
        with tempfile.TemporaryDirectory() as folder:
            played = Straight(here, track.arranged(_PLAYED), folder)
            tapes = {id: played.heard(id) for id in played.stems()}
            found = [
                [tape.read(0, tape.frames) for tape in tapes.values()],
                played.sounding_frames(list(tapes.values())),
                [played.gain_db(one.id, 0, played.frames) for one in track.state.duckings],
            ]
            played.close()
        return found

    def said() -> object:
        here, track = _track(seed)
        states = [track.at(one.id) for one in track.sections]
        told = [one for other in states[1:] for one in differing(states[0], other)]
        told += changes(track.with_section("more", "more", "main"), track)
        answer = here.answer(track.state)
        told.append(track_sheet("Drawn", answer, findings(here, answer)))
        return [words(one) for one in told]

    def notes() -> object:
        here, track = _track(seed)
        state = track.state
        lines = notes_of_lines(here.sounds, state)
        return [
            midi_words(write_midi("Drawn", state, lines)), sketch(state),
            [line_notes(here.sounds, state, voice) for voice in state.voices],
            spills(here, here.answer(state)), [voices(here, state, one.id) for one in state.voices],
            [evened(here, state, voice.id).voice(voice.id).line for voice in state.voices],
        ]  # fmt: skip

    return {"judged": judged, "heard": heard, "straight": straight, "said": said, "notes": notes}


def a_refusal(make: Callable[[], object]) -> object:
    """An answer, or which refusal."""
    try:
        return make()
    except UserError as problem:
        return words(problem.message)


_STATE = TRACKS["Stonefruit"]


def _ear() -> object:
    made = [
        skill.made(Session(), _STATE, difference, np.random.default_rng(n))
        for n, skill in enumerate(SKILLS) for difference in (skill.hardest, skill.easiest)
    ]  # fmt: skip
    stairs = Staircase(8.0)
    for right in (True, True, True, True, False, True, True, False, True, True, False, True, True, False):
        stairs = after(stairs, right=right, hardest=0.5, easiest=16.0)
    return made, stairs, threshold(stairs)


def _struck() -> Array:
    """Strokes of three sounds, hard and soft, in a room, over a hum that goes on."""
    out = 0.0005 * noise(3.0) + 0.001 * sine(50.0, 3.0)
    for n, (hz, level) in enumerate(((60.0, 0.8), (60.0, 0.3), (180.0, 0.5), (3000.0, 0.4), (60.0, 0.75))):
        start = round((0.15 + 0.55 * n) * RATE)
        x = level * ring(hz, 200, 0.5)
        out[start : start + x.size] += x
    return out


def _takes() -> object:
    x = _struck()
    found = [take_numbers(x, RATE, one) for one in cut(x, RATE)]
    levels = [one.level_dbfs for one in found]
    groups = velocity_groups(levels)
    return found, groups, reaches(groups, levels), find_hum(x, RATE)


def _edges() -> object:
    """Short, long, stereo, offset, cut, silent in front, high, low, and with a second tone."""
    sounds = [
        ring(52.0, 300, 0.05), ring(52.0, 3000, 1.0), 0.1 + 0.5 * ring(90.0, 300, 0.6),
        np.concatenate([silence(0.014), ring(70.0, 250, 0.4)]), ring(4000.0, 60, 0.2), ring(27.0, 900, 1.2),
        np.stack([ring(60.0, 300, 0.5), -ring(60.0, 300, 0.5)], axis=1),
        np.stack([ring(60.0, 300, 0.5), 0.4 * ring(61.0, 200, 0.5)], axis=1),
        ring(150.0, 250, 0.5) + 0.9 * ring(211.0, 250, 0.5), ring(60.0, 250, 0.6) + 0.02 * sine(50.0, 0.6),
    ]  # fmt: skip
    found = [measure(x, RATE, 432.0, True) for x in sounds]
    return found, [guess_job(one.hit) for one in found]


def _aligned() -> object:
    a, b = ring(55.0, 300, 0.5), ring(82.0, 200, 0.5)
    late = np.concatenate([silence(0.0016), -b])[: a.size]
    bands = [align(a, x, RATE, band) for x in (b, late) for band in ((20.0, 150.0), (150.0, 2000.0))]
    return bands, cancellations({0: a, 1: late, 2: b}, RATE)


def _fits() -> object:
    given = [fitting.IN_TUNE, fitting.OFF, fitting.LONG]
    looked = [first_look(fitting.STATE, part, given) for part in ("kick", fitting.STATE.hits[0].id)]
    return looked, [
        measured_fit(fitting.SESSION, fitting.STATE, "kick", one, weights)
        for one in given for weights in (None, {"tune": 0.2})
    ]  # fmt: skip


def _patterns() -> object:
    brief = _STATE.brief
    swung = [(n / 4 + 0.04 * (n % 2), 0.6 + 0.1 * (n % 3)) for n in range(16)]
    loose = [(0.02, 1.0), (0.03, 0.5), (1.3, 0.7), (2.66, 0.4), (40.0, 1.0)]
    line = [MidiNote(at, 0.2, 33 + int(5 * hard), hard) for at, hard in swung]
    return [
        a_refusal(lambda: fitted_strokes(swung, brief)), a_refusal(lambda: fitted_strokes(loose, brief)),
        a_refusal(lambda: fitted(line, brief)), read_midi(write_midi("x", _STATE, {}), "x.mid"),
    ]  # fmt: skip


ALONE: dict[str, Callable[[], object]] = {
    "ear": _ear,
    "takes": _takes,
    "edges": _edges,
    "aligned": _aligned,
    "fits": _fits,
    "patterns": _patterns,
    "scattered": lambda: [scatter(source, 0.6, ["end_hz"], 5)[:2] for source in SOURCES],
    "instrument": lambda: [
        (key.midi, key.samples) for key in instrument(Session(), _STATE, _STATE.voices[0].id, 36, 38)
    ],
    "kit": lambda: {
        name: words(data.decode()) if name.endswith(".csv") else len(data)
        for name, data in drum_kit(Session(), "Kit", 120.0, _STATE.hits[:1]).items()
    },
    "loops": lambda: [known(_struck(), RATE), known(np.concatenate([_struck()] * 2), RATE)],
    "compressor": lambda: [
        compressor_rows(one) for one in Session().as_compressor(_STATE, _STATE.duckings[0])
    ],
    "exposure": lambda: [exposure(dba, dbc) for dba, dbc in ((84.0, None), (96.0, 108.0), (103.0, 121.0))],
    "beating": lambda: [
        (tuning.beat_hz(51.0, root, 440.0), tuning.grates(root, {root + 1})) for root in range(12)
    ],
}
CASES: dict[str, Callable[[], object]] = {
    **ALONE,
    **{f"{seed}, {name}": ask for seed in SEEDS[::4] for name, ask in _of_drawn(seed).items()},
}

test_nothing_is_left_out, test_an_answer_is_what_it_was = kept_tests(KEPT, CASES)
