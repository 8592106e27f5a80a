"""What is heard of a state: which sounds it is made of, and each of them under the name of its making."""

from contextlib import suppress
from typing import Annotated, Literal

import numpy as np
from fastapi import APIRouter, BackgroundTasks, Path
from pydantic import BaseModel, Field

from juglant.api.inputs import Input
from juglant.api.media import Samples
from juglant.api.studio import Asked, AtDesk, Desk, InRoom
from juglant.core import RATE
from juglant.core.errors import CancelledError, UserError
from juglant.core.lowend.session import Side
from juglant.core.measure.listening import Band
from juglant.core.measure.loopsound import LoopSound
from juglant.core.recipes.hit import PartId
from juglant.core.recipes.parts import MOST_PARTS, SUM
from juglant.core.recipes.track import TrackState
from juglant.core.rooms.heard import heard_in
from juglant.core.synth.bass import loop_frames

router = APIRouter(prefix="/api/sound", tags=["sound"])

Key = Annotated[str, Path(pattern=r"^[0-9a-f]{64}$")]


class PlannedPart(BaseModel):
    """A part that is heard: whose side it is on, and its sounds before and under its duckings, by name."""

    part: PartId
    side: Side
    before: str
    heard: str


class Plan(BaseModel):
    """The sounds of a loop of so many frames; the sum only where something is done to it."""

    frames: int
    parts: list[PlannedPart]


@router.post("/plan")
def plan(
    desk: AtDesk,
    state: TrackState,
    after: BackgroundTasks,
    ahead: Literal["none", "before", "heard"] = "none",
) -> Plan:
    """What the loop is made of; nothing of it is rendered for that. What will be asked for next is begun
    with once this is answered.
    """
    found, sounding = [], desk.session.sounding(state)
    if state.sum.acts and (whole := desk.session.sounding_part(state, SUM)):
        sounding.append(whole)
    for one in sounding:
        desk.planned.note(one.before.key, Asked(state, one.part, "before"))
        desk.planned.note(one.heard.key, Asked(state, one.part, "heard"))
        found.append(PlannedPart(part=one.part, side=one.side, before=one.before.key, heard=one.heard.key))
    if ahead != "none":
        after.add_task(_rendered, [one.heard if ahead == "heard" else one.before for one in sounding])
    return Plan(frames=loop_frames(state.brief, RATE), parts=found)


def _rendered(loops: list[LoopSound]) -> None:
    with suppress(CancelledError):
        for loop in loops:
            _ = loop.given


class BandsQuestion(Input):
    """Which parts of a state are heard together, before or under their duckings."""

    state: TrackState
    parts: Annotated[list[PartId], Field(min_length=1, max_length=MOST_PARTS + 1)]
    ducked: bool = True


@router.post("/bands")
def bands(desk: AtDesk, question: BandsQuestion) -> dict[Band, float]:
    """The gains in dB that bring a band alone to the loudness of everything that is heard."""
    return desk.session.band_match_db(question.state, tuple(question.parts), ducked=question.ducked)


def _looked_up(desk: Desk, asked: Asked | InRoom) -> LoopSound | None:
    if isinstance(asked, InRoom):
        state, room, parts, ducked, by = asked
        return heard_in(desk.session, state, room, list(parts), ducked=ducked, by=by)[0]
    one = desk.session.sounding_part(asked.state, asked.part)
    return None if one is None else one.before if asked.which == "before" else one.heard


@router.get("/{key}", response_class=Samples)
def sound(desk: AtDesk, key: Key) -> Samples:
    """A sound of the last plans by its name: its channels one after another, as little-endian float32. A
    header says how many there are. Under one name there is never another sound.
    """
    asked = desk.planned.get(key)
    loop = None if asked is None else _looked_up(desk, asked)
    if loop is None:
        raise UserError("This sound is not planned any more: ask for a plan.", "key")
    given = loop.given
    data = np.ascontiguousarray(given.T, "<f4").tobytes()
    head = {"X-Channels": str(given.ndim), "Cache-Control": "private, max-age=31536000, immutable"}
    return Samples(data, headers=head)
