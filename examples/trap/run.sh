#!/bin/sh
# Trap: an 808 that owns the sub, and a kick that fills it too.
# Another kick is designed for the 808, the second of five is taken, and the rest is solved around it.
set -e
here=$(dirname "$0")
out=${1:-trap}
juglant check "$here/track.json"
juglant design "$here/track.json" --for kick --length 0.3 --click 0.7 -o "$out/designed"
juglant solve-track "$out/designed/2.json" -o "$out/solved.json"
juglant check "$out/solved.json"
juglant hand-over "$out/solved.json" -o "$out/handed"
