"""The same core from a shell."""

import json
import sys
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Annotated, Any, TypeVar

import numpy as np
import typer
from numpy.typing import NDArray
from pydantic import BaseModel, ValidationError

from juglant.core import RATE, music
from juglant.core.errors import UserError
from juglant.core.hits import align as alignment
from juglant.core.hits.retune import retuned
from juglant.core.lowend import tuning
from juglant.core.lowend.pair import duck_pair
from juglant.core.lowend.session import Session
from juglant.core.measure import levels, takes
from juglant.core.measure.hit import HitNumbers, measure
from juglant.core.measure.partials import partials
from juglant.core.measure.stereo import listening_channel
from juglant.core.process.resampling import change_rate
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.hit import Hit, MadeKick
from juglant.core.recipes.kick import KickRecipe
from juglant.core.recipes.recording import Recording
from juglant.core.recipes.track import TrackState
from juglant.files.audio import Audio, decode, encode_wav24
from juglant.files.handover import plain_name
from juglant.files.tables import curve_csv

Array = NDArray[np.float64]

app = typer.Typer(
    help="Measure, tune, cut, align and duck kicks, hits and basses; serve the application.",
    add_completion=False, pretty_exceptions_enable=False, no_args_is_help=True,
)  # fmt: skip

AsJson = Annotated[bool, typer.Option("--json", help="Print JSON.")]
A4 = Annotated[float, typer.Option("--a4", min=400, max=480, help="Tuning reference in Hz.")]
Bpm = Annotated[float, typer.Option("--bpm", min=40, max=220, help="Tempo.")]


def _read(path: Path) -> Audio:
    try:
        data = path.read_bytes()
    except OSError as error:
        raise UserError(f"{path} cannot be read: {error.strerror}.") from error
    return decode(data, path.name)


def _write(path: Path, data: bytes | str) -> None:
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(data.encode() if isinstance(data, str) else data)
    except OSError as error:
        raise UserError(f"{path} cannot be written: {error.strerror}.") from error


def _below_full_scale(x: Array) -> tuple[Array, float]:
    """`x` turned down where it would clip, and by how many dB."""
    peak = float(np.max(np.abs(x)))
    gain = min(1.0, 0.999 / peak) if peak > 0 else 1.0
    return x * gain, 20 * float(np.log10(gain))


def _print_json(value: Any) -> None:
    print(json.dumps(value, indent=2, ensure_ascii=False))


def _table(rows: list[tuple[str, str]]) -> None:
    for name, value in rows:
        print(f"  {name:<22}{value}")


def _shown(value: float | None, unit: str, digits: int = 1) -> str:
    return "–" if value is None else f"{value:.{digits}f} {unit}"


def _hit_rows(hit: HitNumbers) -> list[tuple[str, str]]:
    if hit.fundamental_hz is None or hit.cents is None or hit.fundamental_sigma_cents is None:
        pitch = f"none: {hit.reasons.get('fundamental_hz', 'not measurable')}"
    else:
        pitch = (
            f"{hit.note} {hit.cents:+.1f} cents ± {hit.fundamental_sigma_cents:.1f}"
            f"  ({hit.fundamental_hz:.2f} Hz, confidence {hit.pitch_confidence:.2f})"
        )
    rows = [
        ("note", pitch),
        ("settles after", _shown(hit.settle_ms, "ms")),
        ("decay to -20 / -60 dB", f"{_shown(hit.decay20_ms, 'ms')} / {_shown(hit.decay60_ms, 'ms')}"),
        ("length", _shown(hit.length_ms, "ms")),
        ("peak / true peak", f"{hit.peak_dbfs:.2f} dBFS / {hit.true_peak_dbtp:.2f} dBTP"),
        ("crest", _shown(hit.crest_db, "dB")),
    ]
    if hit.bands_db:
        rows.append(("bands, dB", "  ".join(f"{name} {db:.0f}" for name, db in hit.bands_db.items())))
    return rows


@app.command("measure")
def measure_files(files: list[Path], a4: A4 = 440.0, as_json: AsJson = False) -> None:
    """Print the numbers of one hit or several."""
    found = []
    for path in files:
        audio = _read(path)
        hit = measure(audio.samples, audio.rate, a4).hit
        heard = listening_channel(audio.samples)
        tones = partials(heard, audio.rate, hit.onset_ms, a4) if hit.onset_ms is not None else []
        found.append((path, hit, tones if len(tones) > 1 else []))
    if as_json:
        listed = [
            {"file": str(path), **hit.as_dict(), "partials": [one.as_dict() for one in tones]}
            for path, hit, tones in found
        ]
        _print_json(listed[0] if len(listed) == 1 else listed)
        return
    for path, hit, tones in found:
        print(path)
        rows = [
            ("partial" if n else "partials",
             f"{one.hz:.1f} Hz  {one.note} {one.cents:+.0f}  {one.level_db:.0f} dB  x {one.ratio:.3f}")
            for n, one in enumerate(tones)
        ]  # fmt: skip
        _table([*_hit_rows(hit), *rows])


@dataclass(frozen=True)
class _Wish:
    """What a file is to be tuned to, and how."""

    to: str | None
    key: str | None
    a4: float
    keep_length: bool
    straighten: bool
    spare_ms: float

    def move(self, hit: HitNumbers, file: Path) -> tuning.Move:
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


def _tune_file(file: Path, out: Path, wish: _Wish) -> tuple[tuning.Move, float, dict[str, Any]]:
    """Tune one file; the move, the gain in dB, and what there is to print as JSON."""
    audio = _read(file)
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
    tuned, gain_db = _below_full_scale(tuned)
    after = measure(tuned, audio.rate, wish.a4).hit
    path = out
    if out.suffix.lower() != ".wav":
        name = after.note or move.note
        path = out / f"{plain_name(file.stem)}_{name.replace('#', 's')}.wav"
    _write(path, encode_wav24(tuned, audio.rate, after.fundamental_hz, wish.a4))
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
    """Retune hits so that they sound a note, by their measured fundamental."""
    if (to is None) == (key is None):
        raise UserError("Say either --to with a note or --key with a key.")
    if len(files) > 1 and out.suffix.lower() == ".wav":
        raise UserError(f"Several files go into a folder: {out} names one.")
    wish = _Wish(to, key, a4, keep_length, straighten, spare_ms)
    found = [_tune_file(file, out, wish) for file in files]
    if as_json:
        listed = [one for _, _, one in found]
        _print_json(listed[0] if len(listed) == 1 else listed)
        return
    for move, gain_db, one in found:
        print(one["file"])
        _table([("shift", f"{move.shift_semitones:+.3f} semitones ({move.shift_cents:+.1f} cents)"),
                ("gain", f"{gain_db:+.1f} dB"), *_hit_rows(HitNumbers(**one["after"]))])  # fmt: skip


def _beats(text: str) -> tuple[float, ...]:
    try:
        return Brief.model_validate({"kick_beats": [float(part) for part in text.split(",")]}).kick_beats
    except (ValueError, ValidationError) as error:
        raise UserError(
            f"“{text}” does not name beats of the bar: numbers from 1 to 4.75 in sixteenths, as 1,2.5,4."
        ) from error


@app.command()
def duck(
    kick: Annotated[Path, typer.Option(help="The kick, a one-shot.")],
    bass: Annotated[Path, typer.Option(help="The bass, a loop or a stretch of it.")],
    bpm: Bpm,
    out: Annotated[Path, typer.Option("-o", "--out", help="The folder to write into.")],
    kicks: Annotated[str, typer.Option(help="Beats of the bar with a kick.")] = "1,2,3,4",
    as_json: AsJson = False,
) -> None:
    """Duck a bass under a kick; writes bass_ducked.wav, mix.wav and curve.csv."""
    hit, line = _read(kick), _read(bass)
    pair = duck_pair(
        change_rate(hit.samples, hit.rate, line.rate), line.samples, line.rate, bpm, _beats(kicks)
    )
    mix, gain_db = _below_full_scale(pair.mix)
    ducked, _ = _below_full_scale(pair.ducked)
    _write(out / "bass_ducked.wav", encode_wav24(ducked, line.rate))
    _write(out / "mix.wav", encode_wav24(mix, line.rate))
    _write(out / "curve.csv", curve_csv(pair.gain_db, line.rate))
    if as_json:
        _print_json({
            "before": pair.before.as_dict(), "after": pair.after.as_dict(),
            "duck": {**pair.duck.as_dict(), "settings": pair.recipe.model_dump()},
            "complete": pair.complete, "is_loop": pair.is_loop, "mix_gain_db": gain_db,
            "mix_true_peak_dbtp": levels.true_peak_dbtp(mix),
        })  # fmt: skip
        return
    recipe = pair.recipe
    print(out)
    _table([
        ("collision per kick", f"{pair.before.collision_ms:.0f} ms -> {pair.after.collision_ms:.0f} ms"),
        ("depth", f"{recipe.depth_db:g} dB"),
        ("attack, hold, release", f"{recipe.attack_ms:g}, {recipe.hold_ms:g}, {recipe.release_ms:g} ms"),
        ("lookahead", f"{recipe.lookahead_ms:g} ms"),
        ("bass is back after", _shown(pair.duck.returns_ms, "ms")),
        ("slack to the next kick", _shown(pair.duck.slack_ms, "ms")),
        ("click risk", _shown(pair.duck.click_risk, "dB/ms")),
        ("mix turned down by", f"{-gain_db:.1f} dB"),
    ])  # fmt: skip


M = TypeVar("M", bound=BaseModel)


def _checked(model: type[M], data: Any, who: str) -> M:
    """`data` as a recipe; a user's mistake is a sentence that names its place."""
    try:
        return model.model_validate(data)
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(part) for part in first["loc"]) or "the recipe"
        raise UserError(f"{who}: {place}: {first['msg']}.") from error


@app.command()
def render(
    recipe: Path,
    out: Annotated[Path, typer.Option("-o", "--out", help="The WAV to write.")],
    bpm: Bpm = 128.0,
) -> None:
    """Render a recipe: a kick's fields, a hit with layers and chains, or a whole track state (its mix)."""
    try:
        data = json.loads(recipe.read_text("utf-8"))
    except OSError as error:
        raise UserError(f"{recipe} cannot be read: {error.strerror}.") from error
    except ValueError as error:
        raise UserError(f"{recipe} is not JSON: {error}.") from error
    if not isinstance(data, dict):
        raise UserError(f"{recipe} does not hold a recipe: it must be a JSON object.")
    if {"brief", "kick", "bass", "duck"} & data.keys():
        model: type[TrackState] | type[Hit] | type[KickRecipe] = TrackState
    else:
        model = Hit if {"layers", "kind", "source"} & data.keys() else KickRecipe
    wanted = _checked(model, data, str(recipe))
    if isinstance(wanted, KickRecipe):
        wanted = Hit.of(MadeKick(recipe=wanted))
    if wanted.audio:
        raise UserError(f"{recipe} uses an imported sound, which lives in a studio, not in a recipe.")
    if isinstance(wanted, TrackState):
        samples, hz = Session().answer(wanted).mix_after.samples, None
    else:
        samples = Session().hits.hit(wanted, bpm)
        hz = measure(samples, RATE).hit.fundamental_hz
    _write(out, encode_wav24(_below_full_scale(samples)[0], RATE, hz))


@app.command("slice")
def slice_file(
    file: Path,
    out: Annotated[Path, typer.Option("-o", "--out", help="The folder to write into.")],
    threshold_db: Annotated[
        float, typer.Option(help="How far the level must rise to make a take.")
    ] = takes.THRESHOLD_DB,
    min_gap_ms: Annotated[
        float, typer.Option(help="Two takes lie at least this far apart.")
    ] = takes.MIN_GAP_MS,
    a4: A4 = 440.0,
    as_json: AsJson = False,
) -> None:
    """Cut a recording into takes; writes one WAV for each."""
    audio = _read(file)
    x, rate = audio.samples, audio.rate
    limits = {"threshold_db": threshold_db, "min_gap_ms": min_gap_ms}
    how = _checked(Recording, {"audio": "0" * 64, "name": file.name[:200], **limits}, "slice")
    found = []
    for number, where in enumerate(takes.cut(x, rate, how.threshold_db, how.min_gap_ms), 1):
        numbers = takes.take_numbers(x, rate, where, a4)
        path = out / f"{plain_name(file.stem)}_take{number:03d}_{numbers.job}.wav"
        _write(path, encode_wav24(takes.piece_of(x, rate, where), rate))
        found.append({"file": str(path), **asdict(numbers)})
    if not found:
        raise UserError(f"{file} holds no onset that rises by {threshold_db:g} dB: try a lower threshold.")
    if as_json:
        _print_json(found)
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
    a, b = _read(first), _read(second)
    other = change_rate(b.samples, b.rate, a.rate)
    found = alignment.align(a.samples, other, a.rate, _band(band))
    if not found.gain_db:
        raise UserError(f"{first} and {second} have nothing in the band {band} Hz to be aligned by.")
    if out is not None:
        both = alignment.joined(a.samples, other, found.offset_ms, found.polarity, a.rate)
        _write(out, encode_wav24(_below_full_scale(both)[0], a.rate))
    if as_json:
        _print_json(asdict(found))
        return
    gains = "  ".join(f"{name} {db:+.1f}" for name, db in found.gain_db.items())
    _table([("offset of B", f"{found.offset_ms:+.4f} ms"),
            ("polarity of B", "turned" if found.polarity < 0 else "as it is"),
            ("correlation", f"{found.correlation:.2f}"), ("gain per band, dB", gains)])  # fmt: skip


@app.command()
def serve(
    port: Annotated[int, typer.Option(min=0, max=65535, help="0 takes a free one.")] = 8137,
    data: Annotated[Path | None, typer.Option(help="Folder of the studio file.")] = None,
    demo: Annotated[bool, typer.Option("--demo", help="Invented tracks, thrown away at the end.")] = False,
) -> None:
    """Serve the application on this machine only."""
    if demo and data is not None:
        raise UserError("The demo keeps its own data: leave out --data.")
    # Only here: the other commands start without the web server's weight.
    from juglant.api.serve import serve_demo, serve_studio

    if demo:
        serve_demo(port)
    else:
        serve_studio(port, data)


def main(arguments: list[str] | None = None) -> None:
    """Run a command (of the shell, where none is given) and leave with its exit code.

    A user's mistake is one line on stderr and exit code 2.
    """
    try:
        status = app(arguments, standalone_mode=False)
    except UserError as error:
        print(f"juglant: {error.message}", file=sys.stderr)
        sys.exit(2)
    except typer.exceptions.TyperException as error:
        said = error.format_message() if hasattr(error, "format_message") else str(error)
        print(f"juglant: {' '.join(said.split())}", file=sys.stderr)
        sys.exit(2)
    except (KeyboardInterrupt, typer.Abort):
        sys.exit(130)
    sys.exit(status if isinstance(status, int) else 0)
