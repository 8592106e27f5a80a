"""What is measured, judged and proposed for a few loops, in numbers that are kept."""

from collections.abc import Callable
from functools import cache, partial
from pathlib import Path

import numpy as np

from juglant.core.errors import UserError
from juglant.core.findings import effect, findings, fixes
from juglant.core.hits.jobs import holes
from juglant.core.hits.making import made
from juglant.core.lowend import proposing, separation, tuning
from juglant.core.lowend.aligning import align_parts
from juglant.core.lowend.meeting import meeting, moment
from juglant.core.lowend.overview import (
    covered_share,
    depth_heard,
    overview,
    played_duckings,
    solve_ducking,
)
from juglant.core.lowend.session import Session
from juglant.core.measure.defects import flat_tops, goes_on, leading_silence_ms, resting_offset, strokes
from juglant.core.measure.drummap import drum_map
from juglant.core.measure.hit import measure
from juglant.core.measure.partials import partials
from juglant.core.measure.record import differences
from juglant.core.measure.reference import reference
from juglant.core.measure.stereo import mono
from juglant.core.measure.takenumbers import take_numbers
from juglant.core.measure.takes import cut, onsets_ms
from juglant.core.measure.transcribe import transcribe
from juglant.core.process.retuning import moved, straightened, stretched
from juglant.core.process.saturation import blocked, fundamental_gains, soft_clip
from juglant.core.recipes.room import Car, ClubSystem, Headphones, Phone, Room, SmallClub
from juglant.core.referencing.against import track_record
from juglant.core.rooms.judged import everything, headroom, judged, small
from juglant.core.stock.kinds import guessed, odds
from juglant.core.stock.known import known
from juglant.demo.scenario import TRACKS
from juglant.demo.workshop import workshop_recording
from tests.core.test_golden import SOURCES
from tests.kept import kept_tests
from tests.signals import RATE, Array, noise, ring

KEPT = Path(__file__).with_name("answers.json")
_ROOMS: tuple[Room, ...] = (ClubSystem(), SmallClub(), Headphones(), Phone(), Car())


_COMMON = ("collision", "off-key-kick", "sub-shared", "cancels")


def _sound(kind: str) -> Array:
    """A made sound; a struck skin among noise; a loop of four notes; a recording of a workshop."""
    if kind == "skin":
        return 0.6 * ring(110.0, 250, 0.5) + 0.3 * ring(176.0, 180, 0.5) + 0.02 * noise(0.5)
    if kind == "notes":
        return np.concatenate([0.5 * ring(hz, 900, 0.5) for hz in (55.0, 65.4, 49.0, 55.0)])
    if kind == "workshop":
        return mono(workshop_recording())[: 4 * RATE]
    source = next(one for one in SOURCES if one.kind == kind)
    return mono(made(source, 126.0))


@cache
def _mix(name: str) -> Array:
    return mono(everything(Session(), TRACKS[name]).samples)


def _of_sound(kind: str) -> dict[str, Callable[[], object]]:
    def hit() -> object:
        return measure(_sound(kind), RATE)

    return {
        "hit": hit,
        "partials": lambda: partials(_sound(kind), RATE, 0.0),
        "stock": lambda: (known(_sound(kind), RATE), odds(known(_sound(kind), RATE).portrait)),
        "defects": lambda: (
            [f(_sound(kind), RATE) for f in (leading_silence_ms, resting_offset, strokes, goes_on)]
            + [flat_tops(_sound(kind))]
        ),
        "holes": lambda: [holes(job, _sound(kind), RATE) for job in ("kick", "snare", "hat")],
    }


def _of_loop(x: Callable[[], Array]) -> dict[str, Callable[[], object]]:
    return {
        "takes": lambda: (onsets_ms(x(), RATE), [take_numbers(x(), RATE, one) for one in cut(x(), RATE)]),
        "notes": lambda: transcribe(x(), RATE),
        "drums": lambda: drum_map(x(), RATE),
        "reference": lambda: reference(x(), RATE),
    }


def _of_track(name: str) -> dict[str, Callable[[], object]]:
    state = TRACKS[name]
    session = Session()

    def tried() -> object:
        answer = session.answer(state)
        # What two tracks have in common is tried in one of them.
        found = [one.id for one in findings(session, answer)]
        wanted = found if name == "Cobnut Rain" else [id for id in found if id not in _COMMON]
        ways = [(id, fixes(session, answer, id)) for id in wanted]
        return ways, [effect(session, answer, id, fixed[0].way) for id, fixed in ways if fixed]

    def alone() -> object:
        out: list[object] = []
        for one in state.all_hits:
            try:
                out.append(align_parts(session, state, one.id, state.voices[0].id))
            except UserError as problem:
                out.append(type(problem).__name__)
        return out

    def tuned() -> object:
        heard = tuning.harmony(state.brief)
        return [tuning.moves(hz, 300.0, heard, resampled=True) for hz in (51.1, 58.0, 97.3, 180.0)]

    return {
        "answer": lambda: session.answer(state),
        "findings": lambda: findings(session, session.answer(state)),
        "fixes": tried,
        "overview": lambda: [overview(session, state, bar) for bar in range(state.brief.bars)],
        "depth": lambda: depth_heard(session, state),
        "duckings": lambda: (
            played_duckings(session, state),
            solve_ducking(session, state, state.duckings[0]),
            [covered_share(session, state, one) for one in state.duckings],
        ),
        "compressor": lambda: session.as_compressor(state, state.duckings[0]),
        "meeting": lambda: (
            meeting(session.answer(state), 0),
            moment(session.answer(state), 40.0, range(24, 60), (40.0, 80.0, 160.0)),
        ),
        "separation": lambda: (
            proposing.numbers(session, state),
            separation.phases(session, state),
            proposing.proposals(session, state),
        ),
        "rooms": lambda: [(judged(session, state, room), small(session, state)) for room in _ROOMS],
        "reference": lambda: reference(_mix(name), RATE),
        "headroom": lambda: headroom(_mix(name), RATE, -9.0),
        "record": lambda: (
            track_record(session, state),
            differences(track_record(session, state), track_record(session, TRACKS["Stonefruit"])),
        ),
        "parts": alone,
        "tuning": tuned,
    }


def _sweep(at_s: Array) -> Array:
    """A pitch that falls to 55 Hz, in Hz."""
    return 55.0 * (1 + 3 * np.exp(-np.asarray(at_s) / 0.03))


def _retuned() -> object:
    at = np.arange(RATE // 2) / RATE
    x = np.sin(2 * np.pi * np.cumsum(_sweep(at)) / RATE) * np.exp(-5 * at)
    return (
        straightened(x, RATE, _sweep, 55.0, 0.1),
        stretched(x, RATE, _sweep, 0.1, RATE),
        [moved(x, RATE, by, _sweep, 0.1, 0.005) for by in (-5.0, 3.0, 0.0)],
    )


def _driven() -> object:
    hz = np.geomspace(5.0, 2000.0, 20)
    x = 0.8 * ring(60.0, 300, 0.25)
    clipped = [soft_clip(x, db, bias) for db in (3.0, 18.0) for bias in (0.0, 0.3)]
    return blocked(hz).real, blocked(hz).imag, fundamental_gains(12.0), clipped


def _named() -> object:
    names = ("Kick long.wav", "808 G.wav", "loops/hat 124.wav", "Snr 3.wav", "untitled.wav")
    odds_of = {kind: odds(known(_sound(kind), RATE).portrait) for kind in ("kick", "hat", "snare")}
    return [guessed(one, (), name) for one in odds_of.values() for name in names]


ALONE: dict[str, Callable[[], object]] = {
    "retuned": _retuned,
    "driven": _driven,
    "named": _named,
}
CASES: dict[str, Callable[[], object]] = {
    **ALONE,
    **{
        f"{kind}, {name}": ask
        for kind in (*(one.kind for one in SOURCES), "skin")
        for name, ask in _of_sound(kind).items()
    },
    **{
        f"{kind}, {name}": ask
        for kind in ("notes", "workshop")
        for name, ask in _of_loop(partial(_sound, kind)).items()
    },
    **{f"{track}, {name}": ask for track in TRACKS for name, ask in _of_track(track).items()},
}

# One of the tracks is left to the thorough tests: what it passes through the others do, too.
test_nothing_is_left_out, test_an_answer_is_what_it_was = kept_tests(
    KEPT, CASES, lambda name: name.startswith("Cobnut") and not name.endswith("fixes")
)
