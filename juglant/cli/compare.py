"""Two records, or a track and a record, beside each other."""

from dataclasses import asdict
from pathlib import Path
from typing import Annotated

import typer

from juglant.cli.app import app
from juglant.cli.common import AsJson, print_json, print_table, shown
from juglant.core.errors import UserError
from juglant.core.measure.record import Record, differences, record
from juglant.files.passage import Passage, passage


def _passage(path: Path) -> Passage:
    try:
        return passage(path)
    except OSError as error:
        raise UserError(f"{path} cannot be read: {error.strerror}.") from error


@app.command("compare")
def compare_files(
    first: Annotated[Path, typer.Argument(metavar="A")],
    second: Annotated[Path, typer.Argument(metavar="B")],
    bpm: Annotated[float | None, typer.Option(min=40, max=220, help="The tempo of both, if known.")] = None,
    as_json: AsJson = False,
) -> None:
    """Compare the low ends of two records at the same loudness: what B has otherwise, the most first."""
    heard = [_passage(path) for path in (first, second)]
    a, b = (record(one.audio.samples, one.audio.rate, bpm) for one in heard)
    found = differences(a, b)
    if as_json:
        told = [
            {"file": str(path), "from_s": one.from_s, "whole_s": one.whole_s, **what.as_dict()}
            for path, one, what in zip((first, second), heard, (a, b), strict=True)
        ]
        print_json({"a": told[0], "b": told[1], "differences": [asdict(one) for one in found]})
        return
    for name, path, one, what in zip("AB", (first, second), heard, (a, b), strict=True):
        print(f"{name}  {path}, {one.from_s:.0f} to {one.from_s + what.seconds:.0f} of {one.whole_s:.0f} s")
        print_table(_rows(what))
    for difference in found[:12]:
        print(f"  {difference.said}" + (f" To get there: {difference.fix}." if difference.fix else ""))
    if not found:
        print("  No audible difference in the low end.")


def _rows(one: Record) -> list[tuple[str, str]]:
    return [
        ("tempo, key", f"{shown(one.bpm, 'BPM')}, {one.key or '–'}"),
        ("loudness, true peak", f"{one.lufs:.1f} LUFS, {one.true_peak_dbtp:.1f} dBTP"),
        ("kick length", shown(one.kick_length_ms, "ms", 0)),
        ("kick over bass", shown(one.kick_over_bass_db, "dB")),
        ("ducked by", shown(one.ducking_depth_db, "dB")),
        ("bass back after", shown(one.ducking_return_ms, "ms", 0)),
    ]  # fmt: skip
