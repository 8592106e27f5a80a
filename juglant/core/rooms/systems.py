"""What a place does to a sound, as formulas.

High-passes are Butterworth, shelves and modes sections of the Audio EQ Cookbook (R. Bristow-Johnson,
W3C Note, 2021), the hand-over of a system a pair after Linkwitz & Riley (JAES 24, 1976). The lowest mode
between two walls lies at c/2L, as wide as 2.2 over its decay (H. Kuttruff, Room Acoustics). Below it a
closed cabin is a pressure chamber, which lifts. How low a system, a laptop or a phone plays is common
practice.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from juglant.core.measure.stereo import mono
from juglant.core.process.filters import butterworth_qs, cookbook, highpass_24, response, steep
from juglant.core.recipes.room import (
    Car,
    ClubSystem,
    Headphones,
    Laptop,
    OwnRoom,
    Phone,
    Room,
    SmallClub,
)

Array = NDArray[np.float64]
Gains = NDArray[np.complex128]

SOUND_M_PER_S = 343.0
_HEADPHONES_HZ = 105.0
# Own responses are read at least so finely, over a twelfth of an octave.
_LEAST_SIZE, _NEAR = 1 << 16, (2 ** (-1 / 24), 2 ** (1 / 24))
_HEARD_HZ = np.geomspace(20.0, 20000.0, 181)
_FLAT_Q = butterworth_qs(2)[0]


@dataclass(frozen=True)
class Direct:
    """Complex gains over Hz of what comes straight from the loudspeakers: for what is alike on both sides
    and for what differs. `sub` is what the subwoofers play of the former, and is part of it.
    """

    mid: Gains
    side: Gains
    sub: Gains | None = None


def mode_hz(length_m: float) -> float:
    """The lowest mode between two walls, in Hz.

    Parameters
    ----------
    length_m
        From wall to wall.

    Returns
    -------
    float
        Hz.

    Examples
    --------
    >>> mode_hz(7.0)
    24.5
    """
    return SOUND_M_PER_S / (2 * length_m)


def _small_club(room: SmallClub, rate: int) -> Array:
    hz = mode_hz(room.length_m)
    bell = cookbook("bell", hz, hz * room.decay_s / 2.2, rate, room.mode_db)
    return np.vstack([highpass_24(room.lowest_hz, rate), bell])


def _car(room: Car, rate: int) -> Array:
    lift = cookbook("low shelf", mode_hz(room.cabin_m), _FLAT_Q, rate, room.cabin_db)
    return np.vstack([steep("highpass", room.lowest_hz, 12, rate), lift])


def direct(room: Room, hz: Array, rate: int) -> Direct:
    """What a stand-in does to a sound on its straight way, at frequencies in Hz. An own response is a file:
    see `through`.

    Parameters
    ----------
    room
        The place.
    hz, rate
        Frequencies in Hz; frames a second.

    Returns
    -------
    Direct
        Its response.

    Examples
    --------
    >>> from juglant.core.recipes.room import Phone
    >>> type(direct(Phone(), np.array([100.0]), 48000)).__name__
    'Direct'
    """
    if isinstance(room, ClubSystem):
        low_end = response(highpass_24(room.lowest_hz, rate), hz, rate)
        halves = [
            response(cookbook(kind, room.handover_hz, _FLAT_Q, rate), hz, rate) ** 2
            for kind in ("lowpass", "highpass")
        ]
        sub, tops = low_end * halves[0], low_end * halves[1]
        return Direct(sub + tops, tops, sub)
    if isinstance(room, SmallClub):
        sections = _small_club(room, rate)
    elif isinstance(room, Headphones):
        sections = cookbook("low shelf", _HEADPHONES_HZ, _FLAT_Q, rate, room.bass_db)
    elif isinstance(room, Car):
        sections = _car(room, rate)
    elif isinstance(room, Laptop | Phone):
        sections = highpass_24(room.lowest_hz, rate)
    else:
        assert isinstance(room, OwnRoom)
        sections = np.zeros((0, 6))
    both = response(sections, hz, rate)
    return Direct(both, np.zeros_like(both) if isinstance(room, Phone) else both)


def response_db(room: Room, hz: Array, rate: int, own: Array | None = None) -> Array:
    """How loud a place plays a tone that is alike on both sides, in dB; without its hall. That of an `own`
    response re its loudest, over a twelfth of an octave: measured rooms are all notches.

    Parameters
    ----------
    room
        The place.
    hz, rate
        Frequencies in Hz; frames a second.
    own
        The response of an own place.

    Returns
    -------
    ndarray
        dB, shape of `hz`.

    Examples
    --------
    >>> from juglant.core.recipes.room import Phone
    >>> bool(np.diff(response_db(Phone(), np.array([50.0, 1000.0]), 48000))[0] > 20)
    True
    """
    if own is None:
        return np.asarray(20 * np.log10(np.maximum(np.abs(direct(room, hz, rate).mid), 1e-6)))
    size = max(_LEAST_SIZE, own.shape[0])
    total = np.concatenate([[0.0], np.cumsum(np.abs(np.fft.rfft(mono(own), size)) ** 2)])

    def power(at_hz: Array) -> Array:
        edges = np.round(np.outer(at_hz, _NEAR) / rate * size).astype(int)
        last = np.minimum(edges[:, 1] + 1, total.size - 1)
        return np.asarray((total[last] - total[edges[:, 0]]) / np.maximum(last - edges[:, 0], 1))

    loudest = max(float(power(_HEARD_HZ).max()), 1e-30)
    return np.asarray(10 * np.log10(np.maximum(power(hz) / loudest, 1e-12)))
