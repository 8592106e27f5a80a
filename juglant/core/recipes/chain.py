"""The stages a hit or a layer is shaped by, in an order of the user's own."""

from typing import Annotated, Literal

from pydantic import Field

from juglant.core.process.saturation import Curve
from juglant.core.recipes.dynamics import BandsStage, LevellerStage, LimitStage
from juglant.core.recipes.fields import choice, control
from juglant.core.recipes.stage import BaseStage

Slope = Literal["12", "24", "48"]
Phase = Literal["minimum", "linear"]
YesNo = Literal["no", "yes"]
Repeat = Literal["1/2", "1/4.", "1/4", "1/4t", "1/8.", "1/8", "1/8t", "1/16.", "1/16", "1/16t", "1/32"]
# A length in ms of its own, or a note value that follows the tempo.
LengthIn = Literal[
    "ms", "1/2", "1/4.", "1/4", "1/4t", "1/8.", "1/8", "1/8t", "1/16.", "1/16", "1/16t", "1/32"
]


class TrimStage(BaseStage):
    """Start, length, fades, direction."""

    of_a_stroke = True
    stage: Literal["trim"] = "trim"
    start_ms: float = control(
        0.0, 0.0, 5000.0, 0.1, "ms", "Start", "What lies before is cut away.", "Trim", main=True, off=0.0
    )
    length_ms: float = control(
        0.0, 0.0, 10000.0, 1.0, "ms", "Length", "What lies after is cut away; off keeps all.", "Trim",
        main=True, off=0.0,
    )  # fmt: skip
    fade_in_ms: float = control(
        0.0, 0.0, 2000.0, 0.1, "ms", "Fade in", "From the start.", "Trim", main=True, off=0.0
    )
    fade_out_ms: float = control(
        0.0, 0.0, 5000.0, 1.0, "ms", "Fade out", "To the end.", "Trim", main=True, off=0.0
    )
    length_in: LengthIn = choice(
        "ms", "Length in", "A note value in place of the length in ms: it follows the tempo.", "Trim"
    )
    reverse: YesNo = choice("no", "Reverse", "Played from its end.", "Trim")


class EnvelopeStage(BaseStage):
    """A level course of its own for any sound: attack, hold, decay."""

    of_a_stroke = True
    stage: Literal["envelope"] = "envelope"
    attack_ms: float = control(
        0.0, 0.0, 500.0, 0.1, "ms", "Attack", "From silence to full level.", "Envelope", main=True, off=0.0
    )
    hold_ms: float = control(40.0, 0.0, 5000.0, 1.0, "ms", "Hold", "At full level.", "Envelope", main=True)
    decay_ms: float = control(
        400.0, 10.0, 10000.0, 1.0, "ms", "Decay", "Then by 60 dB in this time.", "Envelope", scale="log",
        main=True,
    )  # fmt: skip
    hold_in: LengthIn = choice(
        "ms", "Hold in", "A note value in place of the hold in ms: it follows the tempo.", "Envelope"
    )


class ResonatorStage(BaseStage):
    """One or two tuned membranes, or a comb, that the sound sets ringing."""

    stage: Literal["resonator"] = "resonator"
    mix_db: float = control(
        -9.0, -60.0, 12.0, 0.5, "dB", "Level", "Of what rings, against the sound.", "Resonator", main=True,
        off=-60.0, movable=True
    )  # fmt: skip
    tune_hz: float = control(
        110.0, 30.0, 2000.0, 0.1, "Hz", "Tune", "Its lowest partial.", "Resonator", scale="log", main=True
    )
    decay_ms: float = control(
        300.0, 20.0, 4000.0, 1.0, "ms", "Decay", "Until its lowest partial has fallen by 60 dB.",
        "Resonator", scale="log", main=True,
    )  # fmt: skip
    damping: float = control(
        0.3,
        0.0,
        1.0,
        0.01,
        "",
        "Damping",
        "How much sooner high partials are gone.",
        "Resonator",
        main=True,
    )
    kind: Literal["membrane", "comb"] = choice(
        "membrane", "Kind", "Partials of a drum head, or multiples as of a string.", "Resonator"
    )
    second_db: float = control(
        -60.0, -60.0, 6.0, 0.5, "dB", "Second", "Another one, against the first.", "Second", off=-60.0
    )
    second_semitones: float = control(
        7.0, -24.0, 24.0, 0.01, "st", "Interval", "From the first to the second.", "Second"
    )
    low_cut_hz: float = control(
        20.0, 20.0, 2000.0, 1.0, "Hz", "Low cut", "Only what lies above sets it ringing.", "More",
        scale="log", off=20.0,
    )  # fmt: skip


class EqualiserStage(BaseStage):
    """High-pass, shelves, two bells, low-pass: filters of the Audio EQ Cookbook."""

    stage: Literal["equaliser"] = "equaliser"
    highpass_hz: float = control(
        20.0, 20.0, 2000.0, 1.0, "Hz", "High-pass", "Takes away what lies below.", "High-pass",
        scale="log", main=True, off=20.0, movable=True
    )  # fmt: skip
    bell_db: float = control(
        0.0, -24.0, 24.0, 0.1, "dB", "Bell", "Lifts or cuts around its middle.", "Bell", main=True, off=0.0
    )
    bell_hz: float = control(
        350.0, 20.0, 18000.0, 1.0, "Hz", "Bell at", "Its middle; 350 Hz is the usual cut in a kick.",
        "Bell", scale="log", main=True,
    )  # fmt: skip
    lowpass_hz: float = control(
        20000.0, 40.0, 20000.0, 1.0, "Hz", "Low-pass", "Takes away what lies above.", "Low-pass",
        scale="log", main=True, off=20000.0, movable=True
    )  # fmt: skip
    highpass_slope: Slope = choice("24", "Slope", "In dB per octave.", "High-pass")
    lowpass_slope: Slope = choice("24", "Slope", "In dB per octave.", "Low-pass")
    bell_q: float = control(1.4, 0.2, 12.0, 0.1, "", "Bell Q", "Higher is narrower.", "Bell", scale="log")
    second_db: float = control(
        0.0, -24.0, 24.0, 0.1, "dB", "Second bell", "Another one.", "Second bell", off=0.0
    )
    second_hz: float = control(
        3000.0, 20.0, 18000.0, 1.0, "Hz", "At", "Its middle; 2–4 kHz is the snap.", "Second bell",
        scale="log",
    )  # fmt: skip
    second_q: float = control(
        1.0, 0.2, 12.0, 0.1, "", "Q", "Higher is narrower.", "Second bell", scale="log"
    )
    low_shelf_db: float = control(
        0.0, -24.0, 24.0, 0.1, "dB", "Low shelf", "Lifts or lowers what lies below.", "Shelves", off=0.0
    )
    low_shelf_hz: float = control(
        100.0, 20.0, 1000.0, 1.0, "Hz", "Below", "Middle of its slope.", "Shelves", scale="log"
    )
    high_shelf_db: float = control(
        0.0, -24.0, 24.0, 0.1, "dB", "High shelf", "Lifts or lowers what lies above.", "Shelves", off=0.0
    )
    high_shelf_hz: float = control(
        6000.0, 500.0, 18000.0, 10.0, "Hz", "Above", "Middle of its slope.", "Shelves", scale="log"
    )
    phase: Phase = choice(
        "minimum", "Phase",
        "Minimum: as a circuit does. Linear: every tone stays in its place, and a little rings before.",
        "Phase",
    )  # fmt: skip


class DriveStage(BaseStage):
    """Saturation of the whole or of one band."""

    stage: Literal["drive"] = "drive"
    drive_db: float = control(
        0.0, 0.0, 36.0, 0.5, "dB", "Drive", "How hard the curve is met; the peak is held.", "Drive",
        main=True, off=0.0,
    )  # fmt: skip
    from_hz: float = control(
        20.0, 20.0, 5000.0, 1.0, "Hz", "From", "Only what lies above is driven; 120–300 Hz thumps.",
        "Drive", scale="log", main=True, off=20.0,
    )  # fmt: skip
    to_hz: float = control(
        20000.0, 60.0, 20000.0, 1.0, "Hz", "To", "Only what lies below is driven.", "Drive", scale="log",
        main=True, off=20000.0,
    )  # fmt: skip
    mix: float = control(
        1.0, 0.0, 1.0, 0.01, "", "Mix", "Driven against clean.", "Drive", main=True, off=0.0, movable=True
    )
    curve: Curve = choice(
        "soft", "Curve", "Soft bends, hard cuts, asymmetric adds even harmonics.", "Drive"
    )


class TransientStage(BaseStage):
    """Attack and sustain, whatever the level."""

    stage: Literal["transient"] = "transient"
    attack_db: float = control(
        0.0,
        -24.0,
        24.0,
        0.5,
        "dB",
        "Attack",
        "Lifts or softens the onset.",
        "Transient",
        main=True,
        off=0.0,
    )
    sustain_db: float = control(
        0.0, -24.0, 24.0, 0.5, "dB", "Sustain", "Lifts or dries what follows.", "Transient", main=True,
        off=0.0,
    )  # fmt: skip


class CompressorStage(BaseStage):
    """Feed-forward compressor (Giannoulis, Massberg & Reiss, JAES 60(6), 2012)."""

    stage: Literal["compressor"] = "compressor"
    threshold_db: float = control(
        -18.0, -60.0, 0.0, 0.5, "dB", "Threshold", "Above it the level is held back.", "Compressor",
        main=True,
    )  # fmt: skip
    ratio: float = control(
        3.0, 1.0, 20.0, 0.1, "", "Ratio", "Decibels above the threshold for one that is left.",
        "Compressor", scale="log", main=True, off=1.0,
    )  # fmt: skip
    attack_ms: float = control(
        10.0, 0.1, 200.0, 0.1, "ms", "Attack", "Until 63 % of the reduction is reached.", "Compressor",
        scale="log", main=True,
    )  # fmt: skip
    release_ms: float = control(
        80.0, 5.0, 2000.0, 1.0, "ms", "Release", "Until 63 % of it is given back; 80 ms is usual on drums.",
        "Compressor", scale="log", main=True,
    )  # fmt: skip
    knee_db: float = control(
        6.0, 0.0, 24.0, 0.5, "dB", "Knee", "Width of the bend around the threshold.", "More"
    )
    makeup_db: float = control(
        0.0, 0.0, 24.0, 0.1, "dB", "Makeup gain", "Given back afterwards.", "More", off=0.0
    )
    mix: float = control(
        1.0, 0.0, 1.0, 0.01, "", "Mix", "Compressed against clean.", "More", off=0.0, movable=True
    )


class GateStage(BaseStage):
    """Closed while it is quiet: what lies between the strokes goes."""

    stage: Literal["gate"] = "gate"
    threshold_db: float = control(
        -40.0,
        -80.0,
        0.0,
        0.5,
        "dBFS",
        "Threshold",
        "It opens where a peak reaches this.",
        "Gate",
        main=True,
    )
    range_db: float = control(
        60.0, 0.0, 80.0, 0.5, "dB", "Range", "How far it closes.", "Gate", main=True, off=0.0
    )
    hold_ms: float = control(
        40.0, 0.0, 1000.0, 1.0, "ms", "Hold",
        "Open for so long after the last peak; under 20 ms low tones chatter.", "Gate", main=True,
    )  # fmt: skip
    release_ms: float = control(
        60.0, 5.0, 2000.0, 1.0, "ms", "Release", "Until 63 % of the range is reached.", "Gate", scale="log",
        main=True,
    )  # fmt: skip
    attack_ms: float = control(
        0.5, 0.1, 50.0, 0.1, "ms", "Attack", "Until 63 % of the range is given back.", "More", scale="log"
    )


class ClipStage(BaseStage):
    """A ceiling for the peaks."""

    stage: Literal["clip"] = "clip"
    ceiling_db: float = control(
        0.0, -24.0, 0.0, 0.1, "dBFS", "Ceiling", "No sample passes it.", "Clipper", main=True
    )
    softness: float = control(
        0.5, 0.0, 1.0, 0.01, "", "Softness", "0 cuts at the ceiling, 1 bends long before.", "Clipper",
        main=True,
    )  # fmt: skip


class SpaceStage(BaseStage):
    """A short synthetic room, plate or hall."""

    stage: Literal["space"] = "space"
    mix_db: float = control(
        -14.0, -60.0, 6.0, 0.5, "dB", "Level", "Of the space against the hit.", "Space", main=True,
        off=-60.0, movable=True
    )  # fmt: skip
    decay_ms: float = control(
        320.0, 40.0, 8000.0, 1.0, "ms", "Decay", "Until it is 60 dB down.", "Space", scale="log", main=True
    )
    predelay_ms: float = control(
        4.0, 0.0, 200.0, 0.5, "ms", "Predelay", "Before the space answers.", "Space", main=True
    )
    damping_hz: float = control(
        5000.0, 500.0, 20000.0, 10.0, "Hz", "Damping", "Above it the space dies twice as fast.", "Space",
        scale="log", main=True,
    )  # fmt: skip
    kind: Literal["room", "plate", "hall"] = choice("room", "Kind", "Room, plate or hall.", "Space")
    low_cut_hz: float = control(
        160.0, 20.0, 2000.0, 1.0, "Hz", "Low cut", "The space lies above this.", "More", scale="log",
        off=20.0,
    )  # fmt: skip
    width: float = control(
        0.0, 0.0, 1.0, 0.01, "", "Width", "Left and right of the space differ.", "More", off=0.0
    )
    seed: int = control(1, 0, 9999, 1, "", "Seed", "Which reflections.", "More")


class DelayStage(BaseStage):
    """Repeats on a note value."""

    stage: Literal["delay"] = "delay"
    mix_db: float = control(
        -12.0, -60.0, 0.0, 0.5, "dB", "Level", "Of the first repeat.", "Delay", main=True, off=-60.0,
        movable=True,
    )  # fmt: skip
    feedback: float = control(
        0.35, 0.0, 0.9, 0.01, "", "Feedback", "What each repeat keeps of the last one.", "Delay", main=True
    )
    highpass_hz: float = control(
        200.0, 20.0, 5000.0, 1.0, "Hz", "High-pass", "The repeats lie above this.", "Delay", scale="log",
        main=True, off=20.0,
    )  # fmt: skip
    lowpass_hz: float = control(
        6000.0, 200.0, 20000.0, 10.0, "Hz", "Low-pass", "The repeats lie below this.", "Delay",
        scale="log", main=True, off=20000.0,
    )  # fmt: skip
    time: Repeat = choice("1/16", "Time", "From one repeat to the next, at the track's tempo.", "Delay")


class GrainStage(BaseStage):
    """Stretched with grains, for texture."""

    of_a_stroke = True
    stage: Literal["grains"] = "grains"
    stretch: float = control(
        1.0, 0.25, 8.0, 0.01, "×", "Stretch", "How much longer; the pitch stays.", "Grains", scale="log",
        main=True, off=1.0,
    )  # fmt: skip
    grain_ms: float = control(
        40.0, 4.0, 250.0, 1.0, "ms", "Grain", "Length of a grain: short is rough, long is smeared.",
        "Grains", scale="log", main=True,
    )  # fmt: skip
    jitter: float = control(
        0.2, 0.0, 1.0, 0.01, "", "Jitter", "How far grains are taken from beside their place.", "Grains",
        main=True,
    )  # fmt: skip
    seed: int = control(1, 0, 9999, 1, "", "Seed", "Which grains.", "Grains")


class LevelStage(BaseStage):
    """Gain, pan, polarity, and a level to reach."""

    stage: Literal["level"] = "level"
    gain_db: float = control(
        0.0, -48.0, 24.0, 0.1, "dB", "Gain", "Louder or quieter.", "Level", main=True, off=0.0, movable=True
    )
    pan: float = control(
        0.0, -1.0, 1.0, 0.01, "", "Pan", "−1 left, 1 right.", "Level", main=True, off=0.0, movable=True
    )
    target_db: float = control(
        -3.0, -40.0, 0.0, 0.1, "dB", "Target", "The level that is reached, where one is asked for.",
        "Level", main=True,
    )  # fmt: skip
    target: Literal["none", "peak", "loudness"] = choice(
        "none", "Level to", "A peak in dBFS, or a momentary loudness in LUFS.", "Level"
    )
    polarity: Literal["as it is", "turned"] = choice(
        "as it is", "Polarity", "Inverts the wave: two sounds that cancel may add up.", "Level"
    )


Stage = Annotated[
    TrimStage | EnvelopeStage | EqualiserStage | DriveStage | TransientStage | CompressorStage | GateStage
    | LevellerStage | BandsStage | LimitStage | ClipStage | ResonatorStage | SpaceStage | DelayStage
    | GrainStage | LevelStage,
    Field(discriminator="stage"),
]  # fmt: skip
STAGES: dict[str, type[BaseStage]] = {
    "trim": TrimStage, "envelope": EnvelopeStage, "equaliser": EqualiserStage, "drive": DriveStage,
    "transient": TransientStage, "compressor": CompressorStage, "gate": GateStage,
    "leveller": LevellerStage, "bands": BandsStage, "limit": LimitStage, "clip": ClipStage,
    "resonator": ResonatorStage, "space": SpaceStage, "delay": DelayStage, "grains": GrainStage,
    "level": LevelStage,
}  # fmt: skip
MOST_STAGES = 12
Chain = Annotated[tuple[Stage, ...], Field(max_length=MOST_STAGES)]
