"""What an 808 is made of: a long sine that falls onto its note. Starting values are common practice."""

from typing import Literal

from juglant.core.recipes.fields import Recipe, choice, control

Push = Literal["triangle", "square"]


class Recipe808(Recipe):
    """Sine, pitch envelope, transient harmonics, sustain and release, drive that keeps the fundamental."""

    end_hz: float = control(
        43.65, 25.0, 160.0, 0.01, "Hz", "Pitch",
        "The note it settles at. Under some 40 Hz few systems play it, over 80 Hz it is no sub.",
        "Body", scale="log", main=True, role="note",
    )  # fmt: skip
    decay_ms: float = control(
        900.0, 60.0, 4000.0, 1.0, "ms", "Decay",
        "Time until it comes near the sustain. Long carries the bar, short is a kick.",
        "Level", scale="log", main=True, role="decay",
    )  # fmt: skip
    harmonics: float = control(
        0.35, 0.0, 1.0, 0.01, "", "Push",
        "For a moment the pitch envelope pushes the wave away from the sine: the onset that small "
        "speakers play.",
        "Harmonics", main=True,
    )  # fmt: skip
    drive_db: float = control(
        6.0, 0.0, 36.0, 0.5, "dB", "Drive",
        "Soft clipping with the fundamental at its level: harmonics come on top. Lets small speakers play "
        "the note.",
        "Harmonics", main=True, off=0.0,
    )  # fmt: skip
    push_to: Push = choice(
        "square", "Push to",
        "Which wave it is pushed towards. The triangle is round, the square hollow and louder.",
        "Harmonics",
    )  # fmt: skip
    start_octaves: float = control(
        2.0, 0.0, 4.0, 0.01, "oct", "Pitch start",
        "How far above the note it starts. Whole octaves keep the start in tune too. More is a harder "
        "onset.",
        "Pitch", role="sweep",
    )  # fmt: skip
    pitch_decay_ms: float = control(
        26.0, 2.0, 300.0, 0.5, "ms", "Pitch decay",
        "How long the pitch takes to fall by about two thirds. Short is a knock, long a dive.",
        "Pitch", scale="log",
    )  # fmt: skip
    glide_semitones: float = control(
        0.0, -24.0, 24.0, 1.0, "st", "Glide from",
        "Slides from this far off, after the transient. For slides between notes of one stroke.",
        "Pitch",
    )  # fmt: skip
    glide_ms: float = control(
        120.0, 10.0, 1000.0, 1.0, "ms", "Glide time",
        "How long that slide takes. Listen for the new note arriving on the beat.",
        "Pitch", scale="log",
    )  # fmt: skip
    attack_ms: float = control(
        1.0, 0.0, 60.0, 0.1, "ms", "Attack",
        "Fade in. A little leaves the onset to a kick.",
        "Level",
    )  # fmt: skip
    sustain_db: float = control(
        -24.0, -60.0, 0.0, 0.5, "dB", "Sustain",
        "What the decay comes to: low, but not nothing, holds the note.",
        "Level",
    )  # fmt: skip
    release_ms: float = control(
        90.0, 2.0, 1000.0, 1.0, "ms", "Release",
        "Fade after the length. Slightly long does not click; too long runs into the next note.",
        "Level", scale="log",
    )  # fmt: skip
    length_ms: float = control(
        1000.0, 60.0, 4000.0, 1.0, "ms", "Length",
        "How long it is held before the release. End it before the next kick or note.",
        "Level", scale="log",
    )  # fmt: skip
    lowpass_hz: float = control(
        20000.0, 60.0, 20000.0, 1.0, "Hz", "Low-pass",
        "Takes the highs away, 24 dB per octave. Lower is a plain sub.",
        "Harmonics", scale="log", off=20000.0,
    )  # fmt: skip
    level_db: float = control(
        -3.0, -30.0, 0.0, 0.1, "dB", "Level",
        "Peak of the finished 808. Set it with the kick playing.",
        "Level", role="level",
    )  # fmt: skip
