"""Files as loops: fitted to the tempo with what it costs, repeated or cut, silenced on the grid."""

import numpy as np
import pytest
from pydantic import ValidationError

from juglant.core.errors import UserError
from juglant.core.lowend.filed import fit_cost, loop_of
from juglant.core.lowend.session import Session
from juglant.core.measure.defects import strokes
from juglant.core.measure.hit import measure
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.parts import ImportedBass, Stem, Voice
from juglant.core.recipes.track import TrackState
from tests.signals import RATE, Array, ring, sine

LOOP, TONE = "a" * 64, "b" * 64
# A bar of eighths at 120 BPM, every second one softer.
BEAT = RATE // 2
EIGHTHS = np.zeros(4 * BEAT)
for n in range(8):
    stroke = (0.8, 0.4)[n % 2] * ring(220.0, 90, 0.2)
    EIGHTHS[n * BEAT // 2 : n * BEAT // 2 + stroke.size] += stroke
FILES = {LOOP: EIGHTHS, TONE: sine(110.0, 2.0)}
SESSION = Session(lambda digest: (FILES[digest], RATE))


def _stem(**fields: object) -> Stem:
    return Stem.model_validate({"id": "stem", "name": "Loop", "audio": LOOP, **fields})


def _brief(bpm: float, bars: int = 1) -> Brief:
    return Brief(bpm=bpm, chord_roots=("tonic",) * bars)


def _strokes_ms(x: Array) -> list[float]:
    return list(strokes(x, RATE).at_ms)


@pytest.mark.parametrize("bpm", [96.0, 131.0, 150.0])
def test_by_slices_strokes_lie_on_the_new_grid_and_keep_their_pitch(bpm: float) -> None:
    x = loop_of(EIGHTHS, _stem(fit="by slices", own_bpm=120.0), _brief(bpm), RATE)
    assert x.size == round(4 * 60 / bpm * RATE)
    found = _strokes_ms(x)
    eighth = 30_000 / bpm
    assert len(found) == 8
    assert np.abs(np.array(found) - eighth * np.arange(8)).max() < 3.0
    one = measure(x[: round(0.9 * eighth / 1000 * RATE)], RATE).hit.estimate_hz
    assert one is not None
    assert abs(1200 * np.log2(one / 220.0)) < 5
    cost = fit_cost(EIGHTHS, _stem(fit="by slices", own_bpm=120.0), _brief(bpm), RATE)
    assert cost.slices == 8
    # An eighth of 250 ms in what the tempo leaves of it.
    assert cost.cut_ms == pytest.approx(max(250 - eighth, 0), abs=4)
    assert cost.gap_ms == pytest.approx(max(eighth - 250, 0), abs=4)


@pytest.mark.parametrize("bpm", [96.0, 150.0])
def test_by_resampling_all_moves_with_the_tempo_as_on_a_turntable(bpm: float) -> None:
    stem = _stem(audio=TONE, fit="by resampling", own_bpm=120.0)
    x = loop_of(FILES[TONE], stem, _brief(bpm), RATE)
    hz = measure(x[: RATE // 2] * np.linspace(1, 0, RATE // 2), RATE).hit.estimate_hz
    assert hz is not None
    semitones = 12 * np.log2(bpm / 120.0)
    assert 12 * np.log2(hz / 110.0) == pytest.approx(semitones, abs=0.05)
    assert fit_cost(FILES[TONE], stem, _brief(bpm), RATE).semitones == pytest.approx(semitones)


def test_what_has_no_strokes_is_not_cut_and_the_reason_is_said() -> None:
    stem = _stem(audio=TONE, fit="by slices", own_bpm=100.0)
    with pytest.raises(UserError, match="no strokes at which it could be cut"):
        loop_of(FILES[TONE], stem, _brief(120.0), RATE)
    # At its own tempo there is nothing to fit.
    same = _stem(audio=TONE, fit="by slices", own_bpm=120.0)
    assert np.array_equal(loop_of(FILES[TONE], same, _brief(120.0), RATE), FILES[TONE])


def test_the_start_is_counted_in_the_file_s_own_time() -> None:
    early = np.concatenate([np.zeros(round(0.05 * RATE)), EIGHTHS])
    stem = _stem(fit="by resampling", own_bpm=120.0, begin_ms=50.0)
    x = loop_of(early, stem, _brief(90.0), RATE)
    assert _strokes_ms(x)[0] < 2.0


def test_silenced_sixteenths_are_silent_and_the_next_stroke_keeps_its_attack() -> None:
    plain = loop_of(EIGHTHS, _stem(), _brief(120.0, bars=2), RATE)
    # The doubled strokes: third and fourth eighth of the first bar, one of the second.
    stem = _stem(silent=(4, 5, 6, 7, 20))
    x = loop_of(EIGHTHS, stem, _brief(120.0, bars=2), RATE)
    sixteenth = BEAT // 4
    silence = x[4 * sixteenth - 40 : 8 * sixteenth - 200]
    assert np.max(np.abs(silence)) < 1e-6
    kept = slice(8 * sixteenth - 40, 20 * sixteenth - 200)
    assert np.array_equal(x[kept], plain[kept])
    assert np.array_equal(x[: 4 * sixteenth - 200], plain[: 4 * sixteenth - 200])
    # Neighbours go together: nothing is heard between them, and no edge clicks.
    assert np.max(np.abs(np.diff(x))) <= np.max(np.abs(np.diff(plain)))
    # Beyond the loop nothing is silenced: a shorter one keeps what is in it.
    assert np.array_equal(loop_of(EIGHTHS, _stem(silent=(40,)), _brief(120.0), RATE), EIGHTHS)
    with pytest.raises(ValidationError, match="named once, in their order"):
        _stem(silent=(5, 4))


def test_a_line_and_a_stem_are_fitted_alike_and_nothing_else_is_made_again() -> None:
    fields = {"fit": "by slices", "own_bpm": 120.0, "silent": (2, 3)}
    line = Voice(
        id="bass", name="bass", bass=ImportedBass.model_validate({"audio": LOOP, "name": "x", **fields})
    )
    state = TrackState.of(brief=_brief(138.0), stems=(_stem(**fields),))
    state = state.with_part(line)
    bare = SESSION.parts.bare(state, state.voice("bass")).samples
    stem = SESSION.parts.bare(state, state.stems[0]).samples
    # The line lies under the brief's low cut, the stem does not.
    assert bare.shape == stem.shape
    assert np.corrcoef(bare, stem)[0, 1] > 0.85
    assert _strokes_ms(stem)[:2] == pytest.approx([0.0, 2 * 30_000 / 138], abs=4.0)
