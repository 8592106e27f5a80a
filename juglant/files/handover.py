"""The hand-over: one ZIP that explains itself."""

import io
import zipfile
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from juglant.core import RATE
from juglant.core.findings import Finding
from juglant.core.lowend.linenotes import NotesOf
from juglant.core.lowend.loop import place
from juglant.core.lowend.overview import PlayedDucking
from juglant.core.lowend.session import Answer
from juglant.files.audio import encode_wav24
from juglant.files.midi import write_controller, write_midi
from juglant.files.names import file_names, plain_name
from juglant.files.sheet import started_by, track_sheet
from juglant.files.tables import curve_csv

Array = NDArray[np.float64]

ONE_SHOT_PEAK_DB = -1.0
# The largest sample that 24 bits hold.
FULL = 1 - 2.0**-23
# A trigger that any detector sees: a millisecond at full level.
_CLICK = np.full(round(0.001 * RATE), FULL)
# The same moment in every archive: the same state gives the same bytes.
_MOMENT = (1980, 1, 1, 0, 0, 0)


@dataclass(frozen=True)
class Shot:
    """One stroke of a hit, to be handed over by itself."""

    name: str
    samples: Array
    fundamental_hz: float | None
    note: str | None


def _one_shot(shot: Shot, peak: float, a4_hz: float) -> bytes:
    samples = shot.samples * (10 ** (ONE_SHOT_PEAK_DB / 20) / max(peak, 1e-9))
    return encode_wav24(samples, RATE, shot.fundamental_hz, a4_hz)


def hit_files(stem: str, tempo: str, strokes: list[Shot], a4_hz: float) -> dict[str, bytes]:
    """One-shots of one hit: the loudest at -1 dBFS, softer ones as much under it as they are."""
    peak = max(float(np.max(np.abs(shot.samples), initial=0.0)) for shot in strokes)
    return {
        f"{stem}_hit_{shot.name}{f'_{shot.note}' if shot.note else ''}_{tempo}.wav": _one_shot(
            shot, peak, a4_hz
        )
        for shot in strokes
    }


def _clicks(times_ms: list[float], frames: int) -> bytes:
    """A ghost trigger: a click at every start."""
    return encode_wav24(place([(at, _CLICK) for at in times_ms], frames, RATE, loop=True), RATE)


def _ducking_files(name: str, head: str, bpm: float, gain_db: Array) -> dict[str, bytes]:
    """One ducking as a curve, as a control signal and as controller data."""
    tempo = f"{bpm:g}bpm"
    control = np.minimum(10 ** (gain_db / 20), 1.0) * FULL
    return {
        f"{head}-curve_{tempo}.csv": curve_csv(gain_db, RATE).encode(),
        f"{head}-control_{tempo}.wav": encode_wav24(control, RATE),
        f"{head}-controller_{tempo}.mid": write_controller(name, bpm, gain_db, RATE),
    }


def handover_files(
    name: str,
    answer: Answer,
    found: list[Finding],
    hits: list[list[Shot]],
    rest: dict[str, Array],
    lines: dict[str, Array],
    played: list[PlayedDucking],
    notes: NotesOf,
) -> dict[str, bytes]:
    """Kick one-shot, other hits, the loop's parts and mix, the ducking and the sheet, by name.

    Every ducking is there as a curve in CSV, as a control signal (a WAV of the gain itself, 1 being
    untouched), as controller data, and as its ghost trigger: a WAV of clicks, beside the notes in
    the MIDI file.

    `hits` holds the strokes of every hit beside the kick, `rest` one pass of each of their loops, of the
    stems under their duckings and of the sum where something is done to it, by ids, `lines` every line
    under the ducking where there are several, `notes` what each of them plays. The MIDI file has it all
    as notes. A one-shot is brought to a peak of
    -1 dBFS; the loop's parts keep their levels among each other, and are turned down together
    only where the mix would clip.
    """
    hit, brief = answer.kick.hit, answer.state.brief
    stem, tempo, told = plain_name(name), f"{brief.bpm:g}bpm", file_names(answer.state)
    note = f"_{hit.note}" if hit.note else ""
    kick = Shot("kick", answer.kick_samples, hit.fundamental_hz, hit.note)
    one_shot = _one_shot(kick, float(np.max(np.abs(kick.samples), initial=0.0)), brief.a4_hz)
    together = (answer.mix_before.samples, answer.mix_after.samples, *rest.values())
    peak = max(float(np.max(np.abs(samples), initial=0.0)) for samples in together)
    gain = min(1.0, 0.999 / max(peak, 1e-9))
    files = {f"{stem}_kick{note}_{tempo}.wav": one_shot}
    for strokes in hits:
        files |= hit_files(stem, tempo, strokes, brief.a4_hz)
    for part, samples in (
        ("kick", answer.kick_loop.samples),
        ("bass", answer.bass_loop.samples),
        ("bass-ducked", answer.ducked_loop.samples),
        ("mix", answer.mix_after.samples),
        *((f"{told[id]}-ducked", samples) for id, samples in lines.items()),
    ):
        files[f"{stem}_loop_{part}_{tempo}.wav"] = encode_wav24(samples * gain, RATE)
    ducked = {target.part for one in answer.state.duckings if one.on for target in one.targets}
    for part, samples in rest.items():
        called = f"{told[part]}{'-ducked' if part in ducked else ''}"
        files[f"{stem}_loop_{called}_{tempo}.wav"] = encode_wav24(samples * gain, RATE)
    files[f"{stem}_line_{tempo}.mid"] = write_midi(name, answer.state, notes)
    main = answer.state.duckings[0]
    files |= _ducking_files(name, f"{stem}_ducking", brief.bpm, answer.gain_db)
    files[f"{stem}_ghost-trigger_{tempo}.wav"] = _clicks(answer.times_ms, answer.gain_db.size)
    for n, one in enumerate((one for one in played if one.ducking.id != main.id), 2):
        starts = "-".join(plain_name(text) for text in started_by(answer.state, one.ducking))
        targets = "-".join(told[target.part] for target in one.ducking.targets)
        # Sixteen of each are too long for a name: the number tells them apart.
        what = plain_name(f"{targets}-by-{starts}")
        files |= _ducking_files(name, f"{stem}_ducking-{n}_{what}", brief.bpm, one.gain_db)
        trigger = f"{stem}_ghost-trigger-{n}_{plain_name(starts)}_{tempo}.wav"
        files[trigger] = _clicks(one.starts_ms, one.gain_db.size)
    files[f"{stem}_sheet.txt"] = track_sheet(name, answer, found, played).encode()
    return dict(sorted(files.items()))


def zipped(files: dict[str, bytes]) -> bytes:
    """One ZIP of `files`; the same files give the same bytes."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as archive:
        for path, data in files.items():
            archive.writestr(zipfile.ZipInfo(path, _MOMENT), data, zipfile.ZIP_DEFLATED, 1)
    return out.getvalue()
