"""Values as people type them: with units, as note values, as notes."""

import re

from juglant.core.errors import UserError
from juglant.core.music import parse_pitch
from juglant.core.tempo import NOTE_VALUES, note_value_ms

_NUMBER = re.compile(r"^([+-]?(?:\d+\.?\d*|\.\d+))\s*(\S*)$")
# What may stand behind a number, by the unit of the control, and what it is worth in that.
_LEVEL = {"db": 1.0, "dbfs": 1.0, "lufs": 1.0, "lu": 1.0, "dbtp": 1.0}
_SHARE = {"%": 0.01, "x": 1.0, "×": 1.0}
_UNITS: dict[str, dict[str, float]] = {
    "ms": {"ms": 1.0, "s": 1000.0, "sec": 1000.0},
    "s": {"s": 1.0, "sec": 1.0, "ms": 0.001, "min": 60.0},
    "m": {"m": 1.0, "cm": 0.01},
    "Hz": {"hz": 1.0, "khz": 1000.0, "k": 1000.0},
    "dB": _LEVEL, "dBFS": _LEVEL, "LUFS": _LEVEL,
    "st": {"st": 1.0, "semitone": 1.0, "semitones": 1.0, "cent": 0.01, "cents": 0.01, "¢": 0.01,
           "octave": 12.0, "octaves": 12.0},
    "oct": {"oct": 1.0, "octave": 1.0, "octaves": 1.0, "st": 1 / 12,
            "semitone": 1 / 12, "semitones": 1 / 12},
    "BPM": {"bpm": 1.0}, ":1": {":1": 1.0}, "%": {"%": 1.0}, "": _SHARE, "×": _SHARE,
}  # fmt: skip
_SUCH_AS = {
    "ms": "a length, such as 120 ms, 0.12 s or 1/8", "s": "a time, such as 1.5 s, 90 ms or 2 min",
    "m": "a distance, such as 1.2 m", "Hz": "a frequency, such as 58 Hz, 1.2 kHz or A#1",
    "dB": "a level, such as −3 dB", "dBFS": "a level, such as −3 dB", "LUFS": "a level, such as −14 LUFS",
    "st": "an interval, such as 7 st or 50 cents", "oct": "an interval, such as 2 octaves or 7 st",
    "BPM": "a tempo, such as 126 bpm", ":1": "a ratio, such as 4:1", "%": "a share, such as 50 %",
}  # fmt: skip


def typed_value(text: str, unit: str, low: float, high: float, bpm: float, a4_hz: float) -> float:
    """What was typed into a control of `unit` that runs from `low` to `high`, in that unit.

    A comma is a point, a typographic minus a minus. Lengths may be note values at `bpm`, frequencies notes
    at `a4_hz`. UserError where it is not understood or out of range: nothing is clamped in silence.

    Parameters
    ----------
    text
        What was typed.
    unit
        Of the control.
    low
        Its least value.
    high, bpm
        Its greatest value; tempo.
    a4_hz
        Tuning reference.

    Returns
    -------
    float
        In the control’s unit.

    Examples
    --------
    >>> typed_value("1/4", "ms", 0.0, 5000.0, 120.0, 440.0)
    500.0
    >>> typed_value("A1", "Hz", 20.0, 200.0, 120.0, 440.0)
    55.0
    """
    plain = text.strip().replace("−", "-").replace(",", ".")
    value = _understood(plain, unit, bpm, a4_hz)
    if value is None:
        raise UserError(f"“{text.strip()}” is not {_SUCH_AS.get(unit, 'a number')}.", "text")
    if not low <= value <= high:
        said = f"{low:g} to {high:g} {unit}".replace("-", "−").strip()
        raise UserError(f"“{text.strip()}” is out of range: {said}.", "text")
    return value


def _understood(text: str, unit: str, bpm: float, a4_hz: float) -> float | None:
    if unit == "ms" and text in NOTE_VALUES:
        return note_value_ms(text, bpm)
    match = _NUMBER.match(text)
    if match is None:
        try:
            return parse_pitch(text, a4_hz) if unit == "Hz" and text[:1].isalpha() else None
        except UserError:
            return None
    worth = 1.0 if not match[2] else _UNITS.get(unit, {}).get(match[2].lower())
    return None if worth is None else float(match[1]) * worth
