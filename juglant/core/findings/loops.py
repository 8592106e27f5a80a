"""What is wrong with files that run as loops, and with two lines of which one takes from the other."""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from juglant.core import RATE
from juglant.core.findings.fixes import Fix
from juglant.core.findings.verdict import Check, Finding, Step
from juglant.core.hits.render import HitRenderer
from juglant.core.lowend.aligning import align_parts
from juglant.core.lowend.filed import time_factor
from juglant.core.lowend.session import Answer, Session
from juglant.core.measure.defects import flat_tops, leading_silence_ms
from juglant.core.measure.overlap import summation
from juglant.core.process.declipping import can_restore
from juglant.core.recipes.fileloop import Tops
from juglant.core.recipes.notes import MOST_BARS
from juglant.core.recipes.parts import ImportedBass, Stem, Voice
from juglant.core.recipes.track import TrackState
from juglant.core.tempo import beat_ms

Array = NDArray[np.float64]

SILENCE_MS = 3.0
# A loop that begins later than this begins with a rest, not with a converter's delay.
_REST_MS = 50.0
_TEMPO_PERCENT, _TEMPO_REACH = 1.0, 0.26
CANCEL_DB = -2.0
FLAT_WHY = "What was cut off is replaced by harmonics that no level brings back."
RESTORE = {"restore": "Round the tops again by the slopes beside them"}


@dataclass(frozen=True)
class _Loop:
    """A file that runs as a loop: a line or a stem."""

    id: str
    name: str
    file: Stem | ImportedBass
    step: Step

    def now(self, state: TrackState) -> Stem | ImportedBass:
        """The file as a state has it; as it was where the state has it no more."""
        part = state.part(self.id)
        file = part.bass if isinstance(part, Voice) else part
        return file if isinstance(file, Stem | ImportedBass) else self.file

    def samples(self, session: Session, state: TrackState) -> Array:
        """What is read of the file: shape (frames,) or (frames, 2)."""
        file = self.now(state)
        return session.sounds.hits.file(file.audio, file.tops)

    def changed(self, state: TrackState, **changes: object) -> TrackState:
        """The state with some of what is said of the file changed."""
        new: Any = self.now(state).model_copy(update=changes)
        return state.with_part(new) if isinstance(new, Stem) else state.with_bass(self.id, new)


def _loops(state: TrackState) -> list[_Loop]:
    lines = [
        _Loop(voice.id, voice.name, voice.bass, "line")
        for voice in state.voices
        if isinstance(voice.bass, ImportedBass) and not voice.mute
    ]
    stems = [_Loop(stem.id, stem.name, stem, "duck") for stem in state.stems if not stem.mute]
    return [*lines, *stems]


def _silent_ms(hits: HitRenderer, audio: str, begin_ms: float) -> float:
    return leading_silence_ms(hits.audio(audio)[round(begin_ms / 1000 * RATE) :], RATE, begins=True)


def _flat_tops(hits: HitRenderer, audio: str, tops: Tops) -> int:
    return flat_tops(hits.file(audio, tops))


def _late_loop(loop: _Loop) -> Check:
    def number(session: Session, answer: Answer) -> float | None:
        now = loop.now(answer.state)
        return session.sounds.once(_silent_ms, session.sounds.hits, now.audio, now.begin_ms)

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
        begins = loop.file.begin_ms + max((number(session, answer) or 0.0) - 0.3, 0.0)
        return loop.changed(answer.state, begin_ms=round(begins, 1))

    return Check(f"leading-silence-{loop.id}", number, judge, {"trim": begun})


def _flat_loop(loop: _Loop) -> Check:
    def number(session: Session, answer: Answer) -> float | None:
        now = loop.now(answer.state)
        return float(session.sounds.once(_flat_tops, session.sounds.hits, now.audio, now.tops))

    def judge(session: Session, answer: Answer) -> Finding | None:
        tops = number(session, answer) or 0.0
        if not tops:
            return None
        return Finding(
            f"flat-top-{loop.id}", loop.step,
            f"{tops:.0f} tops of the {loop.name} are cut flat: the file is clipped.",
            "flat tops", tops, 0.0, "",
            FLAT_WHY, RESTORE,
            advice="Bounce it again at a lower level.",
        )  # fmt: skip

    def restored(session: Session, answer: Answer) -> TrackState:
        if not can_restore(loop.samples(session, answer.state)):
            return answer.state
        return loop.changed(answer.state, tops="restored")

    return Check(f"flat-top-{loop.id}", number, judge, {"restore": restored})


def _bars(session: Session, answer: Answer, loop: _Loop) -> float:
    """A file's length in bars of the track, as it is fitted to it."""
    now, brief = loop.now(answer.state), answer.state.brief
    ms = session.sounds.hits.audio(now.audio).shape[0] / RATE * 1000 * time_factor(now, brief)
    return float(ms / (4 * beat_ms(brief.bpm)))


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
            {
                "slices": f"Cut it at its strokes and lay them at {bpm:g} BPM",
                "resample": f"Resample it to {bpm:g} BPM",
                "tempo": f"Set the track to {own:.2f} BPM",
            },
            advice="Fit the file to the tempo before you bring it in.",
        )  # fmt: skip

    def fitted(fit: str) -> Fix:
        def fix(session: Session, answer: Answer) -> TrackState:
            own = number(session, answer) or answer.state.brief.bpm
            return loop.changed(answer.state, fit=fit, own_bpm=round(own, 2))

        return fix

    def to_its_tempo(session: Session, answer: Answer) -> TrackState:
        brief = answer.state.brief
        update = {"bpm": round(number(session, answer) or brief.bpm, 2)}
        return answer.state.model_copy(update={"brief": brief.model_copy(update=update)})

    fits = {"slices": fitted("by slices"), "resample": fitted("by resampling")}
    return Check(id, number, judge, {**fits, "tempo": to_its_tempo})


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
        loops = [session.parts.line_loop(answer.state, voice) for voice in voices]
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
            {"align": f"Bring the {other} in step with the {one}", "mute": f"Mute the {other}"},
            advice=f"Invert or shift one of the two, or leave only the {one} below 150 Hz.",
        )  # fmt: skip

    def aligned(session: Session, answer: Answer) -> TrackState:
        found = align_parts(session, answer.state, second, first)
        voice = answer.state.voice(second)
        place = voice.place.model_copy(update={"delay_ms": found.delay_ms, "polarity": found.polarity})
        return answer.state.with_part(voice.model_copy(update={"place": place}))

    def muted(_: Session, answer: Answer) -> TrackState:
        return answer.state.with_part(answer.state.voice(second).model_copy(update={"mute": True}))

    return Check(id, number, judge, {"align": aligned, "mute": muted})


_LOOPS = (_late_loop, _flat_loop, _other_tempo, _cut_short)


def loop_checks(state: TrackState) -> list[Check]:
    """One for every file that runs as a loop and what may be wrong with it, and for every two lines.

    Parameters
    ----------
    state
        The track.

    Returns
    -------
    list of Check
        For every file, and every two lines.

    Examples
    --------
    >>> loop_checks(TrackState())
    []
    """
    loops = [make(loop) for loop in _loops(state) for make in _LOOPS]
    heard = [voice.id for voice in state.heard]
    pairs = [_cancelling(a, b) for k, a in enumerate(heard) for b in heard[k + 1 :]]
    return [*loops, *pairs]
