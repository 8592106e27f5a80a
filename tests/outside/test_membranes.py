"""Membranes, clicks and oscillators against physics and Fourier."""

import numpy as np
import pytest
from scipy import special

from juglant.core.recipes.hat import HatRecipe
from juglant.core.recipes.kick import KickRecipe
from juglant.core.recipes.percussion import PercussionRecipe
from juglant.core.recipes.snare import MembraneRecipe
from juglant.core.recipes.tone808 import Recipe808
from juglant.core.synth.hat import _metal
from juglant.core.synth.kick import render_kick
from juglant.core.synth.membrane import mode_ratios, modes, render_membrane, strike_gains
from juglant.core.synth.percussion import render_percussion
from juglant.core.synth.tone808 import render_808
from tests.signals import RATE, Array

# Fletcher & Rossing, The Physics of Musical Instruments, ch. 3: f(m,n)/f(0,1) of an ideal
# membrane. Values from memory; scipy's Bessel zeros are the second opinion.
BOOK = [1.0, 1.593, 2.135, 2.295, 2.653, 2.917]


def test_mode_ratios_are_those_of_the_book_and_of_the_bessel_functions() -> None:
    ratios = np.sort(mode_ratios())
    assert ratios[:6] == pytest.approx(BOOK, rel=1e-3)
    zeros = np.sort(np.concatenate([special.jn_zeros(m, 4) for m in range(7)]))
    assert ratios == pytest.approx(zeros / zeros[0], rel=1e-9)


def _partials(x: Array, count: int) -> Array:
    """The strongest partials of a decaying sound, Hz."""
    spectrum = np.abs(np.fft.rfft(x * np.hanning(2 * x.size)[x.size :], 2**19))
    found: list[float] = []
    while len(found) < count:
        top = int(np.argmax(spectrum))
        found.append(top * RATE / 2**19)
        spectrum[max(0, top - 150) : top + 150] = 0
    return np.sort(found)


PLAIN = MembraneRecipe(
    tune_hz=200.0, coupling=0.0, wires_db=-60.0, drive_db=0.0, damping=0.0, decay_ms=1000.0, stiffness=1.0
)


def test_what_is_rendered_rings_at_the_modes() -> None:
    x = render_membrane(PLAIN.model_copy(update={"strike": 0.55}), RATE)
    every = 200.0 * mode_ratios()
    for partial in _partials(x, 6):
        assert np.min(np.abs(every / partial - 1)) < 1e-3


def test_a_strike_at_the_centre_leaves_every_mode_with_a_diameter_silent() -> None:
    m, _ = modes()
    gains = strike_gains(0.0)
    assert np.all(gains[m > 0] == 0)
    assert np.all(np.abs(gains[m == 0]) > 0.1)
    centre = render_membrane(PLAIN.model_copy(update={"strike": 0.0}), RATE)
    spectrum = np.abs(np.fft.rfft(centre * np.hanning(2 * centre.size)[centre.size :], 2**19))

    def level(hz: float) -> float:
        at = round(hz * 2**19 / RATE)
        return float(20 * np.log10(spectrum[at - 20 : at + 20].max() / spectrum.max()))

    assert level(200.0 * BOOK[3]) > -30
    assert level(200.0 * BOOK[1]) < level(200.0 * BOOK[3]) - 20


def test_a_softer_stroke_is_duller_and_not_only_quieter() -> None:
    def centroid(x: Array) -> float:
        power = np.abs(np.fft.rfft(x)) ** 2
        return float(np.sum(np.arange(power.size) * power) / np.sum(power))

    recipe = PLAIN.model_copy(update={"strike": 0.5, "stiffness": 0.5})
    loud, soft = (render_membrane(recipe, RATE, velocity) for velocity in (1.0, 0.3))
    assert centroid(soft) < 0.8 * centroid(loud)


@pytest.mark.parametrize("hz", [1200.0, 2600.0, 3900.0])
def test_modulated_tones_above_1_khz_fold_back_60_db_down(hz: float) -> None:
    # A carrier with a harmonic modulator has lines at its multiples only (Chowning 1973).
    recipe = PercussionRecipe(
        end_hz=hz, start_semitones=0.0, index=1.0, ratio=1.0, modulation_ms=2000.0, decay_ms=3000.0,
        strike_db=-60.0, attack_ms=0.0,
    )  # fmt: skip
    x = render_percussion(recipe, RATE)[:RATE]
    assert _beside_db(x, hz) < -60


@pytest.mark.parametrize("hz", [1500.0, 3100.0, 6100.0])
def test_the_squares_of_a_hat_fold_back_60_db_down(hz: float) -> None:
    from juglant.core.process.resampling import polyphase

    fine = _metal(np.array([hz]), np.array([0.1]), 0.0, 4 * (RATE + 4800), 4.0 * RATE)
    assert _beside_db(polyphase(fine, 1, 4)[:RATE], hz) < -60


def _beside_db(x: Array, hz: float) -> float:
    """The strongest line from 20 Hz to 18 kHz that is no multiple of `hz`, re the strongest."""
    spectrum = np.abs(np.fft.rfft(x * np.blackman(x.size)))
    at = np.arange(spectrum.size) * RATE / x.size
    beside = np.min([np.abs(at - h * hz) for h in range(int(RATE / 2 / hz) + 1)], axis=0) > 12
    heard = beside & (at > 20) & (at < 18_000)
    return float(20 * np.log10(spectrum[heard].max() / spectrum.max()))


def test_a_driven_808_keeps_its_fundamentals_level() -> None:
    def fundamental(drive_db: float) -> Array:
        recipe = Recipe808(
            end_hz=50.0, drive_db=drive_db, harmonics=0.0, start_octaves=0.0, decay_ms=1500.0,
            length_ms=1500.0, sustain_db=-60.0, level_db=0.0,
        )  # fmt: skip
        x = render_808(recipe, RATE)
        x = x[RATE // 4 : RATE]
        turn = np.exp(-2j * np.pi * 50.0 * np.arange(x.size) / RATE)
        # Cycle by cycle: its decay must stay what it was.
        cycles = (x * turn)[: x.size // 960 * 960].reshape(-1, 960).mean(axis=1)
        return np.asarray(20 * np.log10(2 * np.abs(cycles)))

    clean, driven = fundamental(0.0), fundamental(18.0)
    # The peak is held after it, so all moves by one gain and by nothing else.
    assert np.ptp(driven - clean) < 0.3


def test_a_click_has_its_energy_where_its_tone_is() -> None:
    # Common practice: the beater's click lies at 2-4 kHz.
    with_click, without = (
        render_kick(KickRecipe(click_db=level, click_tone_hz=3000.0), RATE, 120.0)
        for level in (-6.0, -60.0)
    )

    def energy(x: Array) -> float:
        spectrum = np.abs(np.fft.rfft(x[:2400], 9600)) ** 2
        return float(spectrum[400:800].sum() / spectrum.sum())

    assert energy(with_click) > 10 * energy(without)


def test_an_open_hat_rings_longer_and_lies_as_high() -> None:
    from juglant.core.synth.hat import render_hat

    closed, opened = (render_hat(HatRecipe(decay_ms=ms), RATE) for ms in (60.0, 600.0))
    assert opened.size > 8 * closed.size
    for x in (closed, opened):
        power = np.abs(np.fft.rfft(x)) ** 2
        hz = np.arange(power.size) * RATE / x.size
        assert power[hz < 3000].sum() < 0.02 * power.sum()
