"""Hand over: the files that leave."""

import shutil
import tempfile
from pathlib import Path
from urllib.parse import quote

from fastapi import APIRouter, Response
from fastapi.responses import FileResponse
from pydantic import BaseModel
from starlette.background import BackgroundTask

from juglant.api.studio import AtDesk, Desk, RowId, read_track
from juglant.core import music
from juglant.core.errors import UserError
from juglant.core.findings import findings
from juglant.core.hits.render import strokes_of
from juglant.core.lowend.linenotes import notes_of_lines
from juglant.core.lowend.overview import played_duckings
from juglant.core.lowend.played import stroke_at
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.hit import Hit, PartId
from juglant.core.recipes.sections import Section, Track
from juglant.core.recipes.track import TrackState
from juglant.files.arranged import write_arranged
from juglant.files.handover import Shot, handover_files, zipped
from juglant.files.names import file_names, plain_name
from juglant.store import tracks

router = APIRouter(prefix="/api/tracks/{track_id}", tags=["handover"])


class HandoverFile(BaseModel):
    """One file of the ZIP."""

    name: str
    bytes: int


class Handover(BaseModel):
    """What the ZIP holds, and the text of its track sheet."""

    files: list[HandoverFile]
    sheet: str


def _track(desk: Desk, track_id: RowId) -> tuple[str, Track]:
    with desk.studio.reading() as db:
        stored = tracks.get(db, track_id)
    return stored.name, read_track(stored.body)


def _files(desk: Desk, name: str, state: TrackState) -> dict[str, bytes]:
    """Everything of one section, by its file names."""
    answer, brief = desk.session.answer(state), state.brief
    told = file_names(state)
    hits = [_strokes(desk, hit, brief, told[hit.id]) for hit in state.hits]
    hits += [_moved(desk, hit, brief, told[hit.id]) for hit in state.all_hits if hit.follow == "yes"]
    rest = {id: loop.samples for id, loop in desk.session.rest_stems(state).items()}
    stems = desk.session.line_stems(state)
    lines = {id: loop.samples for id, loop in stems.items()} if len(stems) > 1 else {}
    found, played = findings(desk.session, answer), played_duckings(desk.session, state)
    return handover_files(
        name, answer, found, hits, rest, lines, played, notes_of_lines(desk.session, state)
    )


def _called(name: str, track: Track, section: Section) -> str:
    """What the files of a section begin with: the track's name, and the section's where there are more."""
    return f"{name} {section.name}" if len(track.sections) > 1 else name


def _strokes(desk: Desk, hit: Hit, brief: Brief, called: str) -> list[Shot]:
    """Every stroke that a hit has a sound of its own for."""
    numbers = desk.session.measured_hit(hit, brief).hit
    return [
        Shot(
            called + stroke,
            desk.session.hits.hit(hit, brief.bpm, strength, turn),
            numbers.fundamental_hz,
            numbers.note,
        )
        for stroke, strength, turn in strokes_of(hit)
    ]


def _moved(desk: Desk, hit: Hit, brief: Brief, called: str) -> list[Shot]:
    """What a hit that follows the chords plays over every root but the tonic."""
    hz = desk.session.measured_hit(hit, brief).hit.fundamental_hz
    found = {}
    for bar, root in enumerate(brief.roots):
        moved = brief.moved_by(bar)
        if moved:
            there = None if hz is None else hz * 2 ** (moved / 12)
            note = None if there is None else music.nearest_note(there, brief.a4_hz, brief.key.flats).note
            sound = stroke_at(desk.session.hits, hit, moved, brief.bpm)
            found[root] = Shot(f"{called}_over_{plain_name(root)}", sound, there, note)
    return list(found.values())


@router.get("/handover")
def handover(desk: AtDesk, track_id: RowId, section: PartId | None = None) -> Handover:
    """The files of a section as they would be handed over now, from the saved state."""
    name, track = _track(desk, track_id)
    at = track.section(section or track.main)
    files = _files(desk, _called(name, track, at), track.at(at.id))
    sheet = next(data for name, data in files.items() if name.endswith("_sheet.txt"))
    return Handover(
        files=[HandoverFile(name=name, bytes=len(data)) for name, data in files.items()],
        sheet=sheet.decode("utf-8"),
    )


@router.get("/arrangement.zip", response_class=Response)
def arrangement_zip(desk: AtDesk, track_id: RowId) -> Response:
    """The whole arrangement played straight through, as one ZIP."""
    name, track = _track(desk, track_id)
    if not track.arrangement:
        raise UserError("Nothing is arranged yet: put sections in order in the Brief.", "arrangement")
    folder = tempfile.mkdtemp(prefix="juglant-arrangement-")
    try:
        out = Path(folder) / f"{plain_name(name)}_arrangement.zip"
        write_arranged(desk.session, name, track, out)
    except BaseException:
        shutil.rmtree(folder, ignore_errors=True)
        raise
    return FileResponse(
        out, media_type="application/zip", filename=out.name,
        background=BackgroundTask(shutil.rmtree, folder, ignore_errors=True),
    )  # fmt: skip


@router.get("/handover.zip", response_class=Response)
def handover_zip(desk: AtDesk, track_id: RowId, section: PartId | None = None) -> Response:
    """A section as one ZIP, or all of them, each in a folder of its own."""
    name, track = _track(desk, track_id)
    wanted = [track.section(section)] if section else list(track.sections)
    files: dict[str, bytes] = {}
    for number, at in enumerate(wanted, 1):
        folder = f"{number}_{plain_name(at.name)}/" if len(wanted) > 1 else ""
        own = _files(desk, _called(name, track, at), track.at(at.id))
        files |= {folder + path: data for path, data in own.items()}
    shown = _called(name, track, wanted[0]) if len(wanted) == 1 else name
    head = {"Content-Disposition": f"attachment; filename*=utf-8''{quote(plain_name(shown))}.zip"}
    return Response(zipped(files), media_type="application/zip", headers=head)
