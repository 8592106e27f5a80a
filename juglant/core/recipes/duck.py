"""The gain that moves the bass out of the kick's way."""

from juglant.core.recipes.fields import Recipe, control


class DuckRecipe(Recipe):
    """One drawn curve, started by every kick."""

    depth_db: float = control(
        12.0, 0.0, 48.0, 0.1, "dB", "Depth", "How far the bass is turned down.", "Ducking",
        main=True, off=0.0,
    )  # fmt: skip
    hold_ms: float = control(
        40.0, 0.0, 800.0, 1.0, "ms", "Hold", "Stays down, after the attack.", "Ducking", main=True
    )
    release_ms: float = control(
        120.0, 5.0, 1500.0, 1.0, "ms", "Release",
        "Way back up. Too long and the groove drags, too short and the tail collides.",
        "Ducking", scale="log", main=True,
    )  # fmt: skip
    attack_ms: float = control(
        4.0, 0.5, 60.0, 0.1, "ms", "Attack", "Way down. Short, but not 0 or 1 ms: that clicks.",
        "Ducking", main=True,
    )  # fmt: skip
    lookahead_ms: float = control(
        0.0, 0.0, 40.0, 0.5, "ms", "Lookahead", "Starts this long before the kick.", "Ducking",
        main=True,
    )  # fmt: skip
    curve: float = control(
        0.0, -1.0, 1.0, 0.01, "", "Curve",
        "Below 0 the bass comes back at once, above 0 it comes back late.", "Ducking", main=True,
    )  # fmt: skip
