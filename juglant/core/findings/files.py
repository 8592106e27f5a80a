"""What is wrong with files that a track is made from."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from juglant.core import RATE
from juglant.core.findings.verdict import Check, Finding, Step
from juglant.core.lowend.session import Answer, Session
from juglant.core.measure.defects import (
    flat_tops,
    goes_on,
    leading_silence_ms,
    resting_offset,
    strokes,
)
from juglant.core.measure.hum import find_hum
from juglant.core.measure.overlap import summation
from juglant.core.measure.stereo import mono
from juglant.core.music import beat_ms
from juglant.core.recipes.fields import is_off
from juglant.core.recipes.hit import Imported, Layer
from juglant.core.recipes.notes import MOST_BARS
from juglant.core.recipes.parts import ImportedBass
from juglant.core.recipes.track import TrackState

Array = NDArray[np.float64]

SILENCE_MS, OFFSET_SHARE, HUM_DB = 3.0, 0.003, -66.0
# A loop that begins later than this begins with a rest, not with a converter's delay.
_REST_MS = 50.0
# What the fade of a cut takes, and what is left before the next stroke.
_FADE_MS, _BEFORE_MS = 8.0, 4.0
_TEMPO_PERCENT, _TEMPO_REACH = 1.0, 0.26
CANCEL_DB = -2.0


@dataclass(frozen=True)
class _Sample:
    """A layer of a hit that is a file, under judgement."""

    session: Session
    answer: Answer
    id: str
    layer: int

    @property
    def part(self) -> Layer:
        """The layer."""
        return self.answer.state.hit(self.id).layers[self.layer]

    @property
    def source(self) -> Imported:
        """The file and its stretch."""
        assert isinstance(self.part.source, Imported)
        return self.part.source

    @cached_property
    def samples(self) -> Array:
        """The stretch of the file that is used."""
        x = self.session.hits.audio(self.source.audio)
        end = self.source.end_ms
        first = round(self.source.start_ms / 1000 * RATE)
        return x[first : None if end is None else round(end / 1000 * RATE)]

    @property
    def name(self) -> str:
        """What it is called in a sentence."""
        return f"“{self.source.name or self.part.name}”"

    def changed(self, layer: dict[str, object] | None = None, **source: object) -> TrackState:
        """The state with this file, or its layer, changed."""
        hit = self.answer.state.hit(self.id)
        new = self.source.model_copy(update=source)
        one = self.part.model_copy(update={**(layer or {}), "source": new})
        layers = (*hit.layers[: self.layer], one, *hit.layers[self.layer + 1 :])
        return self.answer.state.with_part(hit.model_copy(update={"layers": layers}))

    def finding(
        self, kind: str, sentence: str, measured: tuple[str, float, float, str], why: str,
        fixes: dict[str, str], advice: str = "",
    ) -> Finding:  # fmt: skip
        """A verdict on the file."""
        id = f"{kind}-{self.id}.{self.layer}"
        return Finding(id, "hits", sentence, *measured, why, fixes, advice=advice)


def _silence(one: _Sample) -> Finding | None:
    silent = leading_silence_ms(one.samples, RATE)
    if silent <= SILENCE_MS:
        return None
    return one.finding(
        "leading-silence", f"{one.name} begins with {silent:.1f} ms of silence, so that it plays late.",
        ("leading_silence_ms", silent, SILENCE_MS, "ms"),
        "A bounced file often has the delay of its chain in front.", {"trim": "Cut the silence away"},
    )  # fmt: skip


def _trimmed(one: _Sample) -> TrackState:
    silent = leading_silence_ms(one.samples, RATE)
    return one.changed(start_ms=round(one.source.start_ms + max(silent - 0.3, 0.0), 2))


def _clipped(one: _Sample) -> Finding | None:
    tops = flat_tops(one.samples)
    if not tops:
        return None
    return one.finding(
        "flat-top", f"{tops} tops of {one.name} are cut flat: the file is clipped.",
        ("flat tops", float(tops), 0.0, ""),
        "What was cut off is replaced by harmonics that no level brings back.", {},
        advice="Bounce it again at a lower level, or take another sample.",
    )  # fmt: skip


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


def _without_offset(one: _Sample) -> TrackState:
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


def _before_hum(one: _Sample) -> TrackState:
    found = _hum_db(one)
    if found is None:
        return one.answer.state
    x = mono(one.samples)
    count = round(0.02 * RATE)
    power = np.convolve(x * x, np.ones(count) / count, mode="same")
    over = np.flatnonzero(power > float(np.max(x * x)) * 10 ** ((found[1] + 3.0) / 10))
    end = (float(over[-1]) if over.size else x.size) / RATE * 1000
    return one.changed({"fade_out_ms": 20.0}, end_ms=round(one.source.start_ms + max(end, 40.0), 1))


def _later_strokes(one: _Sample) -> list[float]:
    return strokes(one.samples, RATE).at_ms[1:]


def _several(one: _Sample) -> Finding | None:
    later = _later_strokes(one)
    if not later:
        return None
    return one.finding(
        "several-strokes",
        f"{one.name} holds {1 + len(later)} strokes; the second begins after {later[0]:.0f} ms.",
        ("strokes", float(1 + len(later)), 1.0, ""),
        "Every stroke of the pattern would play them all.", {"first": "Keep the first stroke"},
        advice="Cut it under Record & cut, and keep the strokes as takes.",
    )  # fmt: skip


def _first_stroke(one: _Sample) -> TrackState:
    later = _later_strokes(one)
    if not later:
        return one.answer.state
    end = one.source.start_ms + later[0] - _BEFORE_MS
    return one.changed({"fade_out_ms": max(one.part.fade_out_ms, _FADE_MS)}, end_ms=round(end, 1))


def _continuous(one: _Sample) -> Finding | None:
    if one.part.job in ("texture", "width") or not goes_on(one.samples, RATE):
        return None
    length = one.samples.shape[0] / RATE * 1000
    beat = beat_ms(one.answer.state.brief.bpm)
    return one.finding(
        "continuous", f"{one.name} goes on for {length:.0f} ms without dying away: it is no hit.",
        ("length", length, beat, "ms"), "A hit has an end; what goes on covers everything after it.",
        {"gate": "End it after a quarter of a beat"},
        advice="Cut it into equal lengths under Record & cut.",
    )  # fmt: skip


def _gated(one: _Sample) -> TrackState:
    beat = beat_ms(one.answer.state.brief.bpm)
    end = one.source.start_ms + beat / 4
    return one.changed({"fade_out_ms": round(beat / 6, 1)}, end_ms=round(end, 1))


_SampleFix = Callable[[_Sample], TrackState]
_SAMPLES: dict[str, tuple[Callable[[_Sample], Finding | None], dict[str, _SampleFix]]] = {
    "leading-silence": (_silence, {"trim": _trimmed}),
    "flat-top": (_clipped, {}),
    "dc-offset": (_offset, {"remove": _without_offset}),
    "hum": (_hum, {"cut": _before_hum}),
    "several-strokes": (_several, {"first": _first_stroke}),
    "continuous": (_continuous, {"gate": _gated}),
}


def _sample_check(kind: str, id: str, layer: int) -> Check:
    judge, fixes = _SAMPLES[kind]

    def judged(session: Session, answer: Answer) -> Finding | None:
        layers = answer.state.hit(id).layers
        if layer >= len(layers):
            return None
        one = layers[layer]
        if not isinstance(one.source, Imported) or one.mute:
            return None
        heard = (kind, one.source, one.part, one.job, one.fade_out_ms, one.highpass_hz, id, layer)
        if kind == "dc-offset" and not is_off(one, "highpass_hz"):
            return None
        bpm = answer.state.brief.bpm
        return session.once(lambda: judge(_Sample(session, answer, id, layer)), "file", bpm, *heard)

    def number(session: Session, answer: Answer) -> float | None:
        found = judged(session, answer)
        return None if found is None else found.value

    def fix(make: _SampleFix) -> Callable[[Session, Answer], TrackState]:
        return lambda session, answer: make(_Sample(session, answer, id, layer))

    return Check(f"{kind}-{id}.{layer}", number, judged, {way: fix(make) for way, make in fixes.items()})


@dataclass(frozen=True)
class _Loop:
    """A file that runs as a loop: a line or a stem."""

    id: str
    name: str
    audio: str
    step: Step
    start_ms: float


def _loops(state: TrackState) -> list[_Loop]:
    lines = [
        _Loop(voice.id, voice.name, voice.bass.audio, "line", voice.bass.begin_ms)
        for voice in state.voices
        if isinstance(voice.bass, ImportedBass) and not voice.mute
    ]
    stems = [
        _Loop(stem.id, stem.name, stem.audio, "duck", stem.begin_ms)
        for stem in state.stems if not stem.mute
    ]  # fmt: skip
    return [*lines, *stems]


def _late_loop(loop: _Loop) -> Check:
    def number(session: Session, answer: Answer) -> float | None:
        [now] = [one for one in _loops(answer.state) if one.id == loop.id] or [loop]
        x = session.hits.audio(now.audio)[round(now.start_ms / 1000 * RATE) :]
        return session.once(
            lambda: leading_silence_ms(x, RATE, begins=True), "silence of a loop", now.audio, now.start_ms
        )

    def judge(session: Session, answer: Answer) -> Finding | None:
        silent = number(session, answer) or 0.0
        if not SILENCE_MS < silent < _REST_MS:
            return None
        return Finding(
            f"leading-silence-{loop.id}", loop.step,
            f"The file of the {loop.name} begins with {silent:.1f} ms of silence: it plays late.",
            "leading_silence_ms", silent, SILENCE_MS, "ms",
            "A bounced file often has the delay of its chain in front.",
            {"trim": "Begin after the silence"},
            advice=f"Cut {silent:.1f} ms from its start, or bounce it without the delay.",
        )  # fmt: skip

    def begun(session: Session, answer: Answer) -> TrackState:
        state = answer.state
        start = round(loop.start_ms + max((number(session, answer) or 0.0) - 0.3, 0.0), 1)
        if loop.step == "duck":
            return state.with_part(state.stem(loop.id).model_copy(update={"begin_ms": start}))
        return state.with_bass(loop.id, state.voice(loop.id).bass.model_copy(update={"begin_ms": start}))

    return Check(f"leading-silence-{loop.id}", number, judge, {"trim": begun})


def _flat_loop(loop: _Loop) -> Check:
    def number(session: Session, _: Answer) -> float | None:
        x = session.hits.audio(loop.audio)
        return float(session.once(lambda: flat_tops(x), "flat tops", loop.audio))

    def judge(session: Session, answer: Answer) -> Finding | None:
        tops = number(session, answer) or 0.0
        if not tops:
            return None
        return Finding(
            f"flat-top-{loop.id}", loop.step,
            f"{tops:.0f} tops of the {loop.name} are cut flat: the file is clipped.",
            "flat tops", tops, 0.0, "",
            "What was cut off is replaced by harmonics that no level brings back.", {},
            advice="Bounce it again at a lower level.",
        )  # fmt: skip

    return Check(f"flat-top-{loop.id}", number, judge, {})


def _bars(session: Session, answer: Answer, loop: _Loop) -> float:
    """A file's length in bars of the track."""
    seconds = float(session.hits.audio(loop.audio).shape[0]) / RATE
    return seconds * 1000 / (4 * beat_ms(answer.state.brief.bpm))


def _is_whole(bars: float) -> bool:
    return round(bars) >= 1 and abs(bars / round(bars) - 1) * 100 <= _TEMPO_PERCENT


def _other_tempo(loop: _Loop) -> Check:
    id = f"tempo-{loop.id}"

    def number(session: Session, answer: Answer) -> float | None:
        """The tempo at which the file is whole bars."""
        bpm, length = answer.state.brief.bpm, _bars(session, answer, loop)
        if _is_whole(length):
            return bpm
        return min((bpm * n / length for n in (1, 2, 4, 8)), key=lambda one: abs(one - bpm))

    def judge(session: Session, answer: Answer) -> Finding | None:
        bpm, own = answer.state.brief.bpm, number(session, answer) or 0.0
        if own == bpm or abs(own / bpm - 1) > _TEMPO_REACH:
            return None
        return Finding(
            id, loop.step,
            f"The file of the {loop.name} is whole bars at {own:.1f} BPM; the track runs at {bpm:g}.",
            "tempo", own, bpm, "BPM", "A loop at another tempo drifts against everything else.",
            {"tempo": f"Set the track to {own:.2f} BPM"},
            advice="Fit the file to the tempo before you bring it in.",
        )  # fmt: skip

    def to_its_tempo(session: Session, answer: Answer) -> TrackState:
        brief = answer.state.brief
        update = {"bpm": round(number(session, answer) or brief.bpm, 2)}
        return answer.state.model_copy(update={"brief": brief.model_copy(update=update)})

    return Check(id, number, judge, {"tempo": to_its_tempo})


def _cut_short(loop: _Loop) -> Check:
    id = f"cut-short-{loop.id}"

    def number(session: Session, answer: Answer) -> float | None:
        return float(round(_bars(session, answer, loop)))

    def judge(session: Session, answer: Answer) -> Finding | None:
        length, bars = _bars(session, answer, loop), answer.state.brief.bars
        if not _is_whole(length) or round(length) <= bars:
            return None
        whole = round(length)
        return Finding(
            id, loop.step,
            f"The file of the {loop.name} has {whole} bars, the loop only {bars}: the rest is not heard.",
            "bars", float(whole), float(bars), "bars", "What is judged and heard is only its beginning.",
            {"bars": f"A loop of {whole} bars"} if whole <= MOST_BARS else {},
            advice="Bring in the bars that matter.",
        )  # fmt: skip

    def longer(session: Session, answer: Answer) -> TrackState:
        brief = answer.state.brief
        wanted = round(_bars(session, answer, loop))
        roots = tuple(brief.chord_roots[n % brief.bars] for n in range(wanted))
        return answer.state.model_copy(update={"brief": brief.model_copy(update={"chord_roots": roots})})

    return Check(id, number, judge, {"bars": longer})


def _cancelling(first: str, second: str) -> Check:
    """Two lines that take more from each other than they add."""
    id = f"lines-cancel-{first}.{second}"

    def number(session: Session, answer: Answer) -> float | None:
        voices = [answer.state.voice(line) for line in (first, second)]
        if any(voice.mute for voice in voices):
            return None
        loops = [session.line_loop(answer.state, voice) for voice in voices]
        return summation(loops[0].level, loops[1].level)[1]

    def judge(session: Session, answer: Answer) -> Finding | None:
        value = number(session, answer)
        if value is None or value >= CANCEL_DB:
            return None
        one, other = (answer.state.named(line) for line in (first, second))
        return Finding(
            id, "line", f"Together, the {one} and the {other} lose {-value:.1f} dB of their low band.",
            "summation_db", value, CANCEL_DB, "dB",
            "Copies of one sound that are out of step take each other away.",
            {"mute": f"Mute the {other}"},
            advice=f"Invert or shift one of the two, or leave only the {one} below 150 Hz.",
        )  # fmt: skip

    def muted(_: Session, answer: Answer) -> TrackState:
        return answer.state.with_part(answer.state.voice(second).model_copy(update={"mute": True}))

    return Check(id, number, judge, {"mute": muted})


_LOOPS = (_late_loop, _flat_loop, _other_tempo, _cut_short)


def file_checks(state: TrackState) -> list[Check]:
    """One for every file and what may be wrong with it, and for every two lines."""
    samples = [
        _sample_check(kind, hit.id, layer)
        for hit in state.all_hits
        for layer, one in enumerate(hit.layers) if isinstance(one.source, Imported)
        for kind in _SAMPLES
    ]  # fmt: skip
    loops = [make(loop) for loop in _loops(state) for make in _LOOPS]
    heard = [voice.id for voice in state.heard]
    pairs = [_cancelling(a, b) for k, a in enumerate(heard) for b in heard[k + 1 :]]
    return [*samples, *loops, *pairs]
