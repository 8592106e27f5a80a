"""The sound of films and of AAC files, by an optional decoder: the extra `film` installs it."""

import io

import numpy as np
from numpy.typing import NDArray

from juglant.core.errors import UserError

Array = NDArray[np.float64]

# What such a file has at one of these places: ISO media (MP4, MOV, M4A), Matroska and WebM, ADTS, AVI, ASF.
_MARKS = (
    (4, b"ftyp"), (4, b"moov"), (4, b"mdat"), (0, b"\x1a\x45\xdf\xa3"), (0, b"\xff\xf1"), (0, b"\xff\xf9"),
    (8, b"AVI "), (0, b"\x30\x26\xb2\x75"),
)  # fmt: skip


def is_film(data: bytes) -> bool:
    """Whether a file may be a film, or AAC, by its first bytes."""
    return any(data[at : at + len(mark)] == mark for at, mark in _MARKS)


def film_sound(data: bytes, name: str, most_s: float) -> tuple[Array, int]:
    """The first sound track of a film: shape (frames, channels), full scale 1, and its rate in Hz. No more
    than a little over `most_s` seconds are read. `name` is used in sentences only. UserError where the
    decoder is not there, or finds no sound.
    """
    shown = f"“{name}”"
    try:
        import av
    except ImportError as error:
        raise UserError(
            f"{shown} is a film or an AAC file: its sound is read where the extra “film” is installed, "
            "with pip install juglant[film].", "file",
        ) from error  # fmt: skip
    pieces: list[Array] = []
    try:
        with av.open(io.BytesIO(data), "r") as film:
            if not film.streams.audio:
                raise UserError(f"{shown} holds no sound track.", "file")
            track = film.streams.audio[0]
            rate, read = track.rate, 0
            plain = av.AudioResampler(format="fltp", layout=track.layout, rate=rate)
            for frame in film.decode(track):
                for piece in plain.resample(frame):
                    pieces.append(np.asarray(piece.to_ndarray(), np.float64))
                    read += pieces[-1].shape[1]
                if read > (most_s + 1) * rate:
                    break
    except (av.FFmpegError, ValueError) as error:
        raise UserError(f"{shown} is a film or an AAC file whose sound cannot be read.", "file") from error
    if not pieces:
        raise UserError(f"{shown} holds no audio: it has no frames.", "file")
    return np.concatenate(pieces, axis=1).T, rate
