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
        35.0, 20.0, 60.0, 1.0, "Hz", "Plays from",
        _LOWEST_HELP,
        "System", scale="log", main=True,
    )  # fmt: skip
    handover_hz: float = control(
        95.0, 60.0, 150.0, 1.0, "Hz", "Hand-over",
        "Below this the subwoofers play, in mono, and the phase turns around it. Listen for a hole there.",
        "System", scale="log", main=True,
    )  # fmt: skip
    driven_db: float = control(
        0.0, 0.0, 12.0, 0.5, "dB", "Driven",
        "How far the loudest sub goes into the subwoofers’ limiter. Listen for a kick that loses its "
        "punch.",
        "System", main=True, off=0.0,
    )  # fmt: skip
    decay_s: float = control(
        2.0, 0.3, 4.0, 0.1, "s", "Decay",
        "Time until the hall has fallen by 60 dB; 1.5–2.5 s is usual down low. Long tails blur short "
        "notes.",
        "Hall", main=True,
    )  # fmt: skip
    hall_db: float = control(
        -10.0, -40.0, 0.0, 1.0, "dB", "Hall",
        "Walls against direct sound. More is farther from the loudspeakers.",
        "Hall", off=-40.0,
    )  # fmt: skip


class SmallClub(Recipe):
    """A small room with one strong mode between two of its walls."""

    room: Literal["small club"] = "small club"
    length_m: float = control(
        3.8, 2.0, 12.0, 0.05, "m", "Room length",
        "Its lowest mode has half a wave between the walls: 343 m/s over twice the length. Find the note "
        "that booms.",
        "Mode", main=True,
    )  # fmt: skip
    mode_db: float = control(
        9.0, 0.0, 18.0, 0.5, "dB", "Mode",
        "How far the mode’s note stands out. Listen for one note of the line that is louder.",
        "Mode", main=True, off=0.0,
    )  # fmt: skip
    decay_s: float = control(
        0.6, 0.1, 2.0, 0.05, "s", "Rings for",
        "Time until the mode has fallen by 60 dB. Longer is narrower and blurs what follows.",
        "Mode", main=True,
    )  # fmt: skip
    lowest_hz: float = control(
        40.0, 20.0, 80.0, 1.0, "Hz", "Plays from",
        _LOWEST_HELP,
        "System", scale="log", main=True,
    )  # fmt: skip


class Headphones(Recipe):
    """Closed headphones: low notes are all there, and lifted."""

    room: Literal["headphones"] = "headphones"
    bass_db: float = control(
        4.0, 0.0, 10.0, 0.5, "dB", "Low shelf",
        "Lifts what lies below 105 Hz, as many headphones do. Too much bass here is a track that sounds "
        "thin elsewhere.",
        "Headphones", main=True, off=0.0,
    )  # fmt: skip


class Laptop(Recipe):
    """A laptop: two small loudspeakers without a low end."""

    room: Literal["laptop"] = "laptop"
    lowest_hz: float = control(
        250.0, 150.0, 400.0, 5.0, "Hz", "Plays from",
        _LOWEST_HELP,
        "Laptop", scale="log", main=True,
    )  # fmt: skip


class Phone(Recipe):
    """A phone: one very small loudspeaker."""

    room: Literal["phone"] = "phone"
    lowest_hz: float = control(
        400.0, 300.0, 800.0, 5.0, "Hz", "Plays from",
        _LOWEST_HELP,
        "Phone", scale="log", main=True,
    )  # fmt: skip


class Car(Recipe):
    """A car: small woofers, and a cabin that lifts what is longer than it."""

    room: Literal["car"] = "car"
    cabin_m: float = control(
        2.6, 1.5, 5.0, 0.05, "m", "Cabin",
        "Waves longer than twice this are lifted: a small cabin makes bass.",
        "Car", main=True,
    )  # fmt: skip
    cabin_db: float = control(
        9.0, 0.0, 15.0, 0.5, "dB", "Lift",
        "How far they are lifted. Listen for a sub that takes over.",
        "Car", main=True, off=0.0,
    )  # fmt: skip
    lowest_hz: float = control(
        45.0, 20.0, 80.0, 1.0, "Hz", "Plays from",
        "Falls by 12 dB an octave below this.",
        "Car", scale="log", main=True,
    )  # fmt: skip


class Judging(Recipe):
    """What a track is judged for, wherever it is heard."""

    lufs: float = control(
        -10.0, -24.0, -4.0, 0.5, "LUFS", "Loudness to be",
        "How loud the finished track is to be. Headroom and limiter are told at that level.",
        "Headroom", main=True,
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
