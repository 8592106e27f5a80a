"""Regions too full or empty, low ends that change in mono, and the ladder at one moment."""

import numpy as np
import pytest

from juglant.core.findings import Finding, effect, findings
from juglant.core.lowend.meeting import moment
from juglant.core.lowend.session import Session
from juglant.core.measure.overlap import LOW_BANDS_HZ
from juglant.core.measure.stereo import stereo
from juglant.core.recipes.bass import BassRecipe
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.chain import EqualiserStage
from juglant.core.recipes.hit import Hit, Imported, MadeKick
from juglant.core.recipes.kick import KickRecipe
from juglant.core.recipes.parts import ImportedBass, MadeBass, Stem
from juglant.core.recipes.place import Place
from juglant.core.recipes.starts import STARTS
from juglant.core.recipes.track import TrackState
from tests.signals import RATE, Array, ring, silence, sine
from tests.tracks import changed

THIN, WIDE, APART, SILENT = "a" * 64, "b" * 64, "c" * 64, "d" * 64
FILES: dict[str, tuple[Array, int]] = {
    # A click and a sub, and nothing between.
    THIN: (ring(42, 500, 0.5) * 0.7 + np.pad(ring(3000, 20, 0.05) * 0.3, (0, RATE // 2 - 2400)), RATE),
    # Low tones that are a third of a cycle apart on both sides.
    WIDE: (np.stack([sine(55, 2, -9), sine(55, 2, -9, phase=2.1)], axis=1), RATE),
    SILENT: (silence(0.5), RATE),
    APART: (np.stack([sine(800, 2, -9), sine(801, 2, -9)], axis=1), RATE),
}
SESSION = Session(lambda digest: FILES[digest])
BRIEF = Brief(bpm=120.0, chord_roots=("tonic",))


def _found(state: TrackState) -> dict[str, Finding]:
    return {one.id: one for one in findings(SESSION, SESSION.answer(state))}


@pytest.mark.thorough
@pytest.mark.parametrize(("region", "hz"), [("boomy", 235.0), ("boxy", 345.0)])
def test_a_kick_with_too_much_of_a_region_is_cut_there_until_it_is_usual(region: str, hz: float) -> None:
    lifted = EqualiserStage(bell_db=20.0, bell_hz=hz, bell_q=1.0)
    # A square's harmonics ring as long as it does.
    square = MadeKick(recipe=KickRecipe(wave=2.0))
    state = TrackState.of(brief=BRIEF, kick=Hit.of(square, chain=(lifted,)))
    finding = _found(state)[f"kick-{region}"]
    assert finding.value > finding.limit
    mended = effect(SESSION, SESSION.answer(state), finding.id)
    assert mended.after is not None
    assert mended.after <= finding.limit
    # No deeper than is needed: a decibel less would not have done.
    cut = mended.state.kick.chain[-1]
    assert isinstance(cut, EqualiserStage)
    less = cut.model_copy(update={"bell_db": cut.bell_db + 1})
    still = mended.state.kick.model_copy(update={"chain": (lifted, less)})
    assert f"kick-{region}" in _found(changed(state, kick=still))


def test_the_starting_points_are_neither_boxy_nor_boomy_nor_hollow() -> None:
    for source in STARTS["kick"].values():
        assert isinstance(source, MadeKick)
        found = _found(TrackState.of(brief=BRIEF, kick=Hit.of(source)))
        assert not [id for id in found if id.startswith(("kick-bo", "hollow"))], source


def test_a_hole_of_the_kick_counts_only_while_the_bass_does_not_fill_it() -> None:
    kick = Hit.of(Imported(audio=THIN, name="thin.wav"))
    # A bass far above leaves the thump to nobody, one on A2 at 110 Hz does not.
    high = ImportedBass(audio=APART, name="high.wav")
    state = TrackState.of(brief=BRIEF, kick=kick, bass=high, ducking=False)
    finding = _found(state)["hollow-thump"]
    assert finding.value < finding.limit
    filled = changed(state, bass=MadeBass(recipe=BassRecipe(octave=2)))
    assert "hollow-thump" not in _found(filled)
    mended = effect(SESSION, SESSION.answer(state), "hollow-thump")
    assert mended.after is not None
    assert mended.after > finding.value + 3


def test_a_bass_file_with_a_wide_low_end_is_heard_by_one_side() -> None:
    bass = ImportedBass(audio=WIDE, name="wide.wav", level_db=-9.0)
    state = TrackState.of(brief=BRIEF, bass=bass, ducking=False)
    finding = _found(state)["mono-bass"]
    # Two equal tones an angle apart: their mean has the power cos^2 of half of it.
    assert finding.value == pytest.approx(20 * np.log10(np.cos(1.05)), abs=0.1)
    mended = effect(SESSION, SESSION.answer(state), "mono-bass", "mend").state
    assert isinstance(mended.bass, ImportedBass)
    assert mended.bass.side in ("left", "right")
    before, after = (float(np.std(SESSION.parts.bass_loop(one).samples)) for one in (state, mended))
    assert 20 * np.log10(after / before) == pytest.approx(-finding.value, abs=0.2)
    assert "mono-bass" not in _found(mended)


def test_a_stem_is_made_mono_below_the_crossover_and_left_as_wide_above() -> None:
    assert "mono-pad" not in _found(TrackState.of(brief=BRIEF, stems=(Stem(name="Pad", audio=APART),)))
    state = TrackState.of(brief=BRIEF, stems=(Stem(name="Low", audio=WIDE), Stem(name="Pad", audio=APART)))
    assert {id for id in _found(state) if id.startswith("mono")} == {"mono-low"}
    mended = effect(SESSION, SESSION.answer(state), "mono-low").state
    low = SESSION.parts.stem_loop(mended, mended.stems[0]).samples
    assert stereo(low, RATE).low_mono_loss_db == pytest.approx(0, abs=0.1)
    pad = Stem(name="Pad", audio=APART, place=Place(mono_below_hz=235.0))
    narrowed, plain = (SESSION.parts.stem_loop(state, one).samples for one in (pad, state.stems[1]))
    assert np.max(np.abs(narrowed - plain)) < 0.01
    assert np.allclose(narrowed.sum(axis=1), plain.sum(axis=1), atol=1e-9)


def test_the_ladder_at_a_moment_has_what_sounds_then() -> None:
    answer = SESSION.answer(
        TrackState.of(brief=BRIEF, bass=ImportedBass(audio=WIDE, name="x"), ducking=False)
    )
    midis = range(16, 75)
    at_kick, later = (moment(answer, at, midis, LOW_BANDS_HZ) for at in (60.0, 440.0))
    loudest = max(at_kick.kick_rungs_db)
    assert -18 < loudest <= 0
    assert max(later.kick_rungs_db) < loudest - 12
    # The bass is one held tone: A1 at 55 Hz, then as later.
    for one in (at_kick, later):
        assert midis[int(np.argmax(one.bass_rungs_db))] == 33
        assert max(one.bass_rungs_db) == pytest.approx(max(at_kick.bass_rungs_db), abs=0.5)
        # The third octave around 50 Hz reaches from 45 to 56.
        assert LOW_BANDS_HZ[int(np.argmax(one.bass_third_octaves_db))] == pytest.approx(50, abs=1)


def test_a_silent_kick_has_no_regions_to_judge() -> None:
    kick = Hit.of(Imported(audio=SILENT, name="silent.wav"))
    found = _found(TrackState.of(brief=BRIEF, kick=kick, bass=ImportedBass(audio=APART, name="high.wav")))
    assert not [id for id in found if id.startswith(("kick-bo", "hollow"))]
