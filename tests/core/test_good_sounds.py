"""Good sounds in which nothing is to be found, each beside one in which something is: what recorded and driven
drums are like that is no fault of theirs.
"""

import numpy as np
import pytest

from juglant.core.findings import findings
from juglant.core.lowend.session import Session
from juglant.core.measure.defects import leading_silence_ms
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.hit import Hit, Imported
from juglant.core.recipes.notes import on_beats
from juglant.core.recipes.track import TrackState
from tests.signals import RATE, Array, noise, ring

FILE = "a" * 64


def _found(x: Array, kind: str = "percussion") -> list[str]:
    """The ids of what is found in a hit that is a file."""
    hit = Hit.of(Imported(audio=FILE, name="it.wav"), id="it", name="It", kind=kind)
    state = TrackState.of(brief=Brief(), hits=(hit.model_copy(update={"steps": on_beats(2)}),))
    session = Session(lambda digest: (x, RATE))
    return [one.id for one in findings(session, session.answer(state)) if "-it" in one.id]


def _struck(share: float) -> Array:
    """A tone a quarter tone off any note, and as many others up to 12 kHz as leave it a share of the energy."""
    rng = np.random.default_rng(3)
    tone = ring(632.0, 700, 1.0)
    others = np.sum(
        [rng.uniform(0.5, 1) * ring(hz, 700, 1.0) for hz in rng.uniform(1200, 12_000, 60)], axis=0
    )
    ratio = np.sqrt((1 / share - 1) * float(tone @ tone) / float(others @ others))
    x = tone + ratio * others
    return np.asarray(0.2 * x / np.max(np.abs(x)))


@pytest.mark.parametrize(("share", "off"), [(0.03, False), (0.08, False), (0.13, True), (0.5, True)])
def test_a_cymbal_has_tones_and_no_note_to_be_off_key(share: float, off: bool) -> None:
    """Recorded cymbals hold at most a twentieth in their strongest tone, toms and cowbells a sixth."""
    assert ("off-key-it" in _found(_struck(share))) == off


@pytest.mark.parametrize(("rustle_db", "silent"), [(-26.0, False), (-38.0, True), (-60.0, True)])
def test_jingles_before_the_stroke_are_no_silence(rustle_db: float, silent: bool) -> None:
    before, burst = noise(0.008), noise(0.4, seed=2) * np.exp(-np.arange(round(0.4 * RATE)) / (0.05 * RATE))
    x = np.concatenate([10 ** (rustle_db / 20) * before / np.std(before), burst / np.std(burst[:240])])
    assert leading_silence_ms(x, RATE) == pytest.approx(8.0 if silent else 0.0, abs=0.5)
    assert ("leading-silence-it.0" in _found(0.1 * x)) == silent
