"""The limits of the verdicts, literally: a value just inside raises nothing, one just outside does."""

import ast
from collections.abc import Callable
from importlib import import_module
from pathlib import Path
from pkgutil import iter_modules

import numpy as np
import pytest

import juglant.core.findings as judges
from juglant.core.findings import findings, regions
from juglant.core.lowend import ducking
from juglant.core.lowend.session import Session
from juglant.core.lowend.trial import CANCELLING_DB
from juglant.core.measure import overlap, owner
from juglant.core.recipes.hit import Hit, Imported, MadeKick
from juglant.core.recipes.track import TrackState
from tests.core.test_findings import CLEAN
from tests.signals import RATE, Array, ring, times
from tests.tracks import changed

# What is judged and mended by, as common practice has it; how far a fix is searched is our own choice.
NUMBERS: dict[str, dict[str, object]] = {
    "carving": {"RUMBLE_HZ": 28.0, "RUMBLE_PERCENT": 5.0},
    "files": {"OFFSET_SHARE": 0.003, "HUM_DB": -66.0, "_FADE_MS": 8.0, "_BEFORE_MS": 4.0},
    "fixes": {
        "PEAK_DBTP": -1.0, "_SHORTEST_MS": 60.0, "_QUIETER_STEPS": 18, "_KEPT_MS": 5.0, "MONO_BELOW_HZ": 120.0,
    },
    "hits": {
        "_ITS_NOTE_DB": -10.0, "_SEMITONE": 2 ** (1 / 12), "SAME_JOB_DB": 6.0, "LOW_MONO_DB": -1.0,
        "LOW_SHARE": 0.05, "OFF_KEY_CENTS": 10.0, "_CLICK_HZ": 3000.0,
        "_HEARD_DB": -24.0, "_CLICKS_DB": (-24.0, -20.0, -16.0, -12.0, -8.0, -4.0, 0.0), "_OVER_MS": 5.0,
    },
    "loops": {
        "SILENCE_MS": 3.0, "_REST_MS": 50.0, "_TEMPO_PERCENT": 1.0, "_TEMPO_REACH": 0.26, "CANCEL_DB": -2.0,
    },
    "mono": {"_LOW_HZ": (20.0, 150.0)},
    "regions": {
        "_SWEPT_MS": 40.0, "_RINGS_MS": 400.0, "_OWN_REGION": 0.75, "_DEEPEST_CUT_DB": 24.0,
        "_HIGHEST_LIFT_DB": 6.0, "_BELL_Q": 1.0,
    },
    "room": {
        "UNEVEN_LU": 6.0, "SMALL_LEFT_DB": -35.0, "SMALL_OVER_DB": -6.0, "LIMITED_DB": 9.0, "UNHEARD_DB": 1.0,
        "_DRIVES_DB": (6.0, 9.0, 12.0, 15.0, 18.0, 24.0, 30.0, 36.0), "_DRIVEN_FROM_HZ": 120.0,
    },
    "solving": {"MOST_STATES": 24, "_MOST_STEPS": 8, "_EACH": 0.2},
    "spill": {
        "SPILL_DB": -15.0, "_STEP_BEATS": 0.25, "_MOST_STEPS": 2, "_MOST_SPILLS": 6,
        "_CLEAR_BEATS": (1 / 24, 1 / 12, 1 / 8, 1 / 6, 1 / 4), "_SHORTEST_BEATS": 1 / 12, "_NEAR_BEATS": 0.02,
    },
    "sub": {
        "_LEAVES_HZ": (50.0, 56.0, 62.0, 70.0, 80.0, 92.0, 105.0, 120.0), "_LONGER": 1.15, "_MOST_LONGER": 8,
    },
    "sweep": {
        "LATE_CENTS": 100.0, "_LEAST_CYCLES": 6, "_SCATTER_CENTS": 25.0, "_QUICKER": 0.8, "_MOST_STEPS": 12,
    },
    "trying": {
        "_HELPS_SHARE": 0.5, "_MOST_LOWERED_DB": 3.0, "_MOST_SHARED_DB": 6.0, "_MET_DB": 0.3,
        "_WINDOW_MS": 50.0, "_HEARD_HZ": 28.0,
    },
}  # fmt: skip


def _is_number(value: object) -> bool:
    if type(value) is tuple:
        return bool(value) and all(map(_is_number, value))
    return isinstance(value, int | float) and not isinstance(value, bool)


@pytest.mark.parametrize("name", [info.name for info in iter_modules(judges.__path__)])
def test_no_number_of_a_judge_moves_unseen(name: str) -> None:
    """Whoever moves one says so here too."""
    judge = import_module(f"juglant.core.findings.{name}")
    own = {
        target.id
        for line in ast.parse(Path(str(judge.__file__)).read_text()).body
        if isinstance(line, ast.Assign)
        for target in ast.walk(line.targets[0])
        if isinstance(target, ast.Name)
    }
    numbers = {one: getattr(judge, one) for one in own if _is_number(getattr(judge, one))}
    assert numbers == NUMBERS.get(name, {})


def test_no_limit_moves_unseen() -> None:
    """Common practice, as the design has it."""
    assert CANCELLING_DB == -3.0
    assert {name: tuple(limits) for name, limits in regions._LIMITS_DB.items()} == {
        "boom": (-6.0, -3.0, -10.0), "box": (-12.0, -10.0, -22.0),
    }  # fmt: skip
    assert overlap.COLLISION_SHARE == {"kick": 0.10, "bass": 0.30}
    assert (owner.SHARED_LIMIT_MS, owner.LEAST_SUB_DB, owner.OWNER_LOSS_LIMIT_DB) == (50.0, -10.5, 3.0)
    assert ducking.CLICK_LIMIT_DB_PER_MS == 12.0


def _made(**controls: float) -> tuple[Session, TrackState]:
    source = CLEAN.kick.only_source
    assert isinstance(source, MadeKick)
    kick = Hit.of(MadeKick(recipe=source.recipe.model_copy(update=controls)))
    return Session(lambda digest: (np.zeros(1), RATE)), changed(CLEAN, kick=kick)


def _file(x: Array) -> tuple[Session, TrackState]:
    return Session(lambda digest: (x, RATE)), changed(
        CLEAN, kick=Hit.of(Imported(audio="a" * 64, name="a"))
    )


def _off_key(cents: float) -> tuple[Session, TrackState]:
    return _made(end_hz=55.0 * 2 ** (cents / 1200))


def _late(ms: float) -> tuple[Session, TrackState]:
    return _file(np.concatenate([np.zeros(round(ms * RATE / 1000)), 0.5 * ring(55.0, 240, 0.26)]))


def _resting(percent: float) -> tuple[Session, TrackState]:
    x = np.concatenate([0.5 * ring(55.0, 240, 0.26), np.zeros(RATE // 4)])
    return _file(x + percent / 100 * float(np.max(np.abs(x))))


def _humming(db: float) -> tuple[Session, TrackState]:
    x = np.concatenate([0.5 * ring(55.0, 240, 0.26), np.zeros(RATE)])
    return _file(
        x + 10 ** (db / 20) * float(np.max(np.abs(x))) * np.sin(2 * np.pi * 50.0 * times(x.size / RATE))
    )


def _peaking(dbtp: float) -> tuple[Session, TrackState]:
    session, state = _made()
    now = session.answer(state).mix_after.true_peak_dbtp
    louder = _made(level_db=-6.0 + dbtp - now)
    # The bass is turned with the kick, so that the sum is.
    line = state.bass.model_copy(
        update={"recipe": state.bass.recipe.model_copy(update={"level_db": -14.0 + dbtp - now})}  # type: ignore[union-attr]
    )
    return session, changed(louder[1], bass=line)


@pytest.mark.parametrize(
    ("id", "make", "inside", "outside"),
    [
        ("off-key", _off_key, 9.5, 10.5), ("off-key", _off_key, -9.5, -10.5),
        ("leading-silence", _late, 2.8, 3.2), ("dc-offset", _resting, 0.28, 0.32),
        ("hum", _humming, -67.0, -65.0), ("mix-peak", _peaking, -1.02, -0.98),
    ],
)  # fmt: skip
def test_a_limit_lies_between_a_value_inside_and_one_outside(
    id: str, make: Callable[[float], tuple[Session, TrackState]], inside: float, outside: float
) -> None:
    for value, over in ((inside, False), (outside, True)):
        session, state = make(value)
        found = [one.id for one in findings(session, session.answer(state)) if one.id.startswith(id)]
        assert bool(found) == over, (value, found)
