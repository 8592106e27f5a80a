"""The stages a hit or a layer is shaped by, in an order of the user's own."""

from typing import Annotated, Literal

from pydantic import Field

from juglant.core.process.saturation import Curve
from juglant.core.recipes.dynamics import (
    BandsStage,
    CompressorStage,
    GateStage,
    LevellerStage,
    LimitStage,
)
from juglant.core.recipes.fields import Polarity, choice, control
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
        0.0, 0.0, 5000.0, 0.1, "ms", "Start",
        "Cuts away what lies before. Take off silence that makes a hit late, or a soft onset. Listen for "
        "a click where it now begins.",
        "Trim", main=True, off=0.0,
    )  # fmt: skip
    length_ms: float = control(
        0.0, 0.0, 10000.0, 1.0, "ms", "Length",
        "Cuts away what lies after; off keeps all. Shorter leaves room for the next hit. Listen for a "
        "tail that ends too early.",
        "Trim", main=True, off=0.0,
    )  # fmt: skip
    fade_in_ms: float = control(
        0.0, 0.0, 2000.0, 0.1, "ms", "Fade in",
        "Fade from the start. A few milliseconds soften a hard cut, more takes the attack away.",
        "Trim", main=True, off=0.0,
    )  # fmt: skip
    fade_out_ms: float = control(
        0.0, 0.0, 5000.0, 1.0, "ms", "Fade out",
        "Fade to the end. Hides a cut in the tail. Listen for a hit that dies naturally.",
        "Trim", main=True, off=0.0,
    )  # fmt: skip
    length_in: LengthIn = choice(
        "ms", "Length in",
        "A note value in place of the length in ms: it follows the tempo.",
        "Trim",
    )  # fmt: skip
    reverse: YesNo = choice(
        "no", "Reverse",
        "Plays it from its end: a swell into the beat. Listen for where it peaks.",
        "Trim",
    )  # fmt: skip


class EnvelopeStage(BaseStage):
    """A level course of its own for any sound: attack, hold, decay."""

    of_a_stroke = True
    stage: Literal["envelope"] = "envelope"
    attack_ms: float = control(
        0.0, 0.0, 500.0, 0.1, "ms", "Attack",
        "Time from silence to full level. Short keeps the punch, long makes room for another layer’s "
        "attack.",
        "Envelope", main=True, off=0.0,
    )  # fmt: skip
    hold_ms: float = control(
        40.0, 0.0, 5000.0, 1.0, "ms", "Hold",
        "Time at full level, before the decay. Longer is fuller and louder. Listen for the gap before the "
        "next hit.",
        "Envelope", main=True,
    )  # fmt: skip
    decay_ms: float = control(
        400.0, 10.0, 10000.0, 1.0, "ms", "Decay",
        "Then it falls by 60 dB in this time. Shorten a boomy sample without touching its attack.",
        "Envelope", scale="log", main=True,
    )  # fmt: skip
    hold_in: LengthIn = choice(
        "ms", "Hold in",
        "A note value in place of the hold in ms: it follows the tempo.",
        "Envelope",
    )  # fmt: skip


class ResonatorStage(BaseStage):
    """One or two tuned membranes, or a comb, that the sound sets ringing."""

    stage: Literal["resonator"] = "resonator"
    mix_db: float = control(
        -9.0, -60.0, 12.0, 0.5, "dB", "Level",
        "Level of the ringing, against the sound. Gives a dull or noisy hit a note. Listen for ringing "
        "that outlives the hit.",
        "Resonator", main=True, off=-60.0, movable=True,
    )  # fmt: skip
    tune_hz: float = control(
        110.0, 30.0, 2000.0, 0.1, "Hz", "Tune",
        "Its lowest partial. Put it on the root or the fifth. Listen for beating against the bass.",
        "Resonator", scale="log", main=True,
    )  # fmt: skip
    decay_ms: float = control(
        300.0, 20.0, 4000.0, 1.0, "ms", "Decay",
        "Time until its lowest partial has fallen by 60 dB. Short is a knock, long a tone.",
        "Resonator", scale="log", main=True,
    )  # fmt: skip
    damping: float = control(
        0.3, 0.0, 1.0, 0.01, "", "Damping",
        "How much sooner the high partials die. More is wood or skin, less is metal.",
        "Resonator", main=True,
    )  # fmt: skip
    kind: Literal["membrane", "comb"] = choice(
        "membrane", "Kind",
        "The partials of a drum head, or whole multiples as of a string: a head thuds, a string sings.",
        "Resonator",
    )  # fmt: skip
    second_db: float = control(
        -60.0, -60.0, 6.0, 0.5, "dB", "Second",
        "A second one, against the first. Two that beat sound like a real drum. Listen for wobble you did "
        "not want.",
        "Second", off=-60.0,
    )  # fmt: skip
    second_semitones: float = control(
        7.0, -24.0, 24.0, 0.01, "st", "Interval",
        "Interval from the first to the second. A fifth is full, a semitone is rough.",
        "Second",
    )  # fmt: skip
    low_cut_hz: float = control(
        20.0, 20.0, 2000.0, 1.0, "Hz", "Low cut",
        "Only what lies above sets it ringing. Raise it when kicks and rumble ring along.",
        "More", scale="log", off=20.0,
    )  # fmt: skip


class EqualiserStage(BaseStage):
    """High-pass, shelves, two bells, low-pass: filters of the Audio EQ Cookbook."""

    stage: Literal["equaliser"] = "equaliser"
    highpass_hz: float = control(
        20.0, 20.0, 2000.0, 1.0, "Hz", "High-pass",
        "Takes away what lies below. Frees the low end of sounds that do not need it. Listen for the "
        "moment a hit gets thin, then go back a little.",
        "High-pass", scale="log", main=True, off=20.0, movable=True,
    )  # fmt: skip
    bell_db: float = control(
        0.0, -24.0, 24.0, 0.1, "dB", "Bell",
        "Lifts or cuts around one frequency. Cut what hides other sounds before you lift what is missing.",
        "Bell", main=True, off=0.0,
    )  # fmt: skip
    bell_hz: float = control(
        350.0, 20.0, 18000.0, 1.0, "Hz", "Bell at",
        "Middle of the bell; 350 Hz is the usual cut in a kick. Lift, sweep until it sounds worst, then "
        "cut there.",
        "Bell", scale="log", main=True,
    )  # fmt: skip
    lowpass_hz: float = control(
        20000.0, 40.0, 20000.0, 1.0, "Hz", "Low-pass",
        "Takes away what lies above. Tames hiss and harsh tops. Listen for the attack getting dull.",
        "Low-pass", scale="log", main=True, off=20000.0, movable=True,
    )  # fmt: skip
    highpass_slope: Slope = choice(
        "24", "Slope",
        "In dB per octave. Steeper separates more and rings more.",
        "High-pass",
    )  # fmt: skip
    lowpass_slope: Slope = choice(
        "24", "Slope",
        "In dB per octave. Steeper separates more and rings more.",
        "Low-pass",
    )  # fmt: skip
    bell_q: float = control(
        1.4, 0.2, 12.0, 0.1, "", "Bell Q",
        "Higher is narrower. Narrow takes a ringing tone out, wide changes the character.",
        "Bell", scale="log",
    )  # fmt: skip
    second_db: float = control(
        0.0, -24.0, 24.0, 0.1, "dB", "Second bell",
        "A second bell. Use it for the snap once the first has cleared the box.",
        "Second bell", off=0.0,
    )  # fmt: skip
    second_hz: float = control(
        3000.0, 20.0, 18000.0, 1.0, "Hz", "At",
        "Middle of the second bell; 2–4 kHz is the snap. Listen on small speakers.",
        "Second bell", scale="log",
    )  # fmt: skip
    second_q: float = control(
        1.0, 0.2, 12.0, 0.1, "", "Q",
        "Higher is narrower. Narrow takes a ringing tone out, wide changes the character.",
        "Second bell", scale="log",
    )  # fmt: skip
    low_shelf_db: float = control(
        0.0, -24.0, 24.0, 0.1, "dB", "Low shelf",
        "Lifts or lowers everything below. Adds weight or makes room. Watch the peak as you lift.",
        "Shelves", off=0.0,
    )  # fmt: skip
    low_shelf_hz: float = control(
        100.0, 20.0, 1000.0, 1.0, "Hz", "Below",
        "Middle of the shelf’s slope. Lower touches only the sub.",
        "Shelves", scale="log",
    )  # fmt: skip
    high_shelf_db: float = control(
        0.0, -24.0, 24.0, 0.1, "dB", "High shelf",
        "Lifts or lowers everything above. Air for hats and claps, or less glare.",
        "Shelves", off=0.0,
    )  # fmt: skip
    high_shelf_hz: float = control(
        6000.0, 500.0, 18000.0, 10.0, "Hz", "Above",
        "Middle of the shelf’s slope. Higher touches only the air.",
        "Shelves", scale="log",
    )  # fmt: skip
    phase: Phase = choice(
        "minimum", "Phase",
        "Minimum acts like a circuit. Linear keeps every tone in its place, but rings a little before the "
        "hit: listen for a softened attack.",
        "Phase",
    )  # fmt: skip


class DriveStage(BaseStage):
    """Saturation of the whole or of one band."""

    stage: Literal["drive"] = "drive"
    drive_db: float = control(
        0.0, 0.0, 36.0, 0.5, "dB", "Drive",
        "How hard the curve is hit; the peak stays the same. Adds harmonics and loudness. Listen for "
        "where punch turns to fuzz.",
        "Drive", main=True, off=0.0,
    )  # fmt: skip
    from_hz: float = control(
        20.0, 20.0, 5000.0, 1.0, "Hz", "From",
        "Only what lies above is driven; from 120 to 300 Hz a kick thumps. Keeps the sub clean.",
        "Drive", scale="log", main=True, off=20.0,
    )  # fmt: skip
    to_hz: float = control(
        20000.0, 60.0, 20000.0, 1.0, "Hz", "To",
        "Only what lies below is driven. Keeps clicks and hats from getting harsh.",
        "Drive", scale="log", main=True, off=20000.0,
    )  # fmt: skip
    mix: float = control(
        1.0, 0.0, 1.0, 0.01, "", "Mix",
        "Driven against clean. Drive hard, then blend it in until you miss it when it is gone.",
        "Drive", main=True, off=0.0, movable=True,
    )  # fmt: skip
    curve: Curve = choice(
        "soft", "Curve",
        "Soft bends, hard cuts, asymmetric adds even harmonics. Soft for warmth, hard for edge.",
        "Drive",
    )  # fmt: skip


class TransientStage(BaseStage):
    """Attack and sustain, whatever the level."""

    stage: Literal["transient"] = "transient"
    attack_db: float = control(
        0.0, -24.0, 24.0, 0.5, "dB", "Attack",
        "Lifts or softens the onset. Up cuts through, down sits behind. Listen at the same loudness.",
        "Transient", main=True, off=0.0,
    )  # fmt: skip
    sustain_db: float = control(
        0.0, -24.0, 24.0, 0.5, "dB", "Sustain",
        "Lifts or dries what follows the onset. Down tightens a roomy hit, up brings out its tail.",
        "Transient", main=True, off=0.0,
    )  # fmt: skip


class ClipStage(BaseStage):
    """A ceiling for the peaks."""

    stage: Literal["clip"] = "clip"
    ceiling_db: float = control(
        0.0, -24.0, 0.0, 0.1, "dBFS", "Ceiling",
        "No sample passes it. Shaves peaks that cost headroom. Listen for crackle on the attack.",
        "Clipper", main=True,
    )  # fmt: skip
    softness: float = control(
        0.5, 0.0, 1.0, 0.01, "", "Softness",
        "0 cuts at the ceiling, 1 bends long before. Soft hides the clipping, hard stays loud.",
        "Clipper", main=True,
    )  # fmt: skip


class SpaceStage(BaseStage):
    """A short synthetic room, plate or hall."""

    stage: Literal["space"] = "space"
    mix_db: float = control(
        -14.0, -60.0, 6.0, 0.5, "dB", "Level",
        "Level of the space, against the hit. Raise it until you hear it, then go back a little.",
        "Space", main=True, off=-60.0, movable=True,
    )  # fmt: skip
    decay_ms: float = control(
        320.0, 40.0, 8000.0, 1.0, "ms", "Decay",
        "Time until it is 60 dB down. Let it end before the next hit, or it fills the gaps.",
        "Space", scale="log", main=True,
    )  # fmt: skip
    predelay_ms: float = control(
        4.0, 0.0, 200.0, 0.5, "ms", "Predelay",
        "Time before the space answers. Some 10 to 30 ms keep the hit in front.",
        "Space", main=True,
    )  # fmt: skip
    damping_hz: float = control(
        5000.0, 500.0, 20000.0, 10.0, "Hz", "Damping",
        "Above this the space dies twice as fast. Lower is darker and stays out of the way.",
        "Space", scale="log", main=True,
    )  # fmt: skip
    kind: Literal["room", "plate", "hall"] = choice(
        "room", "Kind",
        "A room is short and close, a plate dense and bright, a hall long and far.",
        "Space",
    )  # fmt: skip
    low_cut_hz: float = control(
        160.0, 20.0, 2000.0, 1.0, "Hz", "Low cut",
        "The space has nothing below this. Keep it above the sub, or the low end turns to mud.",
        "More", scale="log", off=20.0,
    )  # fmt: skip
    width: float = control(
        0.0, 0.0, 1.0, 0.01, "", "Width",
        "How much left and right of the space differ. Check it in mono.",
        "More", off=0.0,
    )  # fmt: skip
    seed: int = control(
        1, 0, 9999, 1, "", "Seed",
        "Another set of reflections. Try a few when a space colours the hit.",
        "More",
    )  # fmt: skip


class DelayStage(BaseStage):
    """Repeats on a note value."""

    stage: Literal["delay"] = "delay"
    mix_db: float = control(
        -12.0, -60.0, 0.0, 0.5, "dB", "Level",
        "Level of the first repeat. Raise it until the groove changes, not until you hear an echo.",
        "Delay", main=True, off=-60.0, movable=True,
    )  # fmt: skip
    feedback: float = control(
        0.35, 0.0, 0.9, 0.01, "", "Feedback",
        "What each repeat keeps of the one before. More fills the bar. Listen for build-up.",
        "Delay", main=True,
    )  # fmt: skip
    highpass_hz: float = control(
        200.0, 20.0, 5000.0, 1.0, "Hz", "High-pass",
        "The repeats have nothing below this. Keeps echoes out of the sub.",
        "Delay", scale="log", main=True, off=20.0,
    )  # fmt: skip
    lowpass_hz: float = control(
        6000.0, 200.0, 20000.0, 10.0, "Hz", "Low-pass",
        "The repeats have nothing above this. Darker repeats sit behind the hit.",
        "Delay", scale="log", main=True, off=20000.0,
    )  # fmt: skip
    time: Repeat = choice(
        "1/16", "Time",
        "From one repeat to the next, at the track’s tempo. Dotted values push the groove.",
        "Delay",
    )  # fmt: skip


class GrainStage(BaseStage):
    """Stretched with grains, for texture."""

    of_a_stroke = True
    stage: Literal["grains"] = "grains"
    stretch: float = control(
        1.0, 0.25, 8.0, 0.01, "×", "Stretch",
        "How much longer it gets at the same pitch. Makes textures and long tails. Listen for stutter.",
        "Grains", scale="log", main=True, off=1.0,
    )  # fmt: skip
    grain_ms: float = control(
        40.0, 4.0, 250.0, 1.0, "ms", "Grain",
        "Length of a grain. Short is rough, long is smeared.",
        "Grains", scale="log", main=True,
    )  # fmt: skip
    jitter: float = control(
        0.2, 0.0, 1.0, 0.01, "", "Jitter",
        "How far grains stray from their place. More hides the repetition and blurs the attack.",
        "Grains", main=True,
    )  # fmt: skip
    seed: int = control(1, 0, 9999, 1, "", "Seed", "Another choice of grains. Try a few.", "Grains")


class LevelStage(BaseStage):
    """Gain, pan, polarity, and a level to reach."""

    stage: Literal["level"] = "level"
    gain_db: float = control(
        0.0, -48.0, 24.0, 0.1, "dB", "Gain",
        "Louder or quieter, at this place of the chain: into what follows it.",
        "Level", main=True, off=0.0, movable=True,
    )  # fmt: skip
    pan: float = control(
        0.0, -1.0, 1.0, 0.01, "", "Pan",
        "−1 is left, 1 is right. Leave what is below 150 Hz in the middle.",
        "Level", main=True, off=0.0, movable=True,
    )  # fmt: skip
    target_db: float = control(
        -3.0, -40.0, 0.0, 0.1, "dB", "Target",
        "The level to come to, where one is asked for. Evens out samples from many sources.",
        "Level", main=True,
    )  # fmt: skip
    target: Literal["none", "peak", "loudness"] = choice(
        "none", "Level to",
        "None, a peak in dBFS, or a momentary loudness in LUFS. Loudness is what the ear goes by.",
        "Level",
    )  # fmt: skip
    polarity: Polarity = choice(
        "normal", "Polarity",
        "Inverts the wave. Two sounds that cancel may add up: listen for the low end growing.",
        "Level",
    )  # fmt: skip


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
