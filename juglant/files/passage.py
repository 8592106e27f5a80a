"""A passage of a record that is too long to be looked at as a whole: where its low end is fullest."""

from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
import soundfile

from juglant.core.errors import UserError
from juglant.files.audio import MOST_SECONDS, Audio, decode
from juglant.files.longer import stretch
from juglant.files.sizes import MOST_RECORD_BYTES, MOST_SOUND_BYTES

LONGEST_S = 900.0
# So long is the passage, and in such steps it is looked for.
PASSAGE_S, _STEP_S = 30.0, 1.0
_LOW_HZ = (30.0, 150.0)


@dataclass(frozen=True)
class Passage:
    """A stretch of a file, from where in it, of how much."""

    audio: Audio
    from_s: float
    whole_s: float


def passage(path: Path, called: str | None = None, from_s: float | None = None) -> Passage:
    """The whole of a file of up to a minute, and of a longer one, up to 15 minutes, the half minute whose
    weakest seconds have the most low end. UserError, in which it has the name that it
    is `called`, where it is of no use, OSError where it is not there. `from_s` says where it begins.
    """
    name = called or path.name
    if path.stat().st_size > MOST_RECORD_BYTES:
        raise UserError(f"“{name}” is larger than {MOST_RECORD_BYTES // 2**20} MB.", "file")
    try:
        info = soundfile.info(path)
    except soundfile.LibsndfileError:
        # What is wrong with it is known where whole files are read.
        return _whole(path, name)
    if from_s is not None and from_s >= info.duration - _STEP_S:
        raise UserError(f"“{name}” ends after {info.duration:.0f} s, before the passage begins.", "from_s")
    if from_s is None and info.duration <= MOST_SECONDS and path.stat().st_size <= MOST_SOUND_BYTES:
        return _whole(path, name)
    if info.duration > LONGEST_S:
        minutes = info.duration / 60
        raise UserError(f"“{name}” lasts {minutes:.0f} min; records of up to 15 min can be used.", "file")
    if info.channels > 2:
        raise UserError(f"“{name}” has {info.channels} channels; usable are one or two.", "file")
    if from_s is not None:
        return _stretch(path, name, info, from_s, PASSAGE_S)
    step = round(_STEP_S * info.samplerate)
    low = []
    with soundfile.SoundFile(path) as file:
        for block in file.blocks(step, dtype="float32", always_2d=True):
            power = np.abs(np.fft.rfft(block.mean(axis=1), step)) ** 2
            first, last = (round(hz * step / info.samplerate) for hz in _LOW_HZ)
            low.append(float(power[first:last].sum()))
    count = min(len(low), round(PASSAGE_S / _STEP_S))
    windows = np.lib.stride_tricks.sliding_window_view(np.array(low), count)
    best = int(np.argmax(np.percentile(windows, 25, axis=1)))
    return _stretch(path, name, info, best * _STEP_S, count * _STEP_S)


def _stretch(path: Path, name: str, info: Any, from_s: float, seconds: float) -> Passage:
    return Passage(stretch(path, name, from_s, seconds), from_s, info.duration)


def _whole(path: Path, name: str) -> Passage:
    audio = decode(path.read_bytes(), name)
    return Passage(audio, 0.0, audio.samples.shape[0] / audio.rate)
