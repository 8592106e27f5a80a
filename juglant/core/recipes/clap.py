"""What a clap is made of: several hands, not quite together."""

from juglant.core.recipes.fields import Recipe, control


class ClapRecipe(Recipe):
    """Short noise bursts with spacing and spread, and a tail."""

    spacing_ms: float = control(
        10.0, 1.0, 40.0, 0.1, "ms", "Spacing", "From one burst to the next.", "Bursts", main=True
    )
    tail_ms: float = control(
        170.0, 10.0, 1200.0, 1.0, "ms", "Tail", "Until the tail is 60 dB down.", "Tail", scale="log",
        main=True, role="decay",
    )  # fmt: skip
    tone_hz: float = control(
        1250.0, 300.0, 6000.0, 10.0, "Hz", "Tone", "Middle of the noise: 1–2 kHz is usual.", "Tone",
        scale="log", main=True, role="tone",
    )  # fmt: skip
    tail_db: float = control(
        -3.0, -60.0, 6.0, 0.5, "dB", "Tail level", "Against the bursts.", "Tail", main=True, off=-60.0
    )
    bursts: int = control(4, 2, 8, 1, "", "Bursts", "How many hands.", "Bursts")
    spread: float = control(
        0.25, 0.0, 1.0, 0.01, "", "Spread", "How unevenly the bursts lie and how unlike they are.",
        "Bursts",
    )  # fmt: skip
    burst_ms: float = control(
        7.0, 1.0, 40.0, 0.5, "ms", "Burst length", "Until a burst is 60 dB down.", "Bursts"
    )
    width_octaves: float = control(
        1.6, 0.3, 4.0, 0.1, "oct", "Breadth", "How broad the noise is around its tone.", "Tone"
    )
    air_db: float = control(
        -18.0, -60.0, 0.0, 0.5, "dB", "Air", "Noise above 5 kHz beside it.", "Tone", off=-60.0
    )
    drive_db: float = control(3.0, 0.0, 36.0, 0.5, "dB", "Drive", "Soft clipping of all.", "Level", off=0.0)
    level_db: float = control(
        -3.0, -30.0, 0.0, 0.1, "dB", "Level", "Peak of the finished clap.", "Level", role="level"
    )
    seed: int = control(1, 0, 9999, 1, "", "Seed", "Which noise is taken.", "Bursts", role="seed")
