"""Kick and bass solved as a whole, beside the findings' fixes taken one after the other."""

import time
from collections.abc import Iterable, Iterator

import numpy as np

from bench.faults import FAULTS, faulty
from bench.figures import figure, part
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


def _scored(title: str, cases: Iterable[tuple[Session, TrackState]], asked_s: float | None) -> None:
    """Print how many findings are closed, how often with no more change, and how long it takes."""
    closable = closed = less = 0
    took = []
    for session, state in cases:
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
    part(title)
    share = 100 * closed / max(closable, 1)
    figure(f"closed, of {closable} findings that can be", share, "%", 100 * ASKED_CLOSED, at_least=True)
    figure("no more change than fix by fix", 100 * less / len(took), "%", 100 * ASKED_LESS, at_least=True)
    figure("time, median", np.median(took), "s")
    figure("time, longest", max(took), "s", asked_s)


def _whole(count: int) -> Iterator[tuple[Session, TrackState]]:
    """Whole tracks, each with a fault of its low end."""
    ids = ("collision", "sub-", "off-key-kick", "kick-out", "cancels", "duck-", "tail-spill", "mix-peak")
    faults = [fault for fault in FAULTS if any(one.startswith(ids) for one in fault[1])]
    for n in range(count):
        track = faulty(faults[n % len(faults)], n)
        yield Session(track.load), track.state


def main(count: int = 100, whole: int = 20) -> None:
    """Pairs of kick and bass, and whole tracks."""
    rng = np.random.default_rng(11)
    pairs = (pair(rng, n) for n in range(count))
    _scored(f"The low end solved as a whole: {count} pairs of two bars", pairs, ASKED_S)
    _scored(f"The low end solved as a whole: {whole} whole tracks, of up to four bars", _whole(whole), None)


if __name__ == "__main__":
    main()
