"""The limits of the verdicts, literally: a value just inside raises nothing, one just outside does."""

from collections.abc import Callable

import numpy as np
import pytest

from juglant.core.findings import carving, files, findings, hits, loops, regions, room, spill, sweep
from juglant.core.findings.fixes import MONO_BELOW_HZ, PEAK_DBTP
from juglant.core.lowend import ducking
from juglant.core.lowend.session import Session
from juglant.core.lowend.trial import CANCELLING_DB
from juglant.core.measure import overlap, owner
from juglant.core.recipes.hit import Hit, Imported, MadeKick
from juglant.core.recipes.track import TrackState
from tests.core.test_findings import CLEAN
from tests.signals import RATE, Array, ring, times
from tests.tracks import changed


def test_no_limit_moves_unseen() -> None:
    """Common practice, as the design has it: whoever moves one says so here too."""
    assert (carving.RUMBLE_HZ, carving.RUMBLE_PERCENT) == (28.0, 5.0)
    assert (files.OFFSET_SHARE, files.HUM_DB, loops.SILENCE_MS, loops.CANCEL_DB) == (
        0.003,
        -66.0,
        3.0,
        -2.0,
    )
    assert (PEAK_DBTP, MONO_BELOW_HZ, CANCELLING_DB) == (-1.0, 120.0, -3.0)
    assert (hits.SAME_JOB_DB, hits.LOW_MONO_DB, hits.LOW_SHARE, hits.OFF_KEY_CENTS) == (
        6.0,
        -1.0,
        0.05,
        10.0,
    )
    assert {name: tuple(limits) for name, limits in regions._LIMITS_DB.items()} == {
        "boom": (-6.0, -3.0, -10.0), "box": (-12.0, -10.0, -22.0),
    }  # fmt: skip
    assert (room.UNEVEN_LU, room.SMALL_LEFT_DB, room.SMALL_OVER_DB) == (6.0, -35.0, -6.0)
    assert (room.LIMITED_DB, room.UNHEARD_DB) == (9.0, 1.0)
    assert (spill.SPILL_DB, sweep.LATE_CENTS) == (-15.0, 100.0)
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
