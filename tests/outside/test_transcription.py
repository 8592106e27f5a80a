"""Notes of bass lines: General MIDI basses and generated ones, from notes that are known.

Counted as note tracking usually is: pitches within half a semitone, and onsets within 25 ms, half of what is
usual there.
"""

import numpy as np
import pytest

from bench import instruments
from bench.tracks import line
from juglant.core.measure.transcribe import transcribe

RATE = 48_000
LINE = [(0.0, 0.9, 33), (1.0, 0.4, 33), (1.5, 0.4, 36), (2.0, 0.9, 40), (3.0, 0.9, 38), (4.0, 1.8, 33),
        (6.0, 0.45, 45), (6.5, 0.45, 43), (7.0, 0.9, 40)]  # fmt: skip


@pytest.mark.parametrize("kind", ["sub", "saw", "808", "fingered", "fretless", "slap 1", "synthetic 1"])
@pytest.mark.parametrize("bpm", [97.0, 128.0])
def test_the_notes_of_a_line_are_found(kind: str, bpm: float) -> None:
    x = line(LINE, bpm, 2, kind, 0.5)
    found = transcribe(x, RATE, loop=True)
    beat = 60_000 / bpm
    late, off = [], []
    for at, _, midi in LINE:
        near = [note for note in found if abs(note.at_ms - at * beat) < 25]
        assert near, (at, [round(note.at_ms / beat, 2) for note in found])
        late.append(near[0].at_ms - at * beat)
        off.append(100 * (near[0].midi - midi))
    assert len(found) == len(LINE)
    assert np.median(np.abs(late)) < 10.0
    # A set's own tuning is the same for all notes of a sound.
    apart = np.abs(np.array(off) - float(np.median(off)))
    assert np.percentile(apart, 80) < 10.0
    assert abs(np.median(off)) < 12.0


def test_drums_and_silence_are_no_line() -> None:
    assert transcribe(np.zeros(RATE), RATE) == []
    assert len(transcribe(instruments.one_shots([38], 0)[38].mean(axis=1), RATE)) <= 1
