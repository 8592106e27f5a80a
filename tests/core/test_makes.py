"""Every made sound, at every corner of every control."""

from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from juglant.core import RATE
from juglant.core.hits.making import made
from juglant.core.hits.scatter import COUNT, scatter
from juglant.core.measure.hit import measure
from juglant.core.measure.levels import momentary_max_lufs
from juglant.core.recipes.fields import Control, control_sheet
from juglant.core.recipes.hit import RECIPES, Hit, Made
from juglant.core.recipes.starts import STARTS

KINDS = list(RECIPES)
CORNERS = [
    (kind, control, value)
    for kind in KINDS
    for control in control_sheet(RECIPES[kind]).controls
    for value in dict.fromkeys((control.low, control.high))
]


def _source(kind: str, **changes: Any) -> Made:
    recipe = RECIPES[kind].model_validate(changes)
    source = Hit.model_validate({"layers": [{"source": {"kind": kind, "recipe": recipe.model_dump()}}]})
    only = source.only_source
    assert only is not None
    return only  # type: ignore[return-value]


def _is_sound(x: np.ndarray, level_db: float) -> None:
    assert np.isfinite(x).all()
    assert 20 * np.log10(np.max(np.abs(x))) == pytest.approx(level_db, abs=0.1)
    # Begun and ended at nought, so that nothing clicks; no offset that eats headroom.
    assert abs(x[-1]) < 1e-3
    assert abs(float(np.mean(x))) < 0.08 * float(np.max(np.abs(x)))


@pytest.mark.parametrize(
    ("kind", "control", "value"), CORNERS, ids=lambda one: getattr(one, "name", str(one))
)
def test_every_control_goes_to_its_ends(kind: str, control: Control, value: float) -> None:
    whole = int(value) if control.step >= 1 and control.unit == "" else value
    source = _source(kind, **{control.name: whole})
    _is_sound(made(source, 128.0), source.recipe.level_db)


@settings(max_examples=20, deadline=None)
@given(st.sampled_from(KINDS), st.integers(0, 10_000))
def test_no_corner_of_all_controls_at_once_breaks_a_sound(kind: str, seed: int) -> None:
    rng = np.random.default_rng(seed)
    changes: dict[str, Any] = {}
    for control in control_sheet(RECIPES[kind]).controls:
        # Not the whole seconds at once: the longest sounds are tried one by one above.
        high = min(control.high, 400.0) if control.unit == "ms" else control.high
        value = control.low if rng.random() < 0.5 else high
        changes[control.name] = int(value) if control.unit == "" and control.step >= 1 else value
    source = _source(kind, **changes)
    x = made(source, 128.0)
    assert np.isfinite(x).all()
    assert 20 * np.log10(np.max(np.abs(x))) == pytest.approx(source.recipe.level_db, abs=0.1)


@pytest.mark.parametrize("kind", KINDS)
def test_the_same_recipe_gives_the_same_samples_and_another_seed_others(kind: str) -> None:
    assert np.array_equal(made(_source(kind), 128.0), made(_source(kind), 128.0))
    if "seed" in RECIPES[kind].model_fields and kind != "percussion":
        assert not np.array_equal(made(_source(kind, seed=1), 128.0), made(_source(kind, seed=2), 128.0))


@pytest.mark.parametrize("kind", KINDS)
def test_there_are_starting_points_that_differ(kind: str) -> None:
    starts = STARTS[kind]
    assert len(starts) >= 4
    sounds = [made(source, 128.0) for source in starts.values()]
    for index, x in enumerate(sounds):
        assert all(not np.array_equal(x, other) for other in sounds[:index])
        assert source_kind(starts, index) == kind
        _is_sound(x, list(starts.values())[index].recipe.level_db)


def source_kind(starts: dict[str, Made], index: int) -> str:
    return list(starts.values())[index].kind


@pytest.mark.parametrize(
    ("kind", "field", "target_hz"),
    [
        ("kick", "end_hz", 52.0),
        ("808", "end_hz", 46.2),
        ("percussion", "end_hz", 98.0),
        ("snare", "tone_hz", 196.0),
    ],
)
def test_pitched_ones_sound_their_note(kind: str, field: str, target_hz: float) -> None:
    extra = {"noise_db": -20.0, "tone_ms": 300.0} if kind == "snare" else {}
    sound = made(_source(kind, **{field: target_hz}, **extra), 128.0)
    hit = measure(sound, RATE, recorded=False).hit
    assert hit.fundamental_hz is not None
    assert abs(1200 * np.log2(hit.fundamental_hz / target_hz)) < 3


@pytest.mark.thorough
@pytest.mark.parametrize("kind", KINDS)
def test_scatter_varies_within_the_limits_and_keeps_what_is_locked(kind: str) -> None:
    source = _source(kind)
    sheet = control_sheet(RECIPES[kind])
    group = sheet.controls[0].group
    found = scatter(source, 0.6, [group], seed=5)
    assert len(found) == COUNT
    assert found == scatter(source, 0.6, [group], seed=5)
    assert found != scatter(source, 0.6, [group], seed=6)
    for one in found:
        for control in sheet.controls:
            if control.group == group and control.name != "level_db":
                assert getattr(one.recipe, control.name) == getattr(source.recipe, control.name)
    loudness = [momentary_max_lufs(made(one, 126.0), RATE) for one in [source, *found]]
    assert max(loudness) - min(loudness) < 0.2
    assert all(one == source for one in scatter(source, 0.0, [], seed=5))
    assert any(one != source for one in found)
