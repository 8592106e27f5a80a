"""Key, tempo and drum map of generated loops: what was put in must come out, or be doubted."""

from functools import partial

import numpy as np
import pytest

from bench.chords import drums_alone, played_loop
from bench.drumloops import loop, programmed, scored, scored_others
from bench.lines import bass_loops
from bench.loops import RATE, all_keys, is_key, make_loop
from juglant.core.measure.reference import Reference, reference
from tests.signals import noise

Heard = list[tuple[int, str, float, Reference]]


@pytest.fixture(scope="module")
def heard() -> Heard:
    return [(tonic, mode, bpm, reference(x, RATE)) for tonic, mode, bpm, x in all_keys()]


def test_at_least_22_of_24_keys_are_right_and_the_others_doubted(heard: Heard) -> None:
    # Profiles: Krumhansl & Kessler 1982. i VI III VII is also vi IV I V of its relative major.
    wrong = [found for tonic, mode, _, found in heard if not is_key(found.key, tonic, mode)]
    assert len(wrong) <= 2
    for found in wrong:
        assert found.key_confidence < 0.5
    for tonic, mode, _, found in heard:
        assert is_key(found.key, tonic, mode) or is_key(found.other_key, tonic, mode)


def test_every_tempo_is_met(heard: Heard) -> None:
    for _, _, bpm, found in heard:
        assert found.bpm == pytest.approx(bpm, abs=0.05)
        assert found.bpm_confidence > 0.5


def test_the_drum_map_is_the_pattern(heard: Heard) -> None:
    """A kick on every beat, hats between: nine in ten of each, and little else."""
    kicks = hats = false = 0
    for _, _, _, found in heard:
        struck = [
            {(hit.bar, hit.beat) for hit in found.hits if kind in hit.kinds} for kind in ("kick", "hat")
        ]
        kicks += len({(bar, float(beat)) for bar in range(1, 5) for beat in range(1, 5)} & struck[0])
        hats += sum(beat % 1 == 0.5 for _, beat in struck[1])
        false += sum(beat % 1 != 0 for _, beat in struck[0])
        # Ears set a drum within some ten milliseconds of its place (common practice).
        assert np.median([abs(hit.off_ms) for hit in found.hits]) < 12
    assert kicks >= 0.9 * 16 * len(heard)
    assert hats >= 0.9 * 16 * len(heard)
    assert false <= 0.1 * kicks


def test_recorded_kits_are_told_apart() -> None:
    """Recorded General MIDI kits in four patterns: the score that the bench prints, on four kits."""
    score = scored(partial(loop, music_db=None), (0, 8, 16, 25))
    for lane, least in (("kick", 0.95), ("snare", 0.95), ("hat", 0.9)):
        there, right, false = score[lane]
        assert right >= least * there, lane
        assert false <= 0.1 * right, lane


@pytest.mark.parametrize("music", [False, True])
def test_soft_hats_are_heard_over_kicks_and_a_plucked_bass_is_no_kick(music: bool) -> None:
    """Patterns other than those above; without a bass one of them is without a kick, too. A hat that is
    struck with a snare 10 dB louder is not heard beside it (common practice).
    """
    score = scored_others([seed for seed in range(12) if not music or seed % 6 != 4], music=music)
    for lane, least, most in (("kick", 0.9, 0.1), ("snare", 0.8, 0.15), ("hat", 0.7, 0.1)):
        there, right, false = score[lane]
        assert right >= least * there, lane
        assert false <= most * right, lane


def test_a_clap_stands_for_the_snare_on_a_drum_machine() -> None:
    """Common practice: where no snare is, the clap has its place. Invented sounds in the four patterns."""
    score = scored(lambda pattern, kit, bpm, seed: programmed(pattern, bpm, 2 * seed + 1), (0, 8, 16))
    for lane in ("kick", "snare", "hat"):
        there, right, false = score[lane]
        assert right >= 0.9 * there, lane
        assert false <= 0.1 * right, lane


@pytest.mark.parametrize("seed", [0, 17, 45, 62])
def test_a_bass_alone_tells_its_key(seed: int) -> None:
    ((tonic, mode, x),) = bass_loops([seed])
    found = reference(x, 48_000)
    assert is_key(found.key, tonic, mode)


def test_recorded_chords_over_a_bass_and_drums_tell_their_key() -> None:
    """Recorded General MIDI instruments: the loops that the bench prints, twelve of them."""
    right = named = 0
    for seed in range(0, 48, 4):
        tonic, mode, _, x = played_loop(seed + seed // 4 % 4)
        found = reference(x, 48_000)
        is_right = is_key(found.key, tonic, mode)
        right += is_right
        named += is_right or is_key(found.other_key, tonic, mode)
        assert is_right or found.key_confidence < 0.5
    assert right >= 10
    assert named >= 11


@pytest.mark.parametrize("seed", [0, 1, 2, 3])
def test_drums_alone_have_no_key(seed: int) -> None:
    found = reference(drums_alone(seed), 48_000)
    assert found.key is None
    assert found.reasons["key"] == "it has no clear tones"


def test_without_drums_the_key_is_still_heard() -> None:
    found = reference(make_loop(7, "major", 120, drums=False), RATE)
    assert is_key(found.key, 7, "major")


def test_what_says_nothing_is_not_made_to() -> None:
    for x, why in ((np.zeros(RATE), "silent"), (np.zeros(100), "half a second")):
        found = reference(x, RATE)
        assert (found.bpm, found.key, found.hits) == (None, None, [])
        assert why in found.reasons["key"]
    hiss = reference(noise(5.0, rate=RATE), RATE)
    assert (hiss.bpm, hiss.key) == (None, None)
    assert hiss.reasons["bpm"]
    assert "no clear tones" in hiss.reasons["key"]


def test_speech_is_doubted() -> None:
    # As speech is: bursts of gliding, buzzing tones at uneven times.
    rng = np.random.default_rng(4)
    spoken = np.zeros(6 * RATE)
    at = 0.0
    while at < 5.5:
        t = np.arange(round(rng.uniform(0.08, 0.3) * RATE)) / RATE
        hz = rng.uniform(95, 160) * (1 + rng.uniform(-0.5, 0.5) * t)
        phase = 2 * np.pi * np.cumsum(hz) / RATE
        voice = np.sum([np.sin(n * phase) / n for n in range(1, 25)], axis=0) * np.hanning(t.size)
        start = round(at * RATE)
        end = min(spoken.size, start + t.size)
        spoken[start:end] += 0.2 * voice[: end - start]
        at += rng.uniform(0.15, 0.6)
    talk = reference(spoken, RATE)
    assert talk.bpm is None or talk.bpm_confidence < 0.6
    assert talk.key is None or talk.key_confidence < 0.6
