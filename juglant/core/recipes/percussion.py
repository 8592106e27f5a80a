"""Toms, congas, claves, metal: two or three operators of frequency modulation."""

from juglant.core.recipes.fields import Recipe, control


class PercussionRecipe(Recipe):
    """A carrier bent by one or two modulators, with envelopes and a band-pass."""

    end_hz: float = control(
        110.0, 30.0, 4000.0, 0.01, "Hz", "Pitch", "The note that it settles to.", "Tone", scale="log",
        main=True, role="note",
    )  # fmt: skip
    decay_ms: float = control(
        280.0,
        10.0,
        3000.0,
        1.0,
        "ms",
        "Decay",
        "Until it is 60 dB down.",
        "Level",
        scale="log",
        main=True,
        role="decay",
    )
    index: float = control(
        1.2, 0.0, 12.0, 0.01, "", "Modulation", "How far the first modulator bends the tone.",
        "Modulation", main=True,
    )  # fmt: skip
    ratio: float = control(
        1.5, 0.25, 12.0, 0.01, "", "Ratio",
        "Of the first modulator to the tone: whole numbers are harmonic, others ring.", "Modulation",
        main=True,
    )  # fmt: skip
    modulation_ms: float = control(
        60.0, 2.0, 2000.0, 1.0, "ms", "Modulation decay", "Until the bending is 60 dB down.", "Modulation",
        scale="log", role="decay",
    )  # fmt: skip
    second_index: float = control(
        0.0, 0.0, 12.0, 0.01, "", "Second modulation", "The second modulator bends the first.",
        "Modulation", off=0.0,
    )  # fmt: skip
    second_ratio: float = control(
        2.7, 0.25, 12.0, 0.01, "", "Second ratio", "Of the second modulator to the tone.", "Modulation"
    )
    start_semitones: float = control(
        7.0,
        0.0,
        36.0,
        0.5,
        "st",
        "Pitch start",
        "How far above its end it starts.",
        "Tone",
        role="sweep",
    )
    pitch_decay_ms: float = control(
        30.0, 1.0, 400.0, 0.5, "ms", "Pitch decay", "How long the fall takes, by two thirds.", "Tone",
        scale="log",
    )  # fmt: skip
    attack_ms: float = control(0.5, 0.0, 40.0, 0.1, "ms", "Attack", "Fade in.", "Level")
    strike_db: float = control(
        -24.0, -60.0, 6.0, 0.5, "dB", "Strike", "A breath of noise at the onset.", "Level", off=-60.0
    )
    band_hz: float = control(
        1000.0, 100.0, 8000.0, 10.0, "Hz", "Band", "Middle of the band-pass.", "Filter", scale="log"
    )
    band_share: float = control(
        0.0, 0.0, 1.0, 0.01, "", "Band share", "How much of it goes through the band-pass.", "Filter",
        off=0.0,
    )  # fmt: skip
    band_q: float = control(1.0, 0.3, 12.0, 0.1, "", "Band Q", "Higher is narrower.", "Filter", scale="log")
    drive_db: float = control(0.0, 0.0, 36.0, 0.5, "dB", "Drive", "Soft clipping of all.", "Level", off=0.0)
    level_db: float = control(
        -3.0, -30.0, 0.0, 0.1, "dB", "Level", "Peak of the finished hit.", "Level", role="level"
    )
    seed: int = control(1, 0, 9999, 1, "", "Seed", "Which noise the strike takes.", "Level", role="seed")
