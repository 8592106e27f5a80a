"""Kick and bass as files, or a whole track, solved as a whole."""

from dataclasses import asdict
from enum import StrEnum
from pathlib import Path
from typing import Annotated, Any, Literal

import numpy as np
import typer

from juglant.cli.app import app
from juglant.cli.common import (
    AsJson,
    Bpm,
    beats,
    below_full_scale,
    checked,
    print_json,
    print_table,
    read,
    read_json,
    write,
)
from juglant.cli.lowend import bars_of, bars_row, loaded
from juglant.cli.tracks import AudioFolders, part_named, track_session
from juglant.core import RATE
from juglant.core.errors import UserError
from juglant.core.findings.solving import Degree, Solution, Step, solve, solve_sections
from juglant.core.lowend.session import Session
from juglant.core.music import parse_key
from juglant.core.recipes.sections import Track
from juglant.core.recipes.track import TrackState
from juglant.files.audio import encode_wav24
from juglant.files.tables import curve_csv


class Locked(StrEnum):
    """What is to stay as it is."""

    KICK = "kick"
    BASS = "bass"


@app.command("solve")
def solve_files(
    kick: Annotated[Path, typer.Option(help="The kick, a one-shot.")],
    bass: Annotated[Path, typer.Option(help="The bass, a loop of whole bars.")],
    bpm: Bpm,
    key: Annotated[str, typer.Option(help="As “Bb minor”.")],
    out: Annotated[Path, typer.Option("-o", "--out", help="The folder to write into.")],
    owner: Annotated[Literal["kick", "bass"], typer.Option(help="Who owns the sub.")] = "kick",
    lock: Annotated[list[Locked] | None, typer.Option(help="Stays as it is.")] = None,
    carving: Annotated[bool, typer.Option("--carving-first", help="Filters before the ducking.")] = False,
    kicks: Annotated[str, typer.Option(help="Beats of the bar with a kick.")] = "1,2,3,4",
    as_json: AsJson = False,
) -> None:
    """Solve a kick and a bass: the least change that closes what can be closed, step by step."""
    wanted = parse_key(key)
    brief = {
        "bpm": bpm, "sub_owner": owner, "tonic": wanted.tonic, "mode": wanted.mode,
        "cure": "carving first" if carving else "ducking first",
    }  # fmt: skip
    bass_file = read(bass)
    session, state = loaded(read(kick), bass_file, brief, beats(kicks))
    for path, loop in ((kick, session.parts.kick_loop(state)), (bass, session.parts.bass_loop(state))):
        if not np.any(loop.samples):
            raise UserError(f"{path} is silent.")
    ids = {"kick": state.kick.id, "bass": state.voices[0].id}
    found = solve(session, state, {ids[name] for name in lock or ()})
    files = _written(session, found.best.state, out)
    if as_json:
        print_json({**bars_of(bass_file, state), **_told(session, state, found, files)})
        return
    print(out)
    for step in found.best.steps:
        print(f"  {_said(step)}")
    print_table([
        *bars_row(bass_file, state),
        ("collides after it for", f"{_overlap(session, found.best.state)['collision_ms'] or 0:.0f} ms"),
        ("changed by", f"{found.best.change:.1f} dB"),
        ("still beyond a limit", ", ".join(found.best.left) or "nothing"),
    ])  # fmt: skip


@app.command("solve-track")
def solve_track(
    track: Path,
    out: Annotated[Path, typer.Option("-o", "--out", help="The solved track, to be written.")],
    lock: Annotated[list[str] | None, typer.Option(help="A part that stays as it is, by name.")] = None,
    audio: AudioFolders = None,
    as_json: AsJson = False,
) -> None:
    """Solve every section of a track: main first, then what is left in each of the others."""
    whole = checked(Track, read_json(track), str(track))
    session = track_session(whole.audio, [*(audio or []), track.parent])
    solved, found = solve_sections(session, whole, {part_named(whole.state, name) for name in lock or ()})
    write(out, solved.model_dump_json(indent=1).encode())
    names = {section.id: section.name for section in whole.sections}
    if as_json:
        sections = [
            {
                "section": names[id], "steps": [asdict(step) for step in one.best.steps],
                "unsolved": list(one.best.left), "change": one.best.change,
            }
            for id, one in found.items()
        ]  # fmt: skip
        print_json({"file": str(out), "sections": sections})
        return
    print(out)
    for id, one in found.items():
        left = ", ".join(one.best.left) or "nothing"
        print(f"  {names[id]}: changed by {one.best.change:.1f} dB, still beyond a limit: {left}")
        for step in one.best.steps:
            print(f"    {_said(step)}")


def _said(step: Step) -> str:
    after = "–" if step.after is None else f"{step.after:z.1f}"
    return f"{step.label}: {step.before:z.1f} -> {after} {step.unit} (limit {step.limit:z.1f})"


def _overlap(session: Session, state: TrackState) -> dict[str, Any]:
    return session.answer(state).after.as_dict()


def _written(session: Session, state: TrackState, out: Path) -> list[str]:
    """Kick and bass as they leave, the ducked loop in step, the mix, and the ducking's curve."""
    answer = session.answer(state)
    gain = 10 ** (below_full_scale(answer.mix_after.samples)[1] / 20)
    shot = below_full_scale(session.sounds.hits.hit(state.kick, state.brief.bpm))[0]
    files: dict[str, bytes] = {
        "kick.wav": encode_wav24(shot, RATE, answer.kick.hit.fundamental_hz),
        "bass.wav": encode_wav24(answer.bass_loop.samples * gain, RATE),
        "kick_loop.wav": encode_wav24(answer.kick_loop.samples * gain, RATE),
        "bass_ducked.wav": encode_wav24(answer.ducked_loop.samples * gain, RATE),
        "mix.wav": encode_wav24(answer.mix_after.samples * gain, RATE),
        "curve.csv": curve_csv(answer.gain_db, RATE).encode(),
    }
    for name, data in files.items():
        write(out / name, data)
    return [str(out / name) for name in files]


def _degree(session: Session, one: Degree) -> dict[str, Any]:
    return {
        "steps": len(one.steps), "change": one.change, "left": list(one.left),
        "after": _overlap(session, one.state),
    }  # fmt: skip


def _told(session: Session, state: TrackState, found: Solution, files: list[str]) -> dict[str, Any]:
    best = found.best.state
    return {
        "before": _overlap(session, state), "after": _overlap(session, best),
        "steps": [asdict(step) for step in found.best.steps],
        "degrees": [_degree(session, one) for one in found.degrees],
        "unsolved": list(found.best.left), "change": found.best.change, "looked_at": found.looked_at,
        "settings": {
            "kick": best.kick.only_source.model_dump() if best.kick.only_source else None,
            "separate": best.separate.model_dump(), "duck": best.duckings[0].model_dump(),
        },
        "files": files,
    }  # fmt: skip
