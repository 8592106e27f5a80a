"""Room: a low end in the places it will be heard in."""

from typing import Annotated, Literal

import numpy as np
from fastapi import APIRouter, Query, Request
from fastapi.concurrency import run_in_threadpool
from pydantic import BaseModel, Field

from juglant.api.hits import shown_name
from juglant.api.inputs import Input
from juglant.api.media import FILE_BODY
from juglant.api.sound import Key
from juglant.api.studio import AtDesk, Desk, InRoom, RowId, put_audio
from juglant.api.uploads import Name
from juglant.core import RATE
from juglant.core.errors import UserError
from juglant.core.findings import Effect, Finding, TriedFix, effect, fixes
from juglant.core.findings.room import There, room_checks
from juglant.core.recipes.hit import PartId
from juglant.core.recipes.parts import MOST_PARTS
from juglant.core.recipes.room import Judging, Room
from juglant.core.recipes.track import TrackState
from juglant.core.rooms.exposure import LEAST_LEVEL_DB, MOST_LEVEL_DB, Exposure, exposure
from juglant.core.rooms.heard import checked_response, heard_in, own_response
from juglant.core.rooms.judged import Judged
from juglant.core.rooms.systems import response_db
from juglant.core.synth.bass import loop_frames
from juglant.files.audio import to_keep
from juglant.store import responses

router = APIRouter(prefix="/api/room", tags=["room"])

# The response is drawn at so many frequencies, from 20 Hz to 20 kHz.
_POINTS_HZ = np.geomspace(20.0, 20000.0, 181)


class RoomQuestion(Judging):
    """A state in a place, and how loud the finished track is to be."""

    state: TrackState
    room: Room


class RoomResponse(BaseModel):
    """How loud a place plays a tone, in dB, at frequencies in Hz; without what rings on."""

    hz: list[float]
    db: list[float]


class RoomView(BaseModel):
    """What becomes of a state in a place, the place's response, and what is beyond its limit there."""

    response: RoomResponse
    judged: Judged
    findings: list[Finding]


def _response(desk: Desk, room: Room) -> RoomResponse:
    level = response_db(room, _POINTS_HZ, RATE, own_response(desk.session, room))
    return RoomResponse(hz=np.round(_POINTS_HZ, 2).tolist(), db=np.round(level, 2).tolist())


class OnePlace(Input):
    """A place."""

    room: Room


@router.post("/response")
def response_of(desk: AtDesk, place: OnePlace) -> RoomResponse:
    """How loud a place plays, to be drawn."""
    return _response(desk, place.room)


@router.post("/view")
def room_view(desk: AtDesk, question: RoomQuestion) -> RoomView:
    """A state in a place: its numbers, and what they bring to light."""
    session, there = desk.session, There(question.room, question.lufs)
    found = there.look(session, question.state)
    answer = session.answer(question.state)
    # What is wrong with the track anywhere is told beside it.
    mine = [one for kind in room_checks(there) if (one := kind.judge(session, answer)) is not None]
    return RoomView(response=_response(desk, question.room), judged=found, findings=mine)


@router.post("/{finding_id}/fixes")
def tried_room_fixes(desk: AtDesk, finding_id: str, question: RoomQuestion) -> list[TriedFix]:
    """The fixes of a finding of a place that were tried and may be offered; nothing is saved."""
    there = There(question.room, question.lufs)
    with desk.one_trial:
        return fixes(desk.trials, desk.trials.answer(question.state), finding_id, room_checks(there))


@router.post("/{finding_id}/fix")
def try_room_fix(
    desk: AtDesk, finding_id: str, question: RoomQuestion,
    way: Annotated[str | None, Query(max_length=20, description="One of the finding's fixes.")] = None,
) -> Effect:  # fmt: skip
    """The mended state of a finding of a place, with the number before and after; nothing is saved."""
    checks = room_checks(There(question.room, question.lufs))
    return effect(desk.session, desk.session.answer(question.state), finding_id, way, checks)


class HeardQuestion(Input):
    """Which parts of a state are heard in a place, before or under their duckings, and what they are made
    equally loud by.
    """

    state: TrackState
    room: Room
    parts: Annotated[list[PartId], Field(min_length=1, max_length=MOST_PARTS + 1)]
    ducked: bool = True
    by: Literal["loudness", "low band"] = "loudness"


class HeardThere(BaseModel):
    """A loop of so many frames by its name, the gain that made it as loud as it is without the place, and
    whether that stopped short of it.
    """

    frames: int
    key: Key
    gain_db: float
    short: bool


@router.post("/heard")
def heard_there(desk: AtDesk, question: HeardQuestion) -> HeardThere:
    """What is heard in a place; its sound is asked for by its name, as every sound."""
    state = question.state
    asked = InRoom(state, question.room, tuple(question.parts), question.ducked, question.by)
    loop, match = heard_in(desk.session, *asked[:2], question.parts, ducked=asked.ducked, by=asked.by)
    desk.planned.note(loop.key, asked)
    frames = loop_frames(state.brief, RATE)
    return HeardThere(frames=frames, key=loop.key, gain_db=match.gain_db, short=match.short)


class OwnPlace(BaseModel):
    """A place of the user's own."""

    id: int
    name: str
    audio: str


@router.get("/responses")
def list_responses(desk: AtDesk) -> list[OwnPlace]:
    """The places of the user's own, by name."""
    with desk.studio.reading() as db:
        return [OwnPlace(**one._asdict()) for one in responses.everything(db)]


def _kept(desk: Desk, data: bytes, name: str) -> list[OwnPlace]:
    data, audio = to_keep(data, name)
    checked_response(audio.samples, audio.rate)
    with desk.studio.changing() as db:
        responses.keep(db, name.rsplit(".", 1)[0][:120] or name, put_audio(db, data, name, audio).hash)
    return list_responses(desk)


@router.post("/responses", status_code=201, openapi_extra=FILE_BODY)
async def keep_response(desk: AtDesk, request: Request, name: Name) -> list[OwnPlace]:
    """Keep an impulse response from a file as a place; answers all of them."""
    data = await request.body()
    if not data:
        raise UserError("This file is empty.", "file")
    return await run_in_threadpool(_kept, desk, data, shown_name(name))


@router.delete("/responses/{response_id}", status_code=204)
def forget_response(desk: AtDesk, response_id: RowId) -> None:
    """Take a place of the user's own out of the studio."""
    with desk.studio.changing() as db:
        responses.forget(db, response_id)


@router.get("/exposure")
def hours(
    dba: Annotated[float, Query(ge=LEAST_LEVEL_DB, le=MOST_LEVEL_DB)],
    dbc: Annotated[float | None, Query(ge=LEAST_LEVEL_DB, le=MOST_LEVEL_DB)] = None,
) -> Exposure:
    """How long a level at the ear may last, by published advice."""
    return exposure(dba, dbc)
