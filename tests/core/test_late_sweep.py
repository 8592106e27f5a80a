"""A kick that is long enough to be a note and goes on falling."""

import pytest

from bench.tracks import kick
from juglant.core.findings import findings
from juglant.core.findings.judge import effect, fixes
from juglant.core.findings.sweep import LATE_CENTS, falls_cents
from juglant.core.lowend.session import Session
from juglant.core.measure.hit import measure
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.hit import Hit, MadeKick
from juglant.core.recipes.kick import KickRecipe
from juglant.core.recipes.track import TrackState
from tests.signals import RATE

SESSION = Session()


def _state(pitch_decay_ms: float, decay_ms: float = 800.0) -> TrackState:
    recipe = KickRecipe(
        end_hz=49.0, pitch_decay_ms=pitch_decay_ms, decay_ms=decay_ms, length_ms=min(decay_ms + 200, 2000)
    )
    return TrackState.of(brief=Brief(bpm=126.0, tonic="G"), kick=Hit.of(MadeKick(recipe=recipe)))


def _ids(state: TrackState) -> list[str]:
    return [one.id for one in findings(SESSION, SESSION.answer(state))]


def test_a_slow_sweep_is_told_and_made_only_as_quick_as_it_must_be() -> None:
    slow = _state(240.0)
    assert "late-sweep" in _ids(slow)
    [fix] = fixes(SESSION, SESSION.answer(slow), "late-sweep")
    assert fix.closes
    mended = effect(SESSION, SESSION.answer(slow), "late-sweep").state
    assert "late-sweep" not in _ids(mended)
    source = mended.kick.only_source
    assert isinstance(source, MadeKick)
    # One step less would not have done.
    assert "late-sweep" in _ids(_state(source.recipe.pitch_decay_ms / 0.8))


def test_quick_sweeps_and_short_thuds_are_left_alone() -> None:
    assert "late-sweep" not in _ids(_state(30.0))
    assert "late-sweep" not in _ids(_state(240.0, 180.0))


@pytest.mark.parametrize(("sweep_ms", "late"), [(12.0, False), (60.0, False), (260.0, True)])
def test_the_fall_of_a_kick_made_elsewhere(sweep_ms: float, late: bool) -> None:
    """An exponential sweep: what is left of it from 20 to 40 dB down can be computed."""
    falls = falls_cents(measure(kick(46.0, 1200, sweep=3.0, sweep_ms=sweep_ms), RATE))
    assert falls is not None
    assert (falls > LATE_CENTS) == late
