"""The shell commands, run as a user runs them."""

import csv
import json
import subprocess
import sys
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import soundfile

from bench.loops import RATE as LOOP_RATE
from bench.loops import make_loop
from bench.recordings import RATE, f_measure, recording
from juglant.core.recipes.kick import KickRecipe
from juglant.core.recipes.track import TrackState
from juglant.files.midi import read_midi
from tests.files_made import BAD, KICK, NOISE, written
from tests.shell import as_json, run
from tests.signals import ring, sine

BASS = written(sine(55, 4 * 60 / 126, -6, 44_100) * 0.9)


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    (tmp_path / "kick.wav").write_bytes(written(KICK))
    (tmp_path / "bass.wav").write_bytes(BASS)
    (tmp_path / "noise.wav").write_bytes(NOISE)
    (tmp_path / "silent.wav").write_bytes(written(np.zeros(9_600)))
    return tmp_path


def test_one_file_measures_to_an_object_and_several_to_a_list(folder: Path) -> None:
    one = as_json(folder, "measure", "kick.wav")
    assert one["fundamental_hz"] == pytest.approx(57.0, rel=1e-4)
    assert {"note", "cents", "settle_ms", "decay60_ms", "true_peak_dbtp", "bands_db"} <= one.keys()
    both = as_json(folder, "measure", "kick.wav", "noise.wav", "--a4", "432")
    assert both[0]["cents"] != pytest.approx(one["cents"], abs=20)
    assert both[1]["fundamental_hz"] is None
    assert both[1]["reasons"]["fundamental_hz"]


def test_the_installed_command_speaks_to_the_shell(folder: Path) -> None:
    for file, code in (("kick.wav", 0), ("none.wav", 2)):
        done = subprocess.run(
            [sys.executable, "-m", "juglant", "measure", file],
            cwd=folder, capture_output=True, text=True, check=False,
        )  # fmt: skip
        assert done.returncode == code
        assert ("A#1" in done.stdout, "cannot be read" in done.stderr) == (code == 0, code == 2)


def test_without_json_there_is_a_table_for_people(folder: Path) -> None:
    said = run(folder, "measure", "kick.wav", "noise.wav").stdout
    assert "A#1" in said
    assert "none:" in said
    assert "dBTP" in said


@pytest.mark.parametrize(("wish", "hz"), [(("--to", "C2"), 65.406), (("--key", "B minor"), 55.0)])
def test_a_file_is_tuned_by_its_measured_pitch(folder: Path, wish: tuple[str, str], hz: float) -> None:
    told = as_json(folder, "tune", "kick.wav", *wish, "-o", "out/tuned.wav")
    assert told["shift_cents"] == pytest.approx(1200 * np.log2(hz / 57), abs=1)
    again = as_json(folder, "measure", "out/tuned.wav")
    assert again["fundamental_hz"] == pytest.approx(hz, rel=2 / 1731)
    assert again["length_ms"] == pytest.approx(told["new_length_ms"], abs=0.1)


def test_a_bass_is_ducked_under_a_kick(folder: Path) -> None:
    told = as_json(folder, "duck", "--kick", "kick.wav", "--bass", "bass.wav", "--bpm", "126", "-o", "out")
    assert told["after"]["collision_share"] <= 0.1 * told["before"]["collision_share"]
    assert told["duck"]["slack_ms"] > 0
    assert told["duck"]["click_risk"] < 12
    ducked, rate = soundfile.read(folder / "out" / "bass_ducked.wav")
    mix, _ = soundfile.read(folder / "out" / "mix.wav")
    assert ducked.shape == mix.shape
    rows = list(csv.DictReader((folder / "out" / "curve.csv").open()))
    assert min(float(row["gain_db"]) for row in rows) == pytest.approx(told["duck"]["depth_db"], abs=0.1)
    # Before the second kick the bass is at its own level, right after it far below.
    beat = round(60 / 126 * rate)
    original, _ = soundfile.read(folder / "bass.wav")
    before, under = slice(beat - 3000, beat - 2400), slice(beat + 200, beat + 1500)
    assert np.std(ducked[before]) == pytest.approx(np.std(original[before]), rel=0.1)
    assert np.std(ducked[under]) < 0.3 * np.std(original[under])


def test_kicks_fall_on_the_beats_that_are_named(folder: Path) -> None:
    run(
        folder,
        "duck",
        "--kick",
        "kick.wav",
        "--bass",
        "bass.wav",
        "--bpm",
        "126",
        "--kicks",
        "1,2.5",
        "-o",
        "o",
    )
    rows = list(csv.DictReader((folder / "o" / "curve.csv").open()))
    gain = np.array([float(row["gain_db"]) for row in rows])
    beat = 60_000 / 126
    assert gain[round(1.5 * beat) + 5] < -6
    assert gain[round(beat) + 5] > -1


def test_a_kick_recipe_is_rendered(folder: Path) -> None:
    recipe = KickRecipe(end_hz=46.0, click_db=-60.0).model_dump_json()
    (folder / "kick.json").write_text(recipe)
    run(folder, "render", "kick.json", "-o", "k.wav")
    assert as_json(folder, "measure", "k.wav")["fundamental_hz"] == pytest.approx(46, rel=1e-3)


def test_a_track_state_renders_its_mix(folder: Path) -> None:
    (folder / "track.json").write_text(json.dumps({"brief": {"bpm": 120}}))
    run(folder, "render", "track.json", "-o", "mix.wav")
    assert soundfile.info(folder / "mix.wav").duration == pytest.approx(4.0)


@pytest.mark.parametrize(
    ("arguments", "said"),
    [
        (("measure", "missing.wav"), "missing.wav cannot be read"),
        (("measure",), "Missing argument"),
        (("measure", "bad.wav"), "is no sound file that can be read"),
        (("measure", "kick.wav", "--a4", "x"), "a4"),
        (("tune", "kick.wav", "-o", "o.wav"), "--to with a note or --key with a key"),
        (("tune", "kick.wav", "--to", "H9", "-o", "o.wav"), "H9"),
        (("tune", "kick.wav", "--key", "blue", "-o", "o.wav"), "blue"),
        (("tune", "kick.wav", "--to", "C7", "-o", "o.wav"), "no more than 24"),
        (("tune", "noise.wav", "--to", "C2", "-o", "o.wav"), "cannot be tuned"),
        (("duck", "--kick", "kick.wav", "--bass", "bass.wav", "--bpm", "10", "-o", "o"), "bpm"),
        (
            (
                "duck",
                "--kick",
                "kick.wav",
                "--bass",
                "bass.wav",
                "--bpm",
                "126",
                "--kicks",
                "0,9",
                "-o",
                "o",
            ),
            "0,9",
        ),
        (("render", "bad.json", "-o", "o.wav"), "bad.json is not JSON"),
        (("render", "odd.json", "-o", "o.wav"), "odd.json: end_hz"),
        (("serve", "--demo", "--data", "x"), "leave out --data"),
        (("sing",), "No such command"),
    ],
)
def test_a_mistake_is_one_line_and_exit_code_2(folder: Path, arguments: tuple[str, ...], said: str) -> None:
    (folder / "bad.wav").write_bytes(BAD["ZIP"][0])
    (folder / "bad.json").write_text("{")
    (folder / "odd.json").write_text('{"end_hz": 5}')
    done = run(folder, *arguments, code=2)
    assert done.stdout == ""
    assert done.stderr.count("\n") == 1
    assert said in done.stderr
    assert "Traceback" not in done.stderr
    assert not (folder / "o.wav").exists()


def test_several_files_are_retuned_into_a_folder_their_length_kept(folder: Path) -> None:
    long = ring(52.0, 1500, 0.8)
    (folder / "low.wav").write_bytes(written(long, RATE))
    found = as_json(
        folder, "tune", "kick.wav", "low.wav", "--key", "C minor", "--keep-length", "--straighten",
        "--spare-ms", "30", "-o", "tuned",
    )  # fmt: skip
    assert [Path(one["file"]).name for one in found] == ["kick_As1.wav", "low_Gs1.wav"]
    for one in found:
        assert abs(1200 * np.log2(one["after"]["fundamental_hz"] / one["hz"])) < 1
        assert one["after"]["length_ms"] == pytest.approx(one["before"]["length_ms"], abs=3)
        assert (folder / one["file"]).exists()
    said = run(folder, "tune", "kick.wav", "low.wav", "--to", "A1", "-o", "one.wav", code=2).stderr
    assert "one.wav names one" in said


def test_clear_partials_are_listed(folder: Path) -> None:
    bell = ring(300.0, 900, 0.8) + ring(478.0, 700, 0.8) + ring(640.0, 700, 0.8)
    (folder / "bell.wav").write_bytes(written(0.3 * bell, RATE))
    found = as_json(folder, "measure", "bell.wav")["partials"]
    assert [one["hz"] for one in found] == pytest.approx([300, 478, 640], abs=0.5)
    assert "x 1.593" in run(folder, "measure", "bell.wav").stdout
    assert as_json(folder, "measure", "kick.wav")["partials"] == []


def test_a_line_is_written_as_midi(folder: Path) -> None:
    state = TrackState().model_dump(mode="json")
    (folder / "track.json").write_text(json.dumps(state))
    found = as_json(folder, "line", "track.json", "--midi", "out/line.mid")
    assert len(found["voices"]["notes"]) == 8
    read = read_midi((folder / "out/line.mid").read_bytes(), "line.mid")
    assert [track.name for track in read.tracks] == ["Kick", "Bass", "Ghost trigger"]
    said = run(folder, "line", "track.json", "--midi", "line.mid").stdout
    assert "dB apart" in said
    bass = {"kind": "imported", "audio": "a" * 64, "name": "loop.wav"}
    (folder / "track.json").write_text(json.dumps({"bass": bass}))
    assert (
        "file(s) that are not here" in run(folder, "line", "track.json", "--midi", "x.mid", code=2).stderr
    )


def test_a_reference_says_its_key_tempo_and_drums(folder: Path) -> None:
    (folder / "loop.wav").write_bytes(written(make_loop(9, "minor", 122), LOOP_RATE))
    found = as_json(folder, "reference", "loop.wav")
    assert found["key"] == "A minor"
    assert found["bpm"] == pytest.approx(122, abs=0.01)
    assert sum("kick" in hit["kinds"] for hit in found["hits"]) >= 14
    assert set(found["hits"][0]) >= {"at_ms", "kinds", "velocity"}
    assert found["other_bpm"]
    assert "1.1 1.2 1.3 1.4" in run(folder, "reference", "loop.wav").stdout
    assert "none: it has no clear tones" in run(folder, "reference", "noise.wav").stdout


def test_a_recording_is_sliced_into_takes(folder: Path) -> None:
    one = recording(77, strokes=6)
    (folder / "crate.wav").write_bytes(written(one.samples, RATE, subtype="PCM_24"))
    found = as_json(folder, "slice", "crate.wav", "-o", "takes")
    assert f_measure([take["onset_ms"] for take in found], one.onsets_ms, 5.0)[0] == 1.0
    for take in found:
        x, rate = soundfile.read(folder / take["file"])
        assert x.size / rate * 1000 == pytest.approx(take["end_ms"] - take["start_ms"], abs=0.1)
        assert 20 * np.log10(np.max(np.abs(x))) == pytest.approx(take["level_dbfs"], abs=0.1)
        assert take["job"] in take["file"]
        assert take["reasons"]
    assert "take001" in found[0]["file"]
    said = run(folder, "slice", "crate.wav", "-o", "takes", "--threshold-db", "6").stdout
    assert "dBFS" in said
    assert (
        "no onset"
        in run(folder, "slice", "noise.wav", "-o", "takes", "--threshold-db", "30", code=2).stderr
    )


def test_two_files_are_aligned_and_summed(folder: Path) -> None:
    late = np.concatenate([np.zeros(441), -KICK])
    (folder / "late.wav").write_bytes(written(late))
    found = as_json(folder, "align", "kick.wav", "late.wav", "--band", "20,150", "-o", "both.wav")
    assert found["offset_ms"] == pytest.approx(-10.0, abs=0.05)
    assert found["polarity"] == -1
    # 10 ms are 0.57 cycles of 57 Hz: turned over, they were nearly in step already.
    assert 0.1 < found["gain_db"]["sub"] < 1
    x, _ = soundfile.read(folder / "both.wav")
    assert np.max(np.abs(x)) == pytest.approx(0.999, abs=0.01)
    assert "inverted" in run(folder, "align", "kick.wav", "late.wav").stdout
    for band, sentence in (("loud", "is not a band"), ("300,100", "upwards")):
        assert sentence in run(folder, "align", "kick.wav", "late.wav", "--band", band, code=2).stderr


def test_a_hit_with_layers_and_chains_is_rendered(folder: Path) -> None:
    hit = {
        "name": "Snare", "kind": "snare",
        "layers": [
            {"source": {"kind": "membrane", "recipe": {}}, "chain": [{"stage": "drive", "drive_db": 6.0}]},
            {"source": {"kind": "hat", "recipe": {}}, "name": "top", "pan": 0.5, "gain_db": -6.0},
        ],
        "chain": [{"stage": "level", "target": "peak", "target_db": -6.0}],
    }  # fmt: skip
    (folder / "hit.json").write_text(json.dumps(hit))
    run(folder, "render", "hit.json", "-o", "hit.wav")
    x, _ = soundfile.read(folder / "hit.wav")
    assert x.shape[1] == 2
    assert 20 * np.log10(np.max(np.abs(x))) == pytest.approx(-6.0, abs=0.01)
    hit["layers"] = []
    (folder / "none.json").write_text(json.dumps(hit))
    assert "layers" in run(folder, "render", "none.json", "-o", "none.wav", code=2).stderr


_PARTED = ("separate", "--kick", "kick.wav", "--bass", "bass.wav")


def test_kick_and_bass_are_parted_in_several_degrees(folder: Path) -> None:
    told = as_json(
        folder, "separate", "--kick", "kick.wav", "--bass", "bass.wav", "--bpm", "126", "--owner", "kick",
        "-o", "out",
    )  # fmt: skip
    choices = told["choices"]
    assert told["before"]["overlap"]["collision_share"] > 0.5
    assert choices[-1]["collision_share"] <= 0.1
    assert choices[0]["change_bass_db"] < choices[-1]["change_bass_db"]
    assert {one["id"] for one in told["proposals"]} >= {"bass-highpass", "bass-cut", "starts"}
    assert len(told["files"]) == 3 * len(choices)
    # The parts of the last choice, read back, add up to its mix.
    kick, bass, mix = (soundfile.read(folder / path)[0] for path in told["files"][-3:])
    assert mix == pytest.approx(kick + bass, abs=1e-6)
    assert told["bass_bars"] == pytest.approx(told["bars"], abs=0.001)
    assert "the bass lasts" not in run(folder, *_PARTED, "--bpm", "126", "-o", "o").stdout
    # At another tempo it is no loop: that is said, and how much of it is taken.
    table = run(folder, *_PARTED, "--bpm", "104", "-o", "o").stdout
    assert "fully separated" in table
    assert "1904.8 ms, 0.83 bars at 104 BPM, taken as 1" in table


def test_the_curve_is_told_as_compressor_settings_with_what_is_left(folder: Path) -> None:
    duck = ("duck", "--kick", "kick.wav", "--bass", "bass.wav", "--bpm", "126", "-o", "out")
    assert "as_compressor" not in as_json(folder, *duck)
    with_hold, without = as_json(folder, *duck, "--as-compressor")["as_compressor"]
    assert with_hold["settings"]["hold_ms"] > 0
    assert without["settings"]["hold_ms"] == 0
    assert with_hold["difference_db"] < 1.5
    assert "threshold" in run(folder, *duck, "--as-compressor").stdout


def test_a_rumble_is_made_of_a_kick_and_ducked_from_it(folder: Path) -> None:
    made = ("rumble", "--kick", "kick.wav", "--bpm", "130", "--key", "A minor", "-o", "rumble.wav")
    told = as_json(folder, *made)
    assert told["shift_semitones"] == pytest.approx(12 * np.log2(55 / 57), abs=0.01)
    assert told["after"]["collision_share"] <= 0.1
    loop, rate = soundfile.read(folder / "rumble.wav")
    assert loop.size / rate == pytest.approx(8 * 60 / 130, abs=1e-3)
    assert "pulled to the root" in run(folder, *made).stdout
    refused = run(folder, *made[:-3], "H minor", "-o", "r.wav", code=2)
    assert "H minor" in refused.stderr


def test_a_margin_a_band_and_a_return_are_kept(folder: Path) -> None:
    duck = ("duck", "--kick", "kick.wav", "--bass", "bass.wav", "--bpm", "126", "-o", "out")
    plain = as_json(folder, *duck)
    further = as_json(folder, *duck, "--margin-db", "6")
    assert further["after"]["kick_over_bass_db"] > plain["after"]["kick_over_bass_db"] + 3
    on_time = as_json(folder, *duck, "--return", "1/8")
    assert on_time["duck"]["returns_ms"] == pytest.approx(60_000 / 126 / 2, abs=1)
    assert on_time["duck"]["note_value"] == "1/8"
    run(folder, *duck, "--band", "150")
    banded, _ = soundfile.read(folder / "out" / "bass_ducked.wav")
    assert np.any(banded)
    assert "no note value" in run(folder, *duck, "--return", "1/7", code=2).stderr


PLAN = {
    "bpm": 126,
    "triggers": {"kick": {"file": "kick.wav"}, "eighths": {"every": "1/8"}},
    "targets": [
        {"file": "bass.wav", "trigger": "kick", "returns": "1/8"},
        {"file": "noise.wav", "trigger": "kick", "duck": {"depth_db": 6}, "below_hz": 400},
        {"file": "noise.wav", "trigger": "eighths", "duck": {"depth_db": 3, "release_ms": 60}},
    ],
}


def test_several_triggers_duck_several_files_as_a_plan_says(folder: Path) -> None:
    (folder / "plan.json").write_text(json.dumps(PLAN))
    told = as_json(folder, "duck", "--plan", "plan.json", "-o", "out")
    assert [(one["target"], len(one["duckings"])) for one in told] == [("bass", 1), ("noise", 2)]
    assert told[0]["duckings"][0]["returns_ms"] == pytest.approx(60_000 / 126 / 2, abs=1)
    assert told[1]["duckings"][1]["depth_db"] == pytest.approx(-3)
    for name, curves in (("bass", 1), ("noise", 2)):
        plain, _ = soundfile.read(folder / f"{name}.wav")
        ducked, _ = soundfile.read(folder / "out" / f"{name}_ducked.wav")
        assert ducked.shape == plain.shape
        assert np.std(ducked) < np.std(plain)
        assert len(list((folder / "out").glob(f"{name}_curve-*.csv"))) == curves
    assert "bass by kick" in run(folder, "duck", "--plan", "plan.json", "-o", "out").stdout


def test_duckings_of_one_file_do_not_add_up(folder: Path) -> None:
    """Two that are down for the whole file: the deeper one holds, within a hundredth of a dB."""
    plan = {**PLAN, "targets": [
        {"file": "noise.wav", "trigger": name, "duck": {"hold_ms": 400.0, "depth_db": depth}}
        for name, depth in (("kick", 9.5), ("eighths", 10.0))
    ]}  # fmt: skip
    (folder / "plan.json").write_text(json.dumps(plan))
    run(folder, "duck", "--plan", "plan.json", "-o", "out")
    plain, rate = soundfile.read(folder / "noise.wav")
    ducked, _ = soundfile.read(folder / "out" / "noise_ducked.wav")
    held = slice(round(0.1 * rate), round(0.2 * rate))
    assert 20 * np.log10(np.std(ducked[held]) / np.std(plain[held])) == pytest.approx(-10.0, abs=0.01)


def test_every_ducking_of_a_plan_is_set_as_a_compressor(folder: Path) -> None:
    targets = [
        {
            "file": "bass.wav",
            "trigger": name,
            "duck": {"depth_db": 6.0, "hold_ms": 20.0, "release_ms": 120.0},
        }
        for name in ("kick", "eighths")
    ]
    (folder / "plan.json").write_text(json.dumps({**PLAN, "targets": targets}))
    asked = ("duck", "--plan", "plan.json", "--as-compressor", "-o", "out")
    for one in as_json(folder, *asked)[0]["duckings"]:
        with_hold, without = one["as_compressor"]
        assert with_hold["settings"]["hold_ms"] > 0 == without["settings"]["hold_ms"]
        assert 0 < with_hold["difference_db"] < 1.0
    told = " ".join(run(folder, *asked).stdout.split())
    assert told.count("as a compressor without a hold") == 2


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"targets": [{"file": "bass.wav", "trigger": "clap"}]}, "no trigger “clap”"),
        ({"targets": [{"file": "bass.wav", "trigger": "eighths"}]}, "has no file"),
        ({"targets": [{"file": "gone.wav", "trigger": "kick"}]}, "gone.wav cannot be read"),
        ({"bpm": 5}, "bpm"),
    ],
)
def test_a_plan_that_cannot_be_followed_is_refused_in_a_sentence(
    folder: Path, change: dict[str, Any], said: str
) -> None:
    (folder / "plan.json").write_text(json.dumps({**PLAN, **change}))
    assert said in run(folder, "duck", "--plan", "plan.json", "-o", "out", code=2).stderr


def test_a_kick_is_matched_and_rendered_again(folder: Path) -> None:
    recipe = {"end_hz": 50.0, "decay_ms": 240.0, "start_semitones": 26.0}
    (folder / "made.json").write_text(json.dumps(recipe))
    run(folder, "render", "made.json", "-o", "made.wav")
    told = as_json(folder, "match", "made.wav", "-o", "found.json")
    assert told["residual_db"] < -30
    assert told["spectral_distance_db"] < 1.5
    assert told["pitch_error_cents"] < 3
    assert told["seconds"] > 0
    body = json.loads((folder / "found.json").read_text())["layers"][0]["source"]["recipe"]
    assert body["end_hz"] == pytest.approx(50.0, rel=0.002)
    assert body["decay_ms"] == pytest.approx(240.0, rel=0.05)
    # The recipe finds its samples beside it.
    run(folder, "render", "found.json", "-o", "again.wav")
    one, other = (soundfile.read(folder / name)[0] for name in ("made.wav", "again.wav"))
    assert 10 * np.log10(np.sum((one - other[: one.size]) ** 2) / np.sum(one**2)) < -30
    assert "silent" in run(folder, "match", "silent.wav", "-o", "x.json", code=2).stderr.lower()
