"""The whole working state of a track."""

from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from juglant.core.recipes.bass import BassRecipe, LineRecipe, PlayedRecipe
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.bus import MOST_BUSES, STAND_IN, Bus
from juglant.core.recipes.duck import DuckRecipe, SolvedFor
from juglant.core.recipes.fields import Recipe, choice, control
from juglant.core.recipes.hit import MOST_HITS, AudioHash, Hit, Made808
from juglant.core.recipes.recording import Recording
from juglant.core.recipes.separate import SeparateRecipe


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
    side: Literal["both", "left", "right"] = choice(
        "both", "Sides", "Which of a stereo file is heard: both as their sum, or one alone.", "Level"
    )
    begin_ms: float = control(
        0.0, 0.0, 500.0, 0.1, "ms", "Start",
        "Where in the file the loop begins: what a bounce has in front goes to its end.", "Level", off=0.0,
    )  # fmt: skip


class RumbleBass(Recipe):
    """A rumble made from the track's own kick: repeats, a room, drive, and only the low end of it."""

    kind: Literal["rumble"] = "rumble"
    under_db: float = control(
        9.0, 0.0, 36.0, 0.5, "dB", "Under kick",
        "How far its loudest moment lies below the kick’s, low band, as measured.", "Rumble", main=True,
    )  # fmt: skip
    decay_ms: float = control(
        1400.0, 100.0, 6000.0, 10.0, "ms", "Room", "Until its reverb has fallen by 60 dB.", "Rumble",
        scale="log", main=True,
    )  # fmt: skip
    drive_db: float = control(
        12.0, 0.0, 36.0, 0.5, "dB", "Drive", "After the room: even and dense.", "Rumble", main=True, off=0.0
    )
    lowpass_hz: float = control(
        130.0, 50.0, 600.0, 1.0, "Hz", "Low-pass", "24 dB per octave.", "Rumble", scale="log", main=True
    )
    mid_copy_db: float = control(
        -40.0, -40.0, 0.0, 0.5, "dB", "Mid copy", "A second, quieter copy of what the low-pass takes.",
        "More", off=-40.0,
    )  # fmt: skip
    repeats: Literal["sixteenths", "triplets", "dotted eighths"] = choice(
        "sixteenths", "Repeats", "Where the kick is struck again, quietly.", "More"
    )
    tune: Literal["to the root", "as the kick"] = choice(
        "to the root", "Tune", "Pulled to the key’s root, in the octave nearest to the kick.", "More"
    )


Bass = Annotated[MadeBass | PlayedBass | ImportedBass | RumbleBass, Field(discriminator="kind")]
# What the first line is called; the others have names of their own.
FIRST_LINE = "bass"
MOST_LINES, MOST_STEMS = 4, 6


class Voice(Recipe):
    """A line: what sounds it, and whether it is heard."""

    name: str = Field(min_length=1, max_length=40)
    bass: Bass = MadeBass()
    mute: bool = False

    @property
    def line(self) -> LineRecipe | None:
        """What it plays; None where it has no notes: a file's are not known, a rumble has none."""
        return self.bass.recipe if isinstance(self.bass, MadeBass | PlayedBass) else None


class Stem(Recipe):
    """A stem of the arrangement, taken to be at the track's tempo: heard with everything else, turned
    down by nothing but duckings of its own.
    """

    name: str = Field(min_length=1, max_length=40)
    audio: AudioHash
    mute: bool = False
    level_db: float = control(
        0.0, -40.0, 12.0, 0.1, "dB", "Gain", "Added to the file’s own level.", "Level", main=True
    )
    begin_ms: float = control(
        0.0, 0.0, 500.0, 0.1, "ms", "Start",
        "Where in the file the loop begins: what a bounce has in front goes to its end.", "Level", off=0.0,
    )  # fmt: skip
    mono_below_hz: float = control(
        20.0, 20.0, 500.0, 1.0, "Hz", "Mono below", "Both sides alike below it.", "Level", scale="log",
        off=20.0,
    )  # fmt: skip


Section = Literal["intro", "break", "drop"]


class SectionKick(Recipe):
    """The kick of a part of the track that is not on the bench now, and how the bass ducks for it."""

    section: Section
    kick: Hit
    ducking: bool = True
    duck: DuckRecipe = DuckRecipe()
    duck_for: SolvedFor = ""


class TrackState(Recipe):
    """Everything that decides what is heard.

    Kick and ducking are those of the section on the bench; `kicks` are those of the others that
    have their own.
    """

    brief: Brief = Brief()
    section: Section = choice(
        "drop", "Section", "Which part of the track is on the bench, with its own kick and ducking.",
        "Section",
    )  # fmt: skip
    kick: Hit = Hit()
    kicks: tuple[SectionKick, ...] = Field((), max_length=2, title="Kicks of other sections")
    hits: tuple[Hit, ...] = Field((), max_length=MOST_HITS, title="Hits beside the kick")
    recordings: tuple[Recording, ...] = Field((), max_length=12, title="Recordings")
    bass: Bass = MadeBass()
    bass_mute: bool = False
    lines: tuple[Voice, ...] = Field((), max_length=MOST_LINES - 1, title="Lines beside the bass")
    separate: SeparateRecipe = SeparateRecipe()
    ducking: bool = True
    duck: DuckRecipe = DuckRecipe()

    # What the ducking and the separation were solved for; empty where they were not.
    duck_for: SolvedFor = ""
    separate_for: SolvedFor = ""
    stems: tuple[Stem, ...] = Field((), max_length=MOST_STEMS, title="Stems of the arrangement")
    buses: tuple[Bus, ...] = Field((), max_length=MOST_BUSES, title="Other duckings")

    @model_validator(mode="after")
    def _names_differ(self) -> "TrackState":
        for what, parts in (("hit", self.all_hits), ("line", self.voices), ("stem", self.stems)):
            names = [part.name.lower() for part in parts]
            if len(set(names)) < len(names):
                raise ValueError(f"every {what} of a track needs a name of its own")
        others = {hit.name.lower() for hit in self.all_hits} | {STAND_IN.lower()}
        others |= {voice.name.lower() for voice in self.voices}
        if any(stem.name.lower() in others for stem in self.stems):
            raise ValueError("a stem needs a name that no hit and no line has")
        if len(set(self.sections)) < 1 + len(self.kicks):
            raise ValueError("every section of a track has one kick")
        return self

    @property
    def audio(self) -> set[str]:
        """Hashes of every file that the track is made from."""
        basses = [voice.bass for voice in self.voices]
        played = [bass.hit for bass in basses if isinstance(bass, PlayedBass)]
        found = {recording.audio for recording in self.recordings}
        found |= {stem.audio for stem in self.stems}
        others = [one.kick for one in self.kicks]
        found = found.union(*(hit.audio for hit in (*self.all_hits, *others, *played)))
        return found | {bass.audio for bass in basses if isinstance(bass, ImportedBass)}

    @property
    def sections(self) -> tuple[Section, ...]:
        """The sections that have a kick of their own, the one on the bench first."""
        return (self.section, *(one.section for one in self.kicks))

    def at(self, section: Section) -> "TrackState":
        """The same track with another section on the bench.

        One without a kick of its own begins with a copy of the kick that is there.
        """
        if section == self.section:
            return self
        own = SectionKick(
            section=self.section, kick=self.kick, ducking=self.ducking, duck=self.duck,
            duck_for=self.duck_for,
        )  # fmt: skip
        other = next((one for one in self.kicks if one.section == section), own)
        rest = [one for one in self.kicks if one.section != section]
        return self.model_copy(
            update={
                "section": section, "kick": other.kick, "ducking": other.ducking, "duck": other.duck,
                "duck_for": other.duck_for,
                "kicks": (*rest, own),
            }
        )  # fmt: skip

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
    def voices(self) -> tuple[Voice, ...]:
        """Every line, the bass first."""
        return (Voice(name=FIRST_LINE, bass=self.bass, mute=self.bass_mute), *self.lines)

    @property
    def heard(self) -> tuple[Voice, ...]:
        """The lines that are not muted."""
        return tuple(voice for voice in self.voices if not voice.mute)

    def with_bass(self, index: int, bass: Bass) -> "TrackState":
        """The same state with another sound for one of its lines; 0 is the bass."""
        if index == 0:
            return self.model_copy(update={"bass": bass})
        lines = list(self.lines)
        lines[index - 1] = lines[index - 1].model_copy(update={"bass": bass})
        return self.model_copy(update={"lines": tuple(lines)})

    def with_line(self, index: int = 0, **changes: Any) -> "TrackState":
        """The same state with some of a line's fields changed; what has no notes stays as it is."""
        bass = self.voices[index].bass
        if not isinstance(bass, MadeBass | PlayedBass):
            return self
        recipe = bass.recipe.model_copy(update=changes)
        return self.with_bass(index, bass.model_copy(update={"recipe": recipe}))
