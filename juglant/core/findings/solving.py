"""The low end solved as a whole: of all ways through the fixes of its findings, the one that changes least.

Every fix was measured before it is offered: none opens another finding, none empties the sub. A best-first
search (Dechter & Pearl, "Generalized best-first search strategies", JACM 32, 1985) goes through states by
what was changed, and what each open finding will at least change yet.
"""

import heapq
import itertools
from collections.abc import Callable, Set
from dataclasses import dataclass
from functools import partial

import numpy as np

from juglant.core.findings.judge import effect, findings, fixes
from juglant.core.findings.verdict import Finding
from juglant.core.lowend.session import Answer, Session
from juglant.core.measure.loopsound import LoopSound
from juglant.core.recipes.sections import Track
from juglant.core.recipes.track import TrackState

# What is solved, inside the school that the brief names: that is the producer’s to change.
STEPS = ("tune", "separate", "duck", "line", "hits")
_BANDS_HZ = 25.0 * 2 ** (np.arange(17) / 3)
# No more states than these are looked at, and no more fixes follow each other.
MOST_STATES, _MOST_STEPS = 24, 8
# What closing a finding that is open yet is taken to change at least, in dB: it leads the search.
_EACH = 0.2


@dataclass(frozen=True)
class Step:
    """One fix that was taken: for which finding, its number before and after, and what it changed."""

    finding: str
    way: str
    label: str
    measure: str
    unit: str
    before: float
    after: float | None
    limit: float
    change: float
    closed: tuple[str, ...]


@dataclass(frozen=True)
class Degree:
    """A state on the way, from barely touched to as clear as can be: steps so far, what is still beyond its
    limit, and how much is changed in all.
    """

    state: TrackState
    steps: tuple[Step, ...]
    left: tuple[str, ...]
    change: float


@dataclass(frozen=True)
class Solution:
    """The degrees, the first of which is the state as it was, and how many states were looked at."""

    degrees: tuple[Degree, ...]
    looked_at: int

    @property
    def best(self) -> Degree:
        """The clearest of them."""
        return self.degrees[-1]


def _bands_db(loop: LoopSound) -> np.ndarray:
    energies = loop.spectrum.energies(_BANDS_HZ[:-1], _BANDS_HZ[1:])
    return 10 * np.log10(np.maximum(energies, 1e-14))


def change(before: Answer, after: Answer) -> float:
    """How much was done to kick and bass: the energy-weighted change of their third octaves in dB, and what
    the ducking takes from the loudness in LU.

    Parameters
    ----------
    before
        As it was.
    after
        As it is.

    Returns
    -------
    float
        dB and LU together.

    Examples
    --------
    >>> session = Session()
    >>> answer = session.answer(TrackState())
    >>> change(answer, answer)
    0.0
    """
    total = 0.0
    for was, is_ in ((before.kick_loop, after.kick_loop), (before.bass_loop, after.bass_loop)):
        old, new = _bands_db(was), _bands_db(is_)
        weight = 10 ** (old / 10)
        total += float(np.sum(weight * np.abs(new - old)) / max(float(weight.sum()), 1e-14))
    ducked = (before.mix_before.lufs - before.mix_after.lufs, after.mix_before.lufs - after.mix_after.lufs)
    return total + max(0.0, ducked[1] - ducked[0])


def _locked(state: TrackState, other: TrackState, locks: Set[str], fields: Set[str]) -> bool:
    """Whether a state changes what is to stay: a part’s sound, its level, what it gives up, a field."""
    if any(getattr(state, name) != getattr(other, name) for name in fields):
        return True
    for id in locks:
        one, two = state.part(id), other.part(id)
        if one != two:
            return True
        side = "kick" if id == state.kick.id else "bass"
        if getattr(state.separate, side) != getattr(other.separate, side):
            return True
    return False


def _open(session: Session, state: TrackState) -> list[Finding]:
    return [one for one in findings(session, session.answer(state)) if one.step in STEPS]


@dataclass(frozen=True)
class _Node:
    state: TrackState
    steps: tuple[Step, ...]
    open: tuple[Finding, ...]
    change: float
    before: "_Node | None" = None


def solve(
    session: Session,
    state: TrackState,
    locks: Set[str] = frozenset(),
    without: Set[tuple[str, str]] = frozenset(),
    told: Callable[[int, int], bool] = lambda looked, left: True,
    fields: Set[str] = frozenset(),
) -> Solution:
    """The least that closes every finding of a low end that can be closed.

    `locks` are ids of parts that stay as they are, `fields` are fields of the state that do, `without`
    steps that are left out, each a finding and a way. `told` hears how many states were looked at and how
    many findings the best leaves; it stops the search with False. The same question gives the same answer.

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.
    locks
        Ids of parts that stay.
    without
        Steps that are left out.
    told
        Hears how far it is, and stops with False.
    fields
        Fields that stay.

    Returns
    -------
    Solution
        Its degrees.

    Examples
    --------
    >>> type(solve(Session(), TrackState())).__name__
    'Solution'
    """
    start = session.answer(state)
    root = _Node(state, (), tuple(_open(session, state)), 0.0)
    order = itertools.count()
    queue: list[tuple[float, int, _Node]] = [(0.0, next(order), root)]
    best, seen, looked = root, {state.text}, 0
    while queue and looked < MOST_STATES:
        _, _, node = heapq.heappop(queue)
        looked += 1
        if (len(node.open), node.change) < (len(best.open), best.change):
            best = node
        if not told(looked, len(best.open)) or not node.open:
            # They come by what was changed: the first that leaves nothing open is the least changed.
            break
        if len(node.steps) >= _MOST_STEPS:
            continue
        answer = session.answer(node.state)
        for finding in node.open:
            offered = [
                one for one in fixes(session, answer, finding.id) if (finding.id, one.way) not in without
            ]
            for one in offered:
                done = effect(session, answer, finding.id, one.way)
                if done.state.text in seen or _locked(state, done.state, locks, fields):
                    continue
                seen.add(done.state.text)
                after = session.answer(done.state)
                opened = tuple(_open(session, done.state))
                by = change(start, after)
                step = Step(
                    finding.id, one.way, one.label, finding.measure, finding.unit, done.before, done.after,
                    finding.limit, round(by - node.change, 3), tuple(done.closes),
                )  # fmt: skip
                made = _Node(done.state, (*node.steps, step), opened, by, node)
                heapq.heappush(queue, (by + _EACH * len(opened), next(order), made))
            if offered:
                # In the order of the school: the others are mended after the first that can be.
                break
    path: list[_Node] = []
    at: _Node | None = best
    while at is not None:
        path.append(at)
        at = at.before
    degrees = tuple(
        Degree(one.state, one.steps, tuple(finding.id for finding in one.open), round(one.change, 3))
        for one in reversed(path)
    )
    return Solution(degrees, looked)


# What holds in every section alike: it is solved in main, and stays as it is in the others.
_EVERYWHERE = frozenset({"brief", "separate"})


def solve_sections(
    session: Session,
    track: Track,
    locks: Set[str] = frozenset(),
    told: Callable[[str, int, int], bool] = lambda section, looked, left: True,
) -> tuple[Track, dict[str, Solution]]:
    """Every section of a track solved: main first, which the others follow, then what is left in each of
    them, as a difference there. The track then, and the solutions by the sections' ids.

    `told` hears the section and what `solve` tells; with False the search ends, and what was solved so far
    comes back.

    Parameters
    ----------
    session, track
        Renders and keeps what was asked for; the track with its sections.
    locks
        Ids of parts that stay.
    told
        Hears how far it is, and stops with False.

    Returns
    -------
    tuple
        The track, and what was found in each.

    Examples
    --------
    >>> track, found = solve_sections(Session(), Track())
    >>> sorted(found)
    ['main']
    """
    solutions: dict[str, Solution] = {}
    going = True

    def heard(section: str, looked: int, left: int) -> bool:
        nonlocal going
        going = told(section, looked, left)
        return going

    for section in sorted(track.sections, key=lambda one: one.id != track.main):
        fields = frozenset[str]() if section.id == track.main else _EVERYWHERE
        found = solve(session, track.at(section.id), locks, told=partial(heard, section.id), fields=fields)
        solutions[section.id] = found
        if found.best.steps:
            track = track.with_state(section.id, found.best.state)
        if not going:
            break
    return track, solutions
