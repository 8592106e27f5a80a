"""A plan of several triggers and targets, read from a JSON file."""

from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np
from pydantic import Field

from juglant.cli.common import Array, checked, read, read_json
from juglant.core.errors import UserError
from juglant.core.hits.chain import each_channel
from juglant.core.lowend import curves, ducking, duckings, keyed
from juglant.core.lowend.loop import click, kick_times_ms, place
from juglant.core.lowend.pair import duck_pair, in_band, length_of
from juglant.core.measure.stereo import listening_channel
from juglant.core.process.resampling import change_rate
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.ducking import NoteRate
from juglant.core.recipes.fields import Recipe
from juglant.core.recipes.notes import Beat
from juglant.core.tempo import note_value_ms


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
    """A target under all that turns it down: samples as they were read, the rate, and every curve, as
    compressors make it where that was asked for.
    """

    name: str
    samples: Array
    rate: int
    duckings: list[dict[str, Any]]
    gains_db: list[Array]
    compressors: list[list[keyed.AsCompressor]]


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


def ducked(plan: Plan, folder: Path, *, as_compressor: bool = False) -> list[Planned]:
    """Every file of a plan under all of its duckings: at each moment and frequency the deepest holds.
    Paths are counted from `folder`. `as_compressor` finds the compressor settings nearest to each.
    """
    done = []
    for name in dict.fromkeys(target.file for target in plan.targets):
        audio = read(folder / name)
        frames, rate = audio.samples.shape[0], audio.rate
        length, is_loop = length_of(audio.samples, rate, plan.bpm)
        acting, told, compressors = [], [], []
        for target in (one for one in plan.targets if one.file == name):
            trigger = plan.triggers[target.trigger]
            times = _times(trigger, plan.bpm, length)
            struck = click(rate)
            if trigger.file is not None:
                kick = read(folder / trigger.file)
                struck = listening_channel(change_rate(kick.samples, kick.rate, rate))
            recipe = target.duck
            if recipe is None:
                recipe = duck_pair(
                    struck, audio.samples, rate, plan.bpm, times, margin_db=target.margin_db
                ).recipe
            if target.returns is not None and recipe.depth_db > 0:
                recipe = curves.returning_on(recipe, note_value_ms(target.returns, plan.bpm))
            recipe = in_band(recipe, target.below_hz, target.above_hz)
            starts = tuple(duckings.Start(at, 1.0) for at in times)
            acting.append(duckings.Acting(recipe, starts, 1.0, None))
            numbers = ducking.measure_duck(recipe, times, length, plan.bpm).as_dict()
            told.append({"trigger": target.trigger, "settings": recipe.model_dump(), **numbers})
            if as_compressor:
                key = place([(at, struck) for at in times], frames, rate, loop=is_loop)
                compressors.append(keyed.solve(recipe, key, times, length, rate))
        gains = [one.gain_db(frames, rate, loop=is_loop) for one in acting]
        under = partial(duckings.under, acting=acting, rate=rate, loop=is_loop)
        samples = each_channel(audio.samples, under)
        done.append(Planned(Path(name).stem, samples, rate, told, gains, compressors))
    return done
