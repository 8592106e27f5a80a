"""The recipe of a body found by analysis by synthesis: damped least squares on the wave, at a low rate.

The sweep is read off the cycles and looked for on a grid, under the measured envelope; the best few are
refined, then fitted as a whole from several kinds of wave and drive (`scipy.optimize.least_squares`, trust
region reflective: M. A. Branch, T. F. Coleman & Y. Li, SIAM J. Sci. Comput. 21, 1999). The level is solved
for at every trial, as in variable projection.
"""

from collections.abc import Callable
from dataclasses import dataclass
from itertools import islice

import numpy as np
import scipy
from numpy.typing import NDArray
from scipy import fft

from juglant.core.errors import CancelledError, UserError
from juglant.core.matching.bodies import (
    KICK,
    PUSHED,
    START_MS,
    TONE_808,
    WHOLE_MS,
    Kind,
    Values,
    controls,
    toned,
)
from juglant.core.matching.sweeps import QUIET, on_a_grid, traced
from juglant.core.measure.envelope import amplitude_envelope
from juglant.core.measure.trace import Trace
from juglant.core.process.saturation import blocked
from juglant.core.recipes.fields import Control, Recipe, limits
from juglant.core.recipes.kick import KickRecipe
from juglant.core.recipes.tone808 import Recipe808

Array = NDArray[np.float64]

# The low rate of the fit, and how much of a sound it looks at.
_SLOW_HZ = 6000
_FIRST_S, _MOST_S = 0.4, 2.0
# Between these a body is compared.
_LOW_HZ, _HIGH_HZ = 18.0, 1500.0
_CURVES = np.linspace(-1.0, 1.0, 9)
_KEPT, _REFINED = 6, 2
# A sweep that leaves so many times more is none; how often the whole is tried in passing, and what is gone
# on with then.
_FAR, _GLANCES, _PROMISING = 1.5, 5, 1.5
# Of a fit that is far off so many of the others are tried.
_FEW = 2
# Under the measured envelope a sweep that is the right one leaves less than this.
_NO_SWEEP_DB = -6.0
# A fit that leaves less than the first of these is not doubted, less than the second is near; more than the
# third, and it is lost.
_SETTLED_DB, _NEAR_DB, _LOST_DB = -55.0, -25.0, -3.0
_Change = Callable[[Values], Values]


def _uneven(now: Values) -> Values:
    """With an even drive, and an attack that it does not do the work of."""
    if now["drive_bias"]:
        return {}
    return {
        "drive_db": max(now["drive_db"], 4.0),
        "drive_bias": 0.3,
        "attack_ms": min(now["attack_ms"], 2.0),
    }


def _swept(semitones: float, curve: float) -> _Change:
    return lambda now: {
        "start_semitones": now["start_semitones"] + semitones, "pitch_curve": now["pitch_curve"] + curve,
        "attack_ms": min(now["attack_ms"], 2.0),
    }  # fmt: skip


def _fallen(octaves: float) -> _Change:
    return lambda now: {"start_octaves": now["start_octaves"] + octaves, "attack_ms": 5.0}


# What else a kick may be that was taken for another one, and what may have been taken for a late beginning.
_OTHERWISE: tuple[_Change, ...] = (
    lambda now: {"pitch_curve": -now["pitch_curve"]}, _uneven,
    lambda _: {"wave": 0.02, "drive_db": 0.0, "drive_bias": 0.0}, lambda _: {"wave": 0.6},
    _swept(-5.0, -0.2), _swept(5.0, 0.2),
)  # fmt: skip
_AT_ONCE: dict[type[Recipe], tuple[_Change, ...]] = {
    KickRecipe: (lambda _: {}, _swept(2.0, 0.0), _uneven),
    Recipe808: tuple(_fallen(octaves) for octaves in (0.0, 0.4, 1.3)),
}
# What begins with its wave leaves less than this of its first part.
_BEGUN_DB = -18.0
_LATEST_MS = 12.0
# Drives and waves from which the whole is fitted: drive in dB, wave, bias. Uneven ones only where the even
# come near, for what is far off is no made kick.
_STARTS = (
    (0.0, 0.0, 0.0), (0.0, 0.8, 0.0), (0.0, 1.2, 0.0), (4.0, 0.1, 0.0), (6.0, 1.2, 0.0), (10.0, 0.7, 0.0),
)  # fmt: skip
_UNEVEN_STARTS, _COMES_NEAR_DB = ((4.0, 0.1, 0.3), (10.0, 0.9, 0.3)), -14.5
_STARTS_808 = ((6.0, 0.35, -24.0), (0.0, 0.1, -40.0), (14.0, 0.6, -12.0))
_PLAIN_808: Values = {"drive_db": 0.0, "harmonics": 0.1, "sustain_db": -30.0, PUSHED: 1.0}
# Where the sound does not say it, a decay is straight and a release is usual: so much is given up for that.
_DOUBT = 0.004
_OF_THESE: dict[str, Callable[[float], float]] = {
    "decay_curve": lambda curve: curve, "release_ms": lambda ms: float(np.log(max(ms, 1.0) / 30.0)) / 1.5,
}  # fmt: skip

Progress = Callable[[float], bool]


@dataclass(frozen=True)
class FittedBody:
    """A recipe, when it begins after the first sample in ms, and the share of the wave between 18 Hz and
    1.5 kHz that it leaves, in dB.
    """

    kind: Kind
    recipe: Recipe
    start_ms: float
    left_db: float


class _Target:
    """A sound at a low rate, weighed so that its tail counts too."""

    def __init__(
        self, x: Array, loudness: Array, rate: int, trace: Trace, end_hz: float, decay_ms: float,
        step: Callable[[], None], most_s: float = _MOST_S,
    ) -> None:  # fmt: skip
        self.x, self.loudness, self.rate, self.trace, self._step = x, loudness, rate, trace, step
        y = scipy.signal.resample_poly(x[: round(most_s * rate)], _SLOW_HZ, rate)
        self.time_s = np.arange(y.size) / _SLOW_HZ
        self.length_ms = x.size / rate * 1000
        self.end_hz, self.decay_ms = end_hz, decay_ms
        self.envelope = np.maximum(self.loudness_at(self.time_s), 1e-9)
        top = float(self.envelope.max())
        self._weight = 1 / np.sqrt(self.envelope / top + QUIET) / top
        self._size = fft.next_fast_len(y.size + 200, real=True)
        hz = fft.rfftfreq(self._size, 1 / _SLOW_HZ)
        rise = (hz / _LOW_HZ) ** 4
        self._band = rise / (1 + rise) / (1 + (hz / _HIGH_HZ) ** 8)
        self._blocked = self._band * blocked(hz)
        self._wanted = self._seen(y)
        self._whole = float(self._wanted @ self._wanted)
        self._doubt = _DOUBT * float(np.sqrt(self._whole))
        self._likely: dict[tuple[int, float], list[Values]] = {}

    def beginning(self) -> "_Target":
        """A target of the first 400 ms alone, which say most and take less time."""
        return _Target(
            self.x, self.loudness, self.rate, self.trace, self.end_hz, self.decay_ms, self._step, _FIRST_S
        )

    def likely(self, kind: Kind, start_ms: float) -> list[Values]:
        """Sweeps that it may have, with a kick's names, not refined; looked for once."""
        key = id(kind), start_ms
        if key not in self._likely:
            read = traced(self.trace, self.end_hz, start_ms, curved=kind is KICK)
            curves = _CURVES if kind is KICK else np.zeros(1)
            looked_for = on_a_grid(
                self.x, self.rate, self.loudness_at, self.end_hz, start_ms / 1000, curves
            )
            self._likely[key] = [*([read] if read else []), *islice(looked_for, _KEPT)]
        return self._likely[key]

    def loudness_at(self, time_s: Array) -> Array:
        """The measured envelope at some times."""
        return np.interp(time_s, np.arange(self.x.size) / self.rate, self.loudness)

    def _seen(self, x: Array, *, leaning: bool = False) -> Array:
        band = self._blocked if leaning else self._band
        return np.asarray(fft.irfft(fft.rfft(x, self._size) * band, self._size)[: x.size] * self._weight)

    def left(self, x: Array, *, leaning: bool = False) -> Array:
        """What is left of the sound without `x` at its best level."""
        seen = self._seen(x, leaning=leaning)
        level = float(seen @ self._wanted) / max(float(seen @ seen), 1e-12)
        return np.asarray(level * seen - self._wanted)

    def db(self, cost: float) -> float:
        """What a cost is of the whole sound, in dB."""
        return 10 * float(np.log10(max(2 * cost, 1e-30) / max(self._whole, 1e-30)))

    def swept(self, kind: Kind) -> Callable[[Values], Array]:
        """A sine on a pitch course under the measured envelope."""

        def make(values: Values) -> Array:
            time_s = self.time_s - values[START_MS] / 1000
            return toned(kind.hz(values, time_s), 0.0, time_s, _SLOW_HZ) * self.envelope

        return make

    def whole(self, kind: Kind) -> Callable[[Values], Array]:
        """A body as it is made."""
        return lambda values: kind.make(values, self.time_s - values[START_MS] / 1000, _SLOW_HZ)

    def refined(
        self, kind: Kind, make: Callable[[Values], Array], values: Values, names: tuple[str, ...], most: int
    ) -> tuple[float, Values]:
        """Values near some by damped least squares: what is left, and those."""
        sheet = controls(kind) | {START_MS: _START}

        doubted = [name for name in names if name in _OF_THESE]

        def with_(places: Array) -> Values:
            return values | {
                name: _value(sheet[name], place) for name, place in zip(names, places, strict=True)
            }

        def left(places: Array) -> Array:
            self._step()
            now = with_(places)
            left = self.left(make(now), leaning=_leans(now))
            return np.append(left, [self._doubt * _OF_THESE[name](now[name]) for name in doubted])

        begin = np.clip([_place(sheet[name], values[name]) for name in names], 1e-3, 1 - 1e-3)
        found = scipy.optimize.least_squares(
            left, begin, bounds=(0, 1), x_scale=0.02, diff_step=1e-4, max_nfev=most
        )
        return float(found.cost), with_(found.x)


_START = Control(
    name=START_MS, label="", help="", group="", unit="ms", low=0.0, high=_LATEST_MS, step=0.001,
    scale="linear", main=False, default=0.0,
)  # fmt: skip


def _leans(values: Values) -> bool:
    return values.get("drive_bias", 0.0) > 0 and values.get("drive_db", 0.0) > 0


def _place(control: Control, value: float) -> float:
    low, high = control.low, control.high
    if control.scale == "log":
        return float(np.log(max(value, low) / low) / np.log(high / low))
    return (value - low) / (high - low)


def _value(control: Control, place: float) -> float:
    low, high = control.low, control.high
    if control.scale == "log":
        return float(min(max(low * (high / low) ** place, low), high))
    return min(max(low + place * (high - low), low), high)


def _moved(kind: Kind, values: Values, more: tuple[str, ...]) -> tuple[str, ...]:
    """What may move: a drive that is off stays off, for it begins with a jump; so does an even one."""
    off = {"drive_db"} if values["drive_db"] == 0 else set()
    off |= {"drive_bias"} if values.get("drive_bias", 0.0) == 0 else set()
    return tuple(name for name in (*kind.fitted, *more) if name not in off)


def _sweeps(target: _Target, kind: Kind, base: Values, more: tuple[str, ...]) -> list[tuple[float, Values]]:
    """The likeliest sweeps, refined under the measured envelope, the best first."""
    found = []
    for sweep in target.likely(kind, base[START_MS]):
        if kind is TONE_808:
            wide = {
                "start_octaves": sweep["start_semitones"] / 12,
                "pitch_decay_ms": sweep["pitch_decay_ms"], "end_hz": sweep.get("end_hz", base["end_hz"]),
            }  # fmt: skip
            sweep = {name: min(value, limits(Recipe808, name)[1]) for name, value in wide.items()}
        found.append(target.refined(kind, target.swept(kind), base | sweep, (*kind.swept, *more), 8))
    return sorted(found, key=lambda one: one[0])


def _kicks(first: _Target, start_ms: float, more: tuple[str, ...]) -> list[tuple[float, Values]]:
    """Made kicks that may be it, the best first, with what they leave of its beginning."""
    base: Values = {
        "end_hz": first.end_hz, "decay_ms": first.decay_ms, "hold_ms": 5.0, "decay_curve": 0.0,
        "attack_ms": 0.5, "wave": 0.0, "drive_db": 0.0, "drive_bias": 0.0, "release_ms": 25.0,
        "length_ms": first.length_ms, START_MS: start_ms,
    }  # fmt: skip
    sweeps = _sweeps(first, KICK, base, more)
    if not more and first.db(sweeps[0][0]) > _NO_SWEEP_DB:
        return sweeps
    found: list[tuple[float, Values]] = []
    for cost, values in sweeps[:_REFINED]:
        if cost > _FAR * sweeps[0][0]:
            continue
        for drive, wave, bias in (*_STARTS, *_UNEVEN_STARTS):
            if bias and first.db(min(one[0] for one in found)) > _COMES_NEAR_DB:
                break
            begun = values | {"drive_db": drive, "wave": wave, "drive_bias": bias}
            names = _moved(KICK, begun, more)
            found.append(first.refined(KICK, first.whole(KICK), begun, names, _GLANCES))
    return sorted(found, key=lambda one: one[0])


def _808s(first: _Target, start_ms: float, more: tuple[str, ...]) -> list[tuple[float, Values]]:
    """Made 808s that may be it, the best first, with what they leave of its beginning."""
    base: Values = {
        "end_hz": first.end_hz, "attack_ms": 1.0,
        "decay_ms": max(first.decay_ms, limits(Recipe808, "decay_ms")[0]),
        "release_ms": 90.0, WHOLE_MS: first.length_ms, START_MS: start_ms,
    }  # fmt: skip
    sweeps = _sweeps(first, TONE_808, base, more)
    if not more and first.db(sweeps[0][0]) > _NO_SWEEP_DB:
        return [(cost, values | _PLAIN_808) for cost, values in sweeps]
    found = []
    for cost, values in sweeps[:_REFINED]:
        if cost > _FAR * sweeps[0][0]:
            continue
        for drive, harmonics, sustain in _STARTS_808:
            for pushed in (1.0, 2.0):
                begun = values | {
                    "drive_db": drive, "harmonics": harmonics, "sustain_db": sustain, PUSHED: pushed
                }  # fmt: skip
                found.append(
                    first.refined(
                        TONE_808, first.whole(TONE_808), begun, _moved(TONE_808, begun, more), _GLANCES
                    )
                )
    return sorted(found, key=lambda one: one[0])


_WAYS = {id(KICK): _kicks, id(TONE_808): _808s}


def _best(target: _Target, kinds: tuple[Kind, ...], start_ms: float) -> tuple[float, Kind, Values]:
    """What comes nearest of some kinds: what is left, the kind and its values."""
    first = target.beginning()
    likely: list[tuple[float, Kind, Values, tuple[str, ...]]] = []
    # What begins with its wave does so at once; only where that does not go is its beginning looked for.
    ways: tuple[tuple[str, ...], ...] = ((), (START_MS,))
    for more in ways:
        nearest = min((one[0] for one in likely), default=0.0)
        if likely and first.db(nearest) < _BEGUN_DB:
            break
        kinds = tuple(
            kind for kind in kinds
            if not likely or any(one[1] is kind and one[0] < _PROMISING * nearest for one in likely)
        )  # fmt: skip
        likely += [
            (cost, kind, values, more)
            for kind in kinds
            for cost, values in _WAYS[id(kind)](first, start_ms, more)[:2]
        ]
    likely.sort(key=lambda one: one[0])

    def whole(kind: Kind, begun: Values, more: tuple[str, ...], most: int) -> tuple[float, Values]:
        return target.refined(kind, target.whole(kind), begun, _moved(kind, begun, more), most)

    tried = [(*whole(kind, values, more, 20), kind, more) for _, kind, values, more in likely[:2]]
    cost, values, kind, more = min(tried, key=lambda one: one[0])
    if target.db(cost) < _NEAR_DB:
        cost, values = whole(kind, values, more, 40)

    def promising(best: float, begun: Values, more: tuple[str, ...]) -> tuple[float, Values]:
        """Gone on with; where it is not yet near, only if it is not much worse after a glance."""
        if target.db(best) < _NEAR_DB:
            return whole(kind, begun, more, 20)
        found = whole(kind, begun, more, _GLANCES)
        return whole(kind, found[1], more, 20) if found[0] < _PROMISING * best else found

    # What begins late may do so for a sweep or a drive that is a little off.
    for change in _AT_ONCE[kind.recipe] if values[START_MS] > 0 else ():
        again = promising(cost, values | change(values) | {START_MS: 0.0}, ())
        if again[0] < cost:
            (cost, values), more = again, ()
    if kind is not KICK or target.db(cost) > _LOST_DB:
        return cost, kind, values
    # A wave, a drive or a sweep of another kind may do what these do: from there once more.
    for n, change in enumerate(_OTHERWISE):
        # What is far off is no made kick: little is tried to make it one.
        if target.db(cost) < _SETTLED_DB or (n >= _FEW and target.db(cost) > _BEGUN_DB):
            break
        other = values | change(values)
        if other != values:
            cost, values = min((cost, values), promising(cost, other, more), key=lambda one: one[0])
    if _SETTLED_DB < target.db(cost) < _NEAR_DB:
        cost, values = min((cost, values), whole(kind, values, more, 60), key=lambda one: one[0])
    return cost, kind, values


def fitted_body(
    x: Array, rate: int, trace: Trace, end_hz: float, decay_ms: float, start_ms: float,
    kinds: tuple[Kind, ...] = (KICK, TONE_808), progress: Progress | None = None,
) -> FittedBody:  # fmt: skip
    """The body, of the kinds asked for, that comes nearest to `x`, shape (frames,). `trace` holds its
    cycles, `end_hz`, `decay_ms` are where its tail settles and how long it rings, `start_ms` when it
    begins. `progress` is told the share of the way; where it says no, CancelledError is raised. UserError
    for what is too short.

    Parameters
    ----------
    x, rate
        Samples, shape (frames,); frames a second.
    trace
        Its cycles.
    end_hz
        Where its tail settles.
    decay_ms
        How long it takes.
    start_ms
        Where it begins.
    kinds
        Among which it is looked for.
    progress
        Hears how far it is.

    Returns
    -------
    FittedBody
        Its recipe, and how near it comes.

    Examples
    --------
    >>> from juglant.core.measure.trace import cycles
    >>> at = np.arange(24000) / 48000
    >>> x = np.sin(2 * np.pi * (50 * at + 6 * (1 - np.exp(-at / 0.03)))) * np.exp(-at / 0.12)
    >>> found = fitted_body(x, 48000, cycles(x, 48000, 0.0, 0.02), 50.0, 800.0, 0.0, (KICK,))
    >>> round(found.recipe.end_hz)
    50
    """
    if x.size < 0.02 * rate:
        raise UserError("The sound is too short to be taken apart.")
    steps = 0

    def step() -> None:
        nonlocal steps
        steps += 1
        if progress is not None and steps % 32 == 0 and not progress(1 - float(np.exp(-steps / 2500))):
            raise CancelledError

    end_hz, decay_ms = (float(np.clip(one, *limits(KickRecipe, name))) for name, one in (
        ("end_hz", end_hz), ("decay_ms", decay_ms)
    ))  # fmt: skip
    target = _Target(x, amplitude_envelope(x, rate), rate, trace, end_hz, decay_ms, step)
    cost, kind, values = _best(target, kinds, start_ms)
    return FittedBody(kind, _recipe(kind, values), values[START_MS], target.db(cost))


def _recipe(kind: Kind, values: Values) -> Recipe:
    """The recipe that says what values say, without a click, at full level."""
    sheet = controls(kind)
    fields: dict[str, object] = {
        name: float(np.clip(value, sheet[name].low, sheet[name].high))
        for name, value in values.items() if name in sheet
    }  # fmt: skip
    fields["level_db"] = 0.0
    if kind is KICK:
        fields["click_db"] = -60.0
    else:
        held_ms = values[WHOLE_MS] - values["release_ms"]
        fields["length_ms"] = float(np.clip(held_ms, *limits(Recipe808, "length_ms")))
        fields["push_to"] = "square" if values[PUSHED] == 2.0 else "triangle"
    return kind.recipe.model_validate(fields)
