"""The equaliser of a hit: cookbook sections, run as a circuit would or without shifting phase."""

import numpy as np
from numpy.typing import NDArray
from scipy import fft

from juglant.core.process import filters
from juglant.core.recipes.chain import EqualiserStage

Array = NDArray[np.float64]

_SHELF_Q = float(np.sqrt(0.5))
# What a linear-phase filter rings, to either side, is gone within this time.
_RING_S = 0.25


def sections(stage: EqualiserStage, rate: int) -> Array:
    """The stage as second-order sections, shape (sections, 6); none where it is neutral.

    Parameters
    ----------
    stage, rate
        The settings of the stage; frames a second.

    Returns
    -------
    ndarray
        Shape (sections, 6).

    Examples
    --------
    >>> sections(EqualiserStage(bell_hz=100.0, bell_db=6.0), 48000).shape
    (1, 6)
    """
    out = []
    if stage.highpass_hz > 20.0:
        out.append(filters.steep("highpass", stage.highpass_hz, int(stage.highpass_slope), rate))
    for kind, hz, q, gain in (
        ("low shelf", stage.low_shelf_hz, _SHELF_Q, stage.low_shelf_db),
        ("bell", stage.bell_hz, stage.bell_q, stage.bell_db),
        ("bell", stage.second_hz, stage.second_q, stage.second_db),
        ("high shelf", stage.high_shelf_hz, _SHELF_Q, stage.high_shelf_db),
    ):
        if gain != 0.0:
            out.append(filters.cookbook(kind, hz, q, rate, gain))
    if stage.lowpass_hz < 20000.0:
        out.append(filters.steep("lowpass", stage.lowpass_hz, int(stage.lowpass_slope), rate))
    return np.vstack(out) if out else np.zeros((0, 6))


def gain_db(stage: EqualiserStage, hz: Array, rate: int) -> Array:
    """Magnitude response in dB at the given frequencies.

    Parameters
    ----------
    stage
        The settings of the stage.
    hz, rate
        Frequencies in Hz; frames a second.

    Returns
    -------
    ndarray
        dB, shape of `hz`.

    Examples
    --------
    >>> stage = EqualiserStage(bell_hz=100.0, bell_db=6.0)
    >>> gain_db(stage, np.array([100.0, 5000.0]), 48000).round(1)
    array([6., 0.])
    """
    found = sections(stage, rate)
    if not found.size:
        return np.zeros(hz.size)
    return np.asarray(20 * np.log10(np.maximum(np.abs(filters.response(found, hz, rate)), 1e-9)))


def equalise(x: Array, stage: EqualiserStage, rate: int) -> Array:
    """`x`, shape (frames,), through the stage.

    With linear phase the same magnitudes are applied to the spectrum; what would ring before
    the first frame is lost.

    Parameters
    ----------
    x
        Samples, shape (frames,).
    stage, rate
        The settings of the stage; frames a second.

    Returns
    -------
    ndarray
        Shape (frames,).

    Examples
    --------
    >>> x = np.ones(10)
    >>> equalise(x, EqualiserStage(), 48000) is x
    True
    """
    found = sections(stage, rate)
    if not found.size:
        return x
    if stage.phase == "minimum":
        return filters.filtered(x, found)
    margin = round(_RING_S * rate)
    size = fft.next_fast_len(x.size + 2 * margin, real=True)
    padded = np.concatenate([np.zeros(margin), x, np.zeros(size - margin - x.size)])
    response = filters.response(found, np.arange(size // 2 + 1) * rate / size, rate)
    return np.asarray(fft.irfft(fft.rfft(padded) * np.abs(response), size)[margin : margin + x.size])
