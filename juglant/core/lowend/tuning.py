"""The smallest move that puts a hit in key, and what it costs."""

from collections.abc import Set
from dataclasses import asdict, dataclass
from typing import Any, NamedTuple

from juglant.core import music, tempo
from juglant.core.measure.levels import BANDS_HZ, Spectrum
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.hit import AimAt

# Moves of at most this many semitones are offered; beyond, a sound becomes another one.
FURTHEST_SEMITONES = 7.0
# A small speaker plays next to nothing below this; a sound with less than this share of its
# energy above it is not heard there (both common practice).
SMALL_SPEAKER_LOWEST_HZ, _HEARD_DB = 150.0, -26.0
# Bands further down than this are not missed.
_COUNTED_DB = -40.0
# Seconds, tritone and sevenths above a root grate where they are held; what is 20 dB down within this share
# of a beat is a thud, not a note (both common practice: a kick longer than half a beat is a bass note).
GRATING, _SHORT_BEATS = (1, 2, 6, 10, 11), 0.5
# A root or a fifth of a chord is worth moving so much further for.
_WORTH_CENTS = 200.0
# Two low tones this near to each other are heard as one that wobbles.
SLOWEST_BEAT_HZ, FASTEST_BEAT_HZ = 0.3, 12.0


class Harmony(NamedTuple):
    """What notes are held against: the key, the chord roots' pitch classes, A4 in Hz."""

    key: music.Key
    roots: tuple[int, ...] = ()
    a4_hz: float = 440.0

    def classes_of(self, aim: AimAt) -> Set[int]:
        """Pitch classes that an aim allows; none where the hit is free."""
        tonic = music.pitch_class(self.key.tonic)
        return {
            "any note of the key": frozenset(self.key.classes), "tonic": {tonic},
            "fifth": {(tonic + 7) % 12}, "chord root": frozenset(self.roots or (tonic,)),
            "free": frozenset[int](),
        }[aim]  # fmt: skip


@dataclass(frozen=True)
class Candidate:
    """One candidate: where to, how far, and what it costs in length and in balance.

    `bands_change_db` follows from the measured spectrum, moved as a whole: what it says is exact
    where a sound is resampled, and holds for the tone where a recipe is retuned. `wanted` says
    that the note is what the hit aims at.
    """

    midi: int
    note: str
    hz: float
    shift_semitones: float
    shift_cents: float
    new_length_ms: float
    is_tonic: bool
    club_plays_it: bool
    wanted: bool = True
    bands_change_db: dict[str, float] | None = None
    small_speaker_plays_it: bool | None = None

    def as_dict(self) -> dict[str, Any]:
        """Plain values."""
        return asdict(self)


def _balance(spectrum: Spectrum, ratio: float) -> tuple[dict[str, float], bool]:
    """Change of every band that counts when all frequencies are multiplied, and whether a small
    speaker still plays the sound.
    """
    before, after = spectrum.bands_db(), spectrum.bands_db(1 / ratio)
    change = {name: after[name] - db for name, db in before.items() if max(db, after[name]) > _COUNTED_DB}
    heard = spectrum.share_db(SMALL_SPEAKER_LOWEST_HZ / ratio, BANDS_HZ["air"][1])
    return change, heard > _HEARD_DB


def move_to(
    midi: int,
    fundamental_hz: float,
    length_ms: float,
    harmony: Harmony,
    *,
    resampled: bool,
    aim: AimAt = "any note of the key",
    spectrum: Spectrum | None = None,
) -> Candidate:
    """The move from a measured fundamental to a MIDI note.

    `resampled` says that the length changes by the inverse ratio, as a sample's does.

    Parameters
    ----------
    midi
        The note.
    fundamental_hz
        As it was measured.
    length_ms
        Of the hit.
    harmony
        What it is held against.
    resampled
        Whether its length changes with it.
    aim
        What it aims at.
    spectrum
        Of the hit, where the balance is asked for.

    Returns
    -------
    Candidate
        The move.

    Examples
    --------
    >>> move = move_to(33, 58.27, 300.0, harmony(Brief(tonic="A")), resampled=True)
    >>> move.note, round(move.shift_semitones)
    ('A1', -1)
    """
    target = music.midi_to_hz(midi, harmony.a4_hz)
    cents = music.cents_between(target, fundamental_hz)
    change, small = _balance(spectrum, target / fundamental_hz) if spectrum else (None, None)
    return Candidate(
        midi, music.note_name(midi, harmony.key.flats), target, cents / 100, cents,
        length_ms * fundamental_hz / target if resampled else length_ms,
        midi % 12 == music.pitch_class(harmony.key.tonic), target >= music.CLUB_LOWEST_HZ,
        midi % 12 in harmony.classes_of(aim), change, small,
    )  # fmt: skip


def moves(
    fundamental_hz: float,
    length_ms: float,
    harmony: Harmony,
    *,
    resampled: bool,
    aim: AimAt = "any note of the key",
    spectrum: Spectrum | None = None,
) -> list[Candidate]:
    """Every note within reach that is of the key or is aimed at: what is wanted first, then the
    nearest.

    Parameters
    ----------
    fundamental_hz
        As it was measured.
    length_ms
        Of the hit.
    harmony
        What it is held against.
    resampled
        Whether its length changes with it.
    aim
        What it aims at.
    spectrum
        Of the hit, where the balance is asked for.

    Returns
    -------
    list of Candidate
        What is wanted first.

    Examples
    --------
    >>> moves(55.0, 300.0, harmony(Brief(tonic="A")), resampled=True)[0].note
    'A1'
    """
    reach = 2 ** (FURTHEST_SEMITONES / 12)
    low, high = (
        music.hz_to_midi(hz, harmony.a4_hz) for hz in (fundamental_hz / reach, fundamental_hz * reach)
    )
    allowed = harmony.classes_of(aim) | set(harmony.key.classes)
    found = [
        move_to(midi, fundamental_hz, length_ms, harmony, resampled=resampled, aim=aim, spectrum=spectrum)
        for midi in range(int(-(-(low - 1e-9) // 1)), int(high + 1e-9) + 1)
        if midi % 12 in allowed
    ]
    return sorted(found, key=lambda move: (not move.wanted, abs(move.shift_cents)))


def short_ms(brief: Brief) -> float:
    """A kick that has fallen by 20 dB within this time is heard without a note.

    Parameters
    ----------
    brief
        Key, tempo and chords.

    Returns
    -------
    float
        Ms.

    Examples
    --------
    >>> short_ms(Brief(bpm=120.0)) > 0
    True
    """
    return _SHORT_BEATS * tempo.beat_ms(brief.bpm)


def grates(midi: int, roots: Set[int]) -> bool:
    """Whether a held note grates against any chord root (a pitch class).

    Parameters
    ----------
    midi
        The note.
    roots
        Pitch classes of the chords.

    Returns
    -------
    bool
        Whether it does.

    Examples
    --------
    >>> grates(34, {9}), grates(33, {9})
    (True, False)
    """
    return any((midi - root) % 12 in GRATING for root in roots)


def recommended(found: list[Candidate], roots: Set[int]) -> Candidate | None:
    """Of moves, the smallest that grates against no chord root (a pitch class), to a root or a fifth where
    that is not much further; the nearest wanted one where all grate. None where nothing is wanted.

    Parameters
    ----------
    found
        Moves.
    roots
        Pitch classes of the chords.

    Returns
    -------
    Candidate or None
        One of them.

    Examples
    --------
    >>> recommended(moves(55.0, 300.0, harmony(Brief(tonic="A")), resampled=True), {9}).note
    'A1'
    """

    def worth(move: Candidate) -> tuple[bool, float]:
        above = {(move.midi - root) % 12 for root in roots}
        further = 0.0 if not roots or above & {0, 7} else _WORTH_CENTS
        return grates(move.midi, roots), abs(move.shift_cents) + further

    return min((move for move in found if move.wanted), key=worth, default=None)


def beat_hz(hz: float, root: int, a4_hz: float) -> float | None:
    """How often a tone beats against the nearest octave of a root (a pitch class).

    None where the two are one tone, or too far apart to be heard as one.

    Parameters
    ----------
    hz
        Of the tone.
    root
        A pitch class.
    a4_hz
        Tuning reference.

    Returns
    -------
    float or None
        Times a second.

    Examples
    --------
    >>> round(beat_hz(56.0, 9, 440.0), 1)
    1.0
    """
    midi = music.hz_to_midi(hz, a4_hz)
    nearest = root + 12 * round((midi - root) / 12)
    apart = abs(hz - music.midi_to_hz(nearest, a4_hz))
    return apart if SLOWEST_BEAT_HZ < apart < FASTEST_BEAT_HZ else None


def harmony(brief: Brief) -> Harmony:
    """What a brief's hits are held against.

    Parameters
    ----------
    brief
        Key, tempo and chords.

    Returns
    -------
    Harmony
        Scale and chords.

    Examples
    --------
    >>> type(harmony(Brief(tonic="A"))).__name__
    'Harmony'
    """
    roots = dict.fromkeys(music.pitch_class(root) for root in brief.roots)
    return Harmony(brief.key, tuple(roots), brief.a4_hz)
