"""Hits: the kick by itself, and sounds of the user's own."""

from pathlib import PurePath
from typing import Annotated

from fastapi import APIRouter, Query, Request, Response
from fastapi.concurrency import run_in_threadpool
from pydantic import BaseModel, Field

from juglant.api.studio import AtDesk, Desk, as_json
from juglant.api.views import KickView, kick_view
from juglant.core import RATE
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.track import ImportedKick, MadeKick
from juglant.files.audio import decode, encode_wav_float
from juglant.store import audio

router = APIRouter(prefix="/api", tags=["hits"])


class KickQuestion(BaseModel):
    """A kick, and the brief it is measured against."""

    brief: Brief
    kick: Annotated[MadeKick | ImportedKick, Field(discriminator="kind")]


class ImportedAudio(BaseModel):
    """A file of the user's own, as it is stored."""

    audio: str
    name: str
    kind: str
    rate: int
    frames: int
    channels: int
    seconds: float


@router.post("/hits/kick", response_model=KickView)
def preview_kick(desk: AtDesk, question: KickQuestion) -> Response:
    """The kick's numbers and pictures."""
    return as_json(kick_view(desk.session, question.kick, question.brief, RATE))


@router.post("/hits/kick/sound", response_class=Response)
def kick_sound(desk: AtDesk, question: KickQuestion) -> Response:
    """The kick as a 32-bit float WAV."""
    samples = desk.session.kick(question.kick, question.brief.bpm)
    return Response(encode_wav_float(samples, RATE), media_type="audio/wav")


def shown_name(name: str) -> str:
    """A file's name without folders, control characters or excess length."""
    last = PurePath(name.replace("\\", "/")).name
    return "".join(letter for letter in last if letter.isprintable())[:200] or "sound"


def _import(desk: Desk, data: bytes, name: str) -> ImportedAudio:
    decoded = decode(data, name)
    frames, channels = decoded.samples.shape[0], decoded.samples.ndim
    with desk.studio.changing() as db:
        stored = audio.put(db, data, name, decoded.kind, decoded.rate, frames, channels)
    return ImportedAudio(
        audio=stored.hash, name=name, kind=stored.kind, rate=stored.rate, frames=stored.frames,
        channels=stored.channels, seconds=frames / decoded.rate,
    )  # fmt: skip


@router.post(
    "/audio", status_code=201,
    openapi_extra={"requestBody": {"content": {"application/octet-stream": {
        "schema": {"type": "string", "format": "binary"}}}}},
)  # fmt: skip
async def import_audio(
    desk: AtDesk, request: Request, name: Annotated[str, Query(max_length=1000)]
) -> ImportedAudio:
    """Store a WAV, FLAC or AIFF file whose bytes are the request's body."""
    data = await request.body()
    return await run_in_threadpool(_import, desk, data, shown_name(name))
