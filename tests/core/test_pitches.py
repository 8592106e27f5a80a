"""The table of a track's pitched hits, and tuning all of them."""

import numpy as np
import pytest

from juglant.core import music
from juglant.core.errors import UserError
from juglant.core.findings import findings
from juglant.core.lowend import pitches, tuning
from juglant.core.lowend.session import Session
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.hit import (
    Hit,
    Imported,
    Layer,
    Made808,
    MadeHat,
    MadeKick,
    MadeMembrane,
    MadePercussion,
)
from juglant.core.recipes.kick import KickRecipe
from juglant.core.recipes.percussion import PercussionRecipe
from juglant.core.recipes.snare import MembraneRecipe
from juglant.core.recipes.tone808 import Recipe808
from juglant.core.recipes.track import TrackState
from tests.signals import RATE, ring

BRIEF = Brief(tonic="C", mode="minor", chord_roots=("C", "Ab"))
FILE = "a" * 64
STATE = TrackState.of(
    brief=BRIEF,
    kick=Hit.of(MadeKick(recipe=KickRecipe(end_hz=53.0, decay_ms=500, length_ms=600))),
    hits=(
        Hit.of(Made808(recipe=Recipe808(end_hz=50.5)), name="Low", kind="808"),
        Hit.of(MadeHat(), name="Hat", kind="hat"),
        Hit.of(MadeMembrane(recipe=MembraneRecipe()), name="Skin", kind="tom"),
        Hit.of(Imported(audio=FILE, name="log.wav"), name="Log", kind="percussion"),
    ),
)


@pytest.fixture(scope="module")
def session() -> Session:
    return Session(lambda _: (ring(151.0, 900, 0.7), RATE))


def test_every_hit_has_a_row_and_a_reason(session: Session) -> None:
    rows = pitches.table(session, STATE)
    assert [row.name for row in rows] == ["Kick", "Low", "Hat", "Skin", "Log"]
    kick, low, hat, skin, log = rows
    assert kick.moves[0].note == "Ab1"
    assert not kick.in_tune
    assert kick.moves[0].shift_cents == pytest.approx(1200 * np.log2(51.913 / 53.0), abs=1)
    assert low.hit.note in ("G1", "Ab1")
    assert hat.aim == "free"
    assert hat.in_tune
    assert hat.hit.reasons["fundamental_hz"]
    assert skin.partials
    assert log.resampled
    assert not low.resampled
    # 53 Hz against Ab1 = 51.91 Hz: a beat a second; C lies an octave's third away.
    assert [(beat.root, beat.bars) for beat in kick.beats] == [("Ab", [2])]
    assert kick.beats[0].beat_hz == pytest.approx(53.0 - 51.913, abs=0.02)


@pytest.mark.parametrize(
    ("aim", "notes"),
    [
        ("tonic", {"C"}), ("fifth", {"G"}), ("chord root", {"C", "Ab"}),
        ("any note of the key", {"C", "D", "Eb", "F", "G", "Ab", "Bb"}), ("free", set()),
    ],
)  # fmt: skip
def test_an_aim_says_which_notes_are_wanted(session: Session, aim: str, notes: set[str]) -> None:
    state = STATE.with_kick(STATE.kick.model_copy(update={"aim": aim}))
    row = pitches.pitched(session, state, "kick")
    wanted = [move for move in row.moves if move.wanted]
    assert {move.note[:-1] for move in wanted} <= notes
    assert bool(wanted) == bool(notes)
    if wanted:
        assert row.moves[0] == min(wanted, key=lambda move: abs(move.shift_cents))
    # Other notes of the key stay on offer, after these.
    assert len(row.moves) > len(wanted) or aim == "any note of the key"


def test_all_that_is_out_of_tune_lands_within_a_cent(session: Session) -> None:
    state, changes = pitches.tuned_all(session, STATE)
    assert [change.name for change in changes] == ["Kick", "Low", "Skin", "Log"]
    for change in changes:
        assert abs(change.left_cents) < 1.0
        assert abs(change.shift_cents) > pitches.IN_TUNE_CENTS
    assert state.hits[1] == STATE.hits[1]
    assert all(row.in_tune for row in pitches.table(session, state))
    assert pitches.tuned_all(session, state) == (state, [])
    log = changes[-1]
    assert log.length_after_ms / log.length_before_ms == pytest.approx(
        2 ** (-log.shift_cents / 1200), rel=1e-3
    )


def test_a_file_whose_length_is_kept_keeps_it(session: Session) -> None:
    source = Imported(audio=FILE, name="log.wav", keep_length="yes")
    state = STATE.with_part(STATE.hits[3].with_source(0, source))
    row = pitches.pitched(session, state, "log")
    assert not row.resampled
    assert row.moves[1].new_length_ms == row.hit.length_ms
    _, change = pitches.tuned_to(session, state, "log", "C3")
    assert change.length_after_ms == change.length_before_ms
    assert abs(change.left_cents) < 1.0


def test_what_a_move_costs_is_what_is_measured_after_it(session: Session) -> None:
    row = pitches.pitched(session, STATE, "log")
    move = next(move for move in row.moves if abs(move.shift_semitones) > 2)
    state, _ = pitches.tuned_to(session, STATE, "log", move.note)
    after = pitches.pitched(session, state, "log").hit
    assert after.length_ms == pytest.approx(move.new_length_ms, abs=0.1)
    assert row.hit.bands_db
    assert after.bands_db
    assert move.bands_change_db
    for band, change in move.bands_change_db.items():
        assert after.bands_db[band] - row.hit.bands_db[band] == pytest.approx(change, abs=0.5)


def test_a_hit_without_pitch_is_refused_in_a_sentence(session: Session) -> None:
    with pytest.raises(UserError, match="hat has no measurable pitch"):
        pitches.tuned_to(session, STATE, "hat", "C3")


def test_layers_that_disagree_are_told(session: Session) -> None:
    layers = tuple(
        Layer(name=name, source=MadeKick(recipe=KickRecipe(end_hz=hz, decay_ms=600, length_ms=700)))
        for name, hz in (("sub", 50.0), ("body", 106.0))
    )
    state = STATE.with_kick(Hit(layers=layers))
    assert any("layers disagree" in said for said in pitches.pitched(session, state, "kick").remarks)
    octave = layers[1].model_copy(
        update={"source": MadeKick(recipe=KickRecipe(end_hz=100.0, decay_ms=600, length_ms=700))}
    )
    agreed = state.with_kick(Hit(layers=(layers[0], octave)))
    assert not any("layers disagree" in said for said in pitches.pitched(session, agreed, "kick").remarks)


def test_a_sweep_beside_whole_octaves_is_remarked(session: Session) -> None:
    for semitones, odd in ((24.0, False), (30.0, True)):
        recipe = KickRecipe(
            end_hz=65.41,
            start_semitones=semitones,
            pitch_decay_ms=40,
            decay_ms=500,
            length_ms=600,
            click_db=-60,
        )
        state = STATE.with_kick(Hit.of(MadeKick(recipe=recipe)))
        row = pitches.pitched(session, state, "kick")
        assert any("whole octaves" in said for said in row.remarks) == odd


def test_percussion_is_tuned_by_its_strongest_tone(session: Session) -> None:
    hit = Hit.of(MadePercussion(recipe=PercussionRecipe()), name="Bell", kind="percussion")
    hz = session.sounds.pitch_hz(hit, BRIEF)
    if session.sounds.measured_hit(hit, BRIEF).hit.fundamental_hz is None:
        assert hz == max(session.sounds.partials(hit, BRIEF), key=lambda one: one.level_db).hz
    assert session.sounds.pitch_hz(hit.model_copy(update={"kind": "kick"}), BRIEF) == (
        session.sounds.measured_hit(hit, BRIEF).hit.fundamental_hz
    )


def test_harmony_and_beats() -> None:
    held = tuning.harmony(BRIEF)
    assert held.roots == (0, 8)
    assert held.classes_of("fifth") == {7}
    # Common practice of tuning by ear: two tones beat at the difference of their frequencies.
    assert tuning.beat_hz(56.5, 9, 440.0) == pytest.approx(1.5)
    assert tuning.beat_hz(112.0, 9, 440.0) == pytest.approx(2.0)
    assert tuning.beat_hz(55.0, 9, 440.0) is None
    assert tuning.beat_hz(65.0, 9, 440.0) == pytest.approx(10.0)
    assert tuning.beat_hz(75.0, 9, 440.0) is None
    assert music.midi_to_hz(33) == 55.0


LONG = Hit.of(MadeKick(recipe=KickRecipe(end_hz=50.0, decay_ms=700, length_ms=800)))


def _in_a_minor(hit: Hit, *roots: str) -> TrackState:
    return TrackState.of(brief=Brief(tonic="A", mode="minor", chord_roots=roots or ("A", "F")), kick=hit)


def test_tuning_all_of_a_minor_leaves_nothing_open_and_agrees_with_the_findings(session: Session) -> None:
    """G lies nearer, and grates against both roots; A is the root of one and a third of the other."""
    state = _in_a_minor(LONG)
    before = findings(session, session.answer(state))
    [off] = [one for one in before if one.id == "off-key-kick"]
    assert off.fixes == {"mend": "Tune to A1"}
    row = pitches.pitched(session, state, "kick")
    assert row.moves[0].note == "A1"
    tuned, [change] = pitches.tuned_all(session, state)
    assert change.note == "A1"
    after = [one.id for one in findings(session, session.answer(tuned))]
    assert not {"off-key-kick", "kick-out-of-chord"} & set(after)
    assert pitches.pitched(session, tuned, "kick").in_tune
    assert pitches.tuned_all(session, tuned)[1] == []


def test_a_long_kick_in_key_but_out_of_the_chord_is_not_called_in_tune(session: Session) -> None:
    state = _in_a_minor(Hit.of(MadeKick(recipe=KickRecipe(end_hz=49.0, decay_ms=700, length_ms=800))))
    assert not pitches.pitched(session, state, "kick").in_tune
    [found] = [one for one in findings(session, session.answer(state)) if one.id == "kick-out-of-chord"]
    assert found.fixes["tune"] == "Tune to A1"
    assert pitches.tuned_all(session, state)[1][0].note == "A1"


def test_a_short_kick_goes_to_the_nearest_note_of_the_key(session: Session) -> None:
    short = Hit.of(MadeKick(recipe=KickRecipe(end_hz=50.0, decay_ms=150, length_ms=200)))
    assert pitches.pitched(session, _in_a_minor(short), "kick").moves[0].note == "G1"


@pytest.mark.parametrize(
    ("text", "hz"),
    [("A1", 55.0), ("a#1", 58.270), ("Bb1", 58.270), ("A1 +50", 56.612), ("A1 −50 cents", 53.434),
     ("58.3 Hz", 58.3), ("61,5", 61.5)],
)  # fmt: skip
def test_an_ear_says_a_note_and_the_hit_is_tuned_by_it(session: Session, text: str, hz: float) -> None:
    state = pitches.heard_as(STATE, "log", text)
    row = pitches.pitched(session, state, "log")
    assert row.sounds is not None
    assert row.sounds.hz == pytest.approx(hz, abs=0.01)
    assert row.sounds.degree == "by ear"
    target = row.moves[0]
    tuned, change = pitches.tuned_to(session, state, "log", target.note)
    assert change.shift_cents == pytest.approx(1200 * np.log2(target.hz / hz), abs=0.05)
    assert pitches.pitched(session, tuned, "log").in_tune
    assert pitches.heard_as(state, "log", " ").hits[3].heard_hz is None


@pytest.mark.parametrize("text", ["H1", "A", "loud", "A1 +", "12000 Hz", "14.9", "4001"])
def test_what_is_no_pitch_is_refused(text: str) -> None:
    with pytest.raises(UserError, match=r"is no pitch|outside"):
        pitches.heard_as(STATE, "kick", text)
    assert pitches.heard_as(STATE, "kick", "15.0").kick.heard_hz == 15.0
    assert pitches.heard_as(STATE, "kick", "4000").kick.heard_hz == 4000.0


def test_an_ear_can_put_a_kick_off_key_that_is_measured_in_key(session: Session) -> None:
    kick = Hit.of(MadeKick(recipe=KickRecipe(end_hz=55.0)))
    state = _in_a_minor(kick, "A", "A")
    assert "off-key-kick" not in [one.id for one in findings(session, session.answer(state))]
    heard = pitches.heard_as(state, "kick", "A1 +30")
    [off] = [one for one in findings(session, session.answer(heard)) if one.id == "off-key-kick"]
    assert off.value == pytest.approx(30, abs=0.1)
