"""Notes, keys, tempo and note values.

Pitch follows twelve-tone equal temperament; A4 = 440 Hz by default (ISO 16:1975), MIDI
note 69 = A4, middle C = C4.
"""

import math
import re
from collections.abc import Sequence
from itertools import pairwise
from statistics import linear_regression, median
from typing import Literal, NamedTuple, get_args

from juglant.core.errors import UserError

Mode = Literal[
    "major", "minor", "dorian", "phrygian", "lydian", "mixolydian", "locrian",
    "harmonic minor", "melodic minor",
]  # fmt: skip

SCALES: dict[str, tuple[int, ...]] = {
    "major": (0, 2, 4, 5, 7, 9, 11),
    "minor": (0, 2, 3, 5, 7, 8, 10),
    "dorian": (0, 2, 3, 5, 7, 9, 10),
    "phrygian": (0, 1, 3, 5, 7, 8, 10),
    "lydian": (0, 2, 4, 6, 7, 9, 11),
    "mixolydian": (0, 2, 4, 5, 7, 9, 10),
    "locrian": (0, 1, 3, 5, 6, 8, 10),
    "harmonic minor": (0, 2, 3, 5, 7, 8, 11),
    "melodic minor": (0, 2, 3, 5, 7, 9, 11),
}
# Where a hit has its note.
LOWEST_HEARD_HZ, HIGHEST_HEARD_HZ = 15.0, 4000.0
# Semitones from the tonic up to that of the major key with the same signature.
_RELATIVE_MAJOR = {
    "major": 0, "minor": 3, "dorian": 10, "phrygian": 8, "lydian": 7, "mixolydian": 5,
    "locrian": 1, "harmonic minor": 3, "melodic minor": 3,
}  # fmt: skip

SHARP_NAMES = ("C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B")
FLAT_NAMES = ("C", "Db", "D", "Eb", "E", "F", "Gb", "G", "Ab", "A", "Bb", "B")
Tonic = Literal[
    "C", "C#", "Db", "D", "D#", "Eb", "E", "F", "F#", "Gb", "G", "G#", "Ab", "A", "A#", "Bb", "B"
]
TONICS: tuple[str, ...] = get_args(Tonic)
_FLAT_MAJORS = {5, 10, 3, 8, 1}

_PITCH = re.compile(
    r"^(?:(?P<note>[A-Ga-g][#♯b♭]?-?\d{1,2})\s*(?:(?P<cents>[+-]\s*\d+(?:\.\d+)?)\s*(?:c|ct|cents|¢)?)?"
    r"|(?P<hz>\d+(?:\.\d+)?)\s*(?:hz)?)$",
    re.IGNORECASE,
)
_NOTE = re.compile(r"^\s*([A-Ga-g])([#♯b♭]?)(-?\d{1,2})?\s*$")

# The lowest note that a usual club system still plays at level (common practice).
CLUB_LOWEST_HZ = 35.0
LOW_NOTES_HZ = (25.0, 130.0)


def midi_to_hz(midi: float, a4_hz: float = 440.0) -> float:
    """Frequency of a MIDI note number, fractions allowed."""
    return float(a4_hz * 2.0 ** ((midi - 69.0) / 12.0))


def hz_to_midi(hz: float, a4_hz: float = 440.0) -> float:
    """MIDI note number of a frequency above 0 Hz, with its fraction."""
    return 69.0 + 12.0 * math.log2(hz / a4_hz)


def cents_between(hz: float, reference_hz: float) -> float:
    """How far `hz` lies above `reference_hz`, in cents."""
    return 1200.0 * math.log2(hz / reference_hz)


def pitch_class(name: str) -> int:
    """0 for C to 11 for B; accepts sharps and flats. UserError if it is no note."""
    match = _NOTE.match(name)
    if not match or match[3]:
        raise UserError(f"“{name}” is not a note name such as C, F# or Bb.", kind="note")
    return _class_of(match)


def _class_of(match: re.Match[str]) -> int:
    step = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}[match[1].upper()]
    shift = {"": 0, "#": 1, "♯": 1, "b": -1, "♭": -1}[match[2]]
    return (step + shift) % 12


def note_to_midi(name: str) -> int:
    """MIDI number of a note with its octave, such as A#1. UserError if it is none."""
    match = _NOTE.match(name)
    if not match or match[3] is None:
        raise UserError(f"“{name}” is not a note with its octave, such as A#1.", kind="note")
    step = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}[match[1].upper()]
    shift = {"": 0, "#": 1, "♯": 1, "b": -1, "♭": -1}[match[2]]
    midi = 12 * (int(match[3]) + 1) + step + shift
    if not 0 <= midi <= 127:
        raise UserError(f"“{name}” lies outside the range of MIDI notes.", kind="note")
    return midi


def parse_note(text: str) -> tuple[int | None, int | None]:
    """A note as one looks for it: the MIDI number of G1, or the pitch class of G, in any octave. UserError
    if it is neither.

    Examples
    --------
    >>> parse_note("G1"), parse_note("F#")
    ((31, None), (None, 6))
    """
    text = text.strip()
    try:
        return (note_to_midi(text), None) if text[-1:].isdigit() else (None, pitch_class(text))
    except UserError as error:
        raise UserError(
            f"“{text}” is no note. Type G1 or A#0 with an octave, or G for any.", "note"
        ) from error


def parse_pitch(text: str, a4_hz: float = 440.0) -> float:
    """A pitch in Hz as one types it: A#1, A#1 +12 (cents) or 58.3 Hz. UserError if it is none."""
    match = _PITCH.match(text.strip().replace("−", "-").replace(",", "."))
    if not match:
        raise UserError(
            f"“{text}” is no pitch: type a note with its octave such as A#1, one with cents such as "
            "A#1 +12, or a frequency such as 58.3 Hz.",
            "note",
        )
    if match["hz"] is not None:
        hz = float(match["hz"])
    else:
        cents = float(match["cents"].replace(" ", "")) if match["cents"] else 0.0
        hz = midi_to_hz(note_to_midi(match["note"]), a4_hz) * 2 ** (cents / 1200)
    if not LOWEST_HEARD_HZ <= hz <= HIGHEST_HEARD_HZ:
        limits = f"{LOWEST_HEARD_HZ:g} to {HIGHEST_HEARD_HZ:g} Hz"
        raise UserError(f"“{text}” lies outside {limits}, where a hit has its note.", "note")
    return hz


def note_name(midi: int, flats: bool = False) -> str:
    """Name with octave: A#1, or Bb1 where flats are asked for."""
    return f"{(FLAT_NAMES if flats else SHARP_NAMES)[midi % 12]}{midi // 12 - 1}"


class NearestNote(NamedTuple):
    """The nearest note of equal temperament, and the deviation from it."""

    midi: int
    note: str
    cents: float


def nearest_note(hz: float, a4_hz: float = 440.0, flats: bool = False) -> NearestNote:
    """Nearest note and the deviation in cents, from -50 up to +50."""
    midi = hz_to_midi(hz, a4_hz)
    whole = math.floor(midi + 0.5)
    return NearestNote(whole, note_name(whole, flats), 100.0 * (midi - whole))


def to_relative_major(mode: str) -> int:
    """Semitones from a mode's tonic up to that of the major key with the same signature."""
    return _RELATIVE_MAJOR[mode]


class Key(NamedTuple):
    """A tonic (as spelled by the user) and a mode."""

    tonic: str
    mode: str

    @property
    def flats(self) -> bool:
        """Whether this key is written with flats."""
        if len(self.tonic) > 1:
            return self.tonic[1] == "b"
        return (pitch_class(self.tonic) + _RELATIVE_MAJOR[self.mode]) % 12 in _FLAT_MAJORS

    @property
    def classes(self) -> tuple[int, ...]:
        """Pitch classes of the key, from the tonic up."""
        tonic = pitch_class(self.tonic)
        return tuple((tonic + step) % 12 for step in SCALES[self.mode])

    def __str__(self) -> str:
        return f"{self.tonic} {self.mode}"


def parse_key(text: str) -> Key:
    """Read "Bb minor", "F# dorian", "C". UserError if it is no key."""
    parts = text.strip().split(None, 1)
    mode = parts[1].lower() if len(parts) > 1 else "major"
    tonic = parts[0][:1].upper() + parts[0][1:].replace("♯", "#").replace("♭", "b") if parts else ""
    if tonic not in TONICS or mode not in SCALES:
        raise UserError(f"“{text}” is not a key such as “Bb minor” or “F# dorian”.", kind="key")
    return Key(tonic, mode)


def notes_of_key(key: Key, low_hz: float, high_hz: float, a4_hz: float = 440.0) -> list[int]:
    """MIDI numbers of the key's notes within a range of frequency, upwards."""
    low = math.ceil(hz_to_midi(low_hz, a4_hz) - 1e-9)
    high = math.floor(hz_to_midi(high_hz, a4_hz) + 1e-9)
    return [midi for midi in range(low, high + 1) if midi % 12 in key.classes]


NOTE_VALUES: dict[str, float] = {
    f"1/{part}{mark}": 4.0 / part * factor
    for part in (2, 4, 8, 16, 32, 64)
    for mark, factor in ((".", 1.5), ("", 1.0), ("t", 2.0 / 3.0))
}
"""Length in beats of each note value; a point is dotted, t is triplet."""


def beat_ms(bpm: float) -> float:
    """Length of a quarter note."""
    return 60_000.0 / bpm


def tapped_bpm(times_ms: Sequence[float]) -> float:
    """The tempo of taps on the beat, in BPM to a tenth: the line of least squares through them, a beat that
    was left out counted as there. UserError where there are fewer than four, or they keep no beat.
    """
    if len(times_ms) < 4:
        raise UserError("Tap four times at least.", "times_ms")
    gaps = [b - a for a, b in pairwise(times_ms)]
    gap = median(gaps)
    if gap <= 0.0:
        raise UserError("Taps come one after another.", "times_ms")
    beats = [round((at - times_ms[0]) / gap) for at in times_ms]
    if len(set(beats)) < len(beats):
        raise UserError("These taps keep no beat: tap on.", "times_ms")
    beat = linear_regression(beats, list(times_ms)).slope
    return round(60_000.0 / beat, 1)


def note_value_ms(value: str, bpm: float) -> float:
    """Length of a note value such as 1/8, 1/8. or 1/8t."""
    return NOTE_VALUES[value] * beat_ms(bpm)


def swung(at_beats: float, swing_percent: float) -> float:
    """Where a place in beats falls under swing: only second sixteenths move, later.

    At 50 % nothing does. Triplets and what lies between the sixteenths stay where they are.
    """
    sixteenth = round(at_beats * 4)
    if sixteenth % 2 == 0 or abs(at_beats * 4 - sixteenth) > 1e-6:
        return at_beats
    return (sixteenth - 1) / 4 + swing_percent / 200


class NearestValue(NamedTuple):
    """The nearest note value, and by how much the time is longer than it."""

    value: str
    difference_ms: float


def nearest_note_value(ms: float, bpm: float) -> NearestValue:
    """The note value closest to a time above 0 ms, by ratio."""
    value = min(NOTE_VALUES, key=lambda v: abs(math.log(ms / note_value_ms(v, bpm))))
    return NearestValue(value, ms - note_value_ms(value, bpm))
