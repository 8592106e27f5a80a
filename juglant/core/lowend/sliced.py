"""A loop taken apart into hits: a file's own slices, struck where they lie."""

from collections.abc import Callable
from dataclasses import dataclass

from juglant.core import RATE
from juglant.core.errors import UserError
from juglant.core.lowend.filed import BEFORE_MS, laid, sliced_at, time_factor
from juglant.core.lowend.session import Array, Session
from juglant.core.measure.drummap import KINDS, drum_map
from juglant.core.measure.stereo import listening_channel
from juglant.core.naming import free_name
from juglant.core.recipes.hit import MOST_TAKES, Hit, HitKind, Imported, Take, Velocity
from juglant.core.recipes.notes import MOST_BARS, HitStep, on_pulse
from juglant.core.recipes.parts import MOST_PARTS, ImportedBass, Stem, Voice
from juglant.core.recipes.track import TrackState
from juglant.core.tempo import beat_ms

# An onset this near to a slice is what is struck in it.
_SAME_MS = 30.0
# A slice as it is, however hard the step says that it is struck: what is soft was recorded soft.
_AS_IT_IS = Velocity(level=0.0, brightness=0.0, decay=0.0, pitch=0.0)


@dataclass(frozen=True)
class Sliced:
    """A track in which a file became hits: their names, and what could not be taken as it was."""

    state: TrackState
    names: list[str]
    said: list[str]


def _kinds(x: Array, cuts_ms: list[float]) -> list[HitKind]:
    """What each slice is: the drum that is struck hardest in it; percussion where none is."""
    onsets = drum_map(listening_channel(x), RATE)
    found: list[HitKind] = []
    for at in cuts_ms:
        near = [one for one in onsets if abs(one.at_ms - at) < _SAME_MS and one.velocities]
        heard = near[0].velocities if near else {}
        # What is struck together goes by the lowest of them.
        lowest = next((kind for kind in KINDS if heard.get(kind, 0.0) > 0.0), None)
        found.append("percussion" if lowest is None else lowest)  # type: ignore[arg-type]
    return found


def as_hits(session: Session, state: TrackState, id: str, fresh: Callable[[], str]) -> Sliced:
    """The track with a file's slices as hits, one for every kind of drum in it, and the file muted.

    Every slice is a take, and strokes play the takes in turn: the hits together are the loop as it was.
    UserError where the part is no file, has no strokes, or there is no room; `fresh` gives new ids.

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.
    id, fresh
        Of the part; gives a free id.

    Returns
    -------
    Sliced
        The track, and what became of the file.

    Examples
    --------
    >>> import numpy as np
    >>> from juglant.core.recipes.brief import Brief
    >>> at = np.arange(24000) / 48000
    >>> bar = np.tile(np.sin(2 * np.pi * 60 * at) * np.exp(-at / 0.05), 4)
    >>> stem = Stem(id="loop", name="Loop", audio="0" * 64, fit="by slices", own_bpm=120.0)
    >>> state = TrackState.of(brief=Brief(bpm=120.0), stems=(stem,))
    >>> session = Session(lambda hash: (bar, 48000))
    >>> as_hits(session, state, "loop", iter("abcdefgh").__next__).names
    ['Loop kick']
    """
    part, brief = state.part(id), state.brief
    file = part.bass if isinstance(part, Voice) else part
    if part is None or not isinstance(file, Stem | ImportedBass):
        raise UserError("This part is no file: there is nothing to cut into hits.", "part")
    if file.fit == "by resampling":
        raise UserError("What is resampled has other slices than its file: fit it by slices.", "part")
    x = session.sounds.hits.audio(file.audio)
    cuts = sliced_at(x, RATE)
    edges = [*cuts, x.shape[0]]
    factor = time_factor(file, brief)
    bar = 4 * beat_ms(brief.bpm)
    length_ms = x.shape[0] / RATE * 1000 * factor
    bars = min(max(1, round(length_ms / bar)), MOST_BARS)
    begins = laid(cuts, file, brief, RATE)[0] - file.begin_ms * factor
    kinds = _kinds(x, [cut / RATE * 1000 for cut in cuts])
    said = []
    if abs(length_ms - bars * bar) > 0.02 * bar:
        said.append(f"The file is {length_ms / bar:.2f} bars long: its strokes repeat after {bars}.")
    hits: list[Hit] = []
    # A slice begins a little before its stroke, which is what lies on the grid.
    where = part.place.model_copy(update={"delay_ms": max(part.place.delay_ms - BEFORE_MS, -20.0)})
    for kind in dict.fromkeys(kinds):
        struck: dict[float, tuple[float, float]] = {}
        for n, at in enumerate(begins):
            beat = on_pulse(float((at + BEFORE_MS) % (bars * bar)) / beat_ms(brief.bpm)) % (4 * bars)
            if kinds[n] == kind and at < bars * bar:
                # As far as the pulse lies beside the stroke, the slice begins beside it.
                off = beat * beat_ms(brief.bpm) - BEFORE_MS - at
                beside = (off + 0.5 * bars * bar) % (bars * bar) - 0.5 * bars * bar
                struck[beat] = (max(edges[n] / RATE * 1000 + beside, 0.0), edges[n + 1] / RATE * 1000)
        order = sorted(struck)
        if len(order) > MOST_TAKES + 1:
            said.append(f"Of {len(order)} slices of the {kind} {MOST_TAKES + 1} sound as they were.")
        taken = [one.name for one in (*state.parts, *hits)]
        stretches = [struck[at] for at in order[: MOST_TAKES + 1]]
        hits.append(
            Hit.of(
                as_takes(file.audio, part.name, stretches), id=fresh(), kind=kind, velocity=_AS_IT_IS,
                name=free_name(f"{part.name} {kind}", taken, 60), bars=bars, place=where,
                steps=tuple(HitStep(at=at) for at in order),
            )
        )  # fmt: skip
    if len(state.parts) + len(hits) > MOST_PARTS:
        more = f"there is no room for {len(hits)} more"
        raise UserError(f"A track has {MOST_PARTS} parts at most: {more}.", "part")
    muted = state.with_part(part.model_copy(update={"mute": True}))
    parts = (*muted.parts, *hits)
    whole = TrackState.model_validate(muted.model_copy(update={"parts": parts}).model_dump())
    return Sliced(whole, [hit.name for hit in hits], said)


def as_takes(audio: str, name: str, ms: list[tuple[float, float]]) -> Imported:
    """Stretches of a file, in ms, as takes of one sound, in their order.

    Parameters
    ----------
    audio
        Hash of the file.
    name
        Of the file.
    ms
        From when to when.

    Returns
    -------
    Imported
        One source with its takes.

    Examples
    --------
    >>> len(as_takes("0" * 64, "loop.wav", [(0.0, 100.0), (100.0, 200.0)]).takes)
    1
    """
    others = tuple(
        Take(audio=audio, name=f"{name} {n}", start_ms=start, end_ms=end)
        for n, (start, end) in enumerate(ms[1:], 2)
    )
    return Imported(audio=audio, name=name, start_ms=ms[0][0], end_ms=ms[0][1], takes=others)
