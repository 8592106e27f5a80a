"""Commands about single hits: tune, slice, align."""

from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Annotated, Any

import typer

from juglant.cli.app import app
from juglant.cli.common import (
    A4,
    Array,
    AsJson,
    Refused,
    below_full_scale,
    checked,
    print_json,
    print_table,
    read,
    write,
)
from juglant.cli.measuring import hit_rows
from juglant.core import music
from juglant.core.errors import UserError
from juglant.core.hits import align as alignment
from juglant.core.hits.retune import retuned
from juglant.core.lowend import tuning
from juglant.core.measure import takenumbers, takes
from juglant.core.measure.hit import HitNumbers, measure
from juglant.core.process.resampling import change_rate
from juglant.core.recipes.recording import Recording
from juglant.files.audio import Audio, encode_wav24
from juglant.files.names import plain_name


@dataclass(frozen=True)
class _Wish:
    """What a file is to be tuned to, and how."""

    to: str | None
    key: str | None
    a4: float
    keep_length: bool
    straighten: bool
    spare_ms: float

    def move(self, hit: HitNumbers, file: Path) -> tuning.Candidate:
        """The wanted move from a hit's measured fundamental."""
        if hit.fundamental_hz is None:
            reason = hit.reasons.get("fundamental_hz", "it has no measurable pitch")
            raise UserError(f"{file} cannot be tuned: {reason}.")
        key = music.parse_key(self.key) if self.key is not None else music.Key("C", "major")
        harmony, resampled = tuning.Harmony(key, a4_hz=self.a4), not self.keep_length
        if self.to is None:
            return tuning.moves(hit.fundamental_hz, hit.length_ms, harmony, resampled=resampled)[0]
        midi = music.note_to_midi(self.to)
        return tuning.move_to(midi, hit.fundamental_hz, hit.length_ms, harmony, resampled=resampled)

    def retuned(self, audio: Audio, semitones: float) -> Array:
        """The file moved, its length and its drift as wished."""
        return retuned(
            audio.samples, audio.rate, semitones,
            keep_length=self.keep_length, straighten=self.straighten, spare_ms=self.spare_ms,
        )  # fmt: skip


def _tune_file(file: Path, out: Path, wish: _Wish) -> tuple[tuning.Candidate, float, dict[str, Any]]:
    """Tune one file; the move, the gain in dB, and what there is to print as JSON."""
    audio = read(file)
    before = measure(audio.samples, audio.rate, wish.a4).hit
    move = wish.move(before, file)
    if abs(move.shift_semitones) > 24:
        raise UserError(
            f"{file} sounds {before.note}: {move.note} is {move.shift_semitones:+.1f} semitones away, "
            "and no more than 24 can be shifted."
        )
    shift = move.shift_semitones
    tuned = wish.retuned(audio, shift)
    after = measure(tuned, audio.rate, wish.a4).hit
    if after.fundamental_hz is not None:
        # Put right once by what is measured: a straightened tail may settle a little elsewhere.
        shift += music.cents_between(move.hz, after.fundamental_hz) / 100
        tuned = wish.retuned(audio, shift)
    tuned, gain_db = below_full_scale(tuned)
    after = measure(tuned, audio.rate, wish.a4).hit
    path = out
    if out.suffix.lower() != ".wav":
        name = after.note or move.note
        path = out / f"{plain_name(file.stem)}_{name.replace('#', 's')}.wav"
    write(path, encode_wav24(tuned, audio.rate, after.fundamental_hz, wish.a4))
    return move, gain_db, {"file": str(path), **asdict(move), "gain_db": gain_db,
                           "before": before.as_dict(), "after": after.as_dict()}  # fmt: skip


@app.command()
def tune(
    files: list[Path],
    out: Annotated[Path, typer.Option("-o", "--out", help="The folder to write into, or one WAV.")],
    to: Annotated[str | None, typer.Option(help="A note with its octave, such as A#1.")] = None,
    key: Annotated[str | None, typer.Option(help='The nearest note of a key: "Bb minor".')] = None,
    keep_length: Annotated[bool, typer.Option("--keep-length", help="Last as long as before.")] = False,
    straighten: Annotated[bool, typer.Option("--straighten", help="Hold a drifting tail.")] = False,
    spare_ms: Annotated[
        float, typer.Option(min=0, max=300, help="With --keep-length: leave so much of the onset alone.")
    ] = 0.0,
    a4: A4 = 440.0,
    as_json: AsJson = False,
) -> None:
    """Retune hits so that they sound a note, by their measured fundamental; what cannot be is said at the
    end.
    """
    if (to is None) == (key is None):
        raise UserError("Give either --to with a note or --key with a key.")
    if len(files) > 1 and out.suffix.lower() == ".wav":
        raise UserError(f"Several files go into a folder: {out} names one.")
    wish = _Wish(to, key, a4, keep_length, straighten, spare_ms)
    found, refused = [], Refused()
    for file in files:
        with refused.here():
            found.append(_tune_file(file, out, wish))
    _print_tuned(found, as_json=as_json, alone=len(files) == 1)
    refused.tell()


def _print_tuned(
    found: list[tuple[tuning.Candidate, float, dict[str, Any]]], *, as_json: bool, alone: bool
) -> None:
    if alone and not found:
        return
    if as_json:
        listed = [one for _, _, one in found]
        print_json(listed[0] if alone else listed)
        return
    for move, gain_db, one in found:
        print(one["file"])
        print_table([("shift", f"{move.shift_semitones:+.3f} semitones ({move.shift_cents:+.1f} cents)"),
                ("gain", f"{gain_db:+.1f} dB"), *hit_rows(HitNumbers(**one["after"]))])  # fmt: skip


@app.command("slice")
def slice_file(
    file: Path,
    out: Annotated[Path, typer.Option("-o", "--out", help="The folder to write into.")],
    threshold_db: Annotated[
        float, typer.Option(help="How far the level must rise to make a take; not asked of a bass line.")
    ] = takes.THRESHOLD_DB,
    min_gap_ms: Annotated[
        float, typer.Option(help="Two takes lie at least this far apart.")
    ] = takes.MIN_GAP_MS,
    a4: A4 = 440.0,
    as_json: AsJson = False,
) -> None:
    """Cut a recording into takes; writes one WAV for each."""
    audio = read(file)
    x, rate = audio.samples, audio.rate
    limits = {"threshold_db": threshold_db, "min_gap_ms": min_gap_ms}
    how = checked(Recording, {"audio": "0" * 64, "name": file.name[:200], **limits}, "slice")
    found = []
    for number, where in enumerate(takes.cut(x, rate, how.threshold_db, how.min_gap_ms), 1):
        numbers = takenumbers.take_numbers(x, rate, where, a4)
        path = out / f"{plain_name(file.stem)}_take{number:03d}_{numbers.job}.wav"
        write(path, encode_wav24(takes.piece_of(x, rate, where), rate))
        found.append({"file": str(path), **asdict(numbers)})
    if not found:
        raise UserError(f"{file} holds no onset that rises by {threshold_db:g} dB: try a lower threshold.")
    if as_json:
        print_json(found)
        return
    print(out)
    for one in found:
        print(
            f"  {one['onset_ms']:9.1f} ms {one['length_ms']:7.0f} ms {one['level_dbfs']:6.1f} dBFS"
            f"  {one['note'] or '–':<4} {one['job']:<8} {'; '.join(one['reasons'])}"
        )


def _band(text: str) -> tuple[float, float]:
    try:
        low, high = (float(part) for part in text.split(","))
    except ValueError as error:
        raise UserError(f"“{text}” is not a band: two frequencies in Hz, as 20,150.") from error
    if not 20 <= low < high <= 20000:
        raise UserError(f"A band goes from 20 to 20000 Hz and upwards: “{text}” does not.")
    return low, high


@app.command("align")
def align_files(
    first: Annotated[Path, typer.Argument(metavar="A")],
    second: Annotated[Path, typer.Argument(metavar="B")],
    band: Annotated[str, typer.Option(help="The band that decides, in Hz.")] = "20,20000",
    out: Annotated[Path | None, typer.Option("-o", "--out", help="A WAV for the aligned sum.")] = None,
    as_json: AsJson = False,
) -> None:
    """Find the offset and polarity of B with which it adds up best with A."""
    a, b = read(first), read(second)
    other = change_rate(b.samples, b.rate, a.rate)
    found = alignment.align(a.samples, other, a.rate, _band(band))
    if not found.gain_db:
        raise UserError(f"{first} and {second} have nothing in the band {band} Hz to be aligned by.")
    if out is not None:
        both = alignment.joined(a.samples, other, found.offset_ms, found.polarity, a.rate)
        write(out, encode_wav24(below_full_scale(both)[0], a.rate))
    if as_json:
        print_json(asdict(found))
        return
    gains = "  ".join(f"{name} {db:+.1f}" for name, db in found.gain_db.items())
    print_table([("offset of B", f"{found.offset_ms:+.4f} ms"),
            ("polarity of B", "inverted" if found.polarity < 0 else "normal"),
            ("correlation", f"{found.correlation:.2f}"), ("gain per band, dB", gains)])  # fmt: skip
