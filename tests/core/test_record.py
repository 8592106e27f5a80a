"""A record's low end, on loops whose kick, ducking and spectrum are known; and what is said of two of them."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import soundfile

from bench.tracks import clean, hz_of, kick, tone
from juglant.core.errors import UserError
from juglant.core.lowend.line import line_of
from juglant.core.lowend.session import Session
from juglant.core.measure.record import Record, differences, kicks_in, record
from juglant.core.process.filters import around_loop_by
from juglant.files.passage import passage
from tests.shell import as_json, run
from tests.signals import RATE, Array

BPM, BEATS = 126.0, 32


def _loop(depth_db: float, back_ms: float, kick_ms: float = 180.0, bass_db: float = -16.0) -> Array:
    """Kicks on every beat over a held low note that is down at each and back after some ms, eased in dB."""
    beat = 60 / BPM
    frames = round(BEATS * beat * RATE)
    time = np.arange(frames) / RATE
    since = (time % beat) * 1000
    share = 0.5 + 0.5 * np.cos(np.pi * np.clip((since - 0.4 * back_ms) / (0.6 * back_ms), 0.0, 1.0))
    bass = np.sin(2 * np.pi * 55.0 * time) * 10 ** ((bass_db - depth_db * share) / 20)
    out = bass.copy()
    hit = kick(hz_of(33), kick_ms, click=0.4)
    for n in range(BEATS):
        start = round(n * beat * RATE)
        out[start : start + hit.size] += hit[: frames - start]
    return np.asarray(out)


@pytest.mark.thorough
@pytest.mark.parametrize(("depth_db", "back_ms"), [(12.0, 260.0), (18.0, 300.0), (8.0, 240.0)])
def test_the_ducking_is_read_off_the_level_over_the_kicks(depth_db: float, back_ms: float) -> None:
    found = record(_loop(depth_db, back_ms, kick_ms=120.0), RATE)
    assert found.bpm == pytest.approx(BPM, abs=0.5)
    assert found.kicks == BEATS
    assert found.ducking_depth_db == pytest.approx(depth_db, abs=2.5)
    # Back within 1 dB: a little before it is all back.
    assert found.ducking_return_ms == pytest.approx(back_ms, abs=45.0)


@pytest.mark.thorough
@pytest.mark.parametrize(
    ("genre", "n"),
    # Of the first the bass between the beats is louder than the kick.
    [
        ("house", 3), ("house", 40), ("techno", 41), ("trap", 42), ("trance", 43), ("house", 44),
        ("techno", 45), ("trap", 46), ("trance", 47),
    ],
)  # fmt: skip
def test_kicks_are_found_in_whole_tracks(genre: str, n: int) -> None:
    track = clean(genre, n)
    session, state = Session(track.load), track.state
    loop = session.parts.together([one.heard for one in session.sounding(state)], state).mono
    length_ms = loop.size / RATE * 1000
    starts = line_of(state).starts(state.kick.id)
    there = [at + length_ms * turn for turn in range(3) for at in starts]
    found = kicks_in(np.tile(loop, 3), RATE, state.brief.bpm)
    near = [min(abs(one - at) for at in there) < 30.0 for one in found]
    assert all(near)
    assert len(found) >= 0.9 * len(there)


def test_a_kick_is_as_long_wherever_in_the_bar_a_passage_begins() -> None:
    # Gaps of two and a half and of one and a half beats, whichever comes first.
    beat, hit, low = 60 / BPM, kick(62.0, 400.0, click=0.3), 0.2 * tone(31, 0.3 * 60 / BPM, "sub")
    x = np.zeros(round(24 * beat * RATE) + RATE)
    places = sorted(4 * bar + at for bar in range(6) for at in (0.0, 2.5))
    for one, at in [(hit, at) for at in places] + [(low, at + 1.0) for at in places]:
        start = round(at * beat * RATE)
        x[start : start + one.size] += one
    first, later = (
        record(x, RATE, BPM, "A minor", [1000 * at * beat for at in places[n:]]) for n in (0, 1)
    )
    assert first.kick_length_ms is not None
    assert later.kick_length_ms == pytest.approx(first.kick_length_ms, abs=2.0)
    assert later.kick_over_bass_db == pytest.approx(first.kick_over_bass_db, abs=0.5)


def test_one_side_and_the_same_on_both_are_one_record() -> None:
    # Both leave both loudspeakers: 3 dB between their loudnesses by ITU-R BS.1770 are no difference.
    x = _loop(12.0, 260.0)[: 8 * RATE]
    mono, both = (record(one, RATE, BPM, "A minor") for one in (x, np.stack([x, x], axis=1)))
    assert mono.lufs == pytest.approx(both.lufs, abs=0.01)
    assert mono.low_db == pytest.approx(both.low_db, abs=0.01)
    assert differences(mono, both) == []


@pytest.mark.thorough
def test_a_longer_kick_is_longer_and_a_deeper_ducking_deeper() -> None:
    a, b = record(_loop(8.0, 260.0, 120.0), RATE), record(_loop(16.0, 260.0, 120.0), RATE)
    said = {one.name: one for one in differences(a, b)}
    ducking = said["ducking_depth_db"]
    assert ducking.difference == pytest.approx(8.0, abs=2.5)
    assert f"duck by {b.ducking_depth_db:.1f} dB" == ducking.fix
    assert "more" in ducking.said
    back = {one.name: one for one in differences(b, a)}
    assert back["ducking_depth_db"].difference == pytest.approx(-ducking.difference)


@pytest.mark.thorough
def test_levels_are_compared_at_the_same_loudness() -> None:
    x = _loop(12.0, 260.0)
    a = record(x, RATE)
    assert differences(a, a) == []
    louder = {one.name for one in differences(a, record(x * 2.0, RATE))}
    # 6 dB louder, and nothing else.
    assert louder == {"lufs", "true_peak_dbtp"}
    # A bell of 9 dB at 1 kHz, an octave wide, as the cookbook's shape has it about.
    noise = np.random.default_rng(1).standard_normal(x.size) * 0.02
    lifted = around_loop_by(
        noise, lambda hz: 1 + 1.8 * np.exp(-(np.log2(np.maximum(hz, 1) / 1000) ** 2) * 8), RATE
    )
    found = {
        one.name: one.difference for one in differences(record(x + noise, RATE), record(x + lifted, RATE))
    }
    assert max(found, key=lambda name: found[name] if name.startswith("third") else 0.0) == "third_1000_hz"


@pytest.mark.thorough
def test_what_is_small_is_not_said_and_the_largest_comes_first() -> None:
    one = record(_loop(12.0, 260.0), RATE)
    assert one.kick_over_bass_db is not None
    near = replace(one, kick_over_bass_db=one.kick_over_bass_db + 0.74)
    apart = replace(one, kick_over_bass_db=one.kick_over_bass_db + 0.76, lufs=one.lufs - 8.0)
    assert differences(one, near) == []
    assert [each.name for each in differences(one, apart)] == ["lufs", "kick_over_bass_db"]


@pytest.mark.thorough
def test_without_a_kick_or_a_bass_it_says_so() -> None:
    quiet: Record = record(np.random.default_rng(1).standard_normal(8 * RATE) * 0.1, RATE)
    assert quiet.kick_length_ms is None
    assert quiet.reasons
    alone = record(_loop(0.0, 200.0, bass_db=-90.0), RATE)
    assert alone.ducking_depth_db is None
    assert alone.reasons["ducking_depth_db"] == "there is no bass with it"
    assert alone.kick_length_ms is not None


@pytest.mark.thorough
def test_a_long_record_is_looked_at_where_its_low_end_is(tmp_path: Path) -> None:
    loop = _loop(12.0, 260.0)
    quiet = 0.05 * np.random.default_rng(2).standard_normal(70 * RATE)
    long = np.concatenate([quiet, np.tile(loop, 4), quiet[: 30 * RATE]])
    soundfile.write(tmp_path / "long.flac", long, RATE)
    found = passage(tmp_path / "long.flac")
    assert found.whole_s == pytest.approx(long.size / RATE, abs=0.1)
    assert 69 <= found.from_s <= 102
    soundfile.write(tmp_path / "too long.flac", np.zeros(901 * 8000), 8000)
    with pytest.raises(UserError, match="up to 15 min"):
        passage(tmp_path / "too long.flac")
    soundfile.write(tmp_path / "short.wav", loop, RATE)
    told = as_json(tmp_path, "compare", "long.flac", "short.wav", "--bpm", "126")
    assert told["a"]["from_s"] == found.from_s
    assert told["b"]["bpm"] == 126.0
    assert told["a"]["ducking_depth_db"] == pytest.approx(told["b"]["ducking_depth_db"], abs=1.0)
    assert "cannot be read" in run(tmp_path, "compare", "long.flac", "none.wav", code=2).stderr
