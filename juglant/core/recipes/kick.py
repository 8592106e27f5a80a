"""What a made kick is made of. Starting values are common practice."""

from typing import Literal

from juglant.core.recipes.fields import Recipe, choice, control

Opener = Literal["its own", "the pitch"]
LengthNote = Literal["ms", "1/4", "1/8.", "1/8", "1/8t", "1/16.", "1/16"]


class KickRecipe(Recipe):
    """Body, pitch envelope, sub, amplitude, click, drive and low-pass."""

    end_hz: float = control(
        49.0, 25.0, 160.0, 0.01, "Hz", "Pitch",
        "The frequency the tail settles at: the note of the kick. Put it on the root, the fifth, or an "
        "octave. Listen for beating against the bass.",
        "Body", scale="log", main=True, role="note",
    )  # fmt: skip
    decay_ms: float = control(
        340.0, 30.0, 1500.0, 1.0, "ms", "Decay",
        "Time until the body is 60 dB down. Longer holds more sub, shorter leaves the bass more room.",
        "Level", scale="log", main=True, role="decay",
    )  # fmt: skip
    pitch_decay_ms: float = control(
        18.0, 2.0, 400.0, 0.5, "ms", "Pitch decay",
        "How long the pitch takes to fall by about two thirds. Short is a knock, long is dub. Listen for "
        "a thud against a “pew”.",
        "Pitch", scale="log", main=True,
    )  # fmt: skip
    click_db: float = control(
        -14.0, -60.0, 6.0, 0.5, "dB", "Click",
        "Level of the click: short filtered noise, against the body’s peak. It is what small speakers "
        "play.",
        "Click", main=True, off=-60.0,
    )  # fmt: skip
    wave: float = control(
        0.0, 0.0, 2.0, 0.01, "", "Wave",
        "0 sine, 1 triangle, 2 square, anything between. More wave is heard on small speakers and leaves "
        "less room.",
        "Body",
    )  # fmt: skip
    sub_db: float = control(
        -60.0, -60.0, 0.0, 0.5, "dB", "Sub",
        "A sine an octave below the body. Adds weight under a high kick; check that the bass has left the "
        "room.",
        "Body", off=-60.0,
    )  # fmt: skip
    sub_delay_ms: float = control(
        0.0, 0.0, 250.0, 1.0, "ms", "Sub delay",
        "The sub swells in this long after the onset. Later keeps the attack tight.",
        "Body",
    )  # fmt: skip
    start_semitones: float = control(
        24.0, 0.0, 60.0, 0.5, "st", "Pitch start",
        "How far above its end the pitch starts. Whole octaves (12, 24, 36) keep the start in tune too. "
        "Higher is harder.",
        "Pitch", role="sweep",
    )  # fmt: skip
    pitch_curve: float = control(
        0.0, -1.0, 1.0, 0.01, "", "Pitch curve",
        "Below 0 the fall is straight and ends, 0 is exponential, above 0 it drops fast and lingers. "
        "Listen for the punch just after the click.",
        "Pitch",
    )  # fmt: skip
    attack_ms: float = control(
        0.5, 0.0, 50.0, 0.1, "ms", "Attack",
        "Fade in of the body. A few milliseconds leave the onset to another layer.",
        "Level",
    )  # fmt: skip
    hold_ms: float = control(
        8.0, 0.0, 400.0, 1.0, "ms", "Hold",
        "Stays at full level this long before it decays. Longer is fatter at the same length.",
        "Level",
    )  # fmt: skip
    decay_curve: float = control(
        0.0, -1.0, 1.0, 0.01, "", "Decay curve",
        "Below 0 the level drops at once, above 0 it stays up and then drops. Up is a fat kick with a "
        "clean end.",
        "Level",
    )  # fmt: skip
    release_ms: float = control(
        30.0, 1.0, 400.0, 1.0, "ms", "Release",
        "Fade out at the end of the length. Long enough not to click.",
        "Level",
    )  # fmt: skip
    length_note: LengthNote = choice(
        "ms", "Length as",
        "In milliseconds, or as a note value that follows the tempo.",
        "Level",
    )  # fmt: skip
    length_ms: float = control(
        420.0, 40.0, 2000.0, 1.0, "ms", "Length",
        "Total length, release included. Ends the kick before the bass note it would cover.",
        "Level", scale="log",
    )  # fmt: skip
    click_tone_hz: float = control(
        3200.0, 500.0, 12000.0, 10.0, "Hz", "Click tone",
        "Middle of the click: 2–4 kHz is usual, near 7 kHz in fast music. Find where it cuts through the "
        "rest.",
        "Click", scale="log",
    )  # fmt: skip
    click_ms: float = control(
        6.0, 1.0, 40.0, 0.5, "ms", "Click length",
        "Time until the click is 60 dB down. Short ticks, long is a slap.",
        "Click",
    )  # fmt: skip
    click_sine_db: float = control(
        -60.0, -60.0, 6.0, 0.5, "dB", "Knock",
        "A very short low sine under the click, against the body’s peak. Adds a knuckle to a soft kick.",
        "Click", off=-60.0,
    )  # fmt: skip
    click_sine_hz: float = control(
        180.0, 80.0, 800.0, 1.0, "Hz", "Knock tone",
        "Frequency of the knock. Lower is a thump, higher a tap.",
        "Click", scale="log",
    )  # fmt: skip
    drive_db: float = control(
        3.0, 0.0, 36.0, 0.5, "dB", "Drive",
        "Soft clipping at the same peak. Denser and louder, with harmonics for small speakers. Listen for "
        "where the sub gets lost.",
        "Drive", off=0.0,
    )  # fmt: skip
    drive_bias: float = control(
        0.0, 0.0, 1.0, 0.01, "", "Asymmetry",
        "Clips one side before the other: even harmonics come in. Warmer than the same drive without.",
        "Drive",
    )  # fmt: skip
    lowpass_hz: float = control(
        20000.0, 40.0, 20000.0, 1.0, "Hz", "Low-pass",
        "Cutoff at the end of the sound, 24 dB per octave. Lower is round and dark.",
        "Filter", scale="log", off=20000.0,
    )  # fmt: skip
    resonance: float = control(
        0.0, 0.0, 1.0, 0.01, "", "Resonance",
        "Rings at the cutoff. A little tightens, a lot high up is a zap.",
        "Filter",
    )  # fmt: skip
    opened_by: Opener = choice(
        "its own", "Opened by",
        "What opens the low-pass: its own envelope, or the pitch’s, so that both fall together.",
        "Filter",
    )  # fmt: skip
    lowpass_octaves: float = control(
        0.0, 0.0, 8.0, 0.1, "oct", "Opening",
        "How far the low-pass is open at the start. More lets the attack through a dark kick.",
        "Filter",
    )  # fmt: skip
    lowpass_decay_ms: float = control(
        60.0, 2.0, 600.0, 1.0, "ms", "Closing",
        "How long the low-pass takes to close by about two thirds. Short keeps only the attack bright.",
        "Filter", scale="log",
    )  # fmt: skip
    level_db: float = control(
        -3.0, -30.0, 0.0, 0.1, "dB", "Level",
        "Peak of the finished kick. Leave some 6 dB to the rest of the track.",
        "Level", role="level",
    )  # fmt: skip
    seed: int = control(
        1, 0, 9999, 1, "", "Seed",
        "Another piece of noise for the click. Try a few: some are brighter.",
        "Click", role="seed",
    )  # fmt: skip
