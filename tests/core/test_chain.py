"""Stages: silent when neutral, sound at every corner, and honest about what they did."""

from typing import Any

import numpy as np
import pytest
from scipy.signal.windows import blackmanharris

from juglant.core import RATE
from juglant.core.hits.chain import apply_stage
from juglant.core.hits.making import made
from juglant.core.hits.reported import CURVE_HZ, added_harmonics_db, report
from juglant.core.process import lowpart, saturation
from juglant.core.recipes.chain import (
    STAGES,
    ClipStage,
    DelayStage,
    DriveStage,
    EqualiserStage,
    GrainStage,
    LevelStage,
    ResonatorStage,
    SpaceStage,
    TransientStage,
    TrimStage,
)
from juglant.core.recipes.dynamics import BandsStage, CompressorStage, GateStage, LevellerStage, LimitStage
from juglant.core.recipes.fields import Control, control_sheet
from juglant.core.recipes.hit import MadeKick
from tests.signals import Array, noise, ring, sine

HIT = 0.7 * ring(60.0, 300, 0.4) + 0.2 * ring(900.0, 60, 0.4)
WIDE = np.stack([HIT, 0.6 * np.roll(HIT, 40)], axis=1)
NEUTRAL = [
    TrimStage(), EqualiserStage(), EqualiserStage(phase="linear"), DriveStage(), TransientStage(),
    CompressorStage(ratio=1.0), GateStage(range_db=0.0), ClipStage(softness=0.0), SpaceStage(mix_db=-60.0),
    DelayStage(mix_db=-60.0), GrainStage(), LevelStage(),
    DriveStage(drive_db=12.0, mix=0.0), CompressorStage(ratio=8.0, mix=0.0),
    EqualiserStage(bell_db=12.0, bypass=True),
    LimitStage(amount_db=0.0), LimitStage(hold_to="ceiling", ceiling_db=0.0), LevellerStage(amount=0.0),
    BandsStage(mix=0.0), BandsStage(low_down=1, mid_down=1, high_down=1, low_up=1, mid_up=1, high_up=1),
    ResonatorStage(mix_db=-60.0),
]  # fmt: skip
CORNERS = [
    (name, control, value)
    for name, stage in STAGES.items()
    for control in control_sheet(stage).controls
    for value in (control.low, control.high)
]
# Something for each stage to do while one of its controls is at its end.
BUSY: dict[str, dict[str, Any]] = {
    "trim": {"fade_in_ms": 20.0, "length_ms": 200.0}, "equaliser": {"bell_db": 6.0, "second_db": -6.0},
    "drive": {"drive_db": 12.0}, "transient": {"attack_db": 6.0}, "compressor": {"threshold_db": -30.0},
    "gate": {"threshold_db": -30.0}, "leveller": {"target_db": -12.0}, "bands": {"low_gain_db": 3.0},
    "limit": {"amount_db": 6.0}, "envelope": {}, "resonator": {},
    "clip": {"ceiling_db": -6.0}, "space": {}, "delay": {}, "grains": {"stretch": 1.5}, "level": {"pan": 0.3},
}  # fmt: skip


@pytest.mark.parametrize("stage", NEUTRAL, ids=lambda stage: stage.stage)
@pytest.mark.parametrize("x", [HIT, WIDE], ids=["mono", "stereo"])
def test_a_neutral_stage_leaves_no_trace(stage: Any, x: Array) -> None:
    left = apply_stage(x, stage, RATE, 120.0) - x
    assert 20 * np.log10(max(float(np.max(np.abs(left))), 1e-15)) < -120


@pytest.mark.parametrize(
    ("name", "control", "value"), CORNERS, ids=lambda one: getattr(one, "name", str(one))
)
def test_no_corner_of_a_stage_breaks_a_sound(name: str, control: Control, value: float) -> None:
    whole = int(value) if control.name == "seed" else value
    stage = STAGES[name].model_validate({**BUSY[name], control.name: whole})
    for x in (HIT, WIDE):
        y = apply_stage(x, stage, RATE, 120.0)
        assert np.isfinite(y).all()
        assert y.shape[0] >= 2
        assert np.max(np.abs(y)) < 400
        # No offset comes from nowhere.
        assert np.max(np.abs(np.mean(y, axis=0))) < np.max(np.abs(np.mean(x, axis=0))) * 20 + 0.02


def test_gain_that_moves_leaves_no_steps() -> None:
    # A held tone under every stage whose gain moves: no sample may jump further than the tone does.
    tone = sine(80.0, 0.6) * np.minimum(1, np.arange(RATE * 6 // 10) / 2000)
    for stage in (
        TransientStage(attack_db=24.0, sustain_db=-24.0),
        CompressorStage(threshold_db=-40.0, ratio=20.0),
        GateStage(threshold_db=-30.0),
        LimitStage(amount_db=12.0),
        LevellerStage(amount=1.0, range_db=24.0, speed_ms=20.0),
    ):
        y = apply_stage(tone, stage, RATE, 120.0)
        jump = np.abs(np.diff(y, n=2))
        # The second difference of the tone itself, by the largest gain, with room for the attack.
        assert jump.max() < 60 * np.abs(np.diff(tone, n=2)).max()


def test_a_gate_lets_strokes_through_and_closes_between_them() -> None:
    # Two strokes over a hum that lies 6 dB under the threshold; an open gate adds nothing of its own.
    hum = sine(200.0, 1.0, -46.0)
    stroke = 0.5 * ring(60.0, 120, 0.25)
    x = hum.copy()
    for start in (0.0, 0.5):
        x[round(start * RATE) : round(start * RATE) + stroke.size] += stroke
    stage = GateStage(threshold_db=-40.0, range_db=40.0, hold_ms=30.0, release_ms=10.0, attack_ms=0.1)
    y = apply_stage(x, stage, RATE, 120.0)
    open_at, between = slice(RATE // 50, RATE * 9 // 100), slice(RATE * 45 // 100, RATE * 49 // 100)
    assert np.max(np.abs(y[open_at] - x[open_at])) < 1e-6
    closed_db = 20 * np.log10(np.std(y[between]) / np.std(x[between]))
    assert closed_db == pytest.approx(-40.0, abs=0.1)
    # A hold that is shorter than the half cycle of a low tone chatters; a longer one does not.
    tone = sine(40.0, 0.5, -12.0)
    for hold_ms, chatters in ((0.0, True), (13.0, False)):
        held = GateStage(threshold_db=-24.0, hold_ms=hold_ms, release_ms=5.0, attack_ms=0.1)
        gated = apply_stage(tone, held, RATE, 120.0)[RATE // 10 :]
        assert (np.max(np.abs(gated - tone[RATE // 10 :])) > 0.001) == chatters


@pytest.mark.parametrize("curve", ["soft", "hard", "asymmetric", "tape"])
def test_drive_holds_the_peak_and_adds_the_harmonics_it_says(curve: Any) -> None:
    stage = DriveStage(drive_db=18.0, curve=curve)
    tone = sine(100.0, 0.5, -6.0)
    y = apply_stage(tone, stage, RATE, 120.0)
    assert np.max(np.abs(y)) == pytest.approx(np.max(np.abs(tone)), rel=1e-6)
    even, odd, *_ = added_harmonics_db(stage, 0.5, RATE, 100.0)
    assert odd > -25
    if curve == "asymmetric":
        assert even > -30
    else:
        assert even < -60


def test_a_driven_band_leaves_the_rest_alone() -> None:
    x = sine(60.0, 1.0, -12) + sine(3000.0, 1.0, -12)
    y = apply_stage(x, DriveStage(drive_db=18.0, from_hz=1000.0, to_hz=20000.0), RATE, 120.0)
    assert np.max(np.abs(y)) == pytest.approx(np.max(np.abs(x)), rel=1e-9)
    # What the peak must give is taken from all of it alike.
    gain = float(y @ sine(60.0, 1.0) / (x @ sine(60.0, 1.0)))
    assert 0.6 < gain < 1.0
    middle = slice(RATE // 4, 3 * RATE // 4)
    change = np.abs(np.fft.rfft((y - gain * x)[middle] * np.hanning(RATE // 2)))
    at = np.arange(change.size) * 2
    assert change[at < 400].max() < 1e-2 * change.max()


@pytest.mark.parametrize(("low", "high"), [(60, 120), (120, 300), (300, 1000), (1000, 5000)])
def test_a_driven_band_is_lifted_more_than_the_one_above_it(low: float, high: float) -> None:
    kick = made(MadeKick(), 126.0)
    for drive_db in (6.0, 12.0, 24.0, 36.0):
        stage = DriveStage(drive_db=drive_db, from_hz=low, to_hz=high)
        y = apply_stage(kick, stage, RATE, 126.0)
        power = [np.abs(np.fft.rfft(one)) ** 2 for one in (kick, y)]
        hz = np.fft.rfftfreq(kick.size, 1 / RATE)
        lifts = [
            10 * np.log10(power[1][part].sum() / power[0][part].sum())
            for part in ((hz >= low) & (hz < high), (hz >= high) & (hz < 2 * high))
        ]
        assert lifts[0] > lifts[1]
        assert np.max(np.abs(y)) == pytest.approx(np.max(np.abs(kick)), rel=1e-9)


@pytest.mark.parametrize("curve", ["soft", "hard", "asymmetric", "tape"])
@pytest.mark.parametrize("drive_db", [6.0, 18.0, 18.5, 36.0])
def test_what_driving_folds_back_lies_60_db_down(curve: Any, drive_db: float) -> None:
    """For tones up to 5 kHz: all that is no harmonic of them (any text on sampling)."""
    for hz in (997.0, 3001.0, 4999.0):
        y = saturation.drive(0.9 * sine(hz, 1.0), drive_db, curve)
        level = np.abs(np.fft.rfft(y * blackmanharris(y.size)))
        at = np.fft.rfftfreq(y.size, 1 / RATE)
        harmonic = np.abs(at - hz * np.round(at / hz)) < 8
        assert 20 * np.log10(level[~harmonic].max() / level.max()) < -60


def test_a_ceiling_is_never_passed_and_what_is_under_the_knee_is_untouched() -> None:
    loud = noise(0.3) * 6
    for softness in (0.0, 0.5, 1.0):
        y = apply_stage(loud, ClipStage(ceiling_db=-3.0, softness=softness), RATE, 120.0)
        assert np.max(np.abs(y)) <= 10 ** (-3 / 20) + 1e-12
    quiet = 0.2 * HIT
    assert np.array_equal(apply_stage(quiet, ClipStage(ceiling_db=-3.0, softness=1.0), RATE, 120.0), quiet)


def test_transients_are_lifted_whatever_the_level() -> None:
    def onset_over_tail(x: Array) -> float:
        return float(20 * np.log10(np.max(np.abs(x[:480])) / np.max(np.abs(x[4800:9600]))))

    more = TransientStage(attack_db=12.0)
    for gain in (1.0, 0.01):
        x = HIT * gain
        assert onset_over_tail(apply_stage(x, more, RATE, 120.0)) > onset_over_tail(x) + 3
    drier = apply_stage(HIT, TransientStage(sustain_db=-18.0), RATE, 120.0)
    assert onset_over_tail(drier) > onset_over_tail(HIT) + 5


@pytest.mark.parametrize("kind", ["room", "plate", "hall"])
def test_a_space_dies_away_in_its_time_and_can_be_wide(kind: Any) -> None:
    click = np.zeros(2400)
    click[0] = 1.0
    stage = SpaceStage(kind=kind, decay_ms=500.0, damping_hz=20000.0, mix_db=0.0, predelay_ms=10.0)
    y = apply_stage(click, stage, RATE, 120.0)
    assert np.max(np.abs(y[1:480])) == 0
    energy = np.cumsum((y[480:] ** 2)[::-1])[::-1]
    decay = 10 * np.log10(energy / energy[0])
    # Schroeder's backward integration (JASA 37, 1965): -5 to -25 dB, three times that is T60.
    t60 = 3 * (np.argmax(decay < -25) - np.argmax(decay < -5)) / RATE
    assert t60 == pytest.approx(0.5, rel=0.2)
    wide = apply_stage(click, stage.model_copy(update={"width": 1.0}), RATE, 120.0)
    left, right = wide[480:].T
    assert abs(left @ right) < 0.3 * (left @ left)


def test_repeats_fall_on_their_note_value() -> None:
    click = np.zeros(480)
    click[0] = 1.0
    stage = DelayStage(time="1/8t", mix_db=-6.0, feedback=0.5, highpass_hz=20.0, lowpass_hz=20000.0)
    y = apply_stage(click, stage, RATE, 125.0)
    at = np.flatnonzero(np.abs(y) > 0.01)
    # Two thirds of an eighth at 125 BPM: 160 ms.
    assert list(at[:4]) == [0, 7680, 15360, 23040]
    assert y[at[1:4]] == pytest.approx([0.501, 0.25, 0.125], abs=0.002)


def test_stretching_keeps_the_pitch_and_changes_the_length() -> None:
    tone = sine(440.0, 0.5)
    y = apply_stage(tone, GrainStage(stretch=2.0, grain_ms=60.0, jitter=0.0), RATE, 120.0)
    assert y.size == 2 * tone.size
    spectrum = np.abs(np.fft.rfft(y * np.hanning(y.size)))
    assert np.argmax(spectrum) * RATE / y.size == pytest.approx(440.0, abs=2)


def test_levels_are_reached_and_polarity_is_turned() -> None:
    y = apply_stage(HIT, LevelStage(target="peak", target_db=-9.0, polarity="inverted"), RATE, 120.0)
    assert 20 * np.log10(np.max(np.abs(y))) == pytest.approx(-9.0, abs=1e-6)
    assert np.sign(y[300]) == -np.sign(HIT[300])
    wide = apply_stage(HIT, LevelStage(pan=-1.0), RATE, 120.0)
    assert np.max(np.abs(wide[:, 1])) < 1e-9


def test_a_report_says_what_was_done() -> None:
    stage = CompressorStage(threshold_db=-30.0, ratio=6.0)
    y = apply_stage(HIT, stage, RATE, 120.0)
    said = report(HIT, y, stage, RATE, 60.0)
    assert said.over == "time"
    assert said.least_db is not None
    assert said.least_db < -6
    assert len(said.curve_db) == pytest.approx(400, abs=2)
    assert said.match_db == pytest.approx(said.lufs_in - said.lufs_out)
    assert said.match_db > 3
    bent = EqualiserStage(bell_db=-8.0)
    said = report(HIT, apply_stage(HIT, bent, RATE, 120.0), bent, RATE, 60.0)
    assert said.over == "frequency"
    assert said.least_db == pytest.approx(-8.0, abs=0.1)
    # What it is laid over: a sine stands out where it is, and falls off on both sides.
    tone = sine(1000.0, 0.5, -6.0)
    seen = report(tone, tone, bent, RATE, 60.0).spectrum_db
    assert len(seen) == len(CURVE_HZ) == 96
    assert CURVE_HZ[int(np.argmax(seen))] == pytest.approx(1000.0, rel=0.12)
    assert (seen[0], max(seen), seen[-1]) == (-60.0, 0.0, -60.0)
    assert report(HIT, y, stage, RATE, 60.0).spectrum_db == []


@pytest.mark.parametrize("curve", ["soft", "asymmetric", "tape"])
def test_a_low_band_needs_no_finer_rate_to_be_driven(curve: Any) -> None:
    """What is left out of it lies at the end of single precision; a curve with a corner does need it."""
    sounds = {
        "tones": sine(297, 1, -6) + sine(130, 1, -14), "noise": 0.3 * noise(1.0),
        "click": np.pad([1.0], (RATE // 2, RATE // 2 - 1)),
    }  # fmt: skip
    for x in sounds.values():
        band = lowpart.band(x, 20.0, 600.0, RATE) * np.hanning(RATE)
        coarse, fine = (saturation.drive(band, 18.0, curve, highest) for highest in (600.0, 20000.0))
        off, whole = (np.max(np.abs(np.fft.rfft(one))) for one in (coarse - fine, fine))
        assert 20 * np.log10(off / whole) < -98
    hard = [saturation.drive(band, 18.0, "hard", highest) for highest in (600.0, 20000.0)]
    assert np.array_equal(hard[0], hard[1])
