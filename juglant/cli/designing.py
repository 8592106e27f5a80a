"""A sound of a track designed for its partner."""

from pathlib import Path
from typing import Annotated, Any

import typer

from juglant.cli.app import app
from juglant.cli.common import AsJson, checked, print_json, print_table, read_json, write
from juglant.cli.tracks import (
    AudioFolders,
    SectionName,
    part_named,
    section_named,
    track_session,
)
from juglant.core.designing.design import Design, Wanted, design
from juglant.core.recipes.design import Character
from juglant.core.recipes.sections import Track


@app.command("design")
def design_sound(
    track: Path,
    wanted: Annotated[Wanted, typer.Option("--for", help="What is designed.")] = "kick",
    line: Annotated[str | None, typer.Option(help="The line that gets the sound, by name.")] = None,
    length: Annotated[float, typer.Option(min=0, max=1, help="0 short and hard, 1 long and deep.")] = 0.5,
    click: Annotated[float, typer.Option(min=0, max=1, help="0 soft, 1 bright at the onset.")] = 0.5,
    out: Annotated[
        Path | None, typer.Option("-o", "--out", help="A folder for the track with each answer.")
    ] = None,
    section: SectionName = None,
    audio: AudioFolders = None,
    as_json: AsJson = False,
) -> None:
    """Design a kick for a track's bass, or an 808 or a bass for its kick: five answers, each measured."""
    whole = checked(Track, read_json(track), str(track))
    session = track_session(whole.audio, [*(audio or []), track.parent])
    at = section_named(whole, section).id if section else whole.main
    state = whole.at(at)
    character = Character(length=length, click=click)
    found = design(session, state, wanted, part_named(state, line) if line else None, character)
    files: list[str] = []
    for n, one in enumerate(found, 1):
        if out is not None:
            files.append(str(out / f"{n}.json"))
            write(out / f"{n}.json", whole.with_state(at, one.state).model_dump_json(indent=1).encode())
    if as_json:
        print_json({"file": str(track), "for": wanted, "answers": [_told(one) for one in found],
                    "files": files})  # fmt: skip
        return
    print(track)
    print_table([(f"{n}", _line(one)) for n, one in enumerate(found, 1)])


def _told(one: Design) -> dict[str, Any]:
    numbers = (
        "note", "length_ms", "depth_db", "taken_lu", "lowered_db", "more_click_db", "collision_ms",
        "sub_shared_ms", "sub_level_db",
    )  # fmt: skip
    return {
        **{name: getattr(one, name) for name in numbers},
        "steps": [step.label for step in one.steps], "left": list(one.left),
    }  # fmt: skip


def _line(one: Design) -> str:
    ducked = f"ducked by {one.depth_db:.1f} dB ({one.taken_lu:.2f} LU)" if one.depth_db else "no ducking"
    left = "; ".join(one.left) or "nothing between kick and bass is beyond its limit"
    return f"{one.note or ''} {one.length_ms:.0f} ms, {ducked}, {left}".strip()
