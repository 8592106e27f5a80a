"""What a state sounds like in a few numbers, to tell later whether it still does."""

import numpy as np

from juglant.core import RATE
from juglant.core.hits.mixing import added
from juglant.core.lowend.session import Session
from juglant.core.measure.levels import THIRD_OCTAVES_HZ, Spectrum
from juglant.core.measure.stereo import listening_channel
from juglant.core.recipes.track import TrackState

# Levels further down than this are nothing that is heard; so far may others lie apart and be the same.
_FLOOR_DB, SAME_DB = -70.0, 0.05
_SLICES = 64


def sounded(session: Session, state: TrackState) -> list[float]:
    """Levels in dB of one pass of everything: of 64 slices in turn, then of every third octave.

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.

    Returns
    -------
    list of float
        dB.

    Examples
    --------
    >>> from juglant.core.lowend.session import Session
    >>> from juglant.core.recipes.track import TrackState
    >>> state = TrackState()
    >>> len(sounded(Session(), state)) > 64
    True
    """
    if state.sum.acts:
        whole = session.parts.ducked(state, session.parts.sum_loop(state), state.sum).mono
    else:
        loop = session.loop(state)
        whole = loop.kick.mono + loop.ducked.mono
        if rest := [one.samples for one in session.rest_stems(state).values()]:
            whole = whole + listening_channel(added(rest))
    slices = [float(np.mean(part * part)) for part in np.array_split(whole, _SLICES)]
    bands = Spectrum(whole, RATE).third_octaves(THIRD_OCTAVES_HZ) / max(whole.size, 1)
    power = np.maximum(np.array([*slices, *bands]), 10 ** (_FLOOR_DB / 10))
    return [round(float(db), 3) for db in 10 * np.log10(power)]


def apart_db(then: list[float], now: list[float]) -> float:
    """How far two of them lie apart at most, in dB; infinite where they are not of one kind.

    Parameters
    ----------
    then
        As it was.
    now
        As it is.

    Returns
    -------
    float
        dB.

    Examples
    --------
    >>> apart_db([-10.0, -20.0], [-10.0, -23.0])
    3.0
    """
    if len(then) != len(now):
        return float("inf")
    return float(np.max(np.abs(np.array(then) - np.array(now)), initial=0.0))
