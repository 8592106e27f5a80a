"""What is played of a state, part by part, known by name before any of it is rendered."""

from dataclasses import dataclass
from typing import Literal

from juglant.core.lowend.session import Session
from juglant.core.measure.loopsound import LoopSound
from juglant.core.recipes.track import TrackState, Voice

Side = Literal["kick", "bass", "rest"]


@dataclass(frozen=True)
class Played:
    """A part that is heard: whose side it is on, and its pass of the loop before and under its duckings."""

    part: str
    side: Side
    before: LoopSound
    heard: LoopSound


def played_part(session: Session, state: TrackState, id: str) -> Played | None:
    """A part as it is played; None where it is not heard by itself."""
    part = state.part(id)
    if part is None or id in state.grouped:
        return None
    before = session.part(state, id)
    if before is None:
        return None
    side: Side = "kick" if id == state.kick.id else "bass" if isinstance(part, Voice) else "rest"
    return Played(id, side, before, session.ducked(state, before, part))


def played(session: Session, state: TrackState) -> list[Played]:
    """Every part that is heard by itself, in the order of the track. Together they are the loop."""
    found = (played_part(session, state, part.id) for part in state.parts)
    return [one for one in found if one is not None]
