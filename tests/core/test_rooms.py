"""Places: their responses against published formulas, what is heard in them, what is judged of it."""

import numpy as np
import pyloudnorm
import pytest
from scipy import signal

from bench.tracks import clean
from juglant.core.findings import effect, findings, fixes
from juglant.core.findings.room import There, room_checks
from juglant.core.lowend.session import Session
from juglant.core.recipes.hit import Hit, MadeKick
from juglant.core.recipes.kick import KickRecipe
from juglant.core.recipes.parts import Stem
from juglant.core.recipes.room import Car, ClubSystem, Headphones, Laptop, Phone, Room, SmallClub
from juglant.core.recipes.track import TrackState
from juglant.core.rooms.exposure import exposure
from juglant.core.rooms.judged import headroom
from juglant.core.rooms.systems import direct, mode_hz, response_db
from juglant.core.rooms.through import low_db, matched, through
from juglant.demo.scenario import TRACKS
from tests.signals import RATE, Array, noise, silence, sine

HZ = np.geomspace(22.0, 1000.0, 120)
DRY = ClubSystem(hall_db=-40.0)


def butterworth_db(hz: Array, corner_hz: float, order: int) -> Array:
    # The definition of a Butterworth filter: |H|² = 1/(1 + (fc/f)^2n).
    return np.asarray(-10 * np.log10(1 + (corner_hz / hz) ** (2 * order)))


@pytest.mark.parametrize(
    ("room", "corner_hz"),
    [(Laptop(), 250.0), (Phone(), 400.0), (DRY, 35.0), (SmallClub(mode_db=0.0), 40.0)],
)
def test_what_plays_nothing_low_falls_as_a_butterworth_filter_of_fourth_order(
    room: Room, corner_hz: float
) -> None:
    assert np.abs(response_db(room, HZ, RATE) - butterworth_db(HZ, corner_hz, 4)).max() < 0.1


def test_the_halves_of_a_hand_over_are_6_db_down_and_add_up_flat() -> None:
    # Linkwitz & Riley, JAES 24, 1976: both −6.02 dB at the crossover, the sum an all-pass.
    found = direct(ClubSystem(lowest_hz=20.0, handover_hz=95.0), np.array([95.0, 1000.0]), RATE)
    assert found.sub is not None
    sub, tops = 20 * np.log10(np.abs(found.sub[0])), 20 * np.log10(np.abs(found.side[0]))
    assert sub == pytest.approx(-6.02, abs=0.05)
    assert tops == pytest.approx(-6.02, abs=0.05)
    assert 20 * np.log10(abs(found.mid[0])) == pytest.approx(0.0, abs=0.01)
    # At the hand-over its phase is turned by half a cycle against what lies far above.
    assert abs(np.angle(found.mid[0] / found.mid[1], deg=True)) > 150


def test_a_mode_lies_where_half_a_wave_fits_in_and_is_as_wide_as_its_decay_says() -> None:
    # Kuttruff, Room Acoustics: axial modes of a 7 m room at 24.5, 49.0, 73.5 Hz; half width 2.2/T.
    assert [round(n * mode_hz(7.0), 1) for n in (1, 2, 3)] == [24.5, 49.0, 73.5]
    room = SmallClub(length_m=3.5, mode_db=12.0, decay_s=0.5, lowest_hz=20.0)
    fine = np.linspace(30.0, 75.0, 9001)
    found = response_db(room, fine, RATE)
    assert fine[np.argmax(found)] == pytest.approx(49.0, abs=0.02)
    assert found.max() == pytest.approx(12.0, abs=0.15)
    # The cookbook's bell is as wide as its Q where it has half of its gain in dB.
    half = fine[found > 6.0]
    assert half[-1] - half[0] == pytest.approx(2.2 / 0.5, rel=0.03)


def test_a_cabin_and_headphones_lift_by_half_of_it_at_their_corner() -> None:
    # Audio EQ Cookbook: a shelf has half of its gain in dB at its corner.
    lift = Car(cabin_m=2.5, cabin_db=8.0, lowest_hz=20.0)
    at = np.array([mode_hz(2.5)])
    assert response_db(lift, at, RATE)[0] == pytest.approx(4.0 + butterworth_db(at, 20.0, 2)[0], abs=0.1)
    assert response_db(Headphones(bass_db=6.0), np.array([105.0]), RATE)[0] == pytest.approx(3.0, abs=0.1)


def test_a_loop_is_heard_as_if_it_had_always_been_running() -> None:
    x = noise(0.7)
    sections = signal.butter(4, 250.0, "highpass", fs=RATE, output="sos")
    peer = signal.sosfilt(sections, np.tile(x, 3))[-x.size :]
    heard = through(Laptop(), [x], RATE)[0]
    assert np.abs(heard[:, 0] - peer).max() < 1e-5 * np.abs(peer).max()
    assert np.array_equal(heard[:, 0], heard[:, 1])


def test_the_sub_of_a_club_is_one_for_both_sides_and_what_lies_above_is_not() -> None:
    for hz, least_db, most_db in ((40.0, -1.0, 1.0), (2000.0, 60.0, 400.0)):
        left = sine(hz, 1.0)
        heard = through(DRY, [np.stack([left, silence(1.0)], axis=1)], RATE)[0]
        apart = 20 * np.log10(np.std(heard[:, 0]) / max(float(np.std(heard[:, 1])), 1e-12))
        assert least_db < apart < most_db


def test_a_phone_plays_one_channel() -> None:
    x = np.stack([noise(0.5, 1), noise(0.5, 2)], axis=1)
    heard = through(Phone(), [x], RATE)[0]
    assert np.allclose(heard[:, 0], heard[:, 1], atol=1e-12)


@pytest.mark.parametrize("decay_s", [1.5, 2.5])
def test_a_hall_falls_by_60_db_in_its_decay(decay_s: float) -> None:
    # Schroeder, JASA 37 (1965): the energy that is still to come falls as the reverberation does.
    struck = np.zeros(6 * RATE)
    struck[0] = 1.0
    room = ClubSystem(decay_s=decay_s, hall_db=0.0)
    tail = through(room, [struck], RATE)[0][:, 0] - through(DRY, [struck], RATE)[0][:, 0]
    low = signal.sosfilt(signal.butter(4, [40, 160], "bandpass", fs=RATE, output="sos"), tail)
    to_come = np.cumsum((low**2)[::-1])[::-1]
    level = 10 * np.log10(to_come / to_come[0])
    first, last = (int(np.argmax(level < db)) for db in (-5.0, -35.0))
    assert 2 * (last - first) / RATE == pytest.approx(decay_s, rel=0.08)


def test_a_driven_system_holds_its_loudest_sub_back_and_leaves_the_rest() -> None:
    sub = sine(40.0, 2.0) * (0.1 + 0.9 * np.sin(np.pi * np.arange(2 * RATE) / (2 * RATE)) ** 4)
    driven = through(ClubSystem(hall_db=-40.0, driven_db=6.0, handover_hz=150.0), [sub], RATE)
    free = through(ClubSystem(hall_db=-40.0, handover_hz=150.0), [sub], RATE)
    spans = {"loud": slice(RATE - 2400, RATE + 2400), "soft": slice(0, RATE // 4)}
    taken = {
        name: 20 * np.log10(np.max(driven[0][at, 0]) / np.max(free[0][at, 0])) for name, at in spans.items()
    }
    assert taken["loud"] == pytest.approx(-6.0, abs=0.5)
    assert taken["soft"] == pytest.approx(0.0, abs=0.05)


def test_an_own_response_is_what_it_is_convolved_with() -> None:
    x = noise(0.5)
    response = np.zeros((400, 2))
    response[0, 0], response[300, 1] = 0.5, 1.0
    heard = through(ClubSystem(), [np.stack([x, -x], axis=1)], RATE, response)[0]
    assert np.allclose(heard[:, 0], 0.5 * x, atol=1e-9)
    assert np.allclose(heard[:, 1], -np.roll(x, 300), atol=1e-9)


@pytest.mark.parametrize("room", [ClubSystem(), SmallClub(), Headphones(), Laptop(), Car()])
def test_what_is_heard_in_a_place_is_as_loud_as_without_it(room: Room) -> None:
    # ITU-R BS.1770, read by an independent meter: within 0.05 LU.
    dry = 0.3 * noise(4.0) + sine(60.0, 4.0, -12.0)
    there = through(room, [dry], RATE)[0]
    gain = matched(dry, there, RATE)
    assert not gain.short
    meter = pyloudnorm.Meter(RATE)
    was = meter.integrated_loudness(np.stack([dry, dry], axis=1))
    is_ = meter.integrated_loudness(there * 10 ** (gain.gain_db / 20))
    assert is_ == pytest.approx(was, abs=0.05)


def test_the_low_band_can_be_matched_alone_and_nothing_is_lifted_without_end() -> None:
    dry = sine(50.0, 2.0, -12.0) + sine(1000.0, 2.0, -30.0)
    there = through(Car(), [dry], RATE)[0]
    gain = matched(dry, there, RATE, "low band")
    assert low_db(there, RATE) + gain.gain_db == pytest.approx(low_db(dry, RATE), abs=0.02)
    # A phone plays nothing of a sub: 24 dB is as far as it goes, and it says that it stops short.
    sub = sine(45.0, 2.0, -6.0)
    gain = matched(sub, through(Phone(), [sub], RATE)[0], RATE)
    assert (gain.gain_db, gain.short) == (24.0, True)


def _heard(state: TrackState, room: Room, session: Session | None = None) -> dict[str, str]:
    session = session or Session()
    found = findings(session, session.answer(state), room_checks(There(room)))
    return {one.id: one.sentence for one in found if one.step == "room"}


@pytest.mark.thorough
@pytest.mark.parametrize("seed", [0, 1, 2])
@pytest.mark.parametrize("genre", ["house", "trance"])
def test_a_clean_track_raises_nothing_in_a_large_club(genre: str, seed: int) -> None:
    # Common practice calls these tracks clean; a note under 35 Hz would be told.
    track = clean(genre, seed)
    assert set(_heard(track.state, ClubSystem(), Session(track.load))) <= {"room-low-note"}


def _state(**fields: object) -> TrackState:
    kick = KickRecipe(
        end_hz=55.0, start_semitones=0.0, click_db=-60.0, drive_db=0.0, length_ms=300.0, decay_ms=250.0,
        **fields,
    )  # fmt: skip
    return TrackState.of(kick=Hit.of(MadeKick(recipe=kick)))


@pytest.mark.thorough
def test_a_kick_without_click_and_harmonics_is_not_heard_on_a_phone_and_drive_brings_it_back() -> None:
    session, state = Session(), _state(attack_ms=12.0)
    there = There(Phone())
    small = there.look(session, state).small
    assert small is not None
    assert small.left_db < -35.0
    assert "room-kick-gone" in _heard(state, Phone(), session)
    answer = session.answer(state)
    offered = fixes(session, answer, "room-kick-gone", room_checks(there))
    assert [one.label for one in offered] == ["Drive the kick’s harmonics"]
    for one in offered:
        assert one.closes
        assert one.opens == []
        # The number is the one that the finding tells.
        assert one.value_after is not None
        assert -35.0 <= one.value_after < 0.0
        mended = effect(session, answer, "room-kick-gone", one.way, room_checks(there)).state
        assert "room-kick-gone" not in _heard(mended, Phone(), session)
    clicking = _state(attack_ms=0.5).kick
    source = clicking.only_source
    assert isinstance(source, MadeKick)
    audible = MadeKick(recipe=source.recipe.model_copy(update={"click_db": -12.0}))
    assert "room-kick-gone" not in _heard(state.with_part(clicking.with_source(0, audible)), Phone())


def test_a_mode_on_a_note_of_the_line_is_told_and_one_beside_it_is_not() -> None:
    state = TRACKS["Cobnut Rain"]
    session = Session()
    notes = There(SmallClub(mode_db=0.0)).look(session, state).notes
    assert len({round(note.hz) for note in notes}) > 1
    low = notes[0].hz
    on = SmallClub(length_m=round(343.0 / (2 * low), 2), mode_db=18.0, decay_s=0.3, lowest_hz=20.0)
    assert "room-uneven" in _heard(state, on, session)
    off = SmallClub(length_m=2.0, mode_db=18.0, decay_s=0.3, lowest_hz=20.0)
    assert "room-uneven" not in _heard(state, off, session)


def test_a_low_end_that_differs_between_its_sides_is_told_and_mended_by_the_sum() -> None:
    left, right = sine(60.0, 2.0, -9.0), sine(60.0, 2.0, -9.0, phase=2.4)
    pad = np.stack([left, right], axis=1)
    session = Session(lambda _: (pad, RATE))
    stem = Stem(name="Pad", audio="0" * 64)
    state = TrackState()
    wide = TrackState.of(
        **{name: getattr(state, name) for name in ("brief",)}, kick=state.kick, bass=state.voices[0].bass,
        bass_mute=True, stems=(stem,),
    )  # fmt: skip
    assert "room-mono" in _heard(wide, ClubSystem(), session)
    [one] = fixes(session, session.answer(wide), "room-mono", room_checks(There(ClubSystem())))
    assert one.closes
    assert one.value_after == pytest.approx(0.0, abs=0.1)


def test_headroom_is_what_a_peak_and_a_limiter_say_of_a_tone() -> None:
    # A full-scale sine of 1 kHz on both sides reads 0 LUFS (EBU Tech 3341: −23 dBFS, −23 LUFS).
    tone = sine(1000.0, 4.0)
    found = headroom(np.stack([tone, tone], axis=1), RATE, 6.0)
    assert found.true_peak_dbtp == pytest.approx(6.0, abs=0.1)
    assert found.limited_db == pytest.approx(7.0, abs=0.15)
    assert found.crest_db == pytest.approx(3.01, abs=0.02)
    assert found.unheard_db == pytest.approx(0.0, abs=0.05)
    rumbling = sine(100.0, 4.0, -6.0) + sine(15.0, 4.0, -12.0)
    assert 2.0 < headroom(rumbling, RATE, -10.0).unheard_db < 4.0


def test_hours_are_those_of_the_published_tables() -> None:
    # NIOSH 98-126, table 1-1: 85 dBA 8 h, 88 4 h, 91 2 h, 94 1 h, 100 15 min.
    assert [exposure(dba).hours_a_day for dba in (85.0, 88.0, 91.0, 94.0, 100.0)] == [8, 4, 2, 1, 0.25]
    # WHO-ITU H.870: 80 dBA for 40 h a week, 3 dB exchange.
    assert exposure(80.0).hours_a_week == 40.0
    assert exposure(92.0).hours_a_week == 2.5
    assert exposure(129.9).hours_a_day > 0.0
    assert exposure(130.0).hours_a_day == 0.0
    assert exposure(60.0).hours_a_day == 24.0
    assert [exposure(80.0, dbc).low_heavy for dbc in (None, 95.0, 95.1)] == [None, False, True]
