"""Sounds taken apart: the recipe is found again, and what is made from it sounds like the one given."""

import hashlib

import numpy as np
import pytest

from bench.instruments import played
from juglant.core import RATE
from juglant.core.errors import CancelledError, UserError
from juglant.core.hits.making import made
from juglant.core.hits.render import HitRenderer
from juglant.core.kept import Kept
from juglant.core.matching.apart import Apart, taken_apart
from juglant.core.matching.bodies import KICK, TONE_808, kick_hz
from juglant.core.matching.distance import spectral_distance_db
from juglant.core.matching.fit import fitted_body
from juglant.core.measure.hit import measure
from juglant.core.recipes.hit import Imported, Made808, MadeKick
from juglant.core.recipes.kick import KickRecipe
from juglant.core.recipes.tone808 import Recipe808
from tests.signals import Array, noise, ring

pytestmark = pytest.mark.thorough

KICKS = (
    KickRecipe(end_hz=52.0, decay_ms=260.0, start_semitones=30.0, pitch_decay_ms=14.0, drive_db=5.0),
    KickRecipe(end_hz=43.0, decay_ms=420.0, start_semitones=17.0, pitch_decay_ms=40.0, pitch_curve=0.4,
               hold_ms=30.0, decay_curve=0.3, wave=0.4, drive_db=0.0, length_ms=460.0, click_db=-24.0),
    KickRecipe(end_hz=61.0, decay_ms=180.0, start_semitones=40.0, pitch_decay_ms=9.0, pitch_curve=-0.4,
               drive_db=11.0, drive_bias=0.3, length_ms=220.0, click_db=-12.0),
    # A long way down of some fifteen cycles; one that is over almost before it has arrived.
    KickRecipe(end_hz=67.4, decay_ms=474.0, start_semitones=49.1, pitch_decay_ms=33.0, pitch_curve=-0.82,
               wave=1.16, attack_ms=3.5, drive_db=0.0, length_ms=505.0, click_db=-17.0),
    KickRecipe(end_hz=38.7, decay_ms=86.0, start_semitones=44.0, pitch_decay_ms=36.0, pitch_curve=-0.5,
               attack_ms=2.8, hold_ms=15.6, drive_db=0.0, release_ms=50.6, length_ms=96.0, click_db=-38.0),
)  # fmt: skip


class _Kept:
    """Samples under their hash, as a studio keeps them."""

    def __init__(self) -> None:
        self.files: dict[str, Array] = {}
        self.hits = HitRenderer(Kept(200, 200_000_000), lambda digest: (self.files[digest], RATE))

    def keep(self, samples: Array, _: str) -> str:
        digest = hashlib.sha256(np.ascontiguousarray(samples).tobytes()).hexdigest()
        self.files[digest] = samples
        return digest

    def apart(self, x: Array, name: str = "found") -> Apart:
        return taken_apart(x, name, "kick", self.hits, self.keep)


@pytest.mark.parametrize("recipe", KICKS, ids=lambda one: f"{one.end_hz:.0f} Hz")
def test_the_recipe_of_a_made_kick_is_found_again(recipe: KickRecipe) -> None:
    x = made(MadeKick(recipe=recipe), 120.0)
    studio = _Kept()
    found = studio.apart(x)
    body = found.hit.layers[0].source
    assert isinstance(body, MadeKick)
    # For as long as it is less than 40 dB down.
    heard_ms = recipe.hold_ms + recipe.decay_ms * 2 / 3
    at = np.arange(0.004, min(0.2, heard_ms / 1000), 0.001)
    true, got = (kick_hz(one.model_dump(), at) for one in (recipe, body.recipe))
    # A tenth of a semitone in the sweep, three cents once it has settled.
    off = np.abs(1200 * np.log2(got / true))
    settled = 1200 * np.log2(true / recipe.end_hz) < 10
    assert float(np.max(off)) < 10.0
    assert float(np.max(off[settled], initial=0.0)) < 3.0
    assert body.recipe.decay_ms == pytest.approx(recipe.decay_ms, rel=0.05)
    assert found.likeness.spectral_distance_db < 1.5
    assert found.likeness.residual_db < -30.0
    # What is said of it is what the hit that is given sounds like.
    again = studio.hits.hit(found.hit, 120.0)[: x.size]
    assert 10 * np.log10(np.sum((again - x) ** 2) / np.sum(x**2)) < -30.0


def test_an_808_is_an_808_again() -> None:
    recipe = Recipe808(
        end_hz=46.0, decay_ms=700.0, start_octaves=1.6, drive_db=8.0, sustain_db=-20.0, length_ms=800.0
    )
    found = _Kept().apart(made(Made808(recipe=recipe), 120.0))
    body = found.hit.layers[0].source
    assert isinstance(body, Made808)
    assert abs(1200 * np.log2(body.recipe.end_hz / recipe.end_hz)) < 3.0
    assert body.recipe.decay_ms == pytest.approx(700.0, rel=0.05)
    assert found.likeness.spectral_distance_db < 1.5


def test_another_note_moves_the_body_and_leaves_the_click() -> None:
    recipe = KICKS[0]
    studio = _Kept()
    hit = studio.apart(made(MadeKick(recipe=recipe), 120.0)).hit
    body = hit.layers[0].source
    assert isinstance(body, MadeKick)
    higher = hit.with_source(0, MadeKick(recipe=body.recipe.model_copy(update={"end_hz": 58.0})))
    layers = [studio.hits.layers(one, 120.0) for one in (hit, higher)]
    assert [one.job for one in hit.layers[1:]] == ["click"]
    assert np.array_equal(layers[0][1], layers[1][1])
    assert not np.array_equal(layers[0][0], layers[1][0])


@pytest.mark.parametrize("kit", [0, 24])
def test_a_recorded_kick_comes_within_3_db(kit: int) -> None:
    """Of a General MIDI set, key 36: a recorded sound that no recipe made."""
    x = played([(0.0, 0.5, 36, 110)], 0.9, kit, drums=True)
    studio = _Kept()
    found = studio.apart(x)
    assert found.likeness.spectral_distance_db < 3.0
    # Nothing is pretended: the body alone is told for what it is.
    assert found.likeness.body_residual_db > -30.0
    assert any(isinstance(layer.source, Imported) for layer in found.hit.layers)


def test_a_high_tom_is_a_body_tuned_up() -> None:
    found = _Kept().apart(ring(220.0, 300, 0.4) * np.minimum(1.0, np.arange(0.4 * RATE) / 48))
    [body, *_] = found.hit.layers
    assert body.tune_semitones > 6.0
    assert found.likeness.pitch_error_cents is not None
    assert found.likeness.pitch_error_cents < 10.0


@pytest.mark.parametrize(
    ("x", "why"),
    [
        (np.zeros(4800), "silent"),
        (ring(50, 300, 0.01), "No tone|short"),
        (noise(0.02)[:700], "No tone|short"),
        (noise(0.4) * ring(1.0, 300, 0.4), "explains nothing|No tone"),
        (np.tile(ring(50, 200, 0.4), 3), "3 strokes"),
    ],
)
def test_what_cannot_be_taken_apart_is_refused(x: Array, why: str) -> None:
    with pytest.raises(UserError, match=why):
        _Kept().apart(x)


def test_it_can_be_stopped_and_tells_how_far_it_is() -> None:
    told: list[float] = []

    def progress(share: float) -> bool:
        told.append(share)
        return len(told) < 5

    x = made(MadeKick(), 120.0)
    with pytest.raises(CancelledError):
        fitted_body(x, RATE, measure(x, RATE).trace, 49.0, 340.0, 0.0, (KICK, TONE_808), progress)
    assert len(told) == 5
    assert told == sorted(told)
    assert 0.0 < told[-1] < 1.0


def test_the_distance_of_two_levels_is_their_difference_and_of_a_sound_to_itself_none() -> None:
    x = noise(0.2)
    assert spectral_distance_db(x, x, RATE) == 0.0
    assert spectral_distance_db(x, x * 10 ** (-3 / 20), RATE) == pytest.approx(3.0, abs=0.05)
