"""Stages that hold a level: limiter, leveller, and three bands that compress up and down."""

from typing import Any, Literal

from juglant.core.recipes.fields import choice, control
from juglant.core.recipes.stage import BaseStage


class LimitStage(BaseStage):
    """Peaks held down by a gain that looks ahead: no sample passes, and no edge is cut."""

    stage: Literal["limit"] = "limit"
    amount_db: float = control(
        1.0, 0.0, 24.0, 0.1, "dB", "Reduction", "So much is taken of the highest peak.", "Limiter",
        main=True, off=0.0,
    )  # fmt: skip
    ceiling_db: float = control(
        -1.0, -24.0, 0.0, 0.1, "dBFS", "Ceiling", "No sample passes it, where it is held to a ceiling.",
        "Limiter", main=True,
    )  # fmt: skip
    release_ms: float = control(
        60.0, 5.0, 1000.0, 1.0, "ms", "Release", "Until 63 % of the reduction is given back.", "Limiter",
        scale="log", main=True,
    )  # fmt: skip
    hold_to: Literal["reduction", "ceiling"] = choice(
        "reduction", "Hold to", "A reduction of the highest peak, whatever the level, or a fixed ceiling.",
        "Limiter",
    )  # fmt: skip
    ahead_ms: float = control(
        2.0, 0.1, 10.0, 0.1, "ms", "Look-ahead", "How long before a peak it begins to act.", "More",
        scale="log",
    )  # fmt: skip


class LevellerStage(BaseStage):
    """A slow levelling compressor: loud notes down, soft ones up, towards one level."""

    stage: Literal["leveller"] = "leveller"
    target_db: float = control(
        -18.0, -40.0, 0.0, 0.5, "dBFS", "Target", "The level, as RMS, that it levels towards.", "Leveller",
        main=True,
    )  # fmt: skip
    amount: float = control(
        0.7, 0.0, 1.0, 0.01, "", "Amount", "How much of the difference is evened.", "Leveller", main=True,
        off=0.0,
    )  # fmt: skip
    range_db: float = control(
        9.0, 0.0, 24.0, 0.5, "dB", "Range", "It moves no further than this, up or down.", "Leveller",
        main=True, off=0.0,
    )  # fmt: skip
    speed_ms: float = control(
        120.0, 20.0, 2000.0, 1.0, "ms", "Speed", "Over which the level is taken; slower is smoother.",
        "Leveller", scale="log", main=True,
    )  # fmt: skip
    floor_db: float = control(
        -50.0, -80.0, -20.0, 0.5, "dBFS", "Floor", "What is softer is left where it is.", "More"
    )


def _above(band: str, group: str) -> Any:
    return control(
        -24.0, -60.0, 0.0, 0.5, "dBFS", f"{band} above", "What is louder is brought down.", group
    )


def _below(band: str, group: str) -> Any:
    return control(-42.0, -80.0, 0.0, 0.5, "dBFS", f"{band} below", "What is softer is brought up.", group)


def _down(band: str, group: str) -> Any:
    return control(
        2.0, 1.0, 20.0, 0.1, "", f"{band} down", "Decibels above for one that is left.", group, scale="log",
        off=1.0,
    )  # fmt: skip


def _up(band: str, group: str) -> Any:
    return control(
        1.5, 1.0, 10.0, 0.1, "", f"{band} up", "Decibels below for one that is left.", group, scale="log",
        off=1.0,
    )  # fmt: skip


def _gain(band: str) -> Any:
    return control(
        0.0, -24.0, 24.0, 0.1, "dB", f"{band} gain", "Of this band.", "Bands", main=True, off=0.0
    )


class BandsStage(BaseStage):
    """Three bands; each brings down what is loud in it and brings up what is soft."""

    stage: Literal["bands"] = "bands"
    mix: float = control(
        1.0, 0.0, 1.0, 0.01, "", "Mix", "Of what the bands change.", "Bands", main=True, off=0.0,
        movable=True,
    )  # fmt: skip
    low_gain_db: float = _gain("Low")
    mid_gain_db: float = _gain("Mid")
    high_gain_db: float = _gain("High")
    low_hz: float = control(
        150.0, 40.0, 800.0, 1.0, "Hz", "Low up to", "Crossover, 24 dB per octave.", "Bands", scale="log"
    )
    high_hz: float = control(
        2500.0, 900.0, 12000.0, 10.0, "Hz", "High from", "Crossover, 24 dB per octave.", "Bands",
        scale="log",
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
        10.0, 0.5, 200.0, 0.1, "ms", "Attack", "Until 63 % of a gain is reached.", "Times", scale="log"
    )
    release_ms: float = control(
        120.0, 5.0, 2000.0, 1.0, "ms", "Release", "Until 63 % of it is given back.", "Times", scale="log"
    )
    most_up_db: float = control(
        12.0, 0.0, 36.0, 0.5, "dB", "Most up", "Nothing is brought up by more.", "Times", off=0.0
    )
