"""Files longer than a sound may be: seen as a whole, heard by the stretch, and a stretch taken."""

from collections.abc import Callable
from pathlib import Path
from typing import Annotated, TypeVar

from fastapi import APIRouter, Query, Request
from fastapi.concurrency import run_in_threadpool
from pydantic import BaseModel

from juglant.api.hits import ImportedAudio, import_bytes, shown_name
from juglant.api.media import FILE_BODY, Wav
from juglant.api.studio import AtDesk
from juglant.api.uploads import Name, to_disk
from juglant.files.audio import MOST_SECONDS, encode_wav_float
from juglant.files.longer import LEAST_S, LONGEST_S, outline, stretch

router = APIRouter(prefix="/api/audio", tags=["hits"])

FromS = Annotated[float, Query(ge=0.0, le=LONGEST_S)]
Seconds = Annotated[float, Query(ge=LEAST_S, le=MOST_SECONDS)]
T = TypeVar("T")


class LongFile(BaseModel):
    """A whole file: its length, how little and how much of it can be used, the samples of equal columns."""

    seconds: float
    least_s: float = LEAST_S
    most_s: float = MOST_SECONDS
    lows: list[float]
    highs: list[float]


async def _of(request: Request, name: str, work: Callable[[Path], T]) -> T:
    path = await to_disk(request, name)
    try:
        return await run_in_threadpool(work, path)
    finally:
        path.unlink(missing_ok=True)


def _wav(path: Path, name: str, from_s: float, seconds: float) -> bytes:
    found = stretch(path, name, from_s, seconds)
    return encode_wav_float(found.samples, found.rate)


@router.post("/outline", openapi_extra=FILE_BODY)
async def file_outline(request: Request, name: Name) -> LongFile:
    """A file of up to an hour as it is drawn; nothing is kept."""
    shown = shown_name(name)
    found = await _of(request, shown, lambda path: outline(path, shown))
    return LongFile(**found._asdict())


@router.post("/stretch", response_class=Wav, openapi_extra=FILE_BODY)
async def hear_stretch(request: Request, name: Name, from_s: FromS, seconds: Seconds) -> Wav:
    """A stretch of a file, to be heard; nothing is kept."""
    shown = shown_name(name)
    return Wav(await _of(request, shown, lambda path: _wav(path, shown, from_s, seconds)))


@router.post("/cut", status_code=201, openapi_extra=FILE_BODY)
async def cut_file(
    desk: AtDesk, request: Request, name: Name, from_s: FromS, seconds: Seconds
) -> ImportedAudio:
    """Store a stretch of a file."""
    shown = shown_name(name)
    return await _of(
        request, shown, lambda path: import_bytes(desk, _wav(path, shown, from_s, seconds), shown)
    )
