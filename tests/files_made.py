"""Files that a user might drop, good and bad, made by an independent writer."""

import io
import struct
from collections.abc import Callable

import numpy as np
import soundfile

from juglant.core.lowend.linenotes import notes_of_lines
from juglant.core.lowend.session import Session
from juglant.core.recipes.track import TrackState
from juglant.files.midi import write_midi
from tests.signals import noise, ring, silence


def written(x: np.ndarray, rate: int = 44_100, kind: str = "WAV", subtype: str | None = "PCM_16") -> bytes:
    out = io.BytesIO()
    soundfile.write(out, x, rate, format=kind, subtype=subtype)
    return out.getvalue()


def plain_wav(data: bytes, rate: int = 44_100, channels: int = 1, bits: int = 16, form: int = 1) -> bytes:
    """A WAV header over any bytes, for what no writer would write."""
    block = channels * bits // 8
    head = struct.pack("<HHIIHH", form, channels, rate, min(rate * block, 2**32 - 1), block, bits)
    body = b"WAVEfmt " + struct.pack("<I", len(head)) + head + b"data" + struct.pack("<I", len(data)) + data
    return b"RIFF" + struct.pack("<I", len(body)) + body


KICK = np.asarray(ring(57.0, 450, 0.5, 44_100) * 0.8)


def _bad() -> dict[str, tuple[bytes, str]]:
    good = written(KICK)
    floats = KICK.astype("<f4")
    holes = floats.copy()
    holes[100] = np.nan
    endless = floats.copy()
    endless[100] = np.inf
    loud = plain_wav((floats * 1e9).tobytes(), bits=32, form=3)
    return {
        "not audio": (b"Dear diary, today I made a kick." * 40, "is no sound file that can be read"),
        "empty": (b"", "is empty"),
        "truncated": (good[: len(good) // 2], "cut short|damaged"),
        "header only": (good[:40], "cut short|damaged"),
        "zero frames": (written(np.zeros(0)), "no frames"),
        "NaN": (plain_wav(holes.tobytes(), bits=32, form=3), "not numbers"),
        "infinite": (plain_wav(endless.tobytes(), bits=32, form=3), "not numbers"),
        "eight channels": (written(np.stack([KICK] * 8, axis=1)), "8 channels"),
        "1 Hz": (plain_wav(bytes(200), rate=1), "sample rate of 1 Hz"),
        "10 MHz": (plain_wav(bytes(200), rate=10_000_000), "sample rate of 10000000 Hz"),
        "an hour": (plain_wav(bytes(8000 * 3600), rate=8000, bits=8), "lasts 3600 s"),
        "ZIP": (b"PK\x03\x04" + bytes(500), "is no sound file that can be read"),
        "silent": (written(silence(0.4)), "is silent"),
        "DC only": (written(np.full(20_000, 0.4)), "constant offset"),
        "too large": (bytes(96 * 1024 * 1024 + 1), "larger than 96 MB"),
        "far beyond full scale": (
            loud,
            "beyond full scale",
        ),
    }


BAD = _bad()
NOISE = written(noise(0.5, rate=44_100))


def midi_of(
    name: str, state: TrackState, load: Callable[[str], tuple[np.ndarray, int]] | None = None
) -> bytes:
    """A state as a MIDI file, its lines' notes written or found."""
    session = Session(load) if load else Session()
    return write_midi(name, state, notes_of_lines(session.sounds, state))
