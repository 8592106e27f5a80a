"""Made basses: one voice, in key, seamless in the loop."""

import itertools

import numpy as np
import pytest
from pydantic import ValidationError

from juglant.core.measure.levels import Spectrum
from juglant.core.music import midi_to_hz, note_to_midi
from juglant.core.recipes.bass import PATTERNS, BassRecipe
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.notes import Note
from juglant.core.synth.bass import loop_frames, notes, render_bass
from juglant.core.tempo import beat_ms
from tests.signals import RATE

BRIEF = Brief(bpm=120.0, tonic="B", mode="minor", chord_roots=("B", "G"))


def test_each_bar_plays_its_chord_root() -> None:
    recipe = BassRecipe(pattern=PATTERNS["long notes"], octave=1, wave=0.0, drive_db=0.0)
    x = render_bass(recipe, BRIEF, RATE)
    half = x.size // 2
    for bar, note in enumerate(("B1", "G1")):
        spectrum = Spectrum(x[bar * half : (bar + 1) * half], RATE)
        loudest = float(spectrum.hz[np.argmax(spectrum.power)])
        assert loudest == pytest.approx(midi_to_hz(note_to_midi(note)), abs=1.0)


@pytest.mark.parametrize("name", PATTERNS)
def test_patterns_are_one_voice_on_the_grid(name: str) -> None:
    played = notes(BassRecipe(pattern=PATTERNS[name]), BRIEF)
    step = beat_ms(120.0) / 4
    for (start, length, *_), following in itertools.pairwise(played):
        assert start / step == pytest.approx(round(start / step))
        assert start + length <= following[0] + 1e-9


def test_a_long_note_is_cut_by_the_next_and_by_the_loops_end() -> None:
    recipe = BassRecipe(pattern=(Note(at=0, beats=4), Note(at=3, beats=4)))
    played = notes(recipe, BRIEF.model_copy(update={"chord_roots": ("B",)}))
    assert [note.length_ms for note in played] == pytest.approx([1500.0, 500.0])


def test_the_loop_repeats_without_a_seam() -> None:
    recipe = BassRecipe(pattern=PATTERNS["long notes"], release_ms=400.0, lowpass_hz=120.0)
    x = render_bass(recipe, BRIEF, RATE)
    assert x.size == loop_frames(BRIEF, RATE)
    usual = float(np.max(np.abs(np.diff(x))))
    assert abs(x[0] - x[-1]) <= usual


def test_the_peak_is_at_its_level_and_the_high_pass_takes_the_sub() -> None:
    for level in (-20.0, -6.0):
        x = render_bass(BassRecipe(level_db=level), BRIEF, RATE)
        assert 20 * np.log10(np.max(np.abs(x))) == pytest.approx(level, abs=0.01)
    share = []
    for hz in (20.0, 120.0):
        spectrum = Spectrum(render_bass(BassRecipe(highpass_hz=hz), BRIEF, RATE), RATE)
        share.append(spectrum.energy(20, 60) / spectrum.energy(20, 2000))
    assert share[1] < 0.2 * share[0]


def test_steps_twice_or_out_of_order_are_refused() -> None:
    for places in ((4, 4), (8, 2)):
        with pytest.raises(ValidationError, match="in order, each place once"):
            BassRecipe(pattern=tuple(Note(at=at / 4, beats=0.25) for at in places))
