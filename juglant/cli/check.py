"""Commands that judge and read: check a track, transcribe a bass line."""

from dataclasses import asdict
from pathlib import Path
from typing import Annotated, Any

import typer

from juglant.cli.app import app
from juglant.cli.common import (
    A4,
    AsJson,
    Bpm,
    checked,
    print_json,
    print_table,
    read,
    read_json,
    write,
)
from juglant.cli.tracks import AudioFolders, track_session
from juglant.core.findings import Finding, TriedFix, findings, fixes
from juglant.core.measure.stereo import listening_channel
from juglant.core.measure.transcribe import transcribe as notes_of
from juglant.core.music import nearest_note
from juglant.core.recipes.sections import Track
from juglant.core.tempo import beat_ms
from juglant.files.midi import write_found_notes


def _told(finding: Finding, section: str, tried: list[TriedFix]) -> dict[str, Any]:
    return {
        "id": finding.id, "sentence": finding.sentence, "value": finding.value, "limit": finding.limit,
        "unit": finding.unit, "section": section, "why": finding.why, "advice": finding.advice,
        "fixes": [asdict(one) for one in tried],
    }  # fmt: skip


@app.command()
def check(
    track: Path,
    audio: AudioFolders = None,
    as_json: AsJson = False,
) -> None:
    """Judge a track: what is beyond its limit, by which number, and what each fix was measured to do."""
    whole = checked(Track, read_json(track), str(track))
    session = track_session(whole.audio, [*(audio or []), track.parent])
    told, seen = [], set[tuple[str, str]]()
    for section in sorted(whole.sections, key=lambda one: one.id != whole.main):
        answer = session.answer(whole.at(section.id))
        for finding in findings(session, answer):
            if (finding.id, finding.sentence) not in seen:
                seen.add((finding.id, finding.sentence))
                told.append(_told(finding, section.name, fixes(session, answer, finding.id)))
    if as_json:
        print_json({"file": str(track), "findings": told})
        return
    print(track)
    if not told:
        print("  Nothing is beyond its limit.")
    for one in told:
        print(f"  {one['id']} ({one['section']}): {one['sentence']}")
        print(f"    {one['value']:z.1f} {one['unit']}, limit {one['limit']:z.1f} {one['unit']}")
        for fix in one["fixes"]:
            after = "" if fix["value_after"] is None else f", then {fix['value_after']:z.1f} {one['unit']}"
            print(f"    {fix['label']}{after}{'' if fix['closes'] else ' (still beyond)'}")
        if not one["fixes"] and one["advice"]:
            print(f"    {one['advice']}")


@app.command()
def transcribe(
    file: Path,
    bpm: Bpm,
    midi: Annotated[Path | None, typer.Option("--midi", help="A MIDI file to write.")] = None,
    a4: A4 = 440.0,
    as_json: AsJson = False,
) -> None:
    """The notes of a bass or 808 line of one voice: when, how long, which pitch, how loud."""
    sound = read(file)
    found = notes_of(listening_channel(sound.samples), sound.rate)
    beat = beat_ms(bpm)
    rows: list[dict[str, Any]] = []
    for note in found:
        near = nearest_note(note.hz, a4)
        rows.append(
            {
                "at_ms": note.at_ms, "length_ms": note.length_ms, "beat": note.at_ms / beat,
                "beats": note.length_ms / beat, "hz": note.hz, "midi": near.midi, "note": near.note,
                "cents": near.cents, "level_db": note.level_db,
            }
        )  # fmt: skip
    if midi is not None:
        write(midi, write_found_notes(file.stem, found, bpm, a4))
    if as_json:
        print_json({"file": str(file), "bpm": bpm, "notes": rows})
        return
    print(file)
    print_table([
        (f"beat {1 + row['beat']:.3f}",
         f"{row['note']} {row['cents']:+.0f} cents, {row['length_ms']:.0f} ms, {row['level_db']:.1f} dBFS")
        for row in rows
    ] or [("notes", "none: no monophonic line was found")])  # fmt: skip
