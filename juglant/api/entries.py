"""The log's other lines: notes, blind tests, hand-overs; a day in numbers; all of it to take along."""

import io
import zipfile
from typing import Annotated, Literal
from urllib.parse import quote

from fastapi import APIRouter
from pydantic import BaseModel, StringConstraints

from juglant.api.inputs import Input
from juglant.api.kept import ToldNumber, kept_version, told_numbers
from juglant.api.media import Zip
from juglant.api.studio import AtDesk, Desk, RowId, read_track
from juglant.core.errors import NotFoundError
from juglant.core.logbook import Line, as_markdown, silhouette_svg
from juglant.core.recipes.sections import Track
from juglant.core.words import changes
from juglant.files.names import plain_name
from juglant.store import entries, tracks, versions

router = APIRouter(prefix="/api/tracks/{track_id}", tags=["log"])

_MOST_VERSIONS = 100_000


class LogEntry(BaseModel):
    """A line of the log beside the kept versions, said of the state with the number `revision`."""

    id: int
    kind: Literal["note", "blind", "hand-over"]
    note: str
    revision: int | None
    made_at: str


class NewEntry(Input):
    """A line to be written."""

    kind: Literal["note", "blind"] = "note"
    note: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=2000)]


@router.get("/entries")
def list_entries(desk: AtDesk, track_id: RowId) -> list[LogEntry]:
    """The latest lines, the newest first."""
    with desk.studio.reading() as db:
        return [LogEntry(**one._asdict()) for one in entries.of_track(db, track_id)]


@router.post("/entries", status_code=201)
def add_entry(desk: AtDesk, track_id: RowId, new: NewEntry) -> LogEntry:
    """A note with its time, tied to the state it is written in."""
    with desk.studio.changing() as db:
        return LogEntry(**entries.add(db, track_id, new.kind, new.note)._asdict())


@router.delete("/entries/{entry_id}", status_code=204)
def drop_entry(desk: AtDesk, track_id: RowId, entry_id: RowId) -> None:
    """Take a line out of the log."""
    with desk.studio.changing() as db:
        entries.drop(db, track_id, entry_id)


class Day(BaseModel):
    """A day's work: the numbers of the main section before it and after it, and what changed."""

    day: str
    before: list[ToldNumber]
    after: list[ToldNumber]
    changed: list[str]


def _ends(desk: Desk, track_id: int, day: str) -> tuple[Track, Track]:
    """A track as it was before a day's first step and after its last, on the way to the working state."""
    with desk.studio.reading() as db:
        path = [one for one in tracks.history(db, track_id, 2000) if one.on_path]
        mine = [n for n, one in enumerate(path) if one.made_at[:10] == day]
        if not mine:
            raise NotFoundError("Nothing was saved on that day that is still in the history.")
        last, first = path[mine[0]], path[min(mine[-1] + 1, len(path) - 1)]
        bodies = [tracks.body(db, track_id, one.revision) for one in (first, last)]
    before, after = (read_track(body) for body in bodies)
    return before, after


@router.get("/days")
def list_days(desk: AtDesk, track_id: RowId) -> list[str]:
    """The days on which something was saved that is still in the history, the latest first."""
    with desk.studio.reading() as db:
        found = [one.made_at[:10] for one in tracks.history(db, track_id, 2000) if one.on_path]
    return list(dict.fromkeys(found))


@router.get("/days/{day}")
def day_in_numbers(desk: AtDesk, track_id: RowId, day: str) -> Day:
    """A day's work in numbers before and after, and in words."""
    before, after = _ends(desk, track_id, day)
    return Day(
        day=day, before=told_numbers(desk.session, before.state),
        after=told_numbers(desk.session, after.state), changed=changes(before, after),
    )  # fmt: skip


@router.get("/log.zip", response_class=Zip)
def log_as_markdown(desk: AtDesk, track_id: RowId) -> Zip:
    """The whole log as Markdown with its pictures, in a ZIP."""
    with desk.studio.reading() as db:
        track = tracks.get(db, track_id)
        kept = versions.of_track(db, track_id, 2**63 - 1, _MOST_VERSIONS)
        marks, others = entries.marks(db, track_id), entries.of_track(db, track_id, _MOST_VERSIONS)
    lines, packed = [], io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        for one in kept:
            told = kept_version(one, marks.get(one.id))
            picture = None
            if told.kick_db:
                picture = f"pictures/{told.id}.svg"
                archive.writestr(picture, silhouette_svg(told.kick_db, told.bass_db))
            lines.append(
                Line(
                    told.made_at, f"{'★ ' if told.star else ''}{told.note or 'kept version'}",
                    (
                        *([told.said] if told.said else [told.trouble or ""]), *told.changed,
                        *(f"open: {sentence}" for sentence in told.findings),
                        *([f"tags: {told.tags}"] if told.tags else []),
                    ),
                    picture,
                )
            )  # fmt: skip
        lines += [Line(one.made_at, one.note) for one in others]
        archive.writestr("log.md", as_markdown(track.name, lines))
    head = {"Content-Disposition": f"attachment; filename*=utf-8''{quote(plain_name(track.name))}_log.zip"}
    return Zip(packed.getvalue(), headers=head)
