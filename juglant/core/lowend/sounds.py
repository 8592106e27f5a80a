"""One-shots and what is measured of them once."""

from collections.abc import Callable
from dataclasses import replace
from typing import ParamSpec

import numpy as np
from numpy.typing import NDArray

from juglant.core import RATE
from juglant.core.hits import jobs
from juglant.core.hits.moved import resampled, shifted
from juglant.core.hits.render import HitRenderer, LoadAudio, nothing_imported
from juglant.core.kept import Kept, key_of
from juglant.core.lowend import tuning
from juglant.core.measure.hit import PITCH_FIELDS, Measured, measure
from juglant.core.measure.loopsound import AwaitedSound, LoopSound
from juglant.core.measure.partials import Partial, partials
from juglant.core.measure.stereo import listening_channel
from juglant.core.measure.width import SideDelay, side_delay
from juglant.core.music import cents_between, midi_to_hz, note_to_midi
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.hit import Hit, without_spaces

Array = NDArray[np.float64]
P = ParamSpec("P")

# A pass of eight bars is 3 to 6 MB a part: smaller, and a change of the ducking renders them all anew.
_KEPT, _KEPT_BYTES = 1024, 67 << 20
# In these a spectrum's highest peak may be the sweep's: only the tail is their pitch.
_SWEPT_KINDS = ("kick", "808")
# What rings higher is heard as bright rather than as a note.
_HIGHEST_NOTE_HZ = 2000.0


class Sounds:
    """Renders and measures hits, keeping what was asked for last. Safe to share by threads."""

    # As its hits: what it makes follows from what it is asked for.
    key = "sounds"

    def __init__(self, load_audio: LoadAudio = nothing_imported) -> None:
        kept = Kept(_KEPT, _KEPT_BYTES)
        # What a function makes of what it sees is made once: for the modules beside this one.
        self.once = kept.once
        self._kept = kept
        self.hits = HitRenderer(kept, load_audio)

    def sound(self, render: Callable[P, Array], *seen: P.args, **named: P.kwargs) -> LoopSound:
        """A pass of the loop under the key of what it is made of, so that what is made of it is known by
        that. Kept in single precision, 150 dB under its peak.
        """
        key = key_of(render, *seen, **named)

        def make() -> LoopSound:
            return LoopSound(render(*seen, **named).astype(np.float32), key=key)

        return AwaitedSound(key, lambda: self._kept.named(key, make))

    def kick(self, kick: Hit, bpm: float) -> Array:
        """The kick one-shot, shape (frames,): a wide one is heard as its mono sum."""
        return listening_channel(self.hits.hit(kick, bpm))

    def measured_hit(self, hit: Hit, brief: Brief) -> Measured:
        """A hit's numbers at the brief's A4 and in its key's spelling."""
        found = self._measured(hit, brief)
        dry = without_spaces(hit)
        if dry == hit:
            return found
        # A room moves what can be read of a pitch, not the pitch.
        plain = self._measured(dry, brief)
        pitch = {name: getattr(plain.hit, name) for name in PITCH_FIELDS}
        reasons = {name: why for name, why in found.hit.reasons.items() if name not in PITCH_FIELDS}
        reasons |= {name: why for name, why in plain.hit.reasons.items() if name in PITCH_FIELDS}
        numbers = replace(found.hit, **pitch, in_room_hz=found.hit.estimate_hz, reasons=reasons)
        return replace(found, hit=numbers)

    def measured_layer(self, hit: Hit, index: int, brief: Brief) -> Measured:
        """One audible layer's numbers, as it lies in the hit."""
        return self._measured(hit, brief, index)

    def _measured(self, hit: Hit, brief: Brief, layer: int | None = None) -> Measured:
        flats = brief.key.flats
        return self.once(_measured, self.hits, hit.sounding, layer, brief.bpm, brief.a4_hz, flats=flats)

    def holes(self, hit: Hit, brief: Brief) -> list[jobs.Hole]:
        """What a hit lacks."""
        return self.once(_holes, self.hits, hit.kind, hit.sounding, brief.bpm)

    def hit_report(self, hit: Hit, brief: Brief) -> jobs.HitReport:
        """What a hit lacks, what each of its layers gives, and what its width is made of."""
        holes = self.holes(hit, brief)
        shares, delay = self.once(_shared, self.hits, hit.sounding, brief.bpm)
        return jobs.HitReport(holes, shares, delay)

    def partials(self, hit: Hit, brief: Brief) -> list[Partial]:
        """The clear tones of a hit."""
        onset_ms = self.measured_hit(hit, brief).hit.onset_ms
        if onset_ms is None:
            return []
        flats = brief.key.flats
        return self.once(_partials, self.hits, hit.sounding, onset_ms, brief.bpm, brief.a4_hz, flats=flats)

    def pitch_hz(self, hit: Hit, brief: Brief) -> float | None:
        """What a hit is tuned by: what an ear hears as its note, else the note its tail settles to or,
        where it settles to none, its strongest tone.
        """
        if hit.heard_hz is not None:
            return hit.heard_hz
        numbers = self.measured_hit(hit, brief).hit
        if numbers.fundamental_hz is not None or hit.aims_at == "free":
            return numbers.fundamental_hz
        if numbers.estimate_hz is not None or hit.kind in _SWEPT_KINDS:
            return numbers.estimate_hz
        clear = [one for one in self.partials(hit, brief) if one.hz < _HIGHEST_NOTE_HZ]
        return max(clear, key=lambda one: one.level_db).hz if clear else None

    def moves(self, hit: Hit, brief: Brief, *, balance: bool = False) -> list[tuning.Candidate]:
        """Where a hit can be tuned to: what it aims at first, then the nearest; empty while it
        has no pitch. With `balance`, what each move does to the spectrum too.
        """
        hz = self.pitch_hz(hit, brief)
        if hz is None:
            return []
        measured = self.measured_hit(hit, brief)
        return tuning.moves(
            hz, measured.hit.length_ms, tuning.harmony(brief), resampled=resampled(hit), aim=hit.aims_at,
            spectrum=measured.spectrum if balance else None,
        )  # fmt: skip

    def tuned(self, hit: Hit, brief: Brief, note: str) -> Hit:
        """The hit moved to a note such as A#1, by the exact ratio from its measured pitch.

        Measured again and put right once.
        """
        for _ in range(2):
            hz = self.pitch_hz(hit, brief)
            if hz is None:
                return hit
            target = midi_to_hz(note_to_midi(note), brief.a4_hz)
            hit = shifted(hit, cents_between(target, hz) / 100)
        return hit


def _measured(
    hits: HitRenderer, hit: Hit, layer: int | None, bpm: float, a4_hz: float, *, flats: bool
) -> Measured:
    samples = hits.hit(hit, bpm) if layer is None else hits.layers(hit, bpm)[layer]
    return measure(samples, RATE, a4_hz, flats, recorded=bool(hit.audio))


def _holes(hits: HitRenderer, kind: str, hit: Hit, bpm: float) -> list[jobs.Hole]:
    return jobs.holes(kind, hits.hit(hit, bpm), RATE)


def _shared(hits: HitRenderer, hit: Hit, bpm: float) -> tuple[list[jobs.Share], SideDelay | None]:
    shares = jobs.shares(hits.layers(hit, bpm), RATE) if len(hit.layers) > 1 else []
    return shares, side_delay(hits.hit(hit, bpm), RATE)


def _partials(
    hits: HitRenderer, hit: Hit, onset_ms: float, bpm: float, a4_hz: float, *, flats: bool
) -> list[Partial]:
    return partials(listening_channel(hits.hit(hit, bpm)), RATE, onset_ms, a4_hz, flats)
