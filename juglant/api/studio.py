"""What the routers share: the open studio and the rendering session."""

import sqlite3
from collections import OrderedDict
from dataclasses import dataclass, field
from threading import Lock
from typing import Annotated, Literal, NamedTuple

from fastapi import Depends, Request
from pydantic import BaseModel, Field, ValidationError

from juglant.api.media import RawJson
from juglant.core.errors import NotFoundError, UserError
from juglant.core.hits.render import LoadAudio
from juglant.core.lowend.session import Array, Session
from juglant.core.recipes.room import Room
from juglant.core.recipes.sections import Track
from juglant.core.recipes.track import TrackState
from juglant.files.audio import Audio, decode
from juglant.stock.dropped import Dropped
from juglant.stock.fitting import stock_bytes
from juglant.store import audio
from juglant.store.database import Studio


class Asked(NamedTuple):
    """A sound that may be asked for: a state, a part of it, and whether before or under its duckings."""

    state: TrackState
    part: str
    which: Literal["before", "heard"]


class InRoom(NamedTuple):
    """A sound that may be asked for: parts of a state as they are heard in a place."""

    state: TrackState
    room: Room
    parts: tuple[str, ...]
    ducked: bool
    by: Literal["loudness", "low band"]


class Planned:
    """The sounds that were named last. Safe to share by threads."""

    def __init__(self, most: int = 1024) -> None:
        self._most, self._lock = most, Lock()
        self._asked: OrderedDict[str, Asked | InRoom] = OrderedDict()

    def note(self, key: str, asked: Asked | InRoom) -> None:
        """A sound that may be asked for now; the oldest ones are forgotten."""
        with self._lock:
            self._asked[key] = asked
            self._asked.move_to_end(key)
            while len(self._asked) > self._most:
                self._asked.popitem(last=False)

    def get(self, key: str) -> Asked | InRoom | None:
        """What a sound is; None where it was not named, or too long ago."""
        with self._lock:
            return self._asked.get(key)


@dataclass(frozen=True)
class Desk:
    """A studio file and the session that renders from it.

    Fixes are tried in a session of their own, one after another: what is heard and seen keeps its
    sounds at hand, and one of the processor's cores.
    """

    studio: Studio
    session: Session
    trials: Session
    one_trial: Lock
    planned: Planned = field(default_factory=Planned)
    dropped: Dropped = field(default_factory=Dropped)


def put_audio(db: sqlite3.Connection, data: bytes, name: str, decoded: Audio) -> audio.StoredAudio:
    """Store a file that was decoded already; the same bytes are stored once."""
    frames, channels = decoded.samples.shape[0], decoded.samples.ndim
    return audio.put(db, data, name, decoded.kind, decoded.rate, frames, channels)


def audio_of(studio: Studio) -> LoadAudio:
    """The audio that was brought into a studio; and that of the stock where it lies, which is tried before
    it is taken.
    """

    def load(digest: str) -> tuple[Array, int]:
        try:
            with studio.reading() as db:
                data, name = audio.data(db, digest)
        except NotFoundError:
            tried = stock_bytes(studio.path, digest)
            if tried is None:
                raise
            data, name = tried
        decoded = decode(data, name)
        return decoded.samples, decoded.rate

    return load


def open_desk(studio: Studio) -> Desk:
    """A session whose imported audio comes from the studio."""
    load = audio_of(studio)
    return Desk(studio, Session(load), Session(load), Lock())


def _desk(request: Request) -> Desk:
    desk = request.app.state.desk
    assert isinstance(desk, Desk)
    return desk


AtDesk = Annotated[Desk, Depends(_desk)]
# What numbers a row, or a revision: as large as the database counts.
RowId = Annotated[int, Field(ge=0, le=2**63 - 1)]


def as_json(model: BaseModel) -> RawJson:
    """A model as the whole response; spares thousands of numbers a second validation."""
    return RawJson(model.model_dump_json())


def read_track(body: str) -> Track:
    """A stored track with its sections; UserError where this version cannot read it."""
    try:
        return Track.model_validate_json(body)
    except ValidationError as error:
        raise UserError("This track was stored by another version and cannot be read.") from error
