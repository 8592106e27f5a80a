"""A loop taken apart into hits is the loop as it was, and can be edited."""

from itertools import count
from typing import Any

import numpy as np
import pytest

from juglant.core.errors import UserError
from juglant.core.lowend.session import Session
from juglant.core.lowend.sliced import as_hits
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.parts import Chord, ImportedBass, Stem, Voice
from juglant.core.recipes.place import Place
from juglant.core.recipes.track import TrackState
from tests.signals import RATE, Array, sine

LOOP, TONE = "a" * 64, "b" * 64
SIXTEENTH = RATE // 8
NOISE = np.random.default_rng(7).standard_normal(RATE)


def _hat(frames: int) -> Array:
    hat: Array = np.diff(NOISE[: frames + 1], n=1) * np.exp(-np.arange(frames) / (0.012 * RATE))
    return np.asarray(0.2 * hat)


def _kick(frames: int) -> Array:
    at = np.arange(frames) / RATE
    sweep = np.sin(2 * np.pi * (55 * at + 6 * (1 - np.exp(-at / 0.02))))
    return np.asarray(0.8 * sweep * np.exp(-at / 0.06) + 0.1 * _hat(frames))


# Two bars at 120 BPM: a kick on every beat, hats between, one of them 8 ms late and one half as loud.
STRUCK = np.zeros(32 * SIXTEENTH)
for n in range(0, 32, 2):
    piece = _kick(2 * SIXTEENTH) if n % 4 == 0 else _hat(2 * SIXTEENTH) * (0.5 if n == 10 else 1.0)
    start = n * SIXTEENTH + (round(0.008 * RATE) if n == 6 else 0)
    STRUCK[start : start + piece.size] += piece[: STRUCK.size - start]
FILES = {LOOP: STRUCK, TONE: sine(110.0, 2.0)}


def _session() -> Session:
    return Session(lambda digest: (FILES[digest], RATE))


def _state(bpm: float = 120.0, bars: int = 2, **fields: object) -> TrackState:
    stem = Stem.model_validate({"id": "stem", "name": "Break", "audio": LOOP, **fields})
    return TrackState.of(brief=Brief(bpm=bpm, chord_roots=("tonic",) * bars), stems=(stem,))


def _cut(state: TrackState) -> tuple[TrackState, list[str]]:
    ids = count()
    found = as_hits(_session(), state, "stem", lambda: f"new-{next(ids)}")
    return found.state, found.names


def _sound(state: TrackState, *ids: str) -> Array:
    session = _session()
    loops = [session.parts.part(state, id) for id in ids]
    whole: Array = np.sum([loop.mono for loop in loops if loop is not None], axis=0)
    return whole


@pytest.mark.parametrize(
    ("bpm", "fields", "limit_db"),
    [
        (120.0, {}, -35), (120.0, {"place": Place(gain_db=-6.0, pan=0.3)}, -35),
        # Between two frames a slice falls on either: noise shows that, no ear hears it.
        (104.0, {"fit": "by slices", "own_bpm": 120.0}, -14),
    ],
)  # fmt: skip
def test_the_hits_together_are_the_loop_as_it_was(
    bpm: float, fields: dict[str, Any], limit_db: float
) -> None:
    state = _state(bpm, **fields)
    cut, names = _cut(state)
    assert set(names) == {"Break kick", "Break hat"}
    assert cut.stems[0].mute
    whole = _sound(state, "stem")
    again = _sound(cut, *(part.id for part in cut.parts if part.id.startswith("new")))
    residue = np.sqrt(np.mean((again - whole) ** 2)) / np.sqrt(np.mean(whole**2))
    assert 20 * np.log10(residue) < limit_db


def test_each_kind_of_drum_is_a_hit_whose_strokes_lie_where_they_were() -> None:
    cut, _ = _cut(_state())
    kick, hat = (next(hit for hit in cut.hits if hit.kind == kind) for kind in ("kick", "hat"))
    assert [step.at for step in kick.steps] == pytest.approx([float(n) for n in range(8)], abs=0.01)
    late = [step.at - (n + 0.5) for n, step in enumerate(hat.steps)]
    # 8 ms of a beat of 500.
    assert late == pytest.approx([0.0, 0.016, *[0.0] * 6], abs=0.006)
    # One stroke out, the others go on as they were.
    fewer = cut.with_part(hat.model_copy(update={"steps": hat.steps[:-1]}))
    assert not np.array_equal(_sound(fewer, hat.id), _sound(cut, hat.id))


def test_a_loop_of_one_bar_repeats_and_names_are_free() -> None:
    state = _state(bars=4)
    cut, names = _cut(state)
    assert {hit.bars for hit in cut.hits} == {2}
    once_more = cut.with_part(cut.stems[0].model_copy(update={"mute": False}))
    ids = count(100)
    again = as_hits(_session(), once_more, "stem", lambda: f"new-{next(ids)}")
    assert not set(again.names) & set(names)


def test_what_cannot_be_cut_is_refused_with_its_reason() -> None:
    state = _state(audio=TONE)
    with pytest.raises(UserError, match="no strokes"):
        _cut(state)
    with pytest.raises(UserError, match="resampled"):
        _cut(_state(fit="by resampling", own_bpm=100.0))
    with pytest.raises(UserError, match="no file"):
        as_hits(_session(), state, "kick", str)
    full = TrackState.of(
        brief=Brief(bpm=120.0),
        stems=_state().stems,
        chords=tuple(Chord(name=f"Pad {n}") for n in range(36)),
    )
    with pytest.raises(UserError, match="no room"):
        as_hits(_session(), full, "stem", str)


def test_a_line_that_is_a_file_is_cut_too() -> None:
    file = Voice(name="Top", id="top", bass=ImportedBass(audio=LOOP, name="x"))
    state = TrackState.of(brief=Brief(bpm=120.0, chord_roots=("tonic", "tonic")), lines=(file,))
    ids = count()
    found = as_hits(_session(), state, "top", lambda: f"new-{next(ids)}")
    assert found.state.voice("top").mute
    assert len(found.names) == 2
