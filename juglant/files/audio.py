"""Audio files, read defensively and written plainly."""

import io
import math
import struct
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass, replace

import numpy as np
import soundfile
from numpy.typing import NDArray

from juglant.core import music
from juglant.core.errors import UserError
from juglant.files.film import film_sound, is_film
from juglant.files.sizes import MOST_SOUND_BYTES

Array = NDArray[np.float64]

MOST_SECONDS = 60.0
RATES_HZ = (8_000, 384_000)
_LOUDEST = 1000.0  # +60 dBFS: beyond that a float file holds something else than audio
_SILENT = 1e-5


@dataclass(frozen=True)
class Audio:
    """Decoded audio: samples of shape (frames,) or (frames, 2), full scale 1."""

    samples: Array
    rate: int
    kind: str


# What people mostly bring; the audio library opens some more.
_READABLE = "WAV, FLAC, AIFF, CAF, OGG or MP3"
FILM = "film"
# Containers whose headers say how long they are, by their first bytes.
_MARKS = {b"RIFF": "WAV", b"RF64": "WAV", b"FORM": "AIFF", b"fLaC": "FLAC"}
# What the library calls them otherwise.
_CALLED = {"WAVEX": "WAV", "RF64": "WAV"}


def _cut_short(data: bytes, kind: str) -> bool:
    """Whether a chunk of a WAV or AIFF file says that it is longer than the file."""
    if kind not in ("WAV", "AIFF") or data[:4] == b"RF64":
        return False
    order = "<" if kind == "WAV" else ">"
    at = 12
    while at + 8 <= len(data):
        name, size = data[at : at + 4], int(struct.unpack(f"{order}I", data[at + 4 : at + 8])[0])
        if name in (b"data", b"SSND"):
            return at + 8 + size > len(data)
        at += 8 + size + size % 2
    return True


class _Bytes(io.BytesIO):
    """A file in memory. A damaged header may point before its start: there it stays where it is."""

    def seek(self, offset: int, whence: int = 0) -> int:
        """Go to a place."""
        with suppress(ValueError):
            super().seek(offset, whence)
        return self.tell()


@contextmanager
def _openable(data: bytes) -> Iterator[io.BytesIO | str]:
    """What the library opens: MPEG streams it opens by their name alone."""
    if data[:3] != b"ID3" and not (data[0] == 0xFF and data[1:2] >= b"\xe0"):
        yield _Bytes(data)
        return
    with tempfile.NamedTemporaryFile(suffix=".mp3") as file:
        file.write(data)
        file.flush()
        yield file.name


def usable(shown: str, rate: int, channels: int, frames: int, most_s: float = MOST_SECONDS) -> None:
    """UserError where a sound has a rate, channels or a length that cannot be used."""
    if not RATES_HZ[0] <= rate <= RATES_HZ[1]:
        raise UserError(
            f"{shown} has a sample rate of {rate} Hz; usable are {RATES_HZ[0]} to {RATES_HZ[1]} Hz.", "file"
        )
    if channels > 2:
        raise UserError(f"{shown} has {channels} channels; usable are one or two.", "file")
    if frames <= 0:
        raise UserError(f"{shown} holds no audio: it has no frames.", "file")
    if frames / rate > most_s:
        raise UserError(
            f"{shown} lasts {frames / rate:.0f} s; usable are up to {most_s:.0f} s.", "file", "too-long"
        )


def _read(data: bytes, shown: str) -> tuple[Array, int, str]:
    """What the audio library opens: samples, rate in Hz, and what it is."""
    damaged = f"{shown} is damaged or cut short: it holds less than its header says."
    codec: str | None = None
    try:
        with _openable(data) as opened, soundfile.SoundFile(opened) as file:
            rate, channels, frames = file.samplerate, file.channels, file.frames
            kind, codec = _CALLED.get(file.format, file.format), file.subtype_info
            usable(shown, rate, channels, frames)
            if _cut_short(data, kind):
                raise UserError(damaged, "file")
            # Some codecs cannot be wound back: they are told how much to read.
            samples = file.read(frames, dtype="float64")
    except soundfile.LibsndfileError as error:
        if codec is not None:
            raise UserError(
                f"{shown} is {kind} coded as {codec}, which cannot be read here.", "file"
            ) from error
        known = _MARKS.get(data[:4])
        if known is None:
            raise UserError(
                f"{shown} is no sound file that can be read, whatever its name says: bring {_READABLE}.",
                "file",
            ) from error
        raise UserError(f"{shown} cannot be read as {known}: it is damaged.", "file") from error
    if samples.shape[0] < frames and kind in _MARKS.values():
        raise UserError(damaged, "file")
    return samples, rate, kind


def decode(data: bytes, name: str) -> Audio:
    """Read a sound file of up to 60 s and 96 MB, mono or stereo: whatever the audio library opens, and the
    sound of films and AAC files where their decoder is installed.

    `name` is used in sentences only; what the file is, its own bytes decide. Raises
    UserError with a plain sentence for everything that cannot be used.
    """
    shown = f"“{name}”"
    if not data:
        raise UserError(f"{shown} is empty.", "file")
    if len(data) > MOST_SOUND_BYTES:
        raise UserError(f"{shown} is larger than {MOST_SOUND_BYTES // 2**20} MB.", "file", "too-large")
    if is_film(data):
        # A little more than may be: then it is known to be too long.
        samples, rate = film_sound(data, name, MOST_SECONDS + 1.0)
        if samples.shape[0] > MOST_SECONDS * rate:
            raise UserError(
                f"{shown} lasts longer; usable are up to {MOST_SECONDS:.0f} s.", "file", "too-long"
            )
        usable(shown, rate, samples.shape[1], samples.shape[0])
        kind = FILM
    else:
        samples, rate, kind = _read(data, shown)
    if not samples.size:
        raise UserError(f"{shown} holds no audio: it has no frames.", "file")
    if not np.isfinite(samples).all():
        raise UserError(f"{shown} holds samples that are not numbers (NaN or infinite).", "file")
    # A long file is large: nothing of its size is made beside it.
    peak = max(float(samples.max()), -float(samples.min()))
    if peak > _LOUDEST:
        raise UserError(f"{shown} holds samples far beyond full scale: this is not audio.", "file")
    if peak < _SILENT:
        raise UserError(f"{shown} is silent.", "file")
    # Most show within a few samples that they are more than an offset.
    if all(float(np.max(np.ptp(some, axis=0))) < _SILENT for some in (samples[::1000], samples)):
        raise UserError(f"{shown} holds only a constant offset (DC), no sound.", "file")
    if samples.ndim == 2 and samples.shape[1] == 1:
        samples = samples[:, 0]
    return Audio(samples, rate, kind)


def to_keep(data: bytes, name: str) -> tuple[bytes, Audio]:
    """A file's bytes as they are kept, and what they hold: of a film its sound alone, which needs no
    decoder any more. UserError as `decode`.
    """
    found = decode(data, name)
    if found.kind != FILM:
        return data, found
    return encode_wav_float(found.samples, found.rate), replace(found, kind="WAV")


def _chunk(name: bytes, body: bytes) -> bytes:
    return name + struct.pack("<I", len(body)) + body + b"\0" * (len(body) % 2)


def _smpl(rate: int, fundamental_hz: float, a4_hz: float, loop: tuple[int, int] | None) -> bytes:
    """Sampler chunk: root note, fine tune, which counts upwards from the note only, and a loop that is
    played forwards for as long as a key is held, its first and last frame.
    """
    midi = music.hz_to_midi(fundamental_hz, a4_hz)
    root = min(max(math.floor(midi + 1e-9), 0), 127)
    fraction = min(max(midi - root, 0.0), 1.0 - 2**-32)
    values = (0, 0, round(1e9 / rate), root, int(fraction * 2**32), 0, 0, 0 if loop is None else 1, 0)
    looped = b"" if loop is None else struct.pack("<6I", 0, 0, *loop, 0, 0)
    return _chunk(b"smpl", struct.pack("<9I", *values) + looped)


def _wav(fmt: bytes, extra: bytes, data: bytes) -> bytes:
    body = b"WAVE" + _chunk(b"fmt ", fmt) + extra + _chunk(b"data", data)
    return b"RIFF" + struct.pack("<I", len(body)) + body


def encode_wav24(
    x: Array,
    rate: int,
    fundamental_hz: float | None = None,
    a4_hz: float = 440.0,
    loop: tuple[int, int] | None = None,
) -> bytes:
    """24-bit PCM WAV of `x`, shape (frames,) or (frames, 2), held to full scale.

    With `fundamental_hz` a `smpl` chunk carries the root note, fine tune and the loop, where there is
    one. Samples are rounded, not dithered: the error is 144 dB down and every file is the same each time.
    """
    channels = x.ndim
    whole = np.clip(np.round(x * (2**23)), -(2**23), 2**23 - 1).astype("<i4")
    packed = np.ascontiguousarray(whole).view(np.uint8).reshape(-1, 4)[:, :3].tobytes()
    fmt = struct.pack("<HHIIHH", 1, channels, rate, rate * 3 * channels, 3 * channels, 24)
    extra = _smpl(rate, fundamental_hz, a4_hz, loop) if fundamental_hz else b""
    return _wav(fmt, extra, packed)


def encode_wav_float(x: Array, rate: int) -> bytes:
    """32-bit float WAV of `x`, shape (frames,) or (frames, channels), for listening: nothing is clipped."""
    channels = x.ndim
    fmt = struct.pack("<HHIIHH", 3, channels, rate, rate * 4 * channels, 4 * channels, 32)
    return _wav(fmt, b"", x.astype("<f4").tobytes())
