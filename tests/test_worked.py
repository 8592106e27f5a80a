"""The worked examples run from the shell to a solved hand-over, and do what their page says."""

import csv
import os
import subprocess
import sys
from pathlib import Path

import pytest
import soundfile

ROOT = Path(__file__).parents[1]
EXAMPLES = ROOT / "examples"


@pytest.mark.parametrize("name", sorted(path.name for path in EXAMPLES.iterdir() if path.is_dir()))
def test_a_worked_example_ends_in_a_hand_over_with_nothing_left(name: str, tmp_path: Path) -> None:
    path = f"{Path(sys.executable).parent}{os.pathsep}{os.environ['PATH']}"
    done = subprocess.run(
        ["sh", str(EXAMPLES / name / "run.sh"), str(tmp_path)],
        capture_output=True, text=True, check=False, env={**os.environ, "PATH": path},
    )  # fmt: skip
    assert done.returncode == 0, done.stderr
    # There is something to find, and at the end there is not.
    first, last = done.stdout.split(f"{tmp_path}/solved.json\n")[0], done.stdout
    assert "limit" in first
    assert "  Nothing is beyond its limit." in last.splitlines()
    handed = tmp_path / "handed" / "solved"
    kicks = [path for path in handed.rglob("*.wav") if "_kick_" in path.name and "_loop_" not in path.name]
    assert kicks
    for kick in kicks:
        # A one-shot leaves with its peak at -1 dB, in 24 bits (common practice).
        sound, _ = soundfile.read(kick)
        assert abs(sound).max() == pytest.approx(10 ** (-1 / 20), rel=0.02)
        assert soundfile.info(kick).subtype == "PCM_24"
    loops = [path for path in handed.rglob("*.wav") if "_loop_" in path.name]
    assert len({soundfile.info(path).frames for path in loops if path.parent == loops[0].parent}) == 1
    for curve in handed.rglob("*curve*.csv"):
        assert len(list(csv.reader(curve.read_text().splitlines()))) > 100
    assert (ROOT / "docs" / "worked-examples.md").read_text("utf-8").count(f"examples/{name}/") >= 1
