"""A ducking: what starts it, what it turns down, and how."""

from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from juglant.core.recipes.duck import DuckRecipe, MarginDb, SolvedFor
from juglant.core.recipes.fields import Recipe, choice, control
from juglant.core.recipes.hit import PartId

NoteRate = Literal["1/4", "1/8", "1/8t", "1/16", "1/16t", "1/32"]
Rate = Literal["none", "1/4", "1/8", "1/8t", "1/16", "1/16t", "1/32"]
MOST_DUCKINGS = 16


class Target(Recipe):
    """A part that is turned down, and how much of the depth it gets."""

    part: PartId
    share: float = control(
        1.0, 0.0, 1.0, 0.01, "", "Share",
        "How much of the depth reaches it. Pads often want half. Listen for what should move with the "
        "kick and what should stand still.",
        "Ducking", main=True, off=0.0,
    )  # fmt: skip


class Ducking(Recipe):
    """Triggers turn down targets, parts by their ids. Only times and velocities of a trigger count, so a
    muted one still starts it, as a ghost.
    """

    triggers: tuple[PartId, ...] = Field((), max_length=40)
    targets: tuple[Target, ...] = Field((), max_length=40)
    on: bool = True
    rate: Rate = choice(
        "none", "Every",
        "A note value that starts it, beside its triggers or alone: ducking in time without a kick.",
        "Trigger",
    )  # fmt: skip
    velocity: float = control(
        0.0, 0.0, 1.0, 0.01, "", "Velocity",
        "How much less a softer stroke ducks. Ghost notes then leave the bass alone.",
        "Trigger", off=0.0,
    )  # fmt: skip
    duck: DuckRecipe = DuckRecipe(depth_db=6.0, hold_ms=20.0, release_ms=140.0)
    # What it was solved for, and how clear it was to keep its triggers.
    solved_for: SolvedFor = ""
    margin_db: MarginDb = 0.0
    id: Annotated[PartId, Field(min_length=1)] = "ducking"

    @model_validator(mode="before")
    @classmethod
    def _targets_by_id(cls, given: Any) -> Any:
        """A target may be given as its id alone: it gets all of the depth."""
        if isinstance(given, dict) and isinstance(targets := given.get("targets"), list | tuple):
            given = {**given, "targets": [{"part": t} if isinstance(t, str) else t for t in targets]}
        return given

    @model_validator(mode="after")
    def _starts_something(self) -> "Ducking":
        reached = [target.part for target in self.targets]
        if len(set(reached)) < len(reached) or len(set(self.triggers)) < len(self.triggers):
            raise ValueError("a ducking names every part once")
        if self.on and not (self.triggers or self.rate != "none"):
            raise ValueError("a ducking that is on needs something that starts it")
        return self
