"""Kinds of one-shots, against the drum map of General MIDI System Level 1 (recorded instruments)."""

from collections import Counter

import numpy as np
import pytest
from scipy import signal

from bench.instruments import BASSES, RATE, SET, played
from bench.kinds import drums
from juglant.core.stock.kinds import Kind, guessed, said_by
from juglant.core.stock.known import known

Array = np.ndarray


def _kind(x: Array, name: str = "a.wav") -> str:
    found = known(x, RATE)
    return guessed(found.odds, found.reasons, name).kind


@pytest.mark.parametrize("kit", [0, 25])
def test_drums_are_told_by_their_sound_alone(kit: int) -> None:
    # These sets were learned from; struck softer, and a tone lower, as they were not.
    shots = drums(SET, (kit,), (100,))
    lower = [(kind, np.asarray(signal.resample_poly(x, 9, 8, axis=0))) for kind, x in shots[::3]]
    told = Counter((kind, _kind(x)) for kind, x in [*shots, *lower])
    right = sum(count for (kind, said), count in told.items() if kind == said)
    assert right / told.total() >= 0.95, sorted(told.items())


def test_basses_and_loops_are_no_drums() -> None:
    wrong = {"kick", "snare", "clap", "hat", "tom", "percussion"}
    for program in BASSES.values():
        assert _kind(played([(0.0, 0.8, 33, 100)], 1.5, program)) not in wrong
    loop = played(
        [(beat * 0.5, 0.1, key, 100) for beat in range(8) for key in ((36, 42) if beat % 2 else (38, 42))],
        4.0, 0, drums=True,
    )  # fmt: skip
    found = known(loop, RATE)
    assert guessed(found.odds, found.reasons, "x.wav").kind == "loop"
    assert found.loop is not None
    assert found.loop.bpm == pytest.approx(120.0, abs=1.0)


@pytest.mark.parametrize(
    ("path", "kind"),
    [
        ("Drums/Kicks/hard 03.wav", "kick"), ("BD_deep.wav", "kick"), ("808 long F.wav", "808"),
        ("OpenHat_07.wav", "hat"), ("kit/HH closed.aif", "hat"), ("Snares/clap-ish.wav", "clap"),
        ("LowTom2.wav", "tom"), ("perc/conga.wav", "percussion"), ("Top Loop 126bpm.wav", "loop"),
        ("Kickstarter/a1.wav", None), ("atom.wav", None), ("Шум/проба.wav", None),
    ],
)  # fmt: skip
def test_what_a_name_says(path: str, kind: str | None) -> None:
    # Common practice of naming; a word inside another one says nothing.
    assert said_by(path) == kind


def test_a_name_settles_what_sounds_like_two_things_and_no_more() -> None:
    close: dict[Kind, float] = {"kick": np.log(0.45), "tom": np.log(0.5), "snare": np.log(0.05)}
    assert guessed(close, (), "a.wav").kind == "tom"
    assert guessed(close, (), "kick a.wav").kind == "kick"
    clear: dict[Kind, float] = {"hat": np.log(0.99), "kick": np.log(0.001)}
    assert guessed(clear, (), "kick a.wav").kind == "hat"
