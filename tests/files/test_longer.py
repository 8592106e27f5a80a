"""Files longer than a sound may be, written by the audio library and by an independent encoder."""

import tracemalloc
from pathlib import Path

import numpy as np
import pytest
import soundfile

from juglant.core.errors import UserError
from juglant.files.longer import outline, stretch
from tests.files.test_film import film
from tests.signals import Array, sine

RATE = 8_000


def _clicks(seconds: float, at_s: tuple[float, ...]) -> Array:
    """Half-loud clicks of 2 ms in next to nothing."""
    x = np.full(round(seconds * RATE), 1e-4)
    for at in at_s:
        x[round(at * RATE) :][:16] = 0.5
    return x


@pytest.mark.parametrize("kind", ["long.wav", "long.flac", "long.mp3"])
def test_a_long_file_is_drawn_and_cut_where_it_is_asked_for(tmp_path: Path, kind: str) -> None:
    path = tmp_path / kind
    soundfile.write(path, _clicks(100.0, (12.0, 80.5)), RATE)
    seen = outline(path, kind, 200)
    # Coding pads a file by a frame or two.
    assert seen.seconds == pytest.approx(100.0, abs=0.4)
    assert len(seen.lows) == len(seen.highs) == 200
    assert np.flatnonzero(np.array(seen.highs) > 0.1).tolist() == [24, 161]
    found = stretch(path, kind, 80.0, 1.0)
    assert (found.rate, found.samples.shape) == (RATE, (RATE,))
    loud = np.flatnonzero(np.abs(found.samples) > 0.1)
    assert 1000 * loud[0] / RATE == pytest.approx(500.0, abs=0.2)


def test_what_is_cut_of_a_plain_file_is_its_own_samples(tmp_path: Path) -> None:
    path = tmp_path / "two.wav"
    x = np.random.default_rng(5).uniform(-0.5, 0.5, (70 * RATE, 2)).astype("f4")
    soundfile.write(path, x, RATE, "FLOAT")
    assert np.array_equal(stretch(path, "two", 9.25, 60.0).samples, x[74_000:554_000])
    # What it ends before is not made up.
    assert stretch(path, "two", 69.0, 10.0).samples.shape == (RATE, 2)
    for from_s, seconds, said in ((0.0, 60.1, "Up to 60 s"), (70.0, 1.0, "ends after 70.0 s")):
        with pytest.raises(UserError, match=said):
            stretch(path, "two", from_s, seconds)


@pytest.mark.thorough
def test_a_stretch_of_a_film_begins_where_it_is_asked_for(tmp_path: Path) -> None:
    path = tmp_path / "scene.mp4"
    x = np.concatenate([sine(200.0, 65.0, -20.0, 44_100), sine(800.0, 5.0, -20.0, 44_100)])
    path.write_bytes(film(x))
    assert outline(path, "scene").seconds == pytest.approx(70.0, abs=0.1)
    found = stretch(path, "scene", 64.0, 2.0)
    assert found.samples.shape == (88_200,)
    crossings = np.flatnonzero(np.diff(np.signbit(found.samples)))
    # Its second tone begins a second later: an encoder is late by up to two frames of 1024.
    turned = crossings[np.flatnonzero(np.diff(crossings) < 40)[0]]
    assert turned / 44_100 == pytest.approx(1.0, abs=0.05)


@pytest.mark.thorough
def test_no_more_is_held_than_the_stretch(tmp_path: Path) -> None:
    path = tmp_path / "long.wav"
    with soundfile.SoundFile(path, "w", 48_000, 2, "PCM_16") as file:
        for _ in range(300):
            file.write(np.full((48_000, 2), 0.25))
    tracemalloc.start()
    outline(path, "long")
    stretch(path, "long", 250.0, 10.0)
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    # Ten seconds in double precision are 7.7 MB, the whole file would be 230.
    assert peak < 3 * 7.7e6


def test_what_cannot_be_read_is_a_sentence(tmp_path: Path) -> None:
    path = tmp_path / "odd.wav"
    for data in (b"", b"RIFF", bytes(5000)):
        path.write_bytes(data)
        for ask in (lambda: outline(path, "odd"), lambda: stretch(path, "odd", 0.0, 1.0)):
            with pytest.raises(UserError, match="cannot be read"):
                ask()
    soundfile.write(path, np.full(3601 * 100, 0.1), 100)
    with pytest.raises(UserError, match="100 Hz"):
        outline(path, "odd")
    soundfile.write(path, np.full(3601 * 8_000, 0.1, "f4"), 8_000, "PCM_U8")
    with pytest.raises(UserError, match="lasts 3601 s; usable are up to 3600"):
        outline(path, "odd")
