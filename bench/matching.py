"""Sounds taken apart and made again: how near it comes, on random recipes and on recorded drums."""

import time

import numpy as np
from numpy.typing import NDArray

from bench import instruments
from bench.figures import figure, part
from juglant.core.hits.making import made
from juglant.core.lowend.session import Session
from juglant.core.matching.apart import taken_apart
from juglant.core.matching.bodies import KICK, TONE_808
from juglant.core.matching.distance import spectral_distance_db
from juglant.core.recipes.fields import Recipe, control_sheet
from juglant.core.recipes.hit import Made808, MadeKick
from juglant.core.recipes.kick import KickRecipe
from juglant.core.recipes.tone808 import Recipe808

Array = NDArray[np.float64]
RATE = 48_000
# Where a producer leaves the controls, so that there is a kick or an 808 to hear.
_KICK: dict[str, tuple[float, float]] = {
    "end_hz": (30, 90), "decay_ms": (80, 900), "pitch_decay_ms": (4, 90), "start_semitones": (4, 50),
    "pitch_curve": (-0.9, 0.9), "hold_ms": (0, 70), "decay_curve": (-0.6, 0.6), "attack_ms": (0, 4),
    "wave": (0, 1.3), "drive_db": (0, 18), "drive_bias": (0, 0.6), "release_ms": (5, 80),
    "click_db": (-40, -6), "click_tone_hz": (1500, 8000), "click_ms": (2, 12), "level_db": (-15, -1),
}  # fmt: skip
_808: dict[str, tuple[float, float]] = {
    "end_hz": (30, 70), "decay_ms": (300, 2500), "start_octaves": (0.3, 4), "pitch_decay_ms": (4, 90),
    "harmonics": (0, 1), "drive_db": (0, 18), "sustain_db": (-50, -6), "attack_ms": (0, 6),
    "release_ms": (20, 300), "length_ms": (400, 1800), "level_db": (-15, -1),
}  # fmt: skip
# What is off as often as not.
_OFF = {"wave": 0.4, "drive_db": 0.3, "drive_bias": 0.6}


def random_recipe(rng: np.random.Generator, model: type[Recipe]) -> Recipe:
    """A kick or an 808 whose every control lies anywhere that a producer might leave it."""
    ranges = _KICK if model is KickRecipe else _808
    logarithmic = {one.name for one in control_sheet(model).controls if one.scale == "log"}
    fields: dict[str, object] = {}
    for name, (low, high) in ranges.items():
        value = (
            np.exp(rng.uniform(np.log(low), np.log(high)))
            if name in logarithmic
            else rng.uniform(low, high)
        )
        fields[name] = 0.0 if rng.random() < _OFF.get(name, 0.0) else float(value)
    if model is KickRecipe:
        length = float(fields["decay_ms"]) * rng.uniform(0.8, 1.3) + float(fields["hold_ms"])  # type: ignore[arg-type]
        fields["length_ms"] = float(np.clip(length, 60, 2000))
    else:
        fields["push_to"] = "square" if rng.random() < 0.5 else "triangle"
    return model.model_validate(fields)


def course_hz(recipe: Recipe, time_s: Array, up: float = 0.0) -> Array:
    """The pitch course that a recipe asks for, resampled by so many semitones."""
    kind, faster = KICK if isinstance(recipe, KickRecipe) else TONE_808, 2 ** (up / 12)
    return faster * kind.hz(recipe.model_dump(), time_s * faster)


def course_errors_cents(
    true: Recipe, found: Recipe, heard_s: float, up: float = 0.0
) -> tuple[float, float]:
    """The largest deviation of a pitch course, in cents: in the sweep from 3 ms on, and once it has settled
    within 10 cents. What was found is resampled by `up` semitones.
    """
    at = np.arange(0.003, max(heard_s, 0.01), 0.001)
    wanted, got = course_hz(true, at), course_hz(found, at, up)
    off = np.abs(1200 * np.log2(got / wanted))
    settled = 1200 * np.log2(wanted / wanted[-1]) < 10
    return float(off[~settled].max(initial=0.0)), float(off[settled].max(initial=0.0))


def scored(count: int, seed: int) -> dict[str, list[float]]:
    """Random kicks and 808s, three to one, taken apart: errors of the course in the sweep and settled, in
    cents, of the decay, in percent, the body's distance in dB, and seconds.
    """
    rng = np.random.default_rng(seed)
    hits = Session().sounds.hits
    found: dict[str, list[float]] = {"sweep": [], "settled": [], "decay": [], "distance": [], "seconds": []}
    for n in range(count):
        recipe = random_recipe(rng, Recipe808 if n % 4 == 3 else KickRecipe)
        source = MadeKick(recipe=recipe) if isinstance(recipe, KickRecipe) else Made808(recipe=recipe)
        x = made(source, 120.0)
        began = time.perf_counter()
        apart = taken_apart(x, "x", "kick", hits, lambda _, name: f"{len(name):064x}")
        found["seconds"].append(time.perf_counter() - began)
        layer = apart.hit.layers[0]
        again, up = getattr(layer.source, "recipe"), layer.tune_semitones  # noqa: B009
        same = type(again) is type(recipe)
        heard_s = min(0.5, x.size / RATE)
        sweep, settled = course_errors_cents(recipe, again, heard_s, up)
        found["sweep"].append(sweep)
        found["settled"].append(settled)
        decay = abs(again.decay_ms / 2 ** (up / 12) / recipe.decay_ms - 1) * 100 if same else 100.0  # type: ignore[attr-defined]
        found["decay"].append(decay)
        found["distance"].append(spectral_distance_db(x, apart.sound, RATE))
    return found


def main(count: int = 200) -> None:
    """Print how near it comes."""
    found = {name: np.array(values) for name, values in scored(count, 31).items()}
    right = (found["sweep"] < 10) & (found["settled"] < 3)
    part(f"Sounds taken apart: {count} random kicks and 808s of the synthesizer")
    figure("pitch course within 10 and 3 cents", 100 * np.mean(right), "%", 90, at_least=True)
    figure("decay within 5 %", 100 * np.mean(found["decay"] < 5), "%", 90, at_least=True)
    figure("third octaves within 1.5 dB", 100 * np.mean(found["distance"] < 1.5), "%", 90, at_least=True)
    _spent("made", found["seconds"])
    hits, distances, left, spent = Session().sounds.hits, [], [], []
    for kit in instruments.KITS:
        for key in instruments.DRUMS["kick"]:
            x = instruments.played([(0.0, 0.5, key, 110)], 0.9, kit, drums=True).mean(axis=1)
            began = time.perf_counter()
            near = taken_apart(x, "kick", "kick", hits, lambda _, name: f"{len(name):064x}").likeness
            spent.append(time.perf_counter() - began)
            distances.append(near.spectral_distance_db)
            left.append(near.body_residual_db)
    within = np.mean(np.array(distances) < 3)
    figure(f"{len(left)} recorded kicks within 3 dB", 100 * within, "%", 100, at_least=True)
    figure("what their bodies alone leave, median", np.median(left), "dB")
    _spent("recorded", np.array(spent))


def _spent(whose: str, seconds: Array) -> None:
    figure(f"{whose}: time, median", np.median(seconds), "s", 4)
    figure(f"{whose}: time, longest", seconds.max(), "s")
