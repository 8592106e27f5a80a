"""A ducking bus: what starts it, what it turns down, and how."""

from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from juglant.core.recipes.duck import DuckRecipe, MarginDb, SolvedFor
from juglant.core.recipes.fields import Recipe, choice, control

Part = Annotated[str, Field(min_length=1, max_length=60)]
NoteRate = Literal["1/4", "1/8", "1/8t", "1/16", "1/16t", "1/32"]
MOST_BUSES = 12
# What stands in for the arrangement until its own stems are there.
STAND_IN = "Pad (stand-in)"

_START = DuckRecipe(depth_db=6.0, hold_ms=20.0, release_ms=140.0)


class Bus(Recipe):
    """One trigger to one target; hits and lines by their names.

    A muted hit still triggers, as a ghost. `trigger` is a hit's name, or "note value" for `rate`.
    """

    trigger: Part = "Kick"
    target: Part = STAND_IN
    on: bool = True
    rate: NoteRate = choice("1/8", "Every", "Where the trigger is a note value.", "Trigger")
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
    duck: DuckRecipe = _START
    # What it was solved for, and how clear it was to keep its trigger.
    solved_for: SolvedFor = ""
    margin_db: MarginDb = 0.0

    @model_validator(mode="before")
    @classmethod
    def _from_only_below(cls, given: Any) -> Any:
        """The first version had only what lies below a frequency, beside the curve."""
        if isinstance(given, dict) and "below_hz" in given:
            given = dict(given)
            below, duck = given.pop("below_hz"), given.get("duck", _START)
            band = {"band": "all"} if below >= 20000.0 else {"band": "below", "edge_hz": below}
            given["duck"] = {**(duck if isinstance(duck, dict) else duck.model_dump()), **band}
        return given
