"""Kick and bass under the settings that keep them apart.

All of it happens to a loop that runs round: filters are applied to its spectrum, as if it had
always been running.
"""

from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy import fft

from juglant.core.lowend.loop import place
from juglant.core.music import midi_to_hz, pitch_class
from juglant.core.process import dynamics, filters, saturation
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.fields import is_off
from juglant.core.recipes.separate import BassCarve, Carve

Array = NDArray[np.float64]

_LIFT_Q = 3.0
_MID_DRIVE_DB = 9.0
# A note start: a sine with a very short decay, like a small tom (common practice).
_START_HZ, _START_MS = 190.0, 14.0
_STEADY_KNEE_DB, _STEADY_ATTACK_MS, _STEADY_RELEASE_MS = 6.0, 12.0, 120.0
# Levels this far below the loudest are between notes.
_BETWEEN_DB = 30.0


def root_hz(brief: Brief) -> float:
    """The key's root in the octave from C1, where a bass has its fundamental.

    Parameters
    ----------
    brief
        Key, tempo and chords.

    Returns
    -------
    float
        Hz.

    Examples
    --------
    >>> round(root_hz(Brief(tonic="A")), 1)
    55.0
    """
    return midi_to_hz(24 + pitch_class(brief.tonic), brief.a4_hz)


def _sections(carve: Carve, brief: Brief, rate: int) -> Array:
    found = []
    if not is_off(carve, "highpass_hz"):
        found.append(filters.steep("highpass", carve.highpass_hz, int(carve.highpass_slope), rate))
    if not is_off(carve, "cut_db"):
        found.append(filters.cookbook("bell", carve.cut_hz, carve.cut_q, rate, carve.cut_db))
    if isinstance(carve, BassCarve) and not is_off(carve, "lift_db"):
        hz = int(carve.lift_harmonic) * root_hz(brief)
        found.append(filters.cookbook("bell", hz, _LIFT_Q, rate, carve.lift_db))
    return np.vstack(found) if found else np.zeros((0, 6))


def response(carve: Carve, brief: Brief, hz: Array, rate: int) -> NDArray[np.complex128]:
    """Complex gain of everything linear in a carve, at frequencies in Hz.

    Parameters
    ----------
    carve, brief
        What is given up; key, tempo and chords.
    hz, rate
        Frequencies in Hz; frames a second.

    Returns
    -------
    ndarray of complex
        Gain, shape of `hz`.

    Examples
    --------
    >>> from juglant.core.recipes.separate import BassCarve
    >>> carve = BassCarve(highpass_hz=60.0)
    >>> bool(abs(response(carve, Brief(), np.array([20.0]), 48000))[0] < 0.2)
    True
    """
    found = filters.response(_sections(carve, brief, rate), hz, rate)
    if carve.phase == "linear":
        found = np.abs(found).astype(complex)
    if isinstance(carve, BassCarve):
        if not is_off(carve, "shift_ms"):
            found = found * np.exp(-2j * np.pi * hz * carve.shift_ms / 1000)
        if carve.polarity == "inverted":
            found = -found
    return np.asarray(found)


def _steadied(x: Array, carve: BassCarve, rate: int) -> Array:
    """`x` with what lies below the crossover compressed towards its median level.

    The parts are a zero-phase Linkwitz-Riley pair, which adds up to the whole again; the
    energy of the low part stays what it was.
    """
    low = filters.around_loop_by(x, lambda hz: filters.linkwitz_riley_gain(hz, carve.crossover_hz)[0], rate)
    level = dynamics.detected_db(low, rate)
    sounding = level[level > level.max() - _BETWEEN_DB]
    if not sounding.size or not np.any(low):
        return x
    twice = dynamics.reduction_db(
        np.tile(level, 2), rate, float(np.median(sounding)), carve.steady_ratio, _STEADY_KNEE_DB,
        _STEADY_ATTACK_MS, _STEADY_RELEASE_MS,
    )  # fmt: skip
    held = low * 10 ** (-twice[x.size :] / 20)
    makeup = np.sqrt(float(low @ low) / max(float(held @ held), 1e-30))
    return np.asarray(x - low + makeup * held)


def carved(x: Array, carve: Carve, brief: Brief, starts_ms: list[float], rate: int) -> Array:
    """A loop, shape (frames,), under a carve; `starts_ms` are the starts of its notes.

    Parameters
    ----------
    x
        Samples, shape (frames,).
    carve, brief
        What is given up; key, tempo and chords.
    starts_ms, rate
        Starts of its notes; frames a second.

    Returns
    -------
    ndarray
        Shape (frames,).

    Examples
    --------
    >>> from juglant.core.recipes.separate import BassCarve
    >>> carved(np.ones(4800), BassCarve(highpass_hz=60.0), Brief(), [0.0], 48000).size
    4800
    """
    if carve == type(carve)():
        return x
    shift_ms = carve.shift_ms if isinstance(carve, BassCarve) else 0.0
    if carve.phase == "minimum" and shift_ms == 0.0:
        found = _sections(carve, brief, rate)
        out = filters.around_loop(x, found) if found.size else x
        if isinstance(carve, BassCarve) and carve.polarity == "inverted":
            out = -out
    else:
        out = filters.around_loop_by(x, lambda hz: response(carve, brief, hz, rate), rate)
    if not isinstance(carve, BassCarve):
        return np.asarray(out)
    if carve.steady_ratio > 1.0:
        out = _steadied(out, carve, rate)
    if carve.mid_copy_db > -40.0:

        def mids(hz: Array) -> NDArray[Any]:
            turn = np.exp(-2j * np.pi * hz * shift_ms / 1000)
            return np.asarray(filters.linkwitz_riley_gain(hz, carve.crossover_hz)[1] * turn)

        def again(hz: Array) -> NDArray[Any]:
            return filters.linkwitz_riley_gain(hz, carve.crossover_hz)[1]

        # Driven mids make differences that lie below: these stay out of the low end too.
        copy = filters.around_loop_by(
            saturation.soft_clip(filters.around_loop_by(x, mids, rate), _MID_DRIVE_DB), again, rate
        )
        out = out + 10 ** (carve.mid_copy_db / 20) * copy
    if carve.starts_db > -40.0 and starts_ms:
        time = np.arange(round(8 * _START_MS / 1000 * rate)) / rate
        start = np.sin(2 * np.pi * _START_HZ * time) * np.exp(-time * 1000 / _START_MS)
        start *= float(np.max(np.abs(x))) * 10 ** (carve.starts_db / 20)
        out = out + place([(at, start) for at in sorted(starts_ms)], x.size, rate, loop=True)
    return np.asarray(out)


def pre_ringing_db(carve: Carve, brief: Brief, rate: int) -> float | None:
    """How loud a carve rings before a click, in dB re the click's own peak; None for a carve of
    minimum phase, which cannot.

    What comes within half a millisecond is the click.

    Parameters
    ----------
    carve, brief
        What is given up; key, tempo and chords.
    rate
        Frames a second.

    Returns
    -------
    float or None
        dB.

    Examples
    --------
    >>> from juglant.core.recipes.separate import BassCarve
    >>> pre_ringing_db(BassCarve(highpass_hz=60.0), Brief(), 48000) is None
    True
    """
    if carve.phase != "linear" or not _sections(carve, brief, rate).size:
        return None
    size = 2 * rate
    hz = np.arange(size // 2 + 1) * rate / size
    # A shift moves the whole, the ringing with it.
    still = carve.model_copy(update={"shift_ms": 0.0}) if isinstance(carve, BassCarve) else carve
    answer = np.abs(fft.irfft(response(still, brief, hz, rate), size))
    before = answer[size // 2 : size - round(0.0005 * rate)]
    return float(20 * np.log10(max(float(before.max()), 1e-9) / max(float(answer[0]), 1e-9)))
