"""Hand over: the files that leave."""

from fastapi import APIRouter, Response
from pydantic import BaseModel

from juglant.api.studio import AtDesk, Desk
from juglant.api.tracks import saved
from juglant.core import music
from juglant.core.findings import findings
from juglant.core.hits.render import strokes_of
from juglant.core.lowend.linenotes import notes_of_lines
from juglant.core.lowend.overview import played_duckings
from juglant.core.lowend.played import stroke_at
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.hit import Hit
from juglant.files.handover import Shot, handover_files, plain_name, zipped
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


def _files(desk: Desk, track_id: int) -> tuple[str, dict[str, bytes]]:
    with desk.studio.reading() as db:
        track = saved(tracks.get(db, track_id))
    answer = desk.session.answer(track.state)
    brief = track.state.brief
    hits = [_strokes(desk, hit, brief) for hit in track.state.hits]
    hits += [
        _strokes(desk, one.kick.model_copy(update={"name": f"{one.kick.name} {one.section}"}), brief)
        for one in track.state.kicks
    ]
    hits += [_moved(desk, hit, brief) for hit in track.state.all_hits if hit.follow == "yes"]
    rest = desk.session.rest_stems(track.state)
    stems = desk.session.line_stems(track.state)
    named = track.state.named
    lines = {named(id): loop.samples for id, loop in stems.items()} if len(stems) > 1 else {}
    found = findings(desk.session, answer)
    played = played_duckings(desk.session, track.state)
    notes = notes_of_lines(desk.session, track.state)
    return track.name, handover_files(track.name, answer, found, hits, rest, lines, played, notes)


def _strokes(desk: Desk, hit: Hit, brief: Brief) -> list[Shot]:
    """Every stroke that a hit has a sound of its own for."""
    numbers = desk.session.measured_hit(hit, brief).hit
    return [
        Shot(
            plain_name(hit.name) + stroke,
            desk.session.hits.hit(hit, brief.bpm, strength, turn),
            numbers.fundamental_hz,
            numbers.note,
        )
        for stroke, strength, turn in strokes_of(hit)
    ]


def _moved(desk: Desk, hit: Hit, brief: Brief) -> list[Shot]:
    """What a hit that follows the chords plays over every root but the tonic."""
    hz = desk.session.measured_hit(hit, brief).hit.fundamental_hz
    found = {}
    for bar, root in enumerate(brief.roots):
        moved = brief.moved_by(bar)
        if moved:
            there = None if hz is None else hz * 2 ** (moved / 12)
            note = None if there is None else music.nearest_note(there, brief.a4_hz, brief.key.flats).note
            sound = stroke_at(desk.session.hits, hit, moved, brief.bpm)
            found[root] = Shot(f"{plain_name(hit.name)}_over_{plain_name(root)}", sound, there, note)
    return list(found.values())


@router.get("/handover")
def handover(desk: AtDesk, track_id: int) -> Handover:
    """The files as they would be handed over now, from the saved state."""
    _, files = _files(desk, track_id)
    sheet = next(data for name, data in files.items() if name.endswith("_sheet.txt"))
    return Handover(
        files=[HandoverFile(name=name, bytes=len(data)) for name, data in files.items()],
        sheet=sheet.decode("utf-8"),
    )


@router.get("/handover.zip", response_class=Response)
def handover_zip(desk: AtDesk, track_id: int) -> Response:
    """All of it as one ZIP."""
    name, files = _files(desk, track_id)
    head = {"Content-Disposition": f'attachment; filename="{plain_name(name)}.zip"'}
    return Response(zipped(files), media_type="application/zip", headers=head)
