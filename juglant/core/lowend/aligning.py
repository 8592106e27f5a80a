"""A part of the loop brought in time and polarity with another one."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from juglant.core import RATE
from juglant.core.errors import UserError
from juglant.core.hits.align import in_band, strongest_lag
from juglant.core.lowend.session import Session
from juglant.core.measure.levels import THIRD_OCTAVES_HZ, Spectrum
from juglant.core.recipes.fields import control_sheet
from juglant.core.recipes.parts import SUM
from juglant.core.recipes.place import Place
from juglant.core.recipes.track import TrackState

Array = NDArray[np.float64]

# A third octave counts where both have something to say: this near to the strongest of each.
_BOTH_DB = 24.0
# With less in common than this there is no time at which they belong together.
LEAST_IN_COMMON = 0.25
_DELAY = next(one for one in control_sheet(Place).controls if one.name == "delay_ms")


@dataclass(frozen=True)
class PartAlignment:
    """Where a part joins another: the delay and polarity of its place, what the two have in common in the
    band, 0 to 1, and by how many dB the band becomes louder.
    """

    delay_ms: float
    polarity: str
    in_common: float
    band_hz: tuple[float, float]
    gain_db: float


def common_band_hz(a: Array, b: Array, rate: int) -> tuple[float, float] | None:
    """The range of third octaves in which both sounds, shape (frames,), are strong; None where there is
    none.

    Parameters
    ----------
    a
        Samples, shape (frames,).
    b, rate
        Another sound, shape (frames,); frames a second.

    Returns
    -------
    tuple of float or None
        Its lower and upper edge.

    Examples
    --------
    >>> at = np.arange(48000) / 48000
    >>> a = np.sin(2 * np.pi * 60 * at) * np.exp(-at / 0.1)
    >>> low, high = common_band_hz(a, a, 48000)
    >>> low < 60 < high
    True
    """
    levels = []
    for x in (a, b):
        power = Spectrum(x, rate).third_octaves(THIRD_OCTAVES_HZ)
        levels.append(10 * np.log10(np.maximum(power, 1e-20) / max(float(power.max()), 1e-20)))
    shared = np.flatnonzero(np.minimum(*levels) > -_BOTH_DB)
    if not shared.size:
        return None
    half = 2 ** (1 / 6)
    return float(THIRD_OCTAVES_HZ[shared[0]] / half), float(THIRD_OCTAVES_HZ[shared[-1]] * half)


def lag_of(
    a: Array, b: Array, rate: int, band_hz: tuple[float, float], reach_ms: float
) -> tuple[float, float]:
    """By how many ms a loop `b`, shape (frames,), must come later to add up best with `a` of that length,
    and their correlation there, negative where it must be inverted. Both go round.

    Parameters
    ----------
    a
        Samples, shape (frames,).
    b, rate
        Another sound, shape (frames,); frames a second.
    band_hz
        In which they are to agree.
    reach_ms
        How far is looked.

    Returns
    -------
    tuple of float
        Ms, and a correlation from -1 to 1.

    Examples
    --------
    >>> at = np.arange(48000) / 48000
    >>> a = np.sin(2 * np.pi * 60 * at) * np.exp(-at / 0.1)
    >>> lag, likeness = lag_of(a, -np.roll(a, 96), 48000, (40.0, 120.0), 10.0)
    >>> round(lag, 1), round(likeness)
    (-2.0, -1)
    """
    size = a.size
    first, second = (in_band(x, size, band_hz, rate) for x in (a, b))
    cross = first * np.conj(second)
    energy = np.sqrt(float(np.sum(np.abs(first) ** 2)) * float(np.sum(np.abs(second) ** 2)))
    if energy <= 0.0:
        return 0.0, 0.0
    lag, there = strongest_lag(cross, size, min(round(reach_ms / 1000 * rate), size // 2 - 1))
    return lag / rate * 1000, there / energy


def align_parts(session: Session, state: TrackState, id: str, against: str) -> PartAlignment:
    """The delay and polarity with which a part adds up best with another one, in the band where both have
    something to say. UserError where one is not played, they have nothing in common, or it would have to
    move further than its place allows.

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.
    id, against
        Of the part; id of the other part.

    Returns
    -------
    PartAlignment
        Delay, polarity, and what they bring.

    Examples
    --------
    >>> from juglant.core.lowend.session import Session
    >>> from juglant.core.recipes.track import TrackState
    >>> from juglant.core.recipes.bass import PATTERNS, BassRecipe
    >>> from juglant.core.recipes.parts import MadeBass
    >>> bass = MadeBass(recipe=BassRecipe(pattern=PATTERNS["with the kick"]))
    >>> found = align_parts(Session(), TrackState.of(bass=bass), "bass", "kick")
    >>> abs(found.delay_ms) < 50
    True
    """
    if id == against:
        raise UserError("A part cannot be aligned with itself: choose another one.", "against")
    if SUM in (id, against):
        raise UserError("The sum is made of every part: there is nothing to align it with.", "against")
    loops = {}
    for one in (against, id):
        loop = session.parts.unmuted(state, one)
        if loop is None:
            raise UserError(f"{state.named(one)} is not played: there is nothing to align.", "against")
        loops[one] = loop.mono
    a, b = loops[against], loops[id]
    part = state.part(id)
    assert part is not None
    nothing = UserError(
        f"{state.named(id)} and {state.named(against)} have nothing in common to be aligned by.", "against"
    )
    band = common_band_hz(a, b, RATE)
    if band is None:
        raise nothing
    lag_ms, common = lag_of(a, b, RATE, band, _DELAY.high - _DELAY.low)
    if abs(common) < LEAST_IN_COMMON:
        raise nothing
    delay_ms = round(part.place.delay_ms + lag_ms, 2)
    if not _DELAY.low <= delay_ms <= _DELAY.high:
        raise UserError(
            f"It would have to move by {lag_ms:.1f} ms: its delay goes from {_DELAY.low:.0f} to "
            f"{_DELAY.high:.0f} ms. Move its strokes or the start of its file first.", "against",
        )  # fmt: skip
    inverted = (part.place.polarity == "inverted") != (common < 0)
    first, second = (in_band(x, a.size, band, RATE) for x in (a, b))
    turned = second * np.exp(-2j * np.pi * np.arange(second.size) * lag_ms / 1000 * RATE / a.size)
    before, after = (float(np.sum(np.abs(first + one) ** 2)) for one in (second, np.sign(common) * turned))
    gain = 10 * float(np.log10(max(after, 1e-20) / max(before, 1e-20)))
    return PartAlignment(delay_ms, "inverted" if inverted else "normal", abs(common), band, gain)
