"""Fixes: a state in, the mended state out."""

from collections.abc import Callable
from typing import Any

from juglant.core.lowend.drawn import drawn_slower
from juglant.core.lowend.ducking import CLICK_LIMIT_DB_PER_MS, returning_on
from juglant.core.lowend.session import Answer, Session
from juglant.core.recipes.hit import Hit, Imported, MadeKick
from juglant.core.recipes.track import ImportedBass, MadeBass, RumbleBass, TrackState

Fix = Callable[[Session, Answer], TrackState]

# Where a bass leaves the sub to the kick: 60-65 Hz is common practice, higher only at need.
OWNER_HIGHPASS_HZ = (62.0, 70.0, 80.0, 92.0, 105.0, 120.0)
_SHORTEST_MS = 60.0
_QUIETER_STEPS = 12
# How long before the next kick the bass is to be back.
_KEPT_MS = 5.0


def _shorter(hit: Hit, factor: float) -> Hit:
    """A hit with every made kick in it shortened by the same share."""
    for index, layer in enumerate(hit.layers):
        if not isinstance(layer.source, MadeKick):
            continue
        recipe = layer.source.recipe
        changed = {
            "decay_ms": max(_SHORTEST_MS / 2, round(recipe.decay_ms * factor)),
            "length_ms": max(_SHORTEST_MS, round(recipe.length_ms * factor)),
            "hold_ms": round(recipe.hold_ms * factor),
            "length_note": "ms",
        }
        hit = hit.with_source(index, MadeKick(recipe=recipe.model_copy(update=changed)))
    return hit


def can_shorten(hit: Hit) -> bool:
    """Whether there is a made kick in the hit: others are as long as their files."""
    return any(isinstance(layer.source, MadeKick) for layer in hit.layers)


def clear_tail(session: Session, answer: Answer, cleared: Callable[[Answer], bool]) -> TrackState:
    """The made kick shortened in steps of a tenth, only until `cleared` holds."""
    state = answer.state
    if not can_shorten(state.kick):
        return state
    for step in range(1, _QUIETER_STEPS + 1):
        state = answer.state.model_copy(update={"kick": _shorter(answer.state.kick, 0.9**step)})
        if cleared(session.answer(state)):
            break
    return state


def choke(state: TrackState, old: str, new: str) -> TrackState:
    """The state in which two parts, hits or lines by their names, end each other.

    The group is one that either has already, or else one that no other part is in.
    """
    hits = state.all_hits
    groups = {hit.name: hit.choke for hit in hits}
    groups |= {voice.name: voice.line.choke for voice in state.voices if voice.line is not None}
    taken = [groups[name] for name in (old, new) if groups.get(name, "none") != "none"]
    free = next((name for name in ("A", "B", "C") if name not in groups.values()), "C")
    group = taken[0] if taken else free
    for index, hit in enumerate(hits):
        if hit.name in (old, new):
            state = state.with_hit(index, hit.model_copy(update={"choke": group}))
    for index, voice in enumerate(state.voices):
        if voice.name in (old, new):
            state = state.with_line(index, choke=group)
    return state


def made_lines(state: TrackState) -> list[int]:
    """Which of the lines that are heard are made here, and have a high-pass of their own."""
    return [
        index for index, voice in enumerate(state.voices)
        if not voice.mute and isinstance(voice.bass, MadeBass)
    ]  # fmt: skip


def split_sub(session: Session, answer: Answer, cleared: Callable[[Answer], bool]) -> TrackState:
    """Takes the sub from the one that does not own it, only as far as is needed."""
    state = answer.state
    if state.brief.sub_owner == "bass":
        return clear_tail(session, answer, cleared)
    made = made_lines(state)
    for cutoff in OWNER_HIGHPASS_HZ if made else ():
        for index in made:
            state = state.with_line(index, highpass_hz=cutoff)
        if cleared(session.answer(state)):
            break
    return state


def return_in_time(_: Session, answer: Answer) -> TrackState:
    """The way back shortened until the bass is back 5 ms before the next kick."""
    numbers = answer.duck
    if numbers.slack_ms is None or numbers.returns_ms is None or numbers.slack_ms >= _KEPT_MS:
        return answer.state
    duck = returning_on(answer.state.duck, numbers.returns_ms + numbers.slack_ms - _KEPT_MS)
    return answer.state.model_copy(update={"duck": duck})


def slower_attack(session: Session, answer: Answer) -> TrackState:
    """Attack and release just slow enough to stay under the click limit."""
    duck = answer.state.duck
    if duck.points:
        slower = drawn_slower(duck.points, duck.depth_db, 0.9 * CLICK_LIMIT_DB_PER_MS)
        return answer.state.model_copy(update={"duck": duck.model_copy(update={"points": slower})})
    # The steepest point of the ease is 1.5 times the mean slope; a tenth is kept in hand.
    least = round(1.5 * duck.depth_db / (0.9 * CLICK_LIMIT_DB_PER_MS), 1)
    bend = 2.0 ** abs(1.5 * duck.curve)
    changed = duck.model_copy(
        update={
            "attack_ms": max(duck.attack_ms, least),
            "release_ms": max(duck.release_ms, round(least * bend, 1)),
        }
    )
    return answer.state.model_copy(update={"duck": changed})


def lower(state: TrackState, by_db: float, *, bass: bool) -> TrackState:
    """Kick, and bass if asked, turned down by `by_db`, as far as their controls go."""

    def quieter(part: Any) -> Any:
        return part.model_copy(update={"level_db": round(max(-30.0, part.level_db - by_db), 2)})

    kick, source = state.kick, state.kick.only_source
    if source is None:
        kick = quieter(kick)
    elif isinstance(source, Imported):
        kick = kick.with_source(0, quieter(source))
    else:
        kick = kick.with_source(0, type(source)(recipe=quieter(source.recipe)))
    state = state.model_copy(update={"kick": kick})
    for index, voice in enumerate(state.voices if bass else ()):
        if isinstance(voice.bass, ImportedBass):
            state = state.with_bass(index, quieter(voice.bass))
        elif not isinstance(voice.bass, RumbleBass):  # whose level is the kick's
            state = state.with_bass(
                index, voice.bass.model_copy(update={"recipe": quieter(voice.bass.recipe)})
            )
    return state
