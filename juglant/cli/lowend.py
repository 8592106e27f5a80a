"""Commands about kick and bass as files: separate, rumble."""

from dataclasses import asdict
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
    print_json,
    print_table,
    read,
    shown,
    write,
)
from juglant.core import RATE
from juglant.core.errors import UserError
from juglant.core.lowend import proposing, separation
from juglant.core.lowend.pair import length_of
from juglant.core.lowend.rumble import root_shift
from juglant.core.lowend.session import Session
from juglant.core.music import parse_key
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.hit import Hit, Imported
from juglant.core.recipes.notes import on_beats
from juglant.core.recipes.parts import ImportedBass, RumbleBass
from juglant.core.recipes.track import TrackState
from juglant.core.tempo import beat_ms
from juglant.files.audio import Audio, encode_wav24
from juglant.files.names import plain_name

_MOST_BARS = 4


def loaded(
    kick: Audio, bass: Audio, brief: dict[str, Any], kicks: tuple[float, ...]
) -> tuple[Session, TrackState]:
    """A track of two files: the bass is repeated, or cut, to one to four whole bars."""
    files = {"0" * 64: kick, "1" * 64: bass}
    session = Session(lambda digest: (files[digest].samples, files[digest].rate))
    roots = ("tonic",) * int(np.clip(round(_bars(bass, brief["bpm"])), 1, _MOST_BARS))
    state = TrackState.of(
        brief=Brief.model_validate({**brief, "chord_roots": roots}),
        kick=Hit.of(Imported(audio="0" * 64, name="kick"), steps=on_beats(*kicks)),
        bass=ImportedBass(audio="1" * 64, name="bass"),
        ducking=False,
    )
    return session, state


def _bars(bass: Audio, bpm: float) -> float:
    return length_of(bass.samples, bass.rate, bpm)[0] / (4 * beat_ms(bpm))


def bars_of(bass: Audio, state: TrackState) -> dict[str, float]:
    """How many bars a file of bass lasts, and how many of the loop are made of it."""
    return {"bass_bars": _bars(bass, state.brief.bpm), "bars": state.brief.bars}


def bars_row(bass: Audio, state: TrackState) -> list[tuple[str, str]]:
    """What is said of a bass that is no loop of as many bars as are taken."""
    bpm, taken = state.brief.bpm, state.brief.bars
    length_ms, is_loop = length_of(bass.samples, bass.rate, bpm)
    there = _bars(bass, bpm)
    if is_loop and round(there) == taken:
        return []
    return [
        ("the bass lasts", f"{shown(length_ms, 'ms')}, {there:.2f} bars at {bpm:g} BPM, taken as {taken}")
    ]


@app.command()
def separate(
    kick: Annotated[Path, typer.Option(help="The kick, a one-shot.")],
    bass: Annotated[Path, typer.Option(help="The bass, a loop of whole bars.")],
    bpm: Bpm,
    out: Annotated[Path, typer.Option("-o", "--out", help="The folder to write into.")],
    owner: Annotated[Literal["kick", "bass"], typer.Option(help="Who owns the sub.")] = "kick",
    kicks: Annotated[str, typer.Option(help="Beats of the bar with a kick.")] = "1,2,3,4",
    as_json: AsJson = False,
) -> None:
    """Part kick and bass: proposals and choices with their numbers, and the loop of each choice."""
    brief = {"bpm": bpm, "sub_owner": owner, "cure": "carving first"}
    bass_file = read(bass)
    session, state = loaded(read(kick), bass_file, brief, beats(kicks))
    parts = session.parts
    if not np.any(parts.bass_loop(state).samples) or not np.any(parts.kick_loop(state).samples):
        raise UserError(f"{kick if np.any(parts.bass_loop(state).samples) else bass} is silent.")
    choices = [
        separation.checked(choice, session, state)
        for _, found in separation.solve(session, state) for choice in found or []
    ]  # fmt: skip
    written = []
    for number, choice in enumerate(choices, 1):
        chosen = state.model_copy(update={"separate": choice.tried.recipe})
        name = f"{number}_{plain_name(choice.name)}"
        loops = {"kick": parts.kick_loop(chosen).samples, "bass": parts.bass_loop(chosen).samples}
        mix = loops["kick"] + loops["bass"]
        gain = 10 ** (below_full_scale(mix)[1] / 20)
        for part, samples in {**loops, "mix": mix}.items():
            path = out / f"{name}_{part}.wav"
            write(path, encode_wav24(samples * gain, RATE))
            written.append(str(path))
    if as_json:
        print_json({
            **bars_of(bass_file, state), "before": asdict(proposing.numbers(session, state)),
            "proposals": [
                {**asdict(one), "recipe": one.recipe.model_dump()}
                for one in proposing.proposals(session, state)
            ],
            "choices": [
                {"name": one.name, **asdict(one.tried), "recipe": one.tried.recipe.model_dump()}
                for one in choices
            ],
            "files": written,
        })  # fmt: skip
        return
    print(out)
    print_table(bars_row(bass_file, state) + [
        (one.name, f"collides for {100 * one.tried.collision_share:.0f} % of the kick, worst sum "
                   f"{shown(one.tried.summation_worst_db, 'dB')}, bass changed by "
                   f"{one.tried.change_bass_db:.1f} dB, kick by {one.tried.change_kick_db:.1f} dB")
        for one in choices
    ])  # fmt: skip


@app.command()
def rumble(
    kick: Annotated[Path, typer.Option(help="The kick, a one-shot.")],
    bpm: Bpm,
    key: Annotated[str, typer.Option(help="As “Bb minor”: the rumble is pulled to its root.")],
    out: Annotated[Path, typer.Option("-o", "--out", help="The WAV to write.")],
    bars: Annotated[int, typer.Option(min=1, max=_MOST_BARS)] = 2,
    kicks: Annotated[str, typer.Option(help="Beats of the bar with a kick.")] = "1,2,3,4",
    under: Annotated[float, typer.Option("--under-db", min=0, max=36, help="Below the kick.")] = 9.0,
    as_json: AsJson = False,
) -> None:
    """Make a rumble of a kick, ducked out of the kick's way; writes one loop."""
    wanted = parse_key(key)
    brief = {
        "bpm": bpm, "tonic": wanted.tonic, "mode": wanted.mode,
        "chord_roots": ("tonic",) * bars,
    }  # fmt: skip
    sound = read(kick)
    session = Session(lambda _: (sound.samples, sound.rate))
    state = TrackState.of(
        brief=Brief.model_validate(brief),
        kick=Hit.of(Imported(audio="0" * 64, name="kick"), steps=on_beats(*beats(kicks))),
        bass=RumbleBass(under_db=under), ducking=False,
    )  # fmt: skip
    if not np.any(session.parts.bass_loop(state).samples):
        raise UserError(f"{kick} is silent.")
    found = session.solve_ducking(state)
    answer = session.answer(state.with_duck(on=True, duck=found.recipe))
    samples = answer.ducked_loop.samples
    write(out, encode_wav24(below_full_scale(samples)[0], RATE))
    hz = answer.kick.hit.fundamental_hz
    shift = None if hz is None else root_shift(hz, state.brief)
    if as_json:
        print_json({
            "file": str(out), "shift_semitones": shift, "before": answer.before.as_dict(),
            "after": answer.after.as_dict(), "duck": {
                **answer.duck.as_dict(), "settings": found.recipe.model_dump()},
        })  # fmt: skip
        return
    print(out)
    print_table([
        ("pulled to the root by", shown(shift, "st", 2)),
        ("ducked by", f"{found.recipe.depth_db:g} dB"),
        ("collision per kick",
         f"{answer.before.collision_ms:.0f} ms -> {answer.after.collision_ms:.0f} ms"),
        ("slack to the next kick", shown(answer.duck.slack_ms, "ms")),
    ])  # fmt: skip
