"""When everything in the loop is played, in ms from its start."""

from dataclasses import dataclass
from typing import NamedTuple

from juglant.core.lowend.loop import TOGETHER_MS
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.hit import Hit
from juglant.core.recipes.notes import HitStep
from juglant.core.recipes.track import TrackState
from juglant.core.synth.bass import notes, repeated
from juglant.core.tempo import beat_ms, swung

# Beside what a state works out itself, and forgotten with it where a copy is changed.
_WORKED_OUT = "line of"


class Stroke(NamedTuple):
    """One stroke of a hit."""

    at_ms: float
    velocity: float


@dataclass(frozen=True)
class Line:
    """Strokes of every hit and notes of every line that is heard, by the ids of these parts.

    `chokes` names the choke group of each part that is played.
    """

    strokes: dict[str, list[Stroke]]
    notes_ms: dict[str, list[float]]
    chokes: dict[str, str]

    def starts(self, part: str) -> list[float]:
        """When a part begins to sound."""
        return [stroke.at_ms for stroke in self.strokes.get(part, [])] or self.notes_ms.get(part, [])

    def against(self, part: str) -> list[float]:
        """When others of a part's choke group begin; none where it is in no group."""
        group = self.chokes.get(part, "none")
        if group == "none":
            return []
        others = [other for other, theirs in self.chokes.items() if theirs == group and other != part]
        return sorted(at for other in others for at in self.starts(other))

    def cuts(self, part: str, length_ms: float) -> list[tuple[float, str]]:
        """Where a part is cut off by others of its choke group: when, and by whom, in order.

        Of several that begin after it, the first one cuts.
        """
        own, group = self.starts(part), self.chokes.get(part, "none")
        others = [
            (at, other) for other, theirs in self.chokes.items()
            if group != "none" and theirs == group and other != part for at in self.starts(other)
        ]  # fmt: skip
        found = set()
        for start in own:
            after = [((at - start) % length_ms, at, other) for at, other in others]
            wait, at, other = min(after, default=(0.0, 0.0, ""), key=lambda one: one[0])
            following = min((next_ - start) % length_ms or length_ms for next_ in own)
            if TOGETHER_MS < wait < following - TOGETHER_MS:
                found.add((at, other))
        return sorted(found, key=lambda one: one[0])


def placed(hit: Hit, brief: Brief) -> list[tuple[HitStep, Stroke]]:
    """Every stroke of a hit in the loop, under its swing, with the step that it comes from.

    Parameters
    ----------
    hit, brief
        The hit; key, tempo and chords.

    Returns
    -------
    list of tuple
        Step and stroke.

    Examples
    --------
    >>> from juglant.core.recipes.track import TrackState
    >>> state = TrackState()
    >>> len(placed(state.kick, state.brief))
    8
    """
    beat, end = beat_ms(brief.bpm), 4.0 * brief.bars
    return [
        (step, Stroke(swung(4 * first + step.at, brief.swing_of(hit)) * beat, step.velocity))
        for first, step in repeated(hit.steps, hit.bars, brief.bars)
        if 4 * first + step.at < end
    ]


def strokes_of(hit: Hit, brief: Brief) -> list[Stroke]:
    """Every stroke of a hit in the loop.

    Parameters
    ----------
    hit, brief
        The hit; key, tempo and chords.

    Returns
    -------
    list of Stroke
        In their order.

    Examples
    --------
    >>> from juglant.core.recipes.track import TrackState
    >>> state = TrackState()
    >>> strokes_of(state.kick, state.brief)[0].at_ms
    0.0
    """
    return [stroke for _, stroke in placed(hit, brief)]


def line_of(state: TrackState) -> Line:
    """Everything that a state plays in one pass of the loop: worked out once, for it never changes.

    Parameters
    ----------
    state
        The track.

    Returns
    -------
    Line
        Strokes, notes and chokes.

    Examples
    --------
    >>> from juglant.core.recipes.track import TrackState
    >>> line_of(TrackState()).starts("kick")[0]
    0.0
    """
    found = state.__dict__.get(_WORKED_OUT)
    if found is None:
        found = state.__dict__[_WORKED_OUT] = _line(state)
    return found


def _line(state: TrackState) -> Line:
    brief = state.brief
    strokes = {hit.id: strokes_of(hit, brief) for hit in state.all_hits if hit.steps and not hit.mute}
    chokes: dict[str, str] = {hit.id: hit.choke for hit in state.all_hits if hit.id in strokes}
    played: dict[str, list[float]] = {}
    for voice in state.heard:
        if voice.line is not None:
            played[voice.id] = [note.start_ms for note in notes(voice.line, brief)]
            chokes[voice.id] = voice.line.choke
    return Line(strokes, played, chokes)
