"""The whole working state of a track."""

from functools import cached_property
from typing import Any, Self, TypeVar

from pydantic import Field, model_validator

from juglant.core.errors import UserError
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.duck import DuckRecipe, SolvedFor
from juglant.core.recipes.ducking import MOST_DUCKINGS, Ducking
from juglant.core.recipes.earlier import as_parts
from juglant.core.recipes.fields import Recipe
from juglant.core.recipes.hit import Hit
from juglant.core.recipes.moves import checked_moves
from juglant.core.recipes.notes import FOUR_ON_THE_FLOOR
from juglant.core.recipes.parts import (
    MOST_PARTS,
    SUM,
    AnyPart,
    Bass,
    Chord,
    ImportedBass,
    MadeBass,
    Outputs,
    Part,
    PlayedBass,
    Stem,
    Sum,
    Voice,
    has_strokes,
    movables,
    shaping,
)
from juglant.core.recipes.place import MONO
from juglant.core.recipes.recording import Recording
from juglant.core.recipes.separate import SeparateRecipe

P = TypeVar("P", Hit, Voice, Stem)
# All parts of a loop together have so many seconds at most.
MOST_SECONDS = 900
# Outputs may be taken of outputs, so far.
DEEPEST = 3


class TrackState(Recipe):
    """Everything that decides what is heard of a section.

    `parts` are all that sounds: the first hit is the kick, the first line the bass.
    """

    brief: Brief = Brief()
    parts: tuple[Part, ...] = Field(
        (Hit(id="kick", steps=FOUR_ON_THE_FLOOR, place=MONO), Voice(id="bass", name="bass")),
        max_length=MOST_PARTS, title="Parts",
    )  # fmt: skip
    sum: Sum = Sum()
    recordings: tuple[Recording, ...] = Field((), max_length=12, title="Recordings")
    separate: SeparateRecipe = SeparateRecipe()
    # What the separation was solved for; empty where it was not.
    separate_for: SolvedFor = ""
    # The first is the one by which kick and bass are judged.
    duckings: tuple[Ducking, ...] = Field(
        (Ducking(id="kick-and-bass", triggers=("kick",), targets=("bass",), duck=DuckRecipe()),),
        min_length=1, max_length=MOST_DUCKINGS, title="Duckings",
    )  # fmt: skip

    @model_validator(mode="before")
    @classmethod
    def _from_earlier(cls, given: Any) -> Any:
        """Tracks of earlier versions had a place of its own for every kind of part."""
        return as_parts(given) if isinstance(given, dict) and "parts" not in given else given

    @model_validator(mode="after")
    def _parts_fit_together(self) -> "TrackState":
        self.check()
        return self

    def check(self) -> None:
        """ValueError where the parts do not fit together, with what is wrong."""
        if not self.all_hits or not self.voices:
            raise ValueError("a track has a kick and a bass at least")
        if not self.kick.steps:
            raise ValueError("the kick is struck at least once")
        if self.kick.mute:
            raise ValueError("the kick is what the low end is judged by, and cannot be muted")
        names = [part.name.lower() for part in self.parts]
        if len(set(names)) < len(names):
            raise ValueError("every part of a track needs a name of its own")
        ids = [part.id for part in self.parts]
        if {"", SUM} & set(ids) or len(set(ids)) < len(ids):
            raise ValueError("every part of a track needs an id of its own")
        self._check_duckings(set(ids))
        self._check_outputs()
        for one in self.everything:
            checked_moves(one.name, one.moves, movables(one), shaping(one).keys())
        seconds = 4 * self.brief.bars * 60 / self.brief.bpm
        if seconds * len(self.parts) > MOST_SECONDS:
            raise ValueError(
                f"{len(self.parts)} parts of {seconds:.0f} s each are more than this works on at once: "
                f"{MOST_SECONDS} s together"
            )

    def _check_outputs(self) -> None:
        made = {part.id: part for part in self.parts if isinstance(part, Outputs)}
        known = {part.id for part in self.parts}
        low = {self.kick.id, *(voice.id for voice in self.voices)}
        grouped: set[str] = set()
        for part in made.values():
            of = [one.of for one in part.sources]
            if SUM in of:
                raise ValueError(f"{part.name} goes into the sum: it cannot be made from it")
            if not set(of) <= known or len(set(of)) < len(of):
                raise ValueError(f"{part.name} takes every part of the track once at most")
            instead = {one.of for one in part.sources if one.taken == "instead"}
            if instead & low:
                raise ValueError("kick and lines are judged by themselves: a group cannot be heard instead")
            if instead & grouped:
                raise ValueError("a part is in one group at most")
            grouped |= instead
            self._no_ring(part, made, ())

    def _no_ring(self, part: Outputs, made: dict[str, Outputs], above: tuple[str, ...]) -> None:
        above = (*above, part.id)
        if len(above) > DEEPEST:
            raise ValueError(f"outputs of outputs go {DEEPEST} deep at most")
        for one in part.sources:
            if one.of in above:
                names = " and ".join(self.named(id) for id in above[above.index(one.of) :])
                raise ValueError(f"{names} would be made from themselves")
            if one.of in made:
                self._no_ring(made[one.of], made, above)

    @property
    def grouped(self) -> set[str]:
        """The parts that are heard through a group only."""
        made = (part for part in self.parts if isinstance(part, Outputs) and not part.mute)
        return {one.of for part in made for one in part.sources if one.taken == "instead"}

    def _check_duckings(self, ids: set[str]) -> None:
        if len({one.id for one in self.duckings}) < len(self.duckings):
            raise ValueError("every ducking needs an id of its own")
        if self.kick.id not in self.duckings[0].triggers:
            raise ValueError("the first ducking is the one that the kick starts")
        timeless = {part.id for part in self.parts if not has_strokes(part)}
        for one in self.duckings:
            reached = {target.part for target in one.targets}
            if SUM in {*one.triggers, *reached}:
                raise ValueError(
                    "the sum has no strokes, and is not ducked: duck the parts that go into it"
                )
            if not {*one.triggers, *reached} <= ids:
                raise ValueError("a ducking refers to a part that is not in the track")
            if timeless & set(one.triggers):
                raise ValueError(
                    "a chord that is held and a rumble have no strokes that could start a ducking"
                )
            if reached & set(one.triggers):
                raise ValueError("a part cannot duck itself")

    @classmethod
    def of(
        cls, kick: Hit | None = None, bass: Bass | None = None, *, hits: tuple[Hit, ...] = (),
        lines: tuple[Voice, ...] = (), stems: tuple[Stem, ...] = (), chords: tuple[Chord, ...] = (),
        duckings: tuple[Ducking, ...] = (), bass_mute: bool = False, **fields: Any,
    ) -> Self:  # fmt: skip
        """A track of some parts, which get ids by their names, by which duckings may refer to them; the
        kick is struck on every beat unless it has strokes, and ducks every line (`duck`, `ducking`).
        """
        first = Voice(name="bass", bass=bass or MadeBass(), mute=bass_mute)
        sounds = {
            "kick": kick or Hit(), "hits": hits, "lines": (first, *lines), "stems": stems, "chords": chords,
            "duckings": duckings,
        }  # fmt: skip
        return cls.model_validate(as_parts({**sounds, **fields}))

    @property
    def audio(self) -> set[str]:
        """Hashes of every file that the track is made from."""
        basses = [voice.bass for voice in self.voices]
        played = [bass.hit for bass in basses if isinstance(bass, PlayedBass)]
        found = {recording.audio for recording in self.recordings}
        found |= {stem.audio for stem in self.stems}
        found = found.union(*(hit.audio for hit in (*self.all_hits, *played)))
        return found | {bass.audio for bass in basses if isinstance(bass, ImportedBass)}

    @property
    def duck(self) -> DuckRecipe:
        """The curve by which the kick turns down the lines."""
        return self.duckings[0].duck

    @property
    def ducking(self) -> bool:
        """Whether the kick turns down the lines at all."""
        return self.duckings[0].on

    def with_duck(self, **changes: Any) -> "TrackState":
        """The same state with the ducking by the kick changed."""
        return self.with_ducking(self.duckings[0].model_copy(update=changes))

    def with_ducking(self, ducking: Ducking) -> "TrackState":
        """The same state with another ducking in the place of the one of its id."""
        duckings = tuple(ducking if old.id == ducking.id else old for old in self.duckings)
        return self.model_copy(update={"duckings": duckings})

    @cached_property
    def all_hits(self) -> tuple[Hit, ...]:
        """The kick first, then the others."""
        return tuple(part for part in self.parts if isinstance(part, Hit))

    @property
    def kick(self) -> Hit:
        """The kick: the first of the hits."""
        return self.all_hits[0]

    @property
    def hits(self) -> tuple[Hit, ...]:
        """The hits beside the kick."""
        return self.all_hits[1:]

    @cached_property
    def everything(self) -> tuple[AnyPart, ...]:
        """Every part, and the sum of them."""
        return (*self.parts, self.sum)

    def part(self, id: str) -> AnyPart | None:
        """A part by its id; None where there is none."""
        return next((part for part in self.everything if part.id == id), None)

    def hit(self, id: str) -> Hit:
        """One of the hits. UserError where there is none of that id."""
        return self._one(id, self.all_hits)

    def voice(self, id: str) -> Voice:
        """One of the lines. UserError where there is none of that id."""
        return self._one(id, self.voices)

    def stem(self, id: str) -> Stem:
        """One of the stems. UserError where there is none of that id."""
        return self._one(id, self.stems)

    @staticmethod
    def _one(id: str, parts: tuple[P, ...]) -> P:
        found = next((part for part in parts if part.id == id), None)
        if found is None:
            raise UserError("There is no such part in this track.", "id")
        return found

    @cached_property
    def voices(self) -> tuple[Voice, ...]:
        """Every line, the bass first."""
        return tuple(part for part in self.parts if isinstance(part, Voice))

    @property
    def bass(self) -> Bass:
        """What sounds the first line."""
        return self.voices[0].bass

    @cached_property
    def stems(self) -> tuple[Stem, ...]:
        """Every stem of the arrangement."""
        return tuple(part for part in self.parts if isinstance(part, Stem))

    @property
    def heard(self) -> tuple[Voice, ...]:
        """The lines that are not muted."""
        return tuple(voice for voice in self.voices if not voice.mute)

    def named(self, id: str) -> str:
        """What a part is called; what stands for none of them, a note value say, as it is."""
        part = self.part(id)
        return id if part is None else part.name

    def ducking_of(self, id: str) -> Ducking | None:
        """A ducking by its id; None where there is none."""
        return next((one for one in self.duckings if one.id == id), None)

    def with_part(self, part: AnyPart) -> "TrackState":
        """The same state with another part in the place of the one of its id."""
        if isinstance(part, Sum):
            return self.model_copy(update={"sum": part})
        parts = tuple(part if old.id == part.id else old for old in self.parts)
        return self.model_copy(update={"parts": parts})

    def with_kick(self, kick: Hit) -> "TrackState":
        """The same state with another kick in the place of its own, struck where that was unless it has
        strokes of its own.
        """
        places = {} if kick.steps else {"steps": self.kick.steps, "bars": self.kick.bars}
        return self.with_part(kick.model_copy(update={"id": self.kick.id, **places}))

    def with_bass(self, line: str, bass: Bass) -> "TrackState":
        """The same state with another sound for one of its lines."""
        return self.with_part(self.voice(line).model_copy(update={"bass": bass}))

    def with_line(self, line: str, **changes: Any) -> "TrackState":
        """The same state with some of a line's fields changed; what has no notes stays as it is."""
        bass = self.voice(line).bass
        if not isinstance(bass, MadeBass | PlayedBass):
            return self
        recipe = bass.recipe.model_copy(update=changes)
        return self.with_bass(line, bass.model_copy(update={"recipe": recipe}))
