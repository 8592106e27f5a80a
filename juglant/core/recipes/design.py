"""What a sound that is designed for its partner should be like."""

from juglant.core.recipes.fields import Recipe, control


class Character(Recipe):
    """Between short and hard and long and deep; between soft and clicky."""

    length: float = control(
        0.5, 0.0, 1.0, 0.05, "", "Length",
        "0 is short and hard, 1 is long and deep. The five answers spread around it: the longer, the more "
        "ducking they ask for.",
        "Character", main=True,
    )  # fmt: skip
    click: float = control(
        0.5, 0.0, 1.0, 0.05, "", "Click",
        "0 is soft, 1 is bright at the onset. It is what small speakers play of a kick.",
        "Character", main=True,
    )  # fmt: skip
