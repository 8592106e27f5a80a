"""The command that is asked most: it reads no more of the core than what measures."""

from pathlib import Path

from juglant.cli.app import app
from juglant.cli.common import A4, AsJson, Refused, print_json, print_table, read, shown
from juglant.core.measure.hit import HitNumbers, measure
from juglant.core.measure.partials import Partial, partials
from juglant.core.measure.stereo import listening_channel


def hit_rows(hit: HitNumbers) -> list[tuple[str, str]]:
    """A hit's numbers for people."""
    if hit.fundamental_hz is None or hit.cents is None or hit.fundamental_sigma_cents is None:
        pitch = f"none: {hit.reasons.get('fundamental_hz', 'not measurable')}"
    else:
        pitch = (
            f"{hit.note} {hit.cents:+.1f} cents ± {hit.fundamental_sigma_cents:.1f}"
            f"  ({hit.fundamental_hz:.2f} Hz, confidence {hit.pitch_confidence:.2f})"
        )
    rows = [
        ("note", pitch),
        ("settles after", shown(hit.settle_ms, "ms")),
        ("decay to -20 / -60 dB", f"{shown(hit.decay20_ms, 'ms')} / {shown(hit.decay60_ms, 'ms')}"),
        ("length", shown(hit.length_ms, "ms")),
        ("peak / true peak", f"{hit.peak_dbfs:.2f} dBFS / {hit.true_peak_dbtp:.2f} dBTP"),
        ("crest", shown(hit.crest_db, "dB")),
    ]
    if hit.bands_db:
        rows.append(("bands, dB", "  ".join(f"{name} {db:.0f}" for name, db in hit.bands_db.items())))
    return rows


@app.command("measure")
def measure_files(files: list[Path], a4: A4 = 440.0, as_json: AsJson = False) -> None:
    """Print the numbers of one hit or several; what cannot be read is said at the end."""
    found, refused = [], Refused()
    for path in files:
        with refused.here():
            audio = read(path)
            hit = measure(audio.samples, audio.rate, a4).hit
            heard = listening_channel(audio.samples)
            tones = partials(heard, audio.rate, hit.onset_ms, a4) if hit.onset_ms is not None else []
            found.append((path, hit, tones if len(tones) > 1 else []))
    _print_measured(found, as_json=as_json, alone=len(files) == 1)
    refused.tell()


def _print_measured(
    found: list[tuple[Path, HitNumbers, list[Partial]]], *, as_json: bool, alone: bool
) -> None:
    if alone and not found:
        return
    if as_json:
        listed = [
            {"file": str(path), **hit.as_dict(), "partials": [one.as_dict() for one in tones]}
            for path, hit, tones in found
        ]
        print_json(listed[0] if alone else listed)
        return
    for path, hit, tones in found:
        print(path)
        rows = [
            ("partial" if n else "partials",
             f"{one.hz:.1f} Hz  {one.note} {one.cents:+.0f}  {one.level_db:.0f} dB  x {one.ratio:.3f}")
            for n, one in enumerate(tones)
        ]  # fmt: skip
        print_table([*hit_rows(hit), *rows])
