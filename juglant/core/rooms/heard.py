"""What is heard of a state in a place, as loud as it is without it."""

import numpy as np
from numpy.typing import NDArray

from juglant.core import RATE
from juglant.core.errors import UserError
from juglant.core.lowend.session import Session
from juglant.core.measure.loopsound import LoopSound
from juglant.core.recipes.room import OwnRoom, Room
from juglant.core.recipes.track import TrackState
from juglant.core.rooms.through import Match, matched, through

Array = NDArray[np.float64]

LONGEST_RESPONSE_S = 10.0


def checked_response(response: Array, rate: int) -> Array:
    """An own response that can be listened through: 10 s at most, not silent. UserError says why not.

    Parameters
    ----------
    response, rate
        Shape (frames,) or (frames, 2); frames a second.

    Returns
    -------
    ndarray
        The response.

    Examples
    --------
    >>> checked_response(np.array([1.0, 0.5]), 48000).size
    2
    """
    seconds = response.shape[0] / rate
    if seconds > LONGEST_RESPONSE_S:
        raise UserError(
            f"A response of {seconds:.1f} s is too long: {LONGEST_RESPONSE_S:g} s at most, cut it where it "
            "has faded away.", "file",
        )  # fmt: skip
    if not np.any(np.abs(response) > 1e-6):
        raise UserError("This file is silent: nothing would be heard through it.", "file")
    return response


def own_response(session: Session, room: Room) -> Array | None:
    """The response of an own place, at the engine's rate; None for the stand-ins.

    Parameters
    ----------
    session, room
        Renders and keeps what was asked for; the place.

    Returns
    -------
    ndarray or None
        Its samples.

    Examples
    --------
    >>> from juglant.core.recipes.room import Phone
    >>> own_response(Session(), Phone()) is None
    True
    """
    if not isinstance(room, OwnRoom):
        return None
    return checked_response(session.sounds.hits.audio(room.audio), RATE)


def heard_in(
    session: Session, state: TrackState, room: Room, parts: list[str], *, ducked: bool, by: str
) -> tuple[LoopSound, Match]:
    """Some parts together as they are heard in a place, before or under their duckings, with the gain that
    makes them as loud as without it: by "loudness" or by "low band".

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.
    room
        The place.
    parts
        Their ids.
    ducked
        Whether under their duckings.
    by
        "loudness" or "low band".

    Returns
    -------
    tuple of LoopSound and Match
        What is heard, and the gain in it.

    Examples
    --------
    >>> from juglant.core.recipes.room import Phone
    >>> from juglant.core.recipes.track import TrackState
    >>> loop, match = heard_in(Session(), TrackState(), Phone(), ["kick"], ducked=True, by="loudness")
    >>> loop.samples.shape[1]
    2
    """
    found = [one for id in parts if (one := session.sounding_part(state, id)) is not None]
    dry = session.parts.together([one.heard if ducked else one.before for one in found], state)
    plain = session.sounds.sound(_through, session, room, dry)
    match = session.sounds.once(_matched, dry, plain, by)
    return session.sounds.sound(_turned_up, plain, match.gain_db), match


def _through(session: Session, room: Room, dry: LoopSound) -> Array:
    return through(room, [dry.samples], RATE, own_response(session, room))[0]


def _matched(dry: LoopSound, there: LoopSound, by: str) -> Match:
    return matched(dry.samples, there.samples, RATE, by)


def _turned_up(loop: LoopSound, gain_db: float) -> Array:
    return 10 ** (gain_db / 20) * loop.samples
