"""Tracks as files, from one studio to another."""

from urllib.parse import quote

from fastapi import APIRouter, Request
from fastapi.concurrency import run_in_threadpool

from juglant.api.hits import shown_name
from juglant.api.media import FILE_BODY, Zip
from juglant.api.studio import AtDesk, RowId, put_audio, read_track
from juglant.api.tracks import SavedTrack, saved
from juglant.api.uploads import Name
from juglant.files.audio import decode
from juglant.files.names import plain_name
from juglant.files.parcel import Parcel, Sound, read_parcel, write_parcel
from juglant.store import audio, tracks
from juglant.store.database import Studio

router = APIRouter(prefix="/api/tracks", tags=["tracks"])


def packed(studio: Studio, track_id: int) -> tuple[str, bytes]:
    """A track as one file with every sound that it is made from, and how that file is called."""
    with studio.reading() as db:
        stored = tracks.get(db, track_id)
        track = read_track(stored.body)
        found = [audio.data(db, digest) for digest in sorted(track.audio)]
    data = write_parcel(Parcel(stored.name, track, [Sound(name, data) for data, name in found]))
    return f"{plain_name(stored.name)}_track.zip", data


def unpacked(studio: Studio, data: bytes, name: str) -> tracks.Track:
    """The track of a file, in this studio: all of it or nothing."""
    found = read_parcel(data, name)
    decoded = [(sound, decode(sound.data, sound.name)) for sound in found.sounds]
    with studio.changing() as db:
        for sound, heard in decoded:
            put_audio(db, sound.data, sound.name, heard)
        return tracks.create(db, found.name, found.track.model_dump_json())


@router.get("/{track_id}/parcel.zip", response_class=Zip)
def parcel(desk: AtDesk, track_id: RowId) -> Zip:
    """A track as one file, with every sound that it is made from."""
    name, data = packed(desk.studio, track_id)
    head = {"Content-Disposition": f"attachment; filename*=utf-8''{quote(name)}"}
    return Zip(data, headers=head)


@router.post("/parcel", status_code=201, openapi_extra=FILE_BODY)
async def open_parcel(desk: AtDesk, request: Request, name: Name) -> SavedTrack:
    """A track from a file whose bytes are the request's body."""
    data = await request.body()
    return saved(await run_in_threadpool(unpacked, desk.studio, data, shown_name(name)))
