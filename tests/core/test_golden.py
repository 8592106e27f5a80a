"""What every kind of sound and every stage gives, in numbers that are kept: samples that change without
ENGINE_VERSION being raised make a kept version sound different, and fail here.

After raising it: python -m tests.core.test_golden writes the numbers anew.
"""

import json
from functools import cache
from pathlib import Path

import numpy as np
import pytest

from juglant.core import ENGINE_VERSION
from juglant.core.hits.chain import apply_stage
from juglant.core.hits.making import made
from juglant.core.measure.levels import THIRD_OCTAVES_HZ, Spectrum
from juglant.core.measure.stereo import mono
from juglant.core.recipes.chain import STAGES
from juglant.core.recipes.hit import (
    Made,
    Made808,
    MadeClap,
    MadeHat,
    MadeKick,
    MadeMembrane,
    MadePercussion,
    MadeSnare,
)
from tests.signals import RATE, Array, noise, ring

GOLDEN = Path(__file__).with_name("golden.json")
SOURCES: tuple[Made, ...] = (
    MadeKick(), Made808(), MadeSnare(), MadeMembrane(), MadeClap(), MadeHat(), MadePercussion(),
)  # fmt: skip
# Something for a stage to do that does nothing as it comes.
_BUSY = {
    "trim": {"length_ms": 120.0}, "equaliser": {"bell_db": 6.0}, "drive": {"drive_db": 12.0},
    "transient": {"attack_db": 9.0}, "compressor": {"threshold_db": -30.0}, "gate": {"threshold_db": -20.0},
    "clip": {"ceiling_db": -9.0}, "limit": {"amount_db": 6.0}, "grains": {"stretch": 1.5},
    "level": {"gain_db": -3.0, "pan": 0.3},
}  # fmt: skip
_FLOOR_DB, _SLICES = -70.0, 16


def _levels(x: Array) -> list[float]:
    """Levels of 16 slices of a sound, and of its third octaves, in dB."""
    whole = mono(x)
    slices = [float(np.mean(part * part)) for part in np.array_split(whole, _SLICES)]
    bands = Spectrum(whole, RATE).third_octaves(THIRD_OCTAVES_HZ) / whole.size
    power = np.maximum(np.array([*slices, *bands]), 10 ** (_FLOOR_DB / 10))
    return [round(float(db), 3) for db in 10 * np.log10(power)]


@cache
def _renders() -> dict[str, list[float]]:
    struck = 0.6 * ring(70.0, 250, 0.5) + 0.1 * noise(0.5) * np.exp(-np.arange(RATE // 2) / 2000)
    found = {f"source {one.kind}": _levels(made(one, 126.0)) for one in SOURCES}
    for name, stage in STAGES.items():
        found[f"stage {name}"] = _levels(apply_stage(struck, stage(**_BUSY.get(name, {})), RATE, 126.0))
    return found


@pytest.fixture(scope="module")
def kept() -> dict[str, object]:
    return json.loads(GOLDEN.read_text())  # type: ignore[no-any-return]


def test_the_numbers_are_those_of_this_engine_and_leave_nothing_out(kept: dict[str, object]) -> None:
    assert kept["engine"] == ENGINE_VERSION
    assert isinstance(kept["renders"], dict)
    assert kept["renders"].keys() == _renders().keys()


@pytest.mark.parametrize(
    "name", [*(f"source {one.kind}" for one in SOURCES), *(f"stage {one}" for one in STAGES)]
)
def test_what_is_rendered_is_what_was_rendered(name: str, kept: dict[str, object]) -> None:
    renders = kept["renders"]
    assert isinstance(renders, dict)
    apart = np.abs(np.array(renders[name]) - np.array(_renders()[name]))
    # A fiftieth of a decibel: other builds of the same libraries round no further apart.
    assert apart.max() < 0.02


if __name__ == "__main__":
    GOLDEN.write_text(json.dumps({"engine": ENGINE_VERSION, "renders": _renders()}) + "\n")
