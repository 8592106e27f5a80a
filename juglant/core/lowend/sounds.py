"""One-shots and what is measured of them once."""

from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from juglant.core import RATE
from juglant.core.hits import jobs
from juglant.core.hits.moved import resampled, shifted
from juglant.core.hits.render import HitRenderer, LoadAudio, nothing_imported
from juglant.core.kept import Kept, sound_key
from juglant.core.lowend import tuning
from juglant.core.measure.hit import PITCH_FIELDS, Measured, measure
from juglant.core.measure.loopsound import AwaitedSound, LoopSound
from juglant.core.measure.partials import Partial, partials
from juglant.core.measure.stereo import listening_channel
from juglant.core.measure.width import side_delay
from juglant.core.music import cents_between, midi_to_hz, note_to_midi
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.hit import Hit, without_spaces

Array = NDArray[np.float64]

# A pass of eight bars is 3 to 6 MB a part: smaller, and a change of the ducking renders them all anew.
_KEPT, _KEPT_BYTES = 1024, 80 << 20
# In these a spectrum's highest peak may be the sweep's: only the tail is their pitch.
_SWEPT_KINDS = ("kick", "808")
# What rings higher is heard as bright rather than as a note.
_HIGHEST_NOTE_HZ = 2000.0


class Sounds:
    """Renders and measures hits, keeping what was asked for last. Safe to share by threads."""

    def __init__(self, load_audio: LoadAudio = nothing_imported) -> None:
        kept = Kept(_KEPT, _KEPT_BYTES)
        # A result is computed once for what decides it: for the modules beside this one.
        self.once, self.key = kept.once, sound_key
        self._named = kept.named
        self.hits = HitRenderer(kept, load_audio)

    def sound(self, render: Callable[[], Array], *decided_by: Any) -> LoopSound:
        """A pass of the loop under the name of what decides it, so that what is made of it is known by
        that. Kept in single precision, 150 dB under its peak.
        """
        key = sound_key(*decided_by)

        def take() -> LoopSound:
            return self._named(key, lambda: LoopSound(render().astype(np.float32), key=key))

        return AwaitedSound(key, take)

    def kick(self, kick: Hit, bpm: float) -> Array:
        """The kick one-shot, shape (frames,): a wide one is heard as its mono sum."""
        return listening_channel(self.hits.hit(kick, bpm))

    def measured_hit(self, hit: Hit, brief: Brief) -> Measured:
        """A hit's numbers at the brief's A4 and in its key's spelling."""
        recorded = bool(hit.audio)
        found = self._measured(self.hits.hit(hit, brief.bpm), brief, recorded, "hit", hit.sounding)
        dry = without_spaces(hit)
        if dry == hit:
            return found
        # A room moves what can be read of a pitch, not the pitch.
        plain = self._measured(self.hits.hit(dry, brief.bpm), brief, recorded, "hit", dry.sounding)
        pitch = {name: getattr(plain.hit, name) for name in PITCH_FIELDS}
        reasons = {name: why for name, why in found.hit.reasons.items() if name not in PITCH_FIELDS}
        reasons |= {name: why for name, why in plain.hit.reasons.items() if name in PITCH_FIELDS}
        numbers = replace(found.hit, **pitch, in_room_hz=found.hit.estimate_hz, reasons=reasons)
        return replace(found, hit=numbers)

    def measured_layer(self, hit: Hit, index: int, brief: Brief) -> Measured:
        """One audible layer's numbers, as it lies in the hit."""
        layers = self.hits.layers(hit, brief.bpm)
        return self._measured(layers[index], brief, bool(hit.audio), "layer", hit.sounding, index)

    def _measured(self, samples: Array, brief: Brief, recorded: bool, *who: Any) -> Measured:
        """The numbers of a sound under a brief; `who` names the sound."""
        a4_hz, flats = brief.a4_hz, brief.key.flats
        return self.once(
            lambda: measure(samples, RATE, a4_hz, flats, recorded=recorded),
            "measured", *who, brief.bpm, a4_hz, flats,
        )  # fmt: skip

    def holes(self, hit: Hit, brief: Brief) -> list[jobs.Hole]:
        """What a hit lacks."""
        whole = self.hits.hit(hit, brief.bpm)
        return self.once(lambda: jobs.holes(hit.kind, whole, RATE), "holes", hit, brief.bpm)

    def hit_report(self, hit: Hit, brief: Brief) -> jobs.HitReport:
        """What a hit lacks, what each of its layers gives, and what its width is made of."""

        def look() -> jobs.HitReport:
            whole = self.hits.hit(hit, brief.bpm)
            shares = jobs.shares(self.hits.layers(hit, brief.bpm), RATE) if len(hit.layers) > 1 else []
            return jobs.HitReport(self.holes(hit, brief), shares, side_delay(whole, RATE))

        return self.once(look, "report", hit, brief.bpm)

    def partials(self, hit: Hit, brief: Brief) -> list[Partial]:
        """The clear tones of a hit."""
        flats = brief.key.flats

        def look() -> list[Partial]:
            onset_ms = self.measured_hit(hit, brief).hit.onset_ms
            if onset_ms is None:
                return []
            return partials(self.kick(hit, brief.bpm), RATE, onset_ms, brief.a4_hz, flats)

        return self.once(look, "partials", hit.sounding, brief.bpm, brief.a4_hz, flats)

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
