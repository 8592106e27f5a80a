"""A chain of stages: what each does to a sound."""

from collections.abc import Callable
from functools import partial
from typing import Any

import numpy as np
from numpy.typing import NDArray

from juglant.core.aside import aside
from juglant.core.measure import levels
from juglant.core.measure.stereo import across
from juglant.core.process import dynamics, filters, grains, lowpart, resonator, saturation, space
from juglant.core.process.equaliser import equalise
from juglant.core.recipes.chain import (
    ClipStage,
    DelayStage,
    DriveStage,
    EnvelopeStage,
    EqualiserStage,
    GrainStage,
    LevelStage,
    ResonatorStage,
    SpaceStage,
    TransientStage,
    TrimStage,
)
from juglant.core.recipes.dynamics import BandsStage, CompressorStage, GateStage, LevellerStage, LimitStage
from juglant.core.recipes.fields import is_off
from juglant.core.synth import envelopes
from juglant.core.tempo import note_value_ms

Array = NDArray[np.float64]
Processed = Callable[[Array], Array]


def each_channel(x: Array, process: Processed) -> Array:
    """`process`, made for shape (frames,), on every channel of `x`.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels).
    process
        From samples to samples, shape (frames,).

    Returns
    -------
    ndarray
        With the channels of `x`.

    Examples
    --------
    >>> each_channel(np.ones((3, 2)), np.cumsum)[-1]
    array([3., 3.])
    """
    if x.ndim == 1:
        return process(x)
    first, *others = (np.ascontiguousarray(channel) for channel in x.T)
    meanwhile = [aside(partial(process, channel)) for channel in others]
    return np.stack([process(first), *(other.result() for other in meanwhile)], axis=1)


def times(x: Array, gain: Array) -> Array:
    """`x` of shape (frames,) or (frames, channels) times a gain of shape (frames,).

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels).
    gain
        Linear, shape (frames,).

    Returns
    -------
    ndarray
        Shape of `x`.

    Examples
    --------
    >>> times(np.ones((2, 2)), np.array([1.0, 0.5]))
    array([[1. , 1. ],
           [0.5, 0.5]])
    """
    return np.asarray(x * (gain if x.ndim == 1 else gain[:, None]))


def under_gain(x: Array, gain_db: Array) -> Array:
    """`x` under a gain in dB.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels).
    gain_db
        Shape (frames,).

    Returns
    -------
    ndarray
        Shape of `x`.

    Examples
    --------
    >>> under_gain(np.ones(2), np.array([0.0, -20.0]))
    array([1. , 0.1])
    """
    return times(x, np.exp(gain_db * (np.log(10) / 20)))


def heard_peak(x: Array) -> Array:
    """What a detector hears of a sound: of two channels the louder one at each frame.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels).

    Returns
    -------
    ndarray
        Shape (frames,).

    Examples
    --------
    >>> heard_peak(np.array([[0.1, -0.4]]))
    array([0.4])
    """
    return across(np.maximum, np.abs(x))


def panned(x: Array, pan: float | Array) -> Array:
    """`x` at a place from -1 (left) to 1 (right), or at one for every frame; -3 dB in the middle re either
    side's 0 dB.

    Scaled so that the middle keeps its level; a mono sound that stays in the middle stays mono.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels).
    pan
        -1 left to 1 right.

    Returns
    -------
    ndarray
        Shape (frames, 2) where it is off the middle.

    Examples
    --------
    >>> panned(np.ones(1), 1.0).round(2)
    array([[0.  , 1.41]])
    """
    if np.ndim(pan) == 0 and pan == 0.0:
        return x
    angle = np.pi / 4 * (1 + np.asarray(pan))
    gains = np.sqrt(2) * np.stack([np.cos(angle), np.sin(angle)], axis=-1)
    return np.asarray((x[:, None] if x.ndim == 1 else x) * gains)


def _length_ms(own_ms: float, length_in: str, bpm: float) -> float:
    """A length in ms: its own, or a note value's at the tempo."""
    return own_ms if length_in == "ms" else note_value_ms(length_in, bpm)


def _trim(x: Array, stage: TrimStage, rate: int, bpm: float) -> Array:
    a = min(round(stage.start_ms / 1000 * rate), max(x.shape[0] - 2, 0))
    x = x[a:]
    if stage.length_in != "ms" or not is_off(stage, "length_ms"):
        x = x[: max(2, round(_length_ms(stage.length_ms, stage.length_in, bpm) / 1000 * rate))]
    if stage.reverse == "yes":
        x = x[::-1]
    length_s = x.shape[0] / rate
    if is_off(stage, "fade_in_ms", "fade_out_ms"):
        return x
    time = np.arange(x.shape[0]) / rate
    fade = envelopes.rise(time, min(stage.fade_in_ms / 1000, length_s))
    fade = fade * envelopes.release(time, length_s, stage.fade_out_ms / 1000)
    return times(x, fade)


def _envelope(x: Array, stage: EnvelopeStage, rate: int, bpm: float) -> Array:
    attack, hold = stage.attack_ms / 1000, _length_ms(stage.hold_ms, stage.hold_in, bpm) / 1000
    decay = stage.decay_ms / 1000
    # Once it has fallen by 90 dB nothing is left of it.
    x = x[: max(2, round((attack + hold + 1.5 * decay) * rate))]
    time = np.arange(x.shape[0]) / rate
    course = envelopes.rise(time, attack) * envelopes.decay(time, attack + hold, decay, 0.0)
    return times(x, course)


def _equaliser(x: Array, stage: EqualiserStage, rate: int, _: float) -> Array:
    return each_channel(x, lambda channel: equalise(channel, stage, rate))


# How much louder a driven band comes out, in dB for every dB of drive.
_BAND_LIFT = 0.2


def _drive(x: Array, stage: DriveStage, rate: int, whole: int) -> Array:
    if is_off(stage, "drive_db") or is_off(stage, "mix"):
        return x
    banded = not is_off(stage, "from_hz", "to_hz")

    def driven(channel: Array) -> Array:
        def driven_band(x: Array) -> Array:
            return saturation.drive(x, stage.drive_db, stage.curve, stage.to_hz, whole)

        if not banded:
            return channel + stage.mix * (driven_band(channel) - channel)

        def cut_out(x: Array) -> Array:
            return lowpart.band(x, stage.from_hz, stage.to_hz, rate)

        # The band is cut out without shifting phase. What driving changes in it is added, without the
        # overtones that would lift the next band more than this one, and with what holding the peak takes.
        band = cut_out(channel)
        lift = 10 ** (_BAND_LIFT * stage.drive_db / 20)
        out = channel + stage.mix * cut_out(cut_out(lift * driven_band(band) - band))
        peak = float(np.max(np.abs(out[:whole]), initial=0.0))
        return out * (float(np.max(np.abs(channel[:whole]))) / peak) if peak > 0.0 else out

    return each_channel(x, driven)


def stage_gain_db(x: Array, stage: Any, rate: int, whole: int) -> Array | None:
    """Gain in dB of a stage that turns a sound up and down, at every frame; None for any other stage.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels).
    stage, rate
        The settings of the stage; frames a second.
    whole
        How many of the first frames are the whole sound.

    Returns
    -------
    ndarray or None
        Shape (frames,).

    Examples
    --------
    >>> stage_gain_db(np.ones(4), LevelStage(), 48000, 4) is None
    True
    """
    heard = heard_peak(x)
    match stage:
        case CompressorStage():
            return stage.makeup_db - dynamics.reduction_db(
                dynamics.detected_db(heard, rate), rate, stage.threshold_db, stage.ratio, stage.knee_db,
                stage.attack_ms, stage.release_ms,
            )  # fmt: skip
        case GateStage():
            return dynamics.gate_gain_db(
                heard, rate, stage.threshold_db, stage.range_db, stage.attack_ms, stage.hold_ms,
                stage.release_ms,
            )  # fmt: skip
        case LevellerStage():
            return dynamics.levelling_gain_db(
                heard, rate, stage.target_db, stage.amount, stage.range_db, stage.speed_ms, stage.floor_db
            )
        case LimitStage():
            ceiling = stage.ceiling_db
            if stage.hold_to == "reduction":
                ceiling = levels.peak_dbfs(x[:whole]) - stage.amount_db
            return dynamics.limit_gain_db(heard, rate, ceiling, stage.ahead_ms, stage.release_ms)
        case TransientStage():
            return dynamics.transient_gain_db(heard, rate, stage.attack_db, stage.sustain_db)
    return None


def _under_its_gain(x: Array, stage: Any, rate: int, whole: int) -> Array:
    gain = stage_gain_db(x, stage, rate, whole)
    return under_gain(x, gain) if gain is not None and gain.any() else x


def _compressor(x: Array, stage: CompressorStage, rate: int, whole: int) -> Array:
    if is_off(stage, "mix") or is_off(stage, "ratio", "makeup_db"):
        return x
    held = _under_its_gain(x, stage, rate, whole)
    return held if stage.mix == 1 else x + stage.mix * (held - x)


def _bands(x: Array, stage: BandsStage, rate: int, _: float) -> Array:
    if is_off(stage, "mix"):
        return x
    low = each_channel(x, lambda channel: lowpart.band(channel, 20.0, stage.low_hz, rate))
    high = each_channel(x, lambda channel: lowpart.band(channel, stage.high_hz, 20000.0, rate))
    out = x.copy()
    # Only what a band changes is added: one that does nothing leaves the sound as it is.
    for name, piece in (("low", low), ("mid", x - low - high), ("high", high)):
        own: Callable[[str], float] = lambda field, name=name: getattr(stage, f"{name}_{field}")  # type: ignore[misc] # noqa: E731
        gain_db = own("gain_db") + dynamics.both_ways_gain_db(
            heard_peak(piece), rate, own("above_db"), own("down"), own("below_db"), own("up"),
            stage.most_up_db, stage.attack_ms, stage.release_ms,
        )  # fmt: skip
        out += stage.mix * (under_gain(piece, gain_db) - piece)
    return np.asarray(out)


def _resonator(x: Array, stage: ResonatorStage, rate: int, _: float) -> Array:
    if is_off(stage, "mix_db"):
        return x

    def ringing(hz: float) -> Array:
        return resonator.response(stage.kind, hz, stage.decay_ms, stage.damping, rate)

    response = 10 ** (stage.mix_db / 20) * ringing(stage.tune_hz)
    if not is_off(stage, "second_db"):
        hz = stage.tune_hz * 2 ** (stage.second_semitones / 12)
        response = response + 10 ** ((stage.mix_db + stage.second_db) / 20) * ringing(hz)

    def around(channel: Array) -> Array:
        struck = channel
        if not is_off(stage, "low_cut_hz"):
            struck = filters.filtered(channel, filters.steep("highpass", stage.low_cut_hz, 12, rate))
        wet = space.convolved(struck, response)
        wet[: channel.size] += channel
        return wet

    return each_channel(x, around)


def _clip(x: Array, stage: ClipStage, _: int, __: float) -> Array:
    return each_channel(x, lambda channel: dynamics.ceiling(channel, stage.ceiling_db, stage.softness))


def _space(x: Array, stage: SpaceStage, rate: int, _: float) -> Array:
    if is_off(stage, "mix_db"):
        return x
    predelay = round(stage.predelay_ms / 1000 * rate)
    gain = 10 ** (stage.mix_db / 20)

    def room(seed: int) -> Array:
        return space.impulse_response(
            stage.kind, stage.decay_ms, stage.damping_hz, stage.low_cut_hz, seed, rate
        )

    def around(channel: Array, response: Array) -> Array:
        wet = space.delayed(space.convolved(channel, response), predelay)
        wet *= gain
        wet[: channel.size] += channel
        return wet

    middle = room(stage.seed)
    if is_off(stage, "width"):
        return each_channel(x, lambda channel: around(channel, middle))
    # Two responses that share the middle and differ by the width; their energy stays 1.
    sides = room(stage.seed + 1)
    share, rest = np.sin(stage.width * np.pi / 4), np.cos(stage.width * np.pi / 4)
    channels = (x, x) if x.ndim == 1 else (x[:, 0], x[:, 1])
    return np.stack(
        [
            around(np.ascontiguousarray(channel), rest * middle + sign * share * sides)
            for channel, sign in zip(channels, (1, -1), strict=True)
        ],
        axis=1,
    )


def _delay(x: Array, stage: DelayStage, rate: int, bpm: float) -> Array:
    if is_off(stage, "mix_db"):
        return x
    spacing_s = note_value_ms(stage.time, bpm) / 1000
    band = (stage.highpass_hz, stage.lowpass_hz)
    return each_channel(
        x, lambda channel: space.repeats(channel, spacing_s, stage.mix_db, stage.feedback, band, rate)
    )


def _grains(x: Array, stage: GrainStage, rate: int, _: float) -> Array:
    return each_channel(
        x, lambda c: grains.stretch(c, stage.stretch, stage.grain_ms, stage.jitter, stage.seed, rate)
    )


def _level(x: Array, stage: LevelStage, rate: int, whole: int) -> Array:
    gain = 10 ** (stage.gain_db / 20)
    if stage.target == "peak":
        gain *= 10 ** ((stage.target_db - levels.peak_dbfs(x[:whole])) / 20)
    elif stage.target == "loudness":
        gain *= 10 ** ((stage.target_db - levels.momentary_max_lufs(x[:whole], rate)) / 20)
    # Nothing that is nearly silent is brought up by more than 60 dB.
    gain = min(gain, 1000.0)
    return panned(x * (-gain if stage.polarity == "inverted" else gain), stage.pan)


_PROCESS: dict[str, Callable[[Array, Any, int, float], Array]] = {
    "trim": _trim, "envelope": _envelope, "equaliser": _equaliser, "bands": _bands, "clip": _clip,
    "resonator": _resonator, "space": _space, "delay": _delay, "grains": _grains,
}  # fmt: skip
# What these do depends on a peak or a loudness of the whole sound.
_OF_THE_WHOLE: dict[str, Callable[[Array, Any, int, int], Array]] = {
    "drive": _drive, "level": _level, "compressor": _compressor,
    **dict.fromkeys(("gate", "leveller", "limit", "transient"), _under_its_gain),
}  # fmt: skip


def apply_stage(x: Array, stage: Any, rate: int, bpm: float, whole: int | None = None) -> Array:
    """`x`, shape (frames,) or (frames, 2), through one stage; a bypassed one changes nothing.

    Stages with a space, repeats or grains may give more frames than they got, and panning or
    width two channels where there was one. `whole` is how many of the first frames a stage takes for the
    whole sound where it goes by its peak or its loudness; all of them unless said.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels).
    stage, rate
        The settings of the stage; frames a second.
    bpm, whole
        Tempo; frames of one pass where it goes round.

    Returns
    -------
    ndarray
        Samples.

    Examples
    --------
    >>> from juglant.core.recipes.chain import LevelStage
    >>> round(float(apply_stage(np.ones(4), LevelStage(gain_db=-6.0), 48000, 120.0)[0]), 2)
    0.5
    """
    if stage.bypass:
        return x
    if stage.stage in _OF_THE_WHOLE:
        return _OF_THE_WHOLE[stage.stage](x, stage, rate, whole or x.shape[0])
    return _PROCESS[stage.stage](x, stage, rate, bpm)
