"""What a made bass is made of, and what it plays."""

from typing import Annotated

from pydantic import Field, model_validator

from juglant.core.recipes.fields import Recipe, control

STEPS = 16


class Step(Recipe):
    """A note of the pattern, on a sixteenth of the bar."""

    at: Annotated[int, Field(ge=0, lt=STEPS)]
    steps: Annotated[float, Field(gt=0.0, le=STEPS, title="Length in sixteenths")]


PATTERNS: dict[str, tuple[Step, ...]] = {
    "off-beats": tuple(Step(at=at, steps=1.8) for at in (2, 6, 10, 14)),
    "rolling sixteenths": tuple(Step(at=at, steps=0.9) for at in range(STEPS) if at % 4),
    "long notes": (Step(at=0, steps=7.5), Step(at=8, steps=7.5)),
    "with the kick": tuple(Step(at=at, steps=3.2) for at in (0, 4, 8, 12)),
    "gallop": tuple(Step(at=at, steps=0.9) for at in (2, 3, 6, 7, 10, 11, 14, 15)),
}


class BassRecipe(Recipe):
    """One voice on the chord root: wave, low-pass, drive, envelope and pattern."""

    octave: int = control(
        1, 0, 3, 1, "", "Octave", "Of the chord root; 1 is G1 = 49 Hz.", "Notes", main=True
    )
    lowpass_hz: float = control(
        480.0, 40.0, 20000.0, 1.0, "Hz", "Low-pass", "Cutoff, 24 dB per octave.", "Filter",
        scale="log", main=True, off=20000.0,
    )  # fmt: skip
    wave: float = control(
        1.6, 0.0, 2.0, 0.01, "", "Wave", "0 sine, 1 triangle, 2 saw, and all between.", "Tone",
        main=True,
    )  # fmt: skip
    level_db: float = control(
        -9.0,
        -40.0,
        0.0,
        0.1,
        "dB",
        "Level",
        "Peak of the bass, before its high-pass.",
        "Level",
        main=True,
    )
    highpass_hz: float = control(
        20.0, 20.0, 200.0, 1.0, "Hz", "High-pass",
        "Rolls the bass off below, 24 dB per octave; 60–65 Hz where the kick owns the sub.",
        "Filter", scale="log", off=20.0,
    )  # fmt: skip
    drive_db: float = control(
        4.0, 0.0, 36.0, 0.5, "dB", "Drive", "Soft clipping; the peak is held.", "Tone", off=0.0
    )
    attack_ms: float = control(3.0, 0.5, 100.0, 0.5, "ms", "Attack", "Fade in of each note.", "Envelope")
    decay_ms: float = control(
        400.0, 10.0, 3000.0, 1.0, "ms", "Decay", "From the peak towards the sustain.", "Envelope",
        scale="log",
    )  # fmt: skip
    sustain_db: float = control(
        -6.0, -60.0, 0.0, 0.5, "dB", "Sustain", "Level that the decay comes to.", "Envelope"
    )
    release_ms: float = control(
        30.0, 2.0, 500.0, 1.0, "ms", "Release", "After the note's end.", "Envelope", scale="log"
    )
    pattern: tuple[Step, ...] = Field(
        PATTERNS["off-beats"], min_length=1, max_length=STEPS, title="Pattern"
    )

    @model_validator(mode="after")
    def _steps_once(self) -> "BassRecipe":
        places = [step.at for step in self.pattern]
        if places != sorted(set(places)):
            raise ValueError("the steps of the pattern must be in order, each place once")
        return self
