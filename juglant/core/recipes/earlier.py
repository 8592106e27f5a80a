"""Tracks as earlier versions stored them: a place of its own for every kind of part, duckings beside them,
parts known by their names.
"""

import re
from typing import Any

from juglant.core.recipes.fields import Recipe
from juglant.core.recipes.hit import from_a_source
from juglant.core.recipes.notes import FOUR_ON_THE_FLOOR
from juglant.core.recipes.place import MONO

# What a ducking called that which stood in for a pad, and a trigger that was no part.
_STAND_IN, _NOTE_VALUE = "Pad (stand-in)", "note value"
# The hall that a ducking could have on its target.
_HALL = {"stage": "space", "kind": "hall", "damping_hz": 5000.0, "low_cut_hz": 150.0, "predelay_ms": 0.0,
         "seed": 21}  # fmt: skip
_NO_REVERB_DB = -40.0
_OTHERS_DUCK = {"depth_db": 6.0, "hold_ms": 20.0, "release_ms": 140.0}


def _plain(given: Any) -> Any:
    """What may be a recipe already, as it is written; what is neither is left to be refused."""
    if isinstance(given, Recipe):
        given = given.model_dump()
    return dict(given) if isinstance(given, dict) else given


def _several(given: Any) -> list[Any]:
    return [_plain(one) for one in given] if isinstance(given, list | tuple) else [given]


def struck(kick: Any, beats: Any) -> Any:
    """A kick at the beats that the brief named for it, from 1; on every beat where nothing says when.

    What it had of its own beside them did nothing: strokes, a mute, further takes.

    Parameters
    ----------
    kick
        As it was written.
    beats
        Of the brief, from 1; None where it has none.

    Returns
    -------
    Any
        The kick as it is written now.

    Examples
    --------
    >>> struck({}, [1, 3])["steps"][1]["at"]
    2
    """
    if not isinstance(kick, dict):
        return kick
    kick = {"place": MONO, **from_a_source(kick)}
    if beats is None:
        if kick["place"] == type(MONO)().model_dump():
            kick["place"] = MONO
        return kick if kick.get("steps") else kick | {"steps": FOUR_ON_THE_FLOOR, "bars": 1}
    if not isinstance(beats, list | tuple) or not all(isinstance(beat, int | float) for beat in beats):
        return kick | {"steps": beats}
    for layer in kick.get("layers", ()):
        source = layer.get("source") if isinstance(layer, dict) else None
        if isinstance(source, dict) and source.get("takes"):
            source["alternate"] = "the first"
    places = [{"at": beat - 1, "strength": 1.0} for beat in sorted(set(beats))]
    return kick | {"steps": places, "bars": 1, "mute": False}


def _placed(stem: dict[str, Any]) -> dict[str, Any]:
    """A stem whose gain and mono range were its own."""
    moved = {"level_db": "gain_db", "mono_below_hz": "mono_below_hz"}
    place = {to: stem.pop(name) for name, to in moved.items() if name in stem}
    return stem | {"place": place} if place else stem


def _named(parts: list[Any]) -> list[Any]:
    """Parts with an id each, by their names; of two kinds with one name the later one is numbered."""
    names: dict[str, str] = {}
    # The sum has the id that a part of this name would get.
    ids = {"the-sum"}
    named = []
    for part in parts:
        if isinstance(part, dict):
            name = part.get("name", {"hit": "Kick", "chord": "Pad"}.get(part["part"]))
            if isinstance(name, str):
                tried, n = name, 1
                # Two of one kind never had the same name.
                while names.get(tried.lower(), part["part"]) != part["part"]:
                    n += 1
                    tried = f"{name[:36]} {n}"
                names[tried.lower()] = part["part"]
                by_name = re.sub("[^a-z0-9]+", "-", tried.lower()).strip("-")[:36]
                id = slug = part.get("id") or by_name or part["part"]
                n = 1
                while id in ids:
                    n += 1
                    id = f"{slug}-{n}"
                ids.add(id)
                part = part | {"name": tried, "id": id}
        named.append(part)
    return named


def _ids(asked: list[Any], parts: list[Any]) -> tuple[dict[str, str], dict[str, str]]:
    """The ids of what could start a ducking, and be turned down by it, by the names these had."""
    known: dict[str, dict[str, str]] = {"hit": {}, "line": {}, "stem": {}, "chord": {}}
    for was, part in zip(asked, parts, strict=True):
        if isinstance(part, dict) and "id" in part:
            name = _STAND_IN if part["part"] == "chord" else str(was.get("name", "Kick"))
            known[part["part"]].setdefault(name, part["id"])
    targets = {**known["stem"], **known["chord"], **known["hit"], **known["line"]}
    return known["hit"], targets


def _other_ducking(bus: Any, n: int, asked: list[Any], parts: list[Any]) -> Any:
    """A ducking of one trigger and one target; what reached nothing was not heard, and is off."""
    if not isinstance(bus, dict):
        return bus
    hits, targets = _ids(asked, parts)
    trigger, target = bus.pop("trigger", "Kick"), bus.pop("target", _STAND_IN)
    kick = next(iter(hits.values()), "kick")
    there, here = hits.get(trigger), targets.get(target)
    reached = (there or trigger == _NOTE_VALUE) and here not in (None, kick, there)
    bus |= {
        "id": f"ducking-{n}",
        "triggers": [there] if there else [],
        "targets": [here] if reached else [],
        "on": bool(bus.get("on", True) and reached),
        "duck": bus.get("duck", _OTHERS_DUCK),
    }
    rate = bus.pop("rate", "1/8")
    if trigger == _NOTE_VALUE:
        bus["rate"] = rate
    if "below_hz" in bus:
        # The first version had only what lies below a frequency, beside the curve.
        below = bus.pop("below_hz")
        band = {"band": "all"} if below >= 20000.0 else {"band": "below", "edge_hz": below}
        bus["duck"] = {**_plain(bus["duck"]), **band}
    level, decay = bus.pop("reverb_db", _NO_REVERB_DB), bus.pop("reverb_ms", 1800.0)
    behind = bus.pop("tail", "ducked") == "rings through"
    for part in parts:
        if reached and level > _NO_REVERB_DB and part.get("id") == here:
            where = "after" if behind else "stages"
            hall = _HALL | {"mix_db": level, "decay_ms": decay, "bypass": not bus["on"]}
            part[where] = [*part.get(where, ()), hall]
    return bus


def as_parts(given: dict[str, Any]) -> dict[str, Any]:
    """A track with its parts and duckings in two lists, each under an id.

    Parameters
    ----------
    given
        A track as it was written.

    Returns
    -------
    dict
        The track as it is written now.

    Examples
    --------
    >>> sorted(as_parts({"kick": {}, "bass": {"kind": "made"}}))[:2]
    ['duckings', 'parts']
    """
    rest = dict(given)
    brief = _plain(rest.get("brief"))
    beats = brief.pop("kick_beats", None) if isinstance(brief, dict) else None
    if brief is not None:
        rest["brief"] = brief
    lines = _several(rest.pop("lines", ()))
    if not any(isinstance(line, dict) and line.get("name") == "bass" for line in lines):
        first = {"name": "bass", "mute": rest.pop("bass_mute", False)}
        lines = [first | ({"bass": rest.pop("bass")} if "bass" in rest else {}), *lines]
    kinds = {
        "hit": [struck(_plain(rest.pop("kick", {})), beats), *_several(rest.pop("hits", ()))],
        "line": lines, "stem": _several(rest.pop("stems", ())), "chord": _several(rest.pop("chords", ())),
    }  # fmt: skip
    buses = _several(rest.pop("buses", ()))
    padded = [bus for bus in buses if isinstance(bus, dict) and bus.get("target", _STAND_IN) == _STAND_IN]
    if padded:
        kinds["chord"].append({"name": "Pad", "mute": not any(bus.get("on", True) for bus in padded)})
    asked = [
        {"part": kind} | {"hit": from_a_source, "stem": _placed}.get(kind, dict)(one)
        if isinstance(one, dict) else one
        for kind, several in kinds.items() for one in several
    ]  # fmt: skip
    parts = _named(asked)
    kick = parts[0].get("id", "kick") if isinstance(parts[0], dict) else "kick"
    moved = {"duck": "duck", "ducking": "on", "duck_for": "solved_for"}
    main = {"id": "kick-and-bass", "triggers": [kick], "duck": {}}
    main |= {"targets": [one["id"] for one in parts if isinstance(one, dict) and one["part"] == "line"]}
    main |= {to: rest.pop(name) for name, to in moved.items() if name in rest}
    others = [_other_ducking(bus, n, asked, parts) for n, bus in enumerate(buses, 2)]
    rest["duckings"] = [main, *others, *rest.pop("duckings", ())]
    return rest | {"parts": parts}
