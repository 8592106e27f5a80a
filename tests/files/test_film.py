"""The sound of films and AAC files, written by an independent encoder; and files as long as is promised."""

import io
import struct
import sys
import tracemalloc
from typing import Any

import av
import numpy as np
import pytest

from juglant.core import RATE
from juglant.core.errors import UserError
from juglant.files.audio import decode, encode_wav_float
from tests.signals import Array, sine


def film(x: Array, rate: int = 44_100, form: str = "mp4", codec: str = "aac") -> bytes:
    """A sound, shape (frames,) or (frames, 2), as the sound track of a film."""
    out = io.BytesIO()
    wide = np.atleast_2d(x.T).astype("f4")
    layout = "mono" if wide.shape[0] == 1 else "stereo"
    with av.open(out, "w", format=form) as container:
        track: Any = container.add_stream(codec, rate=rate, layout=layout)
        frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(wide), format="fltp", layout=layout)
        frame.sample_rate = rate
        converted = av.AudioResampler(format=track.format, layout=layout, rate=rate, frame_size=1024)
        for piece in (*converted.resample(frame), *converted.resample(None)):
            container.mux(track.encode(piece))
        container.mux(track.encode(None))
    return out.getvalue()


@pytest.mark.parametrize(
    ("form", "codec"), [("mp4", "aac"), ("mov", "pcm_s16le"), ("matroska", "aac"), ("adts", "aac")]
)
@pytest.mark.parametrize("channels", [1, 2])
def test_the_sound_of_a_film_is_read(form: str, codec: str, channels: int) -> None:
    tone = sine(440.0, 1.0, -6.02, 44_100)
    x = tone if channels == 1 else np.stack([tone, 0.25 * tone], axis=1)
    audio = decode(film(x, 44_100, form, codec), "scene.mp4")
    assert audio.rate == 44_100
    assert audio.samples.ndim == channels
    # An encoder begins and ends with a frame or two of its own.
    assert audio.samples.shape[0] == pytest.approx(44_100, abs=3 * 1024)
    heard = audio.samples if channels == 1 else audio.samples[:, 0]
    middle = heard[10_000:30_000]
    spectrum = np.abs(np.fft.rfft(middle * np.hanning(middle.size)))
    assert np.argmax(spectrum) * 44_100 / middle.size == pytest.approx(440.0, abs=2.5)
    assert np.max(np.abs(middle)) == pytest.approx(0.5, abs=0.03)
    if channels == 2:
        assert np.std(audio.samples[10_000:30_000, 1]) == pytest.approx(np.std(middle) / 4, rel=0.05)


@pytest.mark.thorough
def test_a_damaged_film_and_one_without_sound_are_a_sentence(monkeypatch: pytest.MonkeyPatch) -> None:
    whole = film(sine(100.0, 0.5), RATE)
    with pytest.raises(UserError, match="sound cannot be read"):
        decode(whole[:200] + bytes(600), "scene.mp4")
    silent = io.BytesIO()
    with av.open(silent, "w", format="matroska") as container:
        picture: Any = container.add_stream("mpeg4", rate=25)
        picture.width = picture.height = 16
        picture.pix_fmt = "yuv420p"
        for _ in range(3):
            container.mux(picture.encode(av.VideoFrame(16, 16, "yuv420p")))
        container.mux(picture.encode(None))
    with pytest.raises(UserError, match="no sound track"):
        decode(silent.getvalue(), "scene.mkv")
    with pytest.raises(UserError, match="usable are up to 60 s"):
        decode(film(sine(100.0, 62.0, -6.0, 8000), 8000), "long.mp4")
    # Without the decoder it is said how to get it.
    monkeypatch.setitem(sys.modules, "av", None)
    with pytest.raises(UserError, match=r"pip install juglant\[film\]"):
        decode(whole, "scene.mp4")


@pytest.mark.thorough
def test_a_minute_at_192_khz_is_taken_in_little_more_than_its_own_memory() -> None:
    frames, rate = 60 * 192_000, 192_000
    body = np.random.default_rng(3).integers(-(2**31), 2**31, (frames, 2), np.int32, endpoint=False)
    head = struct.pack("<HHIIHH", 1, 2, rate, rate * 8, 8, 32)
    data = b"RIFF" + struct.pack("<I", 36 + body.nbytes) + b"WAVEfmt " + struct.pack("<I", 16) + head
    data += b"data" + struct.pack("<I", body.nbytes) + body.tobytes()
    decoded_bytes = frames * 2 * 8
    del body
    tracemalloc.start()
    audio = decode(data, "long.wav")
    _, most = tracemalloc.get_traced_memory()
    tracemalloc.stop()
    assert audio.samples.shape == (frames, 2)
    assert most < 3 * decoded_bytes
    with pytest.raises(UserError, match="usable are up to 60 s"):
        decode(encode_wav_float(np.tile(audio.samples[:1000], (600, 1)), 8_000)[:], "longer.wav")
