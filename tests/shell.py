"""Shell commands in this process: a start of its own takes longer than most of them."""

import io
import json
from contextlib import chdir, redirect_stderr, redirect_stdout
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import pytest

from juglant.cli import main


@dataclass(frozen=True)
class Done:
    stdout: str
    stderr: str


def run(folder: Path, *arguments: str, code: int = 0) -> Done:
    said, warned = io.StringIO(), io.StringIO()
    with chdir(folder), redirect_stdout(said), redirect_stderr(warned), pytest.raises(SystemExit) as left:
        main(list(arguments))
    assert left.value.code == code, warned.getvalue()
    return Done(said.getvalue(), warned.getvalue())


def as_json(folder: Path, *arguments: str) -> Any:
    return json.loads(run(folder, *arguments, "--json").stdout)
