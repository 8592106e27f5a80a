"""`make bench`: every number that is promised, measured on this machine."""

from bench import ducking, hits, loops, page, pitch, separate, speed, tuning

speed.calls()
speed.start()
page.main()
hits.main()
tuning.main()
loops.main()
ducking.main()
separate.main()
pitch.main()
