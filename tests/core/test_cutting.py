"""What is said of a take, and how takes become one hit."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from juglant.core.hits.making import made
from juglant.core.hits.render import strokes_of
from juglant.core.measure.hit import measure
from juglant.core.measure.takenumbers import guess_job, reaches, take_numbers, velocity_groups
from juglant.core.measure.takes import Cut, piece_of, zero_before
from juglant.core.recipes.hit import Hit, Imported, Take
from juglant.core.recipes.starts import STARTS
from tests.signals import RATE, noise, ring, silence, sine


@pytest.mark.parametrize(
    ("kind", "name", "job"),
    # Common practice: a kick is deepest and sharp, a hat fast, high and noise-like, a tom has a
    # pitch in the middle, a snare is short, sharp and higher than a kick.
    [
        ("kick", "short knock", "kick"),
        ("kick", "long and tuned", "kick"),
        ("snare", "full", "snare"),
        ("clap", "few hands", "snare"),
        ("hat", "closed", "hat"),
        ("percussion", "hand on a drum", "tom"),
        ("hat", "crash", "texture"),
    ],
)
def test_made_sounds_are_given_the_job_that_they_were_made_for(kind: str, name: str, job: str) -> None:
    guess = guess_job(measure(made(STARTS[kind][name], 120.0), RATE).hit)
    assert guess.job == job, guess.reasons
    assert guess.reasons


def test_a_slow_swell_is_a_texture() -> None:
    swell = sine(300, 1.2) * np.minimum(1.0, np.arange(round(1.2 * RATE)) / 20_000)
    assert guess_job(measure(swell, RATE).hit).job == "texture"


def test_a_take_says_how_strong_it_is_and_how_noisy_the_room_was() -> None:
    x = np.concatenate([0.005 * noise(0.2) / 0.2, 0.5 * ring(220, 200, 0.4)])
    numbers = take_numbers(x, RATE, Cut(200.0, 200.0, 600.0))
    assert numbers.level_dbfs == pytest.approx(-6.2, abs=0.3)
    # Noise of 0.005 RMS under a peak of 0.5: 40 dB.
    assert numbers.noise_before_db == pytest.approx(-40.0, abs=1.0)
    assert numbers.note == "A3"
    assert numbers.length_ms == pytest.approx(400.0)
    first = take_numbers(x[round(0.2 * RATE) :], RATE, Cut(0.0, 0.0, 400.0))
    assert first.noise_before_db is None


@given(st.integers(2000, 5000), st.floats(30.0, 400.0))
def test_a_cut_is_drawn_back_to_the_crossing_before_it(frame: int, hz: float) -> None:
    x = np.sin(2 * np.pi * hz * np.arange(6000) / RATE + 0.3)
    at = zero_before(x, frame, reach=round(RATE / hz))
    assert at <= frame
    assert np.signbit(x[at]) != np.signbit(x[at - 1])


def test_without_a_crossing_in_reach_the_cut_stays() -> None:
    assert zero_before(np.ones(100), 60, 20) == 60


def test_a_piece_ends_at_nought_and_keeps_its_channels() -> None:
    x = np.ones((RATE, 2))
    piece = piece_of(x, RATE, Cut(100.0, 100.0, 150.0))
    assert piece.shape == (2400, 2)
    assert piece[-1] == pytest.approx([0.0, 0.0], abs=1e-9)
    assert np.all(piece[:2300] == 1.0)
    # The recording itself is not touched.
    assert np.all(x == 1.0)


@given(st.lists(st.floats(-60.0, 0.0), min_size=1, max_size=24))
def test_every_take_is_in_one_group_and_groups_fall_in_velocity(levels: list[float]) -> None:
    groups = velocity_groups(levels)
    assert sorted(take for group in groups for take in group) == list(range(len(levels)))
    tops = [levels[group[0]] for group in groups]
    assert tops == sorted(tops, reverse=True)
    for group in groups:
        assert all(levels[group[0]] - levels[take] <= 3.0 + 1e-9 for take in group)
    up_to = reaches(groups, levels)
    assert up_to[0] == 1.0
    assert len(up_to) == len(groups)
    assert all(0.0 < one <= 1.0 for one in up_to)
    assert up_to == sorted(up_to, reverse=True)


def test_a_hit_of_takes_has_a_stroke_for_each() -> None:
    source = Imported(
        audio="a" * 64, name="hard",
        takes=(
            Take(audio="a" * 64, name="hard 2"),
            Take(audio="a" * 64, name="soft", up_to=0.5),
            Take(audio="a" * 64, name="soft 2", up_to=0.5),
        ),
    )  # fmt: skip
    assert strokes_of(Hit.of(source)) == [
        ("_to100_rr1", 1.0, 0),
        ("_to100_rr2", 1.0, 1),
        ("_to050_rr1", 0.5, 0),
        ("_to050_rr2", 0.5, 1),
    ]
    assert strokes_of(Hit()) == [("", 1.0, 0)]


def test_a_silent_stretch_has_no_job_but_a_word() -> None:
    numbers = take_numbers(
        np.concatenate([silence(0.3), 1e-7 * noise(0.1)]), RATE, Cut(300.0, 300.0, 400.0)
    )
    assert numbers.note is None
    assert numbers.job == "texture"
