"""Files that are longer than what is kept of one: seen as a whole, heard and cut by the stretch. No more of
them is held in memory than that stretch.
"""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import NamedTuple

import numpy as np
import soundfile
from numpy.typing import NDArray

from juglant.core.errors import UserError
from juglant.files.audio import MOST_SECONDS, Audio, usable
from juglant.files.film import HEAD_BYTES, film_pieces, film_sound, is_film
from juglant.files.sizes import MOST_RECORD_BYTES

Array = NDArray[np.float64]

# What is looked at in one step, in s.
_STEP_S = 0.02
LONGEST_S = 3600.0
# No shorter stretch is of use.
LEAST_S = 0.05


class _Straight(soundfile.SoundFile):  # type: ignore[misc]
    """A file that is read on and on: the library seeks after every read of one that can be wound back, and
    MPEG streams are damaged wherever they are entered.
    """

    def seekable(self) -> bool:
        """Not asked to be."""
        return False


class Outline(NamedTuple):
    """A whole file: how long it is in s, and the lowest and highest samples of so many equal columns."""

    seconds: float
    lows: list[float]
    highs: list[float]


@contextmanager
def _readable(name: str) -> Iterator[None]:
    try:
        yield
    except soundfile.LibsndfileError as error:
        raise UserError(f"“{name}” cannot be read: it is damaged, or no sound file.", "file") from error


def _is_film(path: Path, name: str) -> bool:
    size = path.stat().st_size
    if size > MOST_RECORD_BYTES:
        raise UserError(f"“{name}” is larger than {MOST_RECORD_BYTES // 2**20} MB.", "file", "too-large")
    with path.open("rb") as file:
        return is_film(file.read(HEAD_BYTES))


def _steps(path: Path, name: str) -> Iterator[tuple[float, float, float]]:
    """Of step after step of a file: its length in s, its lowest and its highest sample."""
    if _is_film(path, name):
        for rate, piece in film_pieces(path, name):
            yield piece.shape[0] / rate, float(piece.min()), float(piece.max())
        return
    with _readable(name), _Straight(path) as file:
        usable(f"“{name}”", file.samplerate, file.channels, file.frames, LONGEST_S)
        step = round(_STEP_S * file.samplerate)
        while (block := file.read(step, dtype="float32", always_2d=True)).shape[0]:
            yield block.shape[0] / file.samplerate, float(block.min()), float(block.max())


def outline(path: Path, name: str, columns: int = 600) -> Outline:
    """A file of up to an hour and 1 GB as it is drawn. UserError where it cannot be read."""
    lengths, lows, highs = [], [], []
    whole_s = 0.0
    for seconds, low, high in _steps(path, name):
        whole_s += seconds
        if whole_s > LONGEST_S:
            raise UserError(f"“{name}” lasts more than an hour: cut it before it is brought in.", "file")
        lengths.append(seconds)
        lows.append(low)
        highs.append(high)
    if not lengths:
        raise UserError(f"“{name}” holds no audio: it has no frames.", "file")
    count = min(columns, len(lengths))
    ends = np.cumsum(lengths)
    starts = np.searchsorted(ends, ends[-1] * np.arange(count) / count, side="right")
    drawn = (
        np.nan_to_num(reduced(np.array(every), starts)).tolist()
        for reduced, every in ((np.minimum.reduceat, lows), (np.maximum.reduceat, highs))
    )
    return Outline(whole_s, *drawn)


def stretch(path: Path, name: str, from_s: float, seconds: float) -> Audio:
    """So much of a file, up to a minute, from a time on. UserError where there is nothing of it there."""
    if seconds > MOST_SECONDS:
        raise UserError(f"Up to {MOST_SECONDS:.0f} s of a file can be used.", "seconds")
    if _is_film(path, name):
        samples, rate = film_sound(path, name, seconds, from_s)
        kind = "WAV"
    else:
        with _readable(name), soundfile.SoundFile(path) as file:
            rate, kind = file.samplerate, file.format
            start = round(from_s * rate)
            if start >= file.frames:
                raise UserError(f"“{name}” ends after {file.frames / rate:.1f} s.", "from_s")
            # Coded streams take some frames until they are as they would be.
            early = min(start, rate)
            file.seek(start - early)
            samples = file.read(early + round(seconds * rate), dtype="float64", always_2d=True)[early:]
    usable(f"“{name}”", rate, samples.shape[1], samples.shape[0], MOST_SECONDS)
    return Audio(samples[:, 0] if samples.shape[1] == 1 else samples, rate, kind)
