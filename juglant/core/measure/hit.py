"""All the numbers of one hit; their names and meanings are the product's definitions."""

from dataclasses import asdict, dataclass
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from juglant.core import music
from juglant.core.aside import aside
from juglant.core.measure import envelope as env
from juglant.core.measure import levels, trace
from juglant.core.measure.estimate import ABOUT_CENTS, Mode, modes
from juglant.core.measure.hum import without_hum
from juglant.core.measure.pitch import SETTLED_CENTS, SURE, measure_tail
from juglant.core.measure.stereo import listening_channel, stereo
from juglant.core.measure.tailmodel import TailPitch
from juglant.core.measure.transform import transform

Array = NDArray[np.float64]

# A fit is carried back by no more than this many of its time constants.
_FURTHEST_BACK = 1.5
# A mode that lies this far from where the tail ends is another note, and no sweep's.
_OTHER_NOTE_CENTS, _OTHER_NOTE_MOST, _UNHEARD_CONFIDENCE = 60.0, 700.0, 0.5
# Of the time until it is 20 dB down.
_LATE_SHARE = 0.75
# A fit that leaves more than this share unexplained has found no tone.
_LEAST_TONE = 0.2
SILENCE = 1e-5  # -100 dBFS
LookFor = Literal["tail", "tones", "nothing"]
_NOT_ASKED = "the pitch of its tail was not asked for"
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
    estimate_hz: float | None
    estimate_sigma_cents: float | None
    estimate_note: str | None
    estimate_cents: float | None
    other_modes_hz: list[float]
    # The best answer with its rooms and echoes on, where it has any: beside the pitch of the dry sound.
    in_room_hz: float | None
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
# What a hit's pitch is told by: of a sound with spaces on it, these are those of the dry one.
PITCH_FIELDS = (
    *_PITCH, "fundamental_sigma_cents", "pitch_confidence", "estimate_hz", "estimate_sigma_cents",
    "estimate_note", "estimate_cents", "other_modes_hz",
)  # fmt: skip


def _silent(x: Array, rate: int) -> Measured:
    reasons = dict.fromkeys(
        ("onset_ms", "attack_ms", "decay20_ms", "fundamental_hz", "rms_dbfs", "bands_db"),
        "the sound is silent",
    )
    hit = HitNumbers(
        length_ms=x.shape[0] / rate * 1000, onset_ms=None, leading_silence_ms=None, attack_ms=None,
        decay20_ms=None, decay60_ms=None, tail_cut=False, fundamental_hz=None,
        fundamental_sigma_cents=None, pitch_confidence=0.0, note=None, cents=None, estimate_hz=None,
        estimate_sigma_cents=None, estimate_note=None,
        estimate_cents=None, other_modes_hz=[], in_room_hz=None, settle_ms=None,
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


def _silent_frames(x: Array) -> int:
    """Frames of digital silence before a sound; all of them where there is none."""
    sounding, frames = (x != 0.0).ravel(), int(x.shape[0])
    return int(np.argmax(sounding)) * frames // int(x.size) if sounding.any() else frames


def _arrives_unheard(
    tail: TailPitch, settle_ms: float | None, decay20_ms: float | None, tones: list[Mode]
) -> bool:
    """Whether a drum comes to its last pitch only when it is all but gone, and sounds another till then."""
    if settle_ms is None or not decay20_ms or not tones:
        return False
    apart = abs(music.cents_between(tones[0].hz, tail.hz))
    return settle_ms > _LATE_SHARE * decay20_ms and _OTHER_NOTE_CENTS < apart < _OTHER_NOTE_MOST


def _estimate(
    found: list[Mode], tail: TailPitch | str, confidence: float, a4_hz: float, flats: bool
) -> dict[str, Any]:
    """The best answer to what note a hit sounds, from its tones and its tail, with its uncertainty."""
    fitted = None if isinstance(tail, str) or tail.window.residual_share > _LEAST_TONE else tail
    if fitted is not None and fitted.confidence >= SURE > confidence:  # it comes there unheard
        fitted = None
    if not isinstance(tail, str) and confidence >= SURE:
        hz, sigma = tail.hz, tail.sigma_cents
    elif fitted is not None and fitted.sigma_cents < (
        found[0].sigma_cents / 2 if found and not fitted.before_room else ABOUT_CENTS
    ):
        hz, sigma = fitted.hz, fitted.sigma_cents
    elif found:
        hz, sigma = found[0].hz, min(found[0].sigma_cents, ABOUT_CENTS)
    else:
        none = dict.fromkeys(("estimate_hz", "estimate_sigma_cents", "estimate_note", "estimate_cents"))
        return {**none, "other_modes_hz": []}
    nearest = music.nearest_note(hz, a4_hz, flats)
    others = [one.hz for one in found if abs(music.cents_between(one.hz, hz)) > 100]
    return {
        "estimate_hz": hz, "estimate_sigma_cents": sigma, "estimate_note": nearest.note,
        "estimate_cents": nearest.cents, "other_modes_hz": others,
    }  # fmt: skip


def measure(
    x: Array,
    rate: int,
    a4_hz: float = 440.0,
    flats: bool = False,
    *,
    recorded: bool = True,
    look_for: LookFor = "tail",
) -> Measured:
    """Measure a hit of shape (frames,) or (frames, channels); full scale is 1, rate in Hz.

    `flats` chooses the spelling of `note` only. Of what is not `recorded` the tail's pitch is known to be
    meant, however late it comes. `look_for` says how much is asked of the pitch: the tail is
    fitted, which is most of the work, or only the strongest tones are told, or nothing.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels); full scale is 1.
    rate, a4_hz
        Frames a second; frequency of the A that notes are named by.
    flats
        Whether notes are spelled with flats.
    recorded
        Whether it comes from a file.
    look_for
        How much is asked of its pitch.

    Returns
    -------
    Measured
        The numbers, and the curves that they were read from.

    Examples
    --------
    >>> at = np.arange(24000) / 48000
    >>> x = np.sin(2 * np.pi * 55.0 * at) * np.exp(-at / 0.08)
    >>> found = measure(x, 48000).hit
    >>> found.note, round(found.fundamental_hz, 2)
    ('A1', 55.0)
    """
    whole_ms = x.shape[0] / rate * 1000
    # Digital silence in front is told, and changes nothing else.
    silent = _silent_frames(x)
    x = x[silent:]
    dc_offset = float(np.mean(x)) if x.size else 0.0
    heard = listening_channel(x)
    heard = without_hum(heard - _resting_level(heard, rate), rate) if x.shape[0] else heard
    if x.shape[0] < 2 or float(np.max(np.abs(heard))) < SILENCE:
        return _silent(np.zeros((round(whole_ms * rate / 1000), *x.shape[1:])), rate)
    onset = env.onset_ms(heard, rate)
    begin = round(onset / 1000 * rate)
    # The fits of the tail and all the rest have nothing to do with each other.
    fitted = aside(
        lambda: (
            _NOT_ASKED
            if look_for != "tail"
            else measure_tail(heard[begin:][: round(LONGEST_TAIL_S * rate)], rate, in_room=recorded)
        )
    )
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
    tail, tones = fitted.result(), [] if look_for == "nothing" else modes(heard[begin:], rate)
    if isinstance(tail, str):
        reasons["fundamental_hz"] = tail
    else:
        swept = _sweep(tail, cycles, onset / 1000)
        confidence = tail.confidence
        late = (
            recorded
            and not tail.before_room
            and _arrives_unheard(tail, swept["settle_ms"], shape.decay20_ms, tones)
        )
        if confidence >= SURE and late:
            confidence *= _UNHEARD_CONFIDENCE
            reasons["fundamental_hz"] = (
                f"it comes to {tail.hz:.1f} Hz only when most of it is gone; what is heard of it is at "
                f"{tones[0].hz:.1f} Hz"
            )
        elif confidence >= SURE:
            nearest = music.nearest_note(tail.hz, a4_hz, flats)
            pitched |= swept
            if pitched["sweep_semitones"] is None:
                reasons["sweep_semitones"] = "the sweep is over too soon, or hidden by the click"
            pitched |= {
                "fundamental_hz": tail.hz, "fundamental_sigma_cents": tail.sigma_cents,
                "note": nearest.note, "cents": nearest.cents,
            }  # fmt: skip
        else:
            reasons["fundamental_hz"] = tail.reason or "the tail has no settled pitch"
    pitched |= _estimate(tones, tail, confidence, a4_hz, flats)
    peak = levels.peak_dbfs(x)
    before_ms = silent / rate * 1000
    hit = HitNumbers(
        length_ms=whole_ms, onset_ms=onset + before_ms, leading_silence_ms=onset + before_ms,
        attack_ms=shape.attack_ms, decay20_ms=shape.decay20_ms, decay60_ms=shape.decay60_ms,
        tail_cut=shape.tail_cut, pitch_confidence=confidence, in_room_hz=None, **pitched,
        peak_dbfs=peak, true_peak_dbtp=true_peak, rms_dbfs=rms, crest_db=peak - rms,
        momentary_max_lufs=momentary, bands_db=spectrum.bands_db(),
        centroid_hz=spectrum.centroid_hz(), flatness=spectrum.flatness(), dc_offset=dc_offset,
        correlation=sides.correlation, mono_loss_db=sides.mono_loss_db,
        low_mono_loss_db=sides.low_mono_loss_db, reasons=reasons,
    )  # fmt: skip
    if silent:
        envelope = np.concatenate([np.zeros(silent), envelope])
        cycles = trace.Trace(cycles.time_ms + before_ms, cycles.hz)
    return Measured(hit, envelope, cycles, spectrum)
