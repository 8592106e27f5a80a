"""Pitch under rooms and hum: known pitches, simulated rooms (exponential noise, any text on room acoustics)."""

import numpy as np
import pytest

from bench.rooms import LONG, SHORT, in_room, told, with_hum
from juglant.core.measure.hit import measure
from tests.signals import RATE


def test_long_sounds_in_rooms_keep_their_pitch() -> None:
    found = [told(in_room(seed, LONG))[0] for seed in range(20)]
    stated = np.abs([cents for cents in found if cents is not None])
    assert stated.size >= 17
    assert np.mean(stated < 5) >= 0.8
    assert np.median(stated) < 2
    assert stated.max() < 25


def test_a_short_sound_that_a_room_drowns_is_doubted_rather_than_wrong() -> None:
    for seed in range(12):
        cents, sigma = told(in_room(seed, SHORT))
        if cents is not None:
            assert abs(cents) < max(3 * sigma, 5.0)


@pytest.mark.parametrize("seed", range(12))
def test_a_hum_is_never_the_note(seed: int) -> None:
    cents, _ = told(with_hum(seed))
    assert cents is None or abs(cents) < 5


def test_silence_in_front_and_a_dry_copy_say_the_same() -> None:
    x = in_room(3, LONG).samples
    late = np.concatenate([np.zeros(round(0.014 * RATE)), x])
    first, second = measure(x, RATE).hit, measure(late, RATE).hit
    assert first.fundamental_hz == pytest.approx(second.fundamental_hz)
    assert first.sweep_semitones == pytest.approx(second.sweep_semitones)
