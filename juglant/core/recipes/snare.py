"""Two ways to a snare: a tone with noise, and two membranes that are struck."""

from juglant.core.recipes.fields import Recipe, control


class SnareRecipe(Recipe):
    """A short tone and a longer noise, each with its own envelope."""

    tone_hz: float = control(
        185.0, 80.0, 600.0, 0.1, "Hz", "Tone", "One to two octaves above the kick is usual.", "Tone",
        scale="log", main=True, role="tone",
    )  # fmt: skip
    noise_ms: float = control(
        190.0, 20.0, 1200.0, 1.0, "ms", "Noise decay", "Until the noise is 60 dB down.", "Noise",
        scale="log", main=True, role="decay",
    )  # fmt: skip
    noise_db: float = control(
        0.0, -60.0, 12.0, 0.5, "dB", "Noise", "Level of the noise against the tone.", "Noise", main=True,
        off=-60.0,
    )  # fmt: skip
    noise_attack_ms: float = control(
        1.5, 0.0, 30.0, 0.1, "ms", "Noise attack",
        "Opened a little, so that the transient of the tone comes through.", "Noise", main=True,
    )  # fmt: skip
    tone_ms: float = control(
        110.0,
        10.0,
        800.0,
        1.0,
        "ms",
        "Tone decay",
        "Until the tone is 60 dB down.",
        "Tone",
        scale="log",
        role="decay",
    )
    wave: float = control(
        0.2, 0.0, 2.0, 0.01, "", "Wave", "0 sine, 1 triangle, 2 square, and all between.", "Tone"
    )
    start_semitones: float = control(
        12.0,
        0.0,
        36.0,
        0.5,
        "st",
        "Pitch start",
        "How far above its end the tone starts.",
        "Tone",
        role="sweep",
    )
    pitch_decay_ms: float = control(
        10.0, 1.0, 120.0, 0.5, "ms", "Pitch decay", "How long the fall takes, by two thirds.", "Tone",
        scale="log",
    )  # fmt: skip
    highpass_hz: float = control(
        900.0, 100.0, 8000.0, 10.0, "Hz", "Noise from", "The noise lies above this.", "Noise", scale="log"
    )
    lowpass_hz: float = control(
        12000.0, 1000.0, 20000.0, 10.0, "Hz", "Noise to", "The noise lies below this.", "Noise",
        scale="log", off=20000.0,
    )  # fmt: skip
    drive_db: float = control(4.0, 0.0, 36.0, 0.5, "dB", "Drive", "Soft clipping of all.", "Level", off=0.0)
    level_db: float = control(
        -3.0, -30.0, 0.0, 0.1, "dB", "Level", "Peak of the finished snare.", "Level", role="level"
    )
    seed: int = control(1, 0, 9999, 1, "", "Seed", "Which noise is taken.", "Noise", role="seed")


class MembraneRecipe(Recipe):
    """Two circular membranes in series, struck, with wires: modes after Fletcher & Rossing."""

    tune_hz: float = control(
        178.0, 60.0, 500.0, 0.1, "Hz", "Pitch", "The lowest mode of the struck membrane.", "Membranes",
        scale="log", main=True, role="note",
    )  # fmt: skip
    decay_ms: float = control(
        320.0, 30.0, 1000.0, 1.0, "ms", "Decay", "Until the lowest mode is 60 dB down.", "Membranes",
        scale="log", main=True, role="decay",
    )  # fmt: skip
    strike: float = control(
        0.35, 0.0, 1.0, 0.01, "", "Strike position",
        "0 the centre, 1 the rim. A centre strike leaves every mode with a nodal diameter silent.",
        "Striker", main=True,
    )  # fmt: skip
    stiffness: float = control(
        0.6, 0.0, 1.0, 0.01, "", "Stiffness", "A soft felt to a hard tip: shorter contact, brighter.",
        "Striker", main=True,
    )  # fmt: skip
    tension_semitones: float = control(
        0.0, -12.0, 12.0, 0.1, "st", "Tension", "Tightens or slackens both membranes.", "Membranes"
    )
    second_semitones: float = control(
        5.0, -12.0, 12.0, 0.1, "st", "Second membrane", "Its tuning against the struck one.", "Membranes"
    )
    coupling: float = control(
        0.5, 0.0, 1.0, 0.01, "", "Coupling", "How much of the first reaches the second.", "Membranes"
    )
    damping: float = control(
        0.4, 0.0, 1.0, 0.01, "", "Material", "How much sooner the high modes die: thin plastic to hide.",
        "Membranes",
    )  # fmt: skip
    wires_db: float = control(
        -8.0, -60.0, 6.0, 0.5, "dB", "Wires", "Noise that the second membrane shakes.", "Wires", off=-60.0
    )
    wires_ms: float = control(
        160.0,
        10.0,
        1000.0,
        1.0,
        "ms",
        "Wires decay",
        "Until they are 60 dB down.",
        "Wires",
        scale="log",
        role="decay",
    )
    wires_hz: float = control(
        2200.0, 300.0, 9000.0, 10.0, "Hz", "Wires tone", "Their noise lies above this.", "Wires",
        scale="log",
    )  # fmt: skip
    drive_db: float = control(5.0, 0.0, 36.0, 0.5, "dB", "Drive", "Soft clipping of all.", "Level", off=0.0)
    level_db: float = control(
        -3.0, -30.0, 0.0, 0.1, "dB", "Level", "Peak of the finished hit.", "Level", role="level"
    )
    seed: int = control(1, 0, 9999, 1, "", "Seed", "Which noise the wires take.", "Wires", role="seed")
