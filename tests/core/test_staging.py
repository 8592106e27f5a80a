"""Loops through stages and into their place."""

import numpy as np
import pytest
from pydantic import ValidationError

from juglant.core.hits.chain import apply_stage
from juglant.core.lowend.session import Session
from juglant.core.lowend.staging import put, through_stage, turned
from juglant.core.measure.stereo import stereo
from juglant.core.recipes.bass import BassRecipe
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.chain import STAGES, ClipStage, DelayStage, DriveStage, EqualiserStage, SpaceStage
from juglant.core.recipes.dynamics import CompressorStage
from juglant.core.recipes.fields import Recipe
from juglant.core.recipes.hit import Hit, Imported, MadeHat
from juglant.core.recipes.notes import HitStep, on_beats
from juglant.core.recipes.parts import AnyPart, Chord, ImportedBass, MadeBass, Stem, Voice
from juglant.core.recipes.place import MONO, Place
from juglant.core.recipes.track import TrackState
from tests.signals import RATE, Array, noise, sine
from tests.tracks import rest_loop

ON_A_LOOP = [name for name, stage in STAGES.items() if not stage.of_a_stroke]
WIDE = "a" * 64
SIDES = [sine(low, 2, -14) + sine(high, 2, -20) for low, high in ((60, 220), (75, 331))]
SESSION = Session(lambda _: (np.stack(SIDES, axis=1), RATE))
BRIEF = Brief(bpm=120.0, chord_roots=("tonic",))
TICK = Hit.of(MadeHat(), name="Tick", kind="hat", steps=on_beats(1))


def _busy(name: str) -> Recipe:
    """A stage that does something to whatever passes."""
    work = {
        "equaliser": {"bell_db": 9.0}, "drive": {"drive_db": 12.0}, "transient": {"attack_db": 9.0},
        "compressor": {"threshold_db": -40.0}, "gate": {"threshold_db": -8.0}, "limit": {"amount_db": 6.0}, "bands": {"low_down": 6.0}, "clip": {"ceiling_db": -24.0}, "level": {"gain_db": -3.0},
    }  # fmt: skip
    return STAGES[name](**work.get(name, {}))


@pytest.mark.parametrize("name", ON_A_LOOP)
def test_a_loop_through_a_stage_has_always_been_running(name: str) -> None:
    """The tenth pass of the loop played ten times in a row is the loop as it is made."""
    loop = 0.3 * noise(0.5) * np.exp(-np.arange(RATE // 2) / 6000)
    stage = _busy(name)
    made = through_stage(loop, stage, RATE, 120.0)
    passes = 10 if name != "space" else 6
    straight = apply_stage(np.tile(loop, passes + 1), stage, RATE, 120.0)
    last = straight[(passes - 1) * loop.size : passes * loop.size]
    assert made.shape == last.shape
    assert np.max(np.abs(made - last)) < 1e-3 * np.max(np.abs(last))


@pytest.mark.parametrize("name", ["trim", "envelope", "grains"])
def test_what_works_on_a_stroke_is_refused_on_a_loop(name: str) -> None:
    for where in ("stages", "after"):
        with pytest.raises(ValidationError, match=f"{name} works on a single stroke"):
            Stem.model_validate({"name": "x", "audio": WIDE, where: [{"stage": name}]})
    # In the chain that every stroke passes it is welcome.
    assert Hit(chain=(STAGES[name](),)).chain


def test_an_echo_rings_on_under_later_strokes_and_round_the_loop() -> None:
    """A dotted-eighth echo on four strokes fills twelve of sixteen sixteenths above -45 dB."""
    echo = DelayStage(time="1/8.", mix_db=-3.0, feedback=0.7, highpass_hz=20.0, lowpass_hz=20000.0)
    plain = TICK.model_copy(update={"steps": on_beats(1, 2, 3, 4)})
    for where, least in (("stages", 12), ("chain", 0)):
        hit = plain.model_copy(update={where: (echo,)})
        loop = rest_loop(SESSION, TrackState.of(brief=BRIEF, hits=(hit,)))
        assert loop is not None
        step = loop.shape[0] // 16
        peaks = [float(np.max(np.abs(loop[n * step : n * step + step // 2]))) for n in range(16)]
        filled = sum(20 * np.log10(max(peak, 1e-9) / max(peaks)) > -45 for peak in peaks)
        assert filled >= least
    # Cut at the next stroke, as the chain of a stroke is, the echo cannot come so far.
    assert filled < 12


def test_a_repeat_in_the_loop_is_as_loud_as_in_the_one_shot() -> None:
    echo = DelayStage(time="1/4.", mix_db=-6.0, feedback=0.5)
    alone = Session().sounds.hits.hit(TICK.model_copy(update={"chain": (echo,)}), 120.0)
    hit = TICK.model_copy(update={"stages": (echo,), "steps": on_beats(1, 2), "bars": 2})
    two_bars = BRIEF.model_copy(update={"chord_roots": ("tonic", "tonic")})
    loop = rest_loop(SESSION, TrackState.of(brief=two_bars, hits=(hit,)))
    assert loop is not None
    at = round(0.75 * RATE)
    one, in_loop = (float(np.max(np.abs(x[at : at + 4800]))) for x in (alone, loop[:, 0]))
    assert 20 * np.log10(in_loop / one) == pytest.approx(0, abs=0.5)


PARTS: dict[str, AnyPart] = {
    "kick": Hit(id="kick", steps=on_beats(1, 2, 3, 4)),
    "bass": Voice(id="bass", name="bass", bass=MadeBass(recipe=BassRecipe())),
    "file line": Voice(id="bass", name="bass", bass=ImportedBass(audio=WIDE, name="x")),
    "hat": TICK.model_copy(update={"id": "hat", "steps": (HitStep(at=0.5), HitStep(at=2, velocity=0.4))}),
    "sampled hit": Hit.of(Imported(audio=WIDE, name="x"), id="sampled", name="S", steps=on_beats(2)),
    "stem": Stem(id="stem", name="Stem", audio=WIDE),
    "chord": Chord(id="chord"),
}


def _track(kind: str, **fields: object) -> TrackState:
    """A track with a part of a kind, changed."""
    part = PARTS[kind].model_copy(update=fields)
    base = TrackState.of(brief=BRIEF)
    if any(one.id == part.id for one in base.parts):
        return base.with_part(part)
    return base.model_copy(update={"parts": (*base.parts, part)})


def _sounds(kind: str, **fields: object) -> Array:
    state = _track(kind, **fields)
    loop = SESSION.parts.part(state, PARTS[kind].id)
    assert loop is not None
    return SESSION.parts.ducked(state, loop, state.with_part(PARTS[kind].model_copy(update=fields)).parts[
        [one.id for one in state.parts].index(PARTS[kind].id)]).samples  # fmt: skip


@pytest.mark.parametrize("kind", PARTS)
@pytest.mark.parametrize("where", ["stages", "after"])
@pytest.mark.parametrize("name", ON_A_LOOP)
def test_every_part_takes_every_stage_on_its_loop(kind: str, where: str, name: str) -> None:
    plain, through = _sounds(kind), _sounds(kind, **{where: (_busy(name),)})
    assert np.all(np.isfinite(through))
    assert through.shape[0] == plain.shape[0]
    assert not np.array_equal(np.broadcast_arrays(plain, plain)[0], through)
    assert np.array_equal(through, _sounds(kind, **{where: (_busy(name),)}))


@pytest.mark.parametrize("kind", PARTS)
@pytest.mark.parametrize(
    "place",
    [
        {"gain_db": -7.0}, {"pan": 0.5}, {"width": 0.0}, {"width": 1.0}, {"mono_below_hz": 300.0},
        {"delay_ms": 1.6}, {"polarity": "inverted"},
    ],
)  # fmt: skip
def test_every_part_has_a_place(kind: str, place: dict[str, object]) -> None:
    x = _sounds(kind, place=Place(**place))
    assert np.all(np.isfinite(x))
    if place.get("pan"):
        assert x.ndim == 2
        left, right = (float(np.sum(side**2)) for side in x.T)
        assert right > 2 * left
    if place.get("width") == 0.0:
        assert x.ndim == 1
    if place.get("polarity"):
        assert np.allclose(x, -_sounds(kind, place=Place()))


def test_a_file_of_two_sides_is_a_mono_line_until_it_is_given_width() -> None:
    assert _sounds("file line", place=MONO).ndim == 1
    wide = _sounds("file line", place=Place(mono_below_hz=250.0))
    assert wide.ndim == 2
    # What lies below is mono: the correlation under 120 Hz stays 1.
    low = stereo(
        through_stage(wide, EqualiserStage(lowpass_hz=120.0, lowpass_slope="48"), RATE, 120.0), RATE
    )
    assert low.low_mono_loss_db == pytest.approx(0, abs=0.05)


def test_gain_width_and_mono_range_are_what_they_say() -> None:
    wide = np.stack([sine(80, 1, -12), sine(900, 1, -12)], axis=1)
    assert np.allclose(put(wide, Place(gain_db=-6.0), RATE), wide * 10 ** (-6 / 20), rtol=1e-6, atol=1e-12)
    twice = put(wide, Place(width=2.0), RATE)
    assert np.allclose(twice.sum(axis=1), wide.sum(axis=1), rtol=1e-6, atol=1e-12)
    assert np.allclose(np.diff(twice, axis=1), 2 * np.diff(wide, axis=1), rtol=1e-6, atol=1e-12)
    narrow = put(wide, Place(mono_below_hz=300.0), RATE)
    assert np.allclose(narrow.sum(axis=1), wide.sum(axis=1), rtol=1e-6, atol=1e-12)
    assert stereo(narrow, RATE).low_mono_loss_db == pytest.approx(0, abs=0.1)


def test_a_delay_and_a_polarity_act_before_the_stages() -> None:
    x = sine(100, 1, -12)
    later = turned(x, Place(delay_ms=2.5, polarity="inverted"), RATE)
    assert np.allclose(later, -np.roll(x, 120), rtol=0, atol=1e-6)
    # An asymmetric drive hears which way up its input is.
    bent = DriveStage(drive_db=18.0, curve="asymmetric")
    up, down = (
        _sounds("bass", stages=(bent,), place=MONO.model_copy(update={"polarity": way}))
        for way in ("normal", "inverted")
    )
    assert np.max(np.abs(up + down)) > 0.01 * np.max(np.abs(up))


def test_stages_behind_the_duckings_ring_through_them() -> None:
    hall = SpaceStage(kind="hall", mix_db=0.0, decay_ms=1200.0)
    before, behind = _sounds("bass", stages=(hall,)), _sounds("bass", after=(hall,))
    assert before.shape == behind.shape
    assert not np.allclose(before, behind)


def test_reports_follow_the_stages_of_a_loop() -> None:
    chain = (EqualiserStage(bell_db=6.0), ClipStage(ceiling_db=-20.0), CompressorStage(bypass=True))
    state = _track("bass", stages=chain)
    loops = SESSION.parts.stages(state, "bass")
    assert len(loops) == 4
    assert np.max(np.abs(loops[2].samples)) <= 10 ** (-20 / 20) + 1e-8
    assert loops[3] is loops[2]
    assert len(SESSION.parts.stages(_track("bass", after=chain[:1]), "bass", behind=True)) == 2


def test_only_what_follows_a_changed_stage_is_made_again() -> None:
    """Counted, not timed: a line's sound stays while its chain changes, and a stage while a later one does."""
    session = Session()
    made: list[str] = []
    original = session.sounds.sound
    seen: set[str] = set()

    def counted(render, *seen_by, **named):  # type: ignore[no-untyped-def]
        loop = original(render, *seen_by, **named)
        if loop.key not in seen:
            seen.add(loop.key)
            made.append(render.__name__)
        return loop

    session.sounds.sound = counted  # type: ignore[method-assign]
    first = EqualiserStage(bell_db=6.0)

    def look(db: float) -> list[str]:
        made.clear()
        state = _track("bass", stages=(first, EqualiserStage(bell_db=db)))
        voice = state.voices[0]
        session.parts.line_loop(state, voice)
        return list(made)

    assert look(1.0) == ["_made_line", "_staged", "_staged", "_put"]
    assert look(2.0) == ["_staged", "_put"]
