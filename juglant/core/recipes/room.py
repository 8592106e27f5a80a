"""Where a low end is heard: generic stand-ins for places, and responses of one's own.

None of them is a product or a measured place; what each is made of stands with `juglant.core.rooms`.
"""

from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from juglant.core.recipes.fields import Recipe, control

_LOWEST_HELP = "Below it there is nothing: it falls by 24 dB an octave."


class ClubSystem(Recipe):
    """A large system in a hall: subwoofers in mono, a hand-over, a limiter, a low end that rings."""

    room: Literal["club"] = "club"
    lowest_hz: float = control(
        35.0, 20.0, 60.0, 1.0, "Hz", "Plays from", _LOWEST_HELP, "System", scale="log", main=True
    )
    handover_hz: float = control(
        95.0, 60.0, 150.0, 1.0, "Hz", "Hand-over",
        "Below it the subwoofers play, in mono; what lies here is turned in phase.", "System", scale="log",
        main=True,
    )  # fmt: skip
    driven_db: float = control(
        0.0, 0.0, 12.0, 0.5, "dB", "Driven", "How far the loudest sub passes the subwoofers’ limiter.",
        "System", main=True, off=0.0,
    )  # fmt: skip
    decay_s: float = control(
        2.0, 0.3, 4.0, 0.1, "s", "Decay",
        "Until the hall has fallen by 60 dB; 1.5–2.5 s is usual down low.", "Hall", main=True,
    )  # fmt: skip
    hall_db: float = control(
        -10.0, -40.0, 0.0, 1.0, "dB", "Hall", "What comes from the walls, against what comes straight.",
        "Hall", off=-40.0,
    )  # fmt: skip


class SmallClub(Recipe):
    """A small room with one strong mode between two of its walls."""

    room: Literal["small club"] = "small club"
    length_m: float = control(
        3.8, 2.0, 12.0, 0.05, "m", "Room length",
        "The mode lies where half a wave fits in: 343 m/s over twice the length.", "Mode", main=True,
    )  # fmt: skip
    mode_db: float = control(
        9.0, 0.0, 18.0, 0.5, "dB", "Mode", "How far its note stands out.", "Mode", main=True, off=0.0
    )
    decay_s: float = control(
        0.6, 0.1, 2.0, 0.05, "s", "Rings for", "Until the mode has fallen by 60 dB: longer is narrower.",
        "Mode", main=True,
    )  # fmt: skip
    lowest_hz: float = control(
        40.0, 20.0, 80.0, 1.0, "Hz", "Plays from", _LOWEST_HELP, "System", scale="log", main=True
    )


class Headphones(Recipe):
    """Closed headphones: low notes are all there, and lifted."""

    room: Literal["headphones"] = "headphones"
    bass_db: float = control(
        4.0, 0.0, 10.0, 0.5, "dB", "Low shelf", "What lies below 105 Hz is lifted by this.", "Headphones",
        main=True, off=0.0,
    )  # fmt: skip


class Laptop(Recipe):
    """A laptop: two small loudspeakers without a low end."""

    room: Literal["laptop"] = "laptop"
    lowest_hz: float = control(
        250.0, 150.0, 400.0, 5.0, "Hz", "Plays from", _LOWEST_HELP, "Laptop", scale="log", main=True
    )


class Phone(Recipe):
    """A phone: one very small loudspeaker."""

    room: Literal["phone"] = "phone"
    lowest_hz: float = control(
        400.0, 300.0, 800.0, 5.0, "Hz", "Plays from", _LOWEST_HELP, "Phone", scale="log", main=True
    )


class Car(Recipe):
    """A car: small woofers, and a cabin that lifts what is longer than it."""

    room: Literal["car"] = "car"
    cabin_m: float = control(
        2.6, 1.5, 5.0, 0.05, "m", "Cabin", "Waves over twice as long are lifted.", "Car", main=True
    )
    cabin_db: float = control(9.0, 0.0, 15.0, 0.5, "dB", "Lift", "How far.", "Car", main=True, off=0.0)
    lowest_hz: float = control(
        45.0, 20.0, 80.0, 1.0, "Hz", "Plays from", "They fall by 12 dB an octave below it.", "Car",
        scale="log", main=True,
    )  # fmt: skip


class Judging(Recipe):
    """What a track is judged for, wherever it is heard."""

    lufs: float = control(
        -10.0, -24.0, -4.0, 0.5, "LUFS", "Loudness to be",
        "How loud the finished track is to be: its headroom is told at that.", "Headroom", main=True,
    )  # fmt: skip


class OwnRoom(Recipe):
    """An impulse response from a file: a room, a system or a loudspeaker that somebody measured."""

    room: Literal["own"] = "own"
    audio: Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{64}$")]
    name: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=120)]


Room = Annotated[
    ClubSystem | SmallClub | Headphones | Laptop | Phone | Car | OwnRoom, Field(discriminator="room")
]
ROOMS: dict[str, type[Recipe]] = {
    "club": ClubSystem, "small club": SmallClub, "headphones": Headphones, "laptop": Laptop, "phone": Phone,
    "car": Car,
}  # fmt: skip
