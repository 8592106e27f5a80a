"""A one-shot made editable: a made body fitted to it, and what that does not explain as samples."""

from collections.abc import Callable
from dataclasses import asdict, dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from juglant.core import RATE
from juglant.core.errors import UserError
from juglant.core.hits.chain import each_channel
from juglant.core.hits.mixing import added
from juglant.core.hits.render import HitRenderer
from juglant.core.matching.bodies import KICK
from juglant.core.matching.distance import spectral_distance_db
from juglant.core.matching.fit import FittedBody, Progress, fitted_body
from juglant.core.measure import trace
from juglant.core.measure.defects import leading_silence_ms, strokes
from juglant.core.measure.hit import Measured, measure
from juglant.core.measure.stereo import listening_channel
from juglant.core.measure.transform import transform
from juglant.core.process import lowpart
from juglant.core.process.resampling import shift_pitch
from juglant.core.recipes.fields import limits
from juglant.core.recipes.hit import Hit, HitKind, Imported, Layer, Made808, MadeKick
from juglant.core.recipes.kick import KickRecipe
from juglant.core.synth import envelopes

Array = NDArray[np.float64]
# Stores samples under a name and gives their hash.
Keep = Callable[[Array, str], str]

# What a click lasts at most, and how long it is faded out for.
_CLICK_MS, _FADE_MS = 40.0, 15.0
# What is left after the click is a layer where it is this loud re the whole.
_REST_DB = -45.0
# The click begins above the body: so many times its note, within these; lower where the whole would be
# farther from the sound than this.
_ABOVE, _NEARER, _LEAST_HZ, _MOST_HZ, _NEAR_DB = 2.5, 1.3, 60.0, 400.0, 2.5
# A body made for lower notes is tuned up by whole semitones.
_HIGHEST_BODY_HZ, _MOST_SEMITONES = 140.0, 24
# What body and sound have in common is compared up to here.
_COMPARED_HZ = 1500.0
# With more left than this there is no body in it.
_NOTHING_DB = -1.5
_TRACED_DB, _LAST_CYCLES, _AGREE_CENTS = -40.0, 5, 20.0


@dataclass(frozen=True)
class Likeness:
    """How near a made hit comes: what is left of the wave, by the whole and by the body alone, in dB; the
    RMS distance of third octaves over 5 ms; the tail's pitch and the sweep's, in cents, None where one of
    both has none.
    """

    residual_db: float
    body_residual_db: float
    spectral_distance_db: float
    pitch_error_cents: float | None
    sweep_error_cents: float | None

    def as_dict(self) -> dict[str, Any]:
        """Plain values."""
        return asdict(self)


@dataclass(frozen=True)
class Apart:
    """A hit of layers that sounds like the one that was given, how near it comes, and what to mind."""

    hit: Hit
    sound: Array
    likeness: Likeness
    said: list[str]


def _tone_hz(found: Measured) -> float:
    """Where a tone settles, sure or not. UserError where there is none to fit a body to."""
    hit = found.hit
    if hit.fundamental_hz is not None:
        return hit.fundamental_hz
    if hit.estimate_hz is not None:
        # A short sweep is strongest before it has arrived.
        return float(min(hit.estimate_hz, *found.trace.hz[-_LAST_CYCLES:]))
    loud = found.trace.hz[(found.trace.hz > 25) & (found.trace.hz < 500)]
    if loud.size < 3:
        raise UserError("No tone can be followed in this sound: there is no body to make again.")
    return float(np.median(loud[loud.size // 2 :]))


def taken_apart(
    x: Array, name: str, kind: HitKind, hits: HitRenderer, keep: Keep, bpm: float = 120.0,
    progress: Progress | None = None,
) -> Apart:  # fmt: skip
    """A hit of layers that sounds like `x`, shape (frames,) or (frames, 2), at the engine's rate.

    The body is a made kick or 808, its recipe fitted; its click, and what else it does not explain, are
    short samples, kept by `keep`. `progress` is told the share of the way, and may say no. UserError for
    silence, for what is too short, and where no tone can be followed.

    Parameters
    ----------
    x
        Samples, shape (frames,) or (frames, channels).
    name
        What it is to be called.
    kind
        Of hit.
    hits
        Renders it.
    keep, bpm
        Keeps samples under a name and gives their hash; tempo.
    progress
        Hears how far it is.

    Returns
    -------
    Apart
        The hit, how like it is, and what is said of it.

    Examples
    --------
    >>> from juglant.core.kept import Kept
    >>> from juglant.core.recipes.kick import KickRecipe
    >>> from juglant.core.synth.kick import render_kick
    >>> kept = {}
    >>> hits = HitRenderer(Kept(100), lambda digest: (kept[digest], 48000))
    >>> def keep(x, name):
    ...     kept[f"{len(kept):064x}"] = x
    ...     return f"{len(kept) - 1:064x}"
    >>> x = render_kick(KickRecipe(end_hz=55.0, decay_ms=150.0, length_ms=200.0), 48000, 120.0)
    >>> taken_apart(x, "One", "kick", hits, keep).hit.kind
    'kick'
    """
    heard = listening_channel(x)
    if not np.any(np.abs(heard) > 1e-6):
        raise UserError("The sound is silent.")
    several = len(strokes(heard, RATE).at_ms)
    if several > 1:
        raise UserError(f"The sound holds {several} strokes: cut it first, and take one.")
    found = measure(heard, RATE)
    hz = _tone_hz(found)
    up = int(np.clip(np.ceil(12 * np.log2(hz / _HIGHEST_BODY_HZ)), 0, _MOST_SEMITONES))
    low = shift_pitch(heard, -float(up)) if up else heard
    slower = 2 ** (up / 12)
    decay_ms = (found.hit.decay60_ms or found.hit.length_ms) * slower
    begins = leading_silence_ms(low, RATE)
    fitted = fitted_body(
        low,
        RATE,
        trace.Trace(found.trace.time_ms * slower, found.trace.hz / slower),
        hz / slower,
        decay_ms,
        begins if begins > 1.0 else 0.0,
        progress=progress,
    )
    if fitted.left_db > _NOTHING_DB:
        raise UserError(
            f"A made body explains nothing of this sound: {10 ** (fitted.left_db / 10):.0%} is left."
        )
    layer, body = _body_layer(fitted, heard, float(up), hits, bpm)
    # As little of the low end as will do is kept as a sample: that part does not follow another note.
    for above in (_ABOVE, _NEARER, 0.0):
        from_hz = float(np.clip(above * hz, _LEAST_HZ, _MOST_HZ)) if above else 0.0
        clicks = _clicks(x, heard, body, from_hz)
        sound = added([body, *clicks.values()])
        whole = listening_channel(sound)
        distance_db = spectral_distance_db(heard, whole, RATE)
        if distance_db < _NEAR_DB:
            break
    layers = [layer]
    for job, samples in clicks.items():
        label = f"{name} {job}"[:200]
        source = Imported(audio=keep(samples, label), name=label)
        layers.append(Layer(name=job, job="click" if job == "click" else "texture", source=source))
    likeness = _likeness(found, heard, body, whole, distance_db)
    hit = Hit(name=name[:60] or "Kick", kind=kind, layers=tuple(layers))
    return Apart(hit, sound, likeness, _said(fitted, likeness, from_hz))


def _body_layer(
    fitted: FittedBody, heard: Array, up: float, hits: HitRenderer, bpm: float
) -> tuple[Layer, Array]:
    """The fitted body as a layer at the level at which it explains most, and as long as the sound."""
    source = MadeKick(recipe=fitted.recipe) if fitted.kind is KICK else Made808(recipe=fitted.recipe)
    plain = Layer(name="body", job="body", source=source, tune_semitones=up)
    alone = np.zeros(heard.size)
    made = listening_channel(hits.hit(Hit(layers=(plain,)), bpm))
    offset = round(fitted.start_ms * 2 ** (-up / 12), 3)
    first = round(offset / 1000 * RATE)
    count = min(made.size, heard.size - first)
    alone[first : first + count] = made[:count]
    seen, wanted = (lowpart.band(one, 0.0, _COMPARED_HZ, RATE) for one in (alone, heard))
    gain = float(seen @ wanted) / max(float(seen @ seen), 1e-20)
    level_db = 20 * float(np.log10(max(abs(gain), 1e-6)))
    low, high = limits(KickRecipe, "level_db")
    own_db = float(np.clip(level_db, low, high))
    recipe = fitted.recipe.model_copy(update={"level_db": own_db})
    layer = plain.model_copy(
        update={
            "source": type(source)(recipe=recipe), "offset_ms": offset,
            "gain_db": float(np.clip(level_db - own_db, *limits(Layer, "gain_db"))),
            "polarity": "inverted" if gain < 0 else "normal",
        }
    )  # fmt: skip
    return layer, gain * alone


def _clicks(x: Array, heard: Array, body: Array, from_hz: float) -> dict[str, Array]:
    """What the body does not explain above a frequency: the click, and the rest where it is heard."""
    left = x - (body if x.ndim == 1 else body[:, None])
    left = each_channel(left, lambda channel: lowpart.band(channel, from_hz, 20_000.0, RATE))
    time_s = np.arange(left.shape[0]) / RATE
    gain = envelopes.release(time_s, _CLICK_MS / 1000, _FADE_MS / 1000)
    gains = gain if left.ndim == 1 else gain[:, None]
    found = {"click": (left * gains)[: round(_CLICK_MS / 1000 * RATE)]}
    rest = left * (1 - gains)
    if np.sum(rest**2) > np.sum(x**2) * 10 ** (_REST_DB / 10):
        found["rest"] = rest
    silent = 1e-5 * float(np.max(np.abs(heard)))
    return {job: samples for job, samples in found.items() if np.max(np.abs(samples), initial=0.0) > silent}


def _share_db(left: Array, whole: Array) -> float:
    return 10 * float(np.log10(max(float(np.sum(left**2)), 1e-20) / max(float(np.sum(whole**2)), 1e-20)))


def _likeness(found: Measured, heard: Array, body: Array, whole: Array, distance_db: float) -> Likeness:
    hz, hz_again = (_settled_hz(one) for one in (found, measure(whole, RATE)))
    pitch = None if hz is None or hz_again is None else abs(1200 * float(np.log2(hz_again / hz)))
    return Likeness(
        residual_db=_share_db(whole - heard, heard), body_residual_db=_share_db(body - heard, heard),
        spectral_distance_db=distance_db, pitch_error_cents=pitch,
        sweep_error_cents=_course_error_cents(heard, body),
    )  # fmt: skip


def _settled_hz(measured: Measured) -> float | None:
    """The note of a tail; where it is withheld, the middle of its last cycles. None where there are few of
    them, or they do not agree.
    """
    if measured.hit.fundamental_hz is not None:
        return measured.hit.fundamental_hz
    last = measured.trace.hz[-_LAST_CYCLES:]
    middle = float(np.median(last)) if last.size == _LAST_CYCLES else 0.0
    agree = middle > 0 and float(np.max(np.abs(1200 * np.log2(last / middle)))) < _AGREE_CENTS
    return middle if agree else None


def _course_error_cents(heard: Array, body: Array) -> float | None:
    """How far cycles of both usually differ in frequency, in cents; None where too few can be followed."""
    courses = []
    for x in (heard, body):
        floor = 10 ** (_TRACED_DB / 20) * float(np.max(np.abs(x), initial=0.0))
        courses.append(trace.cycles(x, RATE, 0.004, floor, transform(x, RATE)))
    one, other = courses
    if min(one.hz.size, other.hz.size) < 4:
        return None
    at = one.time_ms[(one.time_ms > other.time_ms[0]) & (one.time_ms < other.time_ms[-1])]
    if at.size < 3:
        return None
    there = np.interp(at, one.time_ms, np.log2(one.hz)) - np.interp(at, other.time_ms, np.log2(other.hz))
    return float(1200 * np.median(np.abs(there)))


def _said(fitted: FittedBody, likeness: Likeness, from_hz: float) -> list[str]:
    said = []
    if fitted.left_db > -10.0:
        said.append(
            f"The made body explains little of this sound: {10 ** (fitted.left_db / 10):.0%} of its low "
            "end is left. Another note or length will sound like another drum."
        )
        if not from_hz:
            said.append("So the samples hold what is missing of the low end too.")
    elif likeness.body_residual_db > -10.0:
        said.append("Much of this sound is not its tone: that part is kept as a sample.")
    if likeness.pitch_error_cents is not None and likeness.pitch_error_cents > 5.0:
        said.append(f"Its tail lies {likeness.pitch_error_cents:.0f} cents beside the original’s.")
    return said
