"""The decisions made before any sound is chosen."""

from typing import Annotated, Literal, Protocol, Self

from pydantic import Field

from juglant.core.music import Key, Mode, Tonic, pitch_class
from juglant.core.recipes.fields import Recipe, choice, control
from juglant.core.recipes.notes import MOST_BARS

Owner = Literal["kick", "bass"]
LOWEST_BPM, HIGHEST_BPM = 40.0, 220.0
ChordRoots = Annotated[tuple[Tonic | Literal["tonic"], ...], Field(min_length=1, max_length=MOST_BARS)]


class Swinging(Protocol):
    """What has a pattern."""

    @property
    def swing(self) -> str: ...  # noqa: D102
    @property
    def swing_percent(self) -> float: ...  # noqa: D102


# What of it decides when the loop plays.
TIMED = ("bpm", "chord_roots", "swing_percent")


class Brief(Recipe):
    """Tempo, key, harmony, and the schools the track follows."""

    bpm: float = control(
        128.0, LOWEST_BPM, HIGHEST_BPM, 0.01, "BPM", "Tempo",
        "Quarter notes per minute. Every note value follows it: lengths, echoes, the way back of the "
        "ducking.",
        "Time", main=True,
    )  # fmt: skip
    swing_percent: float = control(
        50.0, 50.0, 75.0, 0.5, "%", "Swing",
        "Where the second sixteenth of an eighth falls: 50 is straight, 66.7 a triplet. Listen for hats "
        "that lean back without dragging.",
        "Time",
    )  # fmt: skip
    tonic: Tonic = choice(
        "A", "Tonic",
        "The note the key is named after. Kicks, 808s and toms are tuned to it and its chords.",
        "Key",
    )  # fmt: skip
    mode: Mode = choice(
        "minor", "Mode",
        "Which seven notes belong to the key. Tuning and findings take a note outside it as off key.",
        "Key",
    )  # fmt: skip
    a4_hz: float = control(
        440.0, 415.0, 466.0, 0.1, "Hz", "A4",
        "Tuning reference. Leave it at 440 Hz unless the track was recorded to something else.",
        "Key",
    )  # fmt: skip
    chord_roots: ChordRoots = Field(
        ("tonic", "tonic"), title="Chord root per bar",
        description="What the bass plays in each bar of the loop.",
    )  # fmt: skip
    sub_owner: Owner = choice(
        "kick", "Sub owner",
        "Who has the lowest octave. Never both: together they turn to mush. The kick: a full kick, bass "
        "rolled off around 60–65 Hz. The bass: a short kick with little below 60–80 Hz.",
        "Schools",
    )  # fmt: skip
    cure: Literal["ducking first", "carving first"] = choice(
        "ducking first", "Order of cure",
        "Ducking first: set the ducking before judging anything. Carving first: tuning and filters first, "
        "ducking as the last resort. Sets the order of the findings.",
        "Schools",
    )  # fmt: skip
    low_cut: Literal["gentle", "firm"] = choice(
        "gentle", "Low cut",
        "What the bass gives up. Gentle: only what lies below 28–30 Hz. Firm: high-pass at 50 Hz, with "
        "resonance at the corner for weight.",
        "Schools",
    )  # fmt: skip

    @property
    def key(self) -> Key:
        """The key as the music core knows it."""
        return Key(self.tonic, self.mode)

    @property
    def bars(self) -> int:
        """Length of the loop in bars."""
        return len(self.chord_roots)

    @property
    def roots(self) -> tuple[str, ...]:
        """Note name of every bar's chord root."""
        return tuple(self.root_of(bar) for bar in range(self.bars))

    def only(self, *names: str) -> Self:
        """As of any recipe; chord roots are the notes that they come to."""
        if "chord_roots" not in names:
            return super().only(*names)
        return super(Brief, self.model_copy(update={"chord_roots": self.roots})).only(*names)

    def moved_by(self, bar: int) -> int:
        """Semitones from the tonic to a bar's root, the short way: −5 to 6."""
        apart = pitch_class(self.root_of(bar)) - pitch_class(self.tonic)
        return (apart + 5) % 12 - 5

    def root_of(self, bar: int) -> str:
        """Note name of a bar's chord root; `bar` counts from 0."""
        root = self.chord_roots[bar % self.bars]
        return self.tonic if root == "tonic" else root

    def swing_of(self, part: Swinging) -> float:
        """The swing, in percent, by which a part plays: its own or the track's."""
        return part.swing_percent if part.swing == "its own" else self.swing_percent
