"""Kick and bass under settings that part them, tried on the low part of both loops (3 kHz suffices below
300 Hz), so that some hundred of them take a second.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import fft

from juglant.core import RATE
from juglant.core.lowend.carving import response
from juglant.core.lowend.session import Session
from juglant.core.measure.loopsound import LoopSound
from juglant.core.measure.overlap import (
    COLLISION_SHARE,
    LEVEL_WINDOW_MS,
    LOW_BANDS_HZ,
    LowLevel,
    colliding,
    level_db,
    levelled,
    read_from,
    summation,
)
from juglant.core.measure.owner import OWNER_LOSS_LIMIT_DB, below_gain, kept_gains, loss_db, sub_gain
from juglant.core.measure.subedge import SubEdge
from juglant.core.process.filters import LOW_BAND_HZ, linkwitz_riley_gain
from juglant.core.recipes.separate import BassCarve, Carve, SeparateRecipe
from juglant.core.recipes.track import TrackState

Array = NDArray[np.float64]

# The least that kick and bass may add up to (common practice).
CANCELLING_DB = -3.0
# Rate at which candidates are tried; the low band has nothing left at half of it.
_TRIED_HZ = 1400.0
# A change beyond this is the same to the ear: gone.
_GONE_DB = 24.0


def plain(state: TrackState) -> TrackState:
    """The state as it is before kick and bass give anything up to each other.

    Parameters
    ----------
    state
        The track.

    Returns
    -------
    TrackState
        The state.

    Examples
    --------
    >>> plain(TrackState()) == TrackState()
    True
    """
    return state.model_copy(update={"separate": SeparateRecipe()})


class Side:
    """One side's low part, to be tried under many settings."""

    def __init__(self, loop: LoopSound) -> None:
        low, rate = loop.decimated
        whole = fft.rfft(low)
        # A length that transforms quickly, and no more of the spectrum than the low band needs.
        self.size = min(fft.next_fast_len(round(low.size * _TRIED_HZ / rate), real=True) // 2 * 2, low.size)
        self.rate = rate * self.size / low.size
        self.spectrum = whole[: self.size // 2 + 1] * (self.size / low.size)
        self.hz = np.arange(self.spectrum.size) * self.rate / self.size
        below, above = (linkwitz_riley_gain(self.hz, hz) for hz in reversed(LOW_BAND_HZ))
        self.low_band = self.spectrum * below[0] * above[1]
        self.weights = np.array(
            [float(np.sum(np.abs(self.spectrum[self.inside(hz)]) ** 2)) for hz in LOW_BANDS_HZ]
        )

    def inside(self, middle_hz: float) -> NDArray[np.bool_]:
        """The part of the spectrum in the third octave around a mid-band."""
        edge = 10**0.05
        return np.asarray((self.hz >= middle_hz / edge) & (self.hz < middle_hz * edge))

    def level(self, gain: NDArray[np.complex128], under: Array | None) -> LowLevel:
        """The low band's level under a gain over frequency and one over time."""
        band = fft.irfft(self.low_band * gain, self.size)
        return levelled(band if under is None else band * under, self.rate, loop=True)

    def kept(self, gain: NDArray[np.complex128], edge: SubEdge, under: Array | None) -> LowLevel:
        """The level above the owner's sub, where the two meet, under the same gains."""
        gains = kept_gains("bass", edge) or []
        bands = tuple(fft.irfft(self.spectrum * gain * one(self.hz), self.size) for one in gains)
        if under is not None:
            # The ducking leaves what the owner keeps, and that leaks a little over the edge.
            kept = [
                fft.irfft(self.spectrum * gain * one(self.hz) * below_gain(hz, self.hz), self.size)
                for one, hz in zip(gains, edge.hz, strict=True)
            ]
            bands = tuple(k + (band - k) * under for k, band in zip(kept, bands, strict=True))
        found = [level_db(band, self.rate, LEVEL_WINDOW_MS, loop=True) for band in bands]
        return LowLevel(bands, self.rate, read_from(found, edge.at), edge.at)

    def sub_db(self, gain: NDArray[np.complex128] | float, edge: SubEdge) -> list[Array]:
        """The 50 ms level below every edge under a gain over frequency."""
        bands = [fft.irfft(self.spectrum * gain * sub_gain(hz, self.hz), self.size) for hz in edge.hz]
        return [level_db(band, self.rate, 50.0, loop=True) for band in bands]

    def change_db(self, carve: Carve, state: TrackState) -> float:
        """How much a carve changes the side: RMS over third octaves, as strong as they are."""
        neutral = carve.model_copy(update={"shift_ms": 0.0} if isinstance(carve, BassCarve) else {})
        gain = np.abs(response(neutral, state.brief, np.array(LOW_BANDS_HZ), RATE))
        change = np.minimum(np.abs(20 * np.log10(np.maximum(gain, 1e-6))), _GONE_DB)
        return float(np.sqrt(np.sum(self.weights * change**2) / max(float(self.weights.sum()), 1e-30)))


@dataclass(frozen=True)
class Tried:
    """What settings do, measured on the low part of the loop.

    The changes are how far each sound is moved from what it was, in dB.
    """

    recipe: SeparateRecipe
    collision_share: float
    summation_worst_db: float | None
    summation_mean_db: float | None
    change_kick_db: float
    change_bass_db: float
    owner_loss_db: float = 0.0
    limit_share: float = COLLISION_SHARE["kick"]

    @property
    def spares_owner(self) -> bool:
        """Whether the owner of the sub keeps it within 3 dB."""
        return self.owner_loss_db <= OWNER_LOSS_LIMIT_DB

    @property
    def change_db(self) -> float:
        """Both changes in one."""
        return float(np.hypot(self.change_kick_db, self.change_bass_db))

    @property
    def clear(self) -> bool:
        """Whether collision and cancellation are within their limits."""
        worst = self.summation_worst_db
        return self.collision_share <= self.limit_share and (worst is None or worst >= CANCELLING_DB)


@dataclass(frozen=True)
class _Heard:
    """A side under a carve: its low band, it where the two meet, its change, what it loses as owner."""

    low: LowLevel
    kept: LowLevel
    change_db: float
    loss_db: float


class Trial:
    """Kick and bass of a state before anything is given up, and what becomes of them.

    Where the brief ducks first, what is tried is heard under the ducking.
    """

    def __init__(self, session: Session, state: TrackState) -> None:
        self.state, self.owner = state, state.brief.sub_owner
        loop = session.loop(plain(state))
        self._sides = {"kick": Side(loop.kick), "bass": Side(loop.bass)}
        self.edge = session.parts.edge(state)
        self._kept: dict[tuple[str, Carve], _Heard] = {}
        self._under: Array | None = None
        if state.ducking and state.brief.cure == "ducking first":
            size = self._sides["bass"].size
            at = np.arange(size) * loop.gain_db.size / size
            self._under = 10 ** (loop.gain_db[at.astype(int)] / 20)

    def _heard(self, name: str, carve: Carve) -> _Heard:
        if (name, carve) not in self._kept:
            side, brief = self._sides[name], self.state.brief
            gain = response(carve, brief, side.hz, RATE)
            under = self._under if name == "bass" else None
            low = side.level(gain, under)
            kept, loss = low, 0.0
            if self.owner == "bass" and self.edge is not None:
                kept = side.kept(gain, self.edge, under)
            if name == self.owner and self.edge is not None:
                placed = gain
                if isinstance(carve, BassCarve):
                    placed = response(carve.model_copy(update={"shift_ms": 0.0}), brief, side.hz, RATE)
                loss = loss_db(side.sub_db(1.0, self.edge), side.sub_db(placed, self.edge), self.edge.at)
            self._kept[name, carve] = _Heard(low, kept, side.change_db(carve, self.state), loss)
        return self._kept[name, carve]

    def tried(self, recipe: SeparateRecipe) -> Tried:
        """Measure settings."""
        kick, bass = self._heard("kick", recipe.kick), self._heard("bass", recipe.bass)
        present = max(int(kick.kept.present.sum()), 1)
        worst, mean = summation(kick.low, bass.low)
        share = float(colliding(kick.kept, bass.kept, self.owner).sum()) / present
        return Tried(
            recipe, share, worst, mean, kick.change_db, bass.change_db,
            kick.loss_db if self.owner == "kick" else bass.loss_db, COLLISION_SHARE[self.owner],
        )  # fmt: skip
