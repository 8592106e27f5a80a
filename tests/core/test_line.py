"""What is played when: swing, strokes, choke groups, spill, and the level of every note."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from juglant.core.errors import UserError
from juglant.core.findings.fixes import choke, lower
from juglant.core.lowend.fitting import fitted, swing_of
from juglant.core.lowend.line import line_of, strokes_of
from juglant.core.lowend.loop import CHOKE_MS, choked, place
from juglant.core.lowend.session import Session
from juglant.core.lowend.voices import MOST_TRIM_DB, evened, voices
from juglant.core.recipes.bass import BassRecipe, PlayedRecipe
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.hit import Hit, Made808, MadeHat, MadeKick
from juglant.core.recipes.kick import KickRecipe
from juglant.core.recipes.notes import HitStep, Note, on_beats, on_pulse
from juglant.core.recipes.parts import MadeBass, PlayedBass
from juglant.core.recipes.tone808 import Recipe808
from juglant.core.recipes.track import TrackState
from juglant.core.synth.bass import notes, render_bass
from juglant.core.tempo import swung
from juglant.files.midi import MidiNote
from juglant.files.sheet import track_sheet
from tests.signals import RATE, sine
from tests.tracks import changed, rest_loop

BRIEF = Brief(bpm=120.0, tonic="A", mode="minor", chord_roots=("A", "F"))
SESSION = Session()


def _state(*, kick: dict[str, float] | None = None, bass: dict[str, object] | None = None) -> TrackState:
    recipe = KickRecipe(end_hz=50.0, decay_ms=900, length_ms=900, **(kick or {}))
    return TrackState.of(
        brief=BRIEF,
        kick=Hit.of(MadeKick(recipe=recipe), steps=on_beats(1)),
        bass=MadeBass(recipe=BassRecipe(wave=0.0, drive_db=0.0, lowpass_hz=20000.0, **(bass or {}))),
    )


@given(st.integers(0, 63), st.floats(50, 75))
def test_swing_moves_second_sixteenths_only(sixteenth: int, percent: float) -> None:
    at = sixteenth / 4
    late = swung(at, percent) - at
    assert late == pytest.approx((percent - 50) / 200 if sixteenth % 2 else 0.0)
    third = sixteenth / 3
    if abs(third * 4 - round(third * 4)) > 0.01:
        assert swung(third, percent) == third


def test_swing_is_heard_in_kicks_strokes_and_notes_alike() -> None:
    # Two thirds of an eighth is the second of three in a triplet.
    brief = BRIEF.model_copy(update={"swing_percent": 66.0})
    hit = Hit.of(MadeHat(), steps=(HitStep(at=0.25, velocity=0.5),))
    recipe = BassRecipe(pattern=(Note(at=0.25, beats=0.25),))
    state = TrackState.of(
        brief=brief,
        kick=Hit(steps=on_beats(1, 1.25)),
        hits=(hit.model_copy(update={"name": "Hat"}),),
        bass=MadeBass(recipe=recipe),
    )
    played = line_of(state)
    assert played.starts("kick")[1] == pytest.approx(165.0)
    assert [stroke.at_ms for stroke in played.strokes["hat"]] == pytest.approx([165.0, 2165.0])
    assert played.strokes["hat"][0].velocity == 0.5
    assert notes(recipe, brief)[0].start_ms == pytest.approx(165.0)
    # It lasts as long as it did: its end falls on an eighth, which does not swing.
    assert notes(recipe, brief)[0].length_ms == pytest.approx(85.0)


def test_a_line_follows_the_chord_roots() -> None:
    recipe = BassRecipe(octave=1, bars=1, pattern=(Note(at=0, semitones=0), Note(at=2, semitones=7)))
    assert [note.midi for note in notes(recipe, BRIEF)] == [33, 40, 29, 36]
    moved = BRIEF.model_copy(update={"chord_roots": ("A", "G")})
    assert [note.midi for note in notes(recipe, moved)] == [33, 40, 31, 38]


def test_a_pattern_of_two_bars_plays_each_once() -> None:
    recipe = BassRecipe(bars=2, pattern=(Note(at=0), Note(at=7, semitones=12)))
    assert [round(note.start_ms) for note in notes(recipe, BRIEF)] == [0, 3500]
    hit = Hit(bars=2, steps=(HitStep(at=5),))
    assert [stroke.at_ms for stroke in strokes_of(hit, BRIEF)] == [2500.0]


def test_a_gliding_note_comes_from_the_one_before_it() -> None:
    pattern = (Note(at=0, beats=2), Note(at=2, beats=2, semitones=12, glide=True))
    recipe = BassRecipe(
        octave=2, wave=0.0, drive_db=0.0, lowpass_hz=20000.0, glide_ms=200.0, pattern=pattern
    )
    x = render_bass(recipe, BRIEF.model_copy(update={"chord_roots": ("A",)}), RATE)

    def hz(from_ms: float) -> float:
        piece = x[round(from_ms * 48) : round((from_ms + 60) * 48)]
        return float(np.argmax(np.abs(np.fft.rfft(piece * np.hanning(piece.size), 2**17))) * RATE / 2**17)

    assert hz(500) == pytest.approx(110, abs=3)
    # Half way through the glide: an octave in pitch is half an octave up.
    assert hz(1000 + 100 - 30) == pytest.approx(110 * 2**0.5, rel=0.05)
    assert hz(1300) == pytest.approx(220, abs=3)


def test_velocity_is_level() -> None:
    pattern = (Note(at=0, beats=1), Note(at=2, beats=1, velocity=0.5))
    recipe = BassRecipe(octave=2, wave=0.0, drive_db=0.0, lowpass_hz=20000.0, pattern=pattern)
    x = render_bass(recipe, BRIEF.model_copy(update={"chord_roots": ("A",)}), RATE)
    loud, soft = (np.max(np.abs(x[a : a + 20000])) for a in (0, 48000))
    assert 20 * np.log10(soft / loud) == pytest.approx(-6.02, abs=0.1)


@pytest.mark.parametrize(
    "wrong",
    [
        {"pattern": [{"at": 4.0, "beats": 1}]}, {"pattern": [{"at": 0, "beats": 0}]},
        {"pattern": [{"at": 1, "beats": 1}, {"at": 0, "beats": 1}]},
        {"pattern": [{"at": 0, "semitones": 25}]}, {"pattern": [{"at": 0, "velocity": 0}]},
        {"bars": 9}, {"bars": 0},
    ],
)  # fmt: skip
def test_what_is_no_pattern_is_refused(wrong: dict[str, object]) -> None:
    with pytest.raises(ValidationError):
        BassRecipe.model_validate(wrong)
    with pytest.raises(ValidationError, match="strokes of the kick"):
        Hit(steps=(HitStep(at=1), HitStep(at=0)))


def test_patterns_of_the_first_version_are_read_as_they_were_meant() -> None:
    recipe = BassRecipe.model_validate({"pattern": [{"at": 6, "steps": 1.8}]})
    assert recipe.pattern == (Note(at=1.5, beats=0.45),)


@given(st.floats(0, 15.9))
def test_sixteenths_and_triplets_lie_on_pulses(beats: float) -> None:
    assert abs(on_pulse(beats) - beats) <= 0.5 / 480 + 1e-12
    for part in (1 / 4, 1 / 3, 1 / 6):
        place_ = round(beats / part) * part
        assert on_pulse(place_) == pytest.approx(place_, abs=1e-12)


def test_a_choked_sound_ends_where_the_other_begins_without_a_click() -> None:
    x = sine(50, 2.0)
    y = choked(x, [0.0, 1000.0], [400.0], RATE)
    fade = round(CHOKE_MS / 1000 * RATE)
    start = round(0.4 * RATE)
    assert np.array_equal(y[:start], x[:start])
    assert np.array_equal(y[RATE:], x[RATE:])
    assert not np.any(y[start + fade : RATE])
    assert np.max(np.abs(np.diff(y))) < 2 * np.max(np.abs(np.diff(x)))
    # What begins together, or has no other, is left alone; a loop is a circle.
    assert choked(x, [0.0], [1.0], RATE) is x
    assert choked(x, [0.0], [], RATE) is x
    assert choked(x, [0.0], [3.0], RATE) is x
    assert choked(x, [0.0], [3.1], RATE) is not x
    # On either side of the loop's end, too.
    assert choked(x, [1999.0], [1.0], RATE) is x
    assert choked(x, [1.0], [1998.0], RATE) is x
    assert choked(x, [1.0], [1997.0], RATE) is not x
    late = choked(x, [500.0], [1500.0], RATE)
    assert not np.any(late[round(1.51 * RATE) :])
    assert not np.any(late[: round(0.5 * RATE) - 1])


def test_strokes_of_different_velocity_and_width_share_one_voice() -> None:
    mono, wide = np.ones(4800), np.full((4800, 2), 0.5)
    y = place([(0.0, mono), (50.0, wide)], RATE, RATE, loop=False)
    assert y.shape == (RATE, 2)
    assert y[1000].tolist() == [1.0, 1.0]
    assert y[3000].tolist() == [0.5, 0.5]
    assert not np.any(place([], RATE, RATE, loop=True))


def test_spill_is_the_old_tail_over_the_new_note() -> None:
    state = _state(bass={"octave": 1, "level_db": -12.0, "pattern": (Note(at=1.5, beats=1.0),)})
    report = voices(SESSION, state)
    worst = report.spills[0]
    assert (worst.old, worst.new) == ("Kick", "bass")
    kick = SESSION.parts.kick_loop(state).level.level_db
    answer = SESSION.answer(state)
    bass = answer.ducked_loop.level.level_db
    at = round(worst.at_ms)
    assert worst.db == pytest.approx(kick[at] - bass[at : at + 500].max(), abs=0.1)
    # 50 Hz against A1 = 55 Hz wobbles five times a second, against F1 = 43.65 Hz 6.3 times.
    wobbles = {round(spill.wobble_hz or 0, 1) for spill in report.spills}
    assert wobbles == {5.0, 6.3}
    muted = changed(
        state,
        kick=state.kick.model_copy(update={"choke": "A"}),
        bass=state.with_line("bass", choke="A").bass,
    )
    assert voices(SESSION, muted).spills[0].db < -30
    assert (
        np.max(np.abs(SESSION.parts.kick_loop(muted).samples[round(0.8 * RATE) : round(1.9 * RATE)])) < 1e-9
    )


def test_a_hit_in_a_choke_group_cuts_the_kick_and_no_other_change_of_it_does() -> None:
    state = _state()
    low = Hit.of(MadeKick(), name="Low", steps=(HitStep(at=0.5),), choke="B")
    both = changed(state, kick=state.kick.model_copy(update={"choke": "B"}), hits=(low,))
    cut = SESSION.answer(both).kick_loop.samples
    assert np.max(np.abs(cut[round(0.3 * RATE) : round(1.9 * RATE)])) < 1e-9
    louder = changed(both, hits=(low.model_copy(update={"level_db": 3.0}),))
    assert SESSION.answer(louder).kick_loop is SESSION.answer(both).kick_loop
    silent = changed(both, hits=(low.model_copy(update={"mute": True}),))
    assert np.max(np.abs(SESSION.answer(silent).kick_loop.samples[round(0.3 * RATE) : RATE])) > 0.01


def test_the_rest_of_the_loop_is_the_other_hits() -> None:
    state = _state()
    assert rest_loop(SESSION, state) is None
    hat = Hit.of(MadeHat(), name="Hat", steps=(HitStep(at=0.5), HitStep(at=2.5, velocity=0.5)))
    rest = rest_loop(SESSION, changed(state, hits=(hat,)))
    assert rest is not None
    assert rest.shape[1] == 2
    first, second = (np.max(np.abs(rest[a : a + 4800])) for a in (round(0.25 * RATE), round(1.25 * RATE)))
    assert second < 0.8 * first
    assert rest_loop(SESSION, changed(state, hits=(hat.model_copy(update={"mute": True}),))) is None


def test_levels_timing_and_trims_of_every_note() -> None:
    pattern = (
        Note(at=0, beats=0.5), Note(at=1 / 48, beats=0.4), Note(at=2, beats=0.5, velocity=0.5),
        Note(at=3, beats=0.5),
    )  # fmt: skip
    state = _state(bass={"octave": 2, "pattern": pattern[:1] + pattern[2:]})
    state = state.with_kick(state.kick.model_copy(update={"steps": on_beats(1, 2.75)}))
    report = voices(SESSION, state)
    assert [note.timing for note in report.notes[:3]] == ["with the kick", "between kicks", "between kicks"]
    assert report.notes[1].low_db - report.notes[0].low_db == pytest.approx(-6.0, abs=0.5)
    assert report.low_spread_db > 5
    assert all(abs(note.trim_db) <= MOST_TRIM_DB for note in report.notes)
    even = voices(SESSION, evened(SESSION, state, "bass"))
    assert even.low_spread_db < 0.4 * report.low_spread_db
    missed = _state(bass={"pattern": (Note(at=0.05, beats=0.5),)})
    note = voices(SESSION, missed).notes[0]
    assert note.timing == "just after the kick"
    assert note.kick_ms == pytest.approx(25.0)
    assert note.ducked_db < -3


def test_the_ear_takes_a_low_note_for_softer() -> None:
    # ITU-R BS.1770 weights low frequencies down: one octave lower is heard softer at one level.
    state = _state(
        bass={"octave": 1, "pattern": (Note(at=0, beats=1.5), Note(at=2, beats=1.5, semitones=12))}
    )
    report = voices(SESSION, state)
    low, high = report.notes[:2]
    assert abs(low.low_db - high.low_db) < 2.5
    assert high.heard_db - high.low_db > low.heard_db - low.low_db + 3


def _played(hit: Hit, **recipe: object) -> TrackState:
    bass = PlayedBass(hit=hit, recipe=PlayedRecipe(**recipe))
    return TrackState.of(brief=BRIEF, kick=Hit(steps=on_beats(4.75)), bass=bass)


def test_an_808_plays_the_line_in_tune_one_voice_at_a_time() -> None:
    low = Hit.of(Made808(recipe=Recipe808(end_hz=47.3)), name="808", kind="808")
    pattern = (Note(at=0, beats=1.5), Note(at=2, beats=1.5, semitones=12, velocity=0.6))
    state = _played(low, octave=1, pattern=pattern)
    x = SESSION.parts.bass_loop(state).samples
    for start, hz in ((0.0, 55.0), (1.0, 110.0), (2.0, 43.654), (3.0, 87.307)):
        piece = x[round((start + 0.2) * RATE) : round((start + 0.7) * RATE)]
        level = np.abs(np.fft.rfft(piece * np.hanning(piece.size), 2**19))
        assert 1200 * np.log2(np.argmax(level) * RATE / 2**19 / hz) == pytest.approx(0, abs=3)
    # Over with its release, and softer where it is struck softer.
    assert np.max(np.abs(x[round(0.8 * RATE) : round(0.99 * RATE)])) < 0.02 * np.max(np.abs(x))
    assert np.max(np.abs(x[RATE : 2 * RATE])) < 0.9 * np.max(np.abs(x[:RATE]))
    assert [note.note_midi for note in voices(SESSION, state).notes] == [33, 45, 29, 41]
    again = TrackState.model_validate_json(state.model_dump_json())
    assert again == state


def test_a_note_beyond_the_recipe_is_resampled_and_a_pitchless_hit_is_left_as_it_is() -> None:
    low = Hit.of(Made808(recipe=Recipe808(end_hz=100.0)), name="808", kind="808")
    x = SESSION.parts.bass_loop(
        _played(low, octave=2, pattern=(Note(at=0, beats=3, semitones=24),))
    ).samples
    piece = x[round(0.1 * RATE) : round(0.4 * RATE)]
    assert np.argmax(np.abs(np.fft.rfft(piece * np.hanning(piece.size), 2**19))) * RATE / 2**19 == (
        pytest.approx(440.0, abs=2)
    )
    hat = Hit.of(MadeHat(), name="Hat", kind="hat")
    for octave in (1, 2):
        state = _played(hat, octave=octave, pattern=(Note(at=0, beats=0.5),))
        assert np.any(SESSION.parts.bass_loop(state).samples)


def test_fixes_reach_a_played_line() -> None:
    low = Hit.of(Made808(), name="808", kind="808")
    state = _played(low, pattern=(Note(at=0, beats=1),))
    assert choke(state, "Kick", "bass") == state.with_kick(
        state.kick.model_copy(update={"choke": "A"})
    ).with_line("bass", choke="A")
    quieter = lower(state, 3.0, bass=True)
    assert isinstance(quieter.bass, PlayedBass)
    assert quieter.bass.recipe.level_db == -3.0
    assert "808 settings" in track_sheet("x", SESSION.answer(state), [])


def _given(*places: tuple[float, float, int]) -> list[MidiNote]:
    return [MidiNote(at, beats, midi, 0.8) for at, beats, midi in places]


def test_notes_from_elsewhere_become_a_line_above_the_roots() -> None:
    found = fitted(_given((0, 1, 33), (2, 0.5, 40), (4, 1, 29), (6, 0.5, 36)), BRIEF)
    assert (found.octave, found.bars, found.said) == (1, 1, [])
    assert [(note.at, note.semitones) for note in found.pattern] == [(0, 0), (2, 7)]
    other = fitted(_given((0, 1, 33), (2, 0.5, 40), (4, 1, 29)), BRIEF)
    assert other.bars == 2


def test_what_a_line_cannot_hold_is_said() -> None:
    with pytest.raises(UserError, match="first 8 bars"):
        fitted(_given((32, 1, 33)), BRIEF)
    found = fitted(_given((0, 3, 33), (0, 1, 45), (1, 0, 33), (2, 1, 33 + 48), (36, 1, 33)), BRIEF)
    said = " ".join(found.said)
    for part in ("after bar 8", "with a lower one", "cut where the next", "without a length", "by octaves"):
        assert part in said
    assert [note.at for note in found.pattern] == [0, 1, 2]
    assert found.pattern[1].beats == 0.25


@pytest.mark.parametrize("percent", [50.0, 54.0, 58.5, 62.0, 66.5, 70.0])
def test_swing_is_found_where_it_was_played(percent: float) -> None:
    places = [swung(n / 4, percent) for n in range(16)]
    assert swing_of(places) == percent
    # One note elsewhere, and it is no swing but a place.
    assert swing_of([*places, 3.93]) == 50.0
    assert swing_of([0.0, 1.0, 1.5]) == 50.0
