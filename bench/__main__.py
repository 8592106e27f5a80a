"""`make bench`: every number that is promised, measured on this machine."""

from bench import (
    abandoned,
    designing,
    drumloops,
    ducking,
    heard,
    hits,
    judging,
    lines,
    loops,
    matching,
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

speed.calls()
speed.parts()
speed.start()
page.main()
heard.main()
abandoned.main()
hits.main()
takes.main()
tuning.main()
loops.main()
lines.main()
drumloops.main()
ducking.main()
verdicts.main()
stock.main()
judging.main()
solving.main()
designing.main()
matching.main()
separate.main()
pitch.main()
rooms.main()
