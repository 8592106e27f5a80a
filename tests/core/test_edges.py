"""Where a thing ends: rooms left out, stretches of files, what starts a ducking, when a curve is back."""

import numpy as np
import pytest

from juglant.core.errors import UserError
from juglant.core.hits.render import HitRenderer
from juglant.core.kept import Kept
from juglant.core.lowend import tuning
from juglant.core.lowend.curves import returning_on, stretched
from juglant.core.lowend.ducking import RETURNED_DB, shape_db, span_ms
from juglant.core.lowend.duckings import written_strokes
from juglant.core.lowend.instrument import instrument
from juglant.core.lowend.line import line_of
from juglant.core.lowend.part import low_end
from juglant.core.lowend.session import Session
from juglant.core.measure.levels import Spectrum
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.chain import DelayStage, DriveStage, SpaceStage
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.ducking import Ducking
from juglant.core.recipes.hit import Hit, Imported, MadeClap, MadeHat, Take, Velocity, without_spaces
from juglant.core.recipes.notes import on_beats
from juglant.core.recipes.parts import ImportedBass, RumbleBass, Voice
from juglant.core.recipes.track import TrackState
from tests.signals import RATE, ring

DRIVE, SPACE, DELAY = DriveStage(), SpaceStage(), DelayStage()


def test_a_hit_is_measured_without_its_rooms_and_echoes() -> None:
    plain = Hit.of(MadeClap(), chain=(DRIVE,))
    assert without_spaces(plain) is plain
    wet = plain.model_copy(update={"chain": (DRIVE, SPACE, DELAY)})
    assert without_spaces(wet) == plain
    [layer] = plain.layers
    inside = plain.model_copy(update={"layers": (layer.model_copy(update={"chain": (DELAY, DRIVE)}),)})
    assert without_spaces(inside).layers[0].chain == (DRIVE,)
    assert without_spaces(inside).chain == (DRIVE,)


def _renderer() -> HitRenderer:
    x = np.concatenate([ring(hz, 100, 0.25) for hz in (60.0, 120.0, 240.0)])
    return HitRenderer(Kept(16), lambda _: (x, RATE))


@pytest.mark.parametrize(
    ("start_ms", "end_ms", "frames"),
    [(0.0, None, 36000), (250.0, None, 24000), (0.0, 250.0, 12000), (250.0, 500.0, 12000)],
)
def test_a_stretch_of_a_file_is_as_long_as_it_says(
    start_ms: float, end_ms: float | None, frames: int
) -> None:
    source = Imported(audio="a" * 64, name="a.wav", start_ms=start_ms, end_ms=end_ms)
    assert _renderer().source(source, 120.0, Velocity(), 1.0, 0).samples.shape[0] == frames
    # A take has a stretch of its own.
    take = Take(audio="a" * 64, name="b.wav", start_ms=start_ms, end_ms=end_ms)
    two = Imported(audio="a" * 64, name="a.wav", end_ms=100.0, takes=(take,))
    assert [_renderer().source(two, 120.0, Velocity(), 1.0, turn).samples.shape[0] for turn in (0, 1)] == [
        4800,
        frames,
    ]


@pytest.mark.parametrize("returns_ms", [60.0, 140.0, 300.0])
@pytest.mark.parametrize(
    "recipe",
    [DuckRecipe(), DuckRecipe(lookahead_ms=8.0, attack_ms=8.0), DuckRecipe(depth_db=24.0, release_ms=40.0)],
)
def test_a_curve_that_returns_on_a_time_is_back_above_minus_one_decibel_then(
    recipe: DuckRecipe, returns_ms: float
) -> None:
    found = returning_on(recipe, returns_ms)
    at = np.arange(0.0, span_ms(found) + 20.0, 0.1) - found.lookahead_ms
    low = np.flatnonzero(shape_db(found, at) <= RETURNED_DB)
    assert at[low[-1]] == pytest.approx(returns_ms, abs=1.5)
    assert (found.depth_db, found.attack_ms) == (recipe.depth_db, recipe.attack_ms)
    assert stretched(recipe, 1.0) == recipe


HAT = Hit.of(MadeHat(), id="hat", name="Hat", kind="hat", steps=on_beats(1.5, 3.5))


def test_of_a_hit_that_starts_a_ducking_of_the_low_end_only_its_strokes_count() -> None:
    loud = HAT.model_copy(update={"level_db": 3.0, "chain": (DRIVE,)})
    plain = TrackState.of(hits=(loud,))
    assert [part.id for part in low_end(plain).parts] == ["kick", "bass"]
    own = Ducking.model_validate({"id": "own", "triggers": ["hat"], "targets": ["bass"]})
    state = plain.model_copy(update={"duckings": (*plain.duckings, own)})
    there = low_end(state).part("hat")
    assert there == Hit(id="hat", name="Hat", steps=loud.steps, bars=loud.bars, swing=loud.swing)
    # One that chokes is known as well, unless it is muted.
    choking = TrackState.of(hits=(loud.model_copy(update={"choke": "A"}),))
    assert low_end(choking).part("hat") is not None
    muted = TrackState.of(hits=(loud.model_copy(update={"choke": "A", "mute": True}),))
    assert low_end(muted).part("hat") is None


def test_what_has_strokes_starts_a_ducking_and_a_rumble_does_not() -> None:
    state = TrackState.of(brief=Brief(bpm=120.0), hits=(HAT,))
    state = state.model_copy(
        update={"parts": (*state.parts, Voice(id="low", name="low", bass=RumbleBass()))}
    )
    strokes = written_strokes(state, "hat")
    assert strokes is not None
    assert [stroke.at_ms for stroke in strokes[:2]] == [250.0, 1250.0]
    assert written_strokes(state, "bass")
    assert written_strokes(state, "low") is None
    assert written_strokes(state, "gone") is None


def test_a_move_says_what_it_does_to_the_bands_that_count_and_to_small_loudspeakers() -> None:
    spectrum = Spectrum(ring(60.0, 300, 0.5) + 0.05 * ring(300.0, 100, 0.5), RATE)
    heard = tuning.harmony(Brief(tonic="A", mode="minor", chord_roots=("A",)))
    found = tuning.moves(60.0, 400.0, heard, resampled=True, spectrum=spectrum)
    up = max(found, key=lambda one: one.midi)
    assert up.bands_change_db is not None
    # All of it is in the sub, which it leaves when it is moved up; what is never there is not told.
    assert up.bands_change_db["sub"] < -1.0
    assert "air" not in up.bands_change_db
    assert up.small_speaker_plays_it is not None


def test_a_muted_hit_has_no_strokes_in_the_loop_and_no_choke() -> None:
    choking = HAT.model_copy(update={"choke": "A"})
    loud, muted = (
        TrackState.of(hits=(hit,)) for hit in (choking, choking.model_copy(update={"mute": True}))
    )
    assert line_of(loud).strokes.keys() == {"kick", "hat"}
    assert line_of(muted).strokes.keys() == {"kick"}
    assert (line_of(loud).chokes.get("hat"), line_of(muted).chokes.get("hat")) == ("A", None)


def test_what_has_no_notes_of_its_own_makes_no_instrument() -> None:
    voice = Voice(id="bass", name="bass", bass=ImportedBass(audio="a" * 64, name="b.wav"))
    state = TrackState.of().with_part(voice)
    with pytest.raises(UserError):
        instrument(Session(lambda _: (ring(55.0, 300, 0.5), RATE)), state, "bass", 36, 37)
