"""Fixes: a state in, the mended state out."""

from collections.abc import Callable
from typing import Any

from juglant.core.lowend.curves import returning_on
from juglant.core.lowend.drawn import drawn_slower
from juglant.core.lowend.ducking import CLICK_LIMIT_DB_PER_MS
from juglant.core.lowend.session import Answer, Session
from juglant.core.recipes.hit import Hit, Imported, Made, MadeKick
from juglant.core.recipes.parts import ImportedBass, RumbleBass
from juglant.core.recipes.track import TrackState

Fix = Callable[[Session, Answer], TrackState]

# What kick and bass together may reach, between the samples too.
PEAK_DBTP = -1.0

_SHORTEST_MS = 60.0
_QUIETER_STEPS = 18
# How long before the next kick the bass is to be back.
_KEPT_MS = 5.0


def made_changed(
    hit: Hit, change: Callable[[Any], dict[str, Any]], kinds: tuple[type[Made], ...] = (MadeKick,)
) -> Hit:
    """A hit with the recipe of every made source of some kinds changed as `change` says of it.

    Parameters
    ----------
    hit, change
        The hit; new values of controls from the recipe.
    kinds
        Kinds of made sounds that are changed.

    Returns
    -------
    Hit
        The hit.

    Examples
    --------
    >>> from juglant.core.recipes.track import TrackState
    >>> made_changed(TrackState().kick, lambda recipe: {"decay_ms": 200.0}).layers[0].source.recipe.decay_ms
    200.0
    """
    for index, layer in enumerate(hit.layers):
        source: Any = layer.source
        if isinstance(source, kinds):
            recipe = source.recipe.model_copy(update=change(source.recipe))
            hit = hit.with_source(index, type(source)(recipe=recipe))
    return hit


def shortened(hit: Hit, factor: float, length_ms: float) -> Hit:
    """A hit, `length_ms` long, with every made kick in it and every file shortened by the same share.

    Parameters
    ----------
    hit, factor
        The hit; how many times as long.
    length_ms
        How long the hit is.

    Returns
    -------
    Hit
        The hit.

    Examples
    --------
    >>> kick = TrackState().kick
    >>> before = kick.layers[0].source.recipe.decay_ms
    >>> shortened(kick, 0.5, 400.0).layers[0].source.recipe.decay_ms < before
    True
    """
    for index, layer in enumerate(hit.layers):
        if isinstance(layer.source, Imported):
            hit = _faded(hit, index, layer.source, max(length_ms * factor, _SHORTEST_MS))
    return made_changed(
        hit, lambda recipe: {
            "decay_ms": max(_SHORTEST_MS / 2, round(recipe.decay_ms * factor)),
            "length_ms": max(_SHORTEST_MS, round(recipe.length_ms * factor)),
            "hold_ms": round(recipe.hold_ms * factor), "length_note": "ms",
        },
    )  # fmt: skip


def _faded(hit: Hit, index: int, source: Imported, length_ms: float) -> Hit:
    """A file in a hit that ends after a time, faded out over its second half."""
    end = source.start_ms + length_ms
    if source.end_ms is not None:
        end = min(end, source.end_ms)
    fade = {"fade_out_ms": float(round(min(0.5 * length_ms, 1000.0)))}
    layer = hit.layers[index].model_copy(
        update={**fade, "source": source.model_copy(update={"end_ms": round(end, 1)})}
    )
    return hit.model_copy(update={"layers": (*hit.layers[:index], layer, *hit.layers[index + 1 :])})


def can_shorten(hit: Hit) -> bool:
    """Whether there is a made kick or a file in the hit, which can end sooner.

    Parameters
    ----------
    hit
        The hit.

    Returns
    -------
    bool
        Whether there is.

    Examples
    --------
    >>> can_shorten(TrackState().kick)
    True
    """
    return any(isinstance(layer.source, MadeKick | Imported) for layer in hit.layers)


def clear_tail(session: Session, answer: Answer, cleared: Callable[[Answer], bool]) -> TrackState:
    """The kick shortened in steps of a tenth, only until `cleared` holds.

    Parameters
    ----------
    session, answer
        Renders and keeps what was asked for; what was rendered and measured of the track.
    cleared
        Whether it is enough.

    Returns
    -------
    TrackState
        The state.

    Examples
    --------
    >>> session = Session()
    >>> answer = session.answer(TrackState())
    >>> clear_tail(session, answer, lambda answer: True).voices == answer.state.voices
    True
    """
    state = answer.state
    if not can_shorten(state.kick):
        return state
    numbers = answer.kick.hit
    length = min(numbers.length_ms, numbers.decay60_ms or numbers.length_ms)
    for step in range(1, _QUIETER_STEPS + 1):
        state = answer.state.with_part(shortened(answer.state.kick, 0.9**step, length))
        if cleared(session.answer(state)):
            break
    return state


def choke(state: TrackState, old: str, new: str) -> TrackState:
    """The state in which two parts, hits or lines by their names, end each other.

    The group is one that either has already, or else one that no other part is in.

    Parameters
    ----------
    state, old
        The track; name of the part that sounded first.
    new
        Name of the one that ends it.

    Returns
    -------
    TrackState
        The state.

    Examples
    --------
    >>> state = choke(TrackState(), "Kick", "Bass")
    >>> state.kick.choke == state.voices[0].line.choke != "none"
    False
    """
    hits = state.all_hits
    groups = {hit.name: hit.choke for hit in hits}
    groups |= {voice.name: voice.line.choke for voice in state.voices if voice.line is not None}
    taken = [groups[name] for name in (old, new) if groups.get(name, "none") != "none"]
    free = next((name for name in ("A", "B", "C") if name not in groups.values()), "C")
    group = taken[0] if taken else free
    for hit in hits:
        if hit.name in (old, new):
            state = state.with_part(hit.model_copy(update={"choke": group}))
    for voice in state.voices:
        if voice.name in (old, new):
            state = state.with_line(voice.id, choke=group)
    return state


# Below this clubs play one channel (common practice).
MONO_BELOW_HZ = 120.0


def mono_sum(state: TrackState) -> TrackState:
    """Everything together, mono in the low end.

    Parameters
    ----------
    state
        The track.

    Returns
    -------
    TrackState
        The state.

    Examples
    --------
    >>> mono_sum(TrackState()).sum.place.mono_below_hz > 20.0
    True
    """
    place = state.sum.place.model_copy(update={"mono_below_hz": MONO_BELOW_HZ})
    return state.with_part(state.sum.model_copy(update={"place": place}))


def return_in_time(_: Session, answer: Answer) -> TrackState:
    """The way back shortened until the bass is back 5 ms before the next kick.

    Parameters
    ----------
    _, answer
        Not asked; what was rendered and measured of the track.

    Returns
    -------
    TrackState
        The state.

    Examples
    --------
    >>> session, state = Session(), TrackState()
    >>> answer = session.answer(state)
    >>> answer_after = session.answer(return_in_time(session, answer))
    >>> answer_after.duck.depth_db == answer.duck.depth_db
    True
    """
    numbers = answer.duck
    if numbers.slack_ms is None or numbers.returns_ms is None or numbers.slack_ms >= _KEPT_MS:
        return answer.state
    duck = returning_on(answer.state.duck, numbers.returns_ms + numbers.slack_ms - _KEPT_MS)
    return answer.state.with_duck(duck=duck)


def slower_attack(session: Session, answer: Answer) -> TrackState:
    """Attack and release just slow enough to stay under the click limit.

    Parameters
    ----------
    session, answer
        Renders and keeps what was asked for; what was rendered and measured of the track.

    Returns
    -------
    TrackState
        The state.

    Examples
    --------
    >>> session, state = Session(), TrackState()
    >>> answer = session.answer(state)
    >>> slower_attack(session, answer).duckings[0].duck.attack_ms >= 0
    True
    """
    duck = answer.state.duck
    if duck.points:
        slower = drawn_slower(duck.points, duck.depth_db, 0.9 * CLICK_LIMIT_DB_PER_MS)
        return answer.state.with_duck(duck=duck.model_copy(update={"points": slower}))
    # The steepest point of the ease is 1.5 times the mean slope; a tenth is kept in hand.
    least = round(1.5 * duck.depth_db / (0.9 * CLICK_LIMIT_DB_PER_MS), 1)
    bend = 2.0 ** abs(1.5 * duck.curve)
    changed = duck.model_copy(
        update={
            "attack_ms": max(duck.attack_ms, least),
            "release_ms": max(duck.release_ms, round(least * bend, 1)),
        }
    )
    return answer.state.with_duck(duck=changed)


def quieter(state: TrackState, id: str, by_db: float) -> TrackState:
    """The kick or a line turned down by `by_db`, as far as its controls go.

    Parameters
    ----------
    state, id
        The track; of the part.
    by_db
        By how much.

    Returns
    -------
    TrackState
        The state.

    Examples
    --------
    >>> quieter(TrackState(), "kick", 3.0) == lower(TrackState(), 3.0, bass=False)
    True
    """

    def lowered(part: Any) -> Any:
        return part.model_copy(update={"level_db": round(max(-30.0, part.level_db - by_db), 2)})

    kick, source = state.kick, state.kick.only_source
    if id != kick.id:
        bass = state.voice(id).bass
        if isinstance(bass, ImportedBass):
            return state.with_bass(id, lowered(bass))
        if isinstance(bass, RumbleBass):  # whose level is the kick's
            return state
        return state.with_bass(id, bass.model_copy(update={"recipe": lowered(bass.recipe)}))
    if source is None:
        kick = lowered(kick)
    elif isinstance(source, Imported):
        kick = kick.with_source(0, lowered(source))
    else:
        kick = kick.with_source(0, type(source)(recipe=lowered(source.recipe)))
    return state.with_part(kick)


def lower(state: TrackState, by_db: float, *, bass: bool) -> TrackState:
    """Kick, and every line if asked, turned down by `by_db`, as far as their controls go.

    Parameters
    ----------
    state, by_db
        The track; by how much.
    bass
        Whether lines are turned down, too.

    Returns
    -------
    TrackState
        The state.

    Examples
    --------
    >>> before = TrackState().kick.layers[0].source.recipe.level_db
    >>> lower(TrackState(), 3.0, bass=True).kick.layers[0].source.recipe.level_db - before
    -3.0
    """
    for id in (state.kick.id, *(voice.id for voice in state.voices if bass)):
        state = quieter(state, id, by_db)
    return state
