"""Tracks made here throughout, as common practice has them, and ducked by what Juglant solves: nothing is wrong."""

import pytest

from juglant.core import music
from juglant.core.findings import effect, findings, fixes
from juglant.core.lowend.session import Session
from juglant.core.recipes.bass import PATTERNS, BassRecipe, PlayedRecipe
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.hit import Hit, Made808, MadeKick
from juglant.core.recipes.kick import KickRecipe
from juglant.core.recipes.parts import MadeBass, PlayedBass
from juglant.core.recipes.separate import KickCarve, SeparateRecipe
from juglant.core.recipes.tone808 import Recipe808
from juglant.core.recipes.track import TrackState
from juglant.demo.scenario import TRACKS
from tests.tracks import changed

TONICS = ("C", "C#", "D", "Eb", "E", "F", "F#", "G", "Ab", "A", "Bb", "B")


def _octave_of(tonic: str, least_hz: float) -> float:
    """The lowest note of a name that is not below a frequency, in Hz."""
    midi = 24 + music.pitch_class(tonic)
    while music.midi_to_hz(midi, 440.0) < least_hz:
        midi += 12
    return round(music.midi_to_hz(midi, 440.0), 2)


def _solved(state: TrackState) -> TrackState:
    recipe = Session().solve_ducking(state).recipe
    return state.with_duck(duck=recipe, on=True)


def _ids(state: TrackState) -> list[str]:
    session = Session()
    return [one.id for one in findings(session, session.answer(state))]


@pytest.mark.thorough
@pytest.mark.parametrize("tonic", TONICS)
@pytest.mark.parametrize("pattern", ["off-beats", "rolling sixteenths", "gallop"])
def test_a_kick_that_owns_the_sub_over_a_ducked_line(tonic: str, pattern: str) -> None:
    number = TONICS.index(tonic)
    kick = KickRecipe(
        end_hz=_octave_of(tonic, 41.0), decay_ms=220.0 + 10 * number, length_ms=260.0 + 12 * number,
        level_db=-4.0,
    )  # fmt: skip
    state = TrackState.of(
        brief=Brief(bpm=118.0 + 2 * number, tonic=tonic, mode="minor", chord_roots=("tonic",)),
        kick=Hit.of(MadeKick(recipe=kick)),
        bass=MadeBass(recipe=BassRecipe(pattern=PATTERNS[pattern], level_db=-9.0)),
    )
    assert _ids(_solved(state)) == []


@pytest.mark.thorough
@pytest.mark.parametrize("tonic", ["C", "F", "G", "A", "Bb"])
@pytest.mark.parametrize("played", ["an 808", "long notes"])
def test_a_bass_that_owns_the_sub_under_a_hollow_kick(tonic: str, played: str) -> None:
    kick = KickRecipe(
        end_hz=_octave_of(tonic, 80.0), decay_ms=110.0, length_ms=150.0, click_db=-4.0, level_db=-5.0
    )
    low = Hit.of(Made808(recipe=Recipe808(level_db=-6.0)), kind="808", name="Low")
    line = PlayedRecipe(pattern=PATTERNS["long notes"], level_db=-4.0)
    bass = (
        PlayedBass(hit=low, recipe=line) if played == "an 808"
        else MadeBass(recipe=BassRecipe(pattern=PATTERNS["long notes"], level_db=-7.0))
    )  # fmt: skip
    state = TrackState.of(
        brief=Brief(bpm=130.0, tonic=tonic, mode="minor", sub_owner="bass", chord_roots=("tonic", "tonic")),
        kick=Hit.of(MadeKick(recipe=kick)), bass=bass,
        separate=SeparateRecipe(kick=KickCarve(highpass_hz=70.0, highpass_slope="24")),
    )  # fmt: skip
    assert _ids(_solved(state)) == []


def test_a_new_track_raises_nothing() -> None:
    assert _ids(TrackState()) == []


@pytest.mark.thorough
@pytest.mark.parametrize("name", list(TRACKS))
def test_every_demo_track_can_be_mended_by_its_findings_alone(name: str) -> None:
    """The best fix of the first finding that has one, again and again, until nothing is wrong."""
    session, state = Session(), TRACKS[name]
    for _ in range(12):
        answer = session.answer(state)
        for finding in findings(session, answer):
            if offered := fixes(session, answer, finding.id):
                state = effect(session, answer, finding.id, offered[0].way).state
                break
        else:
            break
    assert findings(session, session.answer(state)) == []


@pytest.mark.thorough
def test_two_in_the_sub_are_ducked_apart_though_their_sum_gets_lower() -> None:
    """In phase and on one note they add up to 6 dB; what the second adds to the owner may go, not more."""
    state = TRACKS["Cobnut Rain"]
    source = state.kick.only_source
    assert isinstance(source, MadeKick)
    tuned = MadeKick(recipe=source.recipe.model_copy(update={"end_hz": 49.0}))
    duck = DuckRecipe(depth_db=9.0, attack_ms=4.0, hold_ms=21.0, release_ms=90.0)
    state = changed(state, kick=state.kick.with_source(0, tuned), duck=duck)
    session = Session()
    answer = session.answer(state)
    [collision] = fixes(session, answer, "collision")
    assert (collision.way, collision.closes, collision.opens) == ("mend", True, [])
    # A high-pass would empty the sub wherever the kick is silent: it is not offered.
    assert [one.way for one in fixes(session, answer, "sub-shared")] == ["duck"]
