"""`make bench`: every number that is promised, measured on this machine, and a report of them in a folder.

With names of parts, as `verdicts solving`, only these; `mutations` takes an hour, and is run by name alone.
"""

import sys
from collections.abc import Callable
from pathlib import Path

from bench import (
    abandoned,
    chords,
    designing,
    drumloops,
    ducking,
    fuzz,
    heard,
    held,
    hits,
    judging,
    kills,
    lines,
    loops,
    matching,
    mutations,
    page,
    pitch,
    rooms,
    separate,
    solving,
    speed,
    stock,
    takes,
    tuning,
    verdicts,
)
from bench.figures import report

_FOLDER = Path(".setup/bench")
_PARTS: dict[str, tuple[Callable[[], None], ...]] = {
    "speed": (speed.calls, speed.parts, speed.start),
    **{
        module.__name__.removeprefix("bench."): (module.main,)
        for module in (
            page, heard, abandoned, fuzz, kills, hits, takes, tuning, loops, lines, chords, drumloops,
            ducking, verdicts, stock, judging, held, solving, designing, matching, separate, pitch, rooms,
        )
    },
}  # fmt: skip
_BY_NAME = {"mutations": (mutations.main,)}

wanted = sys.argv[1:] or list(_PARTS)
known = {**_PARTS, **_BY_NAME}
unknown = [name for name in wanted if name not in known]
if unknown:
    sys.exit(f"There is no part {unknown[0]!r}: there are {', '.join(known)}.")
for name in wanted:
    for measured in known[name]:
        measured()
    # Written as it goes: what breaks off later loses nothing.
    report(_FOLDER)
print(f"{_FOLDER}/bench.txt, {_FOLDER}/bench.html")
