"""`make bench`: every number that is promised, measured on this machine."""

from bench import ducking, page, pitch, speed

speed.calls()
speed.start()
page.main()
ducking.main()
pitch.main()
