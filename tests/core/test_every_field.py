"""No field is forgotten: what a session keeps of before never stands in for what a change sounds like."""

import re
from typing import Any

import numpy as np
import pytest

from juglant.core.errors import UserError
from juglant.core.lowend.session import Session
from juglant.core.recipes.bass import BassRecipe
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.chain import STAGES, DriveStage, SpaceStage
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.ducking import Ducking
from juglant.core.recipes.fields import Recipe
from juglant.core.recipes.hit import (
    Hit,
    Imported,
    MadeClap,
    MadeHat,
    MadeMembrane,
    MadePercussion,
    MadeSnare,
    Take,
)
from juglant.core.recipes.notes import HitStep, Note
from juglant.core.recipes.parts import (
    SUM,
    AnyPart,
    Chord,
    ImportedBass,
    MadeBass,
    Output,
    Outputs,
    PlayedBass,
    RumbleBass,
    Stem,
    Sum,
    Voice,
)
from juglant.core.recipes.place import Place
from juglant.core.recipes.separate import BassCarve, KickCarve, SeparateRecipe
from juglant.core.recipes.track import TrackState
from tests.fields import changed, fields
from tests.signals import RATE, Array, ring, sine

pytestmark = pytest.mark.thorough

FILES = {
    "a" * 64: np.stack([0.5 * ring(180.0, 200, 0.4), 0.4 * ring(230.0, 150, 0.4)], axis=1),
    "b" * 64: 0.5 * ring(90.0, 300, 0.4), "c" * 64: np.stack([sine(60.0, 1.1, -12), sine(75.0, 1.1, -18)], axis=1),
}  # fmt: skip
STEPS = (HitStep(at=0.5), HitStep(at=1.75, velocity=0.6), HitStep(at=3.0))
NOTES = (Note(at=0.0, beats=0.7), Note(at=1.5, beats=1.0, semitones=7, velocity=0.7, glide=True))
LOOP: dict[str, Any] = {"stages": (SpaceStage(decay_ms=200.0),), "after": (DriveStage(drive_db=6.0),)}
PLACE = Place(gain_db=-2.0, pan=0.2, width=0.8, mono_below_hz=90.0, delay_ms=0.4)
# Of what is never heard in a loop: names of what was solved, and what only other sections or tools read.
SILENT = {"solved_for", "separate_for", "margin_db", "heard_hz", "aim", "sub_owner", "cure"}


def _session() -> Session:
    return Session(lambda digest: (FILES[digest], RATE))


def _hit(source: Any, name: str = "hit", **more: Any) -> Hit:
    return Hit.of(source, name=name, kind="percussion", steps=STEPS, id=name, choke="A", **more)


def _line(bass: Any, **more: Any) -> Voice:
    return Voice(id="line", name="line", bass=bass, **{"place": PLACE, **LOOP, **more})


TAKES = Imported(
    audio="a" * 64, name="a", start_ms=5.0, end_ms=300.0, takes=(Take(audio="b" * 64, name="b", up_to=0.7),)
)
PARTS: dict[str, AnyPart] = {
    "snare": _hit(MadeSnare(), place=PLACE, **LOOP), "membrane": _hit(MadeMembrane()), "clap": _hit(MadeClap()),
    "hat": _hit(MadeHat()), "percussion": _hit(MadePercussion()), "file": _hit(TAKES, place=PLACE),
    "made": _line(MadeBass(recipe=BassRecipe(pattern=NOTES, choke="A"))),
    "played": _line(PlayedBass()), "rumble": _line(RumbleBass(), stages=(), after=()),
    "bounce": _line(ImportedBass(audio="c" * 64, name="c"), place=PLACE.model_copy(update={"width": 1.0})),
    "stem": Stem(id="stem", name="stem", audio="c" * 64, place=PLACE, **LOOP),
    "chord": Chord(id="chord", name="chord", place=PLACE, **LOOP),
    "outputs": Outputs(id="made", name="made", place=PLACE, **LOOP, sources=(
        Output(of="kick", gain_db=-6.0), Output(of="bass", taken="heard"))),
}  # fmt: skip
BASE = TrackState.of(
    brief=Brief(bpm=210.0, chord_roots=("tonic",), swing_percent=58.0), hits=(_hit(MadeHat(), "other"),),
    bass=MadeBass(recipe=BassRecipe(pattern=NOTES)),
    separate=SeparateRecipe(kick=KickCarve(cut_db=-3.0), bass=BassCarve(highpass_hz=40.0, mid_copy_db=-9.0)),
)  # fmt: skip


def _state(part: AnyPart) -> TrackState:
    """A track with the part in it, ducked by the kick and by a note value."""
    duck = DuckRecipe(depth_db=9.0, hold_ms=30.0, release_ms=90.0)
    own = Ducking.model_validate({
        "id": "own", "triggers": ["kick", "other"], "targets": [{"part": part.id, "share": 0.8}],
        "velocity": 0.5, "rate": "1/8", "duck": duck,
    })  # fmt: skip
    return TrackState.model_validate({
        **BASE.model_dump(), "parts": [*BASE.model_dump()["parts"], part.model_dump()],
        "duckings": [*BASE.model_dump()["duckings"], own.model_dump()],
    })  # fmt: skip


def _heard(session: Session, state: TrackState, low: bool) -> dict[str, Array]:
    """What is played of a state beside its low end, or all of it."""
    rest = {id: loop.samples for id, loop in session.rest_stems(state).items()}
    if state.sum.acts:
        whole = session.sounding_part(state, SUM)
        assert whole is not None
        rest |= {"sum": whole.heard.samples, "before": whole.before.samples}
    if not low:
        return rest
    loop = session.loop(state)
    lines = {f"line {id}": sound.samples for id, sound in session.line_stems(state).items()}
    both = {"kick": loop.kick.samples, "bass": loop.bass.samples, "ducked": loop.ducked.samples}
    return {**both, **lines, **rest}


def _or_refused(session: Session, state: TrackState, low: bool) -> dict[str, Array]:
    """The same; nothing where it is refused: a file without strokes is not cut into slices."""
    try:
        return _heard(session, state, low)
    except UserError:
        return {}


def _same(one: dict[str, Array], other: dict[str, Array]) -> bool:
    return one.keys() == other.keys() and all(np.array_equal(one[name], other[name]) for name in one)


def _compared(
    state: TrackState, where: str, low: bool = False, without: tuple[str, ...] = ()
) -> tuple[int, list[str]]:
    """Every field within one part of a state changed in turn: how many were heard, and which were missed
    by a session that knew the state before, against one that knows nothing.
    """
    known = _session()
    before = _heard(known, state, low)
    heard, missed = 0, []
    for path, value, field in fields(state):
        name = ".".join(map(str, path))
        # What sounds a hit is looked at in hits, not in every line that is played by one.
        if not name.startswith(where) or path[-1] in SILENT or ".bass.hit." in name:
            continue
        if any(part in name for part in without):
            continue
        other = changed(state, path, value, field)
        if other is None:
            continue
        fresh = _or_refused(_session(), other, low)
        heard += not _same(fresh, before)
        if not _same(_or_refused(known, other, low), fresh):
            missed.append(name)
    return heard, missed


@pytest.mark.parametrize("kind", PARTS)
def test_every_field_of_a_part_is_heard_as_it_is(kind: str) -> None:
    # What a stage does is looked at by itself, below; here once within a part.
    without = () if kind == "snare" else (".stages.0.", ".after.0.")
    heard, missed = _compared(_state(PARTS[kind]), "parts.3", isinstance(PARTS[kind], Voice), without)
    assert missed == []
    # Most fields make a difference at once; some only beside another, as a resonance without a filter.
    assert heard >= 5


@pytest.mark.parametrize("where", ["brief", "separate", "duckings.1", "duckings.0", "parts.0", "parts.1"])
def test_every_field_beside_a_part_is_heard_as_it_is(where: str) -> None:
    heard, missed = _compared(_state(PARTS["stem"]), where, low=True)
    assert missed == []
    assert heard >= 3


@pytest.mark.parametrize("where", ["sum", "parts.3", "duckings.1"])
def test_the_sum_follows_every_field_of_what_goes_into_it(where: str) -> None:
    whole = Sum(place=PLACE, stages=(DriveStage(drive_db=6.0),), after=(SpaceStage(decay_ms=200.0),))
    state = _state(PARTS["chord"]).with_part(whole)
    heard, missed = _compared(
        state, where, without=(".stages.0.", ".after.0.") if where == "parts.3" else ()
    )
    assert missed == []
    assert heard >= 4


@pytest.mark.parametrize("name", [name for name, stage in STAGES.items() if not stage.of_a_stroke])
def test_every_field_of_a_stage_is_heard_as_it_is(name: str) -> None:
    busy = {
        "equaliser": {"bell_db": 6.0, "second_db": 3.0}, "drive": {"drive_db": 9.0}, "transient": {"attack_db": 6.0},
        "compressor": {"threshold_db": -30.0}, "gate": {"threshold_db": -10.0}, "clip": {"ceiling_db": -18.0}, "limit": {"amount_db": 6.0},
        "level": {"gain_db": -3.0},
    }  # fmt: skip
    stem = Stem(id="stem", name="stem", audio="c" * 64, stages=(STAGES[name](**busy.get(name, {})),))
    heard, missed = _compared(_state(stem), "parts.3.stages")
    assert missed == []
    assert heard >= 2


def test_a_forgotten_field_would_be_found(monkeypatch: pytest.MonkeyPatch) -> None:
    """The check sees what it is for: a name that leaves out the pan of a place."""
    plain = Recipe.text.func  # type: ignore[attr-defined]
    blind = property(lambda recipe: re.sub(r'"pan":[-.0-9]+', '"pan":0', plain(recipe)))
    monkeypatch.setattr(Place, "text", blind)
    _, missed = _compared(_state(PARTS["chord"]), "parts.3.place")
    assert missed == ["parts.3.place.pan"]


def test_a_file_that_starts_a_ducking_does_so_where_its_strokes_are() -> None:
    by_stem = Ducking.model_validate({"id": "own", "triggers": ["stem"], "targets": ["bass"]})
    stem = Stem(id="stem", name="stem", audio="b" * 64)
    state = _state(stem).with_ducking(by_stem)
    known = _session()
    first = _heard(known, state, low=True)
    assert not np.array_equal(first["bass"], first["ducked"])
    other = state.with_part(stem.model_copy(update={"begin_ms": 60.0}))
    assert _same(_heard(known, other, low=True), _heard(_session(), other, low=True))
