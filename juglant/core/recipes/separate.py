"""What kick and bass give up to each other."""

from typing import Literal

from juglant.core.recipes.chain import Phase, Slope
from juglant.core.recipes.fields import Recipe, choice, control

Harmonic = Literal["1", "2", "3", "4"]


class Carve(Recipe):
    """What one side of the low end gives up."""

    highpass_hz: float = control(
        20.0, 20.0, 250.0, 1.0, "Hz", "High-pass", "Leaves what lies below to the other.", "Carve",
        scale="log", main=True, off=20.0,
    )  # fmt: skip
    cut_db: float = control(
        0.0, -18.0, 6.0, 0.5, "dB", "Cut", "A bell where the other one is strongest.", "Carve", main=True,
        off=0.0,
    )  # fmt: skip
    cut_hz: float = control(
        60.0, 20.0, 600.0, 0.5, "Hz", "Cut at", "Its middle.", "Carve", scale="log", main=True
    )
    highpass_slope: Slope = choice("24", "Slope", "Of the high-pass, in dB per octave.", "Carve")
    cut_q: float = control(1.4, 0.3, 8.0, 0.1, "", "Cut’s Q", "Higher is narrower.", "Carve", scale="log")
    phase: Phase = choice(
        "minimum", "Phase",
        "Minimum: as a circuit does. Linear: the transient stays where it was, and a little rings before.",
        "Carve",
    )  # fmt: skip


class KickCarve(Carve):
    """What the kick gives up, in the loop; its one-shot stays as it is."""


class BassCarve(Carve):
    """What the bass gives up, and what keeps it heard when it has."""

    crossover_hz: float = control(
        235.0, 120.0, 500.0, 1.0, "Hz", "Crossover",
        "Below it clean and level, above it the character; 220–250 Hz is usual.", "Split", scale="log",
    )  # fmt: skip
    steady_ratio: float = control(
        1.0, 1.0, 10.0, 0.1, ":1", "Held level",
        "Compresses what lies below the crossover towards its median.", "Split", off=1.0,
    )  # fmt: skip
    mid_copy_db: float = control(
        -40.0, -40.0, 18.0, 0.5, "dB", "Mid copy",
        "What lies above the crossover once more, driven; it may need 15 dB and more.", "Split", off=-40.0,
    )  # fmt: skip
    starts_db: float = control(
        -40.0, -40.0, 0.0, 0.5, "dB", "Note starts",
        "A very short sine at every note, re the bass’s peak: changes of note are heard.", "Heard",
        off=-40.0,
    )  # fmt: skip
    lift_db: float = control(
        0.0, 0.0, 9.0, 0.5, "dB", "Emphasis", "On a harmonic of the key’s root.", "Heard", off=0.0
    )
    lift_harmonic: Harmonic = choice("2", "Of the root", "Which harmonic: try each.", "Heard")
    shift_ms: float = control(
        0.0, -8.0, 8.0, 0.05, "ms", "Shift", "The whole bass later (or earlier) against the kick.", "Phase",
        off=0.0,
    )  # fmt: skip
    polarity: Literal["as it is", "turned"] = choice(
        "as it is", "Polarity", "Inverts the wave: two sounds that cancel may add up.", "Phase"
    )


class SeparateRecipe(Recipe):
    """Both sides; neutral as it begins."""

    kick: KickCarve = KickCarve()
    bass: BassCarve = BassCarve()
