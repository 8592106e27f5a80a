"""Two ways to a snare: a tone with noise, and two membranes that are struck."""

from juglant.core.recipes.fields import Recipe, control


class SnareRecipe(Recipe):
    """A short tone and a longer noise, each with its own envelope."""

    tone_hz: float = control(
        185.0, 80.0, 600.0, 0.1, "Hz", "Tone",
        "Pitch of the body. One to two octaves above the kick is usual. Lower is fatter.",
        "Tone", scale="log", main=True, role="tone",
    )  # fmt: skip
    noise_ms: float = control(
        190.0, 20.0, 1200.0, 1.0, "ms", "Noise decay",
        "Time until the noise is 60 dB down. Short is tight, long fills the beat.",
        "Noise", scale="log", main=True, role="decay",
    )  # fmt: skip
    noise_db: float = control(
        0.0, -60.0, 12.0, 0.5, "dB", "Noise",
        "Noise against tone. More is a rattle, less is a tom.",
        "Noise", main=True, off=-60.0,
    )  # fmt: skip
    noise_attack_ms: float = control(
        1.5, 0.0, 30.0, 0.1, "ms", "Noise attack",
        "Opens the noise late, so that the tone’s transient comes through.",
        "Noise", main=True,
    )  # fmt: skip
    tone_ms: float = control(
        110.0, 10.0, 800.0, 1.0, "ms", "Tone decay",
        "Time until the tone is 60 dB down. Short is a crack, long rings.",
        "Tone", scale="log", role="decay",
    )  # fmt: skip
    wave: float = control(
        0.2, 0.0, 2.0, 0.01, "", "Wave",
        "0 sine, 1 triangle, 2 square, anything between. More wave is harder.",
        "Tone",
    )  # fmt: skip
    start_semitones: float = control(
        12.0, 0.0, 36.0, 0.5, "st", "Pitch start",
        "How far above its end the tone starts. More is a harder stroke.",
        "Tone", role="sweep",
    )  # fmt: skip
    pitch_decay_ms: float = control(
        10.0, 1.0, 120.0, 0.5, "ms", "Pitch decay",
        "How long the pitch takes to fall by about two thirds. Short snaps, long bends.",
        "Tone", scale="log",
    )  # fmt: skip
    highpass_hz: float = control(
        900.0, 100.0, 8000.0, 10.0, "Hz", "Noise from",
        "The noise has nothing below this. Keeps it off the body.",
        "Noise", scale="log",
    )  # fmt: skip
    lowpass_hz: float = control(
        12000.0, 1000.0, 20000.0, 10.0, "Hz", "Noise to",
        "The noise has nothing above this. Leaves the air to the hats.",
        "Noise", scale="log", off=20000.0,
    )  # fmt: skip
    drive_db: float = control(
        4.0, 0.0, 36.0, 0.5, "dB", "Drive",
        "Soft clipping of the whole snare. Denser and louder at the same peak.",
        "Level", off=0.0,
    )  # fmt: skip
    level_db: float = control(
        -3.0, -30.0, 0.0, 0.1, "dB", "Level",
        "Peak of the finished snare. Set it with the kick playing.",
        "Level", role="level",
    )  # fmt: skip
    seed: int = control(
        1, 0, 9999, 1, "", "Seed",
        "Another piece of noise. Try a few.",
        "Noise", role="seed",
    )  # fmt: skip


class MembraneRecipe(Recipe):
    """Two circular membranes in series, struck, with wires: modes after Fletcher & Rossing."""

    tune_hz: float = control(
        178.0, 60.0, 500.0, 0.1, "Hz", "Pitch",
        "Lowest mode of the struck membrane: its note. One to two octaves above the kick is usual.",
        "Membranes", scale="log", main=True, role="note",
    )  # fmt: skip
    decay_ms: float = control(
        320.0, 30.0, 1000.0, 1.0, "ms", "Decay",
        "Time until the lowest mode is 60 dB down. Short is muffled, long is open.",
        "Membranes", scale="log", main=True, role="decay",
    )  # fmt: skip
    strike: float = control(
        0.35, 0.0, 1.0, 0.01, "", "Strike position",
        "0 is the centre, 1 the rim. The centre is a thud: half of the modes keep silent there. The rim "
        "rings.",
        "Striker", main=True,
    )  # fmt: skip
    stiffness: float = control(
        0.6, 0.0, 1.0, 0.01, "", "Stiffness",
        "From a soft felt to a hard tip: shorter contact, brighter.",
        "Striker", main=True,
    )  # fmt: skip
    tension_semitones: float = control(
        0.0, -12.0, 12.0, 0.1, "st", "Tension",
        "Tightens or slackens both membranes together.",
        "Membranes",
    )  # fmt: skip
    second_semitones: float = control(
        5.0, -12.0, 12.0, 0.1, "st", "Second membrane",
        "Tuning of the second membrane against the struck one. Apart it wobbles, alike it sings.",
        "Membranes",
    )  # fmt: skip
    coupling: float = control(
        0.5, 0.0, 1.0, 0.01, "", "Coupling",
        "How much of the first reaches the second. More rings longer and shakes the wires more.",
        "Membranes",
    )  # fmt: skip
    damping: float = control(
        0.4, 0.0, 1.0, 0.01, "", "Material",
        "How much sooner the high modes die: from thin plastic to hide.",
        "Membranes",
    )  # fmt: skip
    wires_db: float = control(
        -8.0, -60.0, 6.0, 0.5, "dB", "Wires",
        "Noise that the second membrane shakes loose. None is a tom.",
        "Wires", off=-60.0,
    )  # fmt: skip
    wires_ms: float = control(
        160.0, 10.0, 1000.0, 1.0, "ms", "Wires decay",
        "Time until the wires are 60 dB down. Short is tight, long is loose.",
        "Wires", scale="log", role="decay",
    )  # fmt: skip
    wires_hz: float = control(
        2200.0, 300.0, 9000.0, 10.0, "Hz", "Wires tone",
        "The wires have nothing below this. Higher is thinner and crisper.",
        "Wires", scale="log",
    )  # fmt: skip
    drive_db: float = control(
        5.0, 0.0, 36.0, 0.5, "dB", "Drive",
        "Soft clipping of the whole drum. Denser and louder at the same peak.",
        "Level", off=0.0,
    )  # fmt: skip
    level_db: float = control(
        -3.0, -30.0, 0.0, 0.1, "dB", "Level",
        "Peak of the finished hit. Set it with the kick playing.",
        "Level", role="level",
    )  # fmt: skip
    seed: int = control(
        1, 0, 9999, 1, "", "Seed",
        "Another piece of noise for the wires. Try a few.",
        "Wires", role="seed",
    )  # fmt: skip
