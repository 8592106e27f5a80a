"""Several triggers to several targets."""

import numpy as np
import pytest
from pydantic import ValidationError

from juglant.core.lowend.duckings import gain_db, stand_in, starts_of, triggers_of
from juglant.core.lowend.line import Stroke
from juglant.core.lowend.overview import overview
from juglant.core.lowend.session import Session
from juglant.core.process import lowpart
from juglant.core.recipes.bass import BassRecipe
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.ducking import Ducking, Target
from juglant.core.recipes.hit import Hit, MadeHat, MadeSnare
from juglant.core.recipes.notes import HitStep, Note
from juglant.core.recipes.parts import Chord, MadeBass, RumbleBass, Stem, Voice
from juglant.core.recipes.track import TrackState
from tests.signals import RATE, sine
from tests.tracks import changed

CLICKS = "e" * 64


def _clicks(_: str) -> tuple[np.ndarray, int]:
    """Two short tones, the second 12 dB softer, in two seconds at 120 BPM."""
    x = np.zeros(2 * RATE)
    for at, db in ((0.5, 0.0), (1.25, -12.0)):
        tone = 0.5 * sine(900, 0.08, 0.0) * np.exp(-np.arange(round(0.08 * RATE)) / 800)
        x[round(at * RATE) : round(at * RATE) + tone.size] += tone * 10 ** (db / 20)
    return x, RATE


SESSION = Session(_clicks)
DUCK = DuckRecipe(depth_db=12.0, attack_ms=2.0, hold_ms=40.0, release_ms=80.0)
DEEPER = DUCK.model_copy(update={"depth_db": 15.0, "hold_ms": 5.0})
HAT = Hit.of(MadeHat(), name="Hat", kind="hat", steps=tuple(HitStep(at=n / 2) for n in range(8)))
STAB = Hit.of(MadeSnare(), name="Stab", kind="snare", steps=(HitStep(at=1.0), HitStep(at=2.5)))
MID = Voice(name="mid", bass=MadeBass())
STATE = TrackState.of(
    brief=Brief(bpm=120.0, chord_roots=("tonic", "E")), hits=(HAT, STAB), lines=(MID,), chords=(Chord(),)
)
PAD = "pad"


def _ducking(*targets: str, trigger: str = "kick", **fields: object) -> Ducking:
    triggers = (trigger,) if trigger else ()
    return Ducking.model_validate(
        {
            "id": "-".join((trigger, *targets)),
            "triggers": triggers,
            "targets": targets,
            "duck": DUCK,
            **fields,
        }
    )


def _with(*duckings: Ducking) -> TrackState:
    state = STATE.model_copy(update={"duckings": (STATE.duckings[0], *duckings)})
    return TrackState.model_validate(state.model_dump())


def _starts(one: Ducking, state: TrackState = STATE) -> list[float]:
    return [start.at_ms for start in SESSION.parts.starts(state, one) if start.at_ms < 1999]


@pytest.mark.parametrize(
    ("trigger", "rate", "expected"),
    [
        ("kick", "none", [0, 500, 1000, 1500]),
        ("stab", "none", [500, 1250]),
        ("", "1/8", [250 * n for n in range(8)]),
        ("", "1/16", [125 * n for n in range(16)]),
        ("", "1/8t", [500 / 3 * n for n in range(12)]),
        # Beside each other, and once where both start.
        ("stab", "1/4", [0, 500, 1000, 1250, 1500]),
        # A line's notes start one as strokes do.
        ("mid", "none", [250, 750, 1250, 1750]),
    ],
)
def test_what_starts_a_ducking(trigger: str, rate: str, expected: list[float]) -> None:
    assert _starts(_ducking("hat", trigger=trigger, rate=rate)) == pytest.approx(expected)


def test_a_muted_part_triggers_on_as_a_ghost_and_swing_moves_it() -> None:
    silent = changed(STATE, hits=(HAT, STAB.model_copy(update={"mute": True})))
    one = _ducking("hat", trigger="stab")
    assert _starts(one, silent) == _starts(one)
    assert "stab" in triggers_of(silent)
    swung = STATE.model_copy(update={"brief": STATE.brief.model_copy(update={"swing_percent": 60.0})})
    assert _starts(_ducking("hat", trigger="", rate="1/16"), swung)[1] == pytest.approx(150.0)


def test_a_stem_starts_a_ducking_where_it_is_struck_and_softer_strokes_less() -> None:
    state = changed(STATE, stems=(Stem(name="Clicks", audio=CLICKS),))
    one = _ducking("hat", trigger="clicks", velocity=1.0)
    starts = [start for start in SESSION.parts.starts(state, one) if start.at_ms < 1999]
    assert [start.at_ms for start in starts] == pytest.approx([500, 1250], abs=3)
    assert starts[0].share == pytest.approx(1.0)
    # Half of the level's decibels, as velocity is taken everywhere else.
    assert starts[1].share == pytest.approx(10 ** (-12 / 40), abs=0.06)


@pytest.mark.parametrize(("velocity", "share"), [(0.0, 1.0), (0.5, 0.6), (1.0, 0.2)])
def test_a_soft_stroke_ducks_as_much_less_as_the_ducking_follows_velocity(
    velocity: float, share: float
) -> None:
    one = _ducking("hat", velocity=velocity)
    [start] = starts_of(one, [Stroke(500.0, 0.2)])
    assert start.share == pytest.approx(share)
    assert gain_db(DUCK, [start], 2 * RATE, RATE).min() == pytest.approx(-12.0 * share, abs=1e-6)
    # Of two at once the harder one counts.
    assert starts_of(one, [Stroke(500.0, 0.2), Stroke(500.0, 1.0)])[0].share == 1.0


@pytest.mark.thorough
def test_each_target_is_turned_down_by_its_share_and_nothing_else_is() -> None:
    one = _ducking("hat", "stab", targets=(Target(part="hat"), Target(part="stab", share=0.5)))
    plain, ducked = (SESSION.rest_stems(state) for state in (_with(), _with(one)))
    for part, share in (("hat", 1.0), ("stab", 0.5), (PAD, 0.0)):
        x, y = plain[part].samples, ducked[part].samples
        gain = 10 ** (gain_db(DUCK, SESSION.parts.starts(STATE, one), x.shape[0], RATE, share) / 20)
        assert np.allclose(y, x * (gain if x.ndim == 1 else gain[:, None]), rtol=0, atol=1e-7)
    # Kick, bass and their ducking know nothing of it.
    assert SESSION.answer(_with(one)).mix_after.lufs == SESSION.answer(_with()).mix_after.lufs


def test_of_two_duckings_of_one_part_the_deeper_one_holds() -> None:
    """9.5 and 10 dB are 10, not 19.5."""
    first, second = _ducking("hat"), _ducking("hat", trigger="", rate="1/8", id="eighths", duck=DEEPER)
    plain, both = (SESSION.rest_stems(state)["hat"].samples for state in (_with(), _with(first, second)))
    gains = [
        gain_db(one.duck, SESSION.parts.starts(STATE, one), plain.shape[0], RATE) for one in (first, second)
    ]
    deepest = 10 ** (np.minimum(*gains) / 20)
    assert np.allclose(both, plain * (deepest if plain.ndim == 1 else deepest[:, None]), rtol=0, atol=1e-7)
    assert gains[0].min() < -11
    assert gains[1].min() < -14


def test_at_every_frequency_the_deeper_one_holds() -> None:
    low = DUCK.model_copy(update={"band": "below", "edge_hz": 700.0, "depth_db": 18.0})
    wide, deep = _ducking(PAD), _ducking(PAD, id="low", duck=low)
    plain, both = (SESSION.rest_stems(state)[PAD].samples for state in (_with(), _with(wide, deep)))
    under = slice(round(0.51 * RATE), round(0.54 * RATE))
    for low_hz, high_hz, taken in ((60, 250, -18), (2400, 6000, -12)):
        before, after = (lowpart.band(x, low_hz, high_hz, RATE)[under].std() for x in (plain, both))
        assert 20 * np.log10(after / before) == pytest.approx(taken, abs=1.5)
    # Between two starts nothing is taken: bands add up to the whole.
    rest = slice(round(0.80 * RATE), round(0.98 * RATE))
    assert np.max(np.abs(both - plain)[rest]) < 1e-6 * np.max(np.abs(plain))


def test_the_kick_can_be_turned_down_and_a_line_by_its_own_ducking() -> None:
    fill = _ducking("kick", trigger="stab")
    state = _with(fill)
    loop, plain = SESSION.loop(state), SESSION.loop(_with())
    at = slice(round(0.51 * RATE), round(0.54 * RATE))
    taken = 20 * np.log10(np.std(loop.kick.samples[at]) / np.std(plain.kick.samples[at]))
    assert taken == pytest.approx(-12, abs=0.5)
    assert SESSION.answer(state).mix_after.lufs < SESSION.answer(_with()).mix_after.lufs
    assert SESSION.answer(state).mix_before.lufs == SESSION.answer(_with()).mix_before.lufs
    mid = _with(_ducking("mid", trigger="stab", duck=DEEPER))
    stems, whole = SESSION.line_stems(mid), SESSION.line_stems(_with())
    both = sum(stem.samples for stem in stems.values())
    assert np.allclose(both, SESSION.answer(mid).ducked_loop.samples, rtol=1e-6, atol=1e-12)
    assert np.array_equal(stems["bass"].samples, whole["bass"].samples)
    assert not np.array_equal(stems["mid"].samples, whole["mid"].samples)
    assert np.array_equal(SESSION.answer(mid).bass_loop.samples, SESSION.answer(_with()).bass_loop.samples)


def test_a_renamed_part_is_ducked_as_before() -> None:
    one = _ducking("hat", trigger="stab")
    renamed = _with(one).with_part(STATE.hits[0].model_copy(update={"name": "Shaker"}))
    was, is_ = (SESSION.rest_stems(state)["hat"].samples for state in (_with(one), renamed))
    assert np.array_equal(was, is_)


@pytest.mark.parametrize(
    ("fields", "said"),
    [
        ({"triggers": ("kick",), "targets": ("kick",)}, "cannot duck itself"),
        ({"triggers": ("gone",), "targets": ("hat",)}, "not in the track"),
        ({"triggers": ("kick",), "targets": ("gone",)}, "not in the track"),
        ({"triggers": ("pad",), "targets": ("hat",)}, "no strokes"),
        ({"targets": ("hat",)}, "needs something that starts it"),
        ({"triggers": ("kick",), "targets": ("hat", "hat")}, "names every part once"),
    ],
)
def test_what_cannot_duck_is_refused_with_its_reason(fields: dict[str, object], said: str) -> None:
    with pytest.raises(ValidationError, match=said):
        _with(Ducking.model_validate({"id": "x", **fields}))
    # Switched off it may wait for what is to start it.
    if said == "needs something that starts it":
        assert not _with(Ducking.model_validate({"id": "x", "on": False, **fields})).duckings[1].on


def test_a_rumble_starts_nothing_and_the_first_ducking_is_the_kick_s() -> None:
    rumbling = STATE.with_bass("bass", RumbleBass())
    one = _ducking("hat", trigger="bass")
    with pytest.raises(ValidationError, match="no strokes"):
        TrackState.model_validate(
            rumbling.model_copy(update={"duckings": (*STATE.duckings, one)}).model_dump()
        )
    with pytest.raises(ValidationError, match="the kick starts"):
        TrackState.model_validate({**STATE.model_dump(), "duckings": [_ducking("hat", trigger="stab")]})


def test_the_stand_in_for_a_pad_is_in_key_and_moves_with_the_chords() -> None:
    x = stand_in(STATE.brief, RATE)
    assert 0.05 < np.max(np.abs(x)) < 0.2
    half = x.size // 2
    for bar, hz in ((x[:half], 220.0), (x[half:], 164.81)):
        level = np.abs(np.fft.rfft(bar * np.hanning(bar.size)))
        assert level[round(hz * bar.size / RATE)] > 0.7 * level.max()


def test_a_report_says_what_is_taken_and_how_it_pumps() -> None:
    eighths = _ducking(PAD, trigger="", rate="1/8")
    state = _with(eighths, _ducking(PAD, id="off", on=False))
    told, off = overview(SESSION, state, 0).reports[1:]
    assert told.heard
    assert not off.heard
    assert told.rate_hz == pytest.approx(4.0)
    assert told.gap_ms == pytest.approx(250.0)
    # Windows of 50 ms hold a little of the way down and up.
    [pad] = told.targets
    assert pad.pumping_db == pytest.approx(12.0, abs=1.0)
    gain = gain_db(DUCK, SESSION.parts.starts(state, eighths), 4 * RATE, RATE)
    # A steady sound loses what its mean power loses.
    assert pad.taken_lu == pytest.approx(-10 * np.log10(np.mean(10 ** (gain / 10))), abs=0.2)
    assert told.duck is not None
    assert told.duck.slack_ms == pytest.approx(250 - (told.duck.returns_ms or 0), abs=0.2)
    assert len(told.gain_db) == 2000


@pytest.mark.thorough
def test_a_compressor_is_set_for_every_ducking() -> None:
    for one in (_ducking("hat", trigger="stab"), _ducking(PAD, trigger="", rate="1/8")):
        with_hold, without = SESSION.as_compressor(_with(one), one)
        assert with_hold.difference_db < 1.5
        assert with_hold.difference_db <= without.difference_db + 0.1


def test_a_bass_that_owns_the_sub_keeps_it_under_two_duckings() -> None:
    """Both spare what lies below the edge of its notes."""
    low = MadeBass(
        recipe=BassRecipe(octave=1, wave=0.0, lowpass_hz=20000.0, pattern=(Note(at=0, beats=4),))
    )
    brief = STATE.brief.model_copy(update={"sub_owner": "bass"})
    state = changed(STATE, brief=brief, bass=low, lines=(), duck=DUCK)
    again = Ducking(id="again", triggers=("stab",), targets=("bass",), duck=DEEPER)
    both = state.model_copy(update={"duckings": (*state.duckings, again)})
    plain, ducked = SESSION.loop(both).bass, SESSION.loop(both).ducked
    lost = 20 * np.log10(np.std(ducked.samples) / np.std(plain.samples))
    assert lost > -1.5
