"""A compressor keyed by a trigger, as it is dialled in anywhere."""

from typing import Literal

from juglant.core.recipes.fields import Recipe, choice, control


class KeyedCompressor(Recipe):
    """Feed-forward, keyed from outside; levels are those of the trigger at full scale 0 dB."""

    threshold_db: float = control(
        -24.0, -72.0, 0.0, 0.1, "dB", "Threshold",
        "The trigger’s level above which it works. Well below the kick’s peak, so that every kick ducks "
        "alike.",
        "Compressor", main=True,
    )  # fmt: skip
    ratio: float = control(
        4.0, 1.0, 40.0, 0.1, ":1", "Ratio",
        "2:1 at least, often much more. High makes the depth the same for every kick.",
        "Compressor", scale="log", main=True, off=1.0,
    )  # fmt: skip
    attack_ms: float = control(
        5.0, 0.1, 200.0, 0.1, "ms", "Attack",
        "Time to 63 % of the reduction. Short clears the onset; listen for clicks on low notes.",
        "Compressor", scale="log", main=True,
    )  # fmt: skip
    release_ms: float = control(
        80.0, 5.0, 2000.0, 1.0, "ms", "Release",
        "Time to 63 % of the way back. It sets the groove: in time with the track, or out of the way.",
        "Compressor", scale="log", main=True,
    )  # fmt: skip
    hold_ms: float = control(
        0.0, 0.0, 800.0, 1.0, "ms", "Hold",
        "Waits this long before it lets go. Spans the kick’s body without a long release.",
        "Compressor", off=0.0,
    )  # fmt: skip
    knee_db: float = control(
        6.0, 0.0, 24.0, 0.1, "dB", "Knee",
        "Width of the bend around the threshold. Narrow keeps the depth exact.",
        "Compressor",
    )  # fmt: skip
    lookahead_ms: float = control(
        0.0, 0.0, 40.0, 0.1, "ms", "Lookahead",
        "How long before the trigger it begins to act. Lets a clickless attack be down in time.",
        "Compressor", off=0.0,
    )  # fmt: skip
    makeup_db: float = control(
        0.0, 0.0, 24.0, 0.1, "dB", "Makeup gain",
        "Gain added afterwards. Match the level before you judge.",
        "Compressor", off=0.0,
    )  # fmt: skip
    detector: Literal["peak", "RMS"] = choice(
        "peak", "Detector",
        "Whether it goes by single peaks, or by the mean over some 5 ms: peaks are quicker, the mean is "
        "steadier.",
        "Compressor",
    )  # fmt: skip
