"""Finding sounds of the stock: on indexed columns, by words, and by likeness."""

import json
import math
import re
import sqlite3
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from juglant.core.errors import NotFoundError
from juglant.core.stock.kinds import Kind
from juglant.store.stock import Entry, portraits

# A note is met by what lies nearest to it.
_NEAREST_CENTS = 50.0
# So many are asked for in one question.
_AT_ONCE = 500
_COLUMNS = (
    "sound.hash, sound.note, sound.cents, midi, note_confidence, length_ms, decay_ms, centroid_hz, sub_db, "
    "click_db, lufs, peak_dbfs, bpm, song_key, reasons, picture"
)


@dataclass(frozen=True)
class Range:
    """From a least to a greatest value, each of which may be left open."""

    least: float | None = None
    most: float | None = None


@dataclass(frozen=True)
class Query:
    """What is looked for; what is left open holds for everything.

    `midi` is a note, `note_class` a note of any octave; both with `cents` to either side. `only` are
    contents to look among, as tags choose them.
    """

    words: str = ""
    kind: Kind | None = None
    midi: int | None = None
    note_class: int | None = None
    cents: float = _NEAREST_CENTS
    length_ms: Range = Range()
    centroid_hz: Range = Range()
    sub_db: Range = Range()
    click_db: Range = Range()
    lufs: Range = Range()
    bpm: Range = Range()
    only: frozenset[str] | None = None


_RANGES = ("length_ms", "centroid_hz", "sub_db", "click_db", "lufs", "bpm")


def _ranged(query: Query) -> bool:
    """Whether a query names a range of numbers, by which most is left out."""
    return query.midi is not None or any(getattr(query, name) != Range() for name in _RANGES)


def _conditions(query: Query) -> tuple[list[str], list[object]]:
    said: list[str] = ["place.hash IS NOT NULL"]
    given: list[object] = []
    words = re.findall(r"\w+", query.words)
    if words:
        # Every word, each as far as it is written.
        said.append("place.id IN (SELECT rowid FROM words WHERE words MATCH ?)")
        given.append(" ".join(f'"{word}"*' for word in words))
    if query.kind is not None:
        # Not by the index of kinds where a range of numbers says more: the plus keeps it out of the way.
        said.append("+place.kind = ?" if _ranged(query) else "place.kind = ?")
        given.append(query.kind)
    if query.midi is not None:
        said.append("midi BETWEEN ? AND ?")
        given += [query.midi - query.cents / 100, query.midi + query.cents / 100]
    if query.note_class is not None:
        # Half an octave on, the note lies in the middle of its octave.
        above = f"(midi - {int(query.note_class)} + 126.0)"
        said.append(f"abs({above} - 12.0 * CAST({above} / 12.0 AS INTEGER) - 6.0) <= ?")
        given.append(query.cents / 100)
    for name in _RANGES:
        limits: Range = getattr(query, name)
        for sign, value in ((">=", limits.least), ("<=", limits.most)):
            if value is not None:
                said.append(f"{name} {sign} ?")
                given.append(value)
    return said, given


def find(db: sqlite3.Connection, query: Query, most: int | None = None) -> list[Entry]:
    """Sounds that a query names, each content once: nearest to the note first, else by confidence of their
    kind, then by path; all of them, or so many at most.
    """
    return entries_of(db, _hashes(db, query, most))


def nearest(
    db: sqlite3.Connection, query: Query, apart: dict[str, float], most: int | None = None
) -> list[Entry]:
    """Sounds by how far they are `apart` from one, the nearest first; what came since stands last."""
    found = sorted(_hashes(db, query, None), key=lambda one: apart.get(one, math.inf))
    return entries_of(db, found[:most])


def _hashes(db: sqlite3.Connection, query: Query, most: int | None) -> list[str]:
    said, given = _conditions(query)
    order = "place.confidence DESC, place.path"
    if query.midi is not None:
        order = f"abs(midi - {int(query.midi)}), {order}"
    limit = -1 if query.only is not None or most is None else most
    # First which, from what is small; the rest of those alone. What a range of numbers leaves is looked at
    # first, the kind next.
    tables = "sound CROSS JOIN place" if _ranged(query) else "place JOIN sound"
    rows = db.execute(
        f"SELECT sound.hash, min(place.id) FROM {tables} ON sound.hash = place.hash "
        f"WHERE {' AND '.join(said)} GROUP BY sound.hash ORDER BY {order} LIMIT {limit}",
        given,
    ).fetchall()
    hashes = [row[0] for row in rows]
    if query.only is not None:
        hashes = [one for one in hashes if one in query.only][:most]
    return hashes


def entries_of(db: sqlite3.Connection, hashes: list[str]) -> list[Entry]:
    """Sounds by their contents, in this order; what is not there is left out."""
    rows: list[sqlite3.Row] = []
    for n in range(0, len(hashes), _AT_ONCE):
        some = hashes[n : n + _AT_ONCE]
        rows += db.execute(
            f"SELECT {_COLUMNS}, min(place.id) AS first, place.kind, place.confidence "
            "FROM place JOIN sound ON sound.hash = place.hash "
            f"WHERE place.hash IN ({', '.join('?' * len(some))}) GROUP BY place.hash",
            some,
        ).fetchall()
    found = {entry.hash: entry for entry in _entries(db, rows)}
    return [found[digest] for digest in hashes if digest in found]


def _entries(db: sqlite3.Connection, rows: list[sqlite3.Row]) -> list[Entry]:
    places: dict[str, list[str]] = {row["hash"]: [] for row in rows}
    for n in range(0, len(rows), _AT_ONCE):
        some = [row["hash"] for row in rows[n : n + _AT_ONCE]]
        for digest, path in db.execute(
            "SELECT place.hash, folder.path || '/' || place.path FROM place "
            f"JOIN folder ON folder.id = place.folder WHERE place.hash IN ({', '.join('?' * len(some))}) "
            "ORDER BY place.id",
            some,
        ):
            places[digest].append(path)
    return [
        Entry(
            hash=row["hash"], path=places[row["hash"]][0], places=tuple(places[row["hash"]]),
            kind=row["kind"], confidence=row["confidence"], note=row["note"], cents=row["cents"],
            midi=row["midi"], note_confidence=row["note_confidence"], length_ms=row["length_ms"],
            decay_ms=row["decay_ms"], centroid_hz=row["centroid_hz"], sub_db=row["sub_db"],
            click_db=row["click_db"], lufs=row["lufs"], peak_dbfs=row["peak_dbfs"], bpm=row["bpm"],
            key=row["song_key"], reasons=tuple(json.loads(row["reasons"])),
            picture_db=tuple(-db for db in row["picture"]),
        )
        for row in rows
    ]  # fmt: skip


def portrait_of(db: sqlite3.Connection, digest: str) -> NDArray[np.float64]:
    """A sound's portrait. NotFoundError where it is not in the stock."""
    row = db.execute("SELECT portrait FROM detail WHERE hash = ?", (digest,)).fetchone()
    if row is None:
        raise NotFoundError("This sound is not in the stock.")
    return np.frombuffer(row[0], "<f4").astype(np.float64)


class Likeness:
    """All portraits in memory, for what sounds like another: read once, and again after a change."""

    def __init__(self) -> None:
        self._version: tuple[object, ...] = ()
        self._hashes: list[str] = []
        self._spread = np.zeros((0, 1), np.float32)
        self._mean = self._scale = np.zeros(1, np.float32)

    def _read(self, db: sqlite3.Connection) -> None:
        version = tuple(db.execute("SELECT count(*), max(id) FROM detail").fetchone())
        if version == self._version:
            return
        self._hashes, held = portraits(db)
        self._mean = held.mean(axis=0) if held.size else held.sum(axis=0)
        self._scale = np.maximum(held.std(axis=0), 1e-3) if held.size else self._mean + 1
        self._spread = ((held - self._mean) / self._scale).astype(np.float32)
        self._version = version

    def like(self, db: sqlite3.Connection, portrait: NDArray[np.float64]) -> dict[str, float]:
        """How far every sound is from a portrait: the mean distance of their numbers, in spreads of all."""
        self._read(db)
        if not self._hashes:
            return {}
        asked = ((portrait.astype(np.float32) - self._mean) / self._scale)[None, :]
        apart = np.abs(self._spread - asked).mean(axis=1)
        return dict(zip(self._hashes, (float(one) for one in apart), strict=True))
