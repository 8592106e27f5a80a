"""Audio in and out, checked by an independent reader."""

import io
import struct

import numpy as np
import pytest
import soundfile

from juglant.core.errors import UserError
from juglant.files.audio import decode, encode_wav24, encode_wav_float
from tests.files_made import BAD, KICK, NOISE, written
from tests.signals import sine


@pytest.mark.parametrize("rate", [8_000, 22_050, 44_100, 48_000, 96_000, 192_000])
@pytest.mark.parametrize("channels", [1, 2])
@pytest.mark.parametrize(
    ("kind", "subtype"),
    [("WAV", "PCM_U8"), ("WAV", "PCM_16"), ("WAV", "PCM_24"), ("WAV", "FLOAT"), ("WAV", "DOUBLE"),
     ("WAVEX", "PCM_24"), ("AIFF", "PCM_16"), ("AIFF", "PCM_24"), ("FLAC", "PCM_16"), ("FLAC", "PCM_24")],
)  # fmt: skip
def test_usual_files_are_read_whatever_they_are_called(
    kind: str, subtype: str, channels: int, rate: int
) -> None:
    x = KICK[:4000] if channels == 1 else np.stack([KICK[:4000], -0.5 * KICK[:4000]], axis=1)
    audio = decode(written(x, rate, kind, subtype), "recording.xyz")
    assert audio.rate == rate
    assert audio.samples.shape == x.shape
    assert np.allclose(audio.samples, x, rtol=0, atol=0.009 if subtype == "PCM_U8" else 4e-5)


@pytest.mark.parametrize(
    ("kind", "subtype", "apart"),
    [
        ("RF64", "PCM_24", 1e-6), ("CAF", "PCM_16", 4e-5), ("W64", "PCM_24", 1e-6), ("AU", "PCM_16", 4e-5),
        ("OGG", "VORBIS", 0.1), ("OGG", "OPUS", 0.1), ("MP3", "MPEG_LAYER_III", 0.1), ("WAV", "GSM610", 0.2),
        ("WAV", "G721_32", 0.1), ("WAV", "IMA_ADPCM", 0.1), ("WAV", "MS_ADPCM", 0.1), ("WAV", "ULAW", 0.05),
        ("AIFF", "GSM610", 0.2), ("AIFF", "ALAW", 0.05),
    ],
)  # fmt: skip
def test_whatever_the_audio_library_opens_is_read(kind: str, subtype: str, apart: float) -> None:
    x = 0.5 * sine(220.0, 1.0, 0.0, 48_000)
    audio = decode(written(x, 48_000, kind, subtype), "old.wav")
    assert audio.kind == ("WAV" if kind == "RF64" else kind)
    assert audio.rate == 48_000
    assert abs(audio.samples.size - x.size) < 4000
    # A codec may come late: the tone is there, as loud as it was.
    assert np.sqrt(np.mean(audio.samples[9600:38400] ** 2)) == pytest.approx(0.5 / np.sqrt(2), abs=apart)


def test_a_codec_that_cannot_be_read_is_named() -> None:
    data = written(KICK[:4000], 48_000, "AIFF", "DWVW_16")
    with pytest.raises(
        UserError, match=r"“old\.aif” is AIFF coded as 16 bit DWVW, which cannot be read here"
    ):
        decode(data, "old.aif")


@pytest.mark.parametrize("name", BAD)
def test_bad_files_get_a_sentence_that_names_them(name: str) -> None:
    data, sentence = BAD[name]
    with pytest.raises(UserError, match=sentence) as raised:
        decode(data, "my kick.wav")
    assert "my kick.wav" in raised.value.message
    assert raised.value.field == "file"


def test_noise_is_audio() -> None:
    assert decode(NOISE, "hiss.wav").samples.size == 22_050


def _chunks(data: bytes) -> dict[bytes, bytes]:
    """An independent walk over the chunks of a RIFF file."""
    assert data[:4] == b"RIFF"
    assert struct.unpack("<I", data[4:8])[0] == len(data) - 8
    at, found = 12, {}
    while at < len(data):
        size = struct.unpack("<I", data[at + 4 : at + 8])[0]
        found[data[at : at + 4]] = data[at + 8 : at + 8 + size]
        at += 8 + size + size % 2
    assert at == len(data)
    return found


@pytest.mark.parametrize("count", [1000, 1001])
@pytest.mark.parametrize("channels", [1, 2])
def test_24_bit_files_hold_the_samples(count: int, channels: int) -> None:
    x = KICK[:count] if channels == 1 else np.stack([KICK[:count], KICK[count : 2 * count]], axis=1)
    back, rate = soundfile.read(io.BytesIO(encode_wav24(x, 48_000, 55.0)))
    assert rate == 48_000
    assert np.allclose(back, x, rtol=0, atol=2**-23)


@pytest.mark.parametrize(
    ("hz", "a4_hz", "root", "cents"),
    [(55.0, 440.0, 33, 0.0), (56.0, 440.0, 33, 31.19), (54.0, 440.0, 32, 68.23), (54.0, 432.0, 33, 0.0)],
)
def test_the_sampler_chunk_carries_root_note_and_fine_tune(
    hz: float, a4_hz: float, root: int, cents: float
) -> None:
    # RIFF/WAVE multimedia registration: dwMIDIUnityNote is the fourth long, dwMIDIPitchFraction
    # the fifth, in 1/2^32 of a semitone upwards.
    smpl = struct.unpack("<9I", _chunks(encode_wav24(KICK, 48_000, hz, a4_hz))[b"smpl"])
    assert smpl[2] == 20_833
    assert smpl[3] == root
    assert smpl[4] / 2**32 * 100 == pytest.approx(cents, abs=0.01)
    assert smpl[7] == 0


def test_no_pitch_no_sampler_chunk_and_no_sample_beyond_full_scale() -> None:
    loud = encode_wav24(KICK * 4, 48_000)
    assert b"smpl" not in _chunks(loud)
    back, _ = soundfile.read(io.BytesIO(loud))
    assert back.max() < 1.0
    assert back.min() == -1.0


def test_float_files_clip_nothing() -> None:
    back, rate = soundfile.read(io.BytesIO(encode_wav_float(KICK * 4, 44_100)))
    assert rate == 44_100
    assert back == pytest.approx(KICK * 4, abs=1e-6)
