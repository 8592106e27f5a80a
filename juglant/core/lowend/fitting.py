"""Notes from elsewhere laid on the track's bars as a line above its chord roots."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

import numpy as np

from juglant.core.errors import UserError
from juglant.core.music import pitch_class
from juglant.core.recipes.bass import MOST_NOTES
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.hit import MOST_STEPS, Hit
from juglant.core.recipes.notes import MOST_BARS, HitStep, Note, on_pulse
from juglant.core.tempo import beat_ms

# A second sixteenth that lies this near to where it belongs is taken to be played straight.
_STRAIGHT_PERCENT, _MOST_SWING = 1.0, 75.0
_OCTAVES = range(4)
# No hand strikes twice within this.
_ONE_STROKE_MS = 30.0


class Given(Protocol):
    """A note as a file gives it: beats from the start, length, MIDI number, velocity from 0 to 1."""

    @property
    def at(self) -> float: ...  # noqa: D102
    @property
    def beats(self) -> float: ...  # noqa: D102
    @property
    def midi(self) -> int: ...  # noqa: D102
    @property
    def velocity(self) -> float: ...  # noqa: D102


@dataclass(frozen=True)
class Fitted:
    """A line's pattern, and what had to be changed to make it one."""

    octave: int
    bars: int
    swing_percent: float
    pattern: tuple[Note, ...]
    said: list[str]


def swing_of(places: Sequence[float]) -> float:
    """The swing, in percent, that places in beats were played with; 50 where there is none.

    Only what lies between a second sixteenth and its latest swung place counts, and only where
    all of it agrees: otherwise it is no swing, but notes where they were meant.

    Parameters
    ----------
    places
        In beats.

    Returns
    -------
    float
        50 to 75.

    Examples
    --------
    >>> swing_of([0.0, 0.25, 0.5, 0.75])
    50.0
    """
    parts = [at % 0.5 for at in places]
    late = [part for part in parts if 0.25 - 0.005 <= part <= _MOST_SWING / 200 + 0.005]
    on_eighths = sum(1 for part in parts if part < 0.005 or part > 0.495)
    if not late or on_eighths + len(late) < len(parts):
        return 50.0
    middle = float(np.median(late))
    if max(abs(part - middle) for part in late) > 0.005:
        return 50.0
    swing = round(middle * 400) / 2
    return swing if swing - 50.0 >= _STRAIGHT_PERCENT else 50.0


def _straight(at: float, swing_percent: float) -> float:
    """A place before the swing; what is no second sixteenth stays."""
    part = at % 0.5
    if swing_percent > 50.0 and abs(part - swing_percent / 200) < 0.006:
        return at - part + 0.25
    return at


def _shortest(pattern: list[Note], bars: int, swing: float) -> tuple[int, float, tuple[Note, ...]]:
    """The shortest pattern that, repeated, is all of it: a bar that comes back is written once."""
    for short in (1, 2):
        first = [note for note in pattern if note.at < 4 * short]
        turns = [
            note.model_copy(update={"at": note.at + 4 * turn})
            for turn in range(0, bars, short)
            for note in first
        ]
        if bars % short == 0 and turns == pattern:
            return short, swing, tuple(first)
    return bars, swing, tuple(pattern)


@dataclass(frozen=True)
class FittedStrokes:
    """Strokes of a hit, over so many bars; `said` is what could not be taken as it was."""

    bars: int
    steps: tuple[HitStep, ...]
    said: list[str]


def fitted_strokes(
    struck: Sequence[tuple[float, float]], brief: Brief, hit: Hit | None = None
) -> FittedStrokes:
    """Strokes at beats of the loop and of a velocity up to 1 as they are heard, as a hit's pattern.

    They stay where they are, on the grid or off it, but for the swing of the hit, or of the track, which is
    taken back. Of two
    within 30 ms, which no hand strikes, the harder one is kept.

    Parameters
    ----------
    struck, brief
        Beats from the loop’s start, and velocity; key, tempo and chords.
    hit
        The hit that is to play them.

    Returns
    -------
    FittedStrokes
        The pattern, and what is said of it.

    Examples
    --------
    >>> [step.at for step in fitted_strokes([(0.0, 1.0), (1.0, 0.5)], Brief()).steps]
    [0.0, 1.0]
    """
    said, near = [], _ONE_STROKE_MS / beat_ms(brief.bpm)
    swing = brief.swing_percent if hit is None else brief.swing_of(hit)
    kept = sorted(one for one in struck if one[0] < 4 * MOST_BARS)
    if len(kept) < len(struck):
        said.append(f"{len(struck) - len(kept)} strokes after bar {MOST_BARS} were left out.")
    steps: list[HitStep] = []
    for beat, velocity in kept:
        at = max(on_pulse(_straight(beat, swing)), 0.0)
        step = HitStep(at=at, velocity=min(max(round(velocity, 3), 0.01), 1.0))
        if steps and at - steps[-1].at < near:
            steps[-1] = steps[-1].model_copy(update={"velocity": max(steps[-1].velocity, step.velocity)})
        else:
            steps.append(step)
    if len(steps) > MOST_STEPS:
        said.append(f"Of {len(steps)} strokes the first {MOST_STEPS} were taken.")
    steps = steps[:MOST_STEPS]
    bars = min(MOST_BARS, int(steps[-1].at // 4) + 1) if steps else 1
    return FittedStrokes(bars, tuple(steps), said)


def velocity_of(heard: float, hit: Hit) -> float:
    """How hard a hit is to be struck to be as loud, re its full stroke, as a stroke that was heard: `heard`
    is that stroke's velocity where all of the velocity goes into the level.

    Parameters
    ----------
    heard, hit
        Velocity where all of it is level; the hit.

    Returns
    -------
    float
        Above 0 up to 1.

    Examples
    --------
    >>> from juglant.core.recipes.track import TrackState
    >>> velocity_of(1.0, TrackState().kick)
    1.0
    """
    return float(heard ** (1 / max(hit.velocity.level, 0.1)))


def fitted(given: Sequence[Given], brief: Brief) -> Fitted:
    """Make a pattern of notes: one voice, at most eight bars, counted from each bar's root.

    Nothing is dropped in silence: `said` names what was left out, cut or moved by octaves. UserError where
    no note begins in the first eight bars.

    Parameters
    ----------
    given, brief
        Notes as they were read; key, tempo and chords.

    Returns
    -------
    Fitted
        The pattern, and what is said of it.

    Examples
    --------
    >>> from types import SimpleNamespace
    >>> note = SimpleNamespace(at=0.0, beats=0.5, midi=33, velocity=0.8)
    >>> len(fitted([note], Brief()).pattern)
    1
    """
    said: list[str] = []
    kept = [note for note in given if note.at < 4 * MOST_BARS]
    if not kept:
        raise UserError(f"No note begins in the first {MOST_BARS} bars.", "notes")
    if len(kept) < len(given):
        said.append(f"{len(given) - len(kept)} notes after bar {MOST_BARS} were left out.")
    voice: dict[float, Given] = {}
    swing = swing_of([note.at for note in kept])
    for note in kept:
        at = on_pulse(_straight(note.at, swing))
        if at not in voice or note.midi < voice[at].midi:
            voice[at] = note
    if len(voice) < len(kept):
        said.append(f"{len(kept) - len(voice)} notes that begin with a lower one were left out: one voice.")
    places = sorted(voice)[:MOST_NOTES]
    if len(places) < len(voice):
        said.append(f"Of {len(voice)} notes the first {MOST_NOTES} were taken.")
    roots = {at: pitch_class(brief.root_of(int(at // 4))) for at in places}
    low = float(np.median([voice[at].midi - roots[at] for at in places]))
    octave = min(_OCTAVES, key=lambda n: abs(12 * (n + 1) + 3 - low))
    pattern, folded, cut, unended = [], 0, 0, 0
    for n, at in enumerate(places):
        note = voice[at]
        apart = note.midi - 12 * (octave + 1) - roots[at]
        while abs(apart) > 24:
            apart -= 12 if apart > 0 else -12
        folded += apart != note.midi - 12 * (octave + 1) - roots[at]
        end = on_pulse(_straight(note.at + note.beats, swing))
        following = places[n + 1] if n + 1 < len(places) else 4.0 * MOST_BARS
        cut += end > following + 1e-9
        unended += note.beats <= 0
        beats = min(end, following) - at if note.beats > 0 else min(0.25, following - at)
        velocity = min(max(note.velocity, 0.01), 1.0)
        pattern.append(Note(at=at, beats=max(beats, 1 / 480), semitones=apart, velocity=velocity))
    if cut:
        said.append(f"{cut} notes were cut where the next one begins: one voice.")
    if unended:
        said.append(f"{unended} notes without a length last a sixteenth.")
    if folded:
        said.append(f"{folded} notes more than two octaves from the root were moved by octaves.")
    bars = min(MOST_BARS, int(places[-1] // 4) + 1)
    return Fitted(octave, *_shortest(pattern, bars, swing), said)
