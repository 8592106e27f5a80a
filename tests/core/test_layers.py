"""Layers: placed, aligned, weighed, and played."""

from typing import Any

import numpy as np
import pytest

from juglant.core import RATE
from juglant.core.hits import chain, jobs
from juglant.core.hits.align import align, cancellations, joined
from juglant.core.hits.mixing import delayed_by
from juglant.core.hits.moved import shifted
from juglant.core.hits.render import take_for
from juglant.core.lowend.session import Array, Session
from juglant.core.measure.takenumbers import reaches, velocity_groups
from juglant.core.measure.width import side_delay
from juglant.core.recipes.chain import DriveStage, LevelStage
from juglant.core.recipes.hit import (
    Hit,
    Imported,
    Layer,
    Made808,
    MadeClap,
    MadeHat,
    MadeKick,
    MadeMembrane,
    Take,
    Velocity,
)
from juglant.core.recipes.kick import KickRecipe
from tests.signals import noise, ring, sine

CLICK, BODY = "a" * 64, "b" * 64
FILES: dict[str, Array] = {
    CLICK: 0.5 * noise(0.02) * np.exp(-np.arange(960) / 200),
    BODY: 0.8 * ring(55.0, 400, 0.5),
}
SESSION = Session(lambda digest: (FILES[digest], RATE))


def _layer(audio: str, **fields: Any) -> Layer:
    return Layer(source=Imported(audio=audio, name=audio[:3]), **fields)


def _render(*layers: Layer, **fields: Any) -> Array:
    return SESSION.sounds.hits.hit(Hit(layers=layers, **fields), 120.0)


def test_a_hit_of_one_plain_layer_is_its_source() -> None:
    assert np.array_equal(_render(_layer(BODY)), FILES[BODY])


def test_layers_add_up_with_gain_polarity_and_offset() -> None:
    x = _render(_layer(BODY), _layer(CLICK, gain_db=-6.0, polarity="inverted", offset_ms=10.0))
    expected = FILES[BODY].copy()
    expected[480 : 480 + 960] -= 10 ** (-6 / 20) * FILES[CLICK]
    assert np.allclose(x, expected, rtol=0, atol=1e-12)


def test_an_early_layer_makes_the_others_late_and_nothing_is_lost() -> None:
    x = _render(_layer(BODY), _layer(CLICK, offset_ms=-5.0))
    assert x.size == FILES[BODY].size + 240
    assert np.allclose(x[:240], FILES[CLICK][:240], rtol=0, atol=1e-12)


def test_a_fraction_of_a_frame_is_kept() -> None:
    tone = sine(1000.0, 0.1) * np.hanning(4800)
    late = delayed_by(tone, 0.25)
    expected = np.sin(2 * np.pi * 1000.0 * (np.arange(4800) - 0.25) / RATE) * np.hanning(4800)
    assert np.allclose(late[:4800], expected, rtol=0, atol=1e-3)


def test_mute_and_solo_and_pan() -> None:
    both = (_layer(BODY), _layer(CLICK))
    muted = _render(both[0], both[1].model_copy(update={"mute": True}))
    soloed = _render(both[0].model_copy(update={"solo": True}), both[1])
    assert np.array_equal(muted, FILES[BODY])
    assert np.array_equal(soloed, FILES[BODY])
    wide = _render(_layer(BODY), _layer(CLICK, pan=1.0))
    assert wide.ndim == 2
    assert np.allclose(wide[:, 0], FILES[BODY], rtol=0, atol=1e-12)


def test_only_the_tail_fades_in_past_the_attack() -> None:
    x = _render(_layer(BODY, part="only the tail", fade_in_ms=50.0))
    top = int(np.argmax(np.abs(FILES[BODY])))
    assert np.max(np.abs(x[:top])) < 1e-3
    late = slice(top + 4800, top + 9600)
    assert np.allclose(x[late], FILES[BODY][late], rtol=0, atol=1e-9)


@pytest.mark.parametrize("frames", [0.0, 3.37, -17.81, 240.5, 1000.25])
@pytest.mark.parametrize("polarity", [1, -1])
def test_known_delays_are_recovered_to_a_twentieth_of_a_sample(frames: float, polarity: int) -> None:
    # 30 dB of signal over noise on both; a fractional delay by the shift theorem.
    rng = np.random.default_rng(abs(round(frames * 7)))
    a = np.convolve(rng.standard_normal(4800), np.hanning(12), "same") * np.exp(-np.arange(4800) / 900)
    early, late = max(-frames, 0.0), max(frames, 0.0)
    first, second = delayed_by(a, late), polarity * delayed_by(a, early)
    level = 10 ** (-30 / 20) * float(np.sqrt(np.mean(a * a)))
    first = first + level * rng.standard_normal(first.size)
    second = second + level * rng.standard_normal(second.size)
    found = align(first, second, RATE)
    assert found.polarity == polarity
    assert found.offset_ms / 1000 * RATE == pytest.approx(frames, abs=0.05)
    assert found.correlation > 0.95


def test_aligning_gains_what_it_says_and_a_band_may_decide() -> None:
    body = ring(60.0, 300, 0.4)
    late = -np.concatenate([np.zeros(200), body])
    found = align(body, late, RATE, (20.0, 150.0))
    assert found.polarity == -1
    assert found.offset_ms == pytest.approx(-200 / 48, abs=0.02)
    before, after = (
        joined(body, late, offset, polarity, RATE)
        for offset, polarity in ((0.0, 1), (found.offset_ms, found.polarity))
    )
    gain = 10 * np.log10((after @ after) / (before @ before))
    assert gain > 3
    assert found.gain_db["thump"] > 2
    # Two alike in step: +6.02 dB over one of them (any acoustics text).
    assert 10 * np.log10((after @ after) / (body @ body)) == pytest.approx(6.02, abs=0.05)
    assert align(body, np.zeros(500), RATE).gain_db == {}


def test_cancellation_is_told_per_band_the_worst_first() -> None:
    low, high = ring(63.0, 400, 0.5), 0.5 * ring(1000.0, 200, 0.5)
    found = cancellations({0: low + high, 3: -low + high}, RATE)
    assert found[0].layers == [0, 3]
    assert found[0].band_hz == pytest.approx(63.1, abs=0.1)
    assert found[0].gain_db < -20
    # Coherent sum of two alike: +3.01 dB over their energies (any acoustics text).
    assert found[-1].gain_db == pytest.approx(3.01, abs=0.1)
    unlike = cancellations({0: noise(0.5, 1), 1: noise(0.5, 2)}, RATE)
    assert np.median([one.gain_db for one in unlike]) == pytest.approx(0.0, abs=0.5)


def test_shares_say_what_each_layer_gives_and_which_is_not_missed() -> None:
    sounds = {0: FILES[BODY], 1: FILES[CLICK], 2: 1e-4 * FILES[BODY]}
    given = {share.layer: share for share in jobs.shares(sounds, RATE)}
    assert given[0].parts_db["tail"] > given[1].parts_db["tail"] + 20
    assert given[1].missed_db > 3
    assert given[2].missed_db < jobs.INAUDIBLE_DB
    assert given[0].bands_db["sub"] > given[1].bands_db["sub"] + 20


def test_a_hole_is_named_and_a_whole_kick_has_none() -> None:
    whole = SESSION.sounds.hits.hit(Hit(), 120.0)
    assert jobs.holes("kick", whole, RATE) == []
    dull = Hit.of(MadeKick(recipe=KickRecipe(click_db=-60.0, start_semitones=12.0)))
    [hole] = jobs.holes("kick", SESSION.sounds.hits.hit(dull, 120.0), RATE)
    assert hole.name == "click"
    assert hole.value_db < hole.limit_db


def test_width_made_by_delay_is_found_with_its_first_notch() -> None:
    clap = SESSION.sounds.hits.hit(Hit.of(MadeClap(), kind="clap"), 120.0)
    # A copy delayed by tau and summed to mono notches first at 1/(2 tau) (any signals text).
    delayed = np.stack([np.append(clap, np.zeros(96)), np.append(np.zeros(96), clap)], axis=1)
    found = side_delay(delayed, RATE)
    assert found is not None
    assert found.delay_ms == pytest.approx(2.0, abs=0.03)
    assert found.first_notch_hz == pytest.approx(250.0, abs=4)
    other = SESSION.sounds.hits.hit(
        Hit.of(MadeClap(recipe=MadeClap().recipe.model_copy(update={"seed": 9}))), 120.0
    )
    size = min(clap.size, other.size)
    assert side_delay(np.stack([clap[:size], other[:size]], axis=1), RATE) is None
    assert side_delay(np.stack([clap, clap], axis=1), RATE) is None


@pytest.mark.parametrize("source", [MadeKick(), Made808(), MadeMembrane(), MadeHat()], ids=lambda s: s.kind)
def test_a_softer_stroke_is_quieter_duller_and_shorter(source: Any) -> None:
    hit = Hit.of(source, velocity=Velocity(brightness=0.8))

    def centroid(x: Array) -> float:
        power = np.abs(np.fft.rfft(x)) ** 2
        return float(np.sum(np.arange(power.size) * RATE / x.size * power) / np.sum(power))

    loud, soft = (SESSION.sounds.hits.hit(hit, 120.0, velocity) for velocity in (1.0, 0.4))
    assert np.max(np.abs(soft)) < 0.7 * np.max(np.abs(loud))
    assert centroid(soft) < centroid(loud)
    flat = hit.model_copy(update={"velocity": Velocity(level=0.0, brightness=0.0, decay=0.0, pitch=0.0)})
    if source.kind != "membrane":
        assert np.array_equal(
            SESSION.sounds.hits.hit(flat, 120.0, 0.4), SESSION.sounds.hits.hit(flat, 120.0)
        )


def test_takes_are_played_in_turn_and_by_velocity() -> None:
    source = Imported(
        audio=BODY, name="hard",
        takes=(Take(audio=BODY, name="hard again"), Take(audio=CLICK, name="soft", up_to=0.5)),
    )  # fmt: skip
    names = [
        take_for(source, velocity, turn).name
        for velocity, turn in ((1.0, 0), (1.0, 1), (1.0, 2), (0.4, 0), (0.4, 1))
    ]
    assert names == ["hard", "hard again", "hard", "soft", "soft"]
    levels = [-3.0, -9.5, -4.0, -10.0, -20.0]
    groups = velocity_groups(levels)
    assert groups == [[0, 2], [1, 3], [4]]
    up_to = reaches(groups, levels)
    assert up_to[0] == 1.0
    assert up_to == sorted(up_to, reverse=True)


def test_a_stretch_of_a_recording_is_cut_without_a_click() -> None:
    source = Imported(audio=BODY, name="part", start_ms=100.0, end_ms=200.0)
    x = SESSION.sounds.hits.hit(Hit.of(source), 120.0)
    assert x.size == 4800
    assert abs(x[-1]) < 1e-6
    assert np.allclose(x[:4000], FILES[BODY][4800:8800], rtol=0, atol=1e-12)


def test_shifting_moves_all_layers_together_and_a_made_one_by_its_recipe() -> None:
    made = shifted(Hit(), 12.0)
    assert made.only_source is not None
    assert made.only_source.recipe.end_hz == pytest.approx(98.0)  # type: ignore[union-attr]
    several = shifted(Hit(layers=(Layer(), _layer(CLICK))), -3.0)
    assert [layer.tune_semitones for layer in several.layers] == [-3.0, -3.0]


def test_one_layers_change_renders_no_other_and_no_earlier_stage(monkeypatch: pytest.MonkeyPatch) -> None:
    calls: list[str] = []
    original = chain.apply_stage

    def counted(x: Array, stage: Any, rate: int, bpm: float) -> Array:
        calls.append(stage.stage)
        return original(x, stage, rate, bpm)

    monkeypatch.setattr(chain, "apply_stage", counted)
    session = Session(lambda digest: (FILES[digest], RATE))
    drive, level = DriveStage(drive_db=6.0), LevelStage(gain_db=-3.0)
    hit = Hit(layers=(_layer(BODY, chain=(drive, level)), _layer(CLICK, chain=(drive,))), chain=(level,))
    session.sounds.hits.hit(hit, 120.0)
    assert sorted(calls) == ["drive", "drive", "level", "level"]
    calls.clear()
    quieter = hit.layers[0].model_copy(update={"chain": (drive, LevelStage(gain_db=-4.0))})
    session.sounds.hits.hit(hit.model_copy(update={"layers": (quieter, hit.layers[1])}), 120.0)
    assert calls == ["level", "level"]


def test_what_the_first_version_stored_is_a_hit_of_one_layer() -> None:
    old = {"kind": "made", "recipe": {"end_hz": 51.0}}
    hit = Hit.model_validate(old)
    assert hit == Hit.of(MadeKick(recipe=KickRecipe(end_hz=51.0)))
    file = Hit.model_validate({"kind": "imported", "audio": BODY, "name": "kick.wav", "level_db": -2.0})
    assert file.audio == {BODY}
