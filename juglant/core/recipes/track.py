"""The whole working state of a track."""

from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from juglant.core.recipes.bass import BassRecipe
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.fields import Recipe, control
from juglant.core.recipes.kick import KickRecipe

AudioHash = Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{64}$")]


class MadeKick(Recipe):
    """A kick that is synthesized."""

    kind: Literal["made"] = "made"
    recipe: KickRecipe = KickRecipe()


class MadeBass(Recipe):
    """A bass that is synthesized."""

    kind: Literal["made"] = "made"
    recipe: BassRecipe = BassRecipe()


class ImportedKick(Recipe):
    """A one-shot of the user's own."""

    kind: Literal["imported"] = "imported"
    audio: AudioHash
    name: str = Field(max_length=200)
    shift_semitones: float = control(
        0.0, -24.0, 24.0, 0.0001, "st", "Shift",
        "Resampled by this much: a lower note is longer, a higher one shorter.", "Tune", main=True,
    )  # fmt: skip
    level_db: float = control(
        0.0, -30.0, 24.0, 0.1, "dB", "Gain", "Added to the file's own level.", "Level", main=True
    )


class ImportedBass(Recipe):
    """A loop of the user's own, taken to be at the track's tempo."""

    kind: Literal["imported"] = "imported"
    audio: AudioHash
    name: str = Field(max_length=200)
    level_db: float = control(
        0.0, -30.0, 24.0, 0.1, "dB", "Gain", "Added to the file's own level.", "Level", main=True
    )


class TrackState(Recipe):
    """Everything that decides what is heard."""

    brief: Brief = Brief()
    kick: Annotated[MadeKick | ImportedKick, Field(discriminator="kind")] = MadeKick()
    bass: Annotated[MadeBass | ImportedBass, Field(discriminator="kind")] = MadeBass()
    ducking: bool = True
    duck: DuckRecipe = DuckRecipe()
