"""Variations around a sound, drawn from its own controls, all as loud as it is."""

from typing import Any

import numpy as np

from juglant.core import RATE
from juglant.core.hits.making import made
from juglant.core.measure.levels import momentary_max_lufs
from juglant.core.recipes.fields import Control, Recipe, control_sheet, limits
from juglant.core.recipes.hit import Made

COUNT = 8
# At the full amount a control wanders over a third of its way (one standard deviation).
_REACH = 0.33
# How much nearer a variation is drawn that cannot be as loud, and the tempo at which they are compared.
_NEARER, _USUAL_BPM = (1.0, 0.6, 0.35, 0.2), 126.0


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

    `amount` from 0 (all alike) to 1; controls of the `locked` groups and the note stay. The level
    follows, so that none is louder than another (within 0.1 LU); one that would have to pass full scale
    for it is drawn nearer. The same seed gives the same eight.

    Parameters
    ----------
    source
        What is varied.
    amount
        0 to 1.
    locked
        Groups of controls that stay.
    seed
        Names the random choice; the same one gives the same.

    Returns
    -------
    list of Made
        Eight of them.

    Examples
    --------
    >>> from juglant.core.recipes.hit import MadeKick
    >>> len(scatter(MadeKick(), 0.5, [], 1))
    8
    """
    rng = np.random.default_rng(seed)
    draws = [rng.standard_normal(len(control_sheet(type(source.recipe)).controls)) for _ in range(COUNT)]
    loud = _loudness(source)
    return [_variation(source, amount, locked, index, draw, loud) for index, draw in enumerate(draws)]


def _loudness(source: Made) -> float:
    return momentary_max_lufs(made(source, _USUAL_BPM), RATE)


def _variation(source: Made, amount: float, locked: list[str], index: int, draws: Any, loud: float) -> Made:
    low, high = limits(type(source.recipe), "level_db")
    for nearer in _NEARER:
        found = drawn(source, nearer * amount, locked, index, draws)
        if found == source:
            return found
        wanted = found.recipe.level_db + loud - _loudness(found)
        if low <= wanted <= high:
            recipe = found.recipe.model_copy(update={"level_db": round(wanted, 1)})
            return type(source)(recipe=recipe)
    return source


def drawn(source: Made, amount: float, locked: list[str], index: int, draws: Any) -> Made:
    """A sound whose controls were moved by their draws, its level and note kept.

    Parameters
    ----------
    source
        What is varied.
    amount
        0 to 1.
    locked
        Groups of controls that stay.
    index
        Which one.
    draws
        What was drawn for each control.

    Returns
    -------
    Made
        One of them.

    Examples
    --------
    >>> from juglant.core.recipes.hit import MadeKick
    >>> from juglant.core.recipes.fields import control_sheet
    >>> source = MadeKick()
    >>> draws = [0.0] * len(control_sheet(type(source.recipe)).controls)
    >>> drawn(source, 0.0, [], 0, draws) == source
    True
    """
    recipe: Any = source.recipe
    changed: dict[str, Any] = {}
    for control, draw in zip(control_sheet(type(recipe)).controls, draws, strict=True):
        # The level follows the loudness and the note is set by the key: neither is left to chance.
        if control.group in locked or control.role in ("level", "note"):
            continue
        now = getattr(recipe, control.name)
        if control.role == "seed":
            changed["seed"] = int(recipe.seed + index + 1) % 10000 if amount > 0 else recipe.seed
            continue
        # What is switched off stays off: a variation is not another kind of sound.
        if control.off is not None and now == control.off:
            continue
        value = _value(control, _place(control, now) + _REACH * amount * float(draw))
        changed[control.name] = int(value) if isinstance(now, int) else value
    return type(source)(recipe=type(recipe)(**{**_plain(recipe), **changed}))


def _plain(recipe: Recipe) -> dict[str, Any]:
    return {name: getattr(recipe, name) for name in type(recipe).model_fields}
