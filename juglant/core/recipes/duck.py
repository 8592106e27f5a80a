"""The gain that moves the bass out of the kick's way."""

from itertools import pairwise
from typing import Annotated, Literal

from pydantic import Field, model_validator

from juglant.core.recipes.fields import Recipe, choice, control

Band = Literal["by owner", "all", "below", "above"]
MOST_POINTS = 16
# The group of the dials that a drawn curve does without.
DIALS = "Dials"
# Nearer to each other than this they would be a jump.
LEAST_APART_MS = 0.5
LONGEST_MS = 2000.0


class Point(Recipe):
    """A point of a drawn curve: when after its start, and how much of the depth is taken there.

    `bend` curves the way to the next point: above 0 it sets out slowly, below 0 at once.
    """

    at_ms: Annotated[float, Field(ge=0.0, le=LONGEST_MS)]
    share: Annotated[float, Field(ge=0.0, le=1.0)]
    bend: Annotated[float, Field(ge=-1.0, le=1.0)] = 0.0


# A name for what a curve was solved for; empty where it was not.
SolvedFor = Annotated[str, Field(max_length=64, pattern="^[0-9a-f]*$")]
MarginDb = Annotated[float, Field(ge=0.0, le=24.0)]
Points = Annotated[tuple[Point, ...], Field(max_length=MOST_POINTS)]


def checked_points(points: tuple[Point, ...]) -> None:
    """ValueError where a drawn curve does not run forward, or does not begin and end untouched.

    Parameters
    ----------
    points
        Of a drawn curve.

    Examples
    --------
    >>> checked_points(())
    """
    if not points:
        return
    # In tenths of a ms, so that half a ms is not a little less for being written in binary.
    if any(round(b.at_ms - a.at_ms, 3) < LEAST_APART_MS for a, b in pairwise(points)):
        raise ValueError(f"points of a drawn curve follow each other by {LEAST_APART_MS:g} ms at least")
    if points[0].share or points[-1].share or len(points) < 3:
        raise ValueError("a drawn curve begins and ends with nothing taken, and takes something between")


class DuckRecipe(Recipe):
    """One curve, started by every trigger: by its dials or, where there are points, as drawn.

    Depth and lookahead hold for both.
    """

    depth_db: float = control(
        12.0, 0.0, 48.0, 0.1, "dB", "Depth",
        "How far the bass is turned down. Deep clears the kick and pumps; up to 6 dB is hardly noticed. "
        "Listen for the kick’s weight and for holes.",
        "Ducking", main=True, off=0.0,
    )  # fmt: skip
    hold_ms: float = control(
        40.0, 0.0, 800.0, 1.0, "ms", "Hold",
        "How long it stays down after the attack. Cover the kick’s body, no more.",
        DIALS, main=True,
    )  # fmt: skip
    release_ms: float = control(
        120.0, 5.0, 1500.0, 1.0, "ms", "Release",
        "Way back up. Too long and the groove drags, too short and the tail collides. Listen for the bass "
        "coming back in time.",
        DIALS, scale="log", main=True,
    )  # fmt: skip
    attack_ms: float = control(
        4.0, 0.5, 60.0, 0.1, "ms", "Attack",
        "Way down. Short clears the onset; 0 or 1 ms clicks on a held low note.",
        DIALS, main=True,
    )  # fmt: skip
    lookahead_ms: float = control(
        0.0, 0.0, 40.0, 0.5, "ms", "Lookahead",
        "Starts this long before the kick. A little lets a slow, clickless attack clear the whole kick.",
        "Ducking", main=True,
    )  # fmt: skip
    curve: float = control(
        0.0, -1.0, 1.0, 0.01, "", "Curve",
        "Below 0 the bass comes back at once, above 0 late. Listen for the pull between kicks.",
        DIALS, main=True,
    )  # fmt: skip
    points: Points = ()
    band: Band = choice(
        "by owner", "Acts on",
        "What of the target is turned down. By owner: everything, but of a bass that owns the sub only "
        "what lies above it. Below or above: of the edge.",
        "Band",
    )  # fmt: skip
    edge_hz: float = control(
        120.0, 40.0, 20000.0, 1.0, "Hz", "Edge",
        "Edge of that band, 24 dB per octave. Duck the lows alone and the line keeps its presence.",
        "Band", scale="log",
    )  # fmt: skip

    @model_validator(mode="after")
    def _runs_forward(self) -> "DuckRecipe":
        checked_points(self.points)
        return self
