"""Tracks drawn by lot: every kind of part, some stages, sections that differ here and there."""

import random
from functools import wraps
from typing import Any

import numpy as np
import pytest

from juglant.core.lowend import duckings
from juglant.core.lowend import parts as rendering
from juglant.core.lowend.session import Session
from juglant.core.recipes.bass import BassRecipe
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.chain import STAGES
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.ducking import Ducking
from juglant.core.recipes.hit import RECIPES, Hit, MadeHat
from juglant.core.recipes.notes import HitStep, on_beats
from juglant.core.recipes.parts import (
    AnyPart,
    Chord,
    MadeBass,
    Output,
    Outputs,
    PlayedBass,
    RumbleBass,
    Stem,
    Voice,
)
from juglant.core.recipes.sections import Entry, Track, aspects
from juglant.core.recipes.track import TrackState
from tests.fields import changed_by_chance
from tests.signals import RATE, sine
from tests.tracks import rest_loop

FILE = "a" * 64
ON_A_LOOP = [name for name, stage in STAGES.items() if not stage.of_a_stroke]
SEEDS = range(12)


def session() -> Session:
    return Session(lambda _: (np.stack([sine(70.0, 1.3, -14), sine(95.0, 1.3, -17)], axis=1), RATE))


def _stages(by: random.Random) -> tuple[Any, ...]:
    return tuple(changed_by_chance(STAGES[by.choice(ON_A_LOOP)](), by) for _ in range(by.randrange(3)))


def _part(kind: str, n: int, by: random.Random) -> AnyPart:
    """A part of a kind; `kind` names what sounds a hit, what sounds a line, or another part."""
    name = f"{kind} {n}"
    common: dict[str, Any] = {
        "id": f"part-{n}", "name": name, "stages": _stages(by), "after": _stages(by), "mute": by.random() < 0.2
    }  # fmt: skip
    lines: dict[str, Any] = {
        "made": MadeBass(recipe=changed_by_chance(BassRecipe(), by)), "played": PlayedBass(), "rumble": RumbleBass(),
    }  # fmt: skip
    if kind in RECIPES:
        layers = [{"source": {"kind": kind, "recipe": changed_by_chance(RECIPES[kind](), by)}}]
        steps = tuple(
            HitStep(at=at, velocity=by.uniform(0.1, 1.0)) for at in sorted(by.sample(range(4), 2))
        )
        return Hit.model_validate({**common, "layers": layers, "steps": steps, "kind": "percussion"})
    if kind in lines:
        return Voice(bass=lines[kind], **common)
    if kind == "stem":
        return Stem(audio=FILE, **common)
    if kind == "chord":
        return Chord(**common)
    taken = by.choice(("dry", "heard"))
    return Outputs(sources=(Output(of="kick", taken=taken, gain_db=-9.0), Output(of="bass")), **common)


KINDS = [*RECIPES, "made", "played", "rumble", "stem", "chord", "outputs"]


def drawn(seed: int) -> Track:
    """A track of five parts, a ducking between two of them, and two sections that differ from main."""
    by = random.Random(seed)
    # Every kind comes up in turn, so that all of them do.
    kinds = [KINDS[(seed + n) % len(KINDS)] for n in (0, 4, 9)]
    parts = [_part(kind, n, by).model_dump() for n, kind in enumerate(kinds)]
    base = TrackState.of(brief=Brief(bpm=by.uniform(180.0, 220.0), chord_roots=("tonic",))).model_dump()
    own = Ducking.model_validate({
        "id": "own", "triggers": ["kick"], "targets": ["part-0", "part-1"], "velocity": by.random()
    })  # fmt: skip
    state = TrackState.model_validate(
        {**base, "parts": [*base["parts"], *parts], "duckings": [*base["duckings"], own.model_dump()]}
    )
    track = Track(state=state)
    for name in ("intro", "break"):
        track = track.with_section(name, name, "main")
        for _ in range(3):
            track = track.with_state(name, changed_by_chance(track.at(name), by, within="parts"))
    return track.arranged((Entry(section="intro", bars=8), Entry(section="main", bars=16)))


@pytest.mark.parametrize("seed", SEEDS)
def test_a_drawn_track_is_read_as_it_was_written_and_holds_only_what_differs(seed: int) -> None:
    track = drawn(seed)
    assert Track.model_validate_json(track.model_dump_json()) == track
    mains = {part.id: aspects(part) for part in track.state.parts}
    for section in track.sections:
        there = {part.id: aspects(part) for part in track.at(section.id).parts}
        for one in section.parts:
            assert there[one.part][one.aspect] == one.values
        own = {(one.part, one.aspect) for one in section.parts}
        follows = [(id, aspect) for id, each in there.items() for aspect in each if (id, aspect) not in own]
        assert all(there[id][aspect] == mains[id][aspect] for id, aspect in follows)


@pytest.mark.parametrize("seed", SEEDS)
def test_any_section_may_be_main_and_back_without_changing_one(seed: int) -> None:
    track = drawn(seed)
    before = {section.id: track.at(section.id) for section in track.sections}
    for main in ("break", "intro", "main"):
        track = track.with_main(main)
        assert {section.id: track.at(section.id) for section in track.sections} == before


@pytest.mark.parametrize("seed", SEEDS)
def test_a_section_that_follows_again_is_main_and_the_others_stay(seed: int) -> None:
    track = drawn(seed)
    untouched = track.at("intro")
    for one in track.section("break").parts:
        track = track.following("break", one.part, one.aspect)
    assert track.at("break") == track.at("main")
    assert track.at("intro") == untouched


@pytest.mark.thorough
@pytest.mark.parametrize("seed", SEEDS)
def test_every_section_of_a_drawn_track_is_finite_and_the_same_twice(seed: int) -> None:
    track = drawn(seed)
    one, again = session().parts, session().parts
    for section in track.sections:
        state = track.at(section.id)
        for part in state.parts:
            loop = one.part(state, part.id)
            assert (loop is None) == part.mute
            if loop is None:
                continue
            ducked = one.ducked(state, loop, part).samples
            assert np.isfinite(ducked).all()
            other = again.part(state, part.id)
            assert other is not None
            assert np.array_equal(again.ducked(state, other, part).samples, ducked)


def test_what_does_not_depend_on_a_change_is_not_made_again(monkeypatch: pytest.MonkeyPatch) -> None:
    """One control changed: how often the bass, the held chord and the placing of strokes are made."""
    made: dict[str, int] = {}

    def counted(name: str, module: Any) -> None:
        plain = getattr(module, name)

        @wraps(plain)
        def call(*args: Any, **kwargs: Any) -> Any:
            made[name] = made.get(name, 0) + 1
            return plain(*args, **kwargs)

        monkeypatch.setattr(module, name, call)

    counted("render_bass", rendering)
    counted("place", rendering)
    counted("stand_in", duckings)
    here = session()
    hat = Hit.of(MadeHat(), name="Hat", kind="hat", steps=on_beats(1.5, 2.5), id="hat")
    state = TrackState.of(brief=Brief(bpm=200.0, chord_roots=("tonic",)), hits=(hat,), chords=(Chord(),))

    def after(changed: TrackState) -> dict[str, int]:
        made.clear()
        here.answer(changed)
        rest_loop(here, changed)
        return dict(made)

    assert after(state) == {"render_bass": 1, "place": 2, "stand_in": 1}
    assert after(state) == {}
    assert after(state.with_duck(duck=DuckRecipe(depth_db=9.0))) == {}
    assert after(state.with_part(hat.model_copy(update={"level_db": -3.0}))) == {"place": 1}
    assert after(state.with_part(hat.model_copy(update={"steps": on_beats(3)}))) == {"place": 1}
    lower = MadeBass(recipe=BassRecipe(lowpass_hz=300.0))
    assert after(state.with_bass("bass", lower)) == {"render_bass": 1}
