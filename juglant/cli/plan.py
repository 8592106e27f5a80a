"""A plan of several triggers and targets, read from a JSON file."""

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from pydantic import Field

from juglant.cli.common import Array, checked, read, read_json
from juglant.core.errors import UserError
from juglant.core.hits.chain import each_channel
from juglant.core.lowend import ducking
from juglant.core.lowend.loop import kick_times_ms
from juglant.core.lowend.pair import duck_pair, in_band, length_of
from juglant.core.music import note_value_ms
from juglant.core.process.resampling import change_rate
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.ducking import NoteRate
from juglant.core.recipes.fields import Recipe
from juglant.core.recipes.notes import Beat


class Trigger(Recipe):
    """Beats of the bar from 1, or a note value; `file` is a one-shot that solving needs."""

    beats: tuple[Beat, ...] = (1.0, 2.0, 3.0, 4.0)
    every: NoteRate | None = None
    file: str | None = Field(None, max_length=1000)


class Target(Recipe):
    """A file, what turns it down, and how; without `duck` it is solved from the trigger's file."""

    file: str = Field(max_length=1000)
    trigger: str = Field(max_length=60)
    duck: DuckRecipe | None = None
    margin_db: float = Field(0.0, ge=0.0, le=24.0)
    returns: NoteRate | None = None
    below_hz: float | None = Field(None, ge=40.0, le=20000.0)
    above_hz: float | None = Field(None, ge=40.0, le=20000.0)


class Plan(Recipe):
    """Tempo, triggers by their names, and targets."""

    bpm: float = Field(ge=40.0, le=220.0)
    triggers: dict[str, Trigger] = Field(max_length=16)
    targets: tuple[Target, ...] = Field(min_length=1, max_length=32)


@dataclass(frozen=True)
class Planned:
    """A target under all that turns it down: samples as they were read, the rate, and every curve."""

    name: str
    samples: Array
    rate: int
    duckings: list[dict[str, Any]]
    gains_db: list[Array]


def read_plan(path: Path) -> Plan:
    """A plan. UserError where it is none, or names a trigger that it does not hold."""
    plan = checked(Plan, read_json(path), str(path))
    for target in plan.targets:
        trigger = plan.triggers.get(target.trigger)
        if trigger is None:
            raise UserError(f"{path}: there is no trigger “{target.trigger}” for {target.file}.")
        if target.duck is None and trigger.file is None:
            raise UserError(
                f"{path}: {target.file} is to be solved, but its trigger “{target.trigger}” has no file."
            )
    return plan


def _times(trigger: Trigger, bpm: float, length_ms: float) -> list[float]:
    if trigger.every is None:
        return kick_times_ms(trigger.beats, bpm, length_ms)
    return np.arange(0.0, length_ms - 1, note_value_ms(trigger.every, bpm)).tolist()


def _lane(gain_db: Array, recipe: DuckRecipe, rate: int) -> Callable[[Array], Array]:
    return lambda x: ducking.under(x, gain_db, ducking.left_alone(x, recipe, None, rate, loop=False))


def ducked(plan: Plan, folder: Path) -> list[Planned]:
    """Every file of a plan under all of its duckings, in order; paths are counted from `folder`."""
    done = []
    for name in dict.fromkeys(target.file for target in plan.targets):
        audio = read(folder / name)
        samples, told, gains = audio.samples, [], []
        length, is_loop = length_of(audio.samples, audio.rate, plan.bpm)
        for target in (one for one in plan.targets if one.file == name):
            trigger = plan.triggers[target.trigger]
            times = _times(trigger, plan.bpm, length)
            recipe = target.duck
            if recipe is None:
                kick = read(folder / str(trigger.file))
                recipe = duck_pair(
                    change_rate(kick.samples, kick.rate, audio.rate), audio.samples, audio.rate, plan.bpm,
                    times, margin_db=target.margin_db,
                ).recipe  # fmt: skip
            if target.returns is not None and recipe.depth_db > 0:
                recipe = ducking.returning_on(recipe, note_value_ms(target.returns, plan.bpm))
            recipe = in_band(recipe, target.below_hz, target.above_hz)
            gain = ducking.curve_db(recipe, times, length, 1000 / audio.rate, loop=is_loop)
            gain = gain[: audio.samples.shape[0]]
            samples = each_channel(samples, _lane(gain, recipe, audio.rate))
            numbers = ducking.measure_duck(recipe, times, length, plan.bpm).as_dict()
            told.append({"trigger": target.trigger, "settings": recipe.model_dump(), **numbers})
            gains.append(gain)
        done.append(Planned(Path(name).stem, samples, audio.rate, told, gains))
    return done
