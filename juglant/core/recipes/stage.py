"""What every stage of a chain has."""

from typing import ClassVar

from juglant.core.recipes.fields import Id, Recipe


class BaseStage(Recipe):
    """A stage; bypassed it changes nothing."""

    # Those that cut or stretch one stroke: a loop has no start that they could count from.
    of_a_stroke: ClassVar[bool] = False
    bypass: bool = False
    # By which a move knows it; empty while none does.
    id: Id = ""
