"""The part of a state that kick, bass and ducking follow from."""

from juglant.core.kept import sound_key
from juglant.core.recipes.brief import Brief
from juglant.core.recipes.bus import Bus
from juglant.core.recipes.hit import Hit
from juglant.core.recipes.track import TrackState

# The engine version under which the names of what a solution was made for were first written: a newer
# engine makes no other sound of a recipe that anything would have to be solved again for.
_SOLVED = 2


def _timing(brief: Brief) -> tuple[object, ...]:
    """What of a brief decides when and under which low cut everything sounds."""
    return (brief.bpm, brief.swing_percent, list(brief.kick_beats), list(brief.roots), brief.low_cut)


def solved_for(state: TrackState) -> str:
    """A name for the kick and the lines of a state: what a solution depends on."""
    brief = state.brief
    heard = [(voice.bass.text, voice.mute) for voice in state.voices]
    # What was solved before the owner counted was solved as if the kick owned the sub.
    owner = ("bass",) if brief.sub_owner == "bass" else ()
    return sound_key(state.kick.sounding, heard, _timing(brief), *owner, version=_SOLVED)[:16]


def bus_solved_for(state: TrackState, bus: Bus) -> str:
    """A name for what starts a bus and what it turns down, as they sound and when; muted or not."""
    hits = {hit.name: (hit.sounding.text, [step.text for step in hit.steps]) for hit in state.all_hits}
    parts: dict[str, object] = {voice.name: voice.bass.text for voice in state.voices}
    parts |= hits
    parts |= {
        stem.name: (stem.audio, stem.level_db, *((stem.begin_ms,) if stem.begin_ms else ()))
        for stem in state.stems
    }
    there, here = hits.get(bus.trigger, bus.trigger), parts.get(bus.target, bus.target)
    return sound_key(there, here, _timing(state.brief), bus.margin_db, version=_SOLVED)[:16]


def low_end(state: TrackState) -> TrackState:
    """The state without what changes nothing of kick, bass and ducking.

    Of other hits it is known when those play that choke something, or start a bus to a line.
    """
    lines = {voice.name for voice in state.voices}
    buses = tuple(bus for bus in state.buses if bus.on and bus.target in lines)
    starting = {bus.trigger for bus in buses}
    told = tuple(
        Hit(name=hit.name, steps=hit.steps, bars=hit.bars, choke=hit.choke, mute=hit.mute)
        for hit in state.hits
        if hit.steps and (hit.name in starting or (hit.choke != "none" and not hit.mute))
    )
    kept = {"hits": told, "buses": buses, "recordings": (), "kicks": (), "section": "drop"}
    kept |= {"duck_for": "", "separate_for": ""}
    return state.model_copy(update=kept)
