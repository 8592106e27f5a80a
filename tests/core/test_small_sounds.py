"""What small stages and measurements do to plain signals, by arithmetic and by what is published."""

import struct
from collections.abc import Callable

import numpy as np
import pytest
from scipy import signal

from bench.drumloops import hiss
from juglant.core.hits.retune import retuned
from juglant.core.lowend.aligning import common_band_hz
from juglant.core.measure.drummap import drum_map
from juglant.core.measure.hit import measure
from juglant.core.measure.pumping import heard
from juglant.core.measure.reference import reference
from juglant.core.measure.takenumbers import take_numbers
from juglant.core.measure.takes import Cut
from juglant.core.process.dynamics import both_ways_gain_db, transient_gain_db
from juglant.core.process.equaliser import equalise, gain_db
from juglant.core.process.resampling import polyphase
from juglant.core.recipes.bass import BassRecipe
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.chain import EqualiserStage
from juglant.core.recipes.notes import Note
from juglant.core.recipes.room import Room, SmallClub
from juglant.core.rooms.systems import response_db
from juglant.core.synth.bass import render_bass
from juglant.files.audio import encode_wav24, encode_wav_float
from tests.signals import RATE, Array, noise, ring, silence, sine


def test_the_band_that_two_sounds_share_is_that_of_the_third_octaves_in_which_both_are_heard() -> None:
    low, high = sine(63.0, 1.0) + sine(250.0, 1.0), sine(250.0, 1.0) + sine(1000.0, 1.0)
    band = common_band_hz(low, high, RATE)
    assert band is not None
    # IEC 61260-1: a third octave reaches a sixth of an octave to either side.
    assert band == pytest.approx((250 * 2 ** (-1 / 6), 250 * 2 ** (1 / 6)), rel=0.01)


@pytest.mark.parametrize("rate", [44_100, 48_000])
def test_the_response_of_a_measured_system_is_its_transform(rate: int) -> None:
    sos = signal.butter(2, 200.0, "highpass", fs=rate, output="sos")
    own = signal.sosfilt(sos, np.concatenate([[1.0], np.zeros(rate // 2)]))
    hz = np.array([50.0, 100.0, 200.0, 1000.0])
    room: Room = SmallClub()
    _, exact = signal.freqz_sos(sos, 2 * np.pi * hz / rate)
    # Over a sixth of an octave; 0 dB where it is loudest.
    found = response_db(room, hz, rate, own)
    assert found == pytest.approx(20 * np.log10(np.abs(exact)), abs=0.6)


@pytest.mark.parametrize(("attack_ms", "release_ms"), [(5.0, 200.0), (200.0, 5.0)])
def test_what_is_brought_up_lets_go_as_fast_as_what_is_brought_down_takes_hold(
    attack_ms: float, release_ms: float
) -> None:
    loud = np.concatenate([0.001 * sine(500.0, 1.0), sine(500.0, 1.0), 0.001 * sine(500.0, 1.0)])
    gain = both_ways_gain_db(loud, RATE, -20.0, 4.0, -40.0, 4.0, 12.0, attack_ms, release_ms)
    # Settled: 17 dB over at 4 to 1 come down by 12.7; 23 dB under come up by the most.
    assert gain[2 * RATE - 100] == pytest.approx(-0.75 * (20 - 3.01), abs=0.3)
    assert gain[RATE - 100] == pytest.approx(12.0, abs=0.1)
    # From there to 63 % of the way, by the time that each is named for.
    down = np.argmax(gain[RATE:] < -0.75 * 17 * 0.632) / RATE * 1000
    assert down < 12.0 if attack_ms == 5.0 else down > 100.0
    up = np.argmax(gain[2 * RATE :] > 0.632 * 12.0) / RATE * 1000
    assert up < 100.0 if release_ms == 5.0 else up > 100.0


def test_the_mean_power_of_a_loop_is_that_of_a_sample() -> None:
    # ITU-R BS.1770-5: a sine of 997 Hz at full scale reads -3.01 LKFS, -0.691 of them the constant.
    power = heard(sine(997.0, 1.0), RATE)
    assert 10 * np.log10(power.mean) - 0.691 == pytest.approx(-3.01, abs=0.05)
    assert heard(sine(997.0, 3.0), RATE).mean == pytest.approx(power.mean, rel=0.01)
    assert np.median(power.parts) == pytest.approx(power.mean, rel=0.01)


def test_a_take_says_how_far_the_room_lies_under_it_where_there_is_some_before_it() -> None:
    room = 10 ** (-60 / 20) * sine(400.0, 0.3) * np.sqrt(2)
    x = np.concatenate([room, ring(60.0, 200, 0.4)])
    there = take_numbers(x, RATE, Cut(300.0, 300.0, 700.0))
    assert there.noise_before_db is not None
    assert there.noise_before_db + there.level_dbfs == pytest.approx(-60.0, abs=0.1)
    # 20 ms of it are enough, less is not.
    late = x[round(0.279 * RATE) :]
    assert take_numbers(late, RATE, Cut(21.0, 21.0, 421.0)).noise_before_db is not None
    assert take_numbers(late[round(0.002 * RATE) :], RATE, Cut(19.0, 19.0, 419.0)).noise_before_db is None
    quiet = np.concatenate([room, silence(0.4)])
    assert take_numbers(quiet, RATE, Cut(300.0, 300.0, 700.0)).noise_before_db is None


def test_what_comes_back_unevenly_has_no_tempo() -> None:
    hiss = noise(6.0)
    found = reference(hiss, RATE)
    assert (found.bpm, found.other_bpm) == (None, [])
    assert "evenly" in found.reasons["bpm"]


def test_a_note_glides_for_as_long_as_it_is_told() -> None:
    notes = (Note(at=0.0, beats=2.0), Note(at=2.0, beats=2.0, semitones=12, glide=True))
    brief = Brief(bpm=120.0, tonic="A", mode="minor", chord_roots=("A",))
    slow = BassRecipe(pattern=notes, glide_ms=200.0, octave=1, wave=0.0, drive_db=0.0, lowpass_hz=20000.0)
    x = render_bass(slow, brief, RATE)

    def hz(at_ms: float) -> float:
        near = x[round((at_ms - 25) / 1000 * RATE) : round((at_ms + 25) / 1000 * RATE)]
        spectrum = np.abs(np.fft.rfft(near * np.hanning(near.size), 2**17))
        return float(np.argmax(spectrum)) * RATE / 2**17

    # A1 is 55 Hz (ISO 16:1975); half-way through the glide it is half an octave up.
    assert hz(600.0) == pytest.approx(55.0, rel=0.04)
    assert hz(1100.0) == pytest.approx(55.0 * 2**0.5, rel=0.06)
    assert hz(1500.0) == pytest.approx(110.0, rel=0.02)


@pytest.mark.parametrize(
    ("change", "at_hz"),
    [
        # Butterworth: -3 dB at its corner, 24 dB an octave beyond it; the other side left alone.
        ({"highpass_hz": 100.0, "highpass_slope": "24"}, {100.0: -3.0, 50.0: -24.1, 1000.0: 0.0}),
        ({"lowpass_hz": 1000.0, "lowpass_slope": "24"}, {1000.0: -3.0, 2000.0: -24.1, 100.0: 0.0}),
        # A bell at its middle; a shelf at either side of its corner, and half of it there.
        ({"bell_hz": 200.0, "bell_db": 6.0}, {200.0: 6.0, 20.0: 0.0}),
        ({"second_hz": 800.0, "second_db": -9.0}, {800.0: -9.0, 20.0: 0.0}),
        ({"low_shelf_hz": 100.0, "low_shelf_db": 6.0}, {10.0: 6.0, 100.0: 3.0, 2000.0: 0.0}),
        ({"high_shelf_hz": 4000.0, "high_shelf_db": 8.0}, {20000.0: 8.0, 4000.0: 4.0, 200.0: 0.0}),
    ],
)
@pytest.mark.parametrize("rate", [44_100, 48_000])
def test_every_band_of_the_equaliser_does_what_it_says(
    change: dict[str, object], at_hz: dict[float, float], rate: int
) -> None:
    """Corners and gains of the Audio EQ Cookbook (W3C Note, 2021)."""
    stage = EqualiserStage(**change)
    found = gain_db(stage, np.array(list(at_hz)), rate)
    assert found == pytest.approx(list(at_hz.values()), abs=0.35)
    # And a sound goes through it as that says.
    for hz, db in at_hz.items():
        if 50.0 <= hz <= 4000.0:
            x = sine(hz, 0.5, rate=rate)
            y = equalise(x, stage, rate)[rate // 5 : -rate // 10]
            assert 20 * np.log10(np.std(y) / np.std(x)) == pytest.approx(db, abs=0.4)


@pytest.mark.parametrize("channels", [1, 2])
@pytest.mark.parametrize(("write", "tag", "bytes_each"), [(encode_wav24, 1, 3), (encode_wav_float, 3, 4)])
def test_the_head_of_a_file_says_how_many_bytes_a_second_are(
    write: Callable[[Array, int], bytes], tag: int, bytes_each: int, channels: int
) -> None:
    x = np.zeros(100) if channels == 1 else np.zeros((100, 2))
    data = write(x, 44_100)
    assert (data[:4], data[8:16]) == (b"RIFF", b"WAVEfmt ")
    # Multimedia Programming Interface and Data Specifications 1.0, "WAVE": format, channels, frames a
    # second, bytes a second, bytes a frame, bits a sample.
    assert struct.unpack("<HHIIHH", data[20:36]) == (
        tag, channels, 44_100, 44_100 * channels * bytes_each, channels * bytes_each, 8 * bytes_each,
    )  # fmt: skip


@pytest.mark.parametrize(
    ("low_hz", "high_hz", "t60_ms", "is_snare"),
    [
        (300, 6000, 250, True),
        (150, 3000, 250, True),
        (400, 12000, 300, True),
        (900, 2500, 150, True),
        (5000, 11000, 150, False),
    ],
)
def test_a_snare_of_noise_is_told_from_a_hat_by_its_body(
    low_hz: float, high_hz: float, t60_ms: float, is_snare: bool
) -> None:
    """Common practice: kicks on one and three, snares on two and four, hats on every eighth."""
    bpm, out = 126.0, np.zeros(8 * RATE)
    noise_snare = hiss(np.random.default_rng(3), low_hz, high_hz, t60_ms)
    hat = hiss(np.random.default_rng(4), 7000, 16000, 60)

    def put(x: Array, at: float, gain: float) -> None:
        start = round(at * 60 / bpm * RATE)
        out[start : start + x.size] += gain * x / np.max(np.abs(x))

    for beat in range(8):
        if beat % 2 == 0:
            put(ring(52.0, 250, 0.4), beat, 0.9)
        else:
            put(noise_snare, beat, 0.6)
        for eighth in (0.0, 0.5):
            put(hat, beat + eighth, 0.25)
    found = {round(2 * one.at_ms * bpm / 60_000): one.velocities for one in drum_map(out, RATE)}
    assert [at for at in range(16) if "kick" in found.get(at, {})] == [0, 4, 8, 12]
    assert [at for at in range(16) if "snare" in found.get(at, {})] == ([2, 6, 10, 14] if is_snare else [])
    assert {1, 3, 5, 7, 9, 11, 13, 15} <= {at for at in range(16) if "hat" in found.get(at, {})}


def test_a_resampled_sine_is_the_sine_at_the_other_rate() -> None:
    """Nyquist and Shannon: below half the lower rate it is the same function of time."""
    for up, down in ((1, 3), (3, 1), (147, 160), (160, 147)):
        rate = RATE * up / down
        x = polyphase(sine(1000.0, 0.2), up, down)
        assert x.size == pytest.approx(0.2 * rate, abs=1)
        there = np.sin(2 * np.pi * 1000.0 * np.arange(x.size) / rate)
        middle = slice(x.size // 4, -x.size // 4)
        assert np.max(np.abs(x[middle] - there[middle])) < 2e-3


def test_a_file_is_made_higher_by_its_own_cycles_while_its_length_stays() -> None:
    x = np.concatenate([silence(0.02), ring(55.0, 900, 0.8)])
    kept = retuned(x, RATE, 5.0, keep_length=True, straighten=False, spare_ms=20.0)
    quick = retuned(x, RATE, 5.0, keep_length=False, straighten=False, spare_ms=20.0)
    assert kept.size == x.size
    assert quick.size == pytest.approx(x.size / 2 ** (5 / 12), abs=2)
    for one in (kept, quick):
        hz = measure(one, RATE).hit.fundamental_hz
        assert hz == pytest.approx(55.0 * 2 ** (5 / 12), rel=0.002)
    # What falls by 60 dB in 0.9 s goes on doing so where the length is kept.
    falls = [measure(one, RATE).hit.decay20_ms for one in (x, kept, quick)]
    assert falls[1] == pytest.approx(falls[0], rel=0.1)
    assert falls[2] == pytest.approx((falls[0] or 0) / 2 ** (5 / 12), rel=0.1)
    assert np.array_equal(retuned(silence(0.1), RATE, 5.0, keep_length=True, straighten=False, spare_ms=0.0),
                          silence(0.1)[: round(0.1 * RATE / 2 ** (5 / 12))])  # fmt: skip


def test_a_transient_shaper_lifts_what_goes_on_by_what_is_asked() -> None:
    x = np.concatenate([ring(200.0, 500, 1.0), ring(200.0, 500, 1.0)])
    lifted = transient_gain_db(x, RATE, 0.0, 6.0)
    # Soon after a stroke what goes on is told from the onset; in the rest between there is nothing.
    assert lifted[round(0.002 * RATE)] < 0.5
    assert 2.0 < lifted[round(0.25 * RATE)] < 6.0
    assert lifted[round(0.99 * RATE)] < 6.0
    assert np.all(transient_gain_db(x, RATE, 0.0, 0.0) == 0.0)
    assert np.max(np.abs(lifted + transient_gain_db(x, RATE, 0.0, -6.0))) < 1e-9
