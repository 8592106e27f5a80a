"""Tracks that common practice calls clean, and the same with one fault each: invented, and made apart from
the product's own generators. Recorded drums and basses are those of a General MIDI set.

What makes one clean: the kick on the tonic or too short to have a note; a bass that is silent under the
kick, lies above it, or is turned down for it; an 808 that owns the sub under a kick without any; peaks
under -1 dBFS.
"""

import hashlib
import io
from dataclasses import dataclass, field, replace
from functools import cache, lru_cache

import numpy as np
import soundfile
from numpy.typing import NDArray
from scipy import fft

from bench import instruments
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.hit import Hit, Imported, Layer
from juglant.core.recipes.notes import HitStep, on_beats
from juglant.core.recipes.parts import ImportedBass
from juglant.core.recipes.track import TrackState

Array = NDArray[np.float64]
RATE = 48_000
GENRES = ("house", "techno", "trap", "trance")
TONICS = ("C", "C#", "D", "Eb", "E", "F", "F#", "G", "Ab", "A", "Bb", "B")


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


def hz_of(midi: float) -> float:
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
    while hz_of(midi) < 84:
        midi += 12
    x = kick(hz_of(midi), ms, sweep=3, sweep_ms=6, click=0.3)
    x = highpassed(np.concatenate([x, np.zeros(RATE // 4)]), 64)[: x.size]
    x *= np.minimum(1.0, np.arange(x.size)[::-1] / (0.02 * RATE))
    return np.asarray(0.75 * x / np.max(np.abs(x)))


def tone(midi: float, seconds: float, kind: str) -> Array:
    """A note of a synthetic bass: "sub", "saw", "pluck" or "808"."""
    t = np.arange(round(seconds * RATE)) / RATE
    hz = hz_of(midi)
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
    bins = fft.rfft(x)
    ratio = (fft.rfftfreq(x.size, 1 / RATE) / hz) ** order
    return np.asarray(fft.irfft(bins * ratio / (1 + ratio), x.size))


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
    made = _clean(genre, seed)
    return replace(made, files=dict(made.files))


@lru_cache(maxsize=4)
def _clean(genre: str, seed: int) -> Track:
    rng = np.random.default_rng((GENRES.index(genre), seed))
    tonic = int(rng.integers(12)) if seed >= 12 else (seed * 5 + GENRES.index(genre)) % 12
    recorded = seed % 2 == 1
    low = {"house": (118, 128), "techno": (128, 140), "trap": (130, 160), "trance": (134, 142)}[genre]
    bpm = float(np.round(rng.uniform(*low), 1))
    bars, beats = 2, [float(n) for n in range(8)]
    root = 24 + tonic + (12 if tonic < 5 else 0)
    brief = {
        "bpm": bpm, "tonic": TONICS[tonic], "mode": str(rng.choice(["minor", "dorian", "major"])),
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
        hz = hz_of(root if root > 28 else root + 12)
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
    track.state = TrackState.of(
        brief=Brief.model_validate({**brief, "sub_owner": owner}),
        kick=Hit(layers=(Layer(source=kick_source),), steps=on_beats(*kick_beats)),
        bass=ImportedBass(audio=track.keep(bass * level), name="bass.wav"),
        hits=tuple(hits), ducking=False, duck=DuckRecipe(),
    )  # fmt: skip
    return track


def clean_tracks(count: int = 64) -> list[Track]:
    """Clean tracks of all genres in turn."""
    return [clean(GENRES[n % len(GENRES)], n // len(GENRES)) for n in range(count)]
