"""What a made bass is made of, and what it plays."""

from typing import Annotated

from pydantic import Field, model_validator

from juglant.core.recipes.fields import Recipe, control
from juglant.core.recipes.notes import (
    MOST_BARS,
    Choke,
    Note,
    Swing,
    choke_group,
    in_order,
    swing_choice,
    swing_control,
)

# The most notes of one pattern: eight bars of sixteenth triplets.
MOST_NOTES = 192


def _even(beats: float, *places: float) -> tuple[Note, ...]:
    return tuple(Note(at=at, beats=beats) for at in places)


PATTERNS: dict[str, tuple[Note, ...]] = {
    "off-beats": _even(0.45, 0.5, 1.5, 2.5, 3.5),
    "rolling sixteenths": _even(0.225, *(n / 4 for n in range(16) if n % 4)),
    "long notes": _even(1.875, 0, 2),
    "with the kick": _even(0.8, 0, 1, 2, 3),
    "gallop": _even(0.225, *(beat + part for beat in range(4) for part in (0.5, 0.75))),
}


class LineRecipe(Recipe):
    """What a line plays, whatever sounds it: notes above the chord roots, one voice."""

    octave: int = control(
        1, 0, 3, 1, "", "Octave",
        "Octave of the chord root; 1 is G1 = 49 Hz. Lower is heavier, higher is heard on small speakers. "
        "Listen for whether every note is still a note.",
        "Notes", main=True,
    )  # fmt: skip
    choke: Choke = choke_group()
    swing: Swing = swing_choice()
    swing_percent: float = swing_control()
    bars: Annotated[int, Field(ge=1, le=MOST_BARS, title="Pattern length in bars")] = 1
    pattern: tuple[Note, ...] = Field(
        PATTERNS["off-beats"], min_length=1, max_length=MOST_NOTES, title="Pattern"
    )

    @model_validator(mode="after")
    def _notes_once(self) -> "LineRecipe":
        in_order([note.at for note in self.pattern], self.bars, "notes of the pattern")
        return self


class PlayedRecipe(LineRecipe):
    """A line that one of the hits plays: an 808, mostly."""

    level_db: float = control(
        0.0, -30.0, 12.0, 0.1, "dB", "Level",
        "Added to the hit’s own level. Set it against the kick in the low band, not by the meters.",
        "Level", main=True,
    )  # fmt: skip
    release_ms: float = control(
        40.0, 3.0, 500.0, 1.0, "ms", "Release",
        "Fade after a note’s end. Longer joins the notes, shorter leaves room for the kick. Listen for "
        "clicks at the ends of low notes.",
        "Notes", scale="log", main=True,
    )  # fmt: skip


class BassRecipe(LineRecipe):
    """One voice on the chord root: wave, low-pass, drive, envelope and pattern."""

    lowpass_hz: float = control(
        480.0, 40.0, 20000.0, 1.0, "Hz", "Low-pass",
        "Takes the highs away, 24 dB per octave. Lower leaves room for what lies above, higher lets the "
        "line be heard on small speakers. Listen for when its rhythm gets lost.",
        "Filter", scale="log", main=True, off=20000.0,
    )  # fmt: skip
    wave: float = control(
        1.6, 0.0, 2.0, 0.01, "", "Wave",
        "0 sine, 1 triangle, 2 saw, anything between. More wave carries the notes to small speakers; a "
        "sine leaves the most room. Listen for the pitch at low volume.",
        "Tone", main=True,
    )  # fmt: skip
    level_db: float = control(
        -9.0, -40.0, 0.0, 0.1, "dB", "Level",
        "Peak of the bass, before its high-pass. Set it against the kick: neither should vanish when both "
        "play.",
        "Level", main=True,
    )  # fmt: skip
    highpass_hz: float = control(
        20.0, 20.0, 200.0, 1.0, "Hz", "High-pass",
        "Rolls the bass off below, 24 dB per octave; 60–65 Hz where the kick owns the sub. Listen for "
        "weight on the beat and a clear floor between beats.",
        "Filter", scale="log", off=20.0,
    )  # fmt: skip
    drive_db: float = control(
        4.0, 0.0, 36.0, 0.5, "dB", "Drive",
        "Soft clipping at the same peak level. Adds harmonics, so that low notes are heard on small "
        "speakers. Listen for where warm turns to buzzing.",
        "Tone", off=0.0,
    )  # fmt: skip
    attack_ms: float = control(
        3.0, 0.5, 100.0, 0.5, "ms", "Attack",
        "Fade in of each note. Short is plucked and clear, long keeps out of the kick’s onset. Listen for "
        "clicks at the shortest.",
        "Envelope",
    )  # fmt: skip
    decay_ms: float = control(
        400.0, 10.0, 3000.0, 1.0, "ms", "Decay",
        "Time from the peak towards the sustain. Short notes bounce and leave gaps, long ones fill. "
        "Listen for the groove between kicks.",
        "Envelope", scale="log",
    )  # fmt: skip
    sustain_db: float = control(
        -6.0, -60.0, 0.0, 0.5, "dB", "Sustain",
        "The level that the decay comes to. Low is plucked, 0 dB holds the note. Listen for whether long "
        "notes still carry.",
        "Envelope",
    )  # fmt: skip
    release_ms: float = control(
        30.0, 2.0, 500.0, 1.0, "ms", "Release",
        "Fade after the note’s end. Longer joins the notes, shorter leaves room for the kick. Listen for "
        "clicks at the ends of low notes.",
        "Envelope", scale="log",
    )  # fmt: skip
    glide_ms: float = control(
        60.0, 5.0, 500.0, 1.0, "ms", "Glide",
        "How long a gliding note takes from the one before it. Short snaps, long slides. Listen for "
        "whether the new note arrives in time.",
        "Notes", scale="log",
    )  # fmt: skip
