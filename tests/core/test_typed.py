"""What is typed is understood with its unit, or refused with the reason."""

import pytest

from juglant.api.brief import controls
from juglant.core.errors import UserError
from juglant.core.typed import typed_value


def _typed(text: str, unit: str, low: float = -1e6, high: float = 1e6) -> float:
    return typed_value(text, unit, low, high, 120.0, 440.0)


@pytest.mark.parametrize(
    ("text", "unit", "value"),
    [
        ("126 bpm", "BPM", 126.0), ("126", "BPM", 126.0), ("−3 dB", "dB", -3.0), ("-3,5", "dB", -3.5),
        ("-1 dBFS", "dBFS", -1.0), ("1/8", "ms", 250.0), ("1/8.", "ms", 375.0), ("1/16t", "ms", 1000 / 12),
        ("0.12 s", "ms", 120.0), ("80ms", "ms", 80.0), ("1.2 kHz", "Hz", 1200.0), ("1.2k", "Hz", 1200.0),
        # Equal temperament at A4 = 440 Hz, as any table of it has them.
        ("A#1", "Hz", 58.270), ("a2", "Hz", 110.0), ("50 cents", "st", 0.5), ("1 octave", "st", 12.0),
        ("50 %", "", 0.5), ("50 %", "%", 50.0), ("  7  ", "", 7.0),
        ("90 ms", "s", 0.09), ("2 min", "s", 120.0), ("80 cm", "m", 0.8), ("4:1", ":1", 4.0),
        ("7 st", "oct", 7 / 12), ("2 octaves", "oct", 2.0), ("-14 LUFS", "LUFS", -14.0), (".5", "", 0.5),
    ],
)  # fmt: skip
def test_units_note_values_and_notes_are_understood(text: str, unit: str, value: float) -> None:
    assert _typed(text, unit) == pytest.approx(value, abs=1e-3)


@pytest.mark.parametrize(
    ("unit", "words"),
    [
        ("ms", {"ms": 1.0, "s": 1000.0, "sec": 1000.0}),
        ("s", {"s": 1.0, "sec": 1.0, "ms": 0.001, "min": 60.0}),
        ("m", {"m": 1.0, "cm": 0.01}), ("Hz", {"Hz": 1.0, "kHz": 1000.0, "k": 1000.0}),
        ("dB", {"dB": 1.0, "dBFS": 1.0, "LUFS": 1.0, "LU": 1.0, "dBTP": 1.0}),
        ("st", {"st": 1.0, "semitone": 1.0, "semitones": 1.0, "cent": 0.01, "cents": 0.01, "¢": 0.01,
                "octave": 12.0, "octaves": 12.0}),
        ("oct", {"oct": 1.0, "octave": 1.0, "octaves": 1.0, "st": 1 / 12, "semitone": 1 / 12,
                 "semitones": 1 / 12}),
        ("BPM", {"bpm": 1.0}), (":1", {":1": 1.0}), ("%", {"%": 1.0}),
        ("", {"%": 0.01, "x": 1.0, "×": 1.0}), ("×", {"%": 0.01, "x": 1.0}),
    ],
)  # fmt: skip
def test_each_word_behind_a_number_has_its_worth(unit: str, words: dict[str, float]) -> None:
    for word, worth in words.items():
        assert _typed(f"3 {word}", unit) == pytest.approx(3 * worth, rel=1e-9), word


def test_every_unit_of_a_control_is_understood() -> None:
    for name, sheet in controls().items():
        for control in sheet.controls:
            value = typed_value(
                f"{control.default:.9f} {control.unit}",
                control.unit,
                control.low,
                control.high,
                120.0,
                440.0,
            )
            assert value == pytest.approx(control.default, abs=1e-6), (name, control.name)


@pytest.mark.parametrize(
    ("text", "unit", "said"),
    [
        ("loud", "dB", "“loud” is not a level, such as −3 dB."), ("3 Hz", "dB", "is not a level"),
        ("H2", "Hz", "is not a frequency, such as 58 Hz, 1.2 kHz or A#1."), ("1/7", "ms", "is not a length"),
        ("", "ms", "is not a length"), ("1e3", "", "is not a number"), ("nan", "", "is not a number"),
        ("3 3", "", "is not a number"),
    ],
)  # fmt: skip
def test_what_is_not_understood_is_said(text: str, unit: str, said: str) -> None:
    with pytest.raises(UserError, match=said.replace(".", r"\.")):
        _typed(text, unit)


def test_nothing_is_clamped() -> None:
    assert _typed("2 kHz", "Hz", 20.0, 2000.0) == 2000.0
    with pytest.raises(UserError, match="“2001” is out of range: 20 to 2000 Hz"):
        _typed("2001", "Hz", 20.0, 2000.0)
    with pytest.raises(UserError, match="out of range: −60 to 24 dB"):
        _typed("-61", "dB", -60.0, 24.0)
