"""Generated kicks and 808s whose end frequency is known exactly.

Written apart from `juglant.core.synth` on purpose: a pitch meter must not be judged
only on the sounds of the synthesizer it was built beside. Invented data throughout.
"""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy import signal

Array = NDArray[np.float64]

SHAPES = ("exponential_hz", "exponential_pitch", "two_stage", "linear_ramp", "power", "hyperbolic")


@dataclass(frozen=True)
class Case:
    """One generated hit and what is true of it."""

    samples: Array
    rate: int
    end_hz: float
    shape: str
    sweep_semitones: float
    fall_ms: float
    decay_ms: float
    drive_db: float
    noise_db: float | None
    settles: bool
    cents_at_minus_40: float


def _bend(shape: str, t: Array, fall_s: float) -> Array:
    """Share of the sweep still to fall, 1 at the onset, over time."""
    if shape in ("exponential_hz", "exponential_pitch"):
        return np.exp(-t / fall_s)
    if shape == "two_stage":
        return 0.7 * np.exp(-t / (0.25 * fall_s)) + 0.3 * np.exp(-t / fall_s)
    if shape == "linear_ramp":
        return np.clip(1 - t / (2 * fall_s), 0, 1)
    if shape == "power":
        return np.clip(1 - t / (3 * fall_s), 0, 1) ** 3
    return 1 / (1 + t / fall_s) ** 3


def _drive(x: Array, drive_db: float, asymmetry: float) -> Array:
    if drive_db <= 0:
        return x
    gain = 10 ** (drive_db / 20)
    y = np.tanh(gain * x + asymmetry) - np.tanh(asymmetry)
    return np.asarray(y / np.max(np.abs(y)))


def make_case(rng: np.random.Generator, **fixed: Any) -> Case:
    """Draw one case. `fixed` overrides any drawn value by its name."""
    pick: dict[str, Any] = {
        "rate": int(rng.choice([44100, 48000])),
        "end_hz": float(np.exp(rng.uniform(np.log(30), np.log(130)))),
        "shape": str(rng.choice(SHAPES)),
        "sweep_semitones": float(rng.uniform(0, 48)),
        "fall_ms": float(np.exp(rng.uniform(np.log(5), np.log(120)))),
        "decay_ms": float(np.exp(rng.uniform(np.log(80), np.log(900)))),
        "drive_db": float(rng.choice([0, 6, 12, 24])),
        "asymmetry": float(rng.choice([0.0, 0.0, 0.4])),
        "noise_db": rng.choice(np.array([np.nan, -60.0, -40.0])),
        "click_db": float(rng.choice([-200.0, -12.0, -3.0])),
        "hold_ms": float(rng.choice([0.0, 0.0, 30.0])),
        "ringing": bool(rng.random() < 0.3),
    } | fixed
    rate = int(pick["rate"])
    end_hz, decay_s = float(pick["end_hz"]), float(pick["decay_ms"]) / 1000
    sweep, fall_s = float(pick["sweep_semitones"]), float(pick["fall_ms"]) / 1000
    shape = str(pick["shape"])
    # The decay is the time to -60 dB, as a producer's decay control means it.
    seconds = min(1.15 * decay_s + 0.05, 1.2)
    t = np.arange(round(seconds * rate)) / rate
    bend = _bend(shape, t, fall_s)
    if shape == "exponential_hz":
        f = end_hz * (1 + (2 ** (sweep / 12) - 1) * bend)
    else:
        f = end_hz * 2 ** (sweep / 12 * bend)
    phase = 2 * np.pi * (np.cumsum(f) - 0.5 * (f + f[0])) / rate + rng.uniform(0, 2 * np.pi)
    hold_s = float(pick["hold_ms"]) / 1000
    envelope = 10 ** (-3 * np.maximum(t - hold_s, 0) / decay_s) * (1 - np.exp(-t / 0.0005))
    x = _drive(np.sin(phase) * envelope, float(pick["drive_db"]), float(pick["asymmetry"]))
    if pick["ringing"]:
        # A resonant low-pass rings at the onset, at its own frequency and not at the note's.
        cutoff = min(6 * end_hz, 800.0)
        x = signal.sosfilt(_resonant_lowpass(cutoff, 4.0, rate), x)
    click_db = float(pick["click_db"])
    if click_db > -100:
        click = rng.standard_normal(t.size) * np.exp(-t / 0.002) * (t < 0.02)
        x = x + 10 ** (click_db / 20) * click / np.max(np.abs(click))
    x = x / np.max(np.abs(x)) * 10 ** (-1 / 20)
    noise_db = float(pick["noise_db"])
    has_noise = bool(np.isfinite(noise_db))
    if has_noise:
        x = x + 10 ** (noise_db / 20) * rng.standard_normal(x.size)
    cents = 1200 * np.log2(f / end_hz)
    # 40 dB down on the amplitude that is heard: drive flattens the start of the envelope.
    heard = _drive(envelope, float(pick["drive_db"]), 0.0)
    late = np.nonzero(heard > 0.01 * heard.max())[0]
    at_40 = float(cents[late[-1]])
    return Case(
        samples=x, rate=rate, end_hz=end_hz, shape=shape, sweep_semitones=sweep,
        fall_ms=fall_s * 1000, decay_ms=decay_s * 1000, drive_db=float(pick["drive_db"]),
        noise_db=noise_db if has_noise else None, settles=at_40 < 20, cents_at_minus_40=at_40,
    )  # fmt: skip


def _resonant_lowpass(cutoff_hz: float, q: float, rate: int) -> Array:
    w = 2 * np.pi * cutoff_hz / rate
    alpha, cos = np.sin(w) / (2 * q), np.cos(w)
    b = np.array([(1 - cos) / 2, 1 - cos, (1 - cos) / 2])
    a = np.array([1 + alpha, -2 * cos, 1 - alpha])
    return np.concatenate([b / a[0], a / a[0]])[None, :]


def corpus(count: int, seed: int = 1, **fixed: Any) -> list[Case]:
    """`count` cases drawn with the given seed, always the same ones."""
    rng = np.random.default_rng(seed)
    return [make_case(rng, **fixed) for _ in range(count)]
