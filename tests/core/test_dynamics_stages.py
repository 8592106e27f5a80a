"""Limiter, leveller, three bands, resonator and envelope against what they are asked for."""

import numpy as np
import pytest
from scipy.special import jn_zeros

from juglant.core.hits.chain import apply_stage
from juglant.core.hits.reported import report
from juglant.core.recipes.chain import EnvelopeStage, ResonatorStage, TrimStage
from juglant.core.recipes.dynamics import BandsStage, LevellerStage, LimitStage
from tests.signals import RATE, Array, noise, ring, sine

KICK = 0.7 * ring(55.0, 260, 0.6)


def _rms_db(x: Array) -> float:
    return 10 * float(np.log10(np.mean(x * x)))


def _peak_db(x: Array) -> float:
    return 20 * float(np.log10(np.max(np.abs(x))))


@pytest.mark.parametrize("asked_db", [0.5, 1.0, 3.0, 9.0])
@pytest.mark.parametrize("level_db", [0.0, -17.0])
def test_so_much_limiting_as_asked_is_what_it_reads_and_does(asked_db: float, level_db: float) -> None:
    """Common practice: 1 dB of limiting steadies a quiet bass; it reads 1.0 within 0.1, at any level."""
    for x in (KICK, sine(60.0, 0.5) * np.linspace(0.3, 1.0, RATE // 2), 0.5 * noise(0.4)):
        x = x * 10 ** (level_db / 20)
        stage = LimitStage(amount_db=asked_db)
        y = apply_stage(x, stage, RATE, 120.0)
        read_db = report(x, y, stage, RATE, 60.0).least_db
        assert read_db == pytest.approx(-asked_db, abs=0.1)
        assert _peak_db(x) - _peak_db(y) == pytest.approx(asked_db, abs=0.1)


@pytest.mark.parametrize("ahead_ms", [0.1, 2.0, 10.0])
def test_no_sample_passes_a_ceiling_and_what_lies_under_it_is_left_alone(ahead_ms: float) -> None:
    stage = LimitStage(hold_to="ceiling", ceiling_db=-12.0, ahead_ms=ahead_ms)
    # A peak on the very first frame, single clicks, a wide sound.
    first = np.zeros(4800)
    first[[0, 2000, 4799]] = 1.0, -1.0, 0.9
    for x in (KICK, first, np.stack([first, 0.2 * first], axis=1)):
        assert _peak_db(apply_stage(x, stage, RATE, 120.0)) <= -12.0 + 1e-9
    quiet = 0.25 * KICK / np.max(np.abs(KICK))
    assert np.array_equal(apply_stage(quiet, stage, RATE, 120.0), quiet)
    # Both sides are turned down together: the image stays where it is.
    wide = apply_stage(np.stack([KICK, 0.5 * KICK], axis=1), stage, RATE, 120.0)
    assert np.allclose(wide[:, 1], 0.5 * wide[:, 0])


def test_a_leveller_brings_loud_and_soft_notes_towards_one_level() -> None:
    notes = [sine(80.0, 1.0, db) for db in (-10.0, -22.0, -16.0, -70.0)]
    # Two seconds of next to nothing at the end: the level is followed down first.
    x = np.concatenate([*notes, notes[3]])
    for amount, apart_db in ((1.0, 0.0), (0.5, 6.0), (0.0, 12.0)):
        y = apply_stage(x, LevellerStage(target_db=-19.0, amount=amount, range_db=20.0), RATE, 120.0)
        late = [y[n * RATE + RATE * 7 // 10 : (n + 1) * RATE] for n in (0, 1, 2, 4)]
        levels = [_rms_db(one) for one in late]
        assert levels[0] - levels[1] == pytest.approx(apart_db, abs=0.6)
        # Silence between notes is not pulled up.
        assert levels[3] == pytest.approx(_rms_db(notes[3]), abs=1.0)
    held = apply_stage(x, LevellerStage(target_db=-19.0, amount=1.0, range_db=2.0), RATE, 120.0)
    assert _rms_db(held[:RATE][RATE // 2 :]) - _rms_db(notes[0]) == pytest.approx(-2.0, abs=0.1)


@pytest.mark.parametrize(("band", "hz"), [("low", 60.0), ("mid", 600.0), ("high", 8000.0)])
def test_each_band_comes_down_and_up_by_its_own_ratios(band: str, hz: float) -> None:
    """A steady tone lies where the static curve puts it: threshold plus what is above over the ratio
    (Giannoulis, Massberg & Reiss, JAES 60(6), 2012, eq. 4), and the same mirrored for what is below.
    """
    alone = {f"{one}_{way}": 1.0 for one in ("low", "mid", "high") for way in ("down", "up")}
    stage = BandsStage.model_validate({
        **alone, f"{band}_above_db": -20.0, f"{band}_down": 4.0, f"{band}_below_db": -40.0, f"{band}_up": 2.0,
        "most_up_db": 24.0,
    })  # fmt: skip
    # The RMS of a sine lies 3 dB under its peak.
    for level_db, expected_db in ((-8.0, -17.0), (-30.0, -30.0), (-50.0, -45.0)):
        y = apply_stage(sine(hz, 1.0, level_db + 3.01), stage, RATE, 120.0)[RATE // 2 :]
        assert _rms_db(y) == pytest.approx(expected_db, abs=0.4)
    # The two others hear none of it.
    for other in {60.0, 600.0, 8000.0} - {hz}:
        x = sine(other, 1.0, -5.0)
        assert _rms_db(apply_stage(x, stage, RATE, 120.0) - x) < _rms_db(x) - 25


def test_nothing_is_brought_up_by_more_than_the_most_nor_out_of_silence() -> None:
    stage = BandsStage(mid_below_db=-30.0, mid_up=10.0, most_up_db=6.0, mid_down=1.0, low_up=1, high_up=1)
    lifted = apply_stage(sine(600.0, 1.0, -52.0), stage, RATE, 120.0)[RATE // 2 :]
    assert _rms_db(lifted) == pytest.approx(-52.0 - 3.0 + 6.0, abs=0.2)
    hiss = sine(600.0, 1.0, -95.0)
    assert np.allclose(apply_stage(hiss, stage, RATE, 120.0), hiss, atol=1e-8)


def _partials(y: Array) -> Array:
    """The strongest lines of what rings on, in Hz, lowest first."""
    size = 1 << 19
    power = np.abs(np.fft.rfft(y * np.hanning(y.size), size))
    tops = np.flatnonzero((power[1:-1] > power[:-2]) & (power[1:-1] > power[2:])) + 1
    strong = tops[power[tops] > 0.02 * power.max()]
    return np.asarray(strong * RATE / size)


@pytest.mark.parametrize("tune_hz", [65.4, 110.0, 246.9])
def test_a_resonator_rings_at_its_tuning(tune_hz: float) -> None:
    """Membrane: zeros of the Bessel functions (Fletcher & Rossing, The Physics of Musical Instruments,
    ch. 3); comb: whole multiples. Within 2 Hz, over any sample.
    """
    stroke = noise(0.02)
    membrane = [tune_hz * z / jn_zeros(0, 1)[0] for z in (*jn_zeros(0, 2), *jn_zeros(1, 2))]
    for kind, expected in (("membrane", membrane), ("comb", [tune_hz * n for n in (1, 2, 3, 4)])):
        stage = ResonatorStage(kind=kind, tune_hz=tune_hz, decay_ms=1500.0, damping=0.0, mix_db=12.0)
        y = apply_stage(stroke, stage, RATE, 120.0)[stroke.size :]
        found = _partials(y)
        assert all(np.min(np.abs(found - hz)) < 2.0 for hz in expected)


def test_a_second_membrane_stands_at_its_interval_and_the_decay_is_as_set() -> None:
    stage = ResonatorStage(
        kind="comb", tune_hz=200.0, second_db=0.0, second_semitones=7.02, decay_ms=600.0, damping=1.0,
        mix_db=12.0,
    )  # fmt: skip
    y = apply_stage(noise(0.02), stage, RATE, 120.0)[RATE // 50 :]
    found = _partials(y)
    assert all(np.min(np.abs(found - hz)) < 2.0 for hz in (200.0, 300.0))
    alone = ResonatorStage(kind="comb", tune_hz=200.0, decay_ms=600.0, damping=1.0, mix_db=12.0)
    y = apply_stage(noise(0.02), alone, RATE, 120.0)
    early, late = (_rms_db(y[round(at * RATE) :][: RATE // 20]) for at in (0.15, 0.45))
    assert early - late == pytest.approx(60 * 0.3 / 0.6, abs=1.5)


@pytest.mark.parametrize("bpm", [90.0, 140.0])
def test_lengths_in_note_values_follow_the_tempo(bpm: float) -> None:
    x = noise(2.0)
    sixteenth_s = 15 / bpm
    trimmed = apply_stage(x, TrimStage(length_ms=700.0, length_in="1/16"), RATE, bpm)
    assert trimmed.size == round(sixteenth_s * RATE)
    assert apply_stage(x, TrimStage(length_ms=700.0), RATE, bpm).size == round(0.7 * RATE)
    held = apply_stage(x, EnvelopeStage(hold_in="1/8", hold_ms=5.0, decay_ms=100.0), RATE, bpm)
    eighth = round(2 * sixteenth_s * RATE)
    assert np.array_equal(held[:eighth], x[:eighth])
    # 60 dB in 100 ms after the hold.
    at = eighth + RATE // 20
    fall = _rms_db(held[at - 240 : at + 240]) - _rms_db(x[at - 240 : at + 240])
    assert fall == pytest.approx(-30.0, abs=1.0)


def test_an_envelope_rises_over_its_attack() -> None:
    x = sine(400.0, 0.5)
    y = apply_stage(x, EnvelopeStage(attack_ms=100.0, hold_ms=200.0), RATE, 120.0)
    first, middle, full = (_rms_db(y[round(at * RATE) :][:480]) for at in (0.0, 0.045, 0.15))
    assert first < full - 35
    assert middle == pytest.approx(full - 6.0, abs=1.0)
