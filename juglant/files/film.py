"""The sound of films and of AAC files, by an optional decoder: the extra `film` installs it."""

import io
from collections.abc import Iterator
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from juglant.core.errors import UserError

Array = NDArray[np.float64]

# What such a file has at one of these places: ISO media (MP4, MOV, M4A), Matroska and WebM, ADTS, AVI, ASF.
_MARKS = (
    (4, b"ftyp"), (4, b"moov"), (4, b"mdat"), (0, b"\x1a\x45\xdf\xa3"), (0, b"\xff\xf1"), (0, b"\xff\xf9"),
    (8, b"AVI "), (0, b"\x30\x26\xb2\x75"),
)  # fmt: skip
# So many bytes tell.
HEAD_BYTES = 12


def is_film(head: bytes) -> bool:
    """Whether a file may be a film, or AAC, by its first bytes."""
    return any(head[at : at + len(mark)] == mark for at, mark in _MARKS)


def film_pieces(source: bytes | Path, name: str, from_s: float = 0.0) -> Iterator[tuple[int, Array]]:
    """The first sound track of a film from a time on: its rate in Hz, and piece after piece of shape
    (frames, channels), full scale 1. `name` is used in sentences only. UserError where the decoder is not
    there, or finds no sound.
    """
    shown = f"“{name}”"
    try:
        import av
    except ImportError as error:
        raise UserError(
            f"{shown} is a film or an AAC file: its sound is read where the extra “film” is installed, "
            "with pip install juglant[film].", "file",
        ) from error  # fmt: skip
    try:
        with av.open(io.BytesIO(source) if isinstance(source, bytes) else source, "r") as film:
            if not film.streams.audio:
                raise UserError(f"{shown} holds no sound track.", "file")
            track = film.streams.audio[0]
            if from_s > 0.0:
                film.seek(int(from_s * av.time_base))
            plain = av.AudioResampler(format="fltp", layout=track.layout, rate=track.rate)
            for frame in film.decode(track):
                # It is found again at a place that the coding allows, before the one that is asked for.
                early = round((from_s - (frame.time or 0.0)) * track.rate) if from_s > 0.0 else 0
                if early >= frame.samples:
                    continue
                for piece in plain.resample(frame):
                    yield track.rate, np.asarray(piece.to_ndarray(), np.float64).T[max(0, early) :]
    except (av.FFmpegError, ValueError) as error:
        raise UserError(f"{shown} is a film or an AAC file whose sound cannot be read.", "file") from error


def film_sound(source: bytes | Path, name: str, seconds: float, from_s: float = 0.0) -> tuple[Array, int]:
    """So much of a film's sound, at most, from a time on: shape (frames, channels), and its rate in Hz.
    UserError as `film_pieces`.
    """
    pieces, rate, read = [], 0, 0
    for rate, piece in film_pieces(source, name, from_s):
        pieces.append(piece)
        read += piece.shape[0]
        if read >= seconds * rate:
            break
    if not read:
        raise UserError(f"“{name}” holds no audio: it has no frames.", "file")
    return np.concatenate(pieces)[: round(seconds * rate)], rate
