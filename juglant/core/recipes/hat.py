"""What a hat or a cymbal is made of."""

from juglant.core.recipes.fields import Recipe, control


class HatRecipe(Recipe):
    """Square oscillators that modulate each other, detuned, high-passed, with noise."""

    decay_ms: float = control(
        70.0, 8.0, 6000.0, 1.0, "ms", "Decay",
        "Time until it is 60 dB down: closed, half open, open, ride, crash. Shorter leaves the groove "
        "air.",
        "Level", scale="log", main=True, role="decay",
    )  # fmt: skip
    tone_hz: float = control(
        4300.0, 1500.0, 10000.0, 10.0, "Hz", "Tone",
        "Pitch of the lowest oscillator. Higher is smaller and thinner. Listen against the clap.",
        "Metal", scale="log", main=True, role="tone",
    )  # fmt: skip
    modulation: float = control(
        0.45, 0.0, 1.0, 0.01, "", "Modulation",
        "How far the oscillators bend each other. More is clangy metal, less is plain.",
        "Metal", main=True,
    )  # fmt: skip
    noise_db: float = control(
        -8.0, -60.0, 12.0, 0.5, "dB", "Noise",
        "Noise against the metal. More is breath and sizzle, less is a ring.",
        "Noise", main=True, off=-60.0,
    )  # fmt: skip
    oscillators: int = control(4, 3, 4, 1, "", "Oscillators", "Three are open, four are denser.", "Metal")
    detune: float = control(
        0.5, 0.0, 1.0, 0.01, "", "Detune",
        "How far apart the oscillators lie. Close beats slowly, far is rough.",
        "Metal",
    )  # fmt: skip
    attack_ms: float = control(
        0.2, 0.0, 30.0, 0.1, "ms", "Attack",
        "Fade in. A little makes a shaker of it and sits behind the beat.",
        "Level",
    )  # fmt: skip
    body_ms: float = control(
        18.0, 2.0, 400.0, 1.0, "ms", "Stroke",
        "Length of the louder first stroke. Short ticks, long is a splash.",
        "Level", scale="log",
    )  # fmt: skip
    body_db: float = control(
        6.0, 0.0, 24.0, 0.5, "dB", "Stroke level",
        "How far the stroke stands above the rest. More cuts through and keeps the tail low.",
        "Level", off=0.0,
    )  # fmt: skip
    highpass_hz: float = control(
        6500.0, 500.0, 14000.0, 10.0, "Hz", "High-pass",
        "Takes the lows away, 24 dB per octave. Higher leaves the mids to others.",
        "Filter", scale="log",
    )  # fmt: skip
    lowpass_hz: float = control(
        20000.0, 4000.0, 20000.0, 10.0, "Hz", "Low-pass",
        "Takes the tops away, 24 dB per octave. Lower is older and softer.",
        "Filter", scale="log", off=20000.0,
    )  # fmt: skip
    level_db: float = control(
        -6.0, -30.0, 0.0, 0.1, "dB", "Level",
        "Peak of the finished hat. Set it quietly: hats are loud before they seem so.",
        "Level", role="level",
    )  # fmt: skip
    seed: int = control(
        1, 0, 9999, 1, "", "Seed",
        "Other noise, other phases. Try a few.",
        "Noise", role="seed",
    )  # fmt: skip
