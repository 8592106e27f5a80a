"""A long kick under chords that move."""

from juglant.core import music
from juglant.core.findings.fixes import can_shorten, clear_tail
from juglant.core.findings.verdict import Check, Finding
from juglant.core.lowend.pitches import held_roots, recommended, tuned_as_recommended
from juglant.core.lowend.played import moved_in
from juglant.core.lowend.session import Answer, Session
from juglant.core.lowend.tuning import GRATING, grates, short_ms
from juglant.core.recipes.track import TrackState


def _falls_ms(_: Session, answer: Answer) -> float | None:
    return answer.kick.hit.decay20_ms


def leaves(answer: Answer) -> list[tuple[int, str, int]]:
    """Bars, from 1, in which the kick's note grates against the root: bar, root, semitones above.

    Parameters
    ----------
    answer
        What was rendered and measured of the track.

    Returns
    -------
    list of tuple
        Bar, root and semitones.

    Examples
    --------
    >>> session = Session()
    >>> answer = session.answer(TrackState())
    >>> leaves(answer)
    [(1, 'A', 10), (2, 'A', 10)]
    """
    brief, kick = answer.state.brief, answer.state.kick
    hz = answer.kick.hit.fundamental_hz if kick.heard_hz is None else kick.heard_hz
    if hz is None or answer.state.kick.aims_at == "free":
        return []
    own = music.nearest_note(hz, brief.a4_hz).midi
    found = []
    for bar, root in enumerate(brief.roots, 1):
        moved = moved_in(answer.state.kick, brief, bar - 1)
        apart = (own + moved - music.pitch_class(root)) % 12
        if apart in GRATING:
            found.append((bar, root, apart))
    return found


def _out_of_chord(session: Session, answer: Answer) -> Finding | None:
    bars, falls = leaves(answer), _falls_ms(session, answer)
    if not bars or falls is None or falls <= short_ms(answer.state.brief):
        return None
    bar, root, apart = bars[0]
    state = answer.state
    fixes = {}
    if can_shorten(state.kick):
        fixes["shorten"] = "Shorten the kick"
    if state.kick.follow == "no":
        fixes["follow"] = "Retune it for every chord"
    better = recommended(session, state, state.kick.id)
    if better is not None and not grates(better.midi, held_roots(session, state, state.kick.id)):
        fixes["tune"] = f"Tune to {better.note}"
    more = f", and in {len(bars) - 1} more" if len(bars) > 1 else ""
    return Finding(
        "kick-out-of-chord", "tune",
        f"In bar {bar}, over {root}, the kick's {answer.kick.hit.note} lies {apart} semitones above the "
        f"root{more}, and it takes {falls:.0f} ms to fall by 20 dB.",
        "decay20_ms", falls, short_ms(answer.state.brief), "ms",
        "A long kick is a bass note: it stays in harmony only while the chord does. Where chords move, a "
        "short one is heard as a thud.",
        fixes,
    )  # fmt: skip


def _shortened(session: Session, answer: Answer) -> TrackState:
    return clear_tail(
        session,
        answer,
        lambda changed: (changed.kick.hit.decay20_ms or 0.0) <= short_ms(changed.state.brief),
    )


def _tuned(session: Session, answer: Answer) -> TrackState:
    return tuned_as_recommended(session, answer.state, answer.state.kick.id)


def _following(_: Session, answer: Answer) -> TrackState:
    return answer.state.with_kick(answer.state.kick.model_copy(update={"follow": "yes"}))


KICK_OUT_OF_CHORD = Check(
    "kick-out-of-chord", _falls_ms, _out_of_chord,
    {"shorten": _shortened, "follow": _following, "tune": _tuned},
)  # fmt: skip
