"""What kick and bass give up to each other, and what that does."""

import numpy as np
import pytest
from scipy import signal

from juglant.core.lowend.carving import carved, pre_ringing_db, response, root_hz
from juglant.core.lowend.meeting import BASS, BOTH, KICK, NOTHING, meeting
from juglant.core.lowend.proposing import numbers, proposals
from juglant.core.lowend.separation import Degree, checked, phases, solve
from juglant.core.lowend.session import Session
from juglant.core.lowend.trial import CANCELLING_DB, plain
from juglant.core.process import filters, lowpart
from juglant.core.recipes.bass import BassRecipe
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.hit import Hit, MadeKick
from juglant.core.recipes.kick import KickRecipe
from juglant.core.recipes.notes import Note
from juglant.core.recipes.parts import MadeBass
from juglant.core.recipes.separate import BassCarve, KickCarve, SeparateRecipe
from juglant.core.recipes.track import TrackState
from tests.signals import RATE, noise
from tests.tracks import changed

SESSION = Session()
BRIEF = Brief(bpm=120.0, chord_roots=("tonic", "tonic"), cure="carving first")
HELD = MadeBass(recipe=BassRecipe(octave=1, pattern=(Note(at=0, beats=4),), wave=1.0, sustain_db=-2.0))
MUSH = TrackState.of(
    brief=BRIEF,
    kick=Hit.of(MadeKick(recipe=KickRecipe(end_hz=50.0, decay_ms=300.0, length_ms=380.0))),
    bass=HELD,
    ducking=False,
)


def _solved(state: TrackState) -> list[Degree]:
    *steps, (done, choices) = list(solve(SESSION, state))
    told = [share for share, _ in steps]
    assert told == sorted(told)
    assert done == 1.0
    assert choices
    return choices


def test_neutral_settings_leave_both_as_they_are() -> None:
    x = noise(0.5)
    assert carved(x, BassCarve(), BRIEF, [0.0], RATE) is x
    assert np.allclose(carved(x, KickCarve(cut_hz=100.0), BRIEF, [], RATE), x, rtol=0, atol=1e-12)


def test_the_response_is_that_of_scipy() -> None:
    """The Audio EQ Cookbook's sections (W3C Note, 2021), as scipy evaluates them."""
    sections = np.vstack(
        [filters.steep("highpass", 62.0, 48, RATE), filters.cookbook("bell", 90, 1.2, RATE, -9)]
    )
    hz = np.geomspace(10, 20000, 200)
    _, theirs = signal.freqz_sos(sections, worN=2 * np.pi * hz / RATE)
    assert filters.response(sections, hz, RATE) == pytest.approx(theirs, abs=1e-9)


@pytest.mark.parametrize("phase", ["minimum", "linear"])
@pytest.mark.parametrize("slope", ["12", "24", "48"])
def test_a_highpass_is_three_db_down_at_its_corner_in_either_phase(phase: str, slope: str) -> None:
    """Butterworth (any signals text): −3.01 dB at the corner whatever the slope."""
    carve = KickCarve(highpass_hz=60.0, highpass_slope=slope, phase=phase)
    time = np.arange(2 * RATE) / RATE
    tone = np.sin(2 * np.pi * 60.0 * time)
    out = carved(tone, carve, BRIEF, [], RATE)
    assert 20 * np.log10(out.std() / tone.std()) == pytest.approx(-3.01, abs=0.02)
    in_step = float(out @ tone) / float(np.linalg.norm(out) * np.linalg.norm(tone))
    # 48 dB per octave turn the corner by a whole cycle.
    assert (in_step > 0.9999) == (phase == "linear" or slope == "48")


def test_linear_phase_leaves_the_transient_and_rings_before_it_by_what_is_said() -> None:
    click = np.zeros(RATE)
    click[RATE // 2] = 1.0
    rings = []
    for slope in ("12", "24", "48"):
        carve = KickCarve(highpass_hz=60.0, highpass_slope=slope, phase="linear")
        out = carved(click, carve, BRIEF, [], RATE)
        assert np.argmax(np.abs(out)) == RATE // 2
        said = pre_ringing_db(carve, BRIEF, RATE)
        assert said is not None
        before = np.max(np.abs(out[: RATE // 2 - round(0.0005 * RATE)]))
        assert 20 * np.log10(before / out[RATE // 2]) == pytest.approx(said, abs=1.0)
        rings.append(said)
    assert max(rings) < -30
    assert pre_ringing_db(KickCarve(highpass_hz=60.0), BRIEF, RATE) is None


def test_a_shift_is_exact_to_a_fraction_of_a_frame_and_goes_round_the_loop() -> None:
    time = np.arange(RATE) / RATE
    tone = np.sin(2 * np.pi * 55.0 * time)
    out = carved(tone, BassCarve(shift_ms=1.55), BRIEF, [], RATE)
    assert np.allclose(out, np.sin(2 * np.pi * 55.0 * (time - 0.00155)), rtol=0, atol=1e-6)
    turned = carved(tone, BassCarve(polarity="inverted"), BRIEF, [], RATE)
    assert turned == pytest.approx(-tone, abs=1e-9)


def test_the_low_part_is_held_level_and_keeps_its_energy() -> None:
    time = np.arange(2 * RATE) / RATE
    swell = np.where(time < 1, 0.1, 0.5) * np.sin(2 * np.pi * 55 * time) + 0.05 * np.sin(
        2 * np.pi * 900 * time
    )
    out = carved(swell, BassCarve(steady_ratio=6.0), BRIEF, [], RATE)

    def step_db(x: np.ndarray) -> float:
        low = lowpart.band(x, 20.0, 150.0, RATE)
        quiet, loud = low[RATE // 4 : 3 * RATE // 4], low[5 * RATE // 4 : 7 * RATE // 4]
        return 20 * float(np.log10(loud.std() / quiet.std()))

    assert step_db(swell) == pytest.approx(14, abs=0.3)
    assert step_db(out) < 9
    assert lowpart.band(out, 20, 150, RATE).std() == pytest.approx(
        lowpart.band(swell, 20, 150, RATE).std(), rel=0.02
    )
    high = [lowpart.band(x, 600, 2000, RATE).std() for x in (swell, out)]
    assert high[1] == pytest.approx(high[0], rel=0.02)


def test_mid_copy_and_note_starts_add_above_and_nothing_below() -> None:
    bass = SESSION.parts.bass_loop(MUSH)
    plainly = bass.samples
    copied = carved(plainly, BassCarve(mid_copy_db=6.0), BRIEF, [], RATE) - plainly
    low, high = (lowpart.band(copied, *edges, RATE).std() for edges in ((20, 100), (300, 3000)))
    assert high > 20 * low
    started = carved(plainly, BassCarve(starts_db=-6.0), BRIEF, [500.0], RATE) - plainly
    assert np.flatnonzero(np.abs(started) > 1e-6)[0] == pytest.approx(0.5 * RATE, abs=5)
    assert np.max(np.abs(started)) == pytest.approx(0.5 * np.max(np.abs(plainly)), rel=0.15)
    assert np.max(np.abs(started[round(0.7 * RATE) :])) < 1e-4


def test_an_emphasis_lies_on_the_root_s_harmonic() -> None:
    """A1 is 55 Hz (ISO 16:1975); its third harmonic 165."""
    brief = Brief(tonic="A")
    assert root_hz(brief) == pytest.approx(55.0)
    gain = np.abs(response(BassCarve(lift_db=6.0, lift_harmonic="3"), brief, np.array([55.0, 165.0]), RATE))
    assert 20 * np.log10(gain[1]) == pytest.approx(6.0, abs=0.01)
    assert 20 * np.log10(gain[0]) < 0.4


def test_choices_go_from_barely_touched_to_fully_separated() -> None:
    choices = _solved(MUSH)
    shares = [choice.tried.collision_share for choice in choices]
    changes = [choice.tried.change_db for choice in choices]
    assert shares == sorted(shares, reverse=True)
    assert changes == sorted(changes)
    assert choices[0].name == "barely touched"
    assert choices[-1].name == "fully separated"
    assert shares[0] > 0.5
    assert shares[-1] <= 0.10
    # The kick owns the sub: the bass gives up more than the kick.
    assert choices[-1].tried.change_bass_db > choices[-1].tried.change_kick_db


@pytest.mark.thorough
def test_what_is_promised_is_what_is_measured_on_the_whole_sounds() -> None:
    for choice in _solved(MUSH):
        measured = checked(choice, SESSION, MUSH).tried
        assert measured.collision_share == pytest.approx(choice.tried.collision_share, abs=0.05)
        answer = SESSION.answer(MUSH.model_copy(update={"separate": choice.tried.recipe}))
        assert answer.before.collision_share == measured.collision_share


@pytest.mark.thorough
def test_a_bass_that_owns_the_sub_is_given_it() -> None:
    state = MUSH.model_copy(update={"brief": BRIEF.model_copy(update={"sub_owner": "bass"})})
    for choice in _solved(state)[1:]:
        assert choice.tried.recipe.bass.highpass_hz == 20.0
    ids = {one.id for one in proposals(SESSION, state)}
    assert "kick-highpass" in ids
    assert "bass-highpass" not in ids


def test_a_search_may_be_left_at_any_time() -> None:
    tried = []
    for done, choices in solve(SESSION, MUSH):
        tried.append(done)
        assert choices is None
        if done > 0.05:
            break
    assert len(tried) == 3


def test_a_cancelling_bass_is_turned_or_shifted_until_it_adds_up() -> None:
    """A copy in opposite phase cancels, in phase it gains 3 dB on the energies (coherent sums)."""
    kick = Hit.of(MadeKick(recipe=KickRecipe(
        end_hz=55.0, start_semitones=0.0, decay_ms=900.0, length_ms=480.0, click_db=-60.0,
    )))  # fmt: skip
    state = MUSH.with_kick(kick)
    now, *others = phases(SESSION, state)
    best = max(others, key=lambda one: one.summation_mean_db or -99)
    assert (best.summation_mean_db or -99) > (now.summation_mean_db or -99)
    separate = state.separate.model_copy(update={
        "bass": BassCarve(polarity=best.polarity, shift_ms=best.shift_ms)})  # fmt: skip
    mended = numbers(SESSION, state.model_copy(update={"separate": separate}))
    assert mended.overlap.summation_mean_db == pytest.approx(best.summation_mean_db, abs=0.15)
    choice = _solved(state)[0]
    assert (choice.tried.summation_worst_db or 0) >= min(CANCELLING_DB, now.summation_worst_db or 0)


def test_every_proposal_says_what_it_does_alone() -> None:
    found = {one.id: one for one in proposals(SESSION, MUSH)}
    before = numbers(SESSION, plain(MUSH))
    assert found["bass-highpass"].after.bass_bands_db["sub"] < before.bass_bands_db["sub"] - 3
    assert found["bass-highpass"].after.kick_bands_db == before.kick_bands_db
    assert found["mid-copy"].after.bass_bands_db["box"] > before.bass_bands_db["box"] + 1
    assert found["lift-2"].recipe.bass.lift_harmonic == "2"
    assert found["bass-highpass"].pre_ringing_db is None
    carved_state = MUSH.model_copy(update={"separate": found["bass-highpass"].recipe})
    linear = {one.id: one for one in proposals(SESSION, carved_state)}["linear-phase"]
    assert linear.pre_ringing_db is not None
    assert "bass-highpass" not in {one.id for one in proposals(SESSION, carved_state)}


def test_what_is_given_up_is_heard_in_every_part_that_follows() -> None:
    high = SeparateRecipe(bass=BassCarve(highpass_hz=120.0))
    state = MUSH.model_copy(update={"separate": high})
    answer, before = SESSION.answer(state), SESSION.answer(MUSH)
    assert answer.bass_loop.spectrum.energy(20, 60) < 0.02 * before.bass_loop.spectrum.energy(20, 60)
    assert answer.before.collision_share < before.before.collision_share  # type: ignore[operator]
    assert np.array_equal(answer.kick_loop.samples, before.kick_loop.samples)


def test_the_map_shows_who_is_heard_where() -> None:
    both = meeting(SESSION.answer(MUSH), 0)
    assert len(both.cells) == len(both.bands_hz) == 14
    rows = {round(hz): row for hz, row in zip(both.bands_hz, both.cells, strict=True)}
    assert BASS in rows[50]
    assert KICK in rows[100]
    assert both.met_share > 0.05
    silent = changed(MUSH, bass_mute=True)
    alone = meeting(SESSION.answer(silent), 1)
    assert {cell for row in alone.cells for cell in row} == {NOTHING, KICK}
    assert alone.met_share == 0
    apart = MUSH.model_copy(update={"separate": SeparateRecipe(bass=BassCarve(highpass_hz=200.0))})
    assert meeting(SESSION.answer(apart), 0).met_share < both.met_share
    assert {cell for row in both.cells for cell in row} == {NOTHING, KICK, BASS, BOTH}
