"""What kick and bass give up to each other."""

from typing import Literal

from juglant.core.recipes.chain import Phase, Slope
from juglant.core.recipes.fields import Polarity, Recipe, choice, control

Harmonic = Literal["1", "2", "3", "4"]


class Carve(Recipe):
    """What one side of the low end gives up."""

    highpass_hz: float = control(
        20.0, 20.0, 250.0, 1.0, "Hz", "High-pass",
        "Leaves what lies below to the other. Raise it until the other stands clear, then stop.",
        "Carve", scale="log", main=True, off=20.0,
    )  # fmt: skip
    cut_db: float = control(
        0.0, -18.0, 6.0, 0.5, "dB", "Cut",
        "A bell where the other is strongest. 3 dB is often enough; more is heard as thin.",
        "Carve", main=True, off=0.0,
    )  # fmt: skip
    cut_hz: float = control(
        60.0, 20.0, 600.0, 0.5, "Hz", "Cut at",
        "Middle of the cut. On the other’s fundamental, or its first harmonic.",
        "Carve", scale="log", main=True,
    )  # fmt: skip
    highpass_slope: Slope = choice(
        "24", "Slope",
        "Of the high-pass, in dB per octave. Steeper separates more and rings more.",
        "Carve",
    )  # fmt: skip
    cut_q: float = control(
        1.4, 0.3, 8.0, 0.1, "", "Cut’s Q",
        "Higher is narrower. Narrow goes unheard, wide makes more room.",
        "Carve", scale="log",
    )  # fmt: skip
    phase: Phase = choice(
        "minimum", "Phase",
        "Minimum acts like a circuit. Linear leaves the transient where it was, but rings a little before "
        "it.",
        "Carve",
    )  # fmt: skip


class KickCarve(Carve):
    """What the kick gives up, in the loop; its one-shot stays as it is."""


class BassCarve(Carve):
    """What the bass gives up, and what keeps it heard when it has."""

    crossover_hz: float = control(
        235.0, 120.0, 500.0, 1.0, "Hz", "Crossover",
        "Clean and level below, the character above; 220–250 Hz is usual.",
        "Split", scale="log",
    )  # fmt: skip
    steady_ratio: float = control(
        1.0, 1.0, 10.0, 0.1, ":1", "Held level",
        "Compresses what lies below the crossover towards its median. Listen for notes of equal weight.",
        "Split", off=1.0,
    )  # fmt: skip
    mid_copy_db: float = control(
        -40.0, -40.0, 18.0, 0.5, "dB", "Mid copy",
        "A driven copy of what lies above the crossover; it may need 15 dB and more. Carries the line on "
        "small speakers.",
        "Split", off=-40.0,
    )  # fmt: skip
    starts_db: float = control(
        -40.0, -40.0, 0.0, 0.5, "dB", "Note starts",
        "A very short sine at every note, against the bass’s peak. Makes changes of note heard under a "
        "kick.",
        "Heard", off=-40.0,
    )  # fmt: skip
    lift_db: float = control(
        0.0, 0.0, 9.0, 0.5, "dB", "Emphasis",
        "Emphasis on a harmonic of the key’s root. Gives the line its note back where the kick has the "
        "fundamental.",
        "Heard", off=0.0,
    )  # fmt: skip
    lift_harmonic: Harmonic = choice(
        "2", "Of the root",
        "Which harmonic of the root. Try each: one of them makes the line speak.",
        "Heard",
    )  # fmt: skip
    shift_ms: float = control(
        0.0, -8.0, 8.0, 0.05, "ms", "Shift",
        "The whole bass later (or earlier) against the kick. Listen for the low end adding up.",
        "Phase", off=0.0,
    )  # fmt: skip
    polarity: Polarity = choice(
        "normal", "Polarity",
        "Inverts the wave. Kick and bass that cancel may add up: listen for the low end growing.",
        "Phase",
    )  # fmt: skip


class SeparateRecipe(Recipe):
    """Both sides; neutral as it begins."""

    kick: KickCarve = KickCarve()
    bass: BassCarve = BassCarve()
