#!/bin/sh
# Techno: a rumble made from the kick, which must leave the kick alone.
# Solved with the hat locked, and handed over.
set -e
here=$(dirname "$0")
out=${1:-techno}
juglant check "$here/track.json"
juglant solve-track "$here/track.json" --lock Hat -o "$out/solved.json"
juglant check "$out/solved.json"
juglant hand-over "$out/solved.json" -o "$out/handed"
