"""Cutting recordings, against known onsets and general onset detection."""

from itertools import pairwise

import librosa
import numpy as np
import pytest

from bench.recordings import RATE, f_measure, recording
from bench.takes import bass_loop, cut_well, loops_cut
from bench.takes import recording as recorded
from juglant.core.measure import takes
from tests.signals import noise

RECORDINGS = [recording(seed) for seed in range(40, 45)]


def test_onsets_are_found_within_5_ms_and_ahead_of_librosa() -> None:
    ours, theirs = [], []
    for one in RECORDINGS:
        ours.append(f_measure(takes.onsets_ms(one.samples, RATE), one.onsets_ms, 5.0)[0])
        found = librosa.onset.onset_detect(
            y=one.samples.astype(np.float32), sr=RATE, hop_length=128, units="time"
        )
        theirs.append(f_measure(list(1000 * found), one.onsets_ms, 5.0)[0])
    assert np.mean(ours) >= 0.98
    assert np.mean(ours) > np.mean(theirs)


@pytest.mark.parametrize("one", RECORDINGS[:2])
def test_every_cut_lies_on_a_zero_crossing_just_before_its_transient(one: object) -> None:
    x = one.samples  # type: ignore[attr-defined]
    heard = x
    for where in takes.cut(x, RATE):
        frame = round(where.start_ms / 1000 * RATE)
        assert np.signbit(heard[frame]) != np.signbit(heard[frame - 1])
        assert 0 <= where.onset_ms - where.start_ms <= 4.0
        assert where.end_ms > where.onset_ms


def test_takes_do_not_reach_into_each_other_and_end_when_their_tail_is_gone() -> None:
    found = takes.cut(RECORDINGS[0].samples, RATE)
    assert all(a.end_ms <= b.start_ms + 1e-6 for a, b in pairwise(found))
    lone = np.zeros(2 * RATE)
    t = np.arange(RATE) / RATE
    lone[RATE // 2 : RATE // 2 + RATE] = np.sin(2 * np.pi * 180 * t) * 10 ** (-3 * t / 0.2)
    [only] = takes.cut(lone + 1e-4 * noise(2.0), RATE)
    # As loud as the room, RMS 1e-4, after 257 ms.
    assert only.end_ms - only.onset_ms == pytest.approx(257, abs=8)


def test_takes_begin_before_their_transient_and_end_where_they_sink_into_the_room() -> None:
    late, off = [], []
    for seed in range(9):
        _, extra, starts, ends = cut_well(seed)
        assert extra <= 0
        late += starts
        off += ends
    assert np.mean(np.array(late) <= 0.2) >= 0.95
    assert np.mean(np.abs(off) <= 20.0) >= 0.9


def test_a_take_begins_in_silence_however_loud_the_room() -> None:
    x, strokes = recorded(3)
    for where, one in zip(takes.cut(x, RATE), strokes, strict=True):
        assert abs(takes.piece_of(x, RATE, where)[0]) < 0.01 * one.peak


def test_a_bass_loop_is_cut_at_its_notes_and_each_take_has_its_pitch() -> None:
    count, whole, pitched = loops_cut(range(6))
    assert whole >= count - 1
    assert pitched >= 0.95 * 8 * count


def test_notes_of_a_bass_line_lie_as_far_apart_as_is_asked() -> None:
    x, onsets, _ = bass_loop(0)
    gap = onsets[1] - onsets[0]
    assert len(takes.cut(x, RATE, min_gap_ms=gap - 20)) == 8
    assert len(takes.cut(x, RATE, min_gap_ms=gap + 20)) == 4


def test_a_higher_threshold_and_a_wider_gap_find_less() -> None:
    x = RECORDINGS[1].samples
    usual = takes.onsets_ms(x, RATE)
    assert len(takes.onsets_ms(x, RATE, threshold_db=25.0)) < len(usual)
    apart = takes.onsets_ms(x, RATE, min_gap_ms=400.0)
    assert len(apart) < len(usual)
    assert np.min(np.diff(apart)) > 380


def test_silence_and_steady_noise_hold_no_takes() -> None:
    assert takes.cut(np.zeros(RATE), RATE) == []
    assert takes.cut(noise(1.5, 4), RATE) == []
