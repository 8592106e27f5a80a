"""What other kept answers pass by: chokes and moves across an arrangement, drawn curves, pairs in a band, drums
under music, gliding lines, and loops of many lengths. As `tests/kept.py` has it.
"""

import tempfile
from collections.abc import Callable
from functools import cache, partial
from itertools import product
from pathlib import Path
from typing import Any, get_args

import numpy as np

from bench import drumloops
from bench.lines import note
from juglant.core.findings import effect, findings, fixes
from juglant.core.hits.render import take_for
from juglant.core.hits.retune import retuned
from juglant.core.lowend.aimed import aimed
from juglant.core.lowend.curves import as_drawn, returning_on, stretched, times_of
from juglant.core.lowend.drawn import drawn_after, drawn_scaled, drawn_share, drawn_slower, drawn_stretched
from juglant.core.lowend.ducking import curve_db, span_ms, traced
from juglant.core.lowend.instrument import instrument
from juglant.core.lowend.linenotes import line_notes
from juglant.core.lowend.overview import covered_share, overview, solve_ducking
from juglant.core.lowend.owner import bass_pitch, edge_of
from juglant.core.lowend.pair import duck_pair
from juglant.core.lowend.proposing import proposals
from juglant.core.lowend.separation import in_phase
from juglant.core.lowend.separation import solve as degrees
from juglant.core.lowend.session import Session
from juglant.core.lowend.sliced import as_hits
from juglant.core.lowend.straight import Straight
from juglant.core.lowend.voices import voices
from juglant.core.measure.drummap import drum_map
from juglant.core.measure.hit import measure
from juglant.core.music import Key, Mode, Tonic
from juglant.core.recipes.bass import PATTERNS, BassRecipe
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.chain import DelayStage, EqualiserStage, LevelStage
from juglant.core.recipes.duck import DuckRecipe, Point
from juglant.core.recipes.hit import Hit, Imported, MadeHat, MadeKick, Take
from juglant.core.recipes.kick import KickRecipe
from juglant.core.recipes.moves import Move, MovePoint
from juglant.core.recipes.notes import Note, on_beats
from juglant.core.recipes.parts import ImportedBass, MadeBass, Output, Outputs, Stem, Voice
from juglant.core.recipes.place import Place
from juglant.core.recipes.sections import Entry, Track
from juglant.core.recipes.separate import BassCarve, SeparateRecipe
from juglant.core.recipes.track import TrackState
from juglant.core.stock.known import known
from juglant.demo.scenario import TRACKS
from juglant.files.midi import key_signature
from juglant.files.sheet import track_sheet
from tests.core.test_kept_tracks import a_refusal
from tests.kept import kept_tests, words
from tests.signals import RATE, Array, noise, ring

KEPT = Path(__file__).with_name("corners.json")
_BRIEF = Brief(bpm=170.0, chord_roots=("tonic", "C"), tonic="A")


def _move(of: str, control: str, over: str, *values: float) -> Move:
    at = np.linspace(0.0, 1.0, len(values))
    points = tuple(MovePoint(at=float(a), value=v, bend=0.3) for a, v in zip(at, values, strict=True))
    return Move.model_validate({"of": of, "control": control, "over": over, "points": points})


def _arrangement() -> Track:
    """Two hats that end each other, a line whose place and stage move, a copy of both, an echo behind it."""
    closed = Hit.of(
        MadeHat(), name="Closed", kind="hat", id="closed", choke="A", steps=on_beats(1.5, 2.5, 4.75),
        moves=(_move("place", "gain_db", "section", -18.0, 0.0),),
    )  # fmt: skip
    opened = Hit.of(
        MadeHat(), name="Open", kind="hat", id="open", choke="A", steps=on_beats(2, 4), follow="yes"
    )
    tone = EqualiserStage(id="tone", lowpass_hz=900.0)
    glides = PATTERNS["gallop"]
    line = Voice(
        id="line", name="Line", bass=MadeBass(recipe=BassRecipe(octave=2, glide_ms=60.0, pattern=glides)),
        stages=(tone,), place=Place(pan=0.2, delay_ms=3.0, width=0.5),
        moves=(
            _move("tone", "lowpass_hz", "1 bar", 200.0, 2000.0, 400.0),
            _move("place", "pan", "section", -0.5, 0.5), _move("strokes", "semitones", "section", 0.0, 2.0),
        ),
        after=(DelayStage(),),
    )  # fmt: skip
    copy = Outputs(
        id="copy", name="copy", stages=(LevelStage(gain_db=-3.0),),
        sources=(Output(of="line", gain_db=-6.0), Output(of="closed", taken="dry")),
    )  # fmt: skip
    state = TrackState.of(brief=_BRIEF, hits=(closed, opened), lines=(line,))
    state = state.model_copy(update={"parts": (*state.parts, copy)})
    track = Track(state=state).with_section("break", "break", "main")
    there = track.at("break").with_part(opened.model_copy(update={"mute": True}))
    plain = line.model_copy(update={"moves": line.moves[:1], "place": Place(gain_db=-3.0)})
    return track.with_state("break", there.with_part(plain)).arranged((
        Entry(section="main", bars=2), Entry(section="break", bars=1), Entry(section="main", bars=1),
    ))  # fmt: skip


def _straight() -> object:
    track, here = _arrangement(), Session()
    with tempfile.TemporaryDirectory() as folder:
        played = Straight(here, track, folder)
        tapes = {id: played.heard(id) for id in (*played.stems(), "copy")}
        # Each quarter of a bar by itself: what begins or ends elsewhere shows.
        cuts = [np.array_split(tape.read(0, tape.frames), 32) for tape in tapes.values()]
        levels = [[float(np.sqrt(np.mean(piece**2))) for piece in pieces] for pieces in cuts]
        found = [(one[:16], one[16:]) for one in levels]
        played.close()
    state = track.state
    loops = [here.parts.part(state, part.id) for part in state.parts]
    heard = [None if x is None else x.samples for x in loops]
    return found, heard, [line_notes(here.sounds, state, voice) for voice in state.voices]


_POINTS = (
    Point(at_ms=0.0, share=0.0, bend=0.4), Point(at_ms=4.0, share=1.0), Point(at_ms=60.0, share=0.8, bend=-0.5),
    Point(at_ms=90.0, share=0.9, bend=0.2), Point(at_ms=260.0, share=0.0),
)  # fmt: skip
_CURVES = (
    DuckRecipe(depth_db=12.0, attack_ms=6.0, hold_ms=40.0, release_ms=160.0),
    DuckRecipe(depth_db=20.0, points=_POINTS),
)


def _drawn() -> object:
    at = np.linspace(-20.0, 300.0, 41)
    share = np.interp(np.arange(40), (0, 2, 9, 39), (0.0, 1.0, 0.7, 0.0))
    found: list[object] = [drawn_share(_POINTS, at), drawn_after(share, 8.0)]
    found += [
        change(_POINTS, factor) for change in (drawn_scaled, drawn_stretched) for factor in (0.5, 1.7)
    ]
    found += [drawn_slower(_POINTS, db, most) for db, most in ((20.0, 2.0), (30.0, 12.0))]
    for one in _CURVES:
        found += [traced(one).__dict__, span_ms(one), times_of(one), as_drawn(one), stretched(one, 1.6)]
        found += [returning_on(one, ms) for ms in (120.0, 400.0)]
        found += [curve_db(one, times, 700.0, 1.0, loop=loop)
                  for times, loop in product(([0.0, 350.0], [100.0, 180.0]), (True, False))]  # fmt: skip
    return found


def _pairs() -> object:
    at = np.arange(round(60 / 120 * 4 * RATE)) / RATE
    kick = np.sin(2 * np.pi * 55 * at) * np.exp(-(at % 0.5) / 0.08)
    bass = 0.5 * np.sin(2 * np.pi * 58 * at) + 0.2 * np.sin(2 * np.pi * 116 * at)
    times = [0.0, 500.0, 1000.0, 1500.0]
    asked: tuple[dict[str, Any], ...] = (
        {}, {"below_hz": 150.0}, {"above_hz": 90.0}, {"owner": "bass"}, {"returns": "1/16"}, {"margin_db": 6.0},
    )  # fmt: skip
    whole = [a_refusal(partial(duck_pair, kick, bass, RATE, 120.0, times, **more)) for more in asked]
    cut = duck_pair(kick[:70000], bass[:70000], RATE, 120.0, times[:3])
    return whole, cut, a_refusal(partial(duck_pair, 0 * kick, bass, RATE, 120.0, times))


def _drums() -> object:
    loops = (("break", 0, 101.0, -6.0), ("two step", 8, 123.0, None), ("half time", 25, 140.0, -12.0))
    made = [drumloops.loop(name, kit, bpm, n, db) for n, (name, kit, bpm, db) in enumerate(loops)]
    return [drum_map(x, RATE) for x in made]


def _file(bars: float, bpm: float) -> Array:
    """So many bars of a track's tempo, of notes that a bass plays."""
    beat = 60 / bpm
    x = np.zeros(round(4 * bars * beat * RATE))
    for n in range(int(8 * bars)):
        tone = 0.5 * note(33 + 5 * (n % 3), 0.4 * beat, "saw")
        start = round(n * beat / 2 * RATE)
        x[start : start + tone.size] += tone[: x.size - start]
    return x


def _lengths() -> object:
    """Loops that are whole bars of the track, of another tempo near or far, longer, and clipped or late."""
    found: list[object] = []
    bars = (1.0, 1.005, 1.2, 1.45, 1.9, 3.0, 4.0)
    files = {f"{n:064x}": _file(one, 120.0) for n, one in enumerate(bars)}
    whole = files[f"{0:064x}"]
    files |= {"a" * 64: np.concatenate([np.zeros(900), whole]), "b" * 64: np.clip(2 * whole, -0.6, 0.6)}
    here = Session(lambda digest: (files[digest], RATE))
    for digest in files:
        bass = ImportedBass(audio=digest, name="a.wav")
        stem = Stem(id="loop", name="Loop", audio=digest, fit="by slices", own_bpm=121.0)
        for state in (TrackState.of(bass=bass), TrackState.of(stems=(stem,))):
            state = state.model_copy(update={"brief": Brief(bpm=120.0, chord_roots=("tonic",))})
            found.append(a_refusal(lambda state=state: findings(here, here.answer(state))))  # type: ignore[misc]
    cut = a_refusal(lambda: as_hits(here, TrackState.of(stems=(stem,)), "loop", iter("stuvwxyz").__next__))
    return found, cut


def _gliding() -> object:
    places = ((0.0, 0, False), (0.5, 7, True), (1.25, 12, False), (2.0, -5, True), (3.0, 3, True))
    notes = tuple(Note(at=at, beats=0.5, semitones=up, glide=glide) for at, up, glide in places)
    state = TrackState.of(
        brief=_BRIEF, bass=MadeBass(recipe=BassRecipe(pattern=notes, glide_ms=90.0, octave=1))
    )
    here, found = Session(), []
    for owner in ("bass", "kick"):
        own = state.model_copy(update={"brief": _BRIEF.model_copy(update={"sub_owner": owner})})
        found += [
            bass_pitch(here.sounds, own, 600), edge_of(here.sounds, own), voices(here, own),
            findings(here, here.answer(own)), a_refusal(lambda own=own: here.solve_ducking(own)),  # type: ignore[misc]
        ]  # fmt: skip
    return found


@cache
def _sounds() -> list[Array]:
    """Little sweep, much, none; two tones; noise; a tail that a room takes over; long and faint."""
    at = np.arange(RATE // 2) / RATE
    swept = [
        np.sin(2 * np.pi * (50 * at + bend * 0.02 * (1 - np.exp(-at / 0.02)))) * np.exp(-at / 0.1)
        for bend in (4.0, 12.0, 200.0)
    ]
    both = 0.5 * ring(70.0, 300, 0.5) + 0.4 * ring(163.0, 90, 0.5)
    room = ring(60.0, 120, 0.6) + 0.02 * noise(0.6) * np.exp(-np.arange(round(0.6 * RATE)) / RATE / 0.3)
    hiss = 0.3 * noise(0.3) * np.exp(-np.arange(round(0.3 * RATE)) / 2000)
    return [*swept, both, hiss, room, 0.01 * ring(48.0, 900, 1.2)]


def _heard() -> object:
    return [(measure(x, RATE, recorded=True), measure(x, RATE), known(x, RATE)) for x in _sounds()]


def _aims() -> object:
    here, state = Session(), TRACKS["Green Husk"]
    return [
        a_refusal(partial(aimed, here, state, one, target.part, db, back))
        for one in state.duckings[:1] for target in one.targets[:1] for db, back in ((3.0, "1/8"),)
    ]  # fmt: skip


def _duckings() -> object:
    """A snare over a line and the kick, eighths over a pad; covered, solved and told."""
    state = TRACKS["Cobnut Rain"]
    here = Session()
    return [
        (covered_share(here, state, one), a_refusal(partial(solve_ducking, here, state, one)))
        for one in state.duckings
    ], overview(here, state, 0)


def _retuned() -> object:
    """A tone, one that falls, hiss and silence: by length kept, straightened, a start that is spared."""
    falls = np.sin(2 * np.pi * np.cumsum(55.0 * (1 + 0.03 * np.exp(-np.arange(RATE // 2) / 9600))) / RATE)
    sounds = [
        ring(60.0, 250, 0.5),
        falls * np.exp(-np.arange(falls.size) / 9600),
        0.3 * noise(0.2),
        np.zeros(480),
    ]
    return [
        retuned(x, RATE, semitones, keep_length=keep, straighten=straight, spare_ms=spare)
        for x in sounds for semitones, keep, straight, spare in (
            (3.0, False, False, 0.0), (-2.0, True, False, 12.0), (0.0, False, True, 0.0), (5.0, True, True, 4.0),
        )
    ]  # fmt: skip


def _sheets() -> object:
    """What is written of a drawn ducking, a played line, a rumble and files."""
    here, found = Session(lambda _: (_file(1.0, 120.0), RATE)), []
    drawn = TRACKS["Cobnut Rain"].with_duck(duck=_CURVES[1])
    below = TRACKS["Green Husk"].with_duck(duck=DuckRecipe(band="below", edge_hz=90.0))
    file = TrackState.of(bass=ImportedBass(audio="a" * 64, name="a.wav"), brief=_BRIEF)
    for state in (drawn, below, file, _arrangement().state):
        found.append(words(track_sheet("Corners", here.answer(state), findings(here, here.answer(state)))))
    return found


def _spilling() -> object:
    """A kick that sounds on under a line of two bars: each way to mend it."""
    here, state = Session(), TRACKS["Stonefruit"]
    line = state.voices[0].line
    assert line is not None
    again = tuple(one.model_copy(update={"at": one.at + 4.0}) for one in line.pattern)
    state = state.with_line("bass", pattern=(*line.pattern, *again), bars=2)
    answer = here.answer(state)
    ways = fixes(here, answer, "tail-spill")
    moved = effect(here, answer, "tail-spill", "move").state.voices[0].line
    return ways, moved


def _parted() -> object:
    kick = Hit.of(MadeKick(recipe=KickRecipe(end_hz=48.0, decay_ms=380.0)), steps=on_beats(1, 2, 3, 4))
    bass = MadeBass(recipe=BassRecipe(pattern=PATTERNS["with the kick"]))
    brief = Brief(bpm=150.0, chord_roots=("tonic",))
    here, state = Session(), TrackState.of(kick=kick, bass=bass, brief=brief)
    *_, (_, found) = degrees(here, state)
    against = state.model_copy(update={"separate": SeparateRecipe(bass=BassCarve(polarity="inverted"))})
    return found, in_phase(here, against), proposals(here, against)


def _spelled() -> object:
    """Signatures, scales and chords of every key."""
    keys = [Key(tonic, mode) for tonic in get_args(Tonic) for mode in get_args(Mode)]
    return [(key_signature(key), sorted(key.classes), key.flats) for key in keys]


def _played() -> object:
    """Keys of a line that a hit plays, and what a velocity and a turn take of several takes."""
    state = TRACKS["Green Husk"]
    keys = instrument(Session(), state, state.voices[0].id, 36, 37)
    takes = tuple(
        Take(audio=f"{n:064x}", name=f"take {n}", up_to=up_to)
        for n, up_to in enumerate((1.0, 0.7, 0.7, 0.3))
    )
    source = Imported(audio="f" * 64, name="first", takes=takes, alternate="in turn")
    taken = [
        take_for(source, velocity, turn).name.replace(" ", "-")
        for velocity in (1.0, 0.71, 0.7, 0.5, 0.3, 0.1)
        for turn in range(3)
    ]
    return [(key.midi, key.samples) for key in keys], taken


CASES: dict[str, Callable[[], object]] = {
    "played": _played, "retuned": _retuned, "sheets": _sheets, "spilling": _spilling,
    "spelled": _spelled,
    "straight": _straight, "drawn": _drawn, "pairs": _pairs, "drums": _drums, "lengths": _lengths,
    "gliding": _gliding, "heard": _heard, "aims": _aims, "duckings": _duckings, "parted": _parted,
}  # fmt: skip

test_nothing_is_left_out, test_an_answer_is_what_it_was = kept_tests(KEPT, CASES)
