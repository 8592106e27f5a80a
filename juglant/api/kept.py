"""What the log carries of a kept version."""

import json
from itertools import pairwise
from typing import Any

import numpy as np
from pydantic import BaseModel

from juglant.api.studio import read_track
from juglant.api.views import numbers
from juglant.core.errors import UserError
from juglant.core.findings import findings
from juglant.core.lowend.session import Session
from juglant.core.measure.loopsound import LoopSound
from juglant.core.recipes.track import TrackState
from juglant.core.tempo import beat_ms
from juglant.store import entries, versions


class ToldNumber(BaseModel):
    """A number of a low end."""

    name: str
    value: float
    unit: str


class KeptVersion(BaseModel):
    """A kept version: what was measured of its main section when it was kept, in a line and as numbers,
    what had changed since the version before, which findings were open, one bar of kick and bass as levels
    in dB; or why it cannot be read any more. A star and tags are the user's.
    """

    id: int
    note: str
    made_at: str
    said: str | None
    trouble: str | None = None
    star: bool = False
    tags: str = ""
    numbers: list[ToldNumber] = []
    changed: list[str] = []
    findings: list[str] = []
    kick_db: list[int] = []
    bass_db: list[int] = []


def _said(state: TrackState, measured: dict[str, Any]) -> str:
    brief, main, hit = state.brief, state.duckings[0], measured["hit"]
    cents, collision = hit["cents"], measured["after"]["collision_ms"]
    tuned = "" if cents is None else f" {cents:+.{1 if abs(cents) < 10 else 0}f} ¢".replace("+0.0", "±0.0")
    return " · ".join([
        f"{brief.tonic} {brief.mode}, {brief.bpm:g} BPM", f"kick {hit['note'] or 'without pitch'}{tuned}",
        "no collision" if collision is None else f"collision {collision:.0f} ms",
        f"ducked {main.duck.depth_db:g} dB" if main.on else "not ducked",
    ]).replace("-", "−")  # fmt: skip


# What a line of the log shows, and where it stands among what was measured.
_NUMBERS = (
    ("collision", ("after", "collision_ms"), "ms"), ("both in the sub", ("after", "sub_shared_ms"), "ms"),
    ("kick over bass", ("after", "kick_over_bass_db"), "dB"), ("ducking", ("duck", "depth_db"), "dB"),
    ("loudness", ("lufs",), "LUFS"), ("true peak", ("true_peak_dbtp",), "dBTP"),
)  # fmt: skip


def _number(measured: dict[str, Any], at: tuple[str, ...]) -> float | None:
    found: Any = measured
    for step in at:
        found = found.get(step) if isinstance(found, dict) else None
    return float(found) if isinstance(found, int | float) else None


def _told(measured: dict[str, Any]) -> list[ToldNumber]:
    return [
        ToldNumber(name=name, value=round(value, 2), unit=unit) for name, at, unit in _NUMBERS
        if (value := _number(measured, at)) is not None
    ]  # fmt: skip


def told_numbers(session: Session, state: TrackState) -> list[ToldNumber]:
    """The numbers of a line of the log, of a state."""
    return _told(numbers(session.answer(state)))


def kept_version(version: versions.Version, mark: entries.Mark | None = None) -> KeptVersion:
    """A stored version as the log tells it."""
    plain = {"id": version.id, "note": version.note, "made_at": version.made_at}
    if mark is not None:
        plain |= mark._asdict()
    try:
        measured = json.loads(version.numbers)
        told = _said(read_track(version.body).state, measured)
        found = _told(measured)
        more = {name: measured.get(name) or [] for name in ("changed", "findings", "kick_db", "bass_db")}
        return KeptVersion(**plain, said=told, numbers=found, **more)
    except (UserError, ValueError, KeyError, TypeError, AttributeError):
        return KeptVersion(**plain, said=None, trouble="This version cannot be read by this Juglant.")


# A bar is drawn in so many columns, down to this level.
_COLUMNS, _FLOOR_DB = 32, -48.0


def _column_levels(loop: LoopSound, frames: int) -> list[int]:
    level = loop.level.level_db[:frames]
    edges = np.linspace(0, level.size, _COLUMNS + 1).astype(int)
    tops = [float(level[a:b].max()) for a, b in pairwise(edges)]
    return np.round(np.maximum(tops, _FLOOR_DB)).astype(int).tolist()  # type: ignore[no-any-return]


def log_numbers(session: Session, state: TrackState) -> dict[str, Any]:
    """What a version carries beside its recipe: numbers, open findings, a picture."""
    answer = session.answer(state)
    found = numbers(answer)
    bar = round(4 * beat_ms(state.brief.bpm))
    return {
        **found,
        "findings": [one.sentence for one in findings(session, answer)],
        "kick_db": _column_levels(answer.kick_loop, bar),
        "bass_db": _column_levels(answer.ducked_loop, bar),
    }  # fmt: skip
