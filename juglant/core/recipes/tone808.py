"""What an 808 is made of: a long sine that falls onto its note. Starting values are common practice."""

from typing import Literal

from juglant.core.recipes.fields import Recipe, choice, control

Push = Literal["triangle", "square"]


class Recipe808(Recipe):
    """Sine, pitch envelope, transient harmonics, sustain and release, drive that keeps the fundamental."""

    end_hz: float = control(
        43.65, 25.0, 160.0, 0.01, "Hz", "Pitch", "The note that it settles to.", "Body", scale="log",
        main=True, role="note",
    )  # fmt: skip
    decay_ms: float = control(
        900.0, 60.0, 4000.0, 1.0, "ms", "Decay", "Until it comes near the sustain.", "Level",
        scale="log", main=True, role="decay",
    )  # fmt: skip
    harmonics: float = control(
        0.35, 0.0, 1.0, 0.01, "", "Push",
        "The pitch envelope pushes the wave from the sine for a moment: heard on small speakers.",
        "Harmonics", main=True,
    )  # fmt: skip
    drive_db: float = control(
        6.0, 0.0, 36.0, 0.5, "dB", "Drive",
        "Soft clipping; the fundamental keeps its level, harmonics come on top.", "Harmonics",
        main=True, off=0.0,
    )  # fmt: skip
    push_to: Push = choice("square", "Push to", "Which wave it is pushed towards.", "Harmonics")
    start_octaves: float = control(
        2.0, 0.0, 4.0, 0.01, "oct", "Pitch start",
        "How far above the note it starts. Whole octaves keep the whole sound in tune.", "Pitch",
        role="sweep",
    )  # fmt: skip
    pitch_decay_ms: float = control(
        26.0, 2.0, 300.0, 0.5, "ms", "Pitch decay", "How long the fall takes, by two thirds.", "Pitch",
        scale="log",
    )  # fmt: skip
    glide_semitones: float = control(
        0.0, -24.0, 24.0, 1.0, "st", "Glide from", "Slides from this far off, after the transient.",
        "Pitch",
    )  # fmt: skip
    glide_ms: float = control(
        120.0, 10.0, 1000.0, 1.0, "ms", "Glide time", "How long that slide takes.", "Pitch", scale="log"
    )
    attack_ms: float = control(1.0, 0.0, 60.0, 0.1, "ms", "Attack", "Fade in.", "Level")
    sustain_db: float = control(
        -24.0, -60.0, 0.0, 0.5, "dB", "Sustain",
        "What the decay comes to: low but not nothing holds the note.", "Level",
    )  # fmt: skip
    release_ms: float = control(
        90.0, 2.0, 1000.0, 1.0, "ms", "Release", "After the length; slightly long does not click.",
        "Level", scale="log",
    )  # fmt: skip
    length_ms: float = control(
        1000.0, 60.0, 4000.0, 1.0, "ms", "Length", "How long it is held, before the release.", "Level",
        scale="log",
    )  # fmt: skip
    lowpass_hz: float = control(
        20000.0, 60.0, 20000.0, 1.0, "Hz", "Low-pass", "Cutoff, 24 dB per octave.", "Harmonics",
        scale="log", off=20000.0,
    )  # fmt: skip
    level_db: float = control(
        -3.0, -30.0, 0.0, 0.1, "dB", "Level", "Peak of the finished 808.", "Level", role="level"
    )
