"""Notes of a line and steps of a hit: places in time, in beats."""

from typing import Annotated, Any, Literal

from pydantic import AfterValidator, Field, model_validator

from juglant.core.recipes.fields import Recipe, choice, control

# As fine as the pulses of a quarter note in the MIDI files that are written.
PULSES = 480
MOST_BARS = 8
LONGEST_BEATS = 4 * MOST_BARS


def on_pulse(beats: float) -> float:
    """A time in beats on the nearest pulse: sixteenths and triplets are met exactly.

    Parameters
    ----------
    beats
        From the start.

    Returns
    -------
    float
        Beats.

    Examples
    --------
    >>> on_pulse(0.26), on_pulse(0.34)
    (0.2604166666666667, 0.33958333333333335)
    """
    return round(beats * PULSES) / PULSES


At = Annotated[float, Field(ge=0.0, lt=LONGEST_BEATS), AfterValidator(on_pulse)]
Beats = Annotated[
    float, Field(gt=0.0, le=LONGEST_BEATS), AfterValidator(lambda v: max(on_pulse(v), 1 / PULSES))
]
# A place in a bar as it is counted aloud, from 1, in sixteenths.
Beat = Annotated[float, Field(ge=1.0, lt=5.0, multiple_of=0.25)]
StrokeVelocity = Annotated[float, Field(gt=0.0, le=1.0)]


Choke = Literal["none", "A", "B", "C"]


def choke_group() -> Any:
    """The control of a choke group.

    Returns
    -------
    Any
        A field.

    Examples
    --------
    >>> choke_group().default
    'none'
    """
    return choice(
        "none", "Choke group",
        "Sounds of one group never overlap: the old one ends where the new one starts.", "Voice",
    )  # fmt: skip


Swing = Literal["the track’s", "its own"]
STRAIGHT_PERCENT, MOST_SWING_PERCENT = 50.0, 75.0


def swing_choice() -> Any:
    """The control that says by which swing a pattern is played.

    Returns
    -------
    Any
        A field.

    Examples
    --------
    >>> swing_choice().default
    'the track’s'
    """
    return choice(
        "the track’s", "Swing",
        "Of this pattern: with the track, or by itself, as straight hats over swung claps.", "Swing",
    )  # fmt: skip


def swing_control(group: str = "Swing") -> Any:
    """The swing of a part that has its own.

    Parameters
    ----------
    group
        What it stands with.

    Returns
    -------
    Any
        A field.

    Examples
    --------
    >>> swing_control().default
    50.0
    """
    return control(
        STRAIGHT_PERCENT, STRAIGHT_PERCENT, MOST_SWING_PERCENT, 0.5, "%", "Own swing",
        "Where a second sixteenth lies between two eighths: 50 is straight, 66 a triplet.", group,
    )  # fmt: skip


class Note(Recipe):
    """A note of a line: where it begins, how long it is, and how far above the chord root."""

    at: At
    beats: Beats = 0.25
    semitones: Annotated[int, Field(ge=-24, le=24)] = 0
    velocity: StrokeVelocity = 1.0
    glide: bool = False

    @model_validator(mode="before")
    @classmethod
    def _from_sixteenths(cls, given: Any) -> Any:
        """The first version counted places and lengths in sixteenths of the bar."""
        if isinstance(given, dict) and "steps" in given:
            given = dict(given)
            given["beats"] = given.pop("steps") / 4
            given["at"] = given["at"] / 4
        return given


class HitStep(Recipe):
    """One stroke of a hit."""

    at: At
    velocity: StrokeVelocity = 1.0

    @model_validator(mode="before")
    @classmethod
    def _from_strength(cls, given: Any) -> Any:
        """What is the velocity now was stored as a strength."""
        if isinstance(given, dict) and "strength" in given and "velocity" not in given:
            given = {**given, "velocity": given["strength"]}
            del given["strength"]
        return given


def on_beats(*beats: float) -> tuple[HitStep, ...]:
    """Strokes in full on beats, counted from 1.

    Returns
    -------
    tuple of HitStep
        One for each.

    Examples
    --------
    >>> [one.at for one in on_beats(1, 2.5)]
    [0.0, 1.5]
    """
    return tuple(HitStep(at=beat - 1) for beat in sorted(set(beats)))


FOUR_ON_THE_FLOOR = on_beats(1, 2, 3, 4)


def in_order(places: list[float], bars: int, what: str) -> None:
    """ValueError unless `places` rise, each once, within `bars` bars.

    Parameters
    ----------
    places
        In beats, from 0.
    bars
        How many there are.
    what
        What they are called where they are refused.

    Examples
    --------
    >>> in_order([0.0, 1.0], 1, "strokes")
    """
    if places != sorted(set(places)):
        raise ValueError(f"the {what} must be in order, each place once")
    if places and places[-1] >= 4 * bars:
        raise ValueError(f"the {what} must lie within the {bars} bars of the pattern")
