"""What single functions of sound say of a few sounds and settings each, in numbers that are kept: those that whole
tracks pass by, or hardly tell apart. As `tests/kept.py` has it.
"""

from collections.abc import Callable
from functools import partial
from itertools import product
from pathlib import Path
from typing import get_args

import numpy as np

from juglant.core.hits import chain, mixing, reported
from juglant.core.hits.moving import levelled, through_moved
from juglant.core.lowend import (
    staging,
)
from juglant.core.measure import defects, early, estimate, levels, listening, tail, takes, width
from juglant.core.measure.drummap import drum_map
from juglant.core.measure.envelope import amplitude_envelope, onset_ms, running_rms, shape
from juglant.core.measure.hit import measure
from juglant.core.measure.pitch import measure_tail
from juglant.core.measure.trace import cycles, sweep_semitones
from juglant.core.measure.transcribe import transcribe
from juglant.core.process import (
    declipping,
    dynamics,
    equaliser,
    filters,
    grains,
    movingfilters,
    resampling,
    resonator,
    saturation,
    space,
)
from juglant.core.recipes.bass import BassRecipe
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.chain import ClipStage, DriveStage, EqualiserStage, LevelStage
from juglant.core.recipes.dynamics import CompressorStage
from juglant.core.recipes.hit import Layer, MadeKick
from juglant.core.recipes.notes import Note
from juglant.core.recipes.place import Place
from juglant.core.recipes.room import Car, ClubSystem, Headphones, Laptop, Phone, SmallClub
from juglant.core.rooms.systems import direct, mode_hz, response_db
from juglant.core.synth.bass import render_bass
from tests.kept import kept_tests
from tests.signals import RATE, Array, noise, ring, sine

KEPT = Path(__file__).with_name("single.json")


def _burst() -> Array:
    """Soft, loud, soft: half a tenth of a second each, and hiss at the end."""
    gain = np.repeat([0.05, 0.7, 0.1], RATE // 20)
    return np.concatenate([gain * sine(180.0, 0.15), 0.02 * noise(0.05)])


def _dynamics() -> object:
    x = _burst()
    found: list[object] = [
        dynamics.static_curve_db(np.linspace(-60, 0, 21), -24.0, ratio, knee)
        for ratio, knee in ((1.0, 0.0), (3.0, 0.0), (8.0, 12.0))
    ]
    for detector, hold in product(("peak", "RMS"), (0.0, 12.0)):
        seen = dynamics.detected_db(x, RATE, detector)
        found.append(dynamics.reduction_db(seen, RATE, -22.0, 5.0, 4.0, 3.0, 40.0, hold_ms=hold))
    found += [
        dynamics.gate_gain_db(x, RATE, db, 30.0, 1.0, hold, 20.0)
        for db, hold in ((-20.0, 5.0), (-8.0, 0.0))
    ]
    found += [dynamics.limit_gain_db(x, RATE, -6.0, ahead, 30.0) for ahead in (0.5, 2.0)]
    found += [dynamics.transient_gain_db(x, RATE, *ends) for ends in ((6.0, 0.0), (0.0, -6.0), (-4.0, 5.0))]
    found += [dynamics.ceiling(x, db, soft) for db, soft in ((-9.0, 0.0), (-3.0, 0.7))]
    return found


def _clipped() -> object:
    waves = [ring(58.0, 400, 0.2), sine(91.0, 0.1) + 0.2 * sine(182.0, 0.1), 0.8 * noise(0.05)]
    cut = [np.clip(x, -0.55, 0.7) for x in waves]
    both = np.stack([cut[0], waves[0]], axis=1)
    return [
        (declipping.restored(x), declipping.can_restore(x), defects.flat_runs(x.reshape(-1)))
        for x in (*cut, both)
    ]


def _resonators() -> object:
    return [
        resonator.response(kind, hz, ms, damping, RATE)
        for kind, (hz, ms, damping) in product(
            ("membrane", "comb"), ((80.0, 90.0, 0.0), (700.0, 30.0, 0.6), (3000.0, 1.0, 1.0))
        )
    ]


def _pieces() -> object:
    x = np.linspace(0.5, 1.0, RATE // 5)
    where = (takes.Cut(10.0, 11.5, 60.0), takes.Cut(0.0, 0.1, 3.0), takes.Cut(100.0, 100.0, 101.0))
    return [takes.piece_of(one, RATE, cut) for one in (x, np.stack([x, -x], axis=1)) for cut in where]


def _harmonics() -> object:
    stages: tuple[DriveStage | ClipStage, ...] = (
        DriveStage(drive_db=14.0), DriveStage(drive_db=9.0, curve="hard"), ClipStage(ceiling_db=-9.0, softness=0.3),
    )  # fmt: skip
    return [
        reported.added_harmonics_db(stage, peak, RATE, hz)
        for stage in stages
        for peak, hz in ((0.5, 52.0), (0.9, 11.0), (0.2, 300.0))
    ]


def _reports() -> object:
    x = ring(62.0, 300, 0.3) + 0.1 * ring(900.0, 60, 0.3)
    stages = (CompressorStage(threshold_db=-20.0), EqualiserStage(bell_db=-6.0), DriveStage(drive_db=10.0))
    return [
        reported.report(x, chain.apply_stage(x, stage, RATE, 120.0), stage, RATE, 62.0) for stage in stages
    ]


def _placed() -> object:
    x = ring(200.0, 80, 0.1)
    wide = np.stack([x, 0.5 * np.roll(x, 9)], axis=1)
    layers = (
        {"fade_in_ms": 8.0}, {"fade_out_ms": 30.0}, {"part": "only the tail"},
        {"part": "only the tail", "fade_in_ms": 20.0}, {"pan": -0.4, "gain_db": -5.0, "polarity": "inverted"},
        {"highpass_hz": 300.0}, {"lowpass_hz": 150.0},
    )  # fmt: skip
    places = (
        Place(width=0.0), Place(width=1.6, pan=0.3), Place(mono_below_hz=150.0, gain_db=-7.0), Place(delay_ms=1.7),
        Place(polarity="inverted", delay_ms=-2.0), Place(pan=-1.0), Place(mono_below_hz=400.0, width=0.4),
    )  # fmt: skip
    found: list[object] = []
    for given in layers:
        one = Layer.model_validate({"source": MadeKick(), **given})
        found += [mixing.placed(y, one) for y in (x, wide)]
    for place in places:
        found += [staging.put(staging.turned(y, place, RATE), place, RATE) for y in (x, wide)]
    moved = {"gain_db": lambda n: np.linspace(-70.0, 0.0, n), "pan": lambda n: np.linspace(-1.0, 0.5, n)}
    found += [staging.put(wide, Place(), RATE, moved), levelled(x, moved)]
    found += [mixing.delayed_by(x, frames) for frames in (0.0, 3.0, 2.37)]
    found += [mixing.added([x, wide[:100]]), mixing.with_tone(x, 180.0, RATE), chain.panned(x, 0.6)]
    for stage, name, ends in (
        (LevelStage(), "gain_db", (-80.0, 3.0)), (EqualiserStage(lowpass_hz=900.0), "lowpass_hz", (100.0, 9000.0)),
        (EqualiserStage(highpass_hz=90.0), "highpass_hz", (20.0, 900.0)), (DriveStage(), "drive_db", (0.0, 20.0)),
    ):  # fmt: skip
        course = {name: partial(np.linspace, *ends)}
        found += [through_moved(y, stage, course, RATE, 120.0) for y in (x, wide)]
    return found


def _levels() -> object:
    loops = (0.3 * sine(50.0, 1.0), 0.1 * noise(1.0), 0.5 * ring(3000.0, 200, 1.0))
    return [
        (
            listening.band_match_db(x, RATE), levels.true_peak_dbtp(x), levels.momentary_max_lufs(x, RATE),
            levels.integrated_lufs(x, RATE), levels.lufs(float(np.mean(x * x))), running_rms(x[:400], 37),
        )
        for x in loops
    ], levels.between_samples(np.linspace(-1, 1, 9)), listening.listening(), levels.k_weighting(44_100)  # fmt: skip


def _rooms() -> list[Array]:
    """Tails that a room takes over sooner, later, louder; one that sustains; one too short to say."""
    found = []
    for hz, t60, at, level in ((58.0, 260, 0.0, 0.02), (71.0, 180, 0.02, 0.05), (49.0, 500, 0.0, 0.004)):
        x = ring(hz, t60, 1.4)
        wet = noise(1.4, seed=int(hz)) * 10 ** (-3 * np.arange(x.size) / RATE / 1.1)
        found.append(
            x + level * np.roll(filters.filtered(wet, filters.lowpass_24(300.0, RATE)), round(at * RATE))
        )
    bent = ring(64.0, 150, 1.0) + 0.05 * ring(64.0, 2000, 1.0)
    return [*found, bent, ring(90.0, 60, 0.12)]


def _tails() -> object:
    found: list[object] = []
    for x in _rooms():
        scaled = tail.scaled_down(x, RATE)
        whole, dry = tail.prepare(*scaled), tail.prepare(*scaled, before_room=True)
        found += [measure_tail(x, RATE), measure_tail(x, RATE, in_room=False), estimate.modes(x, RATE)]
        for one in (whole, dry):
            if one is not None:
                found += [
                    one.peak_s, one.end_s, tail.candidates_hz(one), tail.down_s(one, -12.0), tail.down_s(one, -45.0), tail.rival(one, 60.0, 0.03),
                    tail.inharmonic_share(one, 60.0, 0.03), tail.sounds_below(one, 120.0), len(early.ends(one)),
                ]  # fmt: skip
        course = cycles(x, RATE, 0.004, 0.01)
        found += [course.hz, sweep_semitones(course, 0.0, 60.0), shape(amplitude_envelope(x, RATE), RATE)]
    return found


def _processed() -> object:
    x = ring(300.0, 100, 0.1) + 0.02 * noise(0.1)
    wide = np.stack([x, np.roll(x, 5)], axis=1)
    found: list[object] = [saturation.fundamental_gains(db) for db in (0.0, 12.0, 30.0)]
    found += [saturation.soft_clip(x, db, bias) for db, bias in ((6.0, 0.0), (18.0, 0.5))]
    found += [saturation.leaning(bias)(np.linspace(-2, 2, 21)) for bias in (0.0, 0.3, 0.9)]
    found += [
        np.abs(saturation.blocked(np.geomspace(1, 2000, 9))),
        grains.stretch(x, 1.7, 30.0, 0.4, 3, RATE),
    ]
    found += [filters.cookbook(kind, 800.0, 0.9, RATE, 5.0) for kind in ("lowpass", "highpass", "bandpass")]
    found += [
        filters.steep(kind, 90.0, slope, RATE)
        for kind, slope in product(("lowpass", "highpass"), (12, 24, 48))
    ]
    found += [filters.butterworth_qs(n) for n in (2, 4, 8)]
    found += [
        filters.linkwitz_riley_gain(np.geomspace(20, 2000, 9), 150.0),
        filters.bandpass(x, 500.0, 2.0, RATE),
    ]
    found += [movingfilters.moving_lowpass(x, np.geomspace(100, 9000, x.size), RATE, 0.6)]
    found += [
        movingfilters.moving_steep(kind, x, np.geomspace(50, 5000, x.size), slope, RATE)
        for kind, slope in product(("lowpass", "highpass"), (12, 24))
    ]
    found += [
        resampling.polyphase(x, 3, 2),
        resampling.change_rate(x, 48_000, 44_100),
        resampling.shift_pitch(wide, -3.3),
    ]
    stage = EqualiserStage(bell_db=-5.0, bell_hz=400.0, highpass_hz=60.0)
    found += [
        equaliser.gain_db(stage, np.geomspace(20, 20000, 12), RATE),
        equaliser.equalise(x, stage, RATE),
    ]
    found += [space.delayed(x, 77), space.convolved(wide, x[:300]), space.around_loop(x, x[:900])]
    found += [
        space.impulse_response(kind, ms, damping, low, 3, RATE)
        for kind, (ms, damping, low) in product(
            ("room", "plate", "hall"), ((90.0, 3000.0, 150.0), (700.0, 9000.0, 20.0))
        )
    ]
    return [*found, space.repeats(x, 0.03, -4.0, 0.5, (200.0, 5000.0), RATE)]


def _sided() -> object:
    """Copies on the other side: early, late, faint, far, inverted; and what is none."""
    x, other = noise(0.4), noise(0.4, seed=2)
    shifts = ((150, 1.0), (-33, 1.0), (400, 0.6), (3, 1.0), (2500, 1.0), (700, -0.9))
    pairs = [(x, gain * np.roll(x, shift) + (1 - abs(gain)) * other) for shift, gain in shifts]
    pairs += [(x, other), (x, x), (x, 0.45 * np.roll(x, 200) + 0.55 * other)]
    return [width.side_delay(np.stack(pair, axis=1), RATE) for pair in pairs]


def _driven() -> object:
    """Every curve, gentle and hard, of a low band and of the whole; and the finer rate that it is drawn at."""
    x = 0.6 * sine(300.0, 0.02) + 0.3 * sine(4100.0, 0.02)
    found: list[object] = [
        saturation.drive(x, db, curve, highest)
        for curve, db, highest in product(get_args(saturation.Curve), (3.0, 14.0, 40.0), (20000.0, 300.0))
    ]
    found += [saturation.drive(x, 9.0, "soft", whole=200), saturation.oversampled(x, np.tanh, 8, 0.5)]
    return found


def _places() -> object:
    """What comes through the loudspeakers of every place, at a few frequencies."""
    hz = np.geomspace(22.0, 16000.0, 22)
    asked = (ClubSystem(), SmallClub(), Headphones(), Laptop(), Phone(), Car())
    return [(response_db(room, hz, RATE), direct(room, hz, RATE)) for room in asked], mode_hz(5.3)


def _odd() -> object:
    """Nothing, a click, very short, a step, an offset, and what rises to its end."""
    click = np.zeros(2000)
    click[700] = 0.9
    sounds = (
        np.zeros(480), click, ring(180.0, 8, 0.011), ring(180.0, 12, 0.021), np.repeat([0.0, 0.4], 900),
        0.3 + 0.1 * noise(0.05), noise(0.1) * np.linspace(0.0, 1.0, RATE // 10), 1e-4 * ring(70.0, 300, 0.3),
    )  # fmt: skip
    asked: tuple[Callable[[Array, int], object], ...] = (
        estimate.modes, defects.leading_silence_ms, defects.resting_offset, defects.strokes, defects.goes_on,
        onset_ms, measure, takes.onsets_ms, measure_tail, transcribe, drum_map,
    )  # fmt: skip
    return [one(x, RATE) for x in sounds for one in asked]


def _lines() -> object:
    """Quick notes that cut each other, glides and long releases; how each piece of a loop sounds."""
    brief = Brief(bpm=120.0, chord_roots=("A",))
    notes = tuple(
        Note(at=n / 4, beats=length, semitones=up, velocity=0.4 + 0.05 * n, glide=n % 3 == 1)
        for n, (up, length) in enumerate(
            zip((0, 7, 3, 12, -5, 0, 2, 10), (0.2, 0.25, 0.1) * 3, strict=False)
        )
    )
    recipes = [
        BassRecipe(pattern=notes, release_ms=release, glide_ms=glide, wave=wave, highpass_hz=cut, drive_db=drive)
        for release, glide, wave, cut, drive in (
            (300.0, 50.0, 0.9, 20.0, 0.0), (5.0, 10.0, 0.6, 90.0, 8.0), (60.0, 120.0, 0.0, 20.0, 3.0),
        )
    ]  # fmt: skip
    return [np.array_split(render_bass(one, brief, RATE)[: RATE * 2], 40) for one in recipes]


CASES: dict[str, Callable[[], object]] = {
    "dynamics": _dynamics, "clipped": _clipped, "resonators": _resonators, "pieces": _pieces, "harmonics": _harmonics, "reports": _reports, "placed": _placed, "levels": _levels, "tails": _tails, "processed": _processed, "sided": _sided, "odd": _odd, "driven": _driven, "places": _places, "lines": _lines,
}  # fmt: skip

test_nothing_is_left_out, test_an_answer_is_what_it_was = kept_tests(KEPT, CASES)
