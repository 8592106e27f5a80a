"""The pitch of kicks, 808s and toms recorded in rooms, and of those with a mains hum. Invented."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.signal import fftconvolve, lfilter

from bench.figures import figure, part
from bench.tracks import kick, tone
from juglant.core.measure.hit import measure

Array = NDArray[np.float64]
RATE = 48_000
LONG, SHORT = ("long kick", "808"), ("kick", "tom")
KINDS = (*SHORT, *LONG)


@dataclass(frozen=True)
class Roomy:
    """A sound and the pitch that its tail settles to."""

    samples: Array
    hz: float


def _struck(rng: np.random.Generator, kinds: tuple[str, ...]) -> tuple[Array, float]:
    kind = str(rng.choice(kinds))
    if kind == "808":
        midi = float(rng.uniform(26, 43))
        x = tone(midi, float(rng.uniform(0.6, 1.6)), "808")
        return x, 440 * 2 ** ((midi - 69) / 12)
    if kind == "tom":
        hz, ms = float(rng.uniform(70, 180)), float(rng.uniform(250, 700))
        return kick(hz, ms, sweep=1.3, sweep_ms=30, click=0.1), hz
    hz = float(rng.uniform(40, 70))
    ms = float(rng.uniform(260, 420) if kind == "kick" else rng.uniform(700, 1400))
    return kick(hz, ms, sweep=float(rng.uniform(2.5, 6)), sweep_ms=float(rng.uniform(8, 25))), hz


def in_room(seed: int, kinds: tuple[str, ...] = KINDS) -> Roomy:
    """A sound in a room of 0.4 to 3.5 s, 10 to 22 dB under it."""
    rng = np.random.default_rng((91, seed))
    x, hz = _struck(rng, kinds)
    seconds, wet_db = float(rng.uniform(0.4, 3.5)), float(rng.uniform(-22, -10))
    t = np.arange(round(seconds * RATE)) / RATE
    answer = rng.standard_normal(t.size) * 10 ** (-3 * t / seconds)
    answer[: round(rng.uniform(0.002, 0.02) * RATE)] = 0.0
    # The air and the walls take the top.
    answer = lfilter([0.3], [1.0, -0.7], answer)
    dry = np.concatenate([x, np.zeros(min(t.size, 2 * RATE))])
    wet = fftconvolve(dry, answer)[: dry.size]
    wet *= 10 ** (wet_db / 20) * np.sqrt(np.sum(dry**2) / np.sum(wet**2))
    y = dry + wet
    return Roomy(0.8 * y / np.max(np.abs(y)), hz)


def with_hum(seed: int) -> Roomy:
    """A sound over a mains hum of 50 or 60 Hz with overtones, 36 to 60 dB under its peak."""
    rng = np.random.default_rng((92, seed))
    x, hz = _struck(rng, KINDS)
    mains, db = float(rng.choice([50.0, 60.0])), float(rng.uniform(-60, -36))
    y = np.concatenate([x, np.zeros(RATE // 2)]) * 0.8 / np.max(np.abs(x))
    t = np.arange(y.size) / RATE
    hum = sum(
        a * np.sin(2 * np.pi * mains * n * t + rng.uniform(0, 6)) for n, a in ((1, 1), (2, 0.5), (3, 0.3))
    )
    return Roomy(y + 10 ** (db / 20) * hum, hz)


def told(one: Roomy) -> tuple[float | None, float]:
    """Cents off, None where the pitch is withheld; and its uncertainty."""
    hit = measure(one.samples, RATE).hit
    if hit.fundamental_hz is None:
        return None, 0.0
    return float(1200 * np.log2(hit.fundamental_hz / one.hz)), hit.fundamental_sigma_cents or 0.0


def main(seeds: range = range(60)) -> None:
    """Print the table."""
    part(f"Pitch in rooms and with hum: {len(seeds)} of each")
    for name, make in (
        ("808s and long kicks in rooms", lambda seed: in_room(seed, LONG)),
        ("short kicks and toms in rooms", lambda seed: in_room(seed, SHORT)),
        ("all of them over a hum", with_hum),
    ):
        found = [told(make(seed))[0] for seed in seeds]
        stated = np.abs([cents for cents in found if cents is not None])
        figure(f"{name}: withheld", 100 * (1 - stated.size / len(found)), "%", 10)
        figure(f"{name}: beyond 5 cents", np.sum(stated > 5), "", 0)
        figure(f"{name}: median off", np.median(stated), "cents")
