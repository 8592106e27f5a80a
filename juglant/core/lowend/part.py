"""The part of a state that kick, bass and ducking follow from."""

from juglant.core.kept import sound_key
from juglant.core.recipes.duck import DuckRecipe
from juglant.core.recipes.ducking import Ducking
from juglant.core.recipes.fields import Recipe
from juglant.core.recipes.hit import Hit
from juglant.core.recipes.parts import AnyPart, ImportedBass, Outputs, Stem, Sum
from juglant.core.recipes.place import MONO, Place
from juglant.core.recipes.track import TrackState

# The engine version under which the names of what a solution was made for were first written: a newer
# engine makes no other sound of a recipe that anything would have to be solved again for.
_SOLVED = 2
# What decides when a hit is played.
_PLAYED = ("steps", "bars", "choke", "swing", "swing_percent", "mute")


def _timing(state: TrackState) -> tuple[object, ...]:
    """What decides when and under which low cut everything sounds."""
    brief, kick = state.brief, state.kick
    # Strokes of one bar at full velocity are named by their beats from 1, as they were first stored.
    beats: list[object] = [step.at + 1 for step in kick.steps]
    if kick.bars > 1 or any(step.velocity < 1.0 for step in kick.steps):
        beats = [kick.bars, *(step.text for step in kick.steps)]
    if brief.swing_of(kick) != brief.swing_percent:
        beats = [brief.swing_of(kick), beats]
    return (brief.bpm, brief.swing_percent, beats, list(brief.roots), brief.low_cut)


def solved_for(state: TrackState) -> str:
    """A name for the kick and the lines of a state: what a solution depends on.

    Parameters
    ----------
    state
        The track.

    Returns
    -------
    str
        Sixteen hexadecimal digits.

    Examples
    --------
    >>> from juglant.core.recipes.track import TrackState
    >>> len(solved_for(TrackState()))
    16
    """
    brief = state.brief
    heard = [(voice.bass.text, voice.mute) for voice in state.voices]
    # What was solved before the owner counted was solved as if the kick owned the sub.
    owner = ("bass",) if brief.sub_owner == "bass" else ()
    more = [part.text for part in _stages(state, [state.kick.id, *(voice.id for voice in state.voices)])]
    return sound_key(state.kick.sounding, heard, _timing(state), *owner, *more, version=_SOLVED)[:16]


def ducking_solved_for(state: TrackState, one: Ducking) -> str:
    """A name for what starts a ducking and what it turns down, as they sound and when; muted or not.

    Parameters
    ----------
    state, one
        The track; the ducking.

    Returns
    -------
    str
        Sixteen hexadecimal digits.

    Examples
    --------
    >>> from juglant.core.recipes.track import TrackState
    >>> len(ducking_solved_for(TrackState(), TrackState().duckings[0]))
    16
    """
    # The kick's strokes are in the timing.
    hits: dict[str, object] = {}
    for hit in state.all_hits:
        own = [] if state.brief.swing_of(hit) == state.brief.swing_percent else [state.brief.swing_of(hit)]
        steps = [step.text for step in hit.steps]
        hits[hit.id] = (hit.sounding.text, [] if hit is state.kick else [*steps, *own])
    parts: dict[str, object] = {voice.id: voice.bass.text for voice in state.voices}
    parts |= hits
    parts |= {stem.id: (stem.audio, stem.place.gain_db, *_named_by(stem)) for stem in state.stems}
    there: list[object] = [parts.get(id, "Pad (stand-in)") for id in one.triggers]
    here: list[object] = [parts.get(target.part, "Pad (stand-in)") for target in one.targets]
    # One of each was named without a list, a note value by what it was called.
    named = [names[0] if len(names) == 1 else names for names in (there or ["note value"], here)]
    more = [part.text for part in _stages(state, [*one.triggers, *(t.part for t in one.targets)])]
    return sound_key(*named, _timing(state), one.margin_db, *more, version=_SOLVED)[:16]


def _named_by(file: Stem | ImportedBass) -> list[object]:
    """What decides a file's loop beside the file and the tempo, as far as it changes anything."""
    found: list[object] = [file.begin_ms] if file.begin_ms else []
    if file.fit != "as it is":
        found.append([file.fit, file.own_bpm])
    if file.tops != "as they are":
        found.append(file.tops)
    if file.silent:
        found.append(list(file.silent))
    if file.swing != "as it is":
        found.append([file.swing, file.swing_percent])
    return found


def _stages(state: TrackState, ids: list[str]) -> list[Recipe]:
    """What the loops of some parts pass, and where they lie, as far as it changes anything."""
    neutral = {True: Place(), False: MONO}
    found: list[Recipe] = []
    for part in state.parts:
        if part.id in ids:
            found += [stage for stage in part.stages if not stage.bypass]
            where = part.place.model_copy(update={"gain_db": 0.0, "mono_below_hz": 20.0})
            if where not in neutral.values():
                found.append(part.place)
            found += part.moves
    return found


def low_end(state: TrackState) -> TrackState:
    """The state without what changes nothing of kick, bass and their duckings.

    Of others it is known when those play that choke something, or start a ducking of the low end.

    Parameters
    ----------
    state
        The track.

    Returns
    -------
    TrackState
        Without the rest.

    Examples
    --------
    >>> from juglant.core.recipes.track import TrackState
    >>> len(low_end(TrackState()).parts)
    2
    """
    low = {state.kick.id, *(voice.id for voice in state.voices)}
    acting = [one for one in state.duckings if one.on and any(t.part in low for t in one.targets)]
    if state.duckings[0] not in acting:
        acting.insert(0, state.duckings[0])
    starting = _members(state, {id for one in acting for id in one.triggers})
    parts: list[AnyPart] = []
    for part in state.parts:
        if part.id in low or (part.id in starting and not isinstance(part, Hit)):
            parts.append(part)
        elif (
            isinstance(part, Hit)
            and part.steps
            and (part.id in starting or (part.choke != "none" and not part.mute))
        ):
            played = {name: getattr(part, name) for name in _PLAYED}
            parts.append(Hit(id=part.id, name=part.name, **played))
    told = tuple(
        one.model_copy(update={
            "targets": tuple(t for t in one.targets if t.part in low), "solved_for": "", "margin_db": 0.0,
        })
        for one in acting
    )  # fmt: skip
    kept = {"parts": tuple(parts), "duckings": told, "recordings": (), "sum": Sum()}
    return state.model_copy(update={**kept, "separate_for": ""})


def _members(state: TrackState, ids: set[str]) -> set[str]:
    """Parts, and those whose outputs they are made of."""
    found = set(ids)
    for part in state.parts:
        if part.id in ids and isinstance(part, Outputs):
            found |= _members(state, {one.of for one in part.sources} - found)
    return found


def undone(state: TrackState) -> TrackState:
    """What kick and bass follow from before any ducking.

    Parameters
    ----------
    state
        The track.

    Returns
    -------
    TrackState
        Without any ducking.

    Examples
    --------
    >>> from juglant.core.recipes.track import TrackState
    >>> undone(TrackState()).duckings[0].on
    False
    """
    off = tuple(one.model_copy(update={"on": False, "duck": DuckRecipe()}) for one in state.duckings[:1])
    low = low_end(state.model_copy(update={"duckings": off}))
    behind = tuple(part.model_copy(update={"after": ()}) if part.after else part for part in low.parts)
    return low.model_copy(update={"parts": behind})
