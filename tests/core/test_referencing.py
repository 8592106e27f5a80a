"""A track against records: what is different, ranges of several, and moves that bring it nearer."""

from dataclasses import replace
from typing import Any

import numpy as np
import pytest

from bench.tracks import clean
from juglant.core.errors import UserError
from juglant.core.findings import findings
from juglant.core.lowend.line import line_of
from juglant.core.lowend.session import Session
from juglant.core.measure.record import Record, record
from juglant.core.recipes.track import TrackState
from juglant.core.referencing.against import (
    against,
    as_finding,
    nearer,
    nearest_of,
    track_record,
    way_of,
)
from juglant.core.referencing.passages import loop_of
from juglant.core.rooms.judged import everything
from juglant.demo.scenario import TRACKS
from tests.signals import RATE

pytestmark = pytest.mark.thorough


@pytest.fixture(scope="module")
def session() -> Session:
    return Session()


@pytest.fixture(scope="module")
def mine(session: Session) -> Record:
    return track_record(session, STATE)


STATE = TRACKS["Cobnut Rain"]


def test_a_track_is_no_different_from_itself_as_a_record(session: Session, mine: Record) -> None:
    loop = everything(session, STATE).samples
    again = record(np.concatenate([loop] * 3), RATE, STATE.brief.bpm, str(STATE.brief.key))
    # Its kicks are found where they were written.
    assert again.kicks == mine.kicks * 3 // 5
    assert against(mine, [again]) == []
    with pytest.raises(UserError, match="no reference"):
        against(mine, [])


def test_what_is_different_is_told_by_its_numbers_the_largest_first(mine: Record) -> None:
    other = replace(mine, kick_length_ms=250.0, crest_db=mine.crest_db + 1.5, bpm=90.0, lufs=-6.0)
    found = against(mine, [other])
    assert [one.name for one in found] == ["kick_length_ms", "crest_db"]
    assert found[0].said == "In the reference the kick is 144 ms shorter: 250 against 394 ms."
    told = as_finding(found[0])
    assert told.fixes == {"nearer": "Make the kick as long"}
    assert way_of(found[1]) is None
    assert as_finding(found[1]).fixes == {}


def test_several_records_are_a_range_and_inside_it_nothing_is_told(mine: Record) -> None:
    low, high = (replace(mine, kick_length_ms=ms) for ms in (300.0, 500.0))
    assert against(mine, [low, high]) == []
    both = [replace(mine, kick_length_ms=ms) for ms in (300.0, 350.0)]
    [one] = against(mine, both)
    assert one.b == 350.0
    assert "In the references" in one.said
    assert nearest_of(mine, both).third_octaves_db == mine.third_octaves_db
    unknown = replace(mine, kick_length_ms=None)
    assert against(mine, [unknown, low])[0].b == 300.0


def test_bands_above_the_low_end_are_a_songs_own_matter(mine: Record) -> None:
    high = {name: db + 20.0 for name, db in mine.third_octaves_db.items()}
    found = {one.name for one in against(mine, [replace(mine, third_octaves_db=high)])}
    assert "third_315_hz" in found
    assert not any(float(name.split("_")[1]) > 350.0 for name in found)


@pytest.mark.parametrize(
    ("name", "wanted"),
    [("kick_length_ms", 120.0), ("kick_over_bass_db", 12.0), ("kick_over_bass_db", 2.0)],
)
def test_a_move_brings_one_number_nearer_and_opens_nothing(
    session: Session, name: str, wanted: float
) -> None:
    told: dict[str, Any] = {name: wanted}
    state = TrackState()
    effect = nearer(session, state, [replace(track_record(session, state), **told)], name)
    assert effect.after is not None
    assert abs(effect.after - wanted) < 0.3 * abs(effect.before - wanted)
    assert getattr(track_record(session, effect.state), name) == pytest.approx(effect.after)
    was, is_ = ({one.id for one in findings(session, session.answer(one))} for one in (state, effect.state))
    assert is_ <= was


def test_a_move_that_does_no_good_is_refused_with_its_reason(session: Session, mine: Record) -> None:
    with pytest.raises(UserError, match="no difference that one move"):
        nearer(session, STATE, [replace(mine, crest_db=mine.crest_db + 9)], "crest_db")
    # A kick of 300 ms comes out as asked, and is not offered: the bass would cover it.
    plain = TrackState()
    long = replace(track_record(session, plain), kick_length_ms=300.0)
    with pytest.raises(UserError, match="is not worth it"):
        nearer(session, plain, [long], "kick_length_ms")
    # Out of reach: it says how far it came. Out of measure: that there is nothing to go by.
    far = replace(long, kick_length_ms=5000.0)
    with pytest.raises(UserError, match="led from 104 to 340 ms, which is not much nearer to 5000"):
        nearer(session, plain, [far], "kick_length_ms")
    with pytest.raises(UserError, match="the number is not measured after it"):
        nearer(session, plain, [replace(long, kick_over_bass_db=90.0)], "kick_over_bass_db")
    # A line that is muted takes no ducking: nothing gets nearer.
    voice = STATE.voices[0]
    muted = STATE.with_part(voice.model_copy(update={"mute": True}))
    alone = track_record(session, muted)
    assert alone.ducking_depth_db is None
    with pytest.raises(UserError, match="no difference that one move"):
        nearer(session, muted, [mine], "ducking_depth_db")


def test_a_sub_that_differs_between_its_sides_is_made_mono_by_the_sum(session: Session) -> None:
    voice = STATE.voices[0]
    wide = STATE.with_part(
        voice.model_copy(update={"place": voice.place.model_copy(update={"width": 1.0, "pan": -1.0})})
    )
    mine = track_record(session, wide)
    assert mine.sub_correlation == pytest.approx(0.25, abs=0.1)
    effect = nearer(session, wide, [replace(mine, sub_correlation=1.0)], "sub_correlation")
    assert effect.after == pytest.approx(1.0, abs=0.02)


@pytest.mark.parametrize(("genre", "n"), [("house", 3), ("trance", 5), ("techno", 2)])
def test_what_is_played_of_a_record_is_whole_bars_from_a_kick_on(genre: str, n: int) -> None:
    track = clean(genre, n)
    loop = everything(Session(track.load), track.state).samples
    x = np.concatenate([np.roll(loop, -5000)] * 6)
    found = record(x, RATE)
    assert found.bpm is not None
    start, frames, beats = loop_of(x, RATE, found)
    assert beats in (4, 8, 16, 32)
    assert frames / RATE * found.bpm / 60 == pytest.approx(beats, rel=1e-3)
    assert start + frames <= x.shape[0]
    # It begins on a kick.
    kicks = line_of(track.state).starts(track.state.kick.id)
    at_ms = (start + 5000) % loop.shape[0] / RATE * 1000
    assert min(abs(at_ms - one) for one in kicks) < 30.0


def test_a_record_without_a_tempo_is_played_as_it_is() -> None:
    state = TrackState()
    still = replace(track_record(Session(), state), bpm=None)
    assert loop_of(np.zeros(48000), RATE, still) == (0, 48000, 1)
