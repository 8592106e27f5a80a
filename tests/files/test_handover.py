"""The hand-over as whoever receives it would open it."""

import csv
import io
import random
import re
import zipfile
from dataclasses import replace

import mido
import numpy as np
import pytest
import soundfile

from juglant.core.findings import findings
from juglant.core.lowend.linenotes import notes_of_lines
from juglant.core.lowend.overview import played_duckings
from juglant.core.lowend.session import Array, Session
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.ducking import Ducking
from juglant.core.recipes.hit import Hit
from juglant.core.recipes.notes import on_beats
from juglant.core.recipes.parts import Chord
from juglant.core.recipes.separate import BassCarve, SeparateRecipe
from juglant.core.recipes.track import TrackState
from juglant.files.handover import Shot, handover_files, hit_files, zipped
from juglant.files.names import file_names, plain_name
from juglant.files.sheet import track_sheet
from juglant.files.tables import curve_csv


def _nothing(digest: str) -> tuple[Array, int]:
    raise AssertionError(digest)


SESSION = Session(_nothing)
ANSWER = SESSION.answer(TrackState())


@pytest.fixture(scope="module")
def files() -> dict[str, bytes]:
    return handover_files(
        "Späte Nüsse / 3",
        ANSWER,
        findings(SESSION, ANSWER),
        [],
        {},
        {},
        played_duckings(SESSION, ANSWER.state),
        notes_of_lines(SESSION.sounds, ANSWER.state),
    )


def test_every_other_part_is_a_loop_of_its_own_at_its_level_among_them() -> None:
    rest = {"hat": np.full((1000, 2), 2.0), "tom": np.full(1000, 0.5)}
    hits = (Hit(name="Hat", kind="hat"), Hit(name="Tom", kind="tom"))
    answer = replace(ANSWER, state=TrackState.of(hits=hits))
    files = handover_files("x", answer, [], [], rest, {}, [], {})
    x, rate = soundfile.read(io.BytesIO(files["x_loop_hat_128bpm.wav"]))
    assert (x.shape, rate) == ((1000, 2), 48_000)
    assert np.max(x) == pytest.approx(0.999, abs=1e-3)
    tom, _ = soundfile.read(io.BytesIO(files["x_loop_tom_128bpm.wav"]))
    assert np.max(tom) == pytest.approx(0.999 / 4, abs=1e-3)


@pytest.mark.thorough
def test_every_ducking_is_handed_over_with_its_trigger_and_its_ducked_stem() -> None:
    duck = DuckRecipe(depth_db=6.0, hold_ms=20.0, release_ms=100.0)
    hat = Hit(id="hat", name="Hat", steps=on_beats(2))
    others = tuple(
        Ducking.model_validate({"id": id, "targets": [target], "duck": duck, **fields})
        for id, target, fields in (
            ("pads", "pad", {"rate": "1/8"}), ("hats", "hat", {"triggers": ["kick"]}),
            ("off", "hat", {"triggers": ["kick"], "on": False}),
        )
    )  # fmt: skip
    state = TrackState()
    state = TrackState(parts=(*state.parts, hat, Chord(id="pad")), duckings=(*state.duckings, *others))
    answer = SESSION.answer(state)
    rest = {"pad": np.full(answer.gain_db.size, 0.1)}
    files = handover_files("x", answer, [], [], rest, {}, played_duckings(SESSION, state), {})
    eighths = [name for name in files if "pad-by-1-8" in name]
    assert [name.split("1-8-")[1] for name in eighths] == [
        "control_128bpm.wav", "controller_128bpm.mid", "curve_128bpm.csv",
    ]  # fmt: skip
    assert "x_ducking-3_hat-by-kick-curve_128bpm.csv" in files
    assert not any("ducking-4" in name for name in files)
    assert "x_loop_pad-ducked_128bpm.wav" in files
    clicks, _ = soundfile.read(io.BytesIO(files["x_ghost-trigger-2_1-8_128bpm.wav"]))
    starts = np.flatnonzero((clicks[1:] > 0.5) & (clicks[:-1] < 0.5)) + 1
    # The loop begins with a click, which no sample comes before.
    assert np.diff([0, *starts]) == pytest.approx(60 / 128 / 2 * 48_000, abs=1)
    control, _ = soundfile.read(io.BytesIO(files[eighths[0]]))
    rows = files[eighths[2]].decode().splitlines()[1:]
    lowest = min(float(row.split(",")[1]) for row in rows)
    assert 20 * np.log10(control.min()) == pytest.approx(lowest, abs=0.05)
    assert lowest == pytest.approx(-6.0, abs=0.05)


def test_names_explain_themselves_and_sort(files: dict[str, bytes]) -> None:
    assert list(files) == sorted(files)
    assert list(files) == [
        "späte-nüsse-3_ducking-control_128bpm.wav",
        "späte-nüsse-3_ducking-controller_128bpm.mid",
        "späte-nüsse-3_ducking-curve_128bpm.csv",
        "späte-nüsse-3_ghost-trigger_128bpm.wav",
        "späte-nüsse-3_kick_G1_128bpm.wav",
        "späte-nüsse-3_line_128bpm.mid",
        "späte-nüsse-3_loop_bass-ducked_128bpm.wav",
        "späte-nüsse-3_loop_bass_128bpm.wav",
        "späte-nüsse-3_loop_kick_128bpm.wav",
        "späte-nüsse-3_loop_mix_128bpm.wav",
        "späte-nüsse-3_sheet.txt",
    ]


@pytest.mark.parametrize(
    ("given", "plain"),
    [("../../etc/passwd", "etc-passwd"), ("🙂", "track"), ("A#1 dub", "a#1-dub"), ("x" * 200, "x" * 60)],
)
def test_any_name_becomes_one_that_file_systems_take(given: str, plain: str) -> None:
    assert plain_name(given) == plain


def test_the_one_shot_peaks_at_minus_one_in_24_bit(files: dict[str, bytes]) -> None:
    data = files["späte-nüsse-3_kick_G1_128bpm.wav"]
    assert soundfile.info(io.BytesIO(data)).subtype == "PCM_24"
    x, _ = soundfile.read(io.BytesIO(data))
    assert 20 * np.log10(np.max(np.abs(x))) == pytest.approx(-1.0, abs=0.001)


@pytest.mark.thorough
def test_kick_and_ducked_bass_add_up_to_the_mix_and_the_curve_leads_from_bass_to_ducked(
    files: dict[str, bytes],
) -> None:
    parts = {}
    for part in ("kick", "bass", "bass-ducked", "mix"):
        parts[part], rate = soundfile.read(io.BytesIO(files[f"späte-nüsse-3_loop_{part}_128bpm.wav"]))
    assert np.allclose(parts["kick"] + parts["bass-ducked"], parts["mix"], rtol=0, atol=3e-7)
    rows = list(csv.DictReader(io.StringIO(files["späte-nüsse-3_ducking-curve_128bpm.csv"].decode())))
    at = np.array([float(row["time_ms"]) for row in rows])
    gain = np.array([float(row["gain_db"]) for row in rows])
    assert np.diff(at) == pytest.approx(np.ones(at.size - 1))
    frames = np.arange(parts["bass"].size) / rate * 1000
    again = parts["bass"] * 10 ** (np.interp(frames, at, gain) / 20)
    assert np.allclose(again, parts["bass-ducked"], rtol=0, atol=4e-3)


def test_the_ducking_leaves_as_control_signal_controller_data_and_ghost_trigger(
    files: dict[str, bytes],
) -> None:
    control, rate = soundfile.read(io.BytesIO(files["späte-nüsse-3_ducking-control_128bpm.wav"]))
    assert np.allclose(control, 10 ** (ANSWER.gain_db / 20), rtol=0, atol=1e-6)
    ghost, _ = soundfile.read(io.BytesIO(files["späte-nüsse-3_ghost-trigger_128bpm.wav"]))
    starts = np.flatnonzero((ghost[1:] > 0.5) & (ghost[:-1] <= 0.5)) + 1
    assert np.concatenate([[0], starts]) / rate * 1000 == pytest.approx(ANSWER.times_ms, abs=0.05)
    # Played back, the gain at every moment is within half a dB, where that is more than a value.
    midi = mido.MidiFile(file=io.BytesIO(files["späte-nüsse-3_ducking-controller_128bpm.mid"]))
    changes, at, now = [], [], 0.0
    for message in midi:
        now += message.time
        if message.type == "control_change":
            assert message.control == 11
            changes.append(message)
            at.append(now)
    for seconds in np.arange(0.0, 3.7, 0.00137):
        held = changes[int(np.searchsorted(at, seconds + 1e-6)) - 1].value
        wanted = 127 * 10 ** (ANSWER.gain_db[min(round(seconds * rate), control.size - 1)] / 20)
        off_db = abs(20 * np.log10(max(held, 0.5) / wanted))
        assert off_db < 0.5 or abs(held - wanted) < 1.0, seconds


def test_the_sheet_says_what_was_decided(files: dict[str, bytes]) -> None:
    sheet = files["späte-nüsse-3_sheet.txt"].decode()
    hit = ANSWER.kick.hit
    for said in (
        "Späte Nüsse / 3",
        "A minor",
        "128 BPM",
        f"{hit.note} ",
        "Sub owner",
        "Depth",
        "Collision",
        "as a compressor",
        "threshold",
        "differs from the curve by",
    ):
        assert said in sheet
    assert "hearing" in sheet


def test_the_zip_is_whole_and_the_same_each_time(files: dict[str, bytes]) -> None:
    data = zipped(files)
    assert data == zipped(files)
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        assert archive.testzip() is None
        assert archive.namelist() == list(files)


def test_a_curve_has_a_line_per_millisecond() -> None:
    text = curve_csv(np.linspace(0, -12, 480), 48_000)
    lines = text.splitlines()
    assert lines[0] == "time_ms,gain_db"
    assert len(lines) == 11
    assert lines[1] == "0.000,0.000"


def test_every_stroke_of_a_hit_leaves_as_a_one_shot_as_loud_as_it_is() -> None:
    loud, soft = 0.3 * np.ones((480, 2)), 0.03 * np.ones((480, 2))
    strokes = [Shot("crate_to100_rr1", loud, 98.0, "G2"), Shot("crate_to040_rr1", soft, 98.0, "G2")]
    files = hit_files("one", "120bpm", strokes, 440.0)
    assert sorted(files) == [
        "one_hit_crate_to040_rr1_G2_120bpm.wav",
        "one_hit_crate_to100_rr1_G2_120bpm.wav",
    ]
    peaks = {}
    for name, data in files.items():
        x, rate = soundfile.read(io.BytesIO(data))
        assert x.shape == (480, 2)
        assert rate == 48_000
        peaks[name] = 20 * np.log10(np.max(np.abs(x)))
    assert max(peaks.values()) == pytest.approx(-1.0, abs=0.01)
    assert min(peaks.values()) == pytest.approx(-21.0, abs=0.01)


def test_the_sheet_tells_what_kick_and_bass_give_up() -> None:
    state = ANSWER.state.model_copy(update={
        "separate": SeparateRecipe(bass=BassCarve(highpass_hz=62.0, polarity="inverted")),
    })  # fmt: skip
    sheet = track_sheet("One", SESSION.answer(state), [])
    assert "Bass gives up" in sheet
    assert "62 Hz" in sheet
    assert "Kick gives up" not in sheet


def test_two_hundred_random_names_give_as_many_files() -> None:
    """No part's file replaces another's, whatever they are called and in which script."""
    by = random.Random(14)
    letters = "абвгде АБВ漢字かなéüßÆ#-_/\\:*?.. 'ABab01🙂"
    names = {"Mix", "Bass", "Bass ducked", "Kick 2", "Tom A", "Tom-A", "Tom/A", "con", "..", "🙂", "♯"}
    while len(names) < 200:
        made = "".join(by.choice(letters) for _ in range(by.randrange(1, 30))).strip()
        if made and made.lower() not in {name.lower() for name in names}:
            names.add(made)
    every = [Hit(id=f"id-{n}", name=name) for n, name in enumerate(sorted(names))]
    for first in range(0, 200, 25):
        hits = every[first : first + 25]
        told = file_names(TrackState.of(hits=tuple(hits)))
        files = [told[part.id].lower() for part in TrackState.of(hits=tuple(hits)).parts]
        assert len(set(files)) == len(hits) + 2
        assert not {"mix", "bass-ducked"} & set(files)
        assert all(re.fullmatch(r"[^/\\:*?\"<>|\s.]+", name) for name in files)
        assert all(len(name.encode()) < 140 for name in files)


@pytest.mark.parametrize(
    ("given", "plain"), [("Бочка 2", "бочка-2"), ("太鼓", "太鼓"), ("Nüsse / Écho", "nüsse-écho")]
)
def test_names_keep_their_letters(given: str, plain: str) -> None:
    assert plain_name(given) == plain
