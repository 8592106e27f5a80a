"""A part that is made from a file, with another file in its place; and what is different between both."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from juglant.core.errors import UserError
from juglant.core.measure import levels
from juglant.core.measure.hit import measure
from juglant.core.measure.stereo import listening_channel
from juglant.core.recipes.hit import Hit, Imported
from juglant.core.recipes.parts import AnyPart, ImportedBass, Stem, Voice
from juglant.core.recipes.track import TrackState

Array = NDArray[np.float64]

# What is longer is a loop: it has a loudness, and no note of its own.
_LONGEST_HIT_S = 3.0
_SAME_DB, _SAME_S, _SAME_CENTS = 0.1, 0.005, 5.0


def file_of(part: AnyPart) -> str | None:
    """The one file that a part is made from, by its hash; None where it is made otherwise.

    Parameters
    ----------
    part
        The part.

    Returns
    -------
    str or None
        Its hash.

    Examples
    --------
    >>> from juglant.core.recipes.track import TrackState
    >>> file_of(TrackState().kick) is None
    True
    """
    if isinstance(part, Stem):
        return part.audio
    if isinstance(part, Voice) and isinstance(part.bass, ImportedBass):
        return part.bass.audio
    if isinstance(part, Hit) and isinstance(part.only_source, Imported):
        return part.only_source.audio
    return None


def with_file(state: TrackState, id: str, audio: str, name: str) -> TrackState:
    """A state in which a part is made from another file; all else of it stays. UserError where the part is
    made from no file.

    Parameters
    ----------
    state, id
        The track; of the part.
    audio
        Hash of the file.
    name
        Of the file.

    Returns
    -------
    TrackState
        The state with it.

    Examples
    --------
    >>> from juglant.core.recipes.hit import Hit, Imported
    >>> state = TrackState.of(kick=Hit.of(Imported(audio="0" * 64, name="a.wav")))
    >>> file_of(with_file(state, "kick", "1" * 64, "b.wav").kick)[:4]
    '1111'
    """
    part = state.part(id)
    new = {"audio": audio, "name": name[:200]}
    if isinstance(part, Stem):
        return state.with_part(part.model_copy(update={"audio": audio}))
    if isinstance(part, Voice) and isinstance(part.bass, ImportedBass):
        return state.with_bass(id, part.bass.model_copy(update=new))
    if isinstance(part, Hit) and isinstance(part.only_source, Imported):
        return state.with_part(part.with_source(0, part.only_source.model_copy(update=new)))
    raise UserError("This part is not made from one file: there is nothing to be replaced.", "part")


@dataclass(frozen=True)
class FileNumbers:
    """A file by its numbers: a hit has a note, a loop none."""

    seconds: float
    lufs: float
    true_peak_dbtp: float
    note_hz: float | None
    note: str | None


def file_numbers(x: Array, rate: int) -> FileNumbers:
    """Measure a file, shape (frames,) or (frames, 2).

    Parameters
    ----------
    x, rate
        Samples, shape (frames,) or (frames, 2); frames a second.

    Returns
    -------
    FileNumbers
        Length, loudness, peak and note.

    Examples
    --------
    >>> x = np.sin(2 * np.pi * 55 * np.arange(48000) / 48000)
    >>> file_numbers(x, 48000).seconds
    1.0
    """
    seconds = x.shape[0] / rate
    mono = listening_channel(x)
    hit = measure(mono, rate, recorded=True).hit if seconds <= _LONGEST_HIT_S else None
    return FileNumbers(
        seconds, levels.integrated_lufs(x, rate), levels.true_peak_dbtp(x),
        None if hit is None else hit.estimate_hz, None if hit is None else hit.estimate_note,
    )  # fmt: skip


def what_changed(old: FileNumbers, new: FileNumbers) -> str:
    """The numbers of two files that differ, in words.

    Parameters
    ----------
    old
        As it was.
    new
        As it is.

    Returns
    -------
    str
        In words.

    Examples
    --------
    >>> a = FileNumbers(1.0, -14.0, -1.0, 55.0, "A1")
    >>> what_changed(a, FileNumbers(1.2, -12.5, -1.0, 58.27, "A#1"))
    'length 1.00 → 1.20 s, loudness −14.0 → −12.5 LUFS, note A1 → A#1'
    """
    found = []
    if abs(old.seconds - new.seconds) > _SAME_S:
        found.append(f"length {old.seconds:.2f} → {new.seconds:.2f} s")
    for name, was, is_, unit in (
        ("loudness", old.lufs, new.lufs, "LUFS"),
        ("true peak", old.true_peak_dbtp, new.true_peak_dbtp, "dBTP"),
    ):
        if abs(was - is_) > _SAME_DB:
            found.append(f"{name} {was:.1f} → {is_:.1f} {unit}".replace("-", "−"))
    if old.note_hz and new.note_hz and abs(1200 * np.log2(new.note_hz / old.note_hz)) > _SAME_CENTS:
        cents = 1200 * float(np.log2(new.note_hz / old.note_hz))
        moved = f"{cents:+.0f} cents".replace("-", "−")
        found.append(f"note {old.note} → {new.note}" if old.note != new.note else f"note {moved}")
    return ", ".join(found) or "nothing that its numbers show"
