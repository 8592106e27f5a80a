"""Small rules of notes, tunings and what is said of a change, each at the place where it turns."""

import numpy as np
import pytest

from juglant.core.designing.kicks import _notes
from juglant.core.differences import _several
from juglant.core.findings.spill import _before
from juglant.core.hits.chain import apply_stage
from juglant.core.lowend.fitting import swing_of
from juglant.core.lowend.instrument import Key, _looped
from juglant.core.lowend.session import Session
from juglant.core.recipes.bass import BassRecipe
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.chain import ResonatorStage
from juglant.core.recipes.hit import Hit, Imported, MadeClap, MadeKick
from juglant.core.recipes.notes import Note
from juglant.core.recipes.parts import MadeBass, Voice
from juglant.core.recipes.track import TrackState
from tests.signals import RATE, ring, sine
from tests.tracks import changed


@pytest.mark.parametrize(("second_db", "apart_db"), [(-12.0, -12.0), (-3.0, -3.0)])
def test_a_second_comb_lies_as_far_under_the_first_as_it_says(second_db: float, apart_db: float) -> None:
    # A fifth above, where a comb has no tooth of its own.
    x = np.zeros(RATE)
    x[0] = 0.5
    stage = ResonatorStage(
        mix_db=0.0, tune_hz=100.0, decay_ms=900.0, damping=1.0, kind="comb", second_db=second_db,
        second_semitones=7.02, low_cut_hz=20.0,
    )  # fmt: skip
    y = apply_stage(x, stage, RATE, 120.0)[:RATE]
    bins = np.abs(np.fft.rfft((y - x)[: RATE // 2]))
    first, second = bins[50], bins[75]
    alone = np.abs(np.fft.rfft((apply_stage(x, stage.model_copy(update={"second_db": -60.0}), RATE, 120.0)
                                [:RATE] - x)[: RATE // 2]))  # fmt: skip
    assert 20 * np.log10(second / first) == pytest.approx(apart_db, abs=2.5)
    assert 20 * np.log10(alone[75] / alone[50]) < -20.0


def test_a_part_that_went_is_said_to_be_gone_and_no_other() -> None:
    kick, clap = (Hit.of(source, id=name.lower(), name=name) for source, name in
                  ((MadeKick(), "Low"), (MadeClap(), "Hands")))  # fmt: skip
    assert _several("Hits", (kick, clap), (kick,)) == ["Hands removed"]
    assert _several("Hits", (kick,), (kick, clap)) == ["Hands added"]
    assert _several("Hits", (kick,), (kick, kick)) == ["Low added"]


@pytest.mark.parametrize(("start", "beats"), [(4.25, 0.25), (6.25, 1.0), (0.25, 1.0)])
def test_a_note_of_the_second_bar_ends_before_what_begins_there(start: float, beats: float) -> None:
    """The line is two bars long: its note on the first beat of the second ends for what begins in that bar."""
    pattern = (Note(at=4.0, beats=1.0),)
    line = BassRecipe(bars=2, pattern=pattern)
    voice = Voice(name="bass", bass=MadeBass(recipe=line))
    [note] = _before(voice, [start], 0.0, 2)
    assert note.beats == pytest.approx(beats)


@pytest.mark.parametrize(
    ("places", "swing"),
    [
        ([0.0, 0.3, 0.5, 0.8], 60.0), ([0.004, 0.3, 0.5, 0.8], 60.0), ([0.006, 0.3, 0.5, 0.8], 50.0),
        ([0.496, 0.3, 0.8], 60.0), ([0.494, 0.3, 0.8], 50.0), ([0.0, 0.3, 0.5, 0.812], 50.0),
    ],
)  # fmt: skip
def test_sixteenths_that_are_all_late_alike_are_swung(places: list[float], swing: float) -> None:
    assert swing_of(places) == swing


def test_a_held_note_is_looped_only_where_there_is_a_tenth_of_a_second_of_it() -> None:
    def looped(held_s: float) -> bool:
        return _looped(Key(57, sine(220.0, held_s + 0.2), None), held_s).loop is not None

    # From 60 to 95 % of what is held: 105 ms of 0.3 s, 98 of 0.28.
    assert looped(0.6)
    assert not looped(0.28)


def test_a_recorded_tom_is_tuned_by_its_strongest_tone() -> None:
    """Three tones that are no harmonics: its note is only estimated, and it is tuned by that."""
    x = ring(132.0, 240, 0.4) + 0.7 * ring(211.0, 200, 0.4) + 0.4 * ring(287.0, 160, 0.4)
    session = Session(lambda digest: (0.3 * x, RATE))
    hit = Hit.of(Imported(audio="a" * 64, name="tom.wav"), id="tom", name="Tom", kind="tom")
    numbers = session.sounds.measured_hit(hit, Brief()).hit
    assert numbers.estimate_hz is not None
    found = session.sounds.pitch_hz(hit, Brief())
    assert found == (numbers.fundamental_hz or numbers.estimate_hz)


@pytest.mark.parametrize(("length_ms", "grating"), [(180.0, True), (900.0, False)])
def test_a_long_kick_has_no_note_that_grates_on_a_root(length_ms: float, grating: bool) -> None:
    """Over A and D: an F grates on neither, a short kick may have any note of the key."""
    brief = Brief(bpm=120.0, tonic="A", mode="minor", chord_roots=("tonic", "D"))
    state = changed(TrackState(), brief=brief)
    state = state.with_part(state.kick.model_copy(update={"aim": "any note of the key"}))
    classes = {midi % 12 for midi, follows, _ in _notes(state, length_ms) if follows == "no"}
    # B is a semitone and a tone from A and D: a long kick is not left on it.
    assert (11 in classes) == grating
    assert {9, 5} <= classes
