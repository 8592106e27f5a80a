"""Every field of a recipe, and other values for it that it may have."""

import random
from collections.abc import Iterator
from typing import Any, TypeVar, get_args

from annotated_types import Ge, Le
from pydantic import ValidationError

from juglant.core.recipes.fields import Recipe

Path = tuple[str | int, ...]
R = TypeVar("R", bound=Recipe)
# A bare number, on a pattern say, moves by this much.
_BARE = 0.15


def fields(recipe: Recipe, at: Path = ()) -> Iterator[tuple[Path, Any, Any]]:
    """The path of every control, choice, switch and bare number, its value, and what is said of it."""
    for name, field in type(recipe).model_fields.items():
        yield from _within(getattr(recipe, name), (*at, name), field)


def _within(value: Any, at: Path, field: Any) -> Iterator[tuple[Path, Any, Any]]:
    if isinstance(value, Recipe):
        yield from fields(value, at)
    elif isinstance(value, tuple):
        for n, one in enumerate(value):
            yield from _within(one, (*at, n), None)
    elif isinstance(value, bool | int | float) or (field is not None and field.json_schema_extra):
        yield at, value, field


def others(value: Any, field: Any) -> list[Any]:
    """Values beside the one that a field has, the least unlikely to be allowed first."""
    if isinstance(value, bool):
        return [not value]
    extra = getattr(field, "json_schema_extra", None)
    if not isinstance(value, int | float):
        return [option for option in get_args(field.annotation) if option != value]
    if not isinstance(extra, dict) or "scale" not in extra:
        return [value + _BARE, value - _BARE, value + 1, value - 1]
    low: Any = next(limit.ge for limit in field.metadata if isinstance(limit, Ge))
    high: Any = next(limit.le for limit in field.metadata if isinstance(limit, Le))
    near, far = sorted((low, high), key=lambda end: abs(end - value))
    if isinstance(value, int):
        return [value + 1 if value < high else value - 1]
    return [value + 0.3 * (far - value), value + 0.3 * (near - value)]


def with_value(recipe: R, at: Path, value: Any) -> R:
    """The recipe with one field changed. ValidationError where it cannot be."""
    whole = recipe.model_dump()
    inside: Any = whole
    for step in at[:-1]:
        if isinstance(inside[step], tuple):
            inside[step] = list(inside[step])
        inside = inside[step]
    inside[at[-1]] = value
    return type(recipe).model_validate(whole)


def changed(recipe: R, at: Path, value: Any, field: Any) -> R | None:
    """The recipe with a field at another value; None where nothing else is allowed there."""
    for other in others(value, field):
        try:
            return with_value(recipe, at, other)
        except ValidationError:
            continue
    return None


def changed_by_chance(recipe: R, by: random.Random, *, within: str = "") -> R:
    """The recipe with one field of it, drawn by lot, at another value."""
    found = [one for one in fields(recipe) if not within or one[0][0] == within]
    while True:
        other = changed(recipe, *by.choice(found))
        if other is not None:
            return other
