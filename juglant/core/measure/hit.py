"""All the numbers of one hit; their names and meanings are the product's definitions."""

from dataclasses import asdict, dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from juglant.core import music
from juglant.core.aside import aside
from juglant.core.measure import envelope as env
from juglant.core.measure import levels, trace
from juglant.core.measure.pitch import SETTLED_CENTS, SURE, TailPitch, measure_tail
from juglant.core.measure.stereo import listening_channel, stereo
from juglant.core.measure.transform import transform

Array = NDArray[np.float64]

# A fit is carried back by no more than this many of its time constants.
_FURTHEST_BACK = 1.5
SILENCE = 1e-5  # -100 dBFS
# Only the first seconds of a long file can be a hit; the tail is looked for in these.
LONGEST_TAIL_S = 4.0


@dataclass(frozen=True)
class HitNumbers:
    """The numbers of one hit. A value that cannot be measured is None; `reasons` says why."""

    length_ms: float
    onset_ms: float | None
    leading_silence_ms: float | None
    attack_ms: float | None
    decay20_ms: float | None
    decay60_ms: float | None
    tail_cut: bool
    fundamental_hz: float | None
    fundamental_sigma_cents: float | None
    pitch_confidence: float
    note: str | None
    cents: float | None
    settle_ms: float | None
    sweep_semitones: float | None
    drift_cents: float | None
    peak_dbfs: float
    true_peak_dbtp: float
    rms_dbfs: float | None
    crest_db: float | None
    momentary_max_lufs: float | None
    bands_db: dict[str, float] | None
    centroid_hz: float | None
    flatness: float | None
    dc_offset: float
    correlation: float | None
    mono_loss_db: float | None
    low_mono_loss_db: float | None
    reasons: dict[str, str]

    def as_dict(self) -> dict[str, Any]:
        """Plain values under the names of the definitions."""
        return asdict(self)


@dataclass(frozen=True)
class Measured:
    """A hit's numbers with the curves that the pictures draw."""

    hit: HitNumbers
    envelope: Array
    trace: trace.Trace
    spectrum: levels.Spectrum | None


_PITCH = ("fundamental_hz", "note", "cents", "settle_ms", "sweep_semitones", "drift_cents")


def _silent(x: Array, rate: int) -> Measured:
    reasons = dict.fromkeys(
        ("onset_ms", "attack_ms", "decay20_ms", "fundamental_hz", "rms_dbfs", "bands_db"),
        "the sound is silent",
    )
    hit = HitNumbers(
        length_ms=x.shape[0] / rate * 1000, onset_ms=None, leading_silence_ms=None, attack_ms=None,
        decay20_ms=None, decay60_ms=None, tail_cut=False, fundamental_hz=None,
        fundamental_sigma_cents=None, pitch_confidence=0.0, note=None, cents=None, settle_ms=None,
        sweep_semitones=None, drift_cents=None, peak_dbfs=levels.peak_dbfs(x),
        true_peak_dbtp=levels.true_peak_dbtp(x), rms_dbfs=None, crest_db=None,
        momentary_max_lufs=None, bands_db=None, centroid_hz=None, flatness=None,
        dc_offset=float(np.mean(x)), correlation=None, mono_loss_db=None, low_mono_loss_db=None,
        reasons=reasons,
    )  # fmt: skip
    return Measured(hit, np.zeros(x.shape[0]), trace.Trace(np.zeros(0), np.zeros(0)), None)


def _sweep(tail: TailPitch, cycles: trace.Trace, onset_s: float) -> dict[str, float | None]:
    """Settling, sweep and drift, in the units of their names; times from the onset."""
    window, first = tail.window, tail.first
    # Before the tail window speaks, single cycles do.
    early = cycles.time_ms / 1000 < window.start_s + onset_s
    off = np.abs(1200 * np.log2(cycles.hz[early] / tail.hz)) > SETTLED_CENTS
    settle = 0.0
    if off.any():
        settle = float(cycles.time_ms[early][np.flatnonzero(off)[-1]]) - onset_s * 1000
    grid = np.linspace(window.start_s, window.end_s, 400)
    still = np.flatnonzero(np.abs(window.cents_off(grid)) > SETTLED_CENTS)
    if still.size:
        settle = max(settle, float(grid[still[-1]]) * 1000)
    # The first cycles lie nearer to the onset than the fit's window, but a click may have
    # spoilt them: they are believed where the fit, if it reaches back at all, agrees.
    sweep = counted = trace.sweep_semitones(cycles, onset_s * 1000, tail.hz)
    reaches = first.start_s < _FURTHEST_BACK * first.tau_s and first.residual_share < 0.02
    if first.bend != 0.0 and reaches:
        fitted = float(first.cents_off(0.0)) / 100
        if counted is None or abs(counted - fitted) > 0.3 * max(abs(fitted), 3.0):
            sweep = fitted
    # Seen by the earliest good fit: none is asked about what lies before its own start.
    wide = first if first.start_s < window.start_s else window
    settled_s = max(settle / 1000, wide.start_s)
    drift = float(wide.cents_off(max(tail.minus_30_s, settled_s)) - wide.cents_off(settled_s))
    return {"settle_ms": max(settle, 0.0), "sweep_semitones": sweep, "drift_cents": drift}


def _resting_level(x: Array, rate: int) -> float:
    """The offset that a sound rests on: what is left when it has died away.

    The mean of a whole hit is not that: half a cycle more above than below is no offset.
    """
    end = x[-max(2, round(0.05 * rate)) :]
    rest = float(np.mean(end))
    if abs(rest) > 2 * float(np.std(end)):
        return rest
    if float(np.max(np.abs(end))) < 0.03 * float(np.max(np.abs(x))):
        return 0.0
    return float(np.mean(x)) if x.size > rate else 0.0


def measure(x: Array, rate: int, a4_hz: float = 440.0, flats: bool = False) -> Measured:
    """Measure a hit of shape (frames,) or (frames, channels); full scale is 1, rate in Hz.

    `flats` chooses the spelling of `note` only.
    """
    dc_offset = float(np.mean(x))
    heard = listening_channel(x)
    heard = heard - _resting_level(heard, rate)
    if x.shape[0] < 2 or float(np.max(np.abs(heard))) < SILENCE:
        return _silent(x, rate)
    onset = env.onset_ms(heard, rate)
    begin = round(onset / 1000 * rate)
    # The fits of the tail and all the rest have nothing to do with each other.
    fitted = aside(lambda: measure_tail(heard[begin : begin + round(LONGEST_TAIL_S * rate)], rate))
    whole = transform(heard, rate)
    envelope = env.amplitude_envelope(heard, rate, whole)
    shape = env.shape(envelope, rate)
    reasons: dict[str, str] = {}
    for name in ("decay20_ms", "decay60_ms"):
        if getattr(shape, name) is None:
            reasons[name] = "the file ends before the level has fallen that far"
    top = int(np.argmax(envelope))
    last = top + round(shape.decay60_ms / 1000 * rate) if shape.decay60_ms else x.shape[0]
    span = x[begin : max(last, begin + 2)]
    rms = levels.to_db(float(np.sqrt(np.mean(span * span))))
    spectrum = levels.Spectrum(whole, rate)
    sides = stereo(x, rate)
    if sides.correlation is None:
        reasons["correlation"] = "the sound is mono"

    cycles = trace.cycles(heard, rate, onset / 1000 - 0.001, 0.003 * float(envelope[top]), whole)
    pitched: dict[str, Any] = dict.fromkeys((*_PITCH, "fundamental_sigma_cents"))
    confidence = 0.0
    true_peak, momentary = levels.true_peak_dbtp(x), levels.momentary_max_lufs(x, rate)
    tail = fitted.result()
    if isinstance(tail, str):
        reasons["fundamental_hz"] = tail
    else:
        confidence = tail.confidence
        if confidence >= SURE:
            nearest = music.nearest_note(tail.hz, a4_hz, flats)
            pitched |= _sweep(tail, cycles, onset / 1000)
            if pitched["sweep_semitones"] is None:
                reasons["sweep_semitones"] = "the sweep is over too soon, or hidden by the click"
            pitched |= {
                "fundamental_hz": tail.hz, "fundamental_sigma_cents": tail.sigma_cents,
                "note": nearest.note, "cents": nearest.cents,
            }  # fmt: skip
        else:
            reasons["fundamental_hz"] = tail.reason or "the tail has no settled pitch"
    peak = levels.peak_dbfs(x)
    hit = HitNumbers(
        length_ms=x.shape[0] / rate * 1000, onset_ms=onset, leading_silence_ms=onset,
        attack_ms=shape.attack_ms, decay20_ms=shape.decay20_ms, decay60_ms=shape.decay60_ms,
        tail_cut=shape.tail_cut, pitch_confidence=confidence, **pitched,
        peak_dbfs=peak, true_peak_dbtp=true_peak, rms_dbfs=rms, crest_db=peak - rms,
        momentary_max_lufs=momentary, bands_db=spectrum.bands_db(),
        centroid_hz=spectrum.centroid_hz(), flatness=spectrum.flatness(), dc_offset=dc_offset,
        correlation=sides.correlation, mono_loss_db=sides.mono_loss_db,
        low_mono_loss_db=sides.low_mono_loss_db, reasons=reasons,
    )  # fmt: skip
    return Measured(hit, envelope, cycles, spectrum)
