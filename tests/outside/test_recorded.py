"""Pitch of recorded instruments: a General MIDI sound set, played by a general-purpose synthesizer.

Both are Debian packages (fluidsynth, timgm6mb-soundfont), installed by `make test`. Notes are
numbered as in the General MIDI System Level 1 specification: programs 33-36 are basses, 48 is
timpani, 118 a melodic tom; note 69 is 440 Hz. The set's own tuning is a few cents off, the same
for all notes of a sound: that is what the limits leave room for.
"""

import subprocess
from pathlib import Path

import mido
import numpy as np
import pytest
import soundfile
from numpy.typing import NDArray

from juglant.core.lowend.session import Session
from juglant.core.measure.hit import HitNumbers, measure
from juglant.core.measure.partials import partials
from juglant.core.music import cents_between
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.hit import Hit, Imported, Layer, MadeKick
from juglant.core.recipes.kick import KickRecipe

SET = Path("/usr/share/sounds/sf2/TimGM6mb.sf2")
NOTES = (28, 31, 33, 36, 40, 43, 45, 48)
SECONDS, RATE = 2.0, 48000
# General MIDI programs, counted from 0 as they are sent.
BASSES = {"acoustic": 32, "fingered": 33, "picked": 34, "fretless": 35, "synthetic": 38}
TIMPANI, TOM = 47, 117

Sounds = dict[int, NDArray[np.float64]]


def _played(program: int, folder: Path) -> Sounds:
    """Every note, held for three quarters of its two seconds, shape (frames,)."""
    track = mido.MidiTrack([mido.Message("program_change", program=program)])
    ticks = round(SECONDS * 960)
    for note in NOTES:
        track.append(mido.Message("note_on", note=note, velocity=100))
        track.append(mido.Message("note_off", note=note, time=ticks * 3 // 4))
        track.append(mido.Message("control_change", control=7, value=100, time=ticks // 4))
    path = folder / f"{program}.mid"
    mido.MidiFile(ticks_per_beat=480, tracks=[track]).save(path)
    heard = path.with_suffix(".wav")
    subprocess.run(
        ["fluidsynth", "-n", "-i", "-q", "-R", "0", "-C", "0", "-r", str(RATE), "-F", heard, SET, path],
        check=True,
        capture_output=True,
    )
    mono = soundfile.read(heard)[0].mean(axis=1)
    count = round(SECONDS * RATE)
    return {note: mono[n * count : (n + 1) * count] for n, note in enumerate(NOTES)}


@pytest.fixture(scope="module")
def played(tmp_path_factory: pytest.TempPathFactory) -> dict[str, Sounds]:
    folder = tmp_path_factory.mktemp("recorded")
    programs = {**BASSES, "timpani": TIMPANI, "tom": TOM}
    return {name: _played(program, folder) for name, program in programs.items()}


def _numbers(x: NDArray[np.float64]) -> HitNumbers:
    return measure(x, RATE, 440.0, False).hit


def _hz(note: int) -> float:
    return float(440.0 * 2 ** ((note - 69) / 12))


@pytest.mark.parametrize("name", BASSES)
def test_recorded_basses_sound_their_notes(name: str, played: dict[str, Sounds]) -> None:
    """A picked string's third harmonic is louder than its fundamental, and is not its note."""
    off = []
    for note, x in played[name].items():
        found = _numbers(x)
        assert found.fundamental_hz is not None, (note, found.reasons)
        off.append(cents_between(found.fundamental_hz, _hz(note)))
        assert found.pitch_confidence > 0.9
    assert np.abs(off).max() < 6
    assert np.ptp(off) < 3  # all as the set is tuned


def test_a_timpano_s_two_strong_tones_are_listed_and_neither_is_passed_off_as_its_note(
    played: dict[str, Sounds],
) -> None:
    """Preferred modes (1,1) and (2,1) of a kettledrum ring 1 to 1.5 (Rossing, The Physics of
    Kettledrums, Scientific American 247, 1982).
    """
    for note, x in played["timpani"].items():
        found = _numbers(x)
        assert found.fundamental_hz is None
        assert "two tones" in found.reasons["fundamental_hz"]
        ratios = [one.hz / _hz(note) for one in partials(x, RATE, 0.0, 440.0, False)[:2]]
        assert sorted(ratios) == pytest.approx([1.0, 1.5], abs=0.015)


def test_recorded_toms_move_with_the_keys(played: dict[str, Sounds]) -> None:
    """One recording played at other speeds: half a semitone for each key, in this set."""
    hz = [_numbers(x).estimate_hz for x in played["tom"].values()]
    assert all(one is not None for one in hz)
    steps = np.array([cents_between(one, hz[0]) for one in hz if one is not None and hz[0]])
    # The first 300 ms hold another part of a fall that is played faster: neighbours are compared.
    assert np.diff(steps) == pytest.approx(50.0 * np.diff(NOTES), abs=35)


def test_a_recorded_bass_under_a_made_click_keeps_its_note(played: dict[str, Sounds]) -> None:
    """Layered as on the bench: a made kick without tail above a recording."""
    x = played["fingered"][33]
    session = Session(lambda _: (x, RATE))
    click = MadeKick(recipe=KickRecipe(end_hz=110.0, decay_ms=30.0, length_ms=60.0))
    hit = Hit(
        name="Layered", kind="808",
        layers=(
            Layer(name="click", job="click", source=click, gain_db=-6.0, highpass_hz=400.0),
            Layer(name="sub", job="sub", source=Imported(audio="0" * 64, name="bass.wav")),
        ),
    )  # fmt: skip
    found = session.sounds.measured_hit(hit, Brief()).hit.fundamental_hz
    assert found is not None
    assert abs(cents_between(found, _hz(33))) < 6
