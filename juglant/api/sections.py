"""Sections: added, named, removed, made main, arranged; and what of them follows main again."""

from dataclasses import dataclass
from itertools import pairwise
from typing import Annotated
from uuid import uuid4

import numpy as np
from fastapi import APIRouter
from pydantic import BaseModel

from juglant.api.naming import Visible
from juglant.api.studio import AtDesk, Desk, RowId, read_track
from juglant.api.tracks import BasedOn, SavedTrack, put
from juglant.core.findings import findings
from juglant.core.recipes.hit import PartId
from juglant.core.recipes.sections import Aspect, Entry, SectionName, Track
from juglant.core.recipes.track import TrackState
from juglant.store import tracks

router = APIRouter(prefix="/api/tracks/{track_id}", tags=["sections"])

_FLOOR_DB = -120.0


class NewSection(BasedOn):
    """A section more, which begins as another one is."""

    like: PartId
    name: Annotated[SectionName, Visible]


class SectionRename(BasedOn):
    """What a section is to be called."""

    name: Annotated[SectionName, Visible]


class Follow(BasedOn):
    """What is to follow main again: an aspect of a part, or a ducking where no aspect is named."""

    part: PartId
    aspect: Aspect | None = None


class Arrange(BasedOn):
    """The order in which the sections come."""

    entries: list[Entry]


class BarLevel(BaseModel):
    """The highest low-band level of kick and lines in a bar, dBFS."""

    kick_db: float
    bass_db: float


class Arranged(BaseModel):
    """How many findings every section has, and the low end of every bar of the arrangement."""

    findings: dict[str, int]
    bars_db: list[BarLevel]


@router.post("/sections")
def add_section(desk: AtDesk, track_id: RowId, new: NewSection) -> SavedTrack:
    """A section more, at hand."""
    id = str(uuid4())
    return put(desk, track_id, new.based_on, lambda track: track.with_section(id, new.name, new.like), id)


@router.patch("/sections/{section}")
def rename_section(desk: AtDesk, track_id: RowId, section: PartId, new: SectionRename) -> SavedTrack:
    """Another name for a section."""
    return put(desk, track_id, new.based_on, lambda track: track.renamed(section, new.name), new.at)


@router.delete("/sections/{section}")
def remove_section(
    desk: AtDesk, track_id: RowId, section: PartId, based_on: RowId, at: PartId | None = None
) -> SavedTrack:
    """A section less, in the arrangement too; main is at hand where that one was."""
    return put(desk, track_id, based_on, lambda track: track.without_section(section), at)


@router.post("/sections/{section}/main")
def make_main(desk: AtDesk, track_id: RowId, section: PartId, change: BasedOn) -> SavedTrack:
    """The section that the others follow; every one of them sounds as before."""
    return put(desk, track_id, change.based_on, lambda track: track.with_main(section), change.at)


@router.post("/sections/{section}/follow")
def follow(desk: AtDesk, track_id: RowId, section: PartId, what: Follow) -> SavedTrack:
    """What a section had of its own follows main again."""

    def changed(track: Track) -> Track:
        return track.following(section, what.part, what.aspect)

    return put(desk, track_id, what.based_on, changed, section)


@router.put("/arrangement")
def arrange(desk: AtDesk, track_id: RowId, order: Arrange) -> SavedTrack:
    """Another order of the sections."""

    def changed(track: Track) -> Track:
        return track.arranged(tuple(order.entries))

    return put(desk, track_id, order.based_on, changed, order.at)


@router.get("/arrangement")
def arrangement(desk: AtDesk, track_id: RowId) -> Arranged:
    """Every section judged for itself, and the strip along the arrangement."""
    with desk.studio.reading() as db:
        track = read_track(tracks.get(db, track_id).body)
    judged = {section.id: _judged(desk, track.at(section.id)) for section in track.sections}
    bars = [
        judged[entry.section].bars[bar % len(judged[entry.section].bars)]
        for entry in track.arrangement for bar in range(entry.bars)
    ]  # fmt: skip
    return Arranged(findings={id: one.findings for id, one in judged.items()}, bars_db=bars)


@dataclass(frozen=True)
class _Judged:
    findings: int
    bars: list[BarLevel]


def _judged(desk: Desk, state: TrackState) -> _Judged:
    answer = desk.session.answer(state)
    sides = []
    for loop in (answer.kick_loop, answer.ducked_loop):
        level = loop.level.level_db
        edges = np.round(np.linspace(0, level.size, state.brief.bars + 1)).astype(int)
        sides.append([
            max(float(np.max(level[a:b])), _FLOOR_DB) for a, b in pairwise(edges)
        ])  # fmt: skip
    bars = [BarLevel(kick_db=kick, bass_db=bass) for kick, bass in zip(*sides, strict=True)]
    return _Judged(len(findings(desk.session, answer)), bars)
