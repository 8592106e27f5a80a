"""What single rules of tracks, notes and words say of a few settings each, in numbers that are kept: those that
whole tracks pass by, or hardly tell apart. As `tests/kept.py` has it.
"""

from collections.abc import Callable
from functools import partial
from itertools import product
from pathlib import Path
from types import SimpleNamespace

import numpy as np

from juglant.core import comparing, music, tempo
from juglant.core.bringing import with_part_of
from juglant.core.designing.kicks import between
from juglant.core.differences import differing
from juglant.core.hits import align
from juglant.core.lowend import (
    aligning,
    carving,
    curves,
    filed,
    fitting,
    keyed,
    loop,
    owner,
    tuning,
)
from juglant.core.lowend.duckings import written_strokes
from juglant.core.lowend.part import ducking_solved_for, solved_for
from juglant.core.lowend.pitches import pitched, table
from juglant.core.lowend.session import Session
from juglant.core.measure import subedge
from juglant.core.measure.takenumbers import reaches, velocity_groups
from juglant.core.recipes.bass import PATTERNS, BassRecipe
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.chain import EqualiserStage, LevelStage
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.ducking import Ducking
from juglant.core.recipes.earlier import as_parts
from juglant.core.recipes.hit import Hit, Layer, Made808, MadeKick, MadeMembrane
from juglant.core.recipes.keyed import KeyedCompressor
from juglant.core.recipes.kick import KickRecipe
from juglant.core.recipes.notes import Note, on_beats
from juglant.core.recipes.parts import ImportedBass, MadeBass, Stem, Voice
from juglant.core.recipes.place import Place
from juglant.core.recipes.sections import Entry, Track
from juglant.core.recipes.separate import BassCarve, KickCarve
from juglant.core.recipes.track import TrackState
from juglant.core.replaced import file_numbers, what_changed
from juglant.core.stock.fit import _peak_db, first_look, masked_share, measured_fit
from juglant.core.stock.known import Numbers
from juglant.core.typed import typed_value
from juglant.core.words import changes
from juglant.files.handed import _moved
from tests.core.test_kept_tracks import a_refusal
from tests.kept import kept_tests, words
from tests.signals import RATE, noise, ring, sine

KEPT = Path(__file__).with_name("rules.json")
_BRIEF = Brief(bpm=132.0, tonic="B", chord_roots=("B", "G"))


def _at_tempo() -> object:
    """A loop of clicks that swing, cut and laid at other tempos; some of its sixteenths silent."""
    x = np.zeros(4 * RATE)
    for n in range(32):
        at = round((n // 2 * 0.25 + (0.14 if n % 2 else 0.0)) * RATE) + 60
        blip = 0.6 * ring(400.0 + 30 * n, 40, 0.06)
        x[at : at + blip.size] += blip[: x.size - at]
    found: list[object] = [filed.sliced_at(x, RATE)]
    asked = (("by slices", "as it is"), ("by slices", "the track’s"), ("by slices", "its own"),
             ("by resampling", "as it is"), ("as it is", "as it is"))  # fmt: skip
    for (fit, swing), own in product(asked, (118.0, 132.0, 150.0)):
        stem = Stem.model_validate({
            "id": "loop", "name": "Loop", "audio": "a" * 64, "fit": fit, "own_bpm": own, "begin_ms": 4.0,
            "swing": swing, "swing_percent": 61.0,
        })  # fmt: skip
        found.append((
            filed.time_factor(stem, _BRIEF), a_refusal(partial(filed.fit_cost, x, stem, _BRIEF, RATE)),
            a_refusal(lambda stem=stem: filed.laid(filed.sliced_at(x, RATE), stem, _BRIEF, RATE)),  # type: ignore[misc]
            a_refusal(partial(filed.loop_of, x, stem, _BRIEF, RATE)),
        ))  # fmt: skip
    held = np.ones(round(16 * 4 * RATE * 60 / 132 / 4))
    found += [filed.silenced(held, places, _BRIEF, RATE) for places in ((), (0,), (3, 4, 9), (31, 0, 40))]
    return found


def _tuned() -> object:
    """Every part of a track with toms and an 808 of two notes: what is known, said and proposed."""
    two = Hit(layers=(Layer(source=MadeMembrane()), Layer(source=Made808())), name="Two", id="two")
    swept = MadeKick(recipe=KickRecipe(end_hz=47.0, start_semitones=31.0, pitch_decay_ms=90.0))
    state = TrackState.of(brief=_BRIEF, kick=Hit.of(swept), hits=(two,))
    here = Session()
    said = [words(one) for row in table(here, state) for one in row.remarks]
    return [pitched(here, state, id) for id in (state.kick.id, "two")], said


def _aligned() -> object:
    at = np.arange(RATE) / RATE
    a = np.sin(2 * np.pi * 60 * at) * np.exp(-at / 0.1) + 0.1 * noise(1.0)
    others = [
        np.roll(a, 130),
        -np.roll(a, -77) + 0.05 * noise(1.0, seed=2),
        noise(1.0, seed=3),
        sine(3000.0, 1.0),
    ]
    found: list[object] = []
    for b in others:
        band = aligning.common_band_hz(a, b, RATE)
        found += [
            band,
            aligning.lag_of(a, b, RATE, band or (40.0, 400.0), 12.0),
            align.align(a[:9600], b[:9600], RATE),
            align.cancellations({0: a[:9600], 1: b[:9600]}, RATE),
        ]
    state = TrackState.of(brief=_BRIEF, bass=MadeBass(recipe=BassRecipe(pattern=PATTERNS["with the kick"])))
    here = Session()
    for late in (0.0, 3.1, 19.5):
        moved = state.with_part(state.part("bass").model_copy(update={"place": Place(delay_ms=late)}))  # type: ignore[union-attr]
        found.append(a_refusal(partial(aligning.align_parts, here, moved, "bass", "kick")))
    return found


def _carved() -> object:
    x = 0.5 * sine(50.0, 0.5) + 0.2 * sine(160.0, 0.5)
    hz = np.geomspace(20, 2000, 24)
    carves = (
        BassCarve(highpass_hz=70.0), BassCarve(highpass_hz=90.0, phase="linear"), KickCarve(cut_db=-5.0, cut_hz=160.0),
        BassCarve(steady_ratio=4.0, crossover_hz=130.0), BassCarve(shift_ms=3.0, highpass_hz=60.0, phase="linear"),
    )  # fmt: skip
    return [
        (
            np.abs(carving.response(one, _BRIEF, hz, RATE)), np.angle(carving.response(one, _BRIEF, hz, RATE)), carving.carved(x, one, _BRIEF, [0.0, 210.0], RATE),
            carving.pre_ringing_db(one, _BRIEF, RATE),
        )
        for one in carves
    ]  # fmt: skip


def _written() -> object:
    """Notes of all kinds fitted to a track's one voice: late, double, without an end, far off, too many."""

    def note(at: float, beats: float, midi: int, velocity: float = 0.8) -> SimpleNamespace:
        return SimpleNamespace(at=at, beats=beats, midi=midi, velocity=velocity)

    eight = [note(n / 2, 0.5, 35 + 3 * (n % 3)) for n in range(8)]
    swung = [note(n // 2 * 0.5 + (0.29 if n % 2 else 0.0), 0.2, 40) for n in range(16)]
    odd = [
        note(0.0, 1.5, 35),
        note(1.0, 0.0, 100),
        note(1.0, 1.0, 60, 2.0),
        note(3.9, 0.001, -3, 0.0),
        note(99.0, 1, 1),
    ]
    asked = (eight, swung, odd, [note(n / 8, 0.1, 47) for n in range(200)])
    found: list[object] = [a_refusal(partial(fitting.fitted, one, _BRIEF)) for one in (*asked, [])]
    found += [fitting.swing_of([one.at for one in given]) for given in asked]
    hits = (Hit.of(MadeKick()), Hit.of(MadeKick()).model_copy(update={"steps": ()}))
    found += [fitting.velocity_of(heard, hit) for heard, hit in product((0.0, 0.2, 0.9), hits)]
    return found


def _keyed() -> object:
    key = np.tile(np.concatenate([0.8 * ring(55.0, 200, 0.2), np.zeros(RATE // 4)]), 2)
    settings = (
        KeyedCompressor(threshold_db=-20.0, ratio=4.0, hold_ms=0.0),
        KeyedCompressor(threshold_db=-30.0, ratio=1.5, attack_ms=1.0, release_ms=400.0, detector="RMS"),
        KeyedCompressor(threshold_db=-2.0, ratio=10.0, knee_db=0.0, lookahead_ms=3.0, makeup_db=2.0),
    )
    return [
        (
            keyed.gain_db(one, key, RATE),
            [words(said) for said in keyed.warnings(one, depth, key, 450.0, RATE)],
        )
        for one, depth in product(settings, (0.5, 3.0, 18.0))
    ]


def _curves() -> object:
    recipes = (
        DuckRecipe(depth_db=9.0, hold_ms=30.0, release_ms=140.0), DuckRecipe(depth_db=20.0, attack_ms=12.0, curve=-0.5),
        DuckRecipe(depth_db=0.3, release_ms=40.0),
    )  # fmt: skip
    return [
        (
            curves.times_of(one), curves.as_drawn(one), curves.stretched(one, 0.6),
            [curves.returning_on(one, ms) for ms in (20.0, 180.0, 900.0)],
        )
        for one in recipes
    ]  # fmt: skip


def _music() -> object:
    found: list[object] = [music.hz_to_midi(hz, 442.0) for hz in (27.5, 55.0, 61.7)]
    found += [music.midi_to_hz(midi, 431.0) for midi in (24, 33.5, 60)]
    found += [
        music.nearest_note(hz, 440.0, flats) for hz, flats in product((51.9, 53.43, 92.5), (True, False))
    ]
    found += [
        a_refusal(partial(music.parse_pitch, text))
        for text in ("A1", "B♭0 +13", "55", "440 Hz", "H2", "C-9")
    ]
    found += [
        a_refusal(partial(music.parse_key, text))
        for text in ("C# minor", "Bb", "a dorian", "E phrygian", "X")
    ]
    found += [music.notes_of_key(music.parse_key("C# minor"), 40.0, 130.0)]
    found += [tempo.nearest_note_value(ms, 132.0) for ms in (11.0, 90.0, 260.0, 1500.0)]
    found += [tempo.swung(at, 62.0) for at in (0.25, 0.5, 0.75, 0.26)]
    taps = ([0.0, 455.0, 905.0, 1371.0], [0.0, 455.0, 1371.0, 1810.0], [0.0, 1.0, 900.0, 901.0], [0.0, 1.0])
    found += [a_refusal(partial(tempo.tapped_bpm, one)) for one in taps]
    asked = (
        ("1/8.", "ms"),
        ("A1", "Hz"),
        ("3 %", "%"),
        ("−6", "dB"),
        ("2 s", "ms"),
        ("1k2", "Hz"),
        ("x", "dB"),
        ("9e9", "Hz"),
    )
    found += [
        a_refusal(partial(typed_value, text, unit, 0.5, 5000.0, 132.0, 440.0)) for text, unit in asked
    ]
    found += [
        between(ends, share) for ends, share in product(((100.0, 400.0), (-6.0, 4.0)), (0.0, 0.3, 1.0))
    ]
    found += [loop.kick_times_ms((1.0, 2.5, 4.75), 132.0, ms) for ms in (400.0, 1818.2, 4000.0)]
    found += [loop.fade_out(5.0, RATE), loop.cut_to(np.ones(900), 300, RATE), loop.click(RATE)]
    return found


def _told() -> object:
    found: list[object] = [
        comparing.equal_gains_db(*two) for two in ((-12.0, -9.5), (-20.0, -20.0), (-8.0, -31.0))
    ]
    found += [
        (comparing.by_chance(*two), words(comparing.verdict(*two)))
        for two in ((5, 5), (7, 10), (9, 12), (3, 3), (2, 8))
    ]
    sounds = [
        0.5 * ring(52.0, 400, 0.4),
        0.9 * ring(55.0, 300, 0.5),
        0.5 * ring(52.0, 400, 0.4)[:9000],
        noise(0.2),
    ]
    numbers = [file_numbers(x, RATE) for x in sounds]
    found += [*numbers, *(words(what_changed(numbers[0], other)) for other in numbers)]
    found += [
        masked_share(a, b)
        for a, b in product((sounds[1], noise(0.5, seed=4)), (0.2 * noise(0.5), 0.5 * sine(54.0, 0.5)))
    ]
    dbs = [-3.0, -3.4, -9.0, -9.6, -20.0, -3.1]
    found += [velocity_groups(dbs), reaches(velocity_groups(dbs), dbs), velocity_groups([-6.0])]
    return found


def _edges() -> object:
    glide = np.concatenate([np.full(300, 41.0), np.geomspace(41.0, 82.0, 60), np.full(240, 82.0)])
    found: list[object] = [subedge.edge_hz(hz) for hz in (30.0, 41.2, 55.0, 82.4, 110.0)]
    for given in (None, 44.0, 130.0, glide):
        edge = subedge.sub_edge(given)
        found.append(edge)
        if edge is not None:
            found.append(owner.highest_of_notes(edge, [0.0, 250.0]))
    found += [tuning.short_ms(_BRIEF.model_copy(update={"bpm": bpm})) for bpm in (70.0, 128.0, 174.0)]
    found += [tuning.grates(midi, {0, 7}) for midi in range(24, 37)]
    found += [tuning.beat_hz(hz, 11, 440.0) for hz in (49.0, 60.0, 61.7, 66.0)]
    states = []
    for octave, highpass, other in product((0, 2), (20.0, 140.0), (False, True)):
        bass = MadeBass(recipe=BassRecipe(octave=octave, highpass_hz=highpass))
        high = MadeBass(recipe=BassRecipe(octave=3, pattern=(Note(at=0.0, beats=2.0, semitones=3),)))
        lines = (Voice(id="high", name="High", bass=high),) if other else ()
        states.append(TrackState.of(brief=_BRIEF, bass=bass, lines=lines))
    here = Session()
    found += [owner.bass_pitch(here.sounds, state, 900) for state in states]
    return found


def _fits() -> object:
    """Sounds of a stock held against a kick's, a clap's and a line's place, by the usual weights and others."""
    sounds = {
        f"{n:064x}": ring(hz, t60, 0.5)
        for n, (hz, t60) in enumerate(((49.0, 300), (61.7, 900), (130.0, 90)))
    }
    sounds |= {f"{3:064x}": 0.5 * noise(0.3) * np.exp(-np.arange(round(0.3 * RATE)) / 3000)}
    here = Session(lambda digest: (sounds[digest], RATE))
    numbers = [
        Numbers(digest, f"{n}.wav", midi, sure, 480.0, decay, sub)
        for n, (digest, midi, sure, decay, sub) in enumerate(
            zip(sounds, (31.2, 35.0, 47.9, None), (0.9, 0.25, 0.6, 0.0), (180.0, 600.0, 60.0, None),
                (-3.0, -1.0, -30.0, None), strict=True)
        )
    ]  # fmt: skip
    hat = Hit.of(MadeKick(), name="Tick", kind="hat", id="tick")
    bass = MadeBass(recipe=BassRecipe(pattern=PATTERNS["with the kick"]))
    state = TrackState.of(brief=_BRIEF, bass=bass, hits=(hat,))
    found: list[object] = []
    for part in (state.kick.id, "tick"):
        found += [
            first_look(state, part, numbers),
            first_look(state, part, numbers, {"length": 9.0, "sub": 0.0}),
        ]
        found += [measured_fit(here, state, part, one) for one in numbers]
    wide = np.stack([np.full(9, 0.2), np.full(9, -0.4)], axis=1)
    return found, [_peak_db(a, b) for a, b in product((wide, np.full(9, 0.1)), (wide, np.full(9, 0.3)))]


def _stored() -> object:
    """What solved duckings are known by, what changed between two tracks, and tracks of the first versions."""
    hat = Hit.of(MadeKick(), name="Tick", kind="hat", id="tick", swing="its own", swing_percent=58.0)
    stem = Stem(id="pad", name="Pad", audio="a" * 64, fit="by slices", own_bpm=120.0, begin_ms=3.0)
    file = Voice(id="file", name="File", bass=ImportedBass(audio="b" * 64, name="b.wav"))
    state = TrackState.of(brief=_BRIEF, hits=(hat,), stems=(stem,), lines=(file,))
    kick, line = state.kick.id, state.voices[0].id
    asked = [
        Ducking(triggers=triggers, targets=targets)
        for triggers, targets in product(
            ((kick,), (kick, "tick"), ("file",)), ((line,), ("pad",), (line, "pad"), ("pad", "file"))
        )
        if triggers[0] not in targets
    ]
    found: list[object] = [ducking_solved_for(state, one) for one in asked]
    found += [solved_for(state), solved_for(state.model_copy(update={"brief": Brief(bpm=140.0)}))]
    found += [
        None if one is None else len(one)
        for one in (written_strokes(state, id) for id in ("file", line, kick))
    ]
    stages = (LevelStage(id="l", gain_db=-3.0), EqualiserStage(id="e", bell_db=2.0))
    louder = (stages[0].model_copy(update={"gain_db": -6.0}), stages[1])
    both = (louder[0], stages[1].model_copy(update={"bell_db": 4.0}))
    changes = [hat.model_copy(update={"stages": one}) for one in (stages, louder, both, stages[:1], ())]
    changes += [
        hat.model_copy(update=one) for one in ({"steps": on_beats(1, 3)}, {"name": "Tock", "mute": True})
    ]
    found += [words(said) for old, new in product(changes[:2], changes) for said in differing(old, new)]
    olds = (
        {"kick": {}, "bass": {"kind": "made"}}, {"lines": [{"name": "bass"}, {"name": "other", "mute": True}]},
        {"lines": [{"name": "other"}], "bass_mute": True, "brief": {"kick_beats": [1, 2.5]}},
        {"hits": [{"name": "Clap"}], "stems": [{"name": "Pad", "gain_db": -3.0}], "chords": [{"name": "pad"}]},
    )  # fmt: skip
    following = Hit.of(MadeKick(), name="Low", id="low", follow="yes")
    return found, [as_parts(one) for one in olds], _moved(Session(), following, _BRIEF, "Low")


def _sections() -> object:
    """A track of three sections, changed in all the ways there are: what is in it then, and in words."""
    hat = Hit.of(MadeKick(), name="Tick", kind="hat", id="tick", steps=on_beats(1.5))
    state = TrackState.of(brief=_BRIEF, hits=(hat,))
    first = Track(state=state).with_section("break", "break", "main").with_section("outro", "outro", "main")
    quiet = first.at("break").with_part(hat.model_copy(update={"mute": True}))
    shorter = quiet.with_part(first.state.kick.model_copy(update={"steps": on_beats(1)}))
    second = first.with_state("break", shorter.with_duck(duck=DuckRecipe(depth_db=3.0)))
    third = second.arranged((Entry(section="break", bars=2), Entry(section="outro", bars=4)))
    louder = third.state.with_part(hat.model_copy(update={"place": Place(gain_db=-4.0, pan=0.3)}))
    tracks = [
        first, second, third, third.with_state("main", louder), third.renamed("outro", "end"),
        third.without_section("outro"), third.with_main("break"), third.following("break", "tick", None),
        third.with_state("main", third.state.model_copy(update={"brief": Brief(bpm=140.0)})),
    ]  # fmt: skip
    found: list[object] = [len(one.sections) for one in tracks]
    found += [
        [words(said) for said in changes(old, new)]
        for old, new in product(tracks, tracks)
        if old is not new
    ]
    found += [[one.at(section).text for section in ("main", "break")] for one in tracks[1:3]]
    return found, [with_part_of(one.state, shorter, "tick").hit("tick").mute for one in tracks[:2]]


CASES: dict[str, Callable[[], object]] = {
    "at tempo": _at_tempo, "tuned": _tuned, "aligned": _aligned, "carved": _carved, "written": _written, "keyed": _keyed, "curves": _curves, "music": _music, "told": _told, "edges": _edges, "fits": _fits,
    "stored": _stored,
    "sections": _sections,
}  # fmt: skip

test_nothing_is_left_out, test_an_answer_is_what_it_was = kept_tests(KEPT, CASES)
