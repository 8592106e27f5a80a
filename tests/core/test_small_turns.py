"""Rules of measuring and mending, each at the place where it turns; and what small stages do to plain tones."""

import re

import numpy as np
import pytest
from scipy import signal

from bench.rooms import LONG, in_room
from juglant.core.designing.lines import _made_bass
from juglant.core.errors import UserError
from juglant.core.findings.doubled import doubled_checks
from juglant.core.findings.harmony import leaves
from juglant.core.findings.judge import effect, findings
from juglant.core.lowend import sliced
from juglant.core.lowend.duckings import of_part
from juglant.core.lowend.instrument import Key, _looped
from juglant.core.lowend.pitches import tuned_to
from juglant.core.lowend.session import Session
from juglant.core.measure.defects import flat_runs
from juglant.core.measure.drummap import Struck, drum_map
from juglant.core.measure.hit import measure
from juglant.core.measure.owner import _sharing, loss_db
from juglant.core.measure.takes import onsets_ms
from juglant.core.process.declipping import restored
from juglant.core.process.dynamics import levelling_gain_db
from juglant.core.process.resampling import polyphase
from juglant.core.process.space import impulse_response
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.chain import EqualiserStage
from juglant.core.recipes.design import Character
from juglant.core.recipes.ducking import Ducking, Target
from juglant.core.recipes.dynamics import GateStage
from juglant.core.recipes.hit import Hit, Imported, MadeClap, MadeKick
from juglant.core.recipes.kick import KickRecipe
from juglant.core.recipes.notes import on_beats
from juglant.core.recipes.parts import MadeBass, Stem
from juglant.core.recipes.place import Place
from juglant.core.recipes.track import TrackState
from juglant.core.synth.kick import render_kick
from tests.signals import RATE, ring, sine

B = "b" * 64
SESSION = Session()


@pytest.mark.parametrize(("up", "down"), [(3, 2), (2, 3), (147, 160), (160, 147), (1, 2), (2, 1)])
def test_a_tone_at_another_rate_is_the_same_tone_at_the_same_time(up: int, down: int) -> None:
    tone = sine(997.0, 0.25)
    slower = polyphase(tone, up, down)
    at = np.arange(slower.size) * down / up / RATE
    inner = slice(slower.size // 8, -slower.size // 8)
    assert slower.size == -(-tone.size * up // down)
    assert np.max(np.abs(slower - np.sin(2 * np.pi * 997.0 * at))[inner]) < 1e-3
    wide = polyphase(np.stack([tone, -tone], axis=1), up, down)
    assert np.array_equal(wide[:, 0], slower)
    assert np.array_equal(wide[:, 1], -slower)


def test_a_rate_that_stays_leaves_every_sample() -> None:
    tone = sine(997.0, 0.05)
    assert polyphase(tone, 3, 3) is tone


# The lift fades within 6 dB below the floor of −40 dB, and is whole at it.
@pytest.mark.parametrize(("level_db", "lift_db"), [(-39.9, 12.0), (-43.0, 6.0), (-44.5, 3.0), (-46.1, 0.0)])
def test_what_is_softer_than_the_floor_is_left_alone(level_db: float, lift_db: float) -> None:
    x = np.full(4 * RATE, 10 ** (level_db / 20))
    gain = levelling_gain_db(x, RATE, -14.0, 1.0, 12.0, 50.0, -40.0)
    assert gain[-1] == pytest.approx(lift_db, abs=0.05)


def test_what_is_louder_than_wanted_is_brought_down_at_any_level() -> None:
    x = np.full(2 * RATE, 10 ** (-45 / 20))
    assert levelling_gain_db(x, RATE, -50.0, 0.5, 12.0, 50.0, -40.0)[-1] == pytest.approx(-2.5, abs=0.05)


def test_both_own_the_sub_where_the_other_is_no_6_db_below_and_both_are_loud() -> None:
    owner = np.array([0.0, 0.0, 0.0, -17.9, -18.1, -10.0])
    other = np.array([-5.9, -6.1, 3.0, -17.9, -12.0, -18.1])
    assert _sharing(owner, other).tolist() == [True, False, True, True, False, False]


def test_what_an_owner_loses_counts_where_it_was_loud() -> None:
    was = np.zeros(600)
    was[300:] = -18.1
    now = was.copy()
    now[100:200] -= 4.0
    now[400:500] -= 9.0
    assert loss_db([was], [now]) == pytest.approx(4.0)
    # A dip that is over within 12 ms to either side is a delay, and no loss.
    now = was.copy()
    now[100:124] -= 4.0
    assert loss_db([was], [now]) == 0.0
    now[100:126] = -4.0
    assert loss_db([was], [now]) == pytest.approx(4.0)


@pytest.mark.parametrize("sign", [1.0, -1.0])
def test_a_top_that_was_cut_flat_comes_back_on_its_own_side(sign: float) -> None:
    wave = sign * np.sin(2 * np.pi * 100 * np.arange(960) / RATE)
    clipped = np.clip(wave, -0.8, 0.8)
    back = restored(clipped)
    assert np.max(np.abs(back - wave)) < 0.2 * np.max(np.abs(clipped - wave))
    untouched = np.abs(clipped) < 0.799
    assert np.array_equal(back[untouched], clipped[untouched])


def test_a_top_that_runs_to_the_ends_of_a_file_stays_within_four_times_it() -> None:
    x = np.concatenate([[0.0], np.full(400, 0.5), [0.49, -0.4]])
    back = restored(x)
    assert np.all(np.isfinite(back))
    assert np.max(np.abs(back)) <= 2.0
    assert back[0] == 0.0


@pytest.mark.parametrize(("band_hz", "share"), [((150.0, 700.0), 1.0), ((6000.0, 12000.0), 0.5)])
def test_a_hall_falls_by_60_db_in_its_time_and_in_half_of_it_above_its_damping(
    band_hz: tuple[float, float], share: float
) -> None:
    x = impulse_response("hall", 1200.0, 2000.0, 20.0, 3, RATE)
    band = signal.sosfilt(signal.butter(4, band_hz, "bandpass", fs=RATE, output="sos"), x)
    # Schroeder's backward integration (J. Acoust. Soc. Am. 37, 1965); ISO 3382: from −5 to −25 dB.
    left = 10 * np.log10(np.cumsum(band[::-1] ** 2)[::-1] / np.sum(band**2))
    a, b = (int(np.argmax(left < db)) for db in (-5.0, -25.0))
    assert 3 * (b - a) / RATE == pytest.approx(1.2 * share, rel=0.12)


def test_what_is_left_after_tuning_is_measured_of_what_was_tuned() -> None:
    state = TrackState.of(kick=Hit.of(MadeKick(recipe=KickRecipe(end_hz=52.0))))
    tuned, change = tuned_to(SESSION, state, "kick", "A1")
    assert change.from_hz == pytest.approx(52.0, rel=0.002)
    assert change.shift_cents == pytest.approx(1200 * np.log2(55.0 / change.from_hz), abs=0.01)
    assert abs(change.left_cents) < 1.0
    assert SESSION.sounds.pitch_hz(tuned.kick, tuned.brief) == pytest.approx(55.0, rel=0.001)


def test_a_copy_in_a_loop_is_found_while_both_are_heard_only() -> None:
    clap = Hit.of(MadeClap(), name="Clap", kind="clap", steps=on_beats(2.0, 4.0))
    alone = TrackState.of(brief=Brief(bpm=120.0, chord_roots=("A",)), hits=(clap,))
    loop = SESSION.parts.hit_loop(alone, alone.hits[0])
    assert loop is not None
    struck = loop.mono
    session = Session(lambda hash: (struck, RATE))
    stem = Stem(id="loop", name="Loop", audio=B)
    both = TrackState.of(brief=alone.brief, hits=(clap,), stems=(stem,))
    [check] = doubled_checks(both)
    assert check.number(session, session.answer(both)) == 2.0
    for id in ("loop", both.hits[0].id):
        part = both.part(id)
        assert part is not None
        quiet = both.with_part(part.model_copy(update={"mute": True}))
        assert check.number(session, session.answer(quiet)) is None
        assert check.judge(session, session.answer(quiet)) is None
        assert doubled_checks(quiet) == []


@pytest.mark.parametrize(
    ("dials", "share", "highpass_hz", "attack_ms", "decay_ms", "sustain_db"),
    [((0.0, 0.0, 0.0), 0.0, 20.0, 1.0, 90.0, -36.0), ((1.0, 1.0, 1.0), 1.0, 110.0, 30.0, 1600.0, -2.0)],
)
def test_the_dials_of_a_designed_bass_reach_from_end_to_end(
    dials: tuple[float, ...], share: float, highpass_hz: float, attack_ms: float, decay_ms: float,
    sustain_db: float,
) -> None:  # fmt: skip
    state = TrackState()
    click = Character(click=share)
    designed = _made_bass(SESSION, state, state.voices[0], click, share, -20.0, None, np.array(dials))
    bass = designed.voices[0].bass
    assert isinstance(bass, MadeBass)
    got = bass.recipe
    assert (got.highpass_hz, got.attack_ms, got.decay_ms, got.sustain_db, got.drive_db) == (
        highpass_hz, attack_ms, decay_ms, sustain_db, 12.0 * share,
    )  # fmt: skip


def test_a_kick_that_is_cut_before_it_has_died_away_is_shortened_to_its_gap() -> None:
    recipe = KickRecipe(decay_ms=1500.0, length_ms=640.0)
    state = TrackState.of(
        brief=Brief(bpm=128.0), kick=Hit.of(MadeKick(recipe=recipe), steps=on_beats(1, 2, 3, 4))
    )
    answer = SESSION.answer(state)
    assert answer.kick.hit.decay60_ms is None
    found = next(one for one in findings(SESSION, answer) if one.id == "too-long-kick")
    assert (found.measure, round(found.limit, 1)) == ("decay60_ms", 468.8)
    assert found.value == pytest.approx(answer.kick.hit.length_ms)
    shorter = SESSION.answer(effect(SESSION, answer, "too-long-kick", "mend").state).kick.hit
    assert (shorter.decay60_ms or shorter.length_ms) <= 468.8


@pytest.mark.parametrize(("reverb_db", "heard"), [(-40.0, False), (-39.9, True)])
def test_the_hall_that_a_ducking_had_on_its_target_is_a_stage_of_that(
    reverb_db: float, heard: bool
) -> None:
    earlier = {
        "hits": [{"name": "Clap", "kind": "clap", "steps": [{"at": 1.0}]}],
        "buses": [{"trigger": "Kick", "target": "Clap", "reverb_db": reverb_db, "reverb_ms": 900.0}],
    }
    [clap] = TrackState.model_validate(earlier).hits
    stages = [stage.model_dump() for stage in clap.stages]
    assert bool(stages) is heard
    if heard:
        hall = {
            "stage": "space",
            "kind": "hall",
            "damping_hz": 5000.0,
            "low_cut_hz": 150.0,
            "predelay_ms": 0.0,
        }
        assert stages[0] == stages[0] | hall | {"mix_db": -39.9, "decay_ms": 900.0, "bypass": False}


def test_a_kick_out_of_the_chord_is_what_an_ear_hears_of_it_where_one_said() -> None:
    # 49 Hz is G1: ten semitones above A.
    state = TrackState()
    assert [apart for _, _, apart in leaves(SESSION.answer(state))] == [10, 10]
    for kick in ({"heard_hz": 55.0}, {"aim": "free"}):
        other = state.with_kick(state.kick.model_copy(update=kick))
        assert leaves(SESSION.answer(other)) == []
    sharp = state.with_kick(state.kick.model_copy(update={"heard_hz": 51.91}))
    # G#1, eleven above A.
    assert [apart for _, _, apart in leaves(SESSION.answer(sharp))] == [11, 11]


@pytest.mark.parametrize(("below_db", "hz"), [(-14.0, 55.0), (-20.0, 110.0)])
def test_a_sub_an_octave_below_is_the_note_where_it_plainly_sounds(below_db: float, hz: float) -> None:
    x = ring(110.0, 500.0, 1.0) + 10 ** (below_db / 20) * ring(55.0, 600.0, 1.0)
    found = measure(x, RATE).hit
    assert found.fundamental_hz == pytest.approx(hz, rel=0.001)
    assert found.pitch_confidence > 0.9


@pytest.mark.parametrize("gain", [1.0, 0.1, 0.003])
def test_tops_cut_flat_are_found_however_quiet_the_file_is(gain: float) -> None:
    wave = np.sin(2 * np.pi * 100 * np.arange(RATE // 4) / RATE)
    assert len(flat_runs(gain * np.clip(wave, -0.8, 0.8))) == 50
    assert flat_runs(gain * wave) == []
    # Of the other sign, and flat on one side only.
    assert len(flat_runs(-gain * np.minimum(wave, 0.8))) == 25


def test_a_ducking_reaches_a_part_that_it_takes_something_from_while_it_is_on() -> None:
    def shares(share: float, *, on: bool = True) -> list[float]:
        one = Ducking(id="one", triggers=("kick",), targets=(Target(part="bass", share=share),), on=on)
        state = TrackState().model_copy(update={"duckings": (one,)})
        return [share for _, share in of_part(state, "bass")]

    assert shares(0.5) == [0.5]
    assert shares(0.0) == []
    assert shares(0.5, on=False) == []


# What falls by more than its limit over the stretch would be heard as a step at every turn.
@pytest.mark.parametrize(("fall_db", "looped"), [(0.0, True), (1.0, True), (2.1, False), (60.0, False)])
def test_a_held_note_is_looped_where_it_stays_as_loud(fall_db: float, looped: bool) -> None:
    at = np.arange(3 * RATE) / RATE
    x = 0.5 * np.sin(2 * np.pi * 55.0 * at) * 10 ** (-fall_db * at / 3.0 / 20)
    assert (_looped(Key(33, x, None), 3.0).loop is not None) is looped


@pytest.mark.parametrize(
    ("velocities", "off_ms", "kind"),
    [
        ({"kick": 0.3, "hat": 1.0}, 29.0, "kick"),
        ({"kick": 0.3, "hat": 1.0}, 31.0, "percussion"),
        ({"snare": 0.0, "hat": 0.4}, -29.0, "hat"),
        ({"snare": 0.6, "hat": 0.4}, 0.0, "snare"),
        ({}, 0.0, "percussion"),
    ],
)
def test_a_slice_is_the_lowest_drum_that_is_struck_in_it(
    velocities: dict[str, float], off_ms: float, kind: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(sliced, "drum_map", lambda x, rate: [Struck(500.0 + off_ms, velocities)])
    assert sliced._kinds(np.zeros(RATE), [500.0]) == [kind]


def test_what_goes_into_the_stages_of_a_part_is_as_wide_and_as_loud_as_before_its_place() -> None:
    rng = np.random.default_rng(5)
    wide = 0.2 * rng.standard_normal((RATE // 2, 2)) * np.exp(-np.arange(RATE // 2) / 4000)[:, None]
    session = Session(lambda hash: (wide, RATE))
    place = Place(width=0.0, gain_db=-9.0, pan=0.5)
    clap = Hit.of(Imported(audio=B, name="c.wav"), name="Clap", kind="clap", steps=on_beats(2.0), place=place,
                  mute=True, stages=(GateStage(bypass=True), EqualiserStage()))  # fmt: skip
    state = TrackState.of(brief=Brief(bpm=120.0, chord_roots=("A",)), hits=(clap,))
    id = state.hits[0].id
    # A muted part is listened to all the same; what is bypassed changes nothing.
    went_in, passed, out = (one.samples for one in session.parts.stages(state, id))
    assert went_in.ndim == 2
    assert np.array_equal(passed, went_in)
    assert abs(float(np.asarray(np.corrcoef(went_in.T))[0, 1])) < 0.2
    at = round(0.5 * RATE)
    assert np.max(np.abs(went_in[at : at + 2000])) == pytest.approx(np.max(np.abs(wide)), rel=0.02)
    assert np.allclose(out, went_in, atol=1e-4)
    assert session.parts.part(state, id) is None
    heard = session.parts.unmuted(state, id)
    assert heard is not None
    assert session.parts.unmuted(state, "nobody") is None
    with pytest.raises(UserError, match="not played"):
        session.parts.stages(state, "nobody")


def test_a_pitch_that_a_room_leaves_unsure_is_withheld_with_its_doubt() -> None:
    hit = measure(in_room(8, LONG).samples, RATE).hit
    assert hit.fundamental_hz is None
    assert re.fullmatch(r"its frequency is uncertain by 1\d cents", hit.reasons["fundamental_hz"])


@pytest.mark.parametrize("rate", [44_100, 32_000])
def test_the_drum_map_and_the_takes_keep_time_at_every_rate(rate: int) -> None:
    # Half a minute of kicks: a clock that is off by 0.2 % would be 65 ms late at its end.
    hit = render_kick(KickRecipe(), rate, 120.0)[: rate // 2]
    x = np.tile(np.pad(hit, (0, rate // 2 - hit.size)), 60)
    found = [one.at_ms for one in drum_map(x, rate)]
    assert len(found) == 60
    assert found[1] == pytest.approx(500.0, abs=6.0)
    assert found[-1] == pytest.approx(29_500.0, abs=6.0)
    assert onsets_ms(x, rate) == pytest.approx([500.0 * n for n in range(60)], abs=0.5)
