"""A hit: up to eight layers, each made or imported, and the chain they share."""

from functools import cached_property
from typing import Annotated, Any, Literal

from pydantic import Field, StringConstraints, model_validator

from juglant.core.music import HIGHEST_HEARD_HZ, LOWEST_HEARD_HZ
from juglant.core.recipes.chain import Chain, DelayStage, SpaceStage
from juglant.core.recipes.clap import ClapRecipe
from juglant.core.recipes.fields import Id, Polarity, Recipe, Renamed, choice, control
from juglant.core.recipes.fileloop import Tops, tops_choice
from juglant.core.recipes.hat import HatRecipe
from juglant.core.recipes.kick import KickRecipe
from juglant.core.recipes.moves import Moves
from juglant.core.recipes.notes import (
    MOST_BARS,
    STRAIGHT_PERCENT,
    Choke,
    HitStep,
    Swing,
    choke_group,
    in_order,
    swing_choice,
    swing_control,
)
from juglant.core.recipes.percussion import PercussionRecipe
from juglant.core.recipes.place import LoopChain, Place
from juglant.core.recipes.snare import MembraneRecipe, SnareRecipe
from juglant.core.recipes.tone808 import Recipe808

# What names a part for as long as there is one; empty where a sound belongs to no track.
PartId = Id
AudioHash = Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{64}$")]
Name = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=60)]
Job = Literal["click", "body", "sub", "tail", "texture", "width"]
HitKind = Literal["kick", "808", "snare", "clap", "hat", "tom", "percussion", "texture"]
AimAt = Literal["any note of the key", "tonic", "fifth", "chord root", "free"]
Aim = Literal["by kind", "any note of the key", "tonic", "fifth", "chord root", "free"]
MOST_LAYERS, MOST_STEPS, MOST_TAKES = 8, 192, 32
# Noise-like hits sound a note by accident; all others belong in the key (common practice).
_FREE_KINDS = ("snare", "clap", "hat", "texture")


class MadeKick(Recipe):
    """A kick that is synthesized."""

    kind: Literal["kick"] = "kick"
    recipe: KickRecipe = KickRecipe()


class Made808(Recipe):
    """An 808 that is synthesized."""

    kind: Literal["808"] = "808"
    recipe: Recipe808 = Recipe808()


class MadeSnare(Recipe):
    """A snare of tone and noise."""

    kind: Literal["snare"] = "snare"
    recipe: SnareRecipe = SnareRecipe()


class MadeMembrane(Recipe):
    """A struck pair of membranes."""

    kind: Literal["membrane"] = "membrane"
    recipe: MembraneRecipe = MembraneRecipe()


class MadeClap(Recipe):
    """A clap that is synthesized."""

    kind: Literal["clap"] = "clap"
    recipe: ClapRecipe = ClapRecipe()


class MadeHat(Recipe):
    """A hat or cymbal that is synthesized."""

    kind: Literal["hat"] = "hat"
    recipe: HatRecipe = HatRecipe()


class MadePercussion(Recipe):
    """Percussion of frequency modulation."""

    kind: Literal["percussion"] = "percussion"
    recipe: PercussionRecipe = PercussionRecipe()


class Take(Recipe):
    """One more take of the same sound: the next in turn, or the one for softer strokes."""

    audio: AudioHash
    name: str = Field(max_length=200)
    start_ms: float = Field(0.0, ge=0.0, le=60000.0)
    end_ms: float | None = Field(None, gt=0.0, le=60000.0)
    # Strokes up to this velocity play it; 1 is full velocity.
    up_to: float = Field(1.0, gt=0.0, le=1.0)


class Imported(Recipe):
    """A file of the user's own, or a stretch of one."""

    kind: Literal["imported"] = "imported"
    audio: AudioHash
    name: str = Field(max_length=200)
    start_ms: float = Field(0.0, ge=0.0, le=60000.0)
    end_ms: float | None = Field(None, gt=0.0, le=60000.0)
    shift_semitones: float = control(
        0.0, -24.0, 24.0, 0.0001, "st", "Shift",
        "Moves it by this much: a lower note is longer, a higher one shorter, unless the length is kept. "
        "Listen for the attack going dull or hard.",
        "Tune", main=True,
    )  # fmt: skip
    level_db: float = control(
        0.0, -30.0, 24.0, 0.1, "dB", "Gain",
        "Added to the file’s own level. Bring samples to one loudness before you compare them.",
        "Level", main=True,
    )  # fmt: skip
    spare_ms: float = control(
        0.0, 0.0, 300.0, 1.0, "ms", "Onset kept",
        "This much after the onset keeps its pitch, where the length is kept: the click and the sweep "
        "stay as hard as they were.",
        "Tune", off=0.0,
    )  # fmt: skip
    keep_length: Literal["no", "yes"] = choice(
        "no", "Keep length",
        "Repeats cycles or leaves them out, so that another note lasts as long. Listen for flutter in the "
        "tail.",
        "Tune",
    )  # fmt: skip
    straighten: Literal["no", "yes"] = choice(
        "no", "Straighten",
        "Holds a drifting tail at the note it ends on. For 808s that sag in pitch.",
        "Tune",
    )  # fmt: skip
    tops: Tops = tops_choice()
    takes: tuple[Take, ...] = Field((), max_length=MOST_TAKES)
    alternate: Literal["in turn", "the first"] = choice(
        "in turn", "Takes",
        "Which of several takes a stroke of its velocity plays: in turn, or by chance. Keeps repeats from "
        "sounding like a machine.",
        "Takes",
    )  # fmt: skip

    @model_validator(mode="after")
    def _in_order(self) -> "Imported":
        if self.end_ms is not None and self.end_ms <= self.start_ms:
            raise ValueError("a stretch must end after it starts")
        return self


Made = MadeKick | Made808 | MadeSnare | MadeMembrane | MadeClap | MadeHat | MadePercussion
Source = Annotated[
    MadeKick | Made808 | MadeSnare | MadeMembrane | MadeClap | MadeHat | MadePercussion | Imported,
    Field(discriminator="kind"),
]
RECIPES: dict[str, type[Recipe]] = {
    "kick": KickRecipe, "808": Recipe808, "snare": SnareRecipe, "membrane": MembraneRecipe,
    "clap": ClapRecipe, "hat": HatRecipe, "percussion": PercussionRecipe,
}  # fmt: skip


class Layer(Recipe):
    """One sound of a hit, with its job and its place."""

    name: Name = "layer"
    job: Job = "body"
    source: Source = MadeKick()
    gain_db: float = control(
        0.0, -48.0, 12.0, 0.1, "dB", "Gain",
        "Level of this layer in the hit. Mute it to hear what it does; what nobody misses can go.",
        "Place", main=True, off=0.0,
    )  # fmt: skip
    offset_ms: float = control(
        0.0, -50.0, 200.0, 0.001, "ms", "Offset",
        "Earlier or later than the other layers. Line up the low end, or let a click lead. Listen for "
        "punch against flam.",
        "Place", main=True, off=0.0,
    )  # fmt: skip
    tune_semitones: float = control(
        0.0, -24.0, 24.0, 0.01, "st", "Tune",
        "Resampled: lower is longer. Put it on the root or an octave of the other layers.",
        "Place", main=True, off=0.0,
    )  # fmt: skip
    pan: float = control(
        0.0, -1.0, 1.0, 0.01, "", "Pan",
        "−1 is left, 1 is right. Leave what is below 150 Hz in the middle.",
        "Place", main=True, off=0.0,
    )  # fmt: skip
    highpass_hz: float = control(
        20.0, 20.0, 10000.0, 1.0, "Hz", "High-pass",
        "Takes the lows of this layer away, 24 dB per octave. One layer alone should have the sub.",
        "Range", scale="log", off=20.0,
    )  # fmt: skip
    lowpass_hz: float = control(
        20000.0, 40.0, 20000.0, 1.0, "Hz", "Low-pass",
        "Takes the highs of this layer away, 24 dB per octave. Keep only its job.",
        "Range", scale="log", off=20000.0,
    )  # fmt: skip
    fade_in_ms: float = control(
        0.0, 0.0, 500.0, 0.5, "ms", "Fade in",
        "Fade from its start, or from past its attack. Lets another layer have the onset.",
        "Fades", off=0.0,
    )  # fmt: skip
    fade_out_ms: float = control(
        0.0, 0.0, 2000.0, 1.0, "ms", "Fade out",
        "Fade to its end. Keeps a layer out of the tail.",
        "Fades", off=0.0,
    )  # fmt: skip
    part: Literal["whole", "only the tail"] = choice(
        "whole", "Part",
        "All of it, or only its tail: the fade in then begins past its attack.",
        "Fades",
    )  # fmt: skip
    polarity: Polarity = choice(
        "normal", "Polarity",
        "Inverts the wave. Two layers that cancel may add up: listen for the low end growing.",
        "Range",
    )  # fmt: skip
    mute: bool = False
    solo: bool = False
    chain: Chain = ()


class Velocity(Recipe):
    """How much a softer stroke takes from each; 70 % of level and 25 % of decay are common practice."""

    level: float = control(
        0.7, 0.0, 1.0, 0.01, "", "Level",
        "How much quieter softer strokes are. More makes ghost notes disappear into the groove.",
        "Velocity", main=True,
    )  # fmt: skip
    brightness: float = control(
        0.4, 0.0, 1.0, 0.01, "", "Brightness",
        "How much duller softer strokes are. A soft drum is a dark drum.",
        "Velocity", main=True,
    )  # fmt: skip
    decay: float = control(
        0.25, 0.0, 1.0, 0.01, "", "Decay",
        "How much shorter softer strokes are. Keeps ghost notes out of the next beat.",
        "Velocity", main=True,
    )  # fmt: skip
    pitch: float = control(
        0.2, 0.0, 1.0, 0.01, "", "Pitch envelope",
        "How much less softer strokes sweep. Soft kicks then lose their knock.",
        "Velocity", main=True,
    )  # fmt: skip


# What a hit is called, where it lies and what it aims at: nothing of it is heard in a stroke.
_UNHEARD = {
    "name": "hit", "kind": "kick", "aim": "by kind", "follow": "no", "steps": (), "bars": 1,
    "choke": "none", "swing": "the track’s", "swing_percent": STRAIGHT_PERCENT, "mute": False,
    "heard_hz": None, "id": "",
    "stages": (), "place": Place(), "after": (), "moves": (),
}  # fmt: skip


def from_a_source(given: dict[str, Any]) -> dict[str, Any]:
    """A hit as it is written; one that is written as its only source becomes a hit of one layer.

    Parameters
    ----------
    given
        A hit as it is written.

    Returns
    -------
    dict
        A hit with layers.

    Examples
    --------
    >>> from_a_source({"kind": "made", "recipe": {}})["layers"][0]["source"]["kind"]
    'kick'
    """
    if "layers" not in given and (given.get("kind") in ("made", "imported") or "recipe" in given):
        own: dict[str, Any] = {name: given[name] for name in ("id", "part") if name in given}
        source = {name: value for name, value in given.items() if name not in own}
        return {
            **own,
            "layers": [{"source": source | ({"kind": "kick"} if source["kind"] == "made" else {})}],
        }
    return given


class Hit(Recipe):
    """One drum of the track."""

    name: Name = "Kick"
    kind: HitKind = "kick"
    layers: tuple[Layer, ...] = Field((Layer(),), min_length=1, max_length=MOST_LAYERS)
    chain: Chain = ()
    level_db: float = control(
        0.0, -30.0, 12.0, 0.1, "dB", "Hit level",
        "Level of every stroke. Set it against the kick with everything playing.",
        "Level", off=0.0,
    )  # fmt: skip
    velocity: Velocity = Velocity()
    aim: Annotated[Aim, Renamed] = choice(
        "by kind", "Aim",
        "Which notes are right for it. By its kind: kicks, 808s, toms and percussion belong to the key; "
        "snares, claps and hats are free.",
        "Tune",
    )  # fmt: skip
    follow: Literal["no", "yes"] = choice(
        "no", "Follow the chords",
        "In every bar it moves with that bar’s root, as far from it as from the tonic. For sounds with a "
        "pitch; a long kick then stays in tune over changes.",
        "Tune",
    )  # fmt: skip
    vary: float = control(
        0.0, 0.0, 1.0, 0.01, "", "Variation",
        "How much made strokes differ: another strike, other noise, the same note and loudness. Takes the "
        "machine out of fast repeats.",
        "Strokes", off=0.0,
    )  # fmt: skip
    # What a producer's ear hears as its note, in Hz, where that is not what is measured.
    heard_hz: float | None = Field(None, ge=LOWEST_HEARD_HZ, le=HIGHEST_HEARD_HZ)
    # Where it is struck in the loop.
    steps: tuple[HitStep, ...] = Field((), max_length=MOST_STEPS)
    bars: Annotated[int, Field(ge=1, le=MOST_BARS)] = 1
    choke: Choke = choke_group()
    swing: Swing = swing_choice()
    swing_percent: float = swing_control()
    mute: bool = False
    id: PartId = ""
    part: Literal["hit"] = "hit"
    # What its loop passes, where that lies, and what it passes behind the duckings.
    stages: LoopChain = ()
    place: Place = Place()
    after: LoopChain = ()
    moves: Moves = ()

    @model_validator(mode="after")
    def _steps_once(self) -> "Hit":
        in_order([step.at for step in self.steps], self.bars, f"strokes of the {self.name.lower()}")
        return self

    @model_validator(mode="before")
    @classmethod
    def _from_a_source(cls, given: Any) -> Any:
        """A source by itself, as the first version stored its kick, is a hit of one layer."""
        if isinstance(given, Recipe) and not isinstance(given, Hit):
            given = given.model_dump()
        return from_a_source(given) if isinstance(given, dict) else given

    @classmethod
    def of(cls, source: Made | Imported, **fields: Any) -> "Hit":
        """A hit of one layer."""
        return cls(layers=(Layer(source=source),), **fields)

    @property
    def only_source(self) -> Made | Imported | None:
        """The source of a hit of one layer; None where there are several."""
        return self.layers[0].source if len(self.layers) == 1 else None

    @cached_property
    def sounding(self) -> "Hit":
        """What decides its sound, without what is only said of it."""
        return self.model_copy(update=_UNHEARD)

    @property
    def aims_at(self) -> AimAt:
        """The aim, where the usual one is named by the kind."""
        if self.aim != "by kind":
            return self.aim
        return "free" if self.kind in _FREE_KINDS else "any note of the key"

    @property
    def audio(self) -> set[str]:
        """Hashes of every file that the hit is made from."""
        found: set[str] = set()
        for layer in self.layers:
            if isinstance(layer.source, Imported):
                found |= {layer.source.audio, *(take.audio for take in layer.source.takes)}
        return found

    def with_source(self, index: int, source: Made | Imported) -> "Hit":
        """The same hit with another source in one of its layers."""
        layer = self.layers[index].model_copy(update={"source": source})
        return self.model_copy(update={"layers": (*self.layers[:index], layer, *self.layers[index + 1 :])})


def _dry(chain: Chain) -> Chain:
    return tuple(stage for stage in chain if not isinstance(stage, SpaceStage | DelayStage))


def without_spaces(hit: Hit) -> Hit:
    """The hit without its rooms and echoes; itself where it has none.

    Parameters
    ----------
    hit
        The hit.

    Returns
    -------
    Hit
        Without them.

    Examples
    --------
    >>> hit = Hit.of(MadeKick())
    >>> without_spaces(hit) is hit
    True
    """
    layers = tuple(
        layer if _dry(layer.chain) == layer.chain
        else layer.model_copy(update={"chain": _dry(layer.chain)})
        for layer in hit.layers
    )  # fmt: skip
    if layers == hit.layers and _dry(hit.chain) == hit.chain:
        return hit
    return hit.model_copy(update={"layers": layers, "chain": _dry(hit.chain)})
