"""A kit: hits with their velocities and round robins, instruments note by note, and a map of both.

File names are in the order of the keys, and of the velocities and turns on each, so that any sampler maps
them by name; every WAV carries its key in a `smpl` chunk (Multimedia Programming Interface and Data
Specifications 1.0, IBM and Microsoft, 1991, and its registration of `smpl`).
"""

import csv
import io
from collections.abc import Sequence
from dataclasses import dataclass

import mido
import numpy as np
from numpy.typing import NDArray

from juglant.core import RATE
from juglant.core.errors import UserError
from juglant.core.hits.render import strokes_of, varies
from juglant.core.lowend.instrument import instrument
from juglant.core.lowend.session import Session
from juglant.core.music import midi_to_hz, note_name
from juglant.core.recipes.hit import Hit, HitKind
from juglant.core.recipes.parts import Voice
from juglant.core.recipes.track import TrackState
from juglant.files.audio import encode_wav24
from juglant.files.names import numbered, plain_name

Array = NDArray[np.float64]

PEAK_DB = -1.0
# Where hits of a kind lie (General MIDI System Level 1); what finds its key taken takes the next free one.
_KEYS: dict[HitKind, int] = {"kick": 36, "snare": 38, "clap": 39, "hat": 42, "tom": 45, "808": 35}
_OTHER_KEY, _DRUM_CHANNEL = 60, 9
# Up to which MIDI velocity a layer of a made hit plays, and how hard it is struck for it.
_LAYERS = ((54, 0.35), (96, 0.7), (127, 1.0))
# So many round robins of a hit whose strokes vary.
_TURNS = 4
# From which note to which an instrument goes unless it is said: C1 to C3.
RANGE = (24, 48)


@dataclass(frozen=True)
class Sample:
    """One file of a kit: where it lies on keys and velocities, and its samples."""

    name: str
    samples: Array
    low: int
    high: int
    from_velocity: int
    to_velocity: int
    choke: str
    root: int
    loop: tuple[int, int] | None = None


def _layers(hit: Hit) -> list[tuple[int, int, float, int]]:
    """Lowest and highest MIDI velocity, the velocity it is struck with, and turn of every file of a hit."""
    takes = strokes_of(hit)
    if len(takes) > 1:
        reach = sorted({velocity for _, velocity, _ in takes})
        edges = {one: round(127 * one) for one in reach}
        below = dict(zip(reach, [0, *(edges[one] for one in reach[:-1])], strict=True))
        return [(below[velocity] + 1, edges[velocity], velocity, turn) for _, velocity, turn in takes]
    turns = range(_TURNS) if varies(hit) else range(1)
    felt = any((hit.velocity.level, hit.velocity.brightness, hit.velocity.decay, hit.velocity.pitch))
    layers = _LAYERS if felt else _LAYERS[-1:]
    lows = [1, *(to + 1 for to, _ in layers[:-1])]
    return [
        (low, to, velocity, turn)
        for low, (to, velocity) in zip(lows, layers, strict=True) for turn in turns
    ]  # fmt: skip


def _keys(hits: Sequence[Hit]) -> list[int]:
    taken: set[int] = set()
    found = []
    for hit in hits:
        key = _KEYS.get(hit.kind, _OTHER_KEY)
        while key in taken:
            key += 1
        taken.add(key)
        found.append(key)
    return found


def drum_samples(session: Session, bpm: float, hits: Sequence[Hit]) -> list[Sample]:
    """Every hit on its key: the loudest of its files at -1 dBFS, softer ones as much below as they are."""
    found = []
    names = numbered([plain_name(hit.name) for hit in hits])
    for name, key, hit in zip(names, _keys(hits), hits, strict=True):
        struck = [
            (low, to, turn, session.sounds.hits.hit(hit, bpm, velocity, turn))
            for low, to, velocity, turn in _layers(hit)
        ]
        peak = max(float(np.abs(x).max(initial=0.0)) for *_, x in struck)
        gain = 10 ** (PEAK_DB / 20) / max(peak, 1e-9)
        found += [
            Sample(
                f"{key:03d}_{name}_v{low:03d}-{to:03d}_{turn + 1}", x * gain, key, key, low, to,
                hit.choke, key,
            )
            for low, to, turn, x in struck
        ]  # fmt: skip
    return found


def instrument_samples(
    session: Session, state: TrackState, part: Voice | Hit, low: int, high: int
) -> list[Sample]:
    """A line or an 808, a file for each semitone."""
    name, flats = plain_name(part.name), state.brief.key.flats
    choke = part.choke if isinstance(part, Hit) else part.line.choke if part.line else "none"
    return [
        Sample(
            f"{key.midi:03d}_{name}_{plain_name(note_name(key.midi, flats))}", key.samples, key.midi,
            key.midi, 1, 127, choke, key.midi, key.loop,
        )
        for key in instrument(session, state, part.id, low, high)
    ]  # fmt: skip


def _map_csv(samples: Sequence[Sample]) -> str:
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\n")
    table.writerow(
        ["file", "low_note", "high_note", "low_velocity", "high_velocity", "choke_group", "root_note",
         "fine_tune_cents"]
    )  # fmt: skip
    for one in samples:
        choke = "" if one.choke == "none" else one.choke
        table.writerow(
            [f"{one.name}.wav", one.low, one.high, one.from_velocity, one.to_velocity, choke, one.root, 0]
        )
    return out.getvalue()


def _map_midi(name: str, samples: Sequence[Sample], *, drums: bool) -> bytes:
    """Every key once, in order, with the name of what lies on it."""
    file, track = mido.MidiFile(ticks_per_beat=480, charset="utf-8"), mido.MidiTrack()
    file.tracks.append(track)
    track.append(mido.MetaMessage("track_name", name=name))
    channel = _DRUM_CHANNEL if drums else 0
    for key in sorted({one.root for one in samples}):
        called = next(one.name for one in samples if one.root == key)
        track.append(mido.MetaMessage("lyrics", text=called, time=0))
        track.append(mido.Message("note_on", channel=channel, note=key, velocity=127))
        track.append(mido.Message("note_off", channel=channel, note=key, time=480))
    out = io.BytesIO()
    file.save(file=out)
    return out.getvalue()


def _folder(folder: str, name: str, samples: list[Sample], *, drums: bool) -> dict[str, bytes]:
    ordered = sorted(samples, key=lambda one: one.name)
    files = {
        f"{folder}/{one.name}.wav": encode_wav24(
            one.samples, RATE, midi_to_hz(one.root), loop=one.loop
        )
        for one in ordered
    }  # fmt: skip
    files[f"{folder}/map.csv"] = _map_csv(ordered).encode()
    files[f"{folder}/map.mid"] = _map_midi(name, ordered, drums=drums)
    return files


def drum_kit(session: Session, name: str, bpm: float, hits: Sequence[Hit]) -> dict[str, bytes]:
    """The files of hits together on keys, by name."""
    return _folder("drums", name, drum_samples(session, bpm, hits), drums=True)


def kit_parts(state: TrackState) -> list[str]:
    """The ids of all hits, and of all lines that have notes of their own."""
    return [
        part.id for part in state.parts
        if isinstance(part, Hit) or (isinstance(part, Voice) and part.line is not None)
    ]  # fmt: skip


def kit_files(
    session: Session,
    name: str,
    state: TrackState,
    parts: Sequence[str],
    span: tuple[int, int] = RANGE,
) -> dict[str, bytes]:
    """The files of a kit by name: chosen hits together on keys, 808s and lines as instruments of their own.

    UserError for a part that is neither, or that has no pitch to be played at.
    """
    chosen = [part for part in state.parts if part.id in parts]
    hits = [part for part in chosen if isinstance(part, Hit)]
    pitched = [
        part for part in chosen if isinstance(part, Voice) or (isinstance(part, Hit) and part.kind == "808")
    ]
    others = [part.name for part in chosen if not isinstance(part, Hit | Voice)]
    if others or not chosen:
        raise UserError(
            f"A kit is made of hits and lines: {', '.join(others) or 'nothing'} is neither.", "parts"
        )
    files: dict[str, bytes] = {}
    if hits:
        files |= drum_kit(session, name, state.brief.bpm, hits)
    folders = numbered([plain_name(part.name) for part in pitched], taken=["drums"])
    for folder, part in zip(folders, pitched, strict=True):
        samples = instrument_samples(session, state, part, *span)
        files |= _folder(folder, part.name, samples, drums=False)
    return files
