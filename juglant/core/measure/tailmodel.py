"""What the fit of a tail is: one window's model, a start's two models, and what they say together."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

_CENTS = 1200 / np.log(2)


@dataclass(frozen=True)
class Window:
    """One fit of the tail from `start_s` on."""

    start_s: float
    end_s: float
    hz: float
    bend: float
    tau_s: float
    form: float
    sigma_cents: float
    misfit: float
    cost: float
    information: float
    residual_share: float
    octave_ratio: float
    in_hertz: bool

    def cents_off(self, time_s: Array | float) -> Array:
        """Deviation of the swept frequency from its end, in cents, at `time_s`."""
        late = np.maximum(np.asarray(time_s, float) - self.start_s, -4 * self.tau_s)
        if abs(self.form) < 1e-3:
            left = np.exp(-late / self.tau_s)
        else:
            left = np.maximum(1 + self.form * late / self.tau_s, 1e-9) ** (-1 / self.form)
        if self.in_hertz:
            return np.asarray(_CENTS * np.log(np.maximum(1 + np.expm1(self.bend) * left, 1e-9)))
        return np.asarray(_CENTS * self.bend * left)


@dataclass(frozen=True)
class Fit:
    """What one start of the tail says, whichever of the two models it speaks for."""

    window: Window
    sigma_cents: float
    share: float  # how far the swept model is the likelier one
    flat: Window | None
    swept: Window | None


@dataclass(frozen=True)
class TailPitch:
    """Result of `measure_tail`; `hz` is the best estimate even where confidence is low."""

    hz: float
    sigma_cents: float
    confidence: float
    reason: str | None
    window: Window
    first: Window
    minus_30_s: float
    windows: tuple[Window, ...]
    # Whether it was fitted to what lies before a room takes over.
    before_room: bool = False

    @property
    def unexplained(self) -> float:
        """The share of the energy that the fit leaves."""
        return self.window.residual_share

    @property
    def lasted_s(self) -> float:
        """How long the stretch is that was fitted, in seconds."""
        return self.window.end_s - self.window.start_s

    def hz_at(self, time_s: Array) -> Array:
        """The tone's frequency at times after the onset: at each, by the latest fit that begins
        before it, which knows that stretch best.

        Before the first fit's start it is carried back by half a time constant, not further.
        """
        out = np.empty(np.shape(time_s))
        starts = [window.start_s for window in self.windows]
        which = np.maximum(np.searchsorted(starts, time_s, side="right") - 1, 0)
        for n, window in enumerate(self.windows):
            seen = np.maximum(time_s[which == n], window.start_s - 0.5 * window.tau_s)
            out[which == n] = window.hz * np.exp(np.clip(window.cents_off(seen), -1200.0, 6000.0) / _CENTS)
        return out
