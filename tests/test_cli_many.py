"""The shell as a whole: many files at once, the list of commands, handing over."""

import json
import subprocess
import sys
import zipfile
from pathlib import Path

from juglant.core.recipes.track import TrackState
from tests.files_made import written
from tests.shell import run
from tests.signals import RATE, sine


def test_many_files_go_on_after_a_bad_one_and_say_so_at_the_end(tmp_path: Path) -> None:
    for name in ("one", "two"):
        (tmp_path / f"{name}.wav").write_bytes(written(0.5 * sine(55.0, 0.8, 0.0), RATE))
    (tmp_path / "bad.wav").write_bytes(b"x")
    done = run(tmp_path, "measure", "one.wav", "bad.wav", "two.wav", "--json", code=2)
    assert [one["file"] for one in json.loads(done.stdout)] == ["one.wav", "two.wav"]
    assert (
        done.stderr
        == "juglant: “bad.wav” is no sound file that can be read, whatever its name says: bring WAV, FLAC, AIFF, CAF, OGG or MP3.\n"
    )
    done = run(tmp_path, "tune", "bad.wav", "one.wav", "gone.wav", "--to", "A1", "-o", "out", code=2)
    assert list((tmp_path / "out").iterdir()) == [tmp_path / "out" / "one_A1.wav"]
    assert "bad.wav" in done.stderr
    assert "gone.wav" in done.stderr


def test_the_list_of_commands_is_told_without_reading_any_of_them(tmp_path: Path) -> None:
    script = "import sys; from juglant.cli import main\ntry: main(['--help'])\nfinally: print(*sys.modules)"
    done = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, check=True)
    assert "Print the numbers of one hit or several" in done.stdout
    assert not {"numpy", "scipy", "numba", "juglant.cli.hits"} & set(done.stdout.split())


def test_measuring_waits_for_no_package_that_it_does_without(tmp_path: Path) -> None:
    (tmp_path / "one.wav").write_bytes(written(0.5 * sine(55.0, 0.8, 0.0), RATE))
    script = "import sys; from juglant.cli import main\ntry: main(['measure', 'one.wav'])\nfinally: print(*sys.modules)"
    command = [sys.executable, "-c", script]
    done = subprocess.run(command, capture_output=True, text=True, check=True, cwd=tmp_path)
    assert not {"scipy.signal", "scipy.stats", "scipy.optimize", "fastapi", "juglant.core.findings"} & set(
        done.stdout.split()
    )


def test_the_shell_hands_over_what_the_page_does(tmp_path: Path) -> None:
    (tmp_path / "Rain.json").write_text(TrackState().model_dump_json())
    run(tmp_path, "hand-over", "Rain.json", "-o", "out.zip")
    with zipfile.ZipFile(tmp_path / "out.zip") as file:
        names = file.namelist()
    assert "rain_sheet.txt" in names
    assert sum("kick" in name and name.endswith(".wav") for name in names) >= 2
    told = run(tmp_path, "hand-over", "Rain.json", "-o", "folder").stdout
    assert sorted(path.name for path in (tmp_path / "folder" / "rain").iterdir()) == sorted(names)
    assert "rain_sheet.txt" in told
    refused = run(tmp_path, "hand-over", "Rain.json", "-o", "all.zip", "--arrangement", code=2).stderr
    assert "has no arrangement" in refused
    assert (
        "There is no section"
        in run(tmp_path, "hand-over", "Rain.json", "-o", "x", "--section", "no", code=2).stderr
    )
