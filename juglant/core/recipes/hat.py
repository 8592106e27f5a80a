"""What a hat or a cymbal is made of."""

from juglant.core.recipes.fields import Recipe, control


class HatRecipe(Recipe):
    """Square oscillators that modulate each other, detuned, high-passed, with noise."""

    decay_ms: float = control(
        70.0, 8.0, 6000.0, 1.0, "ms", "Decay", "Closed, half, open, ride, crash: until 60 dB down.",
        "Level", scale="log", main=True, role="decay",
    )  # fmt: skip
    tone_hz: float = control(
        4300.0, 1500.0, 10000.0, 10.0, "Hz", "Tone", "Of the lowest oscillator.", "Metal", scale="log",
        main=True, role="tone",
    )  # fmt: skip
    modulation: float = control(
        0.45, 0.0, 1.0, 0.01, "", "Modulation", "How far the oscillators bend each other.", "Metal",
        main=True,
    )  # fmt: skip
    noise_db: float = control(
        -8.0, -60.0, 12.0, 0.5, "dB", "Noise", "Against the metal.", "Noise", main=True, off=-60.0
    )
    oscillators: int = control(4, 3, 4, 1, "", "Oscillators", "Three or four.", "Metal")
    detune: float = control(0.5, 0.0, 1.0, 0.01, "", "Detune", "How far they lie from each other.", "Metal")
    attack_ms: float = control(0.2, 0.0, 30.0, 0.1, "ms", "Attack", "Fade in.", "Level")
    body_ms: float = control(
        18.0, 2.0, 400.0, 1.0, "ms", "Stroke", "Length of the louder first stroke.", "Level", scale="log"
    )
    body_db: float = control(
        6.0, 0.0, 24.0, 0.5, "dB", "Stroke level", "How far the stroke is above the rest.", "Level",
        off=0.0,
    )  # fmt: skip
    highpass_hz: float = control(
        6500.0, 500.0, 14000.0, 10.0, "Hz", "High-pass", "24 dB per octave.", "Filter", scale="log"
    )
    lowpass_hz: float = control(
        20000.0, 4000.0, 20000.0, 10.0, "Hz", "Low-pass", "24 dB per octave.", "Filter", scale="log",
        off=20000.0,
    )  # fmt: skip
    level_db: float = control(
        -6.0, -30.0, 0.0, 0.1, "dB", "Level", "Peak of the finished hat.", "Level", role="level"
    )
    seed: int = control(1, 0, 9999, 1, "", "Seed", "Which noise and which phases.", "Noise", role="seed")
