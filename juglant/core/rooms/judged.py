"""What becomes of a low end in a place, in numbers."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from juglant.core import RATE
from juglant.core.hits.mixing import added
from juglant.core.lowend.line import line_of
from juglant.core.lowend.linenotes import LineNote, line_notes
from juglant.core.lowend.loop import gaps_ms
from juglant.core.lowend.session import Session
from juglant.core.measure import levels
from juglant.core.measure.listening import AHEAD_MS, CEILING_DB, RELEASE_MS
from juglant.core.measure.loopsound import LoopSound
from juglant.core.measure.overlap import Overlap, level_db
from juglant.core.measure.owner import overlap
from juglant.core.measure.stereo import both_sides, stereo
from juglant.core.music import note_name
from juglant.core.process.dynamics import limit_gain_db
from juglant.core.process.filters import around_loop, around_loop_by, linkwitz_riley_gain
from juglant.core.recipes.parts import SUM
from juglant.core.recipes.room import Room
from juglant.core.recipes.track import TrackState
from juglant.core.rooms.heard import own_response
from juglant.core.rooms.systems import response_db
from juglant.core.rooms.through import through

Array = NDArray[np.float64]

# The smallest loudspeakers play nothing below this (common practice).
SMALL_HZ = 400.0
# What lies below is felt at best, and takes headroom (common practice).
UNHEARD_HZ = 28.0
_WINDOW_MS = 50.0
# A place that plays the range of kick and bass no louder than this has no low end.
_NO_LOW_END_DB = -18.0


@dataclass(frozen=True)
class NoteThere:
    """A note of a line: how loud it is in a place against the line's notes on the whole, in LU, and against
    how it was without the place.
    """

    line: str
    note: str
    hz: float
    change_lu: float


@dataclass(frozen=True)
class Small:
    """What the smallest loudspeakers play of the kick, at its loudest 50 ms above 400 Hz, in dB: against
    the whole track as it is played elsewhere, and against what else is heard there at that moment. None
    where nothing else is.
    """

    left_db: float
    over_rest_db: float | None


@dataclass(frozen=True)
class Headroom:
    """What the track would be at a chosen loudness: its true peak there, and the most that a limiter at −1
    dBTP would take; its crest, and what the part below 28 Hz costs of the peak. All in dB.
    """

    lufs: float
    true_peak_dbtp: float
    crest_db: float
    limited_db: float
    unheard_db: float


@dataclass(frozen=True)
class Judged:
    """A track in a place: kick and bass over each other without it and in it, its notes, what is left on
    small loudspeakers, what its low band loses in mono, its headroom.
    """

    dry: Overlap
    # None where the place plays no low end.
    there: Overlap | None
    notes: list[NoteThere]
    small: Small | None
    low_mono_loss_db: float | None
    headroom: Headroom

    @property
    def uneven(self) -> tuple[NoteThere, NoteThere] | None:
        """The two notes of one line between which a place makes the greatest difference, the quieter one
        first; None where no line has two, or where there is no low end to be even.
        """
        if self.there is None:
            return None
        lines = [
            [one for one in self.notes if one.line == name] for name in {one.line for one in self.notes}
        ]
        pairs = [
            (min(notes, key=_change), max(notes, key=_change)) for notes in lines if len(notes) > 1
        ]  # fmt: skip
        return max(pairs, key=lambda pair: _change(pair[1]) - _change(pair[0]), default=None)

    @property
    def spread_lu(self) -> float | None:
        """How far those two are apart."""
        return None if self.uneven is None else _change(self.uneven[1]) - _change(self.uneven[0])


def _change(note: NoteThere) -> float:
    return note.change_lu


def _heard_loops(session: Session, state: TrackState) -> tuple[LoopSound, LoopSound, list[LoopSound]]:
    """Kick, lines together and everything else, as they leave."""
    loop = session.loop(state)
    return loop.kick, loop.ducked, [one.heard for one in session.sounding(state, "rest")]


def judged(session: Session, state: TrackState, room: Room, lufs: float = -10.0) -> Judged:
    """A state's loop in a place; `lufs` is how loud the finished track is to be.

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.
    room
        The place.
    lufs
        How loud the finished track is to be.

    Returns
    -------
    Judged
        Its numbers.

    Examples
    --------
    >>> from juglant.core.recipes.room import Phone
    >>> judged(Session(), TrackState(), Phone()).there is None
    True
    """
    own = own_response(session, room)
    kick, bass, _ = _heard_loops(session, state)
    mix = everything(session, state)
    lines = {one.part: one.heard for one in session.sounding(state, "bass")}
    # One line is all of the bass: what becomes of it is worked out once.
    alone = next(iter(lines)) if len(lines) == 1 else None
    given = [kick.samples, bass.samples, *(x.samples for id, x in lines.items() if id != alone)]
    heard = through(room, given, RATE, own, one=True)
    by_line = {id: heard[1 if alone else 2 + n] for n, id in enumerate(lines)}
    kicks = len(line_of(state).starts(state.kick.id))
    there = None
    if _plays_low_end(room, own):
        both = [LoopSound(x) for x in heard[:2]]
        there = overlap(both[0], both[1], kicks, state.brief.sub_owner, session.parts.edge(state))[0]
    return Judged(
        dry=session.over(state), there=there, notes=_notes(session, state, lines, by_line),
        small=small(session, state),
        low_mono_loss_db=session.sounds.once(_low_mono_loss_db, mix),
        headroom=session.sounds.once(_headroom, mix, lufs),
    )  # fmt: skip


def _low_mono_loss_db(mix: LoopSound) -> float | None:
    return stereo(mix.samples, RATE).low_mono_loss_db


def _headroom(mix: LoopSound, lufs: float) -> Headroom:
    return headroom(mix.samples, RATE, lufs)


def _plays_low_end(room: Room, own: Array | None = None) -> bool:
    """Whether a place plays anything where kick and bass meet."""
    return bool(response_db(room, np.geomspace(50.0, 100.0, 9), RATE, own).max() > _NO_LOW_END_DB)


def everything(session: Session, state: TrackState) -> LoopSound:
    """All that is heard together, through the sum where something is done to it.

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.

    Returns
    -------
    LoopSound
        One pass of the loop.

    Examples
    --------
    >>> everything(Session(), TrackState()).samples.ndim
    1
    """
    whole = session.sounding_part(state, SUM) if state.sum.acts else None
    return (
        session.parts.together([one.heard for one in session.sounding(state)], state)
        if whole is None
        else whole.heard
    )


def _notes(
    session: Session, state: TrackState, lines: dict[str, LoopSound], there: dict[str, Array]
) -> list[NoteThere]:
    """Every pitch of every line that is heard and has notes, the lowest first."""
    found = []
    for voice in state.heard:
        played = line_notes(session.sounds, state, voice)
        if not played or voice.id not in lines:
            continue
        powers = [_powers(_weighted(x), played) for x in (lines[voice.id].mono, there[voice.id])]
        change = 10 * np.log10(np.sum(powers[1]) / max(np.sum(powers[0]), 1e-20) + 1e-20)
        for midi in sorted({note.midi for note in played}):
            mine = [n for n, note in enumerate(played) if note.midi == midi]
            was, is_ = (float(np.sum(one[mine])) for one in powers)
            if was <= 0.0:
                continue
            found.append(
                NoteThere(
                    line=voice.name, note=note_name(midi, state.brief.key.flats),
                    hz=float(np.median([played[n].hz for n in mine])),
                    change_lu=float(10 * np.log10(is_ / was + 1e-20) - change),
                )
            )  # fmt: skip
    return sorted(found, key=lambda one: one.hz)


def _weighted(x: Array) -> Array:
    return around_loop(x, levels.k_weighting(RATE))


def _powers(x: Array, played: list[LineNote]) -> Array:
    """The energy of every note, from its start to its end, around the loop."""
    at = np.concatenate([[0.0], np.cumsum(np.concatenate([x, x]) ** 2)])
    found = []
    for note in played:
        start = round(note.start_ms / 1000 * RATE) % x.size
        end = min(start + max(1, round(note.length_ms / 1000 * RATE)), start + x.size)
        found.append(at[end] - at[start])
    return np.array(found)


def _small_gain(hz: Array) -> Array:
    """What the smallest loudspeakers play: a fourth-order edge at 400 Hz, zero phase."""
    return linkwitz_riley_gain(hz, SMALL_HZ)[1]


def small(session: Session, state: TrackState) -> Small | None:
    """What the smallest loudspeakers play of the kick; None where there is none, or nothing at all.

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.

    Returns
    -------
    Small or None
        Levels in dB.

    Examples
    --------
    >>> small(Session(), TrackState()) is not None
    True
    """
    kick, bass, rest = _heard_loops(session, state)
    starts_ms = line_of(state).starts(state.kick.id)
    return session.sounds.once(_small, kick, [bass, *rest], starts_ms) if starts_ms else None


def _small(kick: LoopSound, others: list[LoopSound], starts_ms: list[float]) -> Small | None:
    rest = added([one.mono for one in others])
    parts = [around_loop_by(x, _small_gain, RATE) for x in (kick.mono, rest)]
    heard, masks = (level_db(_weighted(x), RATE, _WINDOW_MS, loop=True) for x in parts)
    whole = level_db(_weighted(kick.mono + rest), RATE, _WINDOW_MS, loop=True)
    if whole.max() <= -120.0:
        return None
    at = _loudest_of_each(heard, starts_ms, rest.size / RATE * 1000)
    over = float(np.median(heard[at] - masks[at])) if masks.max() > heard.max() - 60.0 else None
    return Small(float(np.median(heard[at]) - whole.max()), over)


def _loudest_of_each(level: Array, starts_ms: list[float], length_ms: float) -> NDArray[np.int64]:
    """Where a level, every ms, is highest after each stroke."""
    gap = min(gaps_ms(starts_ms, length_ms))
    found = []
    for start in starts_ms:
        span = (round(start) + np.arange(max(1, round(min(gap, 200.0))))) % level.size
        found.append(int(span[np.argmax(level[span])]))
    return np.array(found)


def headroom(mix: Array, rate: int, lufs: float) -> Headroom:
    """What a mix, shape (frames,) or (frames, 2), would be at a loudness, as a loop.

    Parameters
    ----------
    mix, rate
        Samples, shape (frames,) or (frames, 2); frames a second.
    lufs
        How loud the finished track is to be.

    Returns
    -------
    Headroom
        Peaks and loudness there.

    Examples
    --------
    >>> import numpy as np
    >>> tone = np.sin(2 * np.pi * 1000 * np.arange(48000) / 48000)
    >>> round(headroom(tone, 48000, -23.0).true_peak_dbtp)
    -23
    """
    both = both_sides(mix)
    loudness = levels.integrated_lufs(both, rate)
    peak = levels.true_peak_dbtp(both)
    if loudness <= levels.QUIETEST_LUFS:
        return Headroom(lufs, -120.0, 0.0, 0.0, 0.0)
    gain = lufs - loudness
    loudest = np.max(np.abs(both), axis=1) * 10 ** (gain / 20)
    taken = limit_gain_db(np.concatenate([loudest, loudest]), rate, CEILING_DB, AHEAD_MS, RELEASE_MS)
    cut = np.stack([around_loop_by(side, _heard_gain, rate) for side in both.T], axis=1)
    rms = 10 * float(np.log10(float(np.mean(both**2))))
    return Headroom(
        lufs, peak + gain, levels.peak_dbfs(both) - rms, float(-np.min(taken[mix.shape[0] :])),
        levels.peak_dbfs(both) - levels.peak_dbfs(cut),
    )  # fmt: skip


def _heard_gain(hz: Array) -> Array:
    return linkwitz_riley_gain(hz, UNHEARD_HZ)[1]
