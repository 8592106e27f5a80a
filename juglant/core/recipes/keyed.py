"""A compressor keyed by a trigger, as it is dialled in anywhere."""

from typing import Literal

from juglant.core.recipes.fields import Recipe, choice, control


class KeyedCompressor(Recipe):
    """Feed-forward, keyed from outside; levels are those of the trigger at full scale 0 dB."""

    threshold_db: float = control(
        -24.0, -72.0, 0.0, 0.1, "dB", "Threshold", "The trigger’s level above which it works.",
        "Compressor", main=True,
    )  # fmt: skip
    ratio: float = control(
        4.0, 1.0, 40.0, 0.1, ":1", "Ratio", "2:1 at least, often much more.", "Compressor", scale="log",
        main=True, off=1.0,
    )  # fmt: skip
    attack_ms: float = control(
        5.0, 0.1, 200.0, 0.1, "ms", "Attack", "Until 63 % of the reduction is reached.", "Compressor",
        scale="log", main=True,
    )  # fmt: skip
    release_ms: float = control(
        80.0, 5.0, 2000.0, 1.0, "ms", "Release", "Until 63 % of it is given back.", "Compressor",
        scale="log", main=True,
    )  # fmt: skip
    hold_ms: float = control(
        0.0, 0.0, 800.0, 1.0, "ms", "Hold", "How long it waits before it lets go.", "Compressor", off=0.0
    )
    knee_db: float = control(6.0, 0.0, 24.0, 0.1, "dB", "Knee", "Width of the bend.", "Compressor")
    lookahead_ms: float = control(
        0.0,
        0.0,
        40.0,
        0.1,
        "ms",
        "Lookahead",
        "How long before the trigger it begins to act.",
        "Compressor",
        off=0.0,
    )
    makeup_db: float = control(
        0.0, 0.0, 24.0, 0.1, "dB", "Makeup gain", "Added afterwards.", "Compressor", off=0.0
    )
    detector: Literal["peak", "RMS"] = choice(
        "peak", "Detector", "Of single peaks, or of the mean over some 5 ms.", "Compressor"
    )
