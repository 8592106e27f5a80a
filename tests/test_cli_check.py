"""The shell commands that judge and read: check, transcribe, and duck by the owner of the sub."""

import hashlib
import json
from pathlib import Path

import numpy as np
import pytest

from bench.tracks import RATE, line
from juglant.core.recipes.track import TrackState
from juglant.files.midi import read_midi
from tests.files_made import KICK, NOISE, written
from tests.shell import as_json, run
from tests.signals import ring


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    (tmp_path / "kick.wav").write_bytes(written(KICK))
    (tmp_path / "bass.wav").write_bytes(written(KICK))
    (tmp_path / "noise.wav").write_bytes(NOISE)
    return tmp_path


def test_a_track_is_checked_and_every_fix_says_what_it_does(folder: Path) -> None:
    (folder / "clean.json").write_text(TrackState().model_dump_json())
    assert as_json(folder, "check", "clean.json")["findings"] == []
    assert "Nothing is beyond its limit" in run(folder, "check", "clean.json").stdout
    (folder / "sharp.json").write_text(json.dumps({"kick": {"kind": "made", "recipe": {"end_hz": 50.4}}}))
    told = as_json(folder, "check", "sharp.json")["findings"]
    found = next(one for one in told if one["id"].startswith("off-key"))
    assert {"sentence", "value", "limit", "unit", "section", "fixes"} <= found.keys()
    assert abs(found["value"]) > found["limit"] == 10.0
    best = found["fixes"][0]
    assert set(best) == {"way", "label", "value_after", "closes", "opens"}
    assert best["closes"] is True
    assert best["opens"] == []
    assert abs(best["value_after"]) < 2.0


def test_a_track_of_files_is_checked_with_the_files_beside_it(folder: Path) -> None:
    late = written(np.concatenate([np.zeros(round(0.014 * RATE)), ring(55, 300, 0.4)]), RATE)
    (folder / "samples").mkdir()
    (folder / "samples" / "late.wav").write_bytes(late)
    digest = hashlib.sha256(late).hexdigest()
    state = {"kick": {"kind": "imported", "audio": digest, "name": "late.wav"}}
    (folder / "track.json").write_text(json.dumps(state))
    told = as_json(folder, "check", "track.json")["findings"]
    silence = next(one for one in told if one["id"].startswith("leading-silence"))
    assert silence["value"] == pytest.approx(14.0, abs=0.5)
    assert silence["fixes"][0]["closes"] is True
    (folder / "samples" / "late.wav").unlink()
    missing = run(folder, "check", "track.json", code=2)
    assert "are not here" in missing.stderr
    assert "--audio" in missing.stderr


def test_a_bass_line_is_transcribed_and_written_as_midi(folder: Path) -> None:
    notes = [(0.0, 0.9, 33), (1.0, 0.9, 36), (2.0, 0.9, 40), (3.0, 0.9, 33)]
    (folder / "line.wav").write_bytes(written(line(notes, 126.0, 1, "saw", 0.5), RATE))
    told = as_json(folder, "transcribe", "line.wav", "--bpm", "126", "--midi", "line.mid")
    assert [note["midi"] for note in told["notes"]] == [33, 36, 40, 33]
    assert [note["beat"] for note in told["notes"]] == pytest.approx([0.0, 1.0, 2.0, 3.0], abs=0.02)
    written_notes = read_midi((folder / "line.mid").read_bytes(), "line.mid").tracks[0].notes
    assert [note.midi for note in written_notes] == [33, 36, 40, 33]
    assert "none: no monophonic line" in run(folder, "transcribe", "noise.wav", "--bpm", "126").stdout


@pytest.mark.parametrize("owner", ["kick", "bass"])
def test_a_ducking_takes_nothing_from_the_owner_of_the_sub(folder: Path, owner: str) -> None:
    (folder / "sub.wav").write_bytes(written(line([(0.0, 3.9, 33)], 126.0, 1, "sub", 0.5), RATE))
    told = as_json(
        folder,
        "duck",
        "--kick",
        "kick.wav",
        "--bass",
        "sub.wav",
        "--bpm",
        "126",
        "--owner",
        owner,
        "-o",
        "out",
    )
    for side in ("before", "after"):
        assert {"sub_edge_hz", "sub_shared_ms", "sub_level_db", "owner_loss_db"} <= told[side].keys()
    assert told["after"]["owner_loss_db"] <= 3.0
    assert told["after"]["collision_share"] <= {"kick": 0.10, "bass": 0.30}[owner]


def test_a_ducking_has_one_band(folder: Path) -> None:
    asked = ("duck", "--kick", "kick.wav", "--bass", "bass.wav", "--bpm", "126", "-o", "out")
    refused = run(folder, *asked, "--band", "200", "--above", "90", code=2)
    assert "not both" in refused.stderr


def test_a_bass_that_is_a_file_goes_out_as_midi_with_the_rest(folder: Path) -> None:
    x = line([(0.5, 0.4, 33), (1.5, 0.4, 36), (2.5, 0.9, 40)], 128.0, 2, "saw", 0.4)
    data = written(x, RATE, subtype="PCM_24")
    (folder / "files").mkdir()
    (folder / "files" / "line.wav").write_bytes(data)
    bass = {"kind": "imported", "audio": hashlib.sha256(data).hexdigest(), "name": "line.wav"}
    (folder / "track.json").write_text(json.dumps({"brief": {"bpm": 128}, "bass": bass}))
    told = as_json(folder, "line", "track.json", "--midi", "out.mid", "--audio", "files")
    assert [one["note"] for one in told["voices"]["notes"]] == ["A1", "C2", "E2"]
    read = read_midi((folder / "out.mid").read_bytes(), "out.mid")
    [found] = [track for track in read.tracks if track.name == "Bass"]
    assert [note.midi for note in found.notes] == [33, 36, 40]
    assert [note.at for note in found.notes] == pytest.approx([0.5, 1.5, 2.5], abs=0.02)


def test_the_notes_of_a_mix_are_not_made_up(folder: Path) -> None:
    data = (folder / "noise.wav").read_bytes()
    bass = {"kind": "imported", "audio": hashlib.sha256(data).hexdigest(), "name": "noise.wav"}
    (folder / "track.json").write_text(json.dumps({"bass": bass}))
    said = run(folder, "line", "track.json", "--midi", "out.mid", code=2).stderr
    assert "their notes are not known" in said
    assert not (folder / "out.mid").exists()


def test_a_bass_loop_is_sliced_at_its_notes_and_each_has_its_pitch(folder: Path) -> None:
    midis = [33, 33, 36, 40, 38, 33, 45, 36]
    x = line([(float(n), 0.8, midi) for n, midi in enumerate(midis)], 110.0, 2, "saw", 0.4)
    (folder / "loop.wav").write_bytes(written(x, RATE, subtype="PCM_24"))
    told = as_json(folder, "slice", "loop.wav", "-o", "takes")
    assert [one["note"] for one in told] == ["A1", "A1", "C2", "E2", "D2", "A1", "A2", "C2"]
    assert [one["onset_ms"] for one in told] == pytest.approx([n * 60_000 / 110 for n in range(8)], abs=10)
