"""Variations around a sound, drawn from its own controls."""

from typing import Any

import numpy as np

from juglant.core.recipes.fields import Control, Recipe, control_sheet
from juglant.core.recipes.hit import Made

COUNT = 8
# The level is set by the mix and the note by the key: neither is left to chance.
_KEPT = {"level_db", "end_hz", "tune_hz"}
# At the full amount a control wanders over a third of its way (one standard deviation).
_REACH = 0.33


def _place(control: Control, value: float) -> float:
    """Where a value lies between a control's ends, 0 to 1."""
    if control.scale == "log":
        return float(np.log(value / control.low) / np.log(control.high / control.low))
    return float((value - control.low) / (control.high - control.low))


def _value(control: Control, place: float) -> float:
    place = min(max(place, 0.0), 1.0)
    if control.scale == "log":
        value = control.low * float((control.high / control.low) ** place)
    else:
        value = control.low + place * (control.high - control.low)
    on_step = control.low + round((value - control.low) / control.step) * control.step
    return min(max(round(on_step, 6), control.low), control.high)


def scatter(source: Made, amount: float, locked: list[str], seed: int) -> list[Made]:
    """Eight variations of a made sound.

    `amount` from 0 (all alike) to 1; controls of the `locked` groups, the note and the level
    stay. The same seed gives the same eight.
    """
    recipe: Any = source.recipe
    sheet = control_sheet(type(recipe))
    rng = np.random.default_rng(seed)
    out = []
    for index in range(COUNT):
        changed: dict[str, Any] = {}
        for control in sheet.controls:
            draw = float(rng.standard_normal())
            if control.group in locked or control.name in _KEPT:
                continue
            now = getattr(recipe, control.name)
            if control.name == "seed":
                changed["seed"] = int(recipe.seed + index + 1) % 10000 if amount > 0 else recipe.seed
                continue
            # What is switched off stays off: a variation is not another kind of sound.
            if control.off is not None and now == control.off:
                continue
            value = _value(control, _place(control, now) + _REACH * amount * draw)
            changed[control.name] = int(value) if isinstance(now, int) else value
        out.append(type(source)(recipe=type(recipe)(**{**_plain(recipe), **changed})))
    return out


def _plain(recipe: Recipe) -> dict[str, Any]:
    return {name: getattr(recipe, name) for name in type(recipe).model_fields}
