"""One way of describing a control."""

import re
from collections.abc import Mapping
from functools import cached_property
from typing import Annotated, Any, Literal, Self, TypeVar, cast, get_args

from annotated_types import Ge, Le
from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, GetCoreSchemaHandler, StringConstraints
from pydantic_core.core_schema import CoreSchema, no_info_before_validator_function

Scale = Literal["linear", "log"]
# What a control is to a sound: how long it rings, how far its pitch falls, its note, its tone where it has
# no note, its level, its chance.
Role = Literal["decay", "sweep", "note", "tone", "level", "seed"]
Id = Annotated[str, StringConstraints(pattern=r"^[a-z0-9-]{0,40}$")]


_PLACE = (
    r',"place":\{"gain_db":0\.0,"pan":0\.0,"width":1\.0,"mono_below_hz":20\.0,"delay_ms":0\.0,'
    r'"polarity":"normal"\}'
)
_LATER = re.compile(
    r',"sum":\{"name":"Sum","mute":false,"id":"the-sum","part":"sum","stages":\[\]'
    + _PLACE
    + r',"after":\[\],"moves":\[\]\}'
    r'|,"swing":"(the track’s|as it is)","swing_percent":50\.0'
    r'|,"heard_hz":null|,"begin_ms":0\.0|,"id":""|,"part":"hit"|,"alternate":"in turn"|,"stages":\[\]'
    r'|,"after":\[\]|,"length_in":"ms"|,"vary":0\.0'
    r'|,"tops":"as they are"|,"fit":"as it is"|,"own_bpm":120\.0|,"silent":\[\]|,"moves":\[\]|' + _PLACE
)
# Words that were others when sounds got their names; a place has had its own from the beginning.
# Both begin with plain letters, which are found ten times as fast as a choice of them.
_RENAMED = re.compile(r',"(polarity|aim)":"(normal|inverted|by kind)"')
# A stroke's, not a note's, which has a length before it.
_STRIKE = re.compile(r'\{"at":([^,{}]*),"velocity":')
_PLACED = re.compile(r'"delay_ms":[^,]*$')
_BEFORE = {"normal": "as it is", "inverted": "turned", "by kind": "as usual"}


def _as_before(found: re.Match[str]) -> str:
    field, word = found.groups()
    in_place = _PLACED.search(found.string, max(0, found.start() - 40), found.start())
    return found[0] if in_place else f',"{field}":"{_BEFORE[word]}"'


def _as_now(given: Any) -> Any:
    """A word as it is called now, whatever it was called when it was stored."""
    return next((now for now, before in _BEFORE.items() if given == before), given)


Renamed = BeforeValidator(_as_now)
Polarity = Annotated[Literal["normal", "inverted"], Renamed]


def _is_no_truth(given: Any) -> Any:
    if isinstance(given, bool):
        raise ValueError("Input should be a number")
    return given


def _strictly(schema: Any, of: type["Strict"]) -> Any:
    """The schema of a model in which neither “true” nor "1" is a number; a whole number may be written with
    a point. What is inside it is strict by itself.
    """
    if isinstance(schema, list | tuple):
        return type(schema)(_strictly(one, of) for one in schema)
    if not isinstance(schema, dict):
        return schema
    if schema.get("type") == "model" and schema["cls"] is not of and issubclass(schema["cls"], Strict):
        return schema
    found = {key: one if key in _KEPT else _strictly(one, of) for key, one in schema.items()}
    match found.get("type"):
        case "float":
            return {**found, "strict": True}
        case "int":
            return no_info_before_validator_function(_is_no_truth, cast(CoreSchema, found))
    return found


# What of a schema is none itself.
_KEPT = frozenset({"metadata", "serialization", "config", "cls", "function", "default", "expected"})


class Strict(BaseModel):
    """Base of all that is given: no unknown fields, no NaN, and nothing but numbers for a number."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: GetCoreSchemaHandler, /) -> CoreSchema:
        """As pydantic would have it, but strict about numbers."""
        return cast(CoreSchema, _strictly(handler(source), cls))


class Recipe(Strict):
    """Base of all recipes, never changed in place."""

    model_config = ConfigDict(frozen=True)

    @cached_property
    def text(self) -> str:
        """The recipe as JSON, fields in the order of their definition: written once, for it never
        changes. What sounds are named by: a field that came later is left out while it is off, and a word
        that was renamed stands as it was, so that what was solved for a sound is still solved for it.
        """
        text = _RENAMED.sub(_as_before, _LATER.sub("", self.model_dump_json()))
        return _STRIKE.sub(r'{"at":\1,"strength":', text)

    def only(self, *names: str) -> Self:
        """The recipe as it is seen by what may depend on these fields and on no other: there are no others.
        What reads one all the same fails.
        """
        seen = self.model_copy()
        given = {name: getattr(self, name) for name in names}
        seen.__dict__.clear()
        seen.__dict__.update(given, text=str(given))
        return seen

    def model_copy(self, *, update: Mapping[str, Any] | None = None, deep: bool = False) -> Self:
        """A copy with some fields changed, and nothing kept of what followed from the old ones. TypeError
        for a field that there is none of.
        """
        if update and not update.keys() <= type(self).model_fields.keys():
            strange = ", ".join(sorted(update.keys() - type(self).model_fields.keys()))
            raise TypeError(f"{type(self).__name__} has no {strange}.")
        copied = super().model_copy(update=update, deep=deep)
        for name in copied.__dict__.keys() - type(self).model_fields.keys():
            del copied.__dict__[name]
        return copied


Anything = TypeVar("Anything", bound=Recipe)


def control(
    default: float,
    low: float,
    high: float,
    step: float,
    unit: str,
    label: str,
    help: str,
    group: str,
    *,
    scale: Scale = "linear",
    main: bool = False,
    off: float | None = None,
    movable: bool = False,
    role: Role | None = None,
) -> Any:
    """A slider with a typed value. `main` puts it first; at `off` it does nothing at all; where it is
    `movable` it can follow a curve; by its `role` velocity, chance and tuning know it.

    Parameters
    ----------
    default
        Its value at first.
    low
        Its least value.
    high
        Its greatest value.
    step
        From one value to the next.
    unit
        Of its values.
    label
        What it is called.
    help
        What it does and what to listen for.
    group
        What it stands with.
    scale
        "linear" or "log".
    main
        Whether it is shown first.
    off
        Where it does nothing.
    movable
        Whether it can follow a curve.
    role
        What it is to a sound.

    Returns
    -------
    Any
        A field.

    Examples
    --------
    >>> control(0.0, -12.0, 12.0, 0.1, "dB", "Gain", "How loud.", "Level").default
    0.0
    """
    extra: dict[str, Any] = {"unit": unit, "step": step, "group": group, "scale": scale, "main": main}
    if movable:
        extra["movable"] = True
    if off is not None:
        extra["off"] = off
    if role is not None:
        extra["role"] = role
    return Field(default, ge=low, le=high, title=label, description=help, json_schema_extra=extra)


def _extra(recipe: type[Recipe], name: str) -> dict[str, Any]:
    extra = recipe.model_fields[name].json_schema_extra
    return extra if isinstance(extra, dict) else {}


def is_off(recipe: Recipe, *names: str) -> bool:
    """Whether each of these controls stands where it does nothing at all.

    Parameters
    ----------
    recipe
        The settings.
    *names
        Of controls.

    Returns
    -------
    bool
        Whether all of them do.

    Examples
    --------
    >>> from juglant.core.recipes.place import Place
    >>> is_off(Place(), "gain_db", "pan"), is_off(Place(pan=0.5), "gain_db", "pan")
    (True, False)
    """
    return all(getattr(recipe, name) == _extra(type(recipe), name)["off"] for name in names)


def of_role(recipe: type[Recipe], *roles: Role) -> list[str]:
    """The names of a recipe's controls of these roles, in the order of its fields.

    Parameters
    ----------
    recipe
        A kind of settings.
    *roles
        What they are to a sound.

    Returns
    -------
    list of str
        Names.

    Examples
    --------
    >>> from juglant.core.recipes.kick import KickRecipe
    >>> of_role(KickRecipe, "note")
    ['end_hz']
    """
    return [name for name in recipe.model_fields if _extra(recipe, name).get("role") in roles]


def limits(recipe: type[Recipe], name: str) -> tuple[float, float]:
    """The least and the greatest value of a control.

    Parameters
    ----------
    recipe
        A kind of settings.
    name
        Of the control.

    Returns
    -------
    tuple of float
        The least and the greatest.

    Examples
    --------
    >>> from juglant.core.recipes.place import Place
    >>> limits(Place, "pan")
    (-1.0, 1.0)
    """
    metadata = recipe.model_fields[name].metadata
    low = next(limit.ge for limit in metadata if isinstance(limit, Ge))
    high = next(limit.le for limit in metadata if isinstance(limit, Le))
    return float(low), float(high)  # type: ignore[arg-type]


def in_limits(recipe: type[Recipe], **values: float) -> dict[str, float]:
    """Values of controls, held within their limits.

    Parameters
    ----------
    recipe
        A kind of settings.
    **values
        By the control.

    Returns
    -------
    dict of str to float
        The same, inside.

    Examples
    --------
    >>> from juglant.core.recipes.place import Place
    >>> in_limits(Place, pan=3.0)
    {'pan': 1.0}
    """
    ends = {name: limits(recipe, name) for name in values}
    return {name: min(max(value, ends[name][0]), ends[name][1]) for name, value in values.items()}


def within(recipe: Anything, **values: float) -> Anything:
    """A copy with other values of its controls, each held within its limits.

    Parameters
    ----------
    recipe
        The settings.
    **values
        By the control.

    Returns
    -------
    Recipe
        The copy.

    Examples
    --------
    >>> from juglant.core.recipes.place import Place
    >>> within(Place(), gain_db=90.0).gain_db
    24.0
    """
    return recipe.model_copy(update=in_limits(type(recipe), **values))


def choice(default: Any, label: str, help: str, group: str) -> Any:
    """One of a few named options, given by the field's Literal type.

    Parameters
    ----------
    default
        Its value at first.
    label
        What it is called.
    help
        What it does and what to listen for.
    group
        What it stands with.

    Returns
    -------
    Any
        A field.

    Examples
    --------
    >>> choice("a", "Way", "Which way.", "Group").default
    'a'
    """
    return Field(default, title=label, description=help, json_schema_extra={"group": group})


class Control(BaseModel):
    """What an interface needs to know of a slider."""

    name: str
    label: str
    help: str
    group: str
    unit: str
    low: float
    high: float
    step: float
    scale: Scale
    main: bool
    off: float | None = None
    movable: bool = False
    role: Role | None = None
    default: float


class Choice(BaseModel):
    """What an interface needs to know of a choice."""

    name: str
    label: str
    help: str
    group: str
    options: list[str]
    default: str


class ControlSheet(BaseModel):
    """All controls of one recipe, in the order of its fields."""

    controls: list[Control]
    choices: list[Choice]


def control_sheet(recipe: type[Recipe]) -> ControlSheet:
    """Read the controls off a recipe's fields; fields that are lists or names have none.

    Parameters
    ----------
    recipe
        A kind of settings.

    Returns
    -------
    ControlSheet
        Its controls and choices.

    Examples
    --------
    >>> from juglant.core.recipes.place import Place
    >>> control_sheet(Place).controls[0].name
    'gain_db'
    """
    controls, choices = [], []
    for name, field in recipe.model_fields.items():
        extra = field.json_schema_extra
        if not isinstance(extra, dict):
            continue
        common = {"name": name, "label": field.title, "help": field.description, "default": field.default}
        if "scale" in extra:
            low, high = limits(recipe, name)
            controls.append(Control.model_validate({**common, **extra, "low": low, "high": high}))
        else:
            options = list(get_args(field.annotation))
            choices.append(Choice.model_validate({**common, **extra, "options": options}))
    # What matters most comes first.
    return ControlSheet(controls=sorted(controls, key=lambda one: not one.main), choices=choices)
