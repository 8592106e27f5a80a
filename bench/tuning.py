"""Measuring 64 hits and proposing where each could go."""

import time

import numpy as np

from bench.corpus import corpus
from bench.figures import figure, part
from juglant.core.lowend import pitches
from juglant.core.lowend.session import Session
from juglant.core.recipes.hit import Hit, Imported
from juglant.core.recipes.track import TrackState

_HITS = 64


def main(count: int = 3) -> None:
    """Print how long it takes for sounds that were never heard before."""
    cases = corpus(_HITS, seed=5)
    took = []
    for turn in range(count):
        sounds = {f"{turn:032x}{n:032x}": case for n, case in enumerate(cases)}
        session = Session(lambda digest, sounds=sounds: (sounds[digest].samples, sounds[digest].rate))  # type: ignore[misc]
        hits = [
            Hit.of(Imported(audio=digest, name="one"), name=f"one {n}") for n, digest in enumerate(sounds)
        ]
        # A track holds a kick and 24 others: the rest follow in tracks of their own.
        states = [
            TrackState.of(kick=hits[first], hits=tuple(hits[first + 1 : first + 25]))
            for first in range(0, _HITS, 25)
        ]
        start = time.perf_counter()
        rows = sum(len(pitches.table(session, state)) for state in states)
        took.append(time.perf_counter() - start)
        assert rows == _HITS
    part(f"Measuring {_HITS} hits and proposing for each, decoded but never heard")
    figure("all of them", np.median(took), "s", 1.5)
