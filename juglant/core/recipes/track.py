"""The whole working state of a track."""

from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from juglant.core.recipes.bass import BassRecipe, LineRecipe, PlayedRecipe
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.fields import Recipe, control
from juglant.core.recipes.hit import MOST_HITS, AudioHash, Hit, Made808
from juglant.core.recipes.recording import Recording


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
        0.0, -30.0, 24.0, 0.1, "dB", "Gain", "Added to the file's own level.", "Level", main=True
    )


class TrackState(Recipe):
    """Everything that decides what is heard."""

    brief: Brief = Brief()
    kick: Hit = Hit()
    hits: tuple[Hit, ...] = Field((), max_length=MOST_HITS, title="Hits beside the kick")
    recordings: tuple[Recording, ...] = Field((), max_length=12, title="Recordings")
    bass: Annotated[MadeBass | PlayedBass | ImportedBass, Field(discriminator="kind")] = MadeBass()
    ducking: bool = True
    duck: DuckRecipe = DuckRecipe()

    @model_validator(mode="after")
    def _names_differ(self) -> "TrackState":
        names = [hit.name.lower() for hit in self.all_hits]
        if len(set(names)) < len(names):
            raise ValueError("every hit of a track needs a name of its own")
        return self

    @property
    def audio(self) -> set[str]:
        """Hashes of every file that the track is made from."""
        played = (self.bass.hit,) if isinstance(self.bass, PlayedBass) else ()
        found = {recording.audio for recording in self.recordings}
        found = found.union(*(hit.audio for hit in (*self.all_hits, *played)))
        return found | ({self.bass.audio} if isinstance(self.bass, ImportedBass) else set())

    @property
    def all_hits(self) -> tuple[Hit, ...]:
        """The kick first, then the others."""
        return (self.kick, *self.hits)

    def with_hit(self, index: int, hit: Hit) -> "TrackState":
        """The same state with another hit in one's place; 0 is the kick."""
        if index == 0:
            return self.model_copy(update={"kick": hit})
        return self.model_copy(update={"hits": (*self.hits[: index - 1], hit, *self.hits[index:])})

    @property
    def line(self) -> LineRecipe | None:
        """What the bass plays; None where it is a file, whose notes are not known."""
        return None if isinstance(self.bass, ImportedBass) else self.bass.recipe

    def with_line(self, **changes: Any) -> "TrackState":
        """The same state with some of the line's fields changed; a file stays as it is."""
        if isinstance(self.bass, ImportedBass):
            return self
        recipe = self.bass.recipe.model_copy(update=changes)
        return self.model_copy(update={"bass": self.bass.model_copy(update={"recipe": recipe})})
