"""What is wrong with files that hits are made from."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from juglant.core import RATE
from juglant.core.findings.loops import FLAT_WHY, RESTORE, SILENCE_MS, loop_checks
from juglant.core.findings.verdict import Check, Finding
from juglant.core.hits.render import HitRenderer
from juglant.core.lowend.session import Answer, Session
from juglant.core.lowend.sliced import as_takes
from juglant.core.measure.defects import (
    flat_tops,
    goes_on,
    leading_silence_ms,
    resting_offset,
    strokes,
)
from juglant.core.measure.hum import find_hum
from juglant.core.measure.stereo import mono
from juglant.core.process.declipping import can_restore
from juglant.core.recipes.fields import is_off
from juglant.core.recipes.hit import MOST_TAKES, Hit, Imported, Layer
from juglant.core.recipes.notes import MOST_BARS, HitStep, on_pulse
from juglant.core.recipes.track import TrackState
from juglant.core.tempo import beat_ms

Array = NDArray[np.float64]

OFFSET_SHARE, HUM_DB = 0.003, -66.0
# What the fade of a cut takes, and what is left before the next stroke.
_FADE_MS, _BEFORE_MS = 8.0, 4.0


@dataclass(frozen=True)
class _Sample:
    """A layer that is a file, under judgement: all that is seen of it. `where` names it in a finding."""

    hits: HitRenderer
    part: Layer
    bpm: float
    where: str

    @property
    def source(self) -> Imported:
        """The file and its stretch."""
        assert isinstance(self.part.source, Imported)
        return self.part.source

    @cached_property
    def samples(self) -> Array:
        """The stretch of the file that is used."""
        x = self.hits.file(self.source.audio, self.source.tops)
        end = self.source.end_ms
        first = round(self.source.start_ms / 1000 * RATE)
        return x[first : None if end is None else round(end / 1000 * RATE)]

    @property
    def name(self) -> str:
        """What it is called in a sentence."""
        return f"“{self.source.name or self.part.name}”"

    def finding(
        self, kind: str, sentence: str, measured: tuple[str, float, float, str], why: str,
        fixes: dict[str, str], advice: str = "",
    ) -> Finding:  # fmt: skip
        """A verdict on the file."""
        return Finding(f"{kind}-{self.where}", "hits", sentence, *measured, why, fixes, advice=advice)


@dataclass(frozen=True)
class _InHit(_Sample):
    """A layer that is a file, where it can be changed."""

    state: TrackState
    hit: Hit
    layer: int

    def changed(
        self, layer: dict[str, object] | None = None, hit: dict[str, object] | None = None, **source: object
    ) -> TrackState:
        """The state with this file, its layer or its hit changed."""
        new = self.source.model_copy(update=source)
        one = self.part.model_copy(update={**(layer or {}), "source": new})
        layers = (*self.hit.layers[: self.layer], one, *self.hit.layers[self.layer + 1 :])
        return self.state.with_part(self.hit.model_copy(update={**(hit or {}), "layers": layers}))

    def cut(self, ms: list[tuple[float, float]], fade_ms: float, **hit: object) -> TrackState:
        """The state with stretches of this file, in ms from its start, as takes that are played in turn."""
        begin = self.source.start_ms
        stretches = [(round(begin + a, 2), round(begin + b, 2)) for a, b in ms[: MOST_TAKES + 1]]
        takes = as_takes(self.source.audio, self.source.name, stretches)
        return self.changed(
            {"fade_out_ms": fade_ms}, hit,
            start_ms=takes.start_ms, end_ms=takes.end_ms, takes=takes.takes, alternate="in turn",
        )  # fmt: skip


def _silence(one: _Sample) -> Finding | None:
    silent = leading_silence_ms(one.samples, RATE)
    if silent <= SILENCE_MS:
        return None
    return one.finding(
        "leading-silence", f"{one.name} begins with {silent:.1f} ms of silence, so that it plays late.",
        ("leading_silence_ms", silent, SILENCE_MS, "ms"),
        "A bounced file often has the delay of its chain in front.", {"trim": "Cut the silence away"},
    )  # fmt: skip


def _trimmed(one: _InHit) -> TrackState:
    silent = leading_silence_ms(one.samples, RATE)
    return one.changed(start_ms=round(one.source.start_ms + max(silent - 0.3, 0.0), 2))


def _clipped(one: _Sample) -> Finding | None:
    tops = flat_tops(one.samples)
    if not tops:
        return None
    return one.finding(
        "flat-top", f"{tops} tops of {one.name} are cut flat: the file is clipped.",
        ("flat tops", float(tops), 0.0, ""),
        FLAT_WHY, RESTORE,
        advice="Bounce it again at a lower level, or take another sample.",
    )  # fmt: skip


def _restored(one: _InHit) -> TrackState:
    return one.changed(tops="restored") if can_restore(one.samples) else one.state


def _offset(one: _Sample) -> Finding | None:
    share = resting_offset(one.samples, RATE)
    if share <= OFFSET_SHARE:
        return None
    return one.finding(
        "dc-offset", f"{one.name} rests {100 * share:.1f} % of its peak away from zero.",
        ("dc offset", 100 * share, 100 * OFFSET_SHARE, "%"),
        "An offset takes headroom and clicks wherever the sound is cut.",
        {"remove": "High-pass the layer at 22 Hz"},
    )  # fmt: skip


def _without_offset(one: _InHit) -> TrackState:
    return one.changed({"highpass_hz": max(one.part.highpass_hz, 22.0)})


def _hum_db(one: _Sample) -> tuple[float, float] | None:
    """Frequency of the mains, and the hum's level re the sound's peak."""
    x = mono(one.samples)
    found = find_hum(x, RATE)
    if found is None:
        return None
    return found.hz, found.level_db - 20 * float(np.log10(max(float(np.max(np.abs(x))), 1e-9)))


def _hum(one: _Sample) -> Finding | None:
    found = _hum_db(one)
    if found is None or found[1] <= HUM_DB:
        return None
    return one.finding(
        "hum", f"{one.name} hums at {found[0]:.1f} Hz, {-found[1]:.0f} dB under its peak.",
        ("hum re peak", found[1], HUM_DB, "dB"),
        "Hum is a low note of its own, in nobody’s key, and layers add it up.",
        {"cut": "End it where the hum is all there is"},
    )  # fmt: skip


def _before_hum(one: _InHit) -> TrackState:
    found = _hum_db(one)
    if found is None:
        return one.state
    x = mono(one.samples)
    count = round(0.02 * RATE)
    power = np.convolve(x * x, np.ones(count) / count, mode="same")
    over = np.flatnonzero(power > float(np.max(x * x)) * 10 ** ((found[1] + 3.0) / 10))
    end = (float(over[-1]) if over.size else x.size) / RATE * 1000
    return one.changed({"fade_out_ms": 20.0}, end_ms=round(one.source.start_ms + max(end, 40.0), 1))


def _several(one: _Sample) -> Finding | None:
    later = strokes(one.samples, RATE).at_ms[1:]
    if not later:
        return None
    return one.finding(
        "several-strokes",
        f"{one.name} holds {1 + len(later)} strokes; the second begins after {later[0]:.0f} ms.",
        ("strokes", float(1 + len(later)), 1.0, ""),
        "Every stroke of the pattern would play them all.",
        {
            "first": "Keep the first stroke",
            "cut": "Cut them apart and play them in turn",
            "played": "Cut them apart and strike them as they were played",
        },
    )  # fmt: skip


def _apart(one: _Sample) -> list[tuple[float, float]]:
    """From where to where every stroke of a file lasts, in ms; the first begins where the file does."""
    later = [at - _BEFORE_MS for at in strokes(one.samples, RATE).at_ms[1:]]
    return list(pairwise([0.0, *later, one.samples.shape[0] / RATE * 1000]))


def _fade_ms(one: _Sample) -> float:
    return max(one.part.fade_out_ms, _FADE_MS)


def _first_stroke(one: _InHit) -> TrackState:
    first, *later = _apart(one)
    if not later:
        return one.state
    end = one.source.start_ms + first[1]
    return one.changed({"fade_out_ms": _fade_ms(one)}, end_ms=round(end, 1))


def _in_turn(one: _InHit) -> TrackState:
    return one.cut(_apart(one), _fade_ms(one))


def _as_played(one: _InHit) -> TrackState:
    """The hit struck where its file has strokes; as it was where they are too many, or go on too long."""
    apart, beat = _apart(one), beat_ms(one.bpm)
    at = sorted({on_pulse(start / beat) for start, _ in apart})
    bars = int(at[-1] // 4) + 1
    if bars > MOST_BARS or len(at) < len(apart) or len(at) > MOST_TAKES + 1:
        return one.state
    steps = tuple(HitStep(at=place) for place in at)
    return one.cut(apart, _fade_ms(one), steps=steps, bars=bars)


def _continuous(one: _Sample) -> Finding | None:
    if one.part.job in ("texture", "width") or not goes_on(one.samples, RATE):
        return None
    length = one.samples.shape[0] / RATE * 1000
    beat = beat_ms(one.bpm)
    return one.finding(
        "continuous", f"{one.name} goes on for {length:.0f} ms without dying away: it is no hit.",
        ("length", length, beat, "ms"), "A hit has an end; what goes on covers everything after it.",
        {
            "gate": "End it after a quarter of a beat",
            "cut": "Cut it into half beats and play them in turn",
        },
    )  # fmt: skip


def _gated(one: _InHit) -> TrackState:
    beat = beat_ms(one.bpm)
    end = one.source.start_ms + beat / 4
    return one.changed({"fade_out_ms": round(beat / 6, 1)}, end_ms=round(end, 1))


def _equal_lengths(one: _InHit) -> TrackState:
    half = beat_ms(one.bpm) / 2
    edges = np.arange(0.0, one.samples.shape[0] / RATE * 1000 + 0.5, half)
    return one.cut([(float(a), float(b)) for a, b in pairwise(edges)], round(half / 3, 1))


_SampleFix = Callable[[_InHit], TrackState]
_SAMPLES: dict[str, tuple[Callable[[_Sample], Finding | None], dict[str, _SampleFix]]] = {
    "leading-silence": (_silence, {"trim": _trimmed}),
    "flat-top": (_clipped, {"restore": _restored}),
    "dc-offset": (_offset, {"remove": _without_offset}),
    "hum": (_hum, {"cut": _before_hum}),
    "several-strokes": (_several, {"first": _first_stroke, "cut": _in_turn, "played": _as_played}),
    "continuous": (_continuous, {"gate": _gated, "cut": _equal_lengths}),
}


# What of a layer its file is judged by.
_JUDGED = ("name", "source", "job")


def _judged(kind: str, one: _Sample) -> Finding | None:
    return _SAMPLES[kind][0](one)


def _sample_check(kind: str, id: str, layer: int) -> Check:
    def judged(session: Session, answer: Answer) -> Finding | None:
        layers = answer.state.hit(id).layers
        if layer >= len(layers):
            return None
        one = layers[layer]
        if not isinstance(one.source, Imported) or one.mute:
            return None
        if kind == "dc-offset" and not is_off(one, "highpass_hz"):
            return None
        bpm, sounds = answer.state.brief.bpm, session.sounds
        return sounds.once(_judged, kind, _Sample(sounds.hits, one.only(*_JUDGED), bpm, f"{id}.{layer}"))

    def number(session: Session, answer: Answer) -> float | None:
        found = judged(session, answer)
        return None if found is None else found.value

    def fix(make: _SampleFix) -> Callable[[Session, Answer], TrackState]:
        def fixed(session: Session, answer: Answer) -> TrackState:
            state, hit = answer.state, answer.state.hit(id)
            bpm, where = state.brief.bpm, f"{id}.{layer}"
            return make(_InHit(session.sounds.hits, hit.layers[layer], bpm, where, state, hit, layer))

        return fixed

    fixes = {way: fix(make) for way, make in _SAMPLES[kind][1].items()}
    return Check(f"{kind}-{id}.{layer}", number, judged, fixes)


def file_checks(state: TrackState) -> list[Check]:
    """One for every file and what may be wrong with it, and for every two lines.

    Parameters
    ----------
    state
        The track.

    Returns
    -------
    list of Check
        For every file.

    Examples
    --------
    >>> file_checks(TrackState())
    []
    """
    samples = [
        _sample_check(kind, hit.id, layer)
        for hit in state.all_hits
        for layer, one in enumerate(hit.layers) if isinstance(one.source, Imported)
        for kind in _SAMPLES
    ]  # fmt: skip
    return [*samples, *loop_checks(state)]
