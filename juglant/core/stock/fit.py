"""Which sound fits a part of a track: measured in its place, tuned, and as loud as what is there.

A first look ranks thousands by what is kept of them; the best of these are put into the loop and measured
with the same functions that judge it.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from juglant.core import RATE
from juglant.core.errors import UserError
from juglant.core.lowend.line import line_of
from juglant.core.lowend.session import Session
from juglant.core.lowend.tuning import Candidate, harmony, moves, recommended, short_ms
from juglant.core.measure.levels import momentary_max_lufs
from juglant.core.measure.owner import LEAST_SUB_DB, OWNER_LOSS_LIMIT_DB, SHARED_LIMIT_MS
from juglant.core.measure.stereo import both_sides
from juglant.core.music import midi_to_hz
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.fields import in_limits
from juglant.core.recipes.hit import Hit, Imported, Layer
from juglant.core.recipes.parts import PlayedBass, Voice
from juglant.core.recipes.track import TrackState
from juglant.core.stock.known import Numbers
from juglant.core.tempo import beat_ms

Array = NDArray[np.float64]

# So many of a first look are measured in the loop.
EXACTLY = 50
# What counts, in words, and how much it weighs unless the user says otherwise.
REASONS = {
    "tune": ("how far it is moved to its note", 2.0), "collision": ("collision with the bass", 3.0),
    "sub": ("together in the sub", 3.0), "weight": ("sub of its own", 2.0),
    "length": ("over before the next stroke", 1.5), "masked": ("heard against the others", 2.0),
    "peak": ("peak of the mix", 1.0),
}  # fmt: skip
MOST_WEIGHT = 10.0
_WEIGHTS = {name: weight for name, (_, weight) in REASONS.items()}
# What costs a reason all of its points: cents of a move, ms of collision, ms in the sub, dB of sub that is
# missing, the share of a gap that it is too long, dB over full scale.
_MOST_CENTS, _MOST_COLLISION_MS, _MOST_SUB_DB, _MOST_PEAK_DB = 400.0, 120.0, 18.0, 6.0
_NO_NOTE, _PEAK_DBTP, _SURE_NOTE = 0.3, -1.0, 0.3
_LOW_KINDS = ("kick", "808")


@dataclass(frozen=True)
class Reason:
    """One reason: what it is about, the number in words, and what it costs, from 0 to 1."""

    name: str
    said: str
    cost: float


@dataclass(frozen=True)
class Fit:
    """How well a sound fits, from 0 to 100, why, the note it is moved to, and the part with it."""

    hash: str
    fit: float
    reasons: tuple[Reason, ...]
    note: str | None
    shift_cents: float
    measured: bool
    hit: Hit | None = None


def _cost(value: float) -> float:
    return round(float(min(max(value, 0.0), 1.0)), 3)


def _scored(reasons: Sequence[Reason], weights: dict[str, float]) -> float:
    total = sum(weights.get(one.name, 1.0) for one in reasons)
    lost = sum(weights.get(one.name, 1.0) * one.cost for one in reasons)
    return round(100.0 * (1.0 - lost / max(total, 1e-9)), 2)


def _hit_of(state: TrackState, part: str) -> Hit:
    """The hit whose sound a candidate takes the place of: a hit's own, or that which plays a line.

    UserError for a part that no one sound plays.
    """
    found = state.part(part)
    if isinstance(found, Hit):
        return found
    if isinstance(found, Voice) and isinstance(found.bass, PlayedBass):
        return found.bass.hit
    name = found.name if found is not None else part
    raise UserError(f"{name} is not played by one sound: choose a hit, or a line that a hit plays.", "part")


def with_hit(state: TrackState, part: str, hit: Hit) -> TrackState:
    """The state with another hit in that place.

    Parameters
    ----------
    state, part
        The track; id of the part.
    hit
        The hit.

    Returns
    -------
    TrackState
        The state with it.

    Examples
    --------
    >>> state = TrackState()
    >>> with_hit(state, "kick", state.kick) == state
    True
    """
    found = state.part(part)
    if isinstance(found, Voice) and isinstance(found.bass, PlayedBass):
        return state.with_bass(part, found.bass.model_copy(update={"hit": hit}))
    return state.with_part(hit)


def _aimed(numbers: Numbers, hit: Hit, brief: Brief) -> tuple[Candidate | None, Reason]:
    """Where a sound is to be tuned to, and what that costs."""
    if hit.aims_at == "free":
        return None, Reason("tune", "free of the key", 0.0)
    if numbers.midi is None or numbers.note_confidence < _SURE_NOTE:
        return None, Reason("tune", "no note to tune", _NO_NOTE)
    given = harmony(brief)
    hz = midi_to_hz(numbers.midi, 440.0)
    found = moves(hz, numbers.length_ms, given, resampled=True, aim=hit.aims_at)
    held = numbers.decay_ms is not None and numbers.decay_ms > short_ms(brief)
    best = recommended(found, set(given.roots)) if held else next(iter(found), None)
    if best is None:
        return None, Reason("tune", "no note of the key within reach", 1.0)
    away = f"{abs(best.shift_cents):.0f} cents {'up' if best.shift_cents > 0 else 'down'} to {best.note}"
    said = f"{best.note} already" if abs(best.shift_cents) < 1 else away
    return best, Reason("tune", said, _cost(abs(best.shift_cents) / _MOST_CENTS))


def _gap_ms(state: TrackState, part: str) -> float:
    """The shortest time from one stroke of a part to its next."""
    brief = state.brief
    length = 4 * brief.bars * beat_ms(brief.bpm)
    starts = sorted(line_of(state).starts(part))
    if not starts:
        return length
    return min(b - a for a, b in pairwise([*starts, starts[0] + length]))


def _length(decay_ms: float | None, length_ms: float, ratio: float, gap_ms: float) -> Reason:
    """Whether it is over before its next stroke."""
    rings = (decay_ms if decay_ms is not None else length_ms) / ratio
    over = rings - gap_ms
    said = f"{rings:.0f} ms to −20 dB, {gap_ms:.0f} ms to the next stroke"
    return Reason("length", said, _cost(over / gap_ms))


def first_look(
    state: TrackState, part: str, candidates: Sequence[Numbers], weights: dict[str, float] | None = None
) -> list[Fit]:
    """All candidates ranked by what is kept of them, the best first: nothing is rendered.

    For a kick that owns the sub, one that carries it and is over early meets the bass least; for a short
    one over a bass that owns it, one without sub.

    Parameters
    ----------
    state, part
        The track; id of the part.
    candidates
        What is kept of each.
    weights
        How much each thing counts; as usual where none are given.

    Returns
    -------
    list of Fit
        The best first.

    Examples
    --------
    >>> first_look(TrackState(), "kick", [])
    []
    """
    wish, hit, brief = _WEIGHTS | (weights or {}), _hit_of(state, part), state.brief
    gap_ms, low = _gap_ms(state, part), hit.kind in _LOW_KINDS
    owns = brief.sub_owner == "kick" if part == state.kick.id else True
    found = []
    for one in candidates:
        best, tune = _aimed(one, hit, brief)
        ratio = 2 ** ((best.shift_cents if best else 0.0) / 1200)
        reasons = [tune, _length(one.decay_ms, one.length_ms, ratio, gap_ms)]
        if low and one.sub_db is not None:
            missing = LEAST_SUB_DB - one.sub_db if owns else one.sub_db - LEAST_SUB_DB
            said = f"sub {one.sub_db:.0f} dB"
            reasons.append(Reason("weight", said, _cost(missing / _MOST_SUB_DB)))
            rings = (one.decay_ms or one.length_ms) / ratio
            reasons.append(Reason("collision", "", _cost(rings / gap_ms / 2)))
        score = _scored(reasons, wish)
        found.append(
            Fit(one.hash, score, tuple(reasons), best.note if best else None,
                best.shift_cents if best else 0.0, measured=False)
        )  # fmt: skip
    return sorted(found, key=lambda one: -one.fit)


def placed_in(session: Session, state: TrackState, part: str, one: Numbers, *, tuned: bool = True) -> Hit:
    """The part's hit with another sound: tuned by resampling unless it is to stay as it is, and as loud as
    what was there. Pattern, chain, place and what else is the part's stay.

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.
    part
        Id of the part.
    one
        What is kept of it.
    tuned
        Whether it is tuned.

    Returns
    -------
    Hit
        The part’s hit.

    Examples
    --------
    >>> kick = np.sin(2 * np.pi * 58 * np.arange(12000) / 48000) * np.linspace(1, 0, 12000)
    >>> session, state = Session(lambda hash: (kick, 48000)), TrackState()
    >>> one = Numbers("0" * 64, "kicks/low.wav", 34.0, 0.9, 250.0, 200.0, -3.0)
    >>> hit = placed_in(session, state, state.kick.id, one, tuned=False)
    >>> hit.layers[0].name, hit.only_source.shift_semitones
    ('low', 0.0)
    """
    hit, brief = _hit_of(state, part), state.brief
    best = _aimed(one, hit, brief)[0] if tuned else None
    # One may be mono, the other stereo: both leave both loudspeakers.
    there = momentary_max_lufs(both_sides(session.sounds.hits.hit(hit, brief.bpm)), RATE)
    name = one.path.replace("\\", "/").rpartition("/")[2][:200]
    shift = in_limits(Imported, shift_semitones=best.shift_cents / 100 if best else 0.0)
    source = Imported(audio=one.hash, name=name, **shift)
    layer = Layer(name=name.rpartition(".")[0][:40] or "sound", source=source)
    swapped = hit.model_copy(update={"layers": (layer,), "heard_hz": None})
    here = momentary_max_lufs(both_sides(session.sounds.hits.hit(swapped, brief.bpm)), RATE)
    level = in_limits(Imported, level_db=round(there - here, 2))
    return swapped.with_source(0, source.model_copy(update=level))


def measured_fit(
    session: Session, state: TrackState, part: str, one: Numbers, weights: dict[str, float] | None = None
) -> Fit:
    """One candidate put into the loop, tuned and as loud as what is there, and measured in it.

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.
    part
        Id of the part.
    one
        What is kept of it.
    weights
        How much each thing counts; as usual where none are given.

    Returns
    -------
    Fit
        How it fits.

    Examples
    --------
    >>> kick = np.sin(2 * np.pi * 58 * np.arange(12000) / 48000) * np.linspace(1, 0, 12000)
    >>> session, state = Session(lambda hash: (kick, 48000)), TrackState()
    >>> one = Numbers("0" * 64, "kicks/low.wav", 34.0, 0.9, 250.0, 200.0, -3.0)
    >>> [reason.name for reason in measured_fit(session, state, state.kick.id, one).reasons]
    ['tune', 'length', 'collision', 'sub', 'weight', 'peak']
    """
    wish, brief = _WEIGHTS | (weights or {}), state.brief
    hit = placed_in(session, state, part, one)
    best, tune = _aimed(one, hit, brief)
    now = with_hit(state, part, hit)
    ratio = 2 ** ((best.shift_cents if best else 0.0) / 1200)
    reasons = [tune, _length(one.decay_ms, one.length_ms, ratio, _gap_ms(state, part))]
    loop = session.loop(now)
    if part == state.kick.id or isinstance(state.part(part), Voice):
        after = session.over(now)
        if after.collision_ms is not None:
            said = f"{after.collision_ms:.0f} ms of each kick under the bass"
            reasons.append(Reason("collision", said, _cost(after.collision_ms / _MOST_COLLISION_MS)))
        shared, loss = after.sub_shared_ms or 0.0, after.owner_loss_db or 0.0
        worst = max(shared / (2 * SHARED_LIMIT_MS), loss / (4 * OWNER_LOSS_LIMIT_DB))
        said = f"{shared:.0f} ms together in the sub"
        reasons.append(Reason("sub", said, _cost(worst)))
        if after.sub_level_db is not None and brief.sub_owner == "kick" and part == state.kick.id:
            missing = LEAST_SUB_DB - after.sub_level_db
            said = f"sub {after.sub_level_db:.0f} dB re the kick"
            reasons.append(Reason("weight", said, _cost(missing / _MOST_SUB_DB)))
        mixed = loop.kick.samples, loop.ducked.samples
    else:
        own = session.parts.part(now, part)
        rest = [sound.heard for sound in session.sounding(now) if sound.part != part]
        together = session.parts.together(rest, now)
        if own is not None:
            share = masked_share(own.mono, together.mono)
            said = f"{100 * share:.0f} % of it covered by the others"
            reasons.append(Reason("masked", said, _cost(share)))
            mixed = own.samples, together.samples
        else:
            mixed = loop.kick.samples, loop.ducked.samples
    peak = _peak_db(*mixed)
    reasons.append(Reason("peak", f"peak {peak:.1f} dBFS", _cost((peak - _PEAK_DBTP) / _MOST_PEAK_DB)))
    found = tuple(reasons)
    note, cents = (best.note, best.shift_cents) if best else (None, 0.0)
    return Fit(one.hash, _scored(found, wish), found, note, cents, measured=True, hit=hit)


def _peak_db(a: Array, b: Array) -> float:
    wide = a.ndim == 2 or b.ndim == 2
    both = (a[:, None] if wide and a.ndim == 1 else a) + (b[:, None] if wide and b.ndim == 1 else b)
    return 20 * float(np.log10(max(float(np.abs(both).max()), 1e-9)))


_CELL_S, _COVERED_DB = 0.04, 6.0
_EDGES_HZ = (60, 120, 250, 500, 1000, 2000, 4000, 8000, 16000)


def masked_share(x: Array, rest: Array) -> float:
    """The share of a loop's energy, of shape (frames,), that lies where the rest is louder by 6 dB: in
    octave bands, over 40 ms.

    Parameters
    ----------
    x
        Samples, shape (frames,).
    rest
        The rest of the loop, shape (frames,).

    Returns
    -------
    float
        0 to 1.

    Examples
    --------
    >>> at = np.arange(48000) / 48000
    >>> x = np.sin(2 * np.pi * 100 * at)
    >>> round(masked_share(x, 10 * x), 2), round(masked_share(x, 0 * x), 2)
    (1.0, 0.0)
    """
    size = round(_CELL_S * RATE)

    def cells(y: Array) -> Array:
        count = y.size // size
        power = np.abs(np.fft.rfft(y[: count * size].reshape(count, size) * np.hanning(size), axis=1)) ** 2
        hz = np.arange(power.shape[1]) * RATE / size
        edges = np.searchsorted(hz, _EDGES_HZ)
        return np.add.reduceat(power, edges, axis=1)[:, :-1]

    own, other = cells(x), cells(rest)
    total = float(own.sum())
    return float(own[other > own * 10 ** (_COVERED_DB / 10)].sum()) / total if total > 0 else 1.0


def ranked(
    session: Session,
    state: TrackState,
    part: str,
    candidates: Sequence[Numbers],
    weights: dict[str, float] | None = None,
    most: int = EXACTLY,
) -> Iterator[Fit]:
    """The best of a first look, each measured in the loop, as they come.

    Parameters
    ----------
    session, state
        Renders and keeps what was asked for; the track.
    part
        Id of the part.
    candidates
        What is kept of each.
    weights
        How much each thing counts; as usual where none are given.
    most
        How many are tried in the loop.

    Returns
    -------
    iterator of Fit
        As they come.

    Examples
    --------
    >>> list(ranked(Session(), TrackState(), "kick", []))
    []
    """
    by_hash = {one.hash: one for one in candidates}
    for found in first_look(state, part, candidates, weights)[:most]:
        yield measured_fit(session, state, part, by_hash[found.hash], weights)
