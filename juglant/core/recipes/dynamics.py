"""Stages that hold a level: compressor, gate, limiter, leveller, and three bands that go up and down."""

from typing import Any, Literal

from juglant.core.recipes.fields import choice, control
from juglant.core.recipes.stage import BaseStage


class CompressorStage(BaseStage):
    """Feed-forward compressor (Giannoulis, Massberg & Reiss, JAES 60(6), 2012)."""

    stage: Literal["compressor"] = "compressor"
    threshold_db: float = control(
        -18.0, -60.0, 0.0, 0.5, "dB", "Threshold",
        "Above this the level is held back. Lower catches more of the hit. Listen for body coming up "
        "after the attack.",
        "Compressor", main=True,
    )  # fmt: skip
    ratio: float = control(
        3.0, 1.0, 20.0, 0.1, "", "Ratio",
        "How many decibels above the threshold become one. 2 to 4 evens out, more flattens.",
        "Compressor", scale="log", main=True, off=1.0,
    )  # fmt: skip
    attack_ms: float = control(
        10.0, 0.1, 200.0, 0.1, "ms", "Attack",
        "Time to 63 % of the reduction. Slow lets the punch through, fast takes it away.",
        "Compressor", scale="log", main=True,
    )  # fmt: skip
    release_ms: float = control(
        80.0, 5.0, 2000.0, 1.0, "ms", "Release",
        "Time to 63 % of the way back; 80 ms is usual on drums. Listen for pumping where it is too long "
        "and for grit where it is too short.",
        "Compressor", scale="log", main=True,
    )  # fmt: skip
    knee_db: float = control(
        6.0, 0.0, 24.0, 0.5, "dB", "Knee",
        "Width of the bend around the threshold. Wide is unnoticed, narrow is firm.",
        "More",
    )  # fmt: skip
    makeup_db: float = control(
        0.0, 0.0, 24.0, 0.1, "dB", "Makeup gain",
        "Gain given back afterwards. Match the level before you judge: louder always sounds better.",
        "More", off=0.0,
    )  # fmt: skip
    mix: float = control(
        1.0, 0.0, 1.0, 0.01, "", "Mix",
        "Compressed against clean. Compress hard and blend it under for body without losing the attack.",
        "More", off=0.0, movable=True,
    )  # fmt: skip


class GateStage(BaseStage):
    """Closed while it is quiet: what lies between the strokes goes."""

    stage: Literal["gate"] = "gate"
    threshold_db: float = control(
        -40.0, -80.0, 0.0, 0.5, "dBFS", "Threshold",
        "Opens where a peak reaches this. Raise it until room and bleed are gone. Listen for swallowed "
        "soft strokes.",
        "Gate", main=True,
    )  # fmt: skip
    range_db: float = control(
        60.0, 0.0, 80.0, 0.5, "dB", "Range",
        "How far it closes. 10 to 20 dB sounds natural, all of it sounds cut.",
        "Gate", main=True, off=0.0,
    )  # fmt: skip
    hold_ms: float = control(
        40.0, 0.0, 1000.0, 1.0, "ms", "Hold",
        "Stays open this long after the last peak. Under 20 ms low tones chatter.",
        "Gate", main=True,
    )  # fmt: skip
    release_ms: float = control(
        60.0, 5.0, 2000.0, 1.0, "ms", "Release",
        "Time to 63 % of the closing. Longer lets the tail go naturally.",
        "Gate", scale="log", main=True,
    )  # fmt: skip
    attack_ms: float = control(
        0.5, 0.1, 50.0, 0.1, "ms", "Attack",
        "Time to 63 % of the opening. Short keeps the attack; listen for clicks at the shortest.",
        "More", scale="log",
    )  # fmt: skip


class LimitStage(BaseStage):
    """Peaks held down by a gain that looks ahead: no sample passes, and no edge is cut."""

    stage: Literal["limit"] = "limit"
    amount_db: float = control(
        1.0, 0.0, 24.0, 0.1, "dB", "Reduction",
        "Takes this much off the highest peak. 1 or 2 dB go unheard, more flattens the attack.",
        "Limiter", main=True, off=0.0,
    )  # fmt: skip
    ceiling_db: float = control(
        -1.0, -24.0, 0.0, 0.1, "dBFS", "Ceiling",
        "No sample passes it, where it holds to a ceiling. Leave some headroom for the mix.",
        "Limiter", main=True,
    )  # fmt: skip
    release_ms: float = control(
        60.0, 5.0, 1000.0, 1.0, "ms", "Release",
        "Time to 63 % of the way back. Long is clean, short is loud. Listen for distortion on low notes.",
        "Limiter", scale="log", main=True,
    )  # fmt: skip
    hold_to: Literal["reduction", "ceiling"] = choice(
        "reduction", "Hold to",
        "A reduction of the highest peak, whatever the level, or a fixed ceiling.",
        "Limiter",
    )  # fmt: skip
    ahead_ms: float = control(
        2.0, 0.1, 10.0, 0.1, "ms", "Look-ahead",
        "How long before a peak it begins to act. Longer is cleaner and softens the attack.",
        "More", scale="log",
    )  # fmt: skip


class LevellerStage(BaseStage):
    """A slow levelling compressor: loud notes down, soft ones up, towards one level."""

    stage: Literal["leveller"] = "leveller"
    target_db: float = control(
        -18.0, -40.0, 0.0, 0.5, "dBFS", "Target",
        "The level, as RMS, that it levels towards. Set it near the line’s own, so that it works both "
        "ways.",
        "Leveller", main=True,
    )  # fmt: skip
    amount: float = control(
        0.7, 0.0, 1.0, 0.01, "", "Amount",
        "How much of the difference it evens out. Half keeps the playing alive.",
        "Leveller", main=True, off=0.0,
    )  # fmt: skip
    range_db: float = control(
        9.0, 0.0, 24.0, 0.5, "dB", "Range",
        "It moves no further than this, up or down. Keeps it from lifting silence.",
        "Leveller", main=True, off=0.0,
    )  # fmt: skip
    speed_ms: float = control(
        120.0, 20.0, 2000.0, 1.0, "ms", "Speed",
        "Time over which the level is taken. Slower is smoother, faster evens single notes.",
        "Leveller", scale="log", main=True,
    )  # fmt: skip
    floor_db: float = control(
        -50.0, -80.0, -20.0, 0.5, "dBFS", "Floor",
        "Anything softer is left alone. Put it above the noise.",
        "More",
    )  # fmt: skip


def _above(band: str, group: str) -> Any:
    return control(
        -24.0, -60.0, 0.0, 0.5, "dBFS", f"{band} above",
        "What is louder is brought down. Lower evens out more.",
        group,
    )  # fmt: skip


def _below(band: str, group: str) -> Any:
    return control(
        -42.0, -80.0, 0.0, 0.5, "dBFS", f"{band} below",
        "What is softer is brought up. Higher brings out tail and room.",
        group,
    )  # fmt: skip


def _down(band: str, group: str) -> Any:
    return control(
        2.0, 1.0, 20.0, 0.1, "", f"{band} down",
        "How many decibels above become one. More is flatter.",
        group, scale="log", off=1.0,
    )  # fmt: skip


def _up(band: str, group: str) -> Any:
    return control(
        1.5, 1.0, 10.0, 0.1, "", f"{band} up",
        "How many decibels below become one. More is denser.",
        group, scale="log", off=1.0,
    )  # fmt: skip


def _gain(band: str) -> Any:
    return control(
        0.0, -24.0, 24.0, 0.1, "dB", f"{band} gain",
        "Level of this band afterwards. Balance the bands with it.",
        "Bands", main=True, off=0.0,
    )  # fmt: skip


class BandsStage(BaseStage):
    """Three bands; each brings down what is loud in it and brings up what is soft."""

    stage: Literal["bands"] = "bands"
    mix: float = control(
        1.0, 0.0, 1.0, 0.01, "", "Mix",
        "How much of the change is used. Set the bands strongly, then turn this back.",
        "Bands", main=True, off=0.0, movable=True,
    )  # fmt: skip
    low_gain_db: float = _gain("Low")
    mid_gain_db: float = _gain("Mid")
    high_gain_db: float = _gain("High")
    low_hz: float = control(
        150.0, 40.0, 800.0, 1.0, "Hz", "Low up to",
        "Crossover of the low band, 24 dB per octave. Keep the whole fundamental below it.",
        "Bands", scale="log",
    )  # fmt: skip
    high_hz: float = control(
        2500.0, 900.0, 12000.0, 10.0, "Hz", "High from",
        "Crossover of the high band, 24 dB per octave. Above it lie clicks and hats.",
        "Bands", scale="log",
    )  # fmt: skip
    low_above_db: float = _above("Low", "Low")
    low_down: float = _down("Low", "Low")
    low_below_db: float = _below("Low", "Low")
    low_up: float = _up("Low", "Low")
    mid_above_db: float = _above("Mid", "Mid")
    mid_down: float = _down("Mid", "Mid")
    mid_below_db: float = _below("Mid", "Mid")
    mid_up: float = _up("Mid", "Mid")
    high_above_db: float = _above("High", "High")
    high_down: float = _down("High", "High")
    high_below_db: float = _below("High", "High")
    high_up: float = _up("High", "High")
    attack_ms: float = control(
        10.0, 0.5, 200.0, 0.1, "ms", "Attack",
        "Time to 63 % of a gain. Slow lets attacks through.",
        "Times", scale="log",
    )  # fmt: skip
    release_ms: float = control(
        120.0, 5.0, 2000.0, 1.0, "ms", "Release",
        "Time to 63 % of the way back. Listen for pumping against the tempo.",
        "Times", scale="log",
    )  # fmt: skip
    most_up_db: float = control(
        12.0, 0.0, 36.0, 0.5, "dB", "Most up",
        "Nothing is brought up by more. Keeps noise and room where they are.",
        "Times", off=0.0,
    )  # fmt: skip
