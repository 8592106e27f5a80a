"""Kits as samplers read them: chunks of the WAV files, the map as MIDI and as a table."""

import csv
import io
import struct
from itertools import pairwise

import mido
import numpy as np
import pytest
import soundfile

from juglant.core.errors import UserError
from juglant.core.lowend.session import Session
from juglant.core.measure.hit import measure
from juglant.core.measure.levels import momentary_max_lufs
from juglant.core.music import cents_between
from juglant.core.recipes.bass import BassRecipe
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.hit import Hit, Made808, MadeHat, MadeSnare
from juglant.core.recipes.notes import on_beats
from juglant.core.recipes.parts import MadeBass, PlayedBass, Stem, Voice
from juglant.core.recipes.track import TrackState
from juglant.files.kit import kit_files

SESSION = Session()
STATE = TrackState.of(
    brief=Brief(bpm=120.0),
    kick=Hit(steps=on_beats(1)),
    hits=(
        Hit.of(MadeSnare(), name="Snare", kind="snare", choke="A", vary=0.5),
        Hit.of(MadeHat(), name="Hat", kind="hat"),
        Hit.of(MadeHat(), name="Hat 2", kind="hat"),
    ),
    bass=PlayedBass(hit=Hit.of(Made808(), name="808", kind="808")),
    lines=(Voice(name="mid", bass=MadeBass(recipe=BassRecipe(decay_ms=20.0, sustain_db=0.0))),),
)
NAMED = {part.name: part.id for part in STATE.parts}
DRUMS = kit_files(SESSION, "test", STATE, [hit.id for hit in STATE.all_hits])


def _chunks(data: bytes) -> dict[bytes, bytes]:
    """RIFF chunks, read as the specification has them (IBM and Microsoft, 1991)."""
    found, at = {}, 12
    while at + 8 <= len(data):
        size = struct.unpack("<I", data[at + 4 : at + 8])[0]
        found[data[at : at + 4]] = data[at + 8 : at + 8 + size]
        at += 8 + size + size % 2
    return found


def _table(files: dict[str, bytes], folder: str) -> list[dict[str, str]]:
    return list(csv.DictReader(io.StringIO(files[f"{folder}/map.csv"].decode())))


def test_hits_lie_on_the_keys_of_their_kinds_and_no_two_on_one() -> None:
    # General MIDI System Level 1: 36 bass drum, 38 snare, 42 hi-hat; the second hat goes on.
    rows = _table(DRUMS, "drums")
    keys = {row["file"].split("_")[1]: int(row["root_note"]) for row in rows}
    assert keys == {"kick": 36, "snare": 38, "hat": 42, "hat-2": 43}
    assert {row["choke_group"] for row in rows if "_snare_" in row["file"]} == {"A"}
    assert all(row["low_note"] == row["high_note"] == row["root_note"] for row in rows)


def test_velocities_cover_1_to_127_once_and_files_are_in_their_order() -> None:
    rows = _table(DRUMS, "drums")
    assert [row["file"] for row in rows] == sorted(row["file"] for row in rows)
    for key in {row["root_note"] for row in rows}:
        spans = sorted(
            {
                (int(row["low_velocity"]), int(row["high_velocity"]))
                for row in rows
                if row["root_note"] == key
            }
        )
        assert spans[0][0] == 1
        assert spans[-1][1] == 127
        assert all(b[0] == a[1] + 1 for a, b in pairwise(spans))
    # A hit whose strokes vary has four of each velocity.
    assert sum("_snare_" in row["file"] for row in rows) == 12
    assert {row["file"] for row in rows} == {name.split("/")[1] for name in DRUMS if name.endswith(".wav")}


def test_the_loudest_of_a_hit_is_at_minus_1_dbfs_in_24_bits_and_softer_ones_below() -> None:
    for name in ("kick", "snare", "hat"):
        peaks = {}
        for path, data in DRUMS.items():
            if f"_{name}_v" in path:
                x, _ = soundfile.read(io.BytesIO(data))
                assert soundfile.info(io.BytesIO(data)).subtype == "PCM_24"
                peaks[path] = 20 * np.log10(np.abs(x).max())
        assert max(peaks.values()) == pytest.approx(-1.0, abs=0.01)
        soft = max(db for path, db in peaks.items() if "v001" in path)
        assert soft < -3.0


def test_the_map_as_midi_names_every_key() -> None:
    file = mido.MidiFile(file=io.BytesIO(DRUMS["drums/map.mid"]), charset="utf-8")
    keys = [one.note for one in file.tracks[0] if one.type == "note_on" and one.velocity > 0]
    assert keys == [36, 38, 42, 43]
    words = [one.text for one in file.tracks[0] if one.type == "lyrics"]
    assert [word.split("_")[1] for word in words] == ["kick", "snare", "hat", "hat-2"]


@pytest.fixture(scope="module")
def instruments() -> dict[str, bytes]:
    lines = [voice.id for voice in STATE.voices]
    return kit_files(SESSION, "test", STATE, lines, (29, 36))


@pytest.mark.thorough
def test_an_808_is_in_tune_and_even_over_its_range(instruments: dict[str, bytes]) -> None:
    loud = []
    names = sorted(name for name in instruments if name.startswith("bass/") and name.endswith(".wav"))
    assert len(names) == 8
    for midi, name in enumerate(names, 29):
        x, rate = soundfile.read(io.BytesIO(instruments[name]))
        hz = measure(x, rate, recorded=False).hit.fundamental_hz
        assert hz is not None
        # Equal temperament from A4 = 440 Hz (ISO 16:1975).
        assert abs(cents_between(hz, 440 * 2 ** ((midi - 69) / 12))) < 0.5
        loud.append(momentary_max_lufs(x, rate))
        assert struct.unpack("<9I", _chunks(instruments[name])[b"smpl"][:36])[3] == midi
    assert max(loud) - min(loud) < 0.5


def test_a_held_line_is_looped_without_a_seam(instruments: dict[str, bytes]) -> None:
    names = sorted(name for name in instruments if name.startswith("mid/") and name.endswith(".wav"))
    for name in names:
        smpl = _chunks(instruments[name])[b"smpl"]
        assert struct.unpack("<I", smpl[28:32])[0] == 1
        _, kind, first, last, *_ = struct.unpack("<6I", smpl[36:60])
        assert kind == 0
        x, _ = soundfile.read(io.BytesIO(instruments[name]))
        period = x[first : first + 480]
        assert np.abs(x[last + 1 : last + 481] - period).max() < 0.03 * np.abs(period).max()


def test_what_makes_no_kit_is_refused() -> None:
    stem = Stem(name="Pad", audio="a" * 64, id="pad")
    state = STATE.model_copy(update={"parts": (*STATE.parts, stem)})
    with pytest.raises(UserError, match="Pad is neither"):
        kit_files(SESSION, "test", state, ["pad"])
    with pytest.raises(UserError, match="nothing is neither"):
        kit_files(SESSION, "test", state, [])
    with pytest.raises(UserError, match="60 semitones at most"):
        kit_files(SESSION, "test", STATE, [STATE.voices[0].id], (20, 81))
