"""What a clap is made of: several hands, not quite together."""

from juglant.core.recipes.fields import Recipe, control


class ClapRecipe(Recipe):
    """Short noise bursts with spacing and spread, and a tail."""

    spacing_ms: float = control(
        10.0, 1.0, 40.0, 0.1, "ms", "Spacing",
        "Time from one burst to the next. Tight is one hand, wide is a crowd. Listen for flams.",
        "Bursts", main=True,
    )  # fmt: skip
    tail_ms: float = control(
        170.0, 10.0, 1200.0, 1.0, "ms", "Tail",
        "Time until the tail is 60 dB down. Longer is bigger; let it end before the next beat.",
        "Tail", scale="log", main=True, role="decay",
    )  # fmt: skip
    tone_hz: float = control(
        1250.0, 300.0, 6000.0, 10.0, "Hz", "Tone",
        "Middle of the noise: 1–2 kHz is usual. Lower is fatter, higher is thinner. Keep it apart from "
        "the snare’s.",
        "Tone", scale="log", main=True, role="tone",
    )  # fmt: skip
    tail_db: float = control(
        -3.0, -60.0, 6.0, 0.5, "dB", "Tail level",
        "Tail against the bursts. Down is dry, up is a clap in a room.",
        "Tail", main=True, off=-60.0,
    )  # fmt: skip
    bursts: int = control(
        4, 2, 8, 1, "", "Bursts",
        "How many hands. Two or three snap, more smear.",
        "Bursts",
    )  # fmt: skip
    spread: float = control(
        0.25, 0.0, 1.0, 0.01, "", "Spread",
        "How uneven the bursts are in time and tone. More sounds played by people.",
        "Bursts",
    )  # fmt: skip
    burst_ms: float = control(
        7.0, 1.0, 40.0, 0.5, "ms", "Burst length",
        "Time until a burst is 60 dB down. Short ticks, long runs together.",
        "Bursts",
    )  # fmt: skip
    width_octaves: float = control(
        1.6, 0.3, 4.0, 0.1, "oct", "Breadth",
        "How broad the noise is around its tone. Narrow is hollow, broad is a splash.",
        "Tone",
    )  # fmt: skip
    air_db: float = control(
        -18.0, -60.0, 0.0, 0.5, "dB", "Air",
        "Noise above 5 kHz beside it. Adds sizzle; listen against the hats.",
        "Tone", off=-60.0,
    )  # fmt: skip
    drive_db: float = control(
        3.0, 0.0, 36.0, 0.5, "dB", "Drive",
        "Soft clipping of the whole clap. Denser and louder at the same peak.",
        "Level", off=0.0,
    )  # fmt: skip
    level_db: float = control(
        -3.0, -30.0, 0.0, 0.1, "dB", "Level",
        "Peak of the finished clap. Set it with the kick playing.",
        "Level", role="level",
    )  # fmt: skip
    seed: int = control(
        1, 0, 9999, 1, "", "Seed",
        "Another piece of noise. Try a few: some are brighter.",
        "Bursts", role="seed",
    )  # fmt: skip
