"""Files whose low end changes when it is summed to mono."""

from juglant.core import RATE
from juglant.core.findings.hits import LOW_MONO_DB, LOW_SHARE
from juglant.core.findings.verdict import Check, Finding, Step, check, mend
from juglant.core.hits.render import HitRenderer
from juglant.core.lowend.session import Answer, Session
from juglant.core.lowend.sounds import Array
from juglant.core.measure.levels import Spectrum
from juglant.core.measure.loopsound import LoopSound
from juglant.core.measure.stereo import louder_side, stereo
from juglant.core.recipes.parts import ImportedBass
from juglant.core.recipes.track import TrackState

_LOW_HZ = (20.0, 150.0)
_WHY = (
    "Width in the low end is not heard as width: clubs play it in mono, and what differs between the "
    "sides is gone there."
)


def _low_loss_db(x: Array) -> float | None:
    """What the low band of a sound loses in mono; None where it has little of one, or one side."""
    if x.ndim == 1:
        return None
    sides = [Spectrum(x[:, side], RATE) for side in (0, 1)]
    low, whole = (sum(side.energy(*span) for side in sides) for span in (_LOW_HZ, (20.0, 20000.0)))
    return stereo(x, RATE).low_mono_loss_db if low > LOW_SHARE * whole else None


def _low_loss_of_file_db(hits: HitRenderer, audio: str) -> float | None:
    return _low_loss_db(hits.audio(audio))


def _low_loss_of_loop_db(loop: LoopSound) -> float | None:
    return _low_loss_db(loop.samples)


def _finding(id: str, step: Step, what: str, loss: float | None, fix: str) -> Finding | None:
    if loss is None or loss >= LOW_MONO_DB:
        return None
    return Finding(
        id, step, f"Below 150 Hz {what} loses {-loss:.1f} dB when its sides are summed to mono.",
        "low_mono_loss_db", loss, LOW_MONO_DB, "dB", _WHY, mend(fix),
    )  # fmt: skip


def _line(id: str, name: str) -> Check:
    """A line that is a file: it is heard as its sum, unless one side is chosen."""

    def number(session: Session, answer: Answer) -> float | None:
        bass = answer.state.voice(id).bass
        if not isinstance(bass, ImportedBass) or bass.side != "both":
            return None
        return session.sounds.once(_low_loss_of_file_db, session.sounds.hits, bass.audio)

    def judge(session: Session, answer: Answer) -> Finding | None:
        return _finding(
            f"mono-{id}", "line", f"the file of the {name}", number(session, answer),
            "Take its louder side alone",
        )  # fmt: skip

    def one_side(session: Session, answer: Answer) -> TrackState:
        bass = answer.state.voice(id).bass
        assert isinstance(bass, ImportedBass)
        side = ("left", "right")[louder_side(session.sounds.hits.audio(bass.audio))]
        return answer.state.with_bass(id, bass.model_copy(update={"side": side}))

    return check(f"mono-{id}", number, judge, one_side)


def _stem(id: str, name: str) -> Check:
    """A stem, heard as wide as it is: mono below the crossover mends it."""

    def number(session: Session, answer: Answer) -> float | None:
        stem = answer.state.stem(id)
        loop = session.parts.stem_loop(answer.state, stem)
        return None if stem.mute else session.sounds.once(_low_loss_of_loop_db, loop)

    def judge(session: Session, answer: Answer) -> Finding | None:
        hz = answer.state.separate.bass.crossover_hz
        return _finding(
            f"mono-{id}", "separate", f"the stem {name}", number(session, answer),
            f"Make it mono below {hz:.0f} Hz",
        )  # fmt: skip

    def centred(_: Session, answer: Answer) -> TrackState:
        state = answer.state
        hz = state.separate.bass.crossover_hz
        stem = state.stem(id)
        place = stem.place.model_copy(update={"mono_below_hz": hz})
        return state.with_part(stem.model_copy(update={"place": place}))

    return check(f"mono-{id}", number, judge, centred)


def mono_checks(state: TrackState) -> list[Check]:
    """One for every line that is a file, and for every stem.

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
    >>> mono_checks(TrackState())
    []
    """
    files = [
        _line(voice.id, voice.name) for voice in state.voices
        if isinstance(voice.bass, ImportedBass) and not voice.mute
    ]  # fmt: skip
    return files + [_stem(stem.id, stem.name) for stem in state.stems]
