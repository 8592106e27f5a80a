"""Tracks that common practice calls clean, and the same with one fault each: invented, and made apart from
the product's own generators. Recorded drums and basses are those of a General MIDI set.

What makes one clean: the kick on the tonic or too short to have a note; a bass that is silent under the
kick, lies above it, or is turned down for it; an 808 that owns the sub under a kick without any; peaks
under -1 dBFS.
"""

import hashlib
import io
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cache

import numpy as np
import soundfile
from numpy.typing import NDArray

from bench import instruments
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.hit import Hit, Imported, Layer
from juglant.core.recipes.notes import HitStep
from juglant.core.recipes.track import ImportedBass, Stem, TrackState, Voice

Array = NDArray[np.float64]
RATE = 48_000
GENRES = ("house", "techno", "trap", "trance")
_TONICS = ("C", "C#", "D", "Eb", "E", "F", "F#", "G", "Ab", "A", "Bb", "B")


@dataclass
class Track:
    """A track and the files that it is made from, by their hash."""

    name: str
    state: TrackState
    files: dict[str, Array] = field(default_factory=dict)

    def load(self, digest: str) -> tuple[Array, int]:
        """As a session asks for them."""
        return self.files[digest], RATE

    def keep(self, x: Array) -> str:
        """A file of the track: its hash."""
        digest = hashlib.sha256(np.ascontiguousarray(x).tobytes()).hexdigest()
        self.files[digest] = x
        return digest


def wav(x: Array) -> bytes:
    """A sound as the bytes of a 24-bit WAV."""
    out = io.BytesIO()
    soundfile.write(out, x, RATE, subtype="PCM_24", format="WAV")
    return out.getvalue()


def _hz(midi: float) -> float:
    return float(440.0 * 2 ** ((midi - 69) / 12))


def kick(hz: float, ms: float, *, sweep: float = 4.0, sweep_ms: float = 12.0, click: float = 0.15) -> Array:
    """A kick: a sine that falls from `sweep` times its pitch, 60 dB down after `ms`, and a click."""
    t = np.arange(round((ms / 1000 + 0.02) * RATE)) / RATE
    phase = 2 * np.pi * np.cumsum(hz * (1 + (sweep - 1) * np.exp(-t / (sweep_ms / 1000)))) / RATE
    body = np.sin(phase) * 10 ** (-3 * t / (ms / 1000))
    rng = np.random.default_rng(round(hz * 10))
    noise = np.convolve(rng.standard_normal(t.size), [1, 0.5, 0.2], mode="same")
    body += click * noise / np.max(np.abs(noise)) * np.exp(-t / 0.0018)
    body *= np.minimum(1.0, np.arange(t.size)[::-1] / (0.008 * RATE))
    return np.asarray(0.7 * body / np.max(np.abs(body)))


def hollow(root: int, ms: float) -> Array:
    """A short kick on the tonic with little below 70 Hz, for a bass that owns the sub."""
    midi = root
    while _hz(midi) < 84:
        midi += 12
    x = kick(_hz(midi), ms, sweep=3, sweep_ms=6, click=0.3)
    x = highpassed(np.concatenate([x, np.zeros(RATE // 4)]), 64)[: x.size]
    x *= np.minimum(1.0, np.arange(x.size)[::-1] / (0.02 * RATE))
    return np.asarray(0.75 * x / np.max(np.abs(x)))


def tone(midi: float, seconds: float, kind: str) -> Array:
    """A note of a synthetic bass: "sub", "saw", "pluck" or "808"."""
    t = np.arange(round(seconds * RATE)) / RATE
    hz = _hz(midi)
    if kind == "808":
        phase = 2 * np.pi * np.cumsum(hz * (1 + 2 * np.exp(-t / 0.012))) / RATE
        y = np.tanh(1.4 * np.sin(phase)) * np.exp(-t / 0.9)
    elif kind == "sub":
        y = np.sin(2 * np.pi * hz * t)
    else:
        partials = [n for n in range(1, 24) if n * hz < 6000]
        cut = 900 if kind == "saw" else 500
        weights = [1 / n / (1 + (n * hz / cut) ** 2) for n in partials]
        waves = [w * np.sin(2 * np.pi * hz * n * t) for n, w in zip(partials, weights, strict=True)]
        y = np.sum(waves, axis=0)
        if kind == "pluck":
            y = y * np.exp(-t / 0.16)
    ease = np.minimum(1.0, np.minimum(t / 0.004, t[::-1] / 0.012))
    return np.asarray(y * ease)


def highpassed(x: Array, hz: float, order: int = 4) -> Array:
    """Through a zero-phase high-pass, round the loop."""
    bins = np.fft.rfft(x)
    ratio = (np.fft.rfftfreq(x.size, 1 / RATE) / hz) ** order
    return np.asarray(np.fft.irfft(bins * ratio / (1 + ratio), x.size))


def line(notes: list[tuple[float, float, int]], bpm: float, bars: int, kind: str, peak: float) -> Array:
    """A loop of notes (beat, beats, MIDI number) on a synthetic bass or a recorded one."""
    beat = 60 / bpm
    frames = round(4 * bars * beat * RATE)
    if kind in instruments.BASSES:
        events = [(at * beat, length * beat, midi, 100) for at, length, midi in notes]
        x = instruments.played(events, frames / RATE + 0.5, instruments.BASSES[kind])
        mono = x.mean(axis=1)
        out = mono[:frames].copy()
        rest = mono[frames : 2 * frames]
        out[: rest.size] += rest
    else:
        out = np.zeros(frames)
        for at, length, midi in notes:
            y = tone(midi, length * beat, kind)
            start = round(at * beat * RATE)
            index = (start + np.arange(y.size)) % frames
            out[index] += y
    return np.asarray(out * peak / max(float(np.max(np.abs(out))), 1e-9))


def ducked(x: Array, bpm: float, beats: list[float], depth_db: float, ms: float) -> Array:
    """A loop turned down at every one of `beats`, back after `ms`."""
    beat = 60 / bpm * RATE
    gain = np.zeros(x.size)
    at = np.arange(x.size)
    for start in beats:
        since = ((at - start * beat + 0.012 * RATE) % x.size) / RATE * 1000
        down = np.minimum(since / 8, 1.0) * np.clip((ms + 12 - since) / (0.45 * ms), 0.0, 1.0)
        gain = np.minimum(gain, -depth_db * down)
    return np.asarray(x * 10 ** (gain / 20))


@cache
def _drums(kit: int) -> dict[int, Array]:
    keys = [35, 36, 38, 39, 42, 46, 45]
    return instruments.one_shots(keys, kit, 1.0)


def drum(key: int, kit: int, peak: float) -> Array:
    """A recorded drum, from its first sample on, shape (frames,)."""
    x = _drums(kit)[key].mean(axis=1)
    start = int(np.argmax(np.abs(x) > 0.01 * np.max(np.abs(x))))
    return np.asarray(x[max(start - 20, 0) :] * peak / np.max(np.abs(x)))


def _hit(track: Track, name: str, kind: str, x: Array, places: list[float]) -> Hit:
    source = Imported(audio=track.keep(x), name=f"{name.lower()}.wav")
    steps = tuple(HitStep(at=at) for at in places)
    return Hit.model_validate(
        {"name": name, "kind": kind, "layers": (Layer(source=source),), "steps": steps}
    )


def clean(genre: str, seed: int) -> Track:
    """A clean track of a genre; seeds go through keys, tempos, owners, made and recorded sounds."""
    rng = np.random.default_rng((GENRES.index(genre), seed))
    tonic = int(rng.integers(12)) if seed >= 12 else (seed * 5 + GENRES.index(genre)) % 12
    recorded = seed % 2 == 1
    low = {"house": (118, 128), "techno": (128, 140), "trap": (130, 160), "trance": (134, 142)}[genre]
    bpm = float(np.round(rng.uniform(*low), 1))
    bars, beats = 2, [float(n) for n in range(8)]
    root = 24 + tonic + (12 if tonic < 5 else 0)
    brief = {
        "bpm": bpm, "tonic": _TONICS[tonic], "mode": str(rng.choice(["minor", "dorian", "major"])),
        "chord_roots": ("tonic", "tonic"),
    }  # fmt: skip
    track = Track(f"{genre} {seed}", TrackState())
    kick_beats: tuple[float, ...] = (1.0, 2.0, 3.0, 4.0)
    beat_ms = 60_000 / bpm
    if genre == "trap":
        owner, kick_beats = "bass", (1.0, 3.5)
        struck = hollow(root, 210)
        notes = [(0.0, 2.4, root), (2.5, 1.4, root), (4.0, 2.4, root), (6.5, 1.4, root)]
        bass = line(notes, bpm, bars, "808", 0.38)
    elif genre == "house" and seed % 4 >= 2:
        # A short kick over a bass that owns the sub and plays on the off-beats.
        owner = "bass"
        struck = hollow(root, 170)
        kind = "fingered" if recorded else "sub"
        midi = root if root >= 28 else root + 12
        bass = line([(n + 0.5, 0.42, midi) for n in range(8)], bpm, bars, kind, 0.45)
    else:
        owner = "kick"
        hz = _hz(root if root > 28 else root + 12)
        struck = kick(hz, float(rng.uniform(0.7, 0.95)) * beat_ms, sweep_ms=float(rng.uniform(7, 12)))
        if genre == "trance":
            notes = [(n + part, 0.2, root + 12) for n in range(8) for part in (0.25, 0.5, 0.75)]
            bass = highpassed(line(notes, bpm, bars, "pluck", 0.3), 90)
            bass = ducked(bass, bpm, beats, 24, 0.5 * beat_ms)
        elif genre == "techno":
            notes = [(n + 0.5, 0.4, root + 12) for n in range(8)]
            bass = highpassed(line(notes, bpm, bars, "saw", 0.3), 62)
            bass = ducked(bass, bpm, beats, 24, 0.45 * beat_ms)
        else:
            midi = root + 12 if root + 12 < 48 else root
            kind = "synthetic 1" if recorded else "saw"
            bass = line([(n + 0.5, 0.4, midi) for n in range(8)], bpm, bars, kind, 0.32)
            bass = ducked(highpassed(bass, 65), bpm, beats, 30, 0.5 * beat_ms)
    if recorded and owner == "kick" and genre == "house":
        # A recorded kick, as it comes: short enough to have no note.
        struck = drum(36 if seed % 3 else 35, 0, 0.7)[: round(0.45 * beat_ms / 1000 * RATE)]
        struck = struck * np.minimum(1.0, np.arange(struck.size)[::-1] / (0.06 * RATE))
    kit = (0, 8, 16, 40)[seed % 4]
    hits = [_hit(track, "Hat", "hat", drum(42, kit, 0.15), [0.5, 1.5, 2.5, 3.5])]
    backbeat = [1.0, 3.0] if genre != "trap" else [2.0]
    key, name, kind = (39, "Clap", "clap") if seed % 3 else (38, "Snare", "snare")
    hits.append(_hit(track, name, kind, drum(key, kit, 0.35), backbeat))
    # Lower the whole rather than let it clip.
    level = 0.78
    kick_source = Imported(audio=track.keep(struck * level), name="kick.wav")
    track.state = TrackState(
        brief=Brief.model_validate({**brief, "sub_owner": owner, "kick_beats": kick_beats}),
        kick=Hit(layers=(Layer(source=kick_source),)),
        bass=ImportedBass(audio=track.keep(bass * level), name="bass.wav"),
        hits=tuple(hits), ducking=False, duck=DuckRecipe(),
    )  # fmt: skip
    return track


def clean_tracks(count: int = 64) -> list[Track]:
    """Clean tracks of all genres in turn."""
    return [clean(GENRES[n % len(GENRES)], n // len(GENRES)) for n in range(count)]


# A fault: its name, how a finding's id must begin, and what makes it of a clean track.
Fault = tuple[str, tuple[str, ...], Callable[[Track], None]]


def _swap_kick(track: Track, change: Callable[[Array], Array]) -> None:
    source = track.state.kick.layers[0].source
    assert isinstance(source, Imported)
    new = source.model_copy(update={"audio": track.keep(change(track.files[source.audio]))})
    track.state = track.state.model_copy(update={"kick": track.state.kick.with_source(0, new)})


def _swap_bass(track: Track, change: Callable[[Array], Array]) -> None:
    bass = track.state.bass
    assert isinstance(bass, ImportedBass)
    new = bass.model_copy(update={"audio": track.keep(change(track.files[bass.audio]))})
    track.state = track.state.model_copy(update={"bass": new})


def _hum(x: Array, db: float, hz: float = 50.0) -> Array:
    y = np.concatenate([x, np.zeros(round(0.5 * RATE))])
    t = np.arange(y.size) / RATE
    hum = (
        np.sin(2 * np.pi * hz * t) + 0.4 * np.sin(4 * np.pi * hz * t + 1) + 0.3 * np.sin(6 * np.pi * hz * t)
    )
    return np.asarray(y + np.max(np.abs(x)) * 10 ** (db / 20) * hum)


def _resampled(x: Array, semitones: float) -> Array:
    count = round(x.size / 2 ** (semitones / 12))
    return np.asarray(np.interp(np.linspace(0, x.size - 1, count), np.arange(x.size), x))


def _brief(track: Track, **changes: object) -> None:
    brief = track.state.brief.model_copy(update=changes)
    track.state = track.state.model_copy(update={"brief": brief})


def _long_bass(track: Track, kind: str = "sub") -> Array:
    """A bass that sounds throughout, in the kick's own octave."""
    brief = track.state.brief
    root = 24 + _TONICS.index(brief.tonic) + (12 if _TONICS.index(brief.tonic) < 5 else 0)
    notes = [(4.0 * bar, 3.95, root) for bar in range(brief.bars)]
    return line(notes, brief.bpm, brief.bars, kind, 0.45)


def _second_line(track: Track, x: Array) -> None:
    voice = Voice(name="second", bass=ImportedBass(audio=track.keep(x), name="second.wav"))
    track.state = track.state.model_copy(update={"lines": (voice,)})


def _stem(track: Track, x: Array) -> None:
    track.state = track.state.model_copy(update={"stems": (Stem(name="Loop", audio=track.keep(x)),)})


def _bass_file(track: Track) -> Array:
    assert isinstance(track.state.bass, ImportedBass)
    return track.files[track.state.bass.audio]


def _ducks(track: Track, **dials: object) -> None:
    duck = DuckRecipe.model_validate(dials)
    track.state = track.state.model_copy(update={"ducking": True, "duck": duck})


def _time(x: Array) -> Array:
    return np.asarray(np.arange(x.size) / RATE)


def _tuned(track: Track, cents: float, ms: float) -> Array:
    """A kick with a clear note, some cents from the tonic."""
    return 0.6 * kick(_hz(36 + _TONICS.index(track.state.brief.tonic) + cents / 100), ms)


def _silent(x: Array, ms: float, noise: float = 0.0) -> Array:
    rng = np.random.default_rng(1)
    return np.concatenate([noise * rng.standard_normal(round(ms / 1000 * RATE)), x])


def _full_kick(track: Track) -> None:
    _swap_kick(track, lambda _: 0.7 * kick(49.0, 800))
    _swap_bass(track, lambda _: _long_bass(track))
    _brief(track, sub_owner="bass")


def _under_kick(track: Track) -> None:
    _swap_bass(track, lambda _: _long_bass(track))
    _brief(track, sub_owner="kick")


def _nobody(track: Track) -> None:
    _swap_kick(track, lambda x: highpassed(x, 130, 12))
    _swap_bass(track, lambda x: highpassed(x, 130, 12))
    _brief(track, sub_owner="kick")


def _gone_owner(track: Track) -> None:
    _swap_kick(track, lambda x: highpassed(x, 80, 8))
    _swap_bass(track, lambda _: highpassed(_long_bass(track, "saw"), 160, 12))
    _brief(track, sub_owner="bass")


def _ducked_owner(track: Track) -> None:
    _swap_kick(track, lambda _: highpassed(kick(70, 110), 80, 8))
    _swap_bass(track, lambda _: _long_bass(track))
    _brief(track, sub_owner="bass")
    _ducks(track, depth_db=12, hold_ms=60, release_ms=120, band="all")


def _too_loud(track: Track) -> None:
    _swap_kick(track, lambda x: 2.2 * x)
    _swap_bass(track, lambda x: 2.2 * x)


def _ringing(x: Array, hz: float, seconds: float, gain: float) -> Array:
    t = _time(x)
    y = x + gain * np.sin(2 * np.pi * hz * t) * np.exp(-t / seconds)
    return np.asarray(0.6 * y / np.max(np.abs(y)))


def _rumbling(x: Array) -> Array:
    ease = np.minimum(1.0, np.arange(x.size)[::-1] / (0.05 * RATE))
    return np.asarray(x + 0.12 * np.sin(2 * np.pi * 22 * _time(x)) * ease)


FAULTS: tuple[Fault, ...] = (
    ("silence in front of the kick", ("leading-silence",),
     lambda t: _swap_kick(t, lambda x: _silent(x, 14))),
    ("silence in front, with noise", ("leading-silence",),
     lambda t: _swap_kick(t, lambda x: _silent(x, 9, 1e-4))),
    ("silence in front of the bass", ("leading-silence",),
     lambda t: _swap_bass(t, lambda x: _silent(_long_bass(t), 20)[: x.size])),
    ("a clipped kick", ("flat-top",), lambda t: _swap_kick(t, lambda x: np.clip(2.5 * x, -0.6, 0.6))),
    ("a clipped bass", ("flat-top",), lambda t: _swap_bass(t, lambda x: np.clip(2.0 * x, -0.35, 0.35))),
    ("an offset", ("dc-offset",),
     lambda t: _swap_kick(t, lambda x: np.concatenate([x, np.zeros(RATE // 5)]) + 0.02)),
    ("50 Hz hum", ("hum",), lambda t: _swap_kick(t, lambda x: _hum(x, -40))),
    ("60 Hz hum", ("hum",), lambda t: _swap_kick(t, lambda x: _hum(x, -46, 60.0))),
    ("two strokes in the file", ("several-strokes",),
     lambda t: _swap_kick(t, lambda x: np.concatenate([x, np.zeros(round(0.1 * RATE)), 0.8 * x]))),
    ("a texture as a kick", ("continuous",),
     lambda t: _swap_kick(t, lambda _: 0.1 * np.random.default_rng(2).standard_normal(2 * RATE))),
    ("kick 40 cents sharp", ("off-key",), lambda t: _swap_kick(t, lambda _: _tuned(t, 40, 380))),
    ("kick 30 cents flat", ("off-key",), lambda t: _swap_kick(t, lambda _: _tuned(t, -30, 380))),
    ("bass under the whole kick", ("collision", "sub-"), _under_kick),
    ("a full kick over an 808 that owns the sub", ("sub-shared", "collision"), _full_kick),
    ("nobody in the sub", ("sub-nobody",), _nobody),
    ("the owner high-passed away", ("sub-nobody",), _gone_owner),
    ("the owner ducked as a whole", ("sub-loss",), _ducked_owner),
    ("a ducking that clicks", ("duck-clicks",),
     lambda t: _ducks(t, depth_db=36, attack_ms=0.5, hold_ms=20, release_ms=100)),
    ("a ducking that never returns", ("duck-never-returns",),
     lambda t: _ducks(t, depth_db=12, hold_ms=700, release_ms=1200)),
    ("a mix over full scale", ("mix-peak", "kick-peak"), _too_loud),
    ("rumble below 28 Hz", ("rumble",), lambda t: _swap_kick(t, _rumbling)),
    ("a boxy kick", ("kick-boxy",),
     lambda t: _swap_kick(t, lambda _: _ringing(_tuned(t, -1200, 400), 380, 0.06, 0.5))),
    ("a boomy kick", ("kick-boomy",),
     lambda t: _swap_kick(t, lambda _: _ringing(_tuned(t, -1200, 400), 190, 0.1, 0.8))),
    ("a kick longer than its gap", ("too-long", "tail-spill"),
     lambda t: _swap_kick(t, lambda _: _tuned(t, 0, 2600))),
    ("bass at another tempo", ("tempo",), lambda t: _swap_bass(t, lambda x: _resampled(x, -1.1))),
    ("bass of four bars in a loop of two", ("cut-short",),
     lambda t: _swap_bass(t, lambda x: np.concatenate([x, x]))),
    ("two lines that cancel", ("lines-cancel",),
     lambda t: _second_line(t, -0.9 * np.roll(_bass_file(t), round(0.0006 * RATE)))),
    ("a stem at another tempo", ("tempo",), lambda t: _stem(t, _resampled(_bass_file(t), 1.4))),
    ("a clipped stem", ("flat-top",), lambda t: _stem(t, np.clip(3 * _bass_file(t), -0.3, 0.3))),
    ("a bass whose low end cancels in mono", ("mono",),
     lambda t: _swap_bass(t, lambda _: np.stack([_long_bass(t), -0.6 * _long_bass(t)], axis=1))),
)  # fmt: skip


def faulty(fault: Fault, seed: int) -> Track:
    """A clean track with one fault."""
    genre = GENRES[seed % len(GENRES)]
    track = clean(genre, 4 * (seed // 4) + (seed % 4) * 3 % 4)
    track.name = f"{fault[0]}, in {track.name}"
    fault[2](track)
    return track
