"""Which sound fits: a ranked list whose numbers are those of the loop."""

from dataclasses import replace

import numpy as np
import pytest

from juglant.core.errors import UserError
from juglant.core.lowend.session import Session
from juglant.core.measure.levels import momentary_max_lufs
from juglant.core.measure.stereo import both_sides
from juglant.core.music import cents_between, midi_to_hz, note_to_midi
from juglant.core.recipes.bass import BassRecipe
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.hit import Hit, Imported, Made808, MadeHat
from juglant.core.recipes.kick import KickRecipe
from juglant.core.recipes.notes import on_beats
from juglant.core.recipes.parts import MadeBass, PlayedBass
from juglant.core.recipes.track import TrackState
from juglant.core.stock.fit import first_look, masked_share, measured_fit, placed_in, ranked
from juglant.core.stock.known import Numbers, known
from juglant.core.synth.kick import render_kick
from tests.signals import RATE, Array, noise, sine

SOUNDS: dict[str, Array] = {}


def _sound(name: str, **recipe: float) -> Numbers:
    digest = name.encode().hex().ljust(64, "0")
    SOUNDS[digest] = render_kick(KickRecipe(**recipe), RATE, 126.0)
    hit = known(SOUNDS[digest], RATE).hit
    midi = None
    if hit.fundamental_hz is not None:
        midi = 69 + 12 * np.log2(hit.fundamental_hz / 440)
    return Numbers(
        digest, f"kicks/{name}.wav", midi, hit.pitch_confidence, hit.length_ms, hit.decay20_ms,
        (hit.bands_db or {}).get("sub"),
    )  # fmt: skip


def _load(digest: str) -> tuple[Array, int]:
    return SOUNDS[digest], RATE


SESSION = Session(_load)
# A minor: A1 is 55 Hz, G1 49, F1 43.65 (ISO 16:1975).
BRIEF = Brief(bpm=126.0, tonic="A", mode="minor", chord_roots=("A", "A"))
STATE = TrackState.of(
    brief=BRIEF,
    kick=Hit(steps=on_beats(1, 2, 3, 4)),
    hits=(Hit.of(MadeHat(), name="Hat", kind="hat", steps=on_beats(1.5, 2.5, 3.5, 4.5)),),
    bass=MadeBass(recipe=BassRecipe()),
)
IN_TUNE = _sound("in tune", end_hz=55.0, decay_ms=300.0)
OFF = _sound("off", end_hz=60.0, decay_ms=300.0)
LONG = _sound("long", end_hz=55.0, decay_ms=1400.0, length_ms=1500.0)


def test_the_nearest_to_the_key_that_is_over_in_time_comes_first() -> None:
    # Common practice: the kick is a note of the key, and is over before the next one.
    order = [one.hash for one in first_look(STATE, STATE.kick.id, [LONG, OFF, IN_TUNE])]
    assert order[0] == IN_TUNE.hash
    exact = sorted(ranked(SESSION, STATE, STATE.kick.id, [LONG, OFF, IN_TUNE]), key=lambda one: -one.fit)
    assert exact[0].hash == IN_TUNE.hash
    assert all(one.measured for one in exact)


def test_the_numbers_are_those_of_the_loop_with_the_sound_in_it() -> None:
    found = measured_fit(SESSION, STATE, STATE.kick.id, OFF)
    assert found.hit is not None
    after = SESSION.answer(STATE.with_kick(found.hit)).after
    said = {reason.name: reason.said for reason in found.reasons}
    assert said["collision"] == f"{after.collision_ms:.0f} ms of each kick under the bass"
    assert said["sub"] == f"{after.sub_shared_ms or 0.0:.0f} ms together in the sub"


def test_a_sound_takes_the_place_of_another_tuned_and_as_loud_and_all_else_stays() -> None:
    hit = placed_in(SESSION, STATE, STATE.kick.id, OFF)
    old = STATE.kick
    kept = ("id", "steps", "place", "stages", "chain", "choke", "velocity")
    assert [getattr(hit, name) for name in kept] == [getattr(old, name) for name in kept]
    hz = SESSION.sounds.measured_hit(hit, BRIEF).hit.fundamental_hz
    assert hz is not None
    # 60 Hz lies between A1 and B1: A1 is 151 cents down, B1 49 up, and B is of the key.
    assert cents_between(hz, midi_to_hz(note_to_midi("B1"))) == pytest.approx(0.0, abs=1.0)
    loud = [momentary_max_lufs(both_sides(SESSION.sounds.hits.hit(one, 126.0)), RATE) for one in (hit, old)]
    assert loud[0] == pytest.approx(loud[1], abs=0.05)
    # A sound with two sides is as loud in a mono one's place: both leave both loudspeakers.
    x = _load(OFF.hash)[0]
    wide = Session(lambda digest: (np.stack([x, x], axis=1), RATE))
    placed = wide.sounds.hits.hit(placed_in(wide, STATE, STATE.kick.id, OFF), 126.0)
    assert placed.ndim == 2
    assert momentary_max_lufs(placed, RATE) == pytest.approx(loud[1], abs=0.05)
    plain = placed_in(SESSION, STATE, STATE.kick.id, OFF, tuned=False)
    source = plain.only_source
    assert isinstance(source, Imported)
    assert source.shift_semitones == 0.0


def test_weights_move_what_counts() -> None:
    far = replace(IN_TUNE, midi=30.5)
    both = [far, LONG]
    assert first_look(STATE, STATE.kick.id, both, {"tune": 20.0})[0].hash == LONG.hash
    assert first_look(STATE, STATE.kick.id, both, {"tune": 0.0})[0].hash == far.hash


def test_what_no_sound_plays_is_refused_and_a_played_line_is_not() -> None:
    with pytest.raises(UserError, match="not played by one sound"):
        first_look(STATE, STATE.voices[0].id, [IN_TUNE])
    played = STATE.with_bass(STATE.voices[0].id, PlayedBass(hit=Hit.of(Made808(), name="808", kind="808")))
    found = measured_fit(SESSION, played, played.voices[0].id, LONG)
    assert found.note is not None
    assert {reason.name for reason in found.reasons} >= {"tune", "length", "collision", "sub", "peak"}


def test_a_hat_is_asked_for_no_note_but_for_what_covers_it() -> None:
    hat = STATE.hits[0]
    found = measured_fit(SESSION, STATE, hat.id, IN_TUNE)
    names = {reason.name: reason for reason in found.reasons}
    assert names["tune"].said == "free of the key"
    assert "masked" in names


def test_the_covered_share_of_a_sound() -> None:
    x, other = sine(350.0, 1.0, -20.0), noise(1.0) * 1e-4
    assert masked_share(x, other) < 0.01
    assert masked_share(x, sine(370.0, 1.0, 0.0)) > 0.95
    # 3 dB louder is not 6.
    assert masked_share(x, sine(350.0, 1.0, -17.0)) < 0.05
    assert masked_share(x, sine(5000.0, 1.0, 0.0)) < 0.05
