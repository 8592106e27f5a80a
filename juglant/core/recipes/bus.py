"""A ducking bus: what starts it, what it turns down, and how."""

from typing import Annotated, Literal

from pydantic import Field

from juglant.core.recipes.duck import DuckRecipe, MarginDb, SolvedFor
from juglant.core.recipes.fields import Recipe, choice, control

Part = Annotated[str, Field(min_length=1, max_length=60)]
NoteRate = Literal["1/4", "1/8", "1/8t", "1/16", "1/16t", "1/32"]
MOST_BUSES = 12
# What stands in for the arrangement until its own stems are there.
STAND_IN = "Pad (stand-in)"


class Bus(Recipe):
    """One trigger to one target; hits and lines by their names.

    A muted hit still triggers, as a ghost. `trigger` is a hit's name, or "note value" for `rate`.
    """

    trigger: Part = "Kick"
    target: Part = STAND_IN
    on: bool = True
    rate: NoteRate = choice("1/8", "Every", "Where the trigger is a note value.", "Trigger")
    below_hz: float = control(
        20000.0, 60.0, 20000.0, 1.0, "Hz", "Only below", "Ducks what lies below and leaves the rest.",
        "Band", scale="log", off=20000.0,
    )  # fmt: skip
    reverb_db: float = control(
        -40.0, -40.0, 0.0, 0.5, "dB", "Reverb", "A hall on the target, re the target.", "Reverb", off=-40.0
    )
    reverb_ms: float = control(
        1800.0, 200.0, 8000.0, 10.0, "ms", "Length", "Until it has fallen by 60 dB.", "Reverb", scale="log"
    )
    tail: Literal["ducked", "rings through"] = choice(
        "ducked", "Its tail",
        "Before the ducking its tail is ducked too; after it, the tail rings through.", "Reverb",
    )  # fmt: skip
    duck: DuckRecipe = DuckRecipe(depth_db=6.0, hold_ms=20.0, release_ms=140.0)
    # What it was solved for, and how clear it was to keep its trigger.
    solved_for: SolvedFor = ""
    margin_db: MarginDb = 0.0
