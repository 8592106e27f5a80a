"""Notes and keys.

Pitch follows twelve-tone equal temperament; A4 = 440 Hz by default (ISO 16:1975), MIDI
note 69 = A4, middle C = C4.
"""

import math
import re
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
    """Frequency of a MIDI note number, fractions allowed.

    Parameters
    ----------
    midi
        Note number: 60 is middle C, 69 the A above it.
    a4_hz
        Frequency of that A, 440 Hz in ISO 16:1975.

    Returns
    -------
    float
        Frequency in Hz, in equal temperament.

    Examples
    --------
    >>> round(midi_to_hz(31), 2)
    49.0
    """
    return float(a4_hz * 2.0 ** ((midi - 69.0) / 12.0))


def hz_to_midi(hz: float, a4_hz: float = 440.0) -> float:
    """MIDI note number of a frequency above 0 Hz, with its fraction.

    Parameters
    ----------
    hz
        Frequency, above 0 Hz.
    a4_hz
        Frequency of note 69.

    Returns
    -------
    float
        Note number; a hundredth is a cent.

    Examples
    --------
    >>> round(hz_to_midi(110.0), 2)
    45.0
    """
    return 69.0 + 12.0 * math.log2(hz / a4_hz)


def cents_between(hz: float, reference_hz: float) -> float:
    """How far `hz` lies above `reference_hz`, in cents.

    Parameters
    ----------
    hz, reference_hz
        Frequencies, above 0 Hz.

    Returns
    -------
    float
        Cents: 100 to a semitone, below 0 where `hz` is the lower one.

    Examples
    --------
    >>> round(cents_between(55.0, 110.0))
    -1200
    """
    return 1200.0 * math.log2(hz / reference_hz)


def pitch_class(name: str) -> int:
    """0 for C to 11 for B; accepts sharps and flats. UserError if it is no note.

    Parameters
    ----------
    name
        A note without an octave, such as C, F# or Bb.

    Returns
    -------
    int
        Semitones above C, 0 to 11.

    Examples
    --------
    >>> pitch_class("Bb"), pitch_class("A#")
    (10, 10)
    """
    match = _NOTE.match(name)
    if not match or match[3]:
        raise UserError(f"“{name}” is not a note name such as C, F# or Bb.", kind="note")
    return _class_of(match)


def _class_of(match: re.Match[str]) -> int:
    step = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}[match[1].upper()]
    shift = {"": 0, "#": 1, "♯": 1, "b": -1, "♭": -1}[match[2]]
    return (step + shift) % 12


def note_to_midi(name: str) -> int:
    """MIDI number of a note with its octave, such as A#1. UserError if it is none.

    Parameters
    ----------
    name
        A note with its octave; middle C is C4.

    Returns
    -------
    int
        Note number, 0 to 127.

    Examples
    --------
    >>> note_to_midi("G1"), note_to_midi("C4")
    (31, 60)
    """
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

    Parameters
    ----------
    text
        Such as A#1.

    Returns
    -------
    tuple of int or None


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
    """A pitch in Hz as one types it: A#1, A#1 +12 (cents) or 58.3 Hz. UserError if it is none.

    Parameters
    ----------
    text
        What was typed.
    a4_hz
        Frequency of note 69, for notes.

    Returns
    -------
    float
        Frequency in Hz.

    Examples
    --------
    >>> parse_pitch("A1"), round(parse_pitch("A1 +12"), 2), parse_pitch("58.3 Hz")
    (55.0, 55.38, 58.3)
    """
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
    """Name with octave: A#1, or Bb1 where flats are asked for.

    Parameters
    ----------
    midi
        Note number.
    flats
        Whether black keys are spelled with flats.

    Returns
    -------
    str
        Such as G1.

    Examples
    --------
    >>> note_name(34), note_name(34, flats=True)
    ('A#1', 'Bb1')
    """
    return f"{(FLAT_NAMES if flats else SHARP_NAMES)[midi % 12]}{midi // 12 - 1}"


class NearestNote(NamedTuple):
    """The nearest note of equal temperament, and the deviation from it."""

    midi: int
    note: str
    cents: float


def nearest_note(hz: float, a4_hz: float = 440.0, flats: bool = False) -> NearestNote:
    """Nearest note and the deviation in cents, from -50 up to +50.

    Parameters
    ----------
    hz
        Frequency, above 0 Hz.
    a4_hz
        Frequency of note 69.
    flats
        Whether the name is spelled with flats.

    Returns
    -------
    NearestNote
        Its number, its name, and by how many cents `hz` lies above it.

    Examples
    --------
    >>> found = nearest_note(50.0)
    >>> found.note, round(found.cents, 1)
    ('G1', 35.0)
    """
    midi = hz_to_midi(hz, a4_hz)
    whole = math.floor(midi + 0.5)
    return NearestNote(whole, note_name(whole, flats), 100.0 * (midi - whole))


def to_relative_major(mode: str) -> int:
    """Semitones from a mode's tonic up to that of the major key with the same signature.

    Parameters
    ----------
    mode
        A mode by its name, such as minor.

    Returns
    -------
    int
        Semitones, 0 to 11.

    Examples
    --------
    >>> to_relative_major("minor")
    3
    """
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
    """Read "Bb minor", "F# dorian", "C". UserError if it is no key.

    Parameters
    ----------
    text
        A tonic, and a mode where it is not major.

    Returns
    -------
    Key
        The tonic as it was spelled, and the mode.

    Examples
    --------
    >>> str(parse_key("bb minor"))
    'Bb minor'
    """
    parts = text.strip().split(None, 1)
    mode = parts[1].lower() if len(parts) > 1 else "major"
    tonic = parts[0][:1].upper() + parts[0][1:].replace("♯", "#").replace("♭", "b") if parts else ""
    if tonic not in TONICS or mode not in SCALES:
        raise UserError(f"“{text}” is not a key such as “Bb minor” or “F# dorian”.", kind="key")
    return Key(tonic, mode)


def notes_of_key(key: Key, low_hz: float, high_hz: float, a4_hz: float = 440.0) -> list[int]:
    """MIDI numbers of the key's notes within a range of frequency, upwards.

    Parameters
    ----------
    key
        The key.
    low_hz, high_hz
        The range, its ends included.
    a4_hz
        Frequency of note 69.

    Returns
    -------
    list of int
        Note numbers.

    Examples
    --------
    >>> [note_name(midi) for midi in notes_of_key(Key("A", "minor"), 40.0, 56.0)]
    ['E1', 'F1', 'G1', 'A1']
    """
    low = math.ceil(hz_to_midi(low_hz, a4_hz) - 1e-9)
    high = math.floor(hz_to_midi(high_hz, a4_hz) + 1e-9)
    return [midi for midi in range(low, high + 1) if midi % 12 in key.classes]
