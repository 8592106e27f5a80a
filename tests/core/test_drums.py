"""Made drums, listened to with numbers: each control must do what its help says."""

from typing import Any

import numpy as np
import pytest

from juglant.core.measure.hit import HitNumbers, measure
from juglant.core.measure.levels import Spectrum
from juglant.core.recipes.clap import ClapRecipe
from juglant.core.recipes.hat import HatRecipe
from juglant.core.recipes.kick import KickRecipe
from juglant.core.recipes.percussion import PercussionRecipe
from juglant.core.recipes.snare import MembraneRecipe, SnareRecipe
from juglant.core.recipes.tone808 import Recipe808
from juglant.core.synth.clap import burst_times_ms, render_clap
from juglant.core.synth.hat import render_hat
from juglant.core.synth.kick import render_kick
from juglant.core.synth.membrane import render_membrane
from juglant.core.synth.percussion import render_percussion
from juglant.core.synth.snare import render_snare
from juglant.core.synth.tone808 import render_808
from tests.signals import RATE, Array


def _bands(x: Array) -> dict[str, float]:
    return Spectrum(x, RATE).bands_db()


def _hit(x: Array) -> HitNumbers:
    return measure(x, RATE).hit


def _level(x: Array, at_ms: float, over_ms: float = 10.0) -> float:
    a = round(at_ms / 1000 * RATE)
    piece = x[a : a + round(over_ms / 1000 * RATE)]
    return 20 * float(np.log10(max(float(np.sqrt(np.mean(piece * piece))), 1e-9)))


def _centroid(x: Array) -> float:
    return Spectrum(x, RATE).centroid_hz()


# --- 808 ---


def _tone(**changes: Any) -> Array:
    plain = {"drive_db": 0.0, "harmonics": 0.0, "start_octaves": 2.0}
    return render_808(Recipe808.model_validate({**plain, **changes}), RATE)


def test_an_808_falls_onto_its_note_from_whole_octaves() -> None:
    hit = _hit(_tone(end_hz=46.25, start_octaves=2.0, pitch_decay_ms=30.0))
    assert hit.fundamental_hz == pytest.approx(46.25, rel=2 / 1731)
    assert hit.sweep_semitones == pytest.approx(24, abs=3)


def test_an_808_holds_its_sustain_and_lets_go_in_its_release() -> None:
    x = _tone(length_ms=800.0, decay_ms=200.0, sustain_db=-12.0, release_ms=100.0)
    assert x.size == round(0.9 * RATE)
    top, held = (20 * np.log10(np.max(np.abs(x[part]))) for part in (slice(0, 960), slice(33_600, 36_000)))
    # At its very top the decay has begun: a little less than 12 dB.
    assert top - held == pytest.approx(11.0, abs=1.5)
    assert _level(x, 880) < held - 15


def test_the_push_adds_harmonics_to_the_onset_only() -> None:
    def harmonics(x: Array, from_ms: float) -> float:
        piece = x[round(from_ms * 48) : round((from_ms + 200) * 48)]
        return Spectrum(piece * np.hanning(piece.size), RATE).energy(400, 5000) / float(
            Spectrum(piece * np.hanning(piece.size), RATE).energy(20, 5000)
        )

    plain, pushed = (_tone(harmonics=share, start_octaves=0.0, pitch_decay_ms=60.0) for share in (0.0, 1.0))
    assert harmonics(pushed, 0) > 20 * harmonics(plain, 0)
    assert harmonics(pushed, 600) < 1e-3
    triangle = _tone(harmonics=1.0, push_to="triangle", start_octaves=0.0, pitch_decay_ms=60.0)
    assert harmonics(triangle, 0) < harmonics(pushed, 0)


def test_a_glide_comes_from_below_and_arrives() -> None:
    x = _tone(end_hz=55.0, glide_semitones=-12.0, glide_ms=200.0, start_octaves=0.0, sustain_db=-6.0)
    early = x[: round(0.08 * RATE)]
    crossings = int(np.sum(np.diff(np.signbit(early)) != 0))
    # An octave below 55 Hz makes some five crossings in 80 ms, 55 Hz itself nine.
    assert crossings <= 6
    assert _hit(x).fundamental_hz == pytest.approx(55.0, rel=0.002)


# --- snares ---


def test_a_snares_noise_lets_the_tone_come_first() -> None:
    opened, shut = (
        render_snare(SnareRecipe(noise_attack_ms=ms, noise_db=6.0, drive_db=0.0), RATE)
        for ms in (20.0, 0.0)
    )

    def snap(x: Array) -> float:
        return _bands(x[: round(0.006 * RATE)])["snap"]

    assert snap(opened) < snap(shut) - 6


def test_a_snares_noise_lies_between_its_corners_and_lasts_its_time() -> None:
    x = render_snare(SnareRecipe(noise_db=12.0, highpass_hz=3000.0, lowpass_hz=6000.0, tone_ms=10.0), RATE)
    spectrum = Spectrum(x, RATE)
    assert spectrum.energy(2500, 7000) > 0.8 * spectrum.energy(1500, 20000)
    long, short = (render_snare(SnareRecipe(noise_ms=ms), RATE) for ms in (600.0, 120.0))
    assert long.size > 2 * short.size
    assert _level(long, 200) > _level(short, 100) - 10


def test_tension_material_and_wires_do_what_they_say() -> None:
    plain = MembraneRecipe(wires_db=-60.0, drive_db=0.0, strike=0.0, coupling=0.0)

    def render(**changes: Any) -> Array:
        return render_membrane(plain.model_copy(update=changes), RATE)

    tight, slack = (_hit(render(tension_semitones=st)).fundamental_hz for st in (7.0, 0.0))
    assert tight is not None
    assert slack is not None
    assert 12 * np.log2(tight / slack) == pytest.approx(7.0, abs=0.1)
    # A hide loses its high modes sooner: what is left after a while is darker.
    late = slice(round(0.05 * RATE), None)
    assert _centroid(render(damping=1.0, strike=0.5)[late]) < _centroid(
        render(damping=0.0, strike=0.5)[late]
    )
    wired = render(wires_db=0.0, wires_hz=3000.0)
    assert _bands(wired)["air"] > _bands(render())["air"] + 10
    assert _centroid(render(stiffness=1.0, strike=0.5)) > 1.3 * _centroid(render(stiffness=0.1, strike=0.5))


def test_the_second_membrane_rings_at_its_own_tuning() -> None:
    x = render_membrane(
        MembraneRecipe(
            tune_hz=200.0, second_semitones=7.0, coupling=1.0, wires_db=-60.0, drive_db=0.0, strike=0.0,
            decay_ms=1000.0, damping=0.0,
        ),
        RATE,
    )  # fmt: skip
    spectrum = Spectrum(x, RATE)
    second = 200.0 * 2 ** (7 / 12)
    assert spectrum.energy(second - 4, second + 4) > 10 * spectrum.energy(second + 12, second + 20)


# --- claps ---


@pytest.mark.parametrize("bursts", [2, 5, 8])
def test_a_clap_has_its_bursts_where_they_are_set(bursts: int) -> None:
    recipe = ClapRecipe(
        bursts=bursts, spacing_ms=25.0, spread=0.0, burst_ms=6.0, tail_db=-60.0, drive_db=0.0
    )
    assert burst_times_ms(recipe) == pytest.approx(25.0 * np.arange(bursts))
    x = render_clap(recipe, RATE)
    for n in range(bursts):
        assert _level(x, 25.0 * n, 3) > _level(x, 25.0 * n + 14, 8) + 15


def test_spread_makes_the_hands_uneven_and_the_tail_lasts_its_time() -> None:
    even, uneven = (burst_times_ms(ClapRecipe(spread=spread)) for spread in (0.0, 1.0))
    assert np.ptp(np.diff(even)) == pytest.approx(0.0, abs=1e-9)
    assert np.ptp(np.diff(uneven)) > 1.0
    assert np.all(np.diff(uneven) > 0)
    long = render_clap(ClapRecipe(tail_ms=600.0), RATE)
    # From its start, after 30 ms of bursts, 60 dB in 600 ms: 20 dB in 200.
    assert _level(long, 100, 20) - _level(long, 300, 20) == pytest.approx(20.0, abs=4.0)
    dark, bright = (
        _centroid(render_clap(ClapRecipe(tone_hz=hz, air_db=-60.0), RATE)) for hz in (800.0, 3000.0)
    )
    assert dark < 1600 < bright


# --- hats ---


def test_a_hats_high_pass_and_stroke() -> None:
    low, high = (
        _bands(render_hat(HatRecipe(highpass_hz=hz, decay_ms=200.0), RATE)) for hz in (3000.0, 12000.0)
    )
    assert high["snap"] < low["snap"] - 15
    struck, flat = (
        render_hat(HatRecipe(decay_ms=800.0, body_ms=30.0, body_db=db), RATE) for db in (18.0, 0.0)
    )
    assert _level(struck, 0, 8) - _level(struck, 100, 50) > _level(flat, 0, 8) - _level(flat, 100, 50) + 8


def test_modulation_makes_a_hat_less_of_a_chord() -> None:
    def flatness(modulation: float) -> float:
        x = render_hat(HatRecipe(modulation=modulation, noise_db=-60.0, decay_ms=600.0, body_db=0.0), RATE)
        power = np.abs(np.fft.rfft(x * np.hanning(x.size))) ** 2
        heard = power[round(6000 * x.size / RATE) : round(16000 * x.size / RATE)]
        return float(np.exp(np.mean(np.log(heard + 1e-12))) / np.mean(heard))

    assert flatness(1.0) > 2 * flatness(0.0)


# --- percussion ---


def test_whole_ratios_are_harmonic_and_others_ring() -> None:
    def beside(ratio: float) -> float:
        x = render_percussion(
            PercussionRecipe(
                end_hz=300.0, ratio=ratio, index=2.0, start_semitones=0.0, decay_ms=3000.0,
                modulation_ms=2000.0, strike_db=-60.0,
            ),
            RATE,
        )[:RATE]  # fmt: skip
        power = np.abs(np.fft.rfft(x * np.hanning(RATE))) ** 2
        at = np.arange(power.size)
        harmonic = np.min([np.abs(at - 300 * h) for h in range(1, 40)], axis=0) < 12
        return float(power[~harmonic].sum() / power.sum())

    assert beside(2.0) < 0.01
    assert beside(1.414) > 0.1


def test_a_second_modulator_and_a_band_change_the_colour() -> None:
    one, two = (
        _centroid(render_percussion(PercussionRecipe(end_hz=300.0, second_index=index), RATE))
        for index in (0.0, 6.0)
    )
    assert two != pytest.approx(one, rel=0.02)
    narrow = render_percussion(
        PercussionRecipe(end_hz=300.0, index=6.0, band_share=1.0, band_hz=2000.0, band_q=4.0), RATE
    )
    spectrum = Spectrum(narrow, RATE)
    assert spectrum.energy(1200, 3200) > 0.5 * spectrum.energy(20, 20000)


# --- kick, completed ---


def _kick(**changes: Any) -> Array:
    plain = {
        "click_db": -60.0,
        "drive_db": 0.0,
        "decay_ms": 500.0,
        "length_ms": 600.0,
        "pitch_decay_ms": 20.0,
    }
    return render_kick(KickRecipe.model_validate({**plain, **changes}), RATE, 128.0)


def test_a_late_sub_swells_in_after_the_transient() -> None:
    late, early = (_kick(end_hz=98.0, sub_db=0.0, sub_delay_ms=ms) for ms in (200.0, 0.0))

    def sub(x: Array, from_ms: float) -> float:
        piece = x[round(from_ms * 48) : round((from_ms + 60) * 48)]
        return Spectrum(piece * np.hanning(piece.size), RATE).energy(30, 65)

    assert sub(late, 15) < 0.3 * sub(early, 15)
    assert sub(late, 260) > 0.5 * sub(early, 260)


def test_the_knock_is_a_short_low_sine_at_the_onset() -> None:
    knocked, bare = (
        _kick(click_sine_db=0.0, click_sine_hz=400.0, start_semitones=0.0),
        _kick(start_semitones=0.0),
    )
    onset = slice(0, round(0.008 * RATE))
    assert Spectrum(knocked[onset], RATE).energy(250, 600) > 8 * Spectrum(bare[onset], RATE).energy(
        250, 600
    )
    later = slice(round(0.1 * RATE), None)
    ratio = np.max(np.abs(knocked[later])) / np.max(np.abs(bare[later]))
    # What follows is the same kick; only the whole's peak is set anew.
    assert knocked[later] == pytest.approx(ratio * bare[later], abs=1e-3)


def test_asymmetry_brings_even_harmonics_and_no_offset() -> None:
    even, lopsided = (
        _kick(drive_db=18.0, drive_bias=bias, start_semitones=0.0, end_hz=50.0) for bias in (0.0, 0.8)
    )

    def second(x: Array) -> float:
        spectrum = Spectrum(x, RATE)
        return spectrum.energy(92, 108) / spectrum.energy(44, 56)

    assert second(lopsided) > 10 * second(even)
    assert abs(float(np.mean(lopsided))) < 1e-3


def test_the_filter_is_opened_by_the_pitch_and_rings_with_resonance() -> None:
    common = {"wave": 2.0, "lowpass_hz": 100.0, "lowpass_octaves": 5.0, "lowpass_decay_ms": 600.0}
    own, pitch = (_kick(**common, opened_by=by, pitch_decay_ms=10.0) for by in ("its own", "the pitch"))
    late = slice(round(0.1 * RATE), round(0.3 * RATE))
    # The pitch falls in 10 ms and shuts the filter with it; its own envelope holds it open.
    assert _centroid(pitch[late]) < 0.6 * _centroid(own[late])
    ringing, plain = (_kick(wave=2.0, lowpass_hz=600.0, resonance=amount) for amount in (1.0, 0.0))
    assert Spectrum(ringing, RATE).energy(550, 650) / Spectrum(ringing, RATE).energy(
        20, 300
    ) > 3 * Spectrum(plain, RATE).energy(550, 650) / Spectrum(plain, RATE).energy(20, 300)
