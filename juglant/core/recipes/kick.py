"""What a made kick is made of. Starting values are common practice."""

from typing import Literal

from juglant.core.recipes.fields import Recipe, choice, control

Opener = Literal["its own", "the pitch"]
LengthNote = Literal["ms", "1/4", "1/8.", "1/8", "1/8t", "1/16.", "1/16"]


class KickRecipe(Recipe):
    """Body, pitch envelope, sub, amplitude, click, drive and low-pass."""

    end_hz: float = control(
        49.0, 25.0, 160.0, 0.01, "Hz", "Pitch",
        "The frequency the tail settles to: the note of the kick.", "Body", scale="log", main=True,
        role="note",
    )  # fmt: skip
    decay_ms: float = control(
        340.0, 30.0, 1500.0, 1.0, "ms", "Decay",
        "Until the body is 60 dB down. Longer holds more sub, shorter leaves more room.",
        "Level", scale="log", main=True, role="decay",
    )  # fmt: skip
    pitch_decay_ms: float = control(
        18.0, 2.0, 400.0, 0.5, "ms", "Pitch decay",
        "How long the pitch takes to fall by about two thirds. Short is a knock, long is dub.",
        "Pitch", scale="log", main=True,
    )  # fmt: skip
    click_db: float = control(
        -14.0, -60.0, 6.0, 0.5, "dB", "Click",
        "Level of the beater: short filtered noise, against the body's peak.",
        "Click", main=True, off=-60.0,
    )  # fmt: skip
    wave: float = control(
        0.0, 0.0, 2.0, 0.01, "", "Wave", "0 sine, 1 triangle, 2 square, and all between.", "Body"
    )
    sub_db: float = control(
        -60.0, -60.0, 0.0, 0.5, "dB", "Sub",
        "A sine an octave below the body, against the body.", "Body", off=-60.0,
    )  # fmt: skip
    sub_delay_ms: float = control(
        0.0, 0.0, 250.0, 1.0, "ms", "Sub delay", "The sub swells in this long after the onset.", "Body"
    )
    start_semitones: float = control(
        24.0, 0.0, 60.0, 0.5, "st", "Pitch start",
        "How far above its end the pitch starts. Whole octaves (12, 24, 36) keep the whole "
        "sound in tune.", "Pitch", role="sweep",
    )  # fmt: skip
    pitch_curve: float = control(
        0.0, -1.0, 1.0, 0.01, "", "Pitch curve",
        "Below 0 the fall is straight and ends, 0 is exponential, above 0 it drops fast and lingers.",
        "Pitch",
    )  # fmt: skip
    attack_ms: float = control(0.5, 0.0, 50.0, 0.1, "ms", "Attack", "Fade in of the body.", "Level")
    hold_ms: float = control(
        8.0, 0.0, 400.0, 1.0, "ms", "Hold", "Stays at full level before it decays.", "Level"
    )
    decay_curve: float = control(
        0.0, -1.0, 1.0, 0.01, "", "Decay curve",
        "Below 0 the level drops at once, above 0 it stays up and then drops.", "Level",
    )  # fmt: skip
    release_ms: float = control(
        30.0, 1.0, 400.0, 1.0, "ms", "Release", "Fade out at the end of the length.", "Level"
    )
    length_note: LengthNote = choice(
        "ms", "Length as", "In milliseconds, or as a note value that follows the tempo.", "Level"
    )
    length_ms: float = control(
        420.0, 40.0, 2000.0, 1.0, "ms", "Length", "Total length, release included.", "Level",
        scale="log",
    )  # fmt: skip
    click_tone_hz: float = control(
        3200.0, 500.0, 12000.0, 10.0, "Hz", "Click tone",
        "Centre of the click: 2–4 kHz is usual, near 7 kHz in fast music.", "Click", scale="log",
    )  # fmt: skip
    click_ms: float = control(
        6.0, 1.0, 40.0, 0.5, "ms", "Click length", "Until the click is 60 dB down.", "Click"
    )
    click_sine_db: float = control(
        -60.0, -60.0, 6.0, 0.5, "dB", "Knock",
        "A very short low sine under the click, against the body's peak.", "Click", off=-60.0,
    )  # fmt: skip
    click_sine_hz: float = control(
        180.0, 80.0, 800.0, 1.0, "Hz", "Knock tone", "Frequency of that short sine.", "Click", scale="log"
    )
    drive_db: float = control(
        3.0, 0.0, 36.0, 0.5, "dB", "Drive",
        "Soft clipping; the peak is held where it was.", "Drive", off=0.0,
    )  # fmt: skip
    drive_bias: float = control(
        0.0, 0.0, 1.0, 0.01, "", "Asymmetry",
        "One side is clipped before the other: even harmonics come in.", "Drive",
    )  # fmt: skip
    lowpass_hz: float = control(
        20000.0, 40.0, 20000.0, 1.0, "Hz", "Low-pass",
        "Cutoff at the end of the sound, 24 dB per octave.", "Filter", scale="log", off=20000.0,
    )  # fmt: skip
    resonance: float = control(
        0.0, 0.0, 1.0, 0.01, "", "Resonance", "Rings at the cutoff; high up, a zap.", "Filter"
    )
    opened_by: Opener = choice(
        "its own", "Opened by", "The filter's own envelope, or the one of the pitch.", "Filter"
    )
    lowpass_octaves: float = control(
        0.0, 0.0, 8.0, 0.1, "oct", "Opening", "How far the low-pass is open at the start.", "Filter"
    )
    lowpass_decay_ms: float = control(
        60.0, 2.0, 600.0, 1.0, "ms", "Closing",
        "How long the low-pass takes to close by about two thirds.", "Filter", scale="log",
    )  # fmt: skip
    level_db: float = control(
        -3.0,
        -30.0,
        0.0,
        0.1,
        "dB",
        "Level",
        "Peak level of the finished kick.",
        "Level",
        role="level",
    )
    seed: int = control(
        1, 0, 9999, 1, "", "Seed", "Which noise the click is cut from.", "Click", role="seed"
    )
