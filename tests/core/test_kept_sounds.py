"""What is measured of sounds and loops that are drawn by lot, in numbers that are kept."""

from collections.abc import Callable
from functools import partial
from pathlib import Path

import numpy as np
from scipy.signal import fftconvolve, lfilter

from juglant.core.measure.defects import flat_runs, goes_on, leading_silence_ms, resting_offset, strokes
from juglant.core.measure.drummap import drum_map
from juglant.core.measure.envelope import onset_ms
from juglant.core.measure.estimate import modes
from juglant.core.measure.hit import measure
from juglant.core.measure.hum import find_hum, without_hum
from juglant.core.measure.partials import partials
from juglant.core.measure.pitch import measure_tail
from juglant.core.measure.pumping import heard, pumping
from juglant.core.measure.record import kicks_in, record
from juglant.core.measure.reference import reference
from juglant.core.measure.stereo import mono, stereo
from juglant.core.measure.takenumbers import take_numbers
from juglant.core.measure.takes import cut, onsets_ms
from juglant.core.measure.transcribe import transcribe
from juglant.core.measure.width import side_delay
from juglant.core.stock.known import known
from tests.kept import kept_tests
from tests.signals import Array

KEPT = Path(__file__).with_name("sounds.json")
_SOUNDS, _LOOPS = 18, 3


def _skin(rng: np.random.Generator, hz: float, t60_ms: float, seconds: float, rate: int) -> Array:
    """A tone whose pitch falls to `hz`."""
    at = np.arange(round(seconds * rate)) / rate
    sweep, fall_s = rng.uniform(0.0, 4.0), rng.uniform(0.004, 0.06)
    phase = 2 * np.pi * np.cumsum(hz * (1 + sweep * np.exp(-at / fall_s))) / rate + rng.uniform(0, 6)
    return np.asarray(np.sin(phase) * 10 ** (-3000 * at / t60_ms), np.float64)


def _struck(rng: np.random.Generator, kind: int, rate: int) -> Array:
    """A kick, a driven 808, a drum of two modes, a snare, or metal, as dry as it is made."""
    if kind == 0:
        x = _skin(rng, rng.uniform(40, 80), rng.uniform(100, 900), rng.uniform(0.15, 0.8), rate)
        return x + rng.uniform(0, 0.3) * np.exp(-np.arange(x.size) / 60) * rng.standard_normal(x.size)
    if kind == 1:
        x = _skin(rng, rng.uniform(32, 70), rng.uniform(700, 2500), rng.uniform(0.6, 1.2), rate)
        return np.asarray(np.tanh(rng.uniform(0.5, 4) * x))
    hz, seconds = rng.uniform(90, 300), rng.uniform(0.2, 0.7)
    x = _skin(rng, hz, rng.uniform(150, 600), seconds, rate)
    if kind == 2:
        other = _skin(rng, hz * rng.uniform(1.3, 1.9), rng.uniform(100, 500), seconds, rate)
        return x + rng.uniform(0.2, 1.1) * other
    hiss = rng.standard_normal(x.size) * 10 ** (-3 * np.arange(x.size) / rate / rng.uniform(0.06, 0.4))
    if kind == 3:
        return x + rng.uniform(0.2, 1.0) * hiss
    return np.diff(hiss, prepend=0.0)


def sound(n: int) -> tuple[Array, int]:
    """A struck sound and what may have become of it on the way."""
    rng = np.random.default_rng((5, n))
    rate = (48_000, 44_100, 48_000, 96_000)[n % 4]
    x = _struck(rng, n % 5, rate)
    x = 10 ** (rng.uniform(-18, 0) / 20) * x / np.max(np.abs(x))
    match n % 9:
        case 1:
            x = np.concatenate([np.zeros(round(rng.uniform(0.0005, 0.02) * rate)), x])
        case 2:
            answer = rng.standard_normal(rate) * 10 ** (-3 * np.arange(rate) / rate / rng.uniform(0.3, 1.2))
            wet = fftconvolve(x, lfilter([0.3], [1, -0.7], answer)[: rate // 2])
            x = np.pad(x, (0, wet.size - x.size)) + rng.uniform(0.005, 0.03) * wet
        case 3:
            hum = np.sin(2 * np.pi * rng.choice([50.0, 60.0]) * np.arange(2 * rate) / rate)
            x = np.pad(x, (0, 2 * rate - x.size)) + 10 ** (rng.uniform(-60, -36) / 20) * hum
        case 4:
            x = np.clip(1.6 * x, -rng.uniform(0.3, 0.6), 0.6)
        case 5:
            x = x + rng.uniform(0.005, 0.1)
        case 6:
            x = x[: round(rng.uniform(0.2, 0.6) * x.size)]
        case 7:
            late = round(rng.uniform(0.08, 0.4) * rate)
            x = np.pad(x, (0, late)) + rng.uniform(0.3, 1) * np.pad(x, (late, 0))
        case 8:
            shift = int(rng.integers(1, 40))
            x = np.stack([x, rng.uniform(-1, 1) * np.roll(x, shift)], axis=1)
    return x, rate


def loop(n: int) -> tuple[Array, int, float]:
    """A bar or two: drums, a bass line, or both, off the grid by a little; its tempo in BPM."""
    rng, rate = np.random.default_rng((6, n)), 44_100 if n % 3 else 48_000
    bpm = float(rng.uniform(84, 168))
    beat = 60 / bpm * rate
    out = 0.0005 * rng.standard_normal(round(8 * beat) + rate // 10)
    drums = [_struck(rng, kind, rate) for kind in (0, 3, 4)]
    root = float(rng.uniform(38, 62))

    def put(x: Array, at_beats: float, gain: float) -> None:
        start = max(0, round((at_beats + rng.normal(0, 0.01)) * beat))
        there = x[: out.size - start]
        out[start : start + there.size] += gain * there

    for step in range(16):
        if n % 4 != 1:
            for k, odds in enumerate((0.9 if step % 4 == 0 else 0.1, 0.9 if step % 8 == 4 else 0.05, 0.5)):
                if rng.random() < odds:
                    put(0.5 * drums[k], step / 2, float(rng.uniform(0.4, 1.0)))
        if n % 4 in (1, 2) and rng.random() < 0.6:
            hz = root * 2 ** (rng.choice([0, 3, 5, 7, 12]) / 12)
            put(np.tanh(2 * _skin(rng, hz, 900, 0.9 * beat / 2 / rate, rate)), step / 2, 0.3)
    return out, rate, bpm


def _measured(n: int) -> object:
    x, rate = sound(n)
    one = mono(x)
    hum = find_hum(one, rate)
    return (
        measure(x, rate), partials(one, rate, 0.0), measure_tail(one, rate), modes(one, rate), onset_ms(one, rate),
        hum, without_hum(one, rate) if hum else None, stereo(x, rate), side_delay(x, rate), known(one, rate),
        flat_runs(one), [ask(one, rate) for ask in (leading_silence_ms, resting_offset, strokes, goes_on)],
    )  # fmt: skip


def _heard(n: int) -> object:
    x, rate, bpm = loop(n)
    kicks = kicks_in(x, rate, bpm)
    ducked = x * (1 - 0.5 * np.exp(-((np.arange(x.size) % round(60 / bpm * rate)) / rate / 0.1)))
    return (
        onsets_ms(x, rate), [take_numbers(x, rate, one) for one in cut(x, rate)[::4]], transcribe(x, rate),
        drum_map(x, rate), reference(x, rate), kicks, record(x, rate, bpm, "A minor", kicks),
        pumping(heard(x, rate), heard(ducked, rate)),
    )  # fmt: skip


CASES: dict[str, Callable[[], object]] = {
    **{f"sound {n}": partial(_measured, n) for n in range(_SOUNDS)},
    **{f"loop {n}": partial(_heard, n) for n in range(_LOOPS)},
}

test_nothing_is_left_out, test_an_answer_is_what_it_was = kept_tests(KEPT, CASES)
