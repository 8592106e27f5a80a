"""The part of a state that kick, bass and ducking follow from."""

from juglant.core.recipes.hit import Hit
from juglant.core.recipes.track import TrackState


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
    return state.model_copy(update=kept)
