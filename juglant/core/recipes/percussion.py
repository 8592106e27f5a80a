"""Toms, congas, claves, metal: two or three operators of frequency modulation."""

from juglant.core.recipes.fields import Recipe, control


class PercussionRecipe(Recipe):
    """A carrier bent by one or two modulators, with envelopes and a band-pass."""

    end_hz: float = control(
        110.0, 30.0, 4000.0, 0.01, "Hz", "Pitch",
        "The note it settles at. Tune it to the key, or apart from the snare.",
        "Tone", scale="log", main=True, role="note",
    )  # fmt: skip
    decay_ms: float = control(
        280.0, 10.0, 3000.0, 1.0, "ms", "Decay",
        "Time until it is 60 dB down. Short is wood, long is a bell.",
        "Level", scale="log", main=True, role="decay",
    )  # fmt: skip
    index: float = control(
        1.2, 0.0, 12.0, 0.01, "", "Modulation",
        "How far the first modulator bends the tone. More is brighter and rougher.",
        "Modulation", main=True,
    )  # fmt: skip
    ratio: float = control(
        1.5, 0.25, 12.0, 0.01, "", "Ratio",
        "First modulator to tone: whole numbers are harmonic, others ring like metal.",
        "Modulation", main=True,
    )  # fmt: skip
    modulation_ms: float = control(
        60.0, 2.0, 2000.0, 1.0, "ms", "Modulation decay",
        "Time until the bending is 60 dB down. Short puts the brightness into the stroke only.",
        "Modulation", scale="log", role="decay",
    )  # fmt: skip
    second_index: float = control(
        0.0, 0.0, 12.0, 0.01, "", "Second modulation",
        "How far the second modulator bends the first. A little adds grit, a lot is noise.",
        "Modulation", off=0.0,
    )  # fmt: skip
    second_ratio: float = control(
        2.7, 0.25, 12.0, 0.01, "", "Second ratio",
        "Second modulator to tone. Odd values for metal, whole ones for skins.",
        "Modulation",
    )  # fmt: skip
    start_semitones: float = control(
        7.0, 0.0, 36.0, 0.5, "st", "Pitch start",
        "How far above its end it starts. More is a tom or a conga, much more a zap.",
        "Tone", role="sweep",
    )  # fmt: skip
    pitch_decay_ms: float = control(
        30.0, 1.0, 400.0, 0.5, "ms", "Pitch decay",
        "How long the pitch takes to fall by about two thirds. Short is a tap, long a dive.",
        "Tone", scale="log",
    )  # fmt: skip
    attack_ms: float = control(
        0.5, 0.0, 40.0, 0.1, "ms", "Attack",
        "Fade in. Softens the stroke, makes shakers.",
        "Level",
    )  # fmt: skip
    strike_db: float = control(
        -24.0, -60.0, 6.0, 0.5, "dB", "Strike",
        "A breath of noise at the onset: the hand or the stick.",
        "Level", off=-60.0,
    )  # fmt: skip
    band_hz: float = control(
        1000.0, 100.0, 8000.0, 10.0, "Hz", "Band",
        "Middle of the band-pass. Sweep it until the hit has its place.",
        "Filter", scale="log",
    )  # fmt: skip
    band_share: float = control(
        0.0, 0.0, 1.0, 0.01, "", "Band share",
        "How much of it goes through the band-pass. More is thinner and sits better.",
        "Filter", off=0.0,
    )  # fmt: skip
    band_q: float = control(
        1.0, 0.3, 12.0, 0.1, "", "Band Q",
        "Higher is narrower. Narrow sings, wide only thins.",
        "Filter", scale="log",
    )  # fmt: skip
    drive_db: float = control(
        0.0, 0.0, 36.0, 0.5, "dB", "Drive",
        "Soft clipping of the whole hit. Denser and louder at the same peak.",
        "Level", off=0.0,
    )  # fmt: skip
    level_db: float = control(
        -3.0, -30.0, 0.0, 0.1, "dB", "Level",
        "Peak of the finished hit. Set it with the kick playing.",
        "Level", role="level",
    )  # fmt: skip
    seed: int = control(
        1, 0, 9999, 1, "", "Seed",
        "Another piece of noise for the strike. Try a few.",
        "Level", role="seed",
    )  # fmt: skip
