"""What the user says of sounds of the stock: stars, tags and a note, by content."""

import json
import re
import sqlite3
from collections.abc import Iterable
from typing import NamedTuple

from juglant.core.errors import UserError

MOST_STARS, MOST_TAGS, LONGEST_TAG, LONGEST_NOTE = 5, 20, 40, 500


class Mark(NamedTuple):
    """Stars from 0 to 5, tags, and a note."""

    stars: int = 0
    tags: tuple[str, ...] = ()
    note: str = ""


def _read(row: sqlite3.Row) -> Mark:
    return Mark(row["stars"], tuple(json.loads(row["tags"] or "[]")), row["note"])


def everything(db: sqlite3.Connection) -> dict[str, Mark]:
    """All marks by content."""
    return {row["hash"]: _read(row) for row in db.execute("SELECT hash, stars, tags, note FROM mark")}


def chosen(db: sqlite3.Connection, tags: Iterable[str], stars: int) -> frozenset[str] | None:
    """Contents with all of some tags and so many stars; None where neither is asked for."""
    wanted = {tag.strip().lower() for tag in tags}
    if not wanted and not stars:
        return None
    return frozenset(
        digest for digest, mark in everything(db).items()
        if wanted <= set(mark.tags) and mark.stars >= stars
    )  # fmt: skip


def put(db: sqlite3.Connection, digest: str, mark: Mark) -> None:
    """Keep a mark; one that says nothing is forgotten. UserError where it says too much."""
    tags = tuple(dict.fromkeys(re.sub(r"\s+", " ", tag).strip().lower() for tag in mark.tags))
    tags = tuple(tag for tag in tags if tag)
    if len(tags) > MOST_TAGS or any(len(tag) > LONGEST_TAG for tag in tags):
        raise UserError(f"A sound has up to {MOST_TAGS} tags of up to {LONGEST_TAG} letters.", "tags")
    if len(mark.note) > LONGEST_NOTE:
        raise UserError(f"A note has up to {LONGEST_NOTE} letters.", "note")
    if not 0 <= mark.stars <= MOST_STARS:
        raise UserError(f"A sound has 0 to {MOST_STARS} stars.", "stars")
    if mark.stars == 0 and not tags and not mark.note:
        db.execute("DELETE FROM mark WHERE hash = ?", (digest,))
        return
    db.execute(
        "INSERT INTO mark (hash, stars, tags, note) VALUES (?, ?, ?, ?) ON CONFLICT (hash) DO UPDATE SET "
        "stars = excluded.stars, tags = excluded.tags, note = excluded.note",
        (digest, mark.stars, json.dumps(tags, ensure_ascii=False), mark.note),
    )
