"""What an ear is asked: sounds of the track, or generated ones, that differ in one thing."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from pydantic import ValidationError

from juglant.core import RATE
from juglant.core.hits.moved import shifted
from juglant.core.lowend.session import Session
from juglant.core.measure import levels
from juglant.core.music import midi_to_hz, note_name
from juglant.core.process.filters import LOW_BAND_HZ, cookbook, filtered
from juglant.core.process.lowpart import band
from juglant.core.recipes.fields import within
from juglant.core.recipes.track import TrackState

Array = NDArray[np.float64]
Rng = np.random.Generator

_BARS_S, _TAIL_S = 4.0, 1.2
_BANDS_HZ = {"50 Hz": 50.0, "100 Hz": 100.0, "250 Hz": 250.0, "800 Hz": 800.0, "3 kHz": 3000.0}
_LOWEST_MIDI = 28


@dataclass(frozen=True)
class Question:
    """Sounds at `RATE`, by what their buttons say; what is asked, what may be answered, which is right."""

    asked: str
    sounds: dict[str, Array]
    answers: list[str]
    right: int


@dataclass(frozen=True)
class Skill:
    """One thing to hear: its name, what its difference is measured in, its hardest and its easiest one."""

    id: str
    name: str
    unit: str
    hardest: float
    easiest: float
    made: Callable[[Session, TrackState, float, Rng], Question]


def _kick(session: Session, state: TrackState, semitones: float = 0.0) -> Array:
    """The track's kick, moved: made ones by their recipe, files by resampling."""
    return session.sounds.kick(shifted(state.kick, semitones), state.brief.bpm)[: round(_TAIL_S * RATE)]


def _tone(hz: float, seconds: float = 0.7) -> Array:
    """A plain low tone with its octave, eased in and out."""
    time = np.arange(round(seconds * RATE)) / RATE
    x = np.sin(2 * np.pi * hz * time) + 0.3 * np.sin(4 * np.pi * hz * time)
    ease = np.minimum(1.0, np.minimum(time, seconds - time) / 0.03)
    return np.asarray(0.4 * x * np.clip(ease, 0.0, 1.0))


def _either(rng: Rng, plain: Array, other: Array, asked: str) -> Question:
    """Two sounds, one of which is what is asked for."""
    right = int(rng.integers(2))
    pair = [other, plain] if right == 0 else [plain, other]
    return Question(asked, {"First": pair[0], "Second": pair[1]}, ["First", "Second"], right)


def _even(x: Array, like: Array) -> Array:
    """As loud as another sound, so that loudness tells nothing."""
    by = levels.momentary_max_lufs(like, RATE) - levels.momentary_max_lufs(x, RATE)
    return np.asarray(x * 10 ** (np.clip(by, -24.0, 24.0) / 20))


def _note(session: Session, state: TrackState, semitones: float, rng: Rng) -> Question:
    step = max(1, round(semitones))
    low = int(rng.integers(_LOWEST_MIDI, _LOWEST_MIDI + 8))
    right = int(rng.integers(4))
    flats, a4 = state.brief.key.flats, state.brief.a4_hz
    hz = session.sounds.pitch_hz(state.kick, state.brief)
    wished = midi_to_hz(low + right * step, a4)
    try:
        sound = _tone(wished) if hz is None else _kick(session, state, 12 * float(np.log2(wished / hz)))
    except ValidationError:
        # So far its controls do not reach.
        sound = _tone(wished)
    names = [note_name(low + n * step, flats) for n in range(4)]
    reference = names[0]
    return Question(
        f"Which note is the kick? The tone is {reference}.",
        {f"Tone {reference}": _tone(midi_to_hz(low, a4)), "Kick": sound}, names, right,
    )  # fmt: skip


def _cents(session: Session, state: TrackState, cents: float, rng: Rng) -> Question:
    up = bool(rng.integers(2))
    moved = _kick(session, state, (cents if up else -cents) / 100)
    return Question(
        "Is the second one higher or lower?", {"First": _kick(session, state), "Second": moved},
        ["Higher", "Lower"], 0 if up else 1,
    )  # fmt: skip


def _ducking(session: Session, state: TrackState, db: float, rng: Rng) -> Question:
    base = float(rng.uniform(4.0, 10.0))

    def heard(depth: float) -> Array:
        # The whole of the bass: what is ducked above the sub alone is heard in another way.
        duck = within(state.duck.model_copy(update={"points": (), "band": "everything"}), depth_db=depth)
        loop = session.loop(state.with_duck(duck=duck, on=True))
        both = loop.kick.mono + loop.ducked.mono
        return np.asarray(both[: round(_BARS_S * RATE)])

    plain = heard(base)
    return _either(rng, plain, _even(heard(base + db), plain), "Which one is ducked deeper?")


def _late(session: Session, state: TrackState, ms: float, rng: Rng) -> Question:
    body = _kick(session, state)
    click = rng.standard_normal(round(0.012 * RATE)) * np.exp(-np.arange(round(0.012 * RATE)) / 120)
    click *= 0.35 * float(np.max(np.abs(body)))

    def layered(at_ms: float) -> Array:
        out = body.copy()
        at = round((20.0 + at_ms) / 1000 * RATE)
        out = np.concatenate([np.zeros(round(0.02 * RATE)), out])
        out[at : at + click.size] += click
        return out

    return _either(rng, layered(0.0), layered(ms), "In which one is the click later?")


def _polarity(session: Session, state: TrackState, db: float, rng: Rng) -> Question:
    body = _kick(session, state)
    # So much of its own sub lies over it that in and out of polarity are `db` apart there.
    ratio = 10 ** (db / 20)
    layer = (ratio - 1) / (ratio + 1) * band(body, *LOW_BAND_HZ, RATE)
    return _either(
        rng,
        body + layer,
        _even(body - layer, body + layer),
        "In which one does a layer cancel some of the sub?",
    )


def _band(session: Session, state: TrackState, db: float, rng: Rng) -> Question:
    loop = session.loop(state)
    plain = (loop.kick.mono + loop.ducked.mono)[: round(_BARS_S * RATE)]
    right = int(rng.integers(len(_BANDS_HZ)))
    hz = list(_BANDS_HZ.values())[right]
    lifted = filtered(plain, cookbook("bell", hz, 1.0, RATE, db))
    return Question(
        "Which band was lifted?", {"As it is": plain, "Lifted": _even(lifted, plain)}, list(_BANDS_HZ),
        right,
    )  # fmt: skip


SKILLS = (
    Skill("note", "The note of a kick", "st", 1.0, 7.0, _note),
    Skill("cents", "Higher or lower", "¢", 2.0, 200.0, _cents),
    Skill("ducking", "Ducked deeper", "dB", 0.5, 18.0, _ducking),
    Skill("late", "A late layer", "ms", 0.5, 40.0, _late),
    Skill("polarity", "A layer out of polarity", "dB", 0.25, 12.0, _polarity),
    Skill("band", "The band that was lifted", "dB", 0.5, 15.0, _band),
)
