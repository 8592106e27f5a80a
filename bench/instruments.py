"""Recorded instruments: a General MIDI sound set, played by a general-purpose synthesizer.

Both are Debian packages (fluidsynth, timgm6mb-soundfont), installed by `make test`. Programs and
drum keys are numbered as in the General MIDI System Level 1 specification, programs from 0 as sent.
"""

import subprocess
import tempfile
from pathlib import Path

import mido
import numpy as np
import soundfile
from numpy.typing import NDArray

Array = NDArray[np.float64]

SET = Path("/usr/share/sounds/sf2/TimGM6mb.sf2")
RATE = 48_000
BASSES = {
    "acoustic": 32, "fingered": 33, "picked": 34, "fretless": 35, "slap 1": 36, "slap 2": 37,
    "synthetic 1": 38, "synthetic 2": 39,
}  # fmt: skip
TIMPANI, MELODIC_TOM = 47, 117
# Drum keys of channel 10, by what they are.
DRUMS = {
    "kick": (35, 36), "snare": (38, 40), "clap": (39,), "hat": (42, 44, 46),
    "tom": (41, 43, 45, 47, 48, 50),
}  # fmt: skip
# Programs of the drum channel that choose another kit.
KITS = (0, 8, 16, 24, 25, 32, 40, 48)

# When in seconds, for how long, which key, how hard.
Event = tuple[float, float, int, int]


def played(
    events: list[Event], seconds: float, program: int, *, drums: bool = False, font: Path = SET
) -> Array:
    """What an instrument plays, shape (frames, 2), without its own reverb and chorus."""
    channel = 9 if drums else 0
    ticks = 960  # a second, at 480 to the beat and 120 BPM
    messages = [(0.0, 0, mido.Message("program_change", channel=channel, program=program))]
    for at, length, key, velocity in events:
        on = mido.Message("note_on", channel=channel, note=key, velocity=velocity)
        messages.append((at, 1, on))
        messages.append((at + length, 0, mido.Message("note_off", channel=channel, note=key)))
    messages.append((seconds, 2, mido.Message("control_change", channel=channel, control=7, value=100)))
    track, now = mido.MidiTrack(), 0
    for at, _, message in sorted(messages, key=lambda one: one[:2]):
        tick = round(at * ticks)
        track.append(message.copy(time=tick - now))
        now = tick
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "one.mid"
        mido.MidiFile(ticks_per_beat=480, tracks=[track]).save(path)
        heard = path.with_suffix(".wav")
        subprocess.run(
            ["fluidsynth", "-n", "-i", "-q", "-R", "0", "-C", "0", "-g", "0.5", "-r", str(RATE),
             "-F", heard, font, path],
            check=True, capture_output=True,
        )  # fmt: skip
        found = soundfile.read(heard)[0]
    out = np.zeros((round(seconds * RATE), 2))
    count = min(found.shape[0], out.shape[0])
    out[:count] = found[:count]
    return out


def one_shots(keys: list[int], kit: int, seconds: float = 1.5, velocity: int = 110) -> dict[int, Array]:
    """Each drum key of a kit by itself, shape (frames, 2)."""
    gap = seconds + 0.5
    events = [(n * gap + 0.1, 0.4, key, velocity) for n, key in enumerate(keys)]
    x = played(events, gap * len(keys) + 1, kit, drums=True)
    count, lead = round(seconds * RATE), round(0.1 * RATE)
    found = {}
    for n, key in enumerate(keys):
        start = round(n * gap * RATE) + lead
        found[key] = x[start : start + count]
    return found
