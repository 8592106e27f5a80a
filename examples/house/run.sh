#!/bin/sh
# House: a long kick that owns the sub, a bass on the off-beats, chords that move in the break.
# What is wrong, the whole solved in both sections, what is left, and everything handed over.
set -e
here=$(dirname "$0")
out=${1:-house}
juglant check "$here/track.json"
juglant solve-track "$here/track.json" -o "$out/solved.json"
juglant check "$out/solved.json"
juglant hand-over "$out/solved.json" -o "$out/handed"
