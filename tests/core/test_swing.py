"""Swing of each part by itself, and of loops that are cut at their strokes."""

import numpy as np
import pytest
from pydantic import ValidationError

from juglant.core.errors import UserError
from juglant.core.lowend.filed import fit_cost, loop_of
from juglant.core.lowend.fitting import fitted_strokes
from juglant.core.lowend.line import line_of
from juglant.core.lowend.part import ducking_solved_for, solved_for
from juglant.core.lowend.session import Session
from juglant.core.measure.defects import strokes
from juglant.core.recipes.bass import BassRecipe
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.hit import Hit, MadeHat
from juglant.core.recipes.notes import HitStep, Note
from juglant.core.recipes.parts import MadeBass, Stem
from juglant.core.recipes.sections import Section, Track
from juglant.core.recipes.track import TrackState
from juglant.core.tempo import beat_ms
from tests.signals import RATE, ring

BRIEF = Brief(bpm=120.0, chord_roots=("tonic",), swing_percent=60.0)
SIXTEENTHS = tuple(HitStep(at=n / 4) for n in range(4))
HAT = Hit.of(MadeHat(), name="Hat", kind="hat", steps=SIXTEENTHS)
BASS = MadeBass(recipe=BassRecipe(pattern=(Note(at=0.25), Note(at=0.75))))
BEAT = beat_ms(120.0)


def _beats(hat: Hit = HAT, bass: MadeBass = BASS) -> tuple[list[float], list[float]]:
    state = TrackState.of(brief=BRIEF, hits=(hat,), bass=bass)
    line = line_of(state)
    return [at / BEAT for at in line.starts("hat")], [at / BEAT for at in line.starts("bass")]


def test_a_pattern_swings_with_the_track_unless_it_has_a_swing_of_its_own() -> None:
    # 60 % of an eighth: 0.3 of a beat.
    assert _beats()[0] == pytest.approx([0.0, 0.3, 0.5, 0.8])
    straight, line = _beats(HAT.model_copy(update={"swing": "its own"}))
    assert straight == pytest.approx([0.0, 0.25, 0.5, 0.75])
    assert line == pytest.approx([0.3, 0.8])
    recipe = BASS.recipe.model_copy(update={"swing": "its own", "swing_percent": 66.0})
    hats, line = _beats(bass=MadeBass(recipe=recipe))
    assert hats == pytest.approx([0.0, 0.3, 0.5, 0.8])
    assert line == pytest.approx([0.33, 0.83])
    # Its own is only asked where it is chosen.
    unasked = HAT.model_copy(update={"swing_percent": 70.0})
    assert _beats(unasked)[0] == pytest.approx([0.0, 0.3, 0.5, 0.8])


def test_it_goes_with_the_pattern_in_a_section() -> None:
    state = TrackState.of(brief=BRIEF, hits=(HAT,), bass=BASS)
    roots = state.brief.chord_roots
    sections = tuple(Section(id=id, name=id, chord_roots=roots) for id in ("drop", "break"))
    track = Track(state=state, sections=sections, main="drop")
    own = state.with_part(HAT.model_copy(update={"id": "hat", "swing": "its own", "swing_percent": 55.0}))
    own = own.with_line("bass", swing="its own", swing_percent=70.0)
    track = track.with_state("break", own)
    assert {(one.part, one.aspect) for one in track.section("break").parts} == {
        ("hat", "pattern"), ("bass", "pattern")}  # fmt: skip
    assert track.at("break").hits[0].swing_percent == 55.0
    assert track.at("break").voices[0].line.swing_percent == 70.0  # type: ignore[union-attr]
    assert track.at("drop") == state


def test_what_was_solved_is_solved_for_the_swing_too() -> None:
    state = TrackState.of(brief=BRIEF, hits=(HAT,), bass=BASS)
    kick = state.kick.model_copy(update={"swing": "its own"})
    assert solved_for(state.with_part(kick)) != solved_for(state)
    by_hat = state.duckings[0].model_copy(update={"triggers": ("kick", "hat")})
    hat = state.hits[0].model_copy(update={"swing": "its own"})
    swung = state.with_part(hat)
    assert ducking_solved_for(swung, by_hat) != ducking_solved_for(state, by_hat)


LOOP = "a" * 64
SIXTEENTH = RATE // 8
# A bar of sixteenths at 120 BPM, straight but for one that was played 6 ms late.
STRUCK = np.zeros(16 * SIXTEENTH)
LATE = round(0.006 * RATE)
for n in range(16):
    stroke = 0.7 * ring(400.0, 30, 0.09)
    start = n * SIXTEENTH + (LATE if n == 5 else 0)
    STRUCK[start : start + stroke.size] += stroke[: STRUCK.size - start]


def _stem(**fields: object) -> Stem:
    return Stem.model_validate({"id": "stem", "name": "Loop", "audio": LOOP, "fit": "by slices", **fields})


def _beats_of(file: Stem, bpm: float, swing: float = 50.0) -> list[float]:
    x = loop_of(STRUCK, file, Brief(bpm=bpm, chord_roots=("tonic",), swing_percent=swing), RATE)
    return [at / beat_ms(bpm) for at in strokes(x, RATE).at_ms]


@pytest.mark.parametrize(("bpm", "percent"), [(120.0, 62.0), (96.0, 66.0), (132.0, 55.0)])
def test_a_cut_loop_swings_as_asked_and_keeps_what_was_late_in_it(bpm: float, percent: float) -> None:
    own = _stem(own_bpm=120.0, swing="its own", swing_percent=percent)
    with_track = _stem(own_bpm=120.0, swing="the track’s")
    for found in (_beats_of(own, bpm), _beats_of(with_track, bpm, percent)):
        assert len(found) == 16
        want = [n / 4 if n % 2 == 0 else (n - 1) / 4 + percent / 200 for n in range(16)]
        late = [n for n, (at, there) in enumerate(zip(found, want, strict=True)) if abs(at - there) > 0.005]
        # 6 ms at 120 BPM are 0.012 of a beat.
        assert late == [5]
        assert found[5] - want[5] == pytest.approx(0.012, abs=0.005)


def test_a_swung_loop_is_straightened_and_its_swing_is_said() -> None:
    brief = Brief(bpm=120.0, chord_roots=("tonic",))
    swung = loop_of(STRUCK, _stem(swing="its own", swing_percent=64.0), brief, RATE)
    straight = _stem(swing="the track’s")
    cost = fit_cost(swung, straight, brief, RATE)
    assert cost.swing_percent == pytest.approx(64.0, abs=1.0)
    back = strokes(loop_of(swung, straight, brief, RATE), RATE).at_ms
    assert back == pytest.approx(strokes(STRUCK, RATE).at_ms, abs=2.0)
    assert fit_cost(STRUCK, _stem(), brief, RATE).swing_percent is None


def test_a_cut_loop_follows_the_swing_of_the_track() -> None:
    session = Session(lambda _: (STRUCK, RATE))
    brief = Brief(bpm=120.0, chord_roots=("tonic",))
    state = TrackState.of(brief=brief, stems=(_stem(swing="the track’s"),))
    straight = session.parts.stem_loop(state, state.stems[0]).samples
    swung = state.model_copy(update={"brief": brief.model_copy(update={"swing_percent": 66.0})})
    assert not np.array_equal(session.parts.stem_loop(swung, state.stems[0]).samples, straight)


def test_what_cannot_swing_is_refused_with_its_reason() -> None:
    with pytest.raises(ValidationError, match="fit it by slices"):
        _stem(fit="by resampling", swing="the track’s")
    eighths = STRUCK.copy().reshape(16, SIXTEENTH)
    eighths[1::2] = 0.0
    with pytest.raises(UserError, match="no swing to change"):
        loop_of(eighths.ravel(), _stem(swing="the track’s"), Brief(bpm=120.0, chord_roots=("tonic",)), RATE)


def test_strokes_are_taken_in_under_the_swing_of_the_hit_that_plays_them() -> None:
    brief = Brief(bpm=120.0, swing_percent=60.0)
    straight = HAT.model_copy(update={"swing": "its own"})
    given = [(0.0, 1.0), (0.25, 1.0), (0.3, 1.0)]
    assert [step.at for step in fitted_strokes(given[:2], brief, straight).steps] == [0.0, 0.25]
    assert [step.at for step in fitted_strokes([given[0], given[2]], brief).steps] == [0.0, 0.25]
    assert [step.at for step in fitted_strokes([given[0], given[2]], brief, straight).steps] == [0.0, 0.3]
