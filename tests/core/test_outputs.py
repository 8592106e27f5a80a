"""Copies, sends and groups: parts that are outputs of other parts."""

import numpy as np
import pytest
from pydantic import ValidationError

from juglant.core.lowend.session import Session
from juglant.core.measure.stereo import stereo
from juglant.core.recipes.bass import BassRecipe
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.chain import EqualiserStage, SpaceStage
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.ducking import Ducking
from juglant.core.recipes.dynamics import CompressorStage
from juglant.core.recipes.hit import Hit, MadeHat, MadeSnare
from juglant.core.recipes.notes import Note, on_beats
from juglant.core.recipes.parts import MadeBass, Output, Outputs
from juglant.core.recipes.place import Place
from juglant.core.recipes.sections import Track
from juglant.core.recipes.track import TrackState
from tests.signals import RATE, Array
from tests.tracks import rest_loop

SESSION = Session()
HAT = Hit.of(MadeHat(), name="Hat", kind="hat", steps=on_beats(2.25, 3.5), level_db=-6.0)
SNARE = Hit.of(MadeSnare(), name="Snare", kind="snare", steps=on_beats(2, 4), level_db=-6.0)
DUCK = Ducking.model_validate(
    {
        "id": "hats",
        "triggers": ["snare"],
        "targets": ["hat"],
        "duck": DuckRecipe(depth_db=9.0, hold_ms=300.0),
    }
)
SUBBY = MadeBass(recipe=BassRecipe(octave=1, wave=1.0, lowpass_hz=300.0, pattern=(Note(at=0, beats=4),)))
BASE = TrackState.of(
    brief=Brief(bpm=120.0, chord_roots=("tonic",)), bass=SUBBY, hits=(HAT, SNARE), duckings=(DUCK,)
)


def _with(*made: Outputs, base: TrackState = BASE) -> TrackState:
    return TrackState.model_validate({**base.model_dump(), "parts": [*base.model_dump()["parts"], *(
        one.model_dump() for one in made)]})  # fmt: skip


def _made(*sources: Output, id: str = "made", **fields: object) -> Outputs:
    return Outputs(id=id, name=id, sources=sources, **fields)


def _loop(state: TrackState, id: str) -> Array:
    loop = SESSION.parts.part(state, id)
    assert loop is not None
    return loop.samples


def test_a_copy_is_taken_dry_or_as_it_is_heard() -> None:
    state = _with(_made(Output(of="hat", gain_db=-6.0)), _made(Output(of="hat", taken="heard"), id="heard"))
    hat = _loop(state, "hat")
    assert np.allclose(_loop(state, "made"), hat * 10 ** (-6 / 20), rtol=1e-6, atol=1e-12)
    ducked = SESSION.rest_stems(state)["hat"].samples
    assert np.array_equal(_loop(state, "heard"), ducked)
    assert not np.array_equal(hat, ducked)
    # Dry it is there though the part is muted; heard it is not.
    muted = state.with_part(state.hits[0].model_copy(update={"mute": True}))
    assert np.array_equal(_loop(muted, "made"), _loop(state, "made"))
    assert SESSION.parts.part(muted, "heard") is None


def test_a_group_is_heard_instead_of_its_members_with_a_chain_of_its_own() -> None:
    both = (Output(of="hat", taken="instead"), Output(of="snare", taken="instead"))
    group = _made(*both)
    plain, grouped = rest_loop(SESSION, BASE), rest_loop(SESSION, _with(group))
    assert plain is not None
    assert grouped is not None
    assert np.allclose(grouped, plain, rtol=1e-6, atol=1e-12)
    assert list(SESSION.rest_stems(_with(group))) == ["made"]
    glued = rest_loop(SESSION, _with(_made(*both, stages=(CompressorStage(threshold_db=-40.0),))))
    assert glued is not None
    assert np.max(np.abs(glued - grouped)) > 0.01
    # A group that is muted lets its members go their own way again.
    assert set(SESSION.rest_stems(_with(_made(*both, mute=True)))) == {"hat", "snare"}


def test_a_send_adds_only_the_space() -> None:
    space = SpaceStage(kind="hall", mix_db=0.0, decay_ms=900.0, predelay_ms=20.0)
    state = _with(_made(Output(of="snare", gain_db=-9.0), Output(of="hat", gain_db=-20.0), stages=(space,)))
    stems = SESSION.rest_stems(state)
    assert set(stems) == {"hat", "snare", "made"}
    assert np.array_equal(stems["snare"].samples, SESSION.rest_stems(BASE)["snare"].samples)


def test_a_mid_copy_of_a_subby_bass_reaches_useful_levels() -> None:
    """-12 dB re its low band from 250 to 800 Hz, and what lies below stays what it was."""
    band = EqualiserStage(highpass_hz=250.0, highpass_slope="48", lowpass_hz=800.0)
    state = _with(_made(Output(of="bass", gain_db=24.0), stages=(band,), place=Place(gain_db=12.0)))
    copy, bass = _loop(state, "made"), SESSION.loop(state).bass.mono
    spectrum = np.abs(np.fft.rfft(np.stack([bass, copy]))) ** 2
    hz = np.arange(spectrum.shape[1]) * RATE / bass.size
    low = 10 * np.log10(spectrum[0, (hz > 20) & (hz < 150)].sum())
    mid = 10 * np.log10(spectrum[1, (hz > 250) & (hz < 800)].sum())
    assert mid - low > -12
    assert 10 * np.log10(spectrum[1, (hz > 20) & (hz < 120)].sum()) < low - 20


def test_a_wide_copy_leaves_the_low_end_mono() -> None:
    above = EqualiserStage(highpass_hz=300.0, highpass_slope="48")
    wide = SpaceStage(kind="plate", mix_db=0.0, decay_ms=300.0, width=1.0, low_cut_hz=300.0)
    state = _with(
        _made(Output(of="bass", gain_db=12.0), stages=(above, wide), place=Place(mono_below_hz=200.0))
    )
    copy = _loop(state, "made")
    assert copy.ndim == 2
    assert stereo(copy, RATE).correlation < 0.9  # type: ignore[operator]
    whole = copy + SESSION.loop(state).bass.mono[:, None]
    assert stereo(whole, RATE).low_mono_loss_db == pytest.approx(0, abs=0.05)


def test_a_group_ducks_and_is_ducked() -> None:
    group = _made(Output(of="hat", taken="instead"), Output(of="snare", taken="instead"))
    by_group = Ducking.model_validate({"id": "x", "triggers": ["made"], "targets": ["bass"]})
    state = _with(group).model_copy(update={"duckings": (*BASE.duckings, by_group)})
    assert [start.at_ms for start in SESSION.parts.starts(state, by_group)] == pytest.approx(
        [500, 625, 1250, 1500]
    )
    assert SESSION.loop(state).ducked.samples.shape == SESSION.loop(state).bass.samples.shape
    down = Ducking.model_validate({"id": "y", "triggers": ["kick"], "targets": ["made"]})
    ducked = SESSION.rest_stems(_with(group).model_copy(update={"duckings": (*BASE.duckings, down)}))
    assert not np.array_equal(ducked["made"].samples, SESSION.rest_stems(_with(group))["made"].samples)


@pytest.mark.parametrize(
    ("made", "said"),
    [
        ([_made(Output(of="made"))], "made would be made from themselves"),
        ([_made(Output(of="b"), id="a"), _made(Output(of="a"), id="b")], "a and b would be made"),
        ([_made(Output(of="gone"))], "takes every part of the track once"),
        ([_made(Output(of="hat"), Output(of="hat"))], "takes every part of the track once"),
        ([_made(Output(of="kick", taken="instead"))], "judged by themselves"),
        ([_made(Output(of="bass", taken="instead"))], "judged by themselves"),
        ([_made(Output(of="hat", taken="instead"), id="a"), _made(Output(of="hat", taken="instead"), id="b")],
         "in one group at most"),
        ([_made(Output(of="hat"), id="a"), _made(Output(of="a"), id="b"), _made(Output(of="b"), id="c"),
          _made(Output(of="c"), id="d")], "3 deep"),
    ],
)  # fmt: skip
def test_what_cannot_be_taken_is_refused_with_its_reason(made: list[Outputs], said: str) -> None:
    with pytest.raises(ValidationError, match=said):
        _with(*made)


def test_outputs_three_deep_are_heard() -> None:
    made = [_made(Output(of="hat"), id="a"), _made(Output(of="a"), id="b"), _made(Output(of="b"), id="c")]
    state = _with(*made)
    assert np.array_equal(_loop(state, "c"), _loop(state, "hat"))


def test_a_section_has_other_outputs_and_forgets_what_is_gone() -> None:
    track = Track(state=_with(_made(Output(of="hat"), Output(of="snare")))).with_section("b", "b", "main")
    state = track.at("b")
    [made] = [part for part in state.parts if isinstance(part, Outputs)]
    quieter = made.model_copy(update={"sources": (Output(of="hat", gain_db=-12.0), Output(of="snare"))})
    track = track.with_state("b", state.with_part(quieter))
    assert [(one.part, one.aspect) for one in track.section("b").parts] == [("made", "sound")]
    fewer = _with(_made(Output(of="snare")), base=BASE.model_copy(
        update={"parts": tuple(p for p in BASE.parts if p.id != "hat"), "duckings": BASE.duckings[:1]}
    ))  # fmt: skip
    gone = track.with_state("main", fewer)
    [there] = [part for part in gone.at("b").parts if isinstance(part, Outputs)]
    assert [one.of for one in there.sources] == ["snare"]


def test_a_part_removed_in_a_section_leaves_the_group_of_main() -> None:
    track = Track(state=_with(_made(Output(of="hat"), Output(of="snare")))).with_section("b", "b", "main")
    state = track.at("b")
    fewer = tuple(
        part.model_copy(update={"sources": (Output(of="snare"),)}) if isinstance(part, Outputs) else part
        for part in state.parts if part.id != "hat"
    )  # fmt: skip
    gone = track.with_state("b", state.model_copy(update={"parts": fewer, "duckings": state.duckings[:1]}))
    for section in ("main", "b"):
        [there] = [part for part in gone.at(section).parts if isinstance(part, Outputs)]
        assert [one.of for one in there.sources] == ["snare"]
