"""Curves that controls of a part follow, over a note value, over bars or over the section."""

from collections.abc import Set
from functools import cache
from itertools import pairwise
from typing import Annotated, Literal

from pydantic import Field, StringConstraints, model_validator

from juglant.core.recipes.fields import Control, Id, Recipe, choice, control, control_sheet

Over = Literal[
    "1/32", "1/16t", "1/16", "1/16.", "1/8t", "1/8", "1/8.", "1/4t", "1/4", "1/4.", "1/2",
    "1 bar", "2 bars", "4 bars", "8 bars", "section",
]  # fmt: skip
MOST_MOVES, MOST_MOVE_POINTS = 8, 32
# Nearer to each other than this share of the way they would be one point.
LEAST_BETWEEN = 0.001
# What moves belong to that is no stage: where the part lies, and its strokes.
PLACE, STROKES = "place", "strokes"


class Strokes(Recipe):
    """What of a hit's strokes, or of a line's notes, can be moved: it is read where each of them starts."""

    semitones: float = control(
        0.0, -24.0, 24.0, 0.01, "st", "Pitch",
        "Pitch of a stroke or a note, read where it starts. For rolls that rise, toms that fall and lines "
        "that bend away.",
        "Strokes", off=0.0, movable=True,
    )  # fmt: skip


class MovePoint(Recipe):
    """A point of a curve: at which share of the way, and the control's value there.

    `bend` curves the way to the next point: above 0 it sets out slowly, below 0 at once.
    """

    at: Annotated[float, Field(ge=0.0, le=1.0)]
    value: Annotated[float, Field(ge=-20000.0, le=20000.0)]
    bend: Annotated[float, Field(ge=-1.0, le=1.0)] = 0.0


class Move(Recipe):
    """One control that follows a curve, again and again over a time, or once over the section.

    `of` is the id of a stage of the part's shape, of its chain or of what lies behind its duckings, "place"
    or "strokes". What is of the shape or the strokes is read where a stroke starts. Where a section has no
    stage of that id the move waits for it.
    """

    of: Annotated[Id, StringConstraints(min_length=1)]
    control: Annotated[str, StringConstraints(pattern=r"^[a-z_0-9]{1,40}$")]
    over: Over = choice(
        "1 bar", "Over",
        "How long the curve is; it comes again for as long as the loop lasts. Over the section it comes "
        "once, and the loop stands where it ends.",
        "Move",
    )  # fmt: skip
    points: tuple[MovePoint, ...] = Field(min_length=2, max_length=MOST_MOVE_POINTS)

    @model_validator(mode="after")
    def _runs_forward(self) -> "Move":
        if self.points[0].at != 0.0 or self.points[-1].at != 1.0:
            raise ValueError("a move begins at 0 and ends at 1 of its way")
        if any(b.at - a.at < LEAST_BETWEEN - 1e-9 for a, b in pairwise(self.points)):
            raise ValueError(f"points of a move follow each other by {LEAST_BETWEEN:g} of its way at least")
        return self


Moves = Annotated[tuple[Move, ...], Field(max_length=MOST_MOVES)]


@cache
def readable(recipe: type[Recipe]) -> dict[str, Control]:
    """The controls of a stage of a shape, by their names: every stroke may have its own of each.

    Parameters
    ----------
    recipe
        A kind of settings.

    Returns
    -------
    dict of str to Control
        By name.

    Examples
    --------
    >>> from juglant.core.recipes.chain import LevelStage
    >>> sorted(readable(LevelStage))
    ['gain_db', 'pan', 'target_db']
    """
    return {one.name: one for one in control_sheet(recipe).controls}


@cache
def movable(recipe: type[Recipe]) -> dict[str, Control]:
    """The controls of a recipe that can move while a sound passes, by their names.

    Parameters
    ----------
    recipe
        A kind of settings.

    Returns
    -------
    dict of str to Control
        By name.

    Examples
    --------
    >>> from juglant.core.recipes.place import Place
    >>> sorted(movable(Place))
    ['gain_db', 'pan']
    """
    return {name: one for name, one in readable(recipe).items() if one.movable}


def checked_moves(name: str, moves: Moves, targets: dict[str, Recipe], shape: Set[str]) -> None:
    """ValueError where a move of a part called `name` names a control that its target has not or that
    cannot move, or leaves its range; `targets` are what can be moved, by `of`, and `shape` those of them
    that every stroke passes by itself.

    Parameters
    ----------
    name, moves, targets
        Of the part; what can move, by its id.
    shape
        Ids of the stages that every stroke passes by itself.

    Examples
    --------
    >>> checked_moves("Kick", (), {}, frozenset())
    """
    named = [(move.of, move.control) for move in moves]
    if len(set(named)) < len(named):
        raise ValueError(f"a control of {name} follows one move at a time")
    for move in moves:
        target = targets.get(move.of)
        if target is None:
            if move.of in (PLACE, STROKES):
                raise ValueError(f"{name} has no {move.of} that could move")
            continue
        one = (readable if move.of in shape else movable)(type(target)).get(move.control)
        if one is None:
            raise ValueError(f"{move.control} of {name} cannot move")
        if not all(one.low <= point.value <= one.high for point in move.points):
            raise ValueError(
                f"a move of {move.control} of {name} leaves its range, {one.low:g} to {one.high:g}"
            )
        linear = getattr(target, "phase", "") == "linear" and move.of not in shape
        if move.control in ("highpass_hz", "lowpass_hz") and linear:
            raise ValueError(f"a filter of linear phase cannot move: that of {name} does")
