"""What is kept of a sound: measured once, by its content."""

from dataclasses import asdict, dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from juglant.core import ENGINE_VERSION
from juglant.core.measure import envelope as env
from juglant.core.measure.defects import goes_on, strokes
from juglant.core.measure.hit import HitNumbers, LookFor, measure
from juglant.core.measure.levels import to_db
from juglant.core.measure.reference import reference
from juglant.core.measure.stereo import listening_channel
from juglant.core.stock.kinds import Kind, odds
from juglant.core.stock.portrait import portrait

Array = NDArray[np.float64]

# What was measured under another number is measured again: raised when the table of kinds is learned anew.
KNOWN_VERSION = 100 * ENGINE_VERSION + 1
# Points of the small picture, and how far down it reaches.
_PICTURE, _PICTURE_DB = 48, -48.0
# A loop has so many strokes and lasts so long at least; what lasts and never falls is neither.
_LOOP_STROKES, _LOOP_S, _LASTING_S = 4, 1.2, 2.0
# What speaks for a loop, or for a texture, beside the odds of one-shots.
_CERTAIN = 6.0
# The tail is fitted where a note is what the sound is chosen by.
_LOOK: dict[Kind, LookFor] = {
    "kick": "tail", "808": "tail", "tom": "tones", "snare": "tones", "percussion": "tones",
    "other": "tones",
}  # fmt: skip


# Numbers that sounds are looked for by: what they are called, and their unit.
RANGES: dict[str, tuple[str, str]] = {
    "length_ms": ("length", "ms"), "centroid_hz": ("brightness", "Hz"), "sub_db": ("sub", "dB"),
    "click_db": ("click", "dB"), "lufs": ("loudness", "LUFS"), "bpm": ("tempo", "BPM"),
}  # fmt: skip


@dataclass(frozen=True)
class Numbers:
    """What is kept of a sound, as far as fitting asks; `midi` with its share of a semitone."""

    hash: str
    path: str
    midi: float | None
    note_confidence: float
    length_ms: float
    decay_ms: float | None
    sub_db: float | None


@dataclass(frozen=True)
class Loop:
    """Of a loop: its strokes, and tempo and key with how sure they are, from 0 to 1."""

    strokes: int
    bpm: float | None
    bpm_confidence: float
    key: str | None
    key_confidence: float


@dataclass(frozen=True)
class Known:
    """A sound's numbers, what speaks for each kind, why, its picture in dB, and its portrait."""

    hit: HitNumbers
    loop: Loop | None
    odds: dict[Kind, float]
    reasons: tuple[str, ...]
    picture_db: tuple[int, ...]
    portrait: Array

    @property
    def numbers(self) -> dict[str, Any]:
        """All numbers of the definitions, without the explanations of those that there are."""
        found = self.hit.as_dict()
        return {**found, "loop": asdict(self.loop) if self.loop else None}


def _picture(x: Array) -> tuple[int, ...]:
    """The highest level of each of 48 parts of a sound, in whole dB re its peak."""
    parts = np.array_split(np.abs(x), _PICTURE) if x.size >= _PICTURE else [np.abs(x)] * _PICTURE
    peaks = np.array([float(part.max(initial=0.0)) for part in parts])
    top = max(float(peaks.max()), 1e-9)
    return tuple(int(max(round(to_db(float(one) / top)), _PICTURE_DB)) for one in peaks)


def _loop(x: Array, rate: int) -> Loop | None:
    if x.size < _LOOP_S * rate:
        return None
    struck = strokes(x, rate)
    if len(struck.at_ms) < _LOOP_STROKES:
        return None
    # Strokes that are spread over it, not a flam or the rattle of one hit.
    if struck.at_ms[-1] - struck.at_ms[0] < 0.5 * _LOOP_S * 1000:
        return None
    found = reference(x, rate)
    return Loop(len(struck.at_ms), found.bpm, found.bpm_confidence, found.key, found.key_confidence)


def _heard(hit: HitNumbers, loop: Loop | None) -> tuple[str, ...]:
    """Why it is what it is, in numbers."""
    if loop is not None:
        tempo = f" at {loop.bpm:.1f} BPM" if loop.bpm else ""
        return (f"{loop.strokes} strokes{tempo}",)
    said = []
    if hit.bands_db:
        most = sorted(hit.bands_db.items(), key=lambda one: -one[1])[:2]
        said.append("most of it is " + " and ".join(name for name, db in most if db > -9))
    if hit.decay20_ms is not None:
        said.append(f"20 dB down after {hit.decay20_ms:.0f} ms")
    if hit.sweep_semitones is not None and hit.sweep_semitones > 2:
        said.append(f"its pitch falls by {hit.sweep_semitones:.0f} semitones")
    elif hit.flatness is not None and hit.flatness > 0.05:
        said.append("it is noise rather than a tone")
    return tuple(said)


def known(x: Array, rate: int) -> Known:
    """Everything that is kept of a sound of shape (frames,) or (frames, 2): a pure function of it.

    Parameters
    ----------
    x, rate
        Samples, shape (frames,) or (frames, channels); frames a second.

    Returns
    -------
    Known
        Its numbers, notes, portrait and picture.

    Examples
    --------
    >>> from juglant.core.recipes.kick import KickRecipe
    >>> from juglant.core.synth.kick import render_kick
    >>> found = known(render_kick(KickRecipe(), 48000, 126.0), 48000)
    >>> max(found.odds, key=found.odds.get), found.hit.note
    ('kick', 'G1')
    """
    heard = listening_channel(x)
    onset_ms = env.onset_ms(heard, rate)
    seen = portrait(heard, rate, onset_ms)
    speaks = odds(seen)
    loop = _loop(heard, rate)
    if loop is not None:
        speaks = {**speaks, "loop": _CERTAIN}
    elif heard.size > _LASTING_S * rate and goes_on(heard, rate):
        speaks = {**speaks, "other": _CERTAIN}
    best = max(speaks, key=lambda kind: speaks[kind])
    hit = measure(x, rate, look_for=_LOOK.get(best, "nothing")).hit
    return Known(hit, loop, speaks, _heard(hit, loop), _picture(heard), seen)
