"""Kick and bass solved as a whole, beside the findings' fixes taken one after the other."""

import time

import numpy as np

from bench.tracks import hz_of, kick, line
from juglant.cli.lowend import loaded
from juglant.core.findings import findings
from juglant.core.findings.judge import effect, fixes
from juglant.core.findings.solving import STEPS, change, solve
from juglant.core.lowend.session import Session
from juglant.core.recipes.track import TrackState
from juglant.files.audio import Audio

RATE = 48_000
_KINDS = ("sub", "saw", "pluck", "808", "fingered", "synthetic 1")
ASKED_CLOSED, ASKED_LESS, ASKED_S = 0.95, 0.9, 6.0


def pair(rng: np.random.Generator, n: int) -> tuple[Session, TrackState]:
    """A kick and a bass of a kind, a tempo and lengths at random; the kick on no note of the key."""
    bpm, root = 115 + 30 * rng.random(), int(rng.integers(28, 37))
    kind = _KINDS[n % len(_KINDS)]
    long = rng.random() < 0.5
    places = [(float(at), 3.8 if long else 0.95) for at in range(0, 8, 4 if long else 1)]
    if not long and rng.random() < 0.5:
        places = [(at + 0.5, 0.45) for at, _ in places]
    notes = [(at, length, root + int(rng.choice((0, 0, 7, -5)))) for at, length in places]
    bass = line(notes, bpm, 2, kind, 0.3 + 0.3 * rng.random())
    hit = kick(hz_of(root) * 2 ** ((rng.random() - 0.5) / 6), 120 * 5 ** rng.random())
    names = ("C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B")
    brief = {"bpm": round(bpm, 1), "tonic": names[root % 12], "mode": "minor"}
    return loaded(Audio(hit, RATE, "WAV"), Audio(bass, RATE, "WAV"), brief, (1.0, 2.0, 3.0, 4.0))


def _one_by_one(session: Session, state: TrackState) -> TrackState:
    """Always the first fix of the first finding that has one."""
    for _ in range(8):
        answer = session.answer(state)
        for one in findings(session, answer):
            ways = fixes(session, answer, one.id) if one.step in STEPS else []
            if ways:
                state = effect(session, answer, one.id, ways[0].way).state
                break
        else:
            break
    return state


def _open(session: Session, state: TrackState) -> list[str]:
    return [one.id for one in findings(session, session.answer(state)) if one.step in STEPS]


def main(count: int = 24) -> None:
    """Print how many findings are closed, how often with no more change, and how long it takes."""
    rng = np.random.default_rng(11)
    closable = closed = less = 0
    took = []
    for n in range(count):
        session, state = pair(rng, n)
        begin = time.perf_counter()
        found = solve(session, state)
        took.append(time.perf_counter() - begin)
        other = _one_by_one(session, state)
        answer = session.answer(found.best.state)
        left = set(found.best.left)
        # What is left and could yet be closed.
        could = {id for id in left if any(one.closes for one in fixes(session, answer, id))}
        was = set(_open(session, state))
        closable += len(was - left) + len(could)
        closed += len(was - left)
        by = change(session.answer(state), session.answer(other))
        less += (len(left), found.best.change) <= (len(_open(session, other)), by + 0.01)
    share = 100 * closed / max(closable, 1)
    print(f"solve: of {closable} findings that can be closed {share:.0f} % are ({100 * ASKED_CLOSED:.0f})")
    print(f"solve: no more change than one by one for {less} of {count} ({100 * ASKED_LESS:.0f} % asked)")
    middle, longest = np.median(took), max(took)
    print(f"solve, two bars: median {middle:.1f} s, longest {longest:.1f} s ({ASKED_S:.0f} asked)")


if __name__ == "__main__":
    main()
