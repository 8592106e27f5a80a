"""A pass of a loop, with what is measured of it once."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any, Self, TypeVar, cast, overload
from weakref import ref

import numpy as np
from numpy.typing import NDArray

from juglant.core import RATE
from juglant.core.measure import levels
from juglant.core.measure.overlap import LowLevel, levelled
from juglant.core.measure.pumping import Heard, heard
from juglant.core.measure.stereo import listening_channel
from juglant.core.process import filters, lowpart

Array = NDArray[np.float64]
T = TypeVar("T", covariant=True)


class measured(cached_property[T]):  # noqa: N801
    """A property that is worked out once, without the lock that Python 3.11 has for all objects together:
    two sounds are measured at the same time.
    """

    @overload
    def __get__(self, one: None, owner: type[Any] | None = None) -> Self: ...
    @overload
    def __get__(self, one: object, owner: type[Any] | None = None) -> T: ...
    def __get__(self, one: Any, owner: type[Any] | None = None) -> Self | T:
        """The property, which stands in its object from then on."""
        if one is None:
            return self
        return cast(T, one.__dict__.setdefault(self.attrname, self.func(one)))


def low_band_gain(hz: Array) -> Array:
    """Zero-phase gain of the low band at frequencies in Hz.

    Parameters
    ----------
    hz
        Frequencies in Hz.

    Returns
    -------
    ndarray
        Linear gain, shape of `hz`.

    Examples
    --------
    >>> low_band_gain(np.array([5.0, 60.0, 1000.0])).round(2)
    array([0.  , 0.96, 0.  ])
    """
    low, high = filters.LOW_BAND_HZ
    return filters.linkwitz_riley_gain(hz, high)[0] * filters.linkwitz_riley_gain(hz, low)[1]


_LOW_BAND = filters.remembered(low_band_gain)


@dataclass(frozen=True)
class LoopSound:
    """One pass of the loop of one part, shape (frames,) or (frames, 2); or, with `loop` off, a stretch
    before and after which there is silence.
    """

    # In single precision where it stays in memory, in double where it was just made.
    given: Array | NDArray[np.float32]
    rate: float = RATE
    loop: bool = True
    # What it was made of, by name; empty where nobody will ask.
    key: str = ""

    @property
    def samples(self) -> Array:
        """The pass itself, in double precision."""
        return np.asarray(self.given, np.float64)

    @property
    def mono(self) -> Array:
        """As it is heard from one loudspeaker."""
        return listening_channel(self.samples)

    @measured
    def decimated(self) -> tuple[Array, float]:
        """The low part, from which level and spectrum are taken: one long transform for both."""
        mono = self.given if self.given.ndim == 1 else self.mono
        return lowpart.decimated(mono, self.rate, loop=self.loop)

    @measured
    def low(self) -> filters.Around:
        """The low part as a spectrum, to be read through several gains."""
        return filters.Around(*self.decimated, loop=self.loop)

    @measured
    def level(self) -> LowLevel:
        """Low-band level over the loop."""
        found = levelled(self.low.under(_LOW_BAND), self.decimated[1], loop=self.loop)
        return replace(found, gains=(low_band_gain,))

    @measured
    def heard(self) -> Heard:
        """How loud it is heard, on the whole and by the moment."""
        return heard(self.mono, round(self.rate))

    @measured
    def spectrum(self) -> levels.Spectrum:
        """Power spectrum of the pass, up to 1.5 kHz."""
        mono = self.mono
        energy_s = float(mono @ mono) / self.rate
        return levels.Spectrum(*self.decimated, energy_s)


class AwaitedSound(LoopSound):
    """A pass of the loop that is known by its name, and made or taken from what is kept when it is looked
    at: what is made of it may be kept while it is not. It keeps nothing itself: what is forgotten is gone.
    """

    def __init__(self, key: str, take: Callable[[], LoopSound]) -> None:
        self.__dict__.update(key=key, _take=take, _last=lambda: None)

    @property
    def _taken(self) -> LoopSound:
        there: LoopSound | None = self.__dict__["_last"]()
        if there is None:
            there = self.__dict__["_take"]()
            self.__dict__["_last"] = ref(there)
        return there

    @property
    def given(self) -> Array | NDArray[np.float32]:
        """The pass as it is kept."""
        return self._taken.given

    @property
    def decimated(self) -> tuple[Array, float]:
        """What is measured of it stays with what is kept."""
        return self._taken.decimated

    @property
    def low(self) -> filters.Around:
        """The low part of what is kept."""
        return self._taken.low

    @property
    def level(self) -> LowLevel:
        """Low-band level of what is kept."""
        return self._taken.level

    @property
    def heard(self) -> Heard:
        """Loudness of what is kept."""
        return self._taken.heard

    @property
    def spectrum(self) -> levels.Spectrum:
        """Power spectrum of what is kept."""
        return self._taken.spectrum
