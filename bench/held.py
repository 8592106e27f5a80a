"""Clean tracks held against their own loops as records: softer at another rate, and begun off the bar."""

import numpy as np
from numpy.typing import NDArray

from bench.drumloops import met
from bench.figures import figure, part
from bench.tracks import GENRES, clean
from juglant.core import RATE
from juglant.core.hits.chain import each_channel
from juglant.core.lowend.line import line_of
from juglant.core.lowend.session import Session
from juglant.core.measure.record import kicks_in, record
from juglant.core.measure.stereo import listening_channel
from juglant.core.process.resampling import change_rate
from juglant.core.referencing.against import against, track_record
from juglant.core.rooms.judged import everything

Array = NDArray[np.float64]
_TRACKS, _SEED, _LEAST_S, _LATE_MS, _NEAR_MS = 16, 100, 24.0, 370.0, 30.0


def _as_records(loop: Array) -> list[tuple[Array, int, float]]:
    """The loop gone round for half a minute: samples, their rate, and by how many ms it begins later."""
    turns = int(np.ceil(_LEAST_S * RATE / loop.shape[0]))
    long = np.concatenate([loop] * turns)
    softer = each_channel(0.63 * long, lambda side: change_rate(side, RATE, 44_100))
    return [(softer, 44_100, 0.0), (0.8 * long[round(_LATE_MS / 1000 * RATE) :], RATE, _LATE_MS)]


def main() -> None:
    """Print everything."""
    part("Clean tracks held against their own loops as records")
    alike = found = there = false = 0
    for n in range(_TRACKS):
        track = clean(GENRES[n % len(GENRES)], _SEED + n)
        session, state = Session(track.load), track.state
        mine, loop = track_record(session, state), everything(session, state).samples
        for x, rate, late_ms in _as_records(loop):
            length_ms, turn_ms = x.shape[0] / rate * 1000, loop.shape[0] / RATE * 1000
            struck = [
                at
                for turn in range(int(length_ms / turn_ms) + 2)
                for one in line_of(state).starts(state.kick.id)
                if 0.0 <= (at := one + turn * turn_ms - late_ms) < length_ms - 50.0
            ]
            told = record(x, rate)
            alike += not against(mine, [told])
            right, wrong = met(
                struck, kicks_in(listening_channel(x), rate, told.bpm or state.brief.bpm), _NEAR_MS
            )
            there, found, false = there + len(struck), found + right, false + wrong
    figure(f"said to be no different, of {2 * _TRACKS}", 50 * alike / _TRACKS, "%", 90, at_least=True)
    figure(f"kicks found in them, of {there}", 100 * found / there, "%", 90, at_least=True)
    figure("kicks said that are none", 100 * false / max(found + false, 1), "%", 10)


if __name__ == "__main__":
    main()
