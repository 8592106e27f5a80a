"""Who owns the sub: both, nobody, or one that has lost it."""

from typing import Any

from juglant.core.findings.fixes import can_shorten, clear_tail, made_changed
from juglant.core.findings.outdated import solve_duck
from juglant.core.findings.verdict import Check, Finding
from juglant.core.lowend.session import Answer, Session
from juglant.core.measure.owner import LEAST_SUB_DB, OWNER_LOSS_LIMIT_DB, SHARED_LIMIT_MS
from juglant.core.recipes.hit import MadeKick
from juglant.core.recipes.parts import MadeBass
from juglant.core.recipes.separate import SeparateRecipe
from juglant.core.recipes.track import TrackState

# Where the one that does not own the sub leaves it to the other: 60-65 Hz is common practice for a bass,
# 60-80 Hz for a kick; higher only at need.
_LEAVES_HZ = (50.0, 56.0, 62.0, 70.0, 80.0, 92.0, 105.0, 120.0)
_LONGER, _MOST_LONGER = 1.15, 8
_NEVER_BOTH = "Two owners of the lowest octave turn to mush: one of them must leave it."


def _other(owner: str) -> str:
    return "bass" if owner == "kick" else "kick"


def _shared_ms(_: Session, answer: Answer) -> float | None:
    return answer.after.sub_shared_ms


def _shared_is_over(answer: Answer) -> bool:
    """Whether both sound in the sub for longer than they may."""
    return (answer.after.sub_shared_ms or 0.0) > SHARED_LIMIT_MS


def _shared(_: Session, answer: Answer) -> Finding | None:
    shared, edge = answer.after.sub_shared_ms, answer.after.sub_edge_hz
    if shared is None or shared <= SHARED_LIMIT_MS:
        return None
    owner = answer.state.brief.sub_owner
    other = _other(owner)
    fixes = {"thin": f"High-pass the {other}"}
    if other == "bass":
        fixes["duck"] = "Solve the ducking"
    elif can_shorten(answer.state.kick):
        fixes = {"shorten": "Shorten the kick", **fixes}
    return Finding(
        "sub-shared", "separate",
        f"Below {edge:.0f} Hz kick and bass sound together for {shared:.0f} ms of every kick, though the "
        f"{owner} owns the sub.",
        "sub_shared_ms", shared, SHARED_LIMIT_MS, "ms", _NEVER_BOTH, fixes,
        advice=f"A {other} with less below {edge:.0f} Hz, or one that is silent while the {owner} sounds.",
    )  # fmt: skip


def _carved(state: TrackState, side: str, **changes: Any) -> TrackState:
    carve = getattr(state.separate, side).model_copy(update=changes)
    return state.model_copy(update={"separate": state.separate.model_copy(update={side: carve})})


def _thinned(session: Session, answer: Answer) -> TrackState:
    """The one that does not own the sub high-passed, only as far as is needed."""
    side, state = _other(answer.state.brief.sub_owner), answer.state
    already = getattr(answer.state.separate, side).highpass_hz
    for hz in _LEAVES_HZ:
        if hz <= already:
            continue
        state = _carved(answer.state, side, highpass_hz=hz, highpass_slope="24")
        if not _shared_is_over(session.answer(state)):
            break
    return state


def _shortened(session: Session, answer: Answer) -> TrackState:
    return clear_tail(session, answer, lambda changed: not _shared_is_over(changed))


def _level_db(_: Session, answer: Answer) -> float | None:
    return answer.after.sub_level_db


def _nobody_owns(answer: Answer) -> bool:
    """Whether the owner of the sub has too little of it."""
    level = answer.after.sub_level_db
    return level is not None and level < LEAST_SUB_DB


def _nobody(_: Session, answer: Answer) -> Finding | None:
    level, state = answer.after.sub_level_db, answer.state
    if level is None or level >= LEAST_SUB_DB:
        return None
    owner = state.brief.sub_owner
    other = _other(owner)
    fixes = {"give": f"Give the sub to the {other}"}
    if owner == "kick" and any(isinstance(one.source, MadeKick) for one in state.kick.layers):
        fixes |= {"longer": "A longer kick", "deeper": "A kick an octave deeper"}
    if owner == "bass":
        fixes |= {"open": "Take the bass’s high-pass off", "deeper": "The bass an octave deeper"}
    deeper = "a longer or deeper kick" if owner == "kick" else "a deeper bass, or one without a high-pass"
    return Finding(
        "sub-nobody", "brief",
        f"Nobody owns the sub: the {owner} should, and lies {-level:.1f} dB under the low end there.",
        "sub_level_db", level, LEAST_SUB_DB, "dB",
        "Without an owner the lowest octave is empty, and the track is thin on a large system.",
        fixes, advice=f"Either {deeper}, or the {other} as the owner in the brief.",
    )  # fmt: skip


def _given(_: Session, answer: Answer) -> TrackState:
    brief = answer.state.brief
    other = brief.model_copy(update={"sub_owner": _other(brief.sub_owner)})
    return answer.state.model_copy(update={"brief": other})


def _longer(session: Session, answer: Answer) -> TrackState:
    """The made kick lengthened in steps, only until it has the sub."""
    state, kick = answer.state, answer.state.kick
    for _ in range(_MOST_LONGER):
        kick = made_changed(
            kick, lambda recipe: {
                "decay_ms": min(round(recipe.decay_ms * _LONGER), 1500.0),
                "length_ms": min(round(recipe.length_ms * _LONGER), 2000.0), "length_note": "ms",
            },
        )  # fmt: skip
        state = state.with_part(kick)
        if not _nobody_owns(session.answer(state)):
            break
    return state


def _deeper(session: Session, answer: Answer) -> TrackState:
    state = answer.state
    if state.brief.sub_owner == "kick":
        kick = made_changed(state.kick, lambda recipe: {"end_hz": max(round(recipe.end_hz / 2, 2), 25.0)})
        return state.with_part(kick)
    for voice in state.voices:
        if voice.line is not None and not voice.mute and voice.line.octave > 0:
            state = state.with_line(voice.id, octave=voice.line.octave - 1)
    return state


def _opened(_: Session, answer: Answer) -> TrackState:
    state = _carved(answer.state, "bass", highpass_hz=20.0)
    for voice in state.voices:
        if isinstance(voice.bass, MadeBass) and not voice.mute:
            state = state.with_line(voice.id, highpass_hz=20.0)
    return state


def _loss_db(_: Session, answer: Answer) -> float | None:
    return answer.after.owner_loss_db


def _lost(_: Session, answer: Answer) -> Finding | None:
    loss, state = answer.after.owner_loss_db, answer.state
    if loss is None or loss <= OWNER_LOSS_LIMIT_DB:
        return None
    owner = state.brief.sub_owner
    carved = (answer.before.owner_loss_db or 0.0) > OWNER_LOSS_LIMIT_DB
    by = "carving" if carved else "ducking"
    fixes = {"restore": f"Leave the {owner} its sub"} if carved else {}
    if owner == "bass" and state.ducking:
        fixes |= {"spare": "Duck only what lies above the sub", "duck": "Solve the ducking"}
    return Finding(
        "sub-loss", "separate" if carved else "duck",
        f"The {owner} owns the sub, and the {by} takes up to {loss:.1f} dB of it.",
        "owner_loss_db", loss, OWNER_LOSS_LIMIT_DB, "dB",
        "The owner of the sub is what the low end stands on: it is never turned down.", fixes,
        advice=f"A {by} that leaves what lies below {answer.after.sub_edge_hz or 0:.0f} Hz alone.",
    )  # fmt: skip


def _restored(_: Session, answer: Answer) -> TrackState:
    fresh = getattr(SeparateRecipe(), answer.state.brief.sub_owner)
    return _carved(
        answer.state, answer.state.brief.sub_owner, highpass_hz=fresh.highpass_hz, cut_db=fresh.cut_db
    )


def _spared(session: Session, answer: Answer) -> TrackState:
    state = answer.state
    duck = state.duck.model_copy(update={"band": "by owner"})
    return state.with_duck(duck=duck)


def _solved_sparing(session: Session, answer: Answer) -> TrackState:
    return solve_duck(session, session.answer(_spared(session, answer)))


SUB: tuple[Check, ...] = (
    Check("sub-shared", _shared_ms, _shared,
          {"thin": _thinned, "duck": solve_duck, "shorten": _shortened}),
    Check("sub-nobody", _level_db, _nobody,
          {"give": _given, "longer": _longer, "deeper": _deeper, "open": _opened}),
    Check("sub-loss", _loss_db, _lost,
          {"restore": _restored, "spare": _spared, "duck": _solved_sparing}),
)  # fmt: skip
