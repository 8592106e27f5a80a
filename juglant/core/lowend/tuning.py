"""The smallest move that puts a hit in key."""

from dataclasses import asdict, dataclass
from typing import Any

from juglant.core import music

# Moves of at most this many semitones are offered; beyond, a sound becomes another one.
FURTHEST_SEMITONES = 7.0


@dataclass(frozen=True)
class Move:
    """One candidate: where to, how far, and what it costs in length."""

    midi: int
    note: str
    hz: float
    shift_semitones: float
    shift_cents: float
    new_length_ms: float
    is_tonic: bool
    club_plays_it: bool

    def as_dict(self) -> dict[str, Any]:
        """Plain values."""
        return asdict(self)


def move_to(
    midi: int, fundamental_hz: float, length_ms: float, key: music.Key, a4_hz: float, *, resampled: bool
) -> Move:
    """The move from a measured fundamental to a MIDI note.

    `resampled` says that the length changes by the inverse ratio, as a sample's does.
    """
    target = music.midi_to_hz(midi, a4_hz)
    cents = music.cents_between(target, fundamental_hz)
    return Move(
        midi, music.note_name(midi, key.flats), target, cents / 100, cents,
        length_ms * fundamental_hz / target if resampled else length_ms,
        midi % 12 == music.pitch_class(key.tonic), target >= music.CLUB_LOWEST_HZ,
    )  # fmt: skip


def moves(
    fundamental_hz: float, length_ms: float, key: music.Key, a4_hz: float, *, resampled: bool
) -> list[Move]:
    """Every note of the key within reach, the nearest first."""
    reach = 2 ** (FURTHEST_SEMITONES / 12)
    midis = music.notes_of_key(key, fundamental_hz / reach, fundamental_hz * reach, a4_hz)
    found = [move_to(midi, fundamental_hz, length_ms, key, a4_hz, resampled=resampled) for midi in midis]
    return sorted(found, key=lambda move: abs(move.shift_cents))
