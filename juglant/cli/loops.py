"""Commands about what is played together: duck, render, line."""

from dataclasses import asdict
from pathlib import Path
from typing import Annotated, Any

import typer

from juglant.cli.app import app
from juglant.cli.common import (
    AsJson,
    Bpm,
    Refused,
    beats,
    below_full_scale,
    checked,
    print_json,
    print_table,
    read,
    read_json,
    shown,
    write,
)
from juglant.cli.plan import ducked, read_plan
from juglant.cli.tracks import AudioFolders, SectionName, section_of, track_session
from juglant.core import RATE
from juglant.core.errors import UserError
from juglant.core.lowend import keyed
from juglant.core.lowend.linenotes import notes_of_lines
from juglant.core.lowend.loop import kick_times_ms
from juglant.core.lowend.pair import duck_pair
from juglant.core.lowend.session import Session
from juglant.core.lowend.voices import voices
from juglant.core.measure import levels
from juglant.core.measure.hit import measure
from juglant.core.measure.reference import reference as estimate
from juglant.core.measure.stereo import listening_channel
from juglant.core.process.resampling import change_rate
from juglant.core.recipes.brief import Owner
from juglant.core.recipes.hit import Hit, MadeKick
from juglant.core.recipes.kick import KickRecipe
from juglant.core.recipes.sections import Track
from juglant.core.tempo import NOTE_VALUES
from juglant.files.audio import encode_wav24
from juglant.files.midi import write_midi
from juglant.files.names import numbered, plain_name
from juglant.files.sheet import compressor_rows
from juglant.files.tables import curve_csv


def _duck_plan(plan: Path, out: Path, as_compressor: bool, as_json: bool) -> None:
    """Several files by several triggers, as a plan file says; paths in it are counted from it."""
    done = ducked(read_plan(plan), plan.parent, as_compressor=as_compressor)
    for one in done:
        write(out / f"{one.name}_ducked.wav", encode_wav24(below_full_scale(one.samples)[0], one.rate))
        for number, gain_db in enumerate(one.gains_db, 1):
            write(out / f"{one.name}_curve-{number}.csv", curve_csv(gain_db, one.rate))
    if as_json:
        for one in done:
            for told, solved in zip(one.duckings, one.compressors, strict=False):
                told["as_compressor"] = [_told(each) for each in solved]
        print_json([{"target": one.name, "duckings": one.duckings} for one in done])
        return
    print(out)
    for one in done:
        for number, told in enumerate(one.duckings):
            back, slack = shown(told["returns_ms"], "ms"), shown(told["slack_ms"], "ms")
            solved = one.compressors[number] if as_compressor else []
            print_table([
                (f"{one.name} by {told['trigger']}",
                 f"{told['depth_db']:.1f} dB, back after {back}, slack {slack}"),
                *(row for each in solved for row in compressor_rows(each)),
            ])  # fmt: skip


@app.command()
def duck(
    out: Annotated[Path, typer.Option("-o", "--out", help="The folder to write into.")],
    kick: Annotated[Path | None, typer.Option(help="The kick, a one-shot.")] = None,
    bass: Annotated[Path | None, typer.Option(help="The bass, a loop or a stretch of it.")] = None,
    bpm: Annotated[float | None, typer.Option("--bpm", min=40, max=220, help="Tempo.")] = None,
    plan: Annotated[
        Path | None, typer.Option(help="Several triggers and targets: a JSON file, in place of all else.")
    ] = None,
    kicks: Annotated[str, typer.Option(help="Beats of the bar with a kick.")] = "1,2,3,4",
    owner: Annotated[Owner, typer.Option(help="Who owns the sub.")] = "kick",
    margin: Annotated[
        float, typer.Option("--margin-db", min=0, max=24, help="Further under the kick than 6 dB.")
    ] = 0.0,
    band: Annotated[
        float | None, typer.Option("--band", min=60, max=2000, help="Duck only what lies below, in Hz.")
    ] = None,
    above: Annotated[
        float | None, typer.Option("--above", min=40, max=2000, help="Duck only what lies above, in Hz.")
    ] = None,
    returns: Annotated[
        str | None, typer.Option("--return", help="Note value on which the bass is to be back, as 1/8.")
    ] = None,
    as_compressor: Annotated[
        bool, typer.Option("--as-compressor", help="Solve for the compressor settings that come closest.")
    ] = False,
    as_json: AsJson = False,
) -> None:
    """Duck a bass under a kick; writes bass_ducked.wav, mix.wav and curve.csv. Or duck by a plan."""
    if plan is not None:
        _duck_plan(plan, out, as_compressor, as_json)
        return
    if kick is None or bass is None or bpm is None:
        raise UserError("Name --kick, --bass and --bpm, or a --plan that holds them.")
    if returns is not None and returns not in NOTE_VALUES:
        raise UserError(f"“{returns}” is no note value: one of {', '.join(NOTE_VALUES)}.")
    if band is not None and above is not None:
        raise UserError("Name --band or --above, not both: a ducking has one band.")
    hit, line = read(kick), read(bass)
    times = kick_times_ms(beats(kicks), bpm, line.samples.shape[0] / line.rate * 1000)
    pair = duck_pair(
        change_rate(hit.samples, hit.rate, line.rate), line.samples, line.rate, bpm, times,
        owner=owner, margin_db=margin, returns=returns, below_hz=band, above_hz=above,
    )  # fmt: skip
    asked = (pair.recipe, pair.key, pair.times_ms, pair.length_ms, line.rate)
    solved = keyed.solve(*asked) if as_compressor else []
    mix, gain_db = below_full_scale(pair.mix)
    ducked, _ = below_full_scale(pair.ducked)
    write(out / "bass_ducked.wav", encode_wav24(ducked, line.rate))
    write(out / "mix.wav", encode_wav24(mix, line.rate))
    write(out / "curve.csv", curve_csv(pair.gain_db, line.rate))
    if as_json:
        print_json({
            "before": pair.before.as_dict(), "after": pair.after.as_dict(),
            "duck": {**pair.duck.as_dict(), "settings": pair.recipe.model_dump()},
            "complete": pair.complete, "is_loop": pair.is_loop, "mix_gain_db": gain_db,
            "mix_true_peak_dbtp": levels.true_peak_dbtp(mix),
            **({"as_compressor": [_told(one) for one in solved]} if as_compressor else {}),
        })  # fmt: skip
        return
    recipe = pair.recipe
    print(out)
    print_table([
        ("collision per kick",
         f"{shown(pair.before.collision_ms, 'ms', 0)} -> {shown(pair.after.collision_ms, 'ms', 0)}"),
        ("shared below the sub edge",
         f"{shown(pair.before.sub_shared_ms, 'ms', 0)} -> {shown(pair.after.sub_shared_ms, 'ms', 0)}"),
        ("taken from the owner", shown(pair.after.owner_loss_db, "dB")),
        ("depth", f"{recipe.depth_db:g} dB"),
        ("attack, hold, release", f"{recipe.attack_ms:g}, {recipe.hold_ms:g}, {recipe.release_ms:g} ms"),
        ("lookahead", f"{recipe.lookahead_ms:g} ms"),
        ("bass is back after", shown(pair.duck.returns_ms, "ms")),
        ("slack to the next kick", shown(pair.duck.slack_ms, "ms")),
        ("click risk", shown(pair.duck.click_risk, "dB/ms")),
        ("mix turned down by", f"{-gain_db:.1f} dB"),
        *(row for one in solved for row in compressor_rows(one)),
    ])  # fmt: skip


def _told(one: keyed.AsCompressor) -> dict[str, Any]:
    """Settings, what is left, and what to mind; without the curves."""
    return {
        "settings": one.settings.model_dump(), "difference_db": one.difference_db, "warnings": one.warnings
    }  # fmt: skip


@app.command()
def render(
    recipes: list[Path],
    out: Annotated[Path, typer.Option("-o", "--out", help="The WAV to write, or a folder.")],
    bpm: Bpm = 128.0,
    section: SectionName = None,
    audio: AudioFolders = None,
) -> None:
    """Render recipes: a kick's fields, a hit with layers and chains, or a track (its mix)."""
    if len(recipes) > 1 and out.suffix.lower() == ".wav":
        raise UserError(f"Several recipes go into a folder: {out} names one.")
    session, refused = Session(), Refused()
    names = numbered([plain_name(recipe.stem) for recipe in recipes])
    for recipe, name in zip(recipes, names, strict=True):
        with refused.here():
            path = out if out.suffix.lower() == ".wav" else out / f"{name}.wav"
            write(path, _rendered(session, recipe, bpm, section, audio or []))
            if len(recipes) > 1:
                print(path)
    refused.tell()


def _rendered(
    session: Session, recipe: Path, bpm: float, section: str | None, folders: list[Path]
) -> bytes:
    """A recipe as a WAV file, made from files in some folders or beside it. UserError for one missing."""
    data = read_json(recipe)
    if {"state", "brief", "parts", "kick", "bass", "duck"} & data.keys():
        model: type[Track] | type[Hit] | type[KickRecipe] = Track
    else:
        model = Hit if {"layers", "kind", "source"} & data.keys() else KickRecipe
    wanted = checked(model, data, str(recipe))
    if isinstance(wanted, KickRecipe):
        wanted = Hit.of(MadeKick(recipe=wanted))
    if wanted.audio:
        session = track_session(wanted.audio, [*folders, recipe.parent])
    if isinstance(wanted, Track):
        samples, hz = session.answer(section_of(wanted, section)).mix_after.samples, None
    else:
        samples = session.sounds.hits.hit(wanted, bpm)
        hz = measure(samples, RATE).hit.fundamental_hz
    return encode_wav24(below_full_scale(samples)[0], RATE, hz)


@app.command()
def line(
    track: Path,
    midi: Annotated[Path, typer.Option("--midi", help="The MIDI file to write.")],
    audio: AudioFolders = None,
    section: SectionName = None,
    as_json: AsJson = False,
) -> None:
    """Write a track's kicks, hits, lines and ghost trigger as a standard MIDI file."""
    state = section_of(checked(Track, read_json(track), str(track)), section)
    session = track_session(state.audio, [*(audio or []), track.parent])
    lines = notes_of_lines(session.sounds, state)
    if not any(lines.values()):
        raise UserError(f"The lines of {track} are of more than one voice: their notes are not known.")
    write(midi, write_midi(track.stem, state, lines))
    report = voices(session, state)
    if as_json:
        print_json({"file": str(midi), "voices": asdict(report)})
        return
    print(midi)
    rows = [("bars", str(state.brief.bars)), ("swing", f"{state.brief.swing_percent:g} %")]
    rows.append(("notes of the bass", str(len(report.notes))))
    rows.append(("their low-band levels", f"{report.low_spread_db:.1f} dB apart"))
    if report.spills:
        worst = report.spills[0]
        rows.append(("worst spill", f"{worst.db:.1f} dB, {worst.old} under {worst.new}"))
    print_table(rows)


@app.command()
def reference(
    file: Path,
    as_json: AsJson = False,
) -> None:
    """Estimate key, tempo and the strokes of kick, snare and hat of a loop."""
    audio = read(file)
    found = estimate(listening_channel(audio.samples), audio.rate)
    if as_json:
        print_json({"file": str(file), **found.as_dict()})
        return
    print(file)
    rows = []
    for name, value, confidence, more in (
        (
            "tempo",
            found.bpm and f"{found.bpm:.2f} BPM",
            found.bpm_confidence,
            "; else " + ", ".join(f"{bpm:.1f}" for bpm in found.other_bpm),
        ),
        ("key", found.key, found.key_confidence, f"; else {found.other_key}"),
    ):
        reason = found.reasons.get("bpm" if name == "tempo" else "key", "")
        rows.append((name, f"{value}, {100 * confidence:.0f} % sure{more}" if value else f"none: {reason}"))
    for kind in ("kick", "snare", "hat", "other"):
        places = [f"{hit.bar}.{hit.beat:g}" for hit in found.hits if kind in hit.kinds]
        rows.append((kind, " ".join(places) or "none"))
    print_table(rows)
