"""What sounds in a track: lines, stems, chords, outputs of other parts, and the sum of all."""

from typing import Annotated, Final, Literal

from pydantic import Field, model_validator

from juglant.core.recipes.bass import BassRecipe, LineRecipe, PlayedRecipe
from juglant.core.recipes.fields import Recipe, choice, control
from juglant.core.recipes.fileloop import (
    Fit,
    LoopSwing,
    Silent,
    Tops,
    begin_control,
    fit_choice,
    loop_swing,
    own_tempo,
    swings_by_slices,
    tops_choice,
)
from juglant.core.recipes.hit import AudioHash, Hit, Made808, PartId
from juglant.core.recipes.moves import PLACE, STROKES, Moves, Strokes
from juglant.core.recipes.notes import swing_control
from juglant.core.recipes.place import MONO, LoopChain, Place
from juglant.core.recipes.stage import BaseStage


class MadeBass(Recipe):
    """A bass that is synthesized."""

    kind: Literal["made"] = "made"
    recipe: BassRecipe = BassRecipe()


class PlayedBass(Recipe):
    """A line that a hit plays, moved to each note: an 808 of the track, as it was when chosen."""

    kind: Literal["played"] = "played"
    hit: Hit = Hit.of(Made808(), name="808", kind="808")
    recipe: PlayedRecipe = PlayedRecipe()


class ImportedBass(Recipe):
    """A loop of the user's own, taken to be at the track's tempo."""

    kind: Literal["imported"] = "imported"
    audio: AudioHash
    name: str = Field(max_length=200)
    level_db: float = control(
        0.0, -30.0, 24.0, 0.1, "dB", "Gain",
        "Added to the file’s own level. Set it against the kick in the low band.",
        "Level", main=True,
    )  # fmt: skip
    side: Literal["both", "left", "right"] = choice(
        "both", "Sides",
        "What is heard of a stereo file: the sum of both sides, or one alone where the sum cancels.",
        "Level",
    )  # fmt: skip
    tops: Tops = tops_choice()
    begin_ms: float = begin_control()
    fit: Fit = fit_choice()
    own_bpm: float = own_tempo()
    silent: Silent = ()
    swing: LoopSwing = loop_swing()
    swing_percent: float = swing_control("Tempo")

    @model_validator(mode="after")
    def _swings(self) -> "ImportedBass":
        swings_by_slices(self)
        return self


class RumbleBass(Recipe):
    """A rumble made from the track's own kick: repeats, a room, drive, and only the low end of it."""

    kind: Literal["rumble"] = "rumble"
    under_db: float = control(
        9.0, 0.0, 36.0, 0.5, "dB", "Under kick",
        "How far its loudest moment lies below the kick’s, low band, as measured. Listen for a floor that "
        "moves, not for a second bass.",
        "Rumble", main=True,
    )  # fmt: skip
    decay_ms: float = control(
        1400.0, 100.0, 6000.0, 10.0, "ms", "Room",
        "Time until its reverb has fallen by 60 dB. Longer fills the bar, shorter pulses.",
        "Rumble", scale="log", main=True,
    )  # fmt: skip
    drive_db: float = control(
        12.0, 0.0, 36.0, 0.5, "dB", "Drive",
        "Drive after the room: even and dense. More is heard on small speakers.",
        "Rumble", main=True, off=0.0,
    )  # fmt: skip
    lowpass_hz: float = control(
        130.0, 50.0, 600.0, 1.0, "Hz", "Low-pass",
        "Takes the highs away, 24 dB per octave. Lower is felt, higher is heard.",
        "Rumble", scale="log", main=True,
    )  # fmt: skip
    mid_copy_db: float = control(
        -40.0, -40.0, 0.0, 0.5, "dB", "Mid copy",
        "A second, quieter copy of what the low-pass takes away. Brings the room’s texture back.",
        "More", off=-40.0,
    )  # fmt: skip
    repeats: Literal["sixteenths", "triplets", "dotted eighths"] = choice(
        "sixteenths", "Repeats",
        "Where the kick is struck again, quietly. Off the beat it rolls.",
        "More",
    )  # fmt: skip
    tune: Literal["to the root", "as the kick"] = choice(
        "to the root", "Tune",
        "Pulls it to the key’s root, in the octave nearest to the kick, so that it does not beat against "
        "the bass.",
        "More",
    )  # fmt: skip


Bass = Annotated[MadeBass | PlayedBass | ImportedBass | RumbleBass, Field(discriminator="kind")]
MOST_PARTS = 40


class Voice(Recipe):
    """A line: what sounds it, and whether it is heard."""

    name: str = Field(min_length=1, max_length=40)
    bass: Bass = MadeBass()
    mute: bool = False
    id: PartId = ""
    part: Literal["line"] = "line"
    stages: LoopChain = ()
    place: Place = MONO
    after: LoopChain = ()
    moves: Moves = ()

    @property
    def line(self) -> LineRecipe | None:
        """What it plays; None where it has no notes: a file's are not known, a rumble has none."""
        return self.bass.recipe if isinstance(self.bass, MadeBass | PlayedBass) else None


class Stem(Recipe):
    """A stem of the arrangement, taken to be at the track's tempo: heard with everything else."""

    name: str = Field(min_length=1, max_length=40)
    audio: AudioHash
    mute: bool = False
    tops: Tops = tops_choice()
    begin_ms: float = begin_control()
    fit: Fit = fit_choice()
    own_bpm: float = own_tempo()
    silent: Silent = ()
    swing: LoopSwing = loop_swing()
    swing_percent: float = swing_control("Tempo")
    id: PartId = ""
    part: Literal["stem"] = "stem"
    stages: LoopChain = ()
    place: Place = Place()
    after: LoopChain = ()
    moves: Moves = ()

    @model_validator(mode="after")
    def _swings(self) -> "Stem":
        swings_by_slices(self)
        return self


class Chord(Recipe):
    """A chord held over the root of every bar: it stands in for a pad that is not there yet."""

    name: str = Field("Pad", min_length=1, max_length=40)
    mute: bool = False
    id: PartId = ""
    part: Literal["chord"] = "chord"
    stages: LoopChain = ()
    place: Place = MONO
    after: LoopChain = ()
    moves: Moves = ()


class Output(Recipe):
    """What is taken of another part: dry before its duckings and its mute, heard behind everything, or
    instead of it: then it is heard through here only.
    """

    of: PartId
    gain_db: float = control(
        0.0, -60.0, 24.0, 0.1, "dB", "Gain",
        "Gain of what is taken. Blend a copy in under its original.",
        "Output", main=True, off=0.0,
    )  # fmt: skip
    taken: Literal["dry", "heard", "instead"] = choice(
        "dry", "Taken",
        "Dry: before its duckings, muted or not. Heard: behind everything. Instead: heard here only.",
        "Output",
    )  # fmt: skip


class Outputs(Recipe):
    """Outputs of other parts, summed. One of them is a copy, several with a space a send, and those that
    are heard only through here a group.
    """

    name: str = Field("Copy", min_length=1, max_length=40)
    mute: bool = False
    sources: tuple[Output, ...] = Field((), max_length=MOST_PARTS)
    id: PartId = ""
    part: Literal["outputs"] = "outputs"
    stages: LoopChain = ()
    place: Place = Place()
    after: LoopChain = ()
    moves: Moves = ()


# No other part has this id.
SUM: Final = "the-sum"


class Sum(Recipe):
    """Everything together: the group that is always there, last of all."""

    name: Literal["Sum"] = "Sum"
    mute: Literal[False] = False
    id: Literal["the-sum"] = SUM
    part: Literal["sum"] = "sum"
    stages: LoopChain = ()
    place: Place = Place()
    after: LoopChain = ()
    moves: Moves = ()

    @property
    def acts(self) -> bool:
        """Whether anything is done to everything together."""
        return self != Sum()


Part = Annotated[Hit | Voice | Stem | Chord | Outputs, Field(discriminator="part")]
AnyPart = Hit | Voice | Stem | Chord | Outputs | Sum


def has_strokes(part: AnyPart) -> bool:
    """Whether a part has strokes or notes, written or to be heard in its file: what may start a ducking.

    Parameters
    ----------
    part
        The part.

    Returns
    -------
    bool
        Whether it has.

    Examples
    --------
    >>> from juglant.core.recipes.track import TrackState
    >>> has_strokes(TrackState().kick), has_strokes(Chord())
    (True, False)
    """
    return not isinstance(part, Chord | Sum) and not (
        isinstance(part, Voice) and isinstance(part.bass, RumbleBass)
    )


def shaping(part: AnyPart) -> dict[str, BaseStage]:
    """The stages of a part's shape that moves know, by their ids: what every stroke passes by itself.

    Parameters
    ----------
    part
        The part.

    Returns
    -------
    dict of str to BaseStage
        By their ids.

    Examples
    --------
    >>> from juglant.core.recipes.track import TrackState
    >>> shaping(TrackState().kick)
    {}
    """
    of_loop = {stage.id for stage in (*part.stages, *part.after)}
    chain = part.chain if isinstance(part, Hit) else ()
    return {stage.id: stage for stage in chain if stage.id and stage.id not in of_loop}


def movables(part: AnyPart) -> dict[str, Recipe]:
    """What moves of a part may belong to: its place, its stages by their ids, its strokes or notes.

    Parameters
    ----------
    part
        The part.

    Returns
    -------
    dict of str to Recipe
        By their ids.

    Examples
    --------
    >>> len(movables(Chord()))
    1
    """
    stages = {stage.id: stage for stage in (*part.stages, *part.after) if stage.id}
    struck = isinstance(part, Hit) or (isinstance(part, Voice) and part.line is not None)
    return {PLACE: part.place, **({STROKES: Strokes()} if struck else {}), **shaping(part), **stages}
