"""What differs between two recipes of a kind, in words with the numbers of both."""

from collections import Counter
from typing import Any

from juglant.core.recipes.fields import Recipe

# More than this of one thing is counted instead.
_MOST = 3
# What fields without a label are called.
_WORDS = {"steps": "strokes", "pattern": "notes", "at": "beat", "solo": "alone"}
_KINDS = ("kind", "stage", "source", "room")


def differing(old: Recipe, new: Recipe, without: frozenset[str] = frozenset()) -> list[str]:
    """Every field that differs: “decay 320 → 260 ms”, “layer 2: gain 0 → −3 dB”, “strokes 4 → 5”.

    Parameters
    ----------
    old
        As it was.
    new
        As it is.
    without
        Fields that are not looked at.

    Returns
    -------
    list of str
        One for every field.

    Examples
    --------
    >>> from juglant.core.recipes.place import Place
    >>> differing(Place(), Place(gain_db=-3.0, polarity="inverted"))
    ['gain 0 → −3 dB', 'polarity normal → inverted']
    """
    if type(old) is not type(new):
        return [f"{_kind(old)} → {_kind(new)}"]
    found: list[str] = []
    for name, field in type(new).model_fields.items():
        was, is_ = getattr(old, name), getattr(new, name)
        if was == is_ or name in without:
            continue
        extra = field.json_schema_extra
        unit = str(extra.get("unit") or "") if isinstance(extra, dict) else ""
        title = str(field.title or _WORDS.get(name) or name.replace("_", " "))
        found += _field(name, title[:1].lower() + title[1:], unit, was, is_)
    return found


def few(found: list[str], most: int = _MOST) -> str:
    """The first of them in one line, and how many more there are.

    Parameters
    ----------
    found
        What differs.
    most
        How many are named.

    Returns
    -------
    str
        One line.

    Examples
    --------
    >>> few(["gain 0 → −3 dB", "pan 0 → 1", "mute"], 2)
    'gain 0 → −3 dB, pan 0 → 1 and 1 more'
    """
    more = len(found) - most
    return ", ".join(found[:most]) + (f" and {more} more" if more > 0 else "")


def _field(name: str, title: str, unit: str, was: Any, is_: Any) -> list[str]:
    if name == "chord_roots":
        return _chords(was, is_)
    if isinstance(was, tuple) and isinstance(is_, tuple):
        return _several(title, was, is_)
    if isinstance(was, Recipe) and isinstance(is_, Recipe):
        inside = differing(was, is_)
        # What a source or a recipe is called says nothing that its own fields do not.
        return inside if name in ("recipe", "source", "bass", "hit", "duck", "place") else [
            f"{title} {one}" for one in inside
        ]  # fmt: skip
    if isinstance(is_, bool) and isinstance(was, bool):
        return [f"{title} {'on' if is_ else 'off'}"]
    # Musicians count beats from one.
    shown = [_shown(one + 1 if name == "at" else one) for one in (was, is_)]
    if None in shown:
        return [title]
    return [f"{title} {shown[0]} → {shown[1]}{f' {unit}' if unit else ''}"]


def _chords(was: tuple[str, ...], is_: tuple[str, ...]) -> list[str]:
    if len(was) != len(is_):
        return [f"{len(was)} → {len(is_)} bars"]
    return [
        f"chord of bar {bar} {old} → {new}"
        for bar, (old, new) in enumerate(zip(was, is_, strict=True), 1) if old != new
    ]  # fmt: skip


def _several(title: str, was: tuple[Any, ...], is_: tuple[Any, ...]) -> list[str]:
    if len(was) != len(is_):
        # What has a name comes and goes by it; strokes and notes are counted.
        names = [Counter(filter(None, map(_name, one))) for one in (was, is_)]
        told = [f"{name} added" for name in names[1] - names[0]]
        told += [f"{name} removed" for name in names[0] - names[1]]
        return told or [f"{title} {len(was)} → {len(is_)}"]
    changed = [n for n, (old, new) in enumerate(zip(was, is_, strict=True)) if old != new]
    recipes = isinstance(is_[changed[0]], Recipe) and isinstance(was[changed[0]], Recipe)
    if len(changed) > 1 or not recipes:
        return [f"{title}, {len(changed)} of {len(is_)}" if len(is_) > 1 else title]
    at = changed[0]
    one = title[:-1] if title.endswith("s") else title
    named = f"{one} {at + 1}" if len(is_) > 1 else one
    return [f"{named}: {inside}" for inside in differing(was[at], is_[at])]


def _name(one: Any) -> str:
    return str(getattr(one, "stage", "") or getattr(one, "name", "")) if isinstance(one, Recipe) else ""


def _kind(recipe: Recipe) -> str:
    return next((str(getattr(recipe, name)) for name in _KINDS if hasattr(recipe, name)), "another kind")


def _shown(value: Any) -> str | None:
    """A value as it is written; None where it is no word and no number."""
    if value is None:
        return "none"
    if isinstance(value, int | float):
        return f"{round(float(value), 4):.5g}".replace("-", "−")
    # What is long is a name of a sound, which nobody knows by it.
    return value if isinstance(value, str) and 0 < len(value) <= 40 else None
