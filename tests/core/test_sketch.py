"""The small picture of a track: what is written, as shares of the loop."""

import pytest

from juglant.core.lowend.sketch import sketch
from juglant.core.recipes.hit import Hit, MadeHat
from juglant.core.recipes.notes import HitStep
from juglant.core.recipes.parts import ImportedBass
from juglant.core.recipes.track import TrackState
from juglant.demo.scenario import TRACKS
from tests.tracks import changed


def test_strokes_and_notes_lie_where_they_are_played() -> None:
    # Two bars at 132 BPM: a kick on every beat, a note on every beat that ends a fifth before the next.
    found = sketch(TRACKS["Cobnut Rain"])
    assert [mark.at for mark in found.kick] == pytest.approx([n / 8 for n in range(8)])
    assert found.lines[1] == pytest.approx((0.125, 0.1, 1.0))
    assert found.hits[0] == pytest.approx((0.125, 0.0, 1.0))


def test_what_is_muted_is_not_drawn_and_a_file_lasts_the_whole_loop() -> None:
    hat = Hit.of(MadeHat(), name="Hat", kind="hat", steps=(HitStep(at=1.5, velocity=0.4),))
    heard = changed(TrackState(), hits=(hat,), bass=ImportedBass(audio="a" * 64, name="loop"))
    found = sketch(heard)
    # One bar of a hat in a loop of two.
    assert found.hits == [(0.1875, 0.0, 0.4), (0.6875, 0.0, 0.4)]
    assert found.lines == [(0.0, 1.0, 1.0)]
    quiet = sketch(changed(heard, hits=(hat.model_copy(update={"mute": True}),), bass_mute=True))
    assert (quiet.hits, quiet.lines) == ([], [])
