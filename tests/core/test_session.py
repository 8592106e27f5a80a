"""From a state to its answer: the same each time, nothing rendered twice, files taken as they are."""

import numpy as np
import pytest

from juglant.core import RATE
from juglant.core.kept import sound_key
from juglant.core.lowend.session import Array, Session
from juglant.core.measure.hit import measure
from juglant.core.recipes.bass import PATTERNS, BassRecipe
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.hit import Hit, Imported, MadeKick
from juglant.core.recipes.parts import ImportedBass, MadeBass
from juglant.core.recipes.track import TrackState
from tests.signals import ring, sine

KICK, BASS = "a" * 64, "b" * 64
FILES: dict[str, tuple[Array, int]] = {
    KICK: (np.stack([ring(57, 500, 0.5, 44_100)] * 2, axis=1), 44_100),
    BASS: (sine(82.4, 1.0, -9, 96_000), 96_000),
}


@pytest.fixture
def session() -> Session:
    return Session(lambda digest: FILES[digest])


IMPORTED = TrackState.of(
    kick=Hit.of(Imported(audio=KICK, name="kick.wav")), bass=ImportedBass(audio=BASS, name="bass.wav")
)


def test_the_key_of_a_sound_changes_with_everything_that_decides_it() -> None:
    kick = MadeKick()
    other = MadeKick(recipe=kick.recipe.model_copy(update={"decay_ms": 321.0}))
    assert sound_key("kick", kick, 128) == sound_key("kick", MadeKick(), 128)
    keys = {sound_key("kick", *parts) for parts in ((kick, 128), (other, 128), (kick, 90))}
    assert len(keys) == 3


def test_the_same_state_is_answered_from_what_is_kept(session: Session) -> None:
    first = session.answer(TrackState())
    assert session.answer(TrackState()) is first
    ducked = TrackState.of(duck=DuckRecipe(depth_db=20.0))
    assert session.answer(ducked).kick_loop.given is first.kick_loop.given
    assert session.answer(ducked).mix_before is first.mix_before


def test_two_sessions_render_the_same_samples() -> None:
    state = TrackState()
    one, two = (Session(lambda digest: FILES[digest]).answer(state) for _ in range(2))
    assert np.array_equal(one.mix_after.samples, two.mix_after.samples)


def test_an_imported_kick_is_measured_as_its_file_is_and_tuned_by_resampling(session: Session) -> None:
    alone = measure(FILES[KICK][0], FILES[KICK][1]).hit
    inside = session.sounds.measured_hit(IMPORTED.kick, IMPORTED.brief).hit
    assert inside.fundamental_hz == pytest.approx(alone.fundamental_hz or 0, rel=1e-4)
    tuned = session.sounds.tuned(IMPORTED.kick, IMPORTED.brief, "A1")
    hit = session.sounds.measured_hit(tuned, IMPORTED.brief).hit
    assert hit.fundamental_hz == pytest.approx(55.0, rel=1 / 1731)
    promised = next(
        move for move in session.sounds.moves(IMPORTED.kick, IMPORTED.brief) if move.note == "A1"
    ).new_length_ms
    assert hit.length_ms == pytest.approx(promised, abs=0.1)
    assert promised > inside.length_ms


def test_an_imported_bass_is_repeated_over_the_loop_at_the_tracks_rate(session: Session) -> None:
    loop = session.loop(IMPORTED).bass.samples
    assert loop.size == round(2 * 4 * 60 / 128 * RATE)
    spectrum = session.loop(IMPORTED).bass.spectrum
    assert spectrum.energy(78, 87) > 0.9 * spectrum.energy(20, 2000)


def test_ducking_switched_off_leaves_the_bass_alone(session: Session) -> None:
    answer = session.answer(TrackState.of(ducking=False))
    assert np.array_equal(answer.ducked_loop.samples, answer.bass_loop.samples)
    assert answer.before is answer.after
    assert answer.duck.returns_ms is None


def test_the_mix_is_the_sum_of_its_parts(session: Session) -> None:
    answer = session.answer(TrackState())
    both = answer.kick_loop.samples + answer.ducked_loop.samples
    assert np.array_equal(answer.mix_after.samples, both)
    gain = 10 ** (answer.gain_db / 20)
    assert np.allclose(answer.ducked_loop.samples, answer.bass_loop.samples * gain, rtol=1e-6, atol=1e-12)


def test_solving_clears_the_standard_track(session: Session) -> None:
    together = MadeBass(recipe=BassRecipe(pattern=PATTERNS["with the kick"]))
    state = TrackState.of(bass=together)
    solution = session.solve_ducking(state)
    answer = session.answer(state.with_duck(duck=solution.recipe))
    assert solution.complete
    before, after = answer.before.collision_ms, answer.after.collision_ms
    assert before is not None
    assert after is not None
    assert before > 5
    assert after <= 0.1 * before + 0.5
    assert (answer.duck.slack_ms or 1) > 0
