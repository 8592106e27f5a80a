"""Curves as CSV."""

import csv
import io

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


def curve_csv(gain_db: Array, rate: int, step_ms: float = 1.0) -> str:
    """`time_ms,gain_db` every `step_ms`, the last moment included."""
    at_ms = np.arange(0.0, gain_db.size / rate * 1000, step_ms)
    gains = np.interp(at_ms / 1000 * rate, np.arange(gain_db.size), gain_db)
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["time_ms", "gain_db"])
    writer.writerows((f"{t:.3f}", f"{g + 0.0:.3f}") for t, g in zip(at_ms, gains, strict=True))
    return out.getvalue()
