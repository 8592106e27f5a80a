"""What was changed from one state of a track to the next, in words."""

from juglant.core.differences import differing, few
from juglant.core.recipes.ducking import Ducking
from juglant.core.recipes.parts import AnyPart
from juglant.core.recipes.sections import Aspect, Difference, Section, Track
from juglant.core.recipes.track import TrackState

# More than this is said as a number.
_MOST = 4
# What is told apart, or is no change that anybody hears.
_NAMES = frozenset({"name", "id", "part", "solved_for"})
_SAID: dict[Aspect, str] = {"chain": "loop chain", "after": "chain behind the duckings"}


def changes(before: Track, after: Track) -> list[str]:
    """What differs, each in a few words with its numbers: the brief, parts, duckings, sections. Empty where
    nothing does.

    Parameters
    ----------
    before
        As it was.
    after
        As it is.

    Returns
    -------
    list of str
        One for each.

    Examples
    --------
    >>> from juglant.core.recipes.sections import Track
    >>> changes(Track(), Track())
    []
    """
    found = _in_state(before.state, after.state)
    was = {section.id: section for section in before.sections}
    there = {section.id for section in after.sections}
    found += [f"section {one.name} removed" for one in before.sections if one.id not in there]
    for section in after.sections:
        old = was.get(section.id)
        if old is None:
            found.append(f"section {section.name} added")
        elif old != section:
            found += _in_section(old, section, before, after)
    if before.main != after.main:
        found.append(f"{after.section(after.main).name} is main")
    if before.arrangement != after.arrangement:
        found.append("arrangement")
    return list(dict.fromkeys(found))


def told(before: Track, after: Track) -> str:
    """The differences in one line: “Kick: shape · Hat: pattern”.

    Parameters
    ----------
    before
        As it was.
    after
        As it is.

    Returns
    -------
    str
        One line.

    Examples
    --------
    >>> from juglant.core.recipes.sections import Track
    >>> told(Track(), Track())
    ''
    """
    found = changes(before, after)
    more = len(found) - _MOST
    return " · ".join(found[:_MOST]) + (f" · and {more} more" if more > 0 else "")


def _in_state(before: TrackState, after: TrackState) -> list[str]:
    found = [f"brief: {one}" for one in differing(before.brief, after.brief)]
    was = {part.id: part for part in before.everything}
    there = {part.id for part in after.everything}
    found += [f"{part.name} removed" for part in before.everything if part.id not in there]
    for part in after.everything:
        old = was.get(part.id)
        found += [f"{part.name} added"] if old is None else _in_part(old, part)
    duckings = {one.id: one for one in before.duckings}
    kept = {one.id for one in after.duckings}
    found += [f"{_named(one, before)} removed" for one in before.duckings if one.id not in kept]
    for one in after.duckings:
        before_it = duckings.get(one.id)
        if before_it is None:
            found.append(f"{_named(one, after)} added")
        elif before_it != one:
            found.append(f"{_named(one, after)}: {few(differing(before_it, one, _NAMES))}")
    if before.separate != after.separate or before.separate_for != after.separate_for:
        given = [*differing(before.separate.kick, after.separate.kick),
                 *differing(before.separate.bass, after.separate.bass)]  # fmt: skip
        found.append("what kick and bass give up" + (f": {few(given)}" if given else ""))
    if before.recordings != after.recordings:
        found.append("recordings")
    if [part.id for part in before.parts if part.id in there] != [
        part.id for part in after.parts if part.id in was
    ]:
        found.append("order of the parts")
    return found


def _named(one: Ducking, state: TrackState) -> str:
    """A ducking by what it turns down, and by what."""
    targets = " and ".join(state.named(target.part) for target in one.targets[:2]) or "nothing"
    more = f" and {len(one.targets) - 2} more" if len(one.targets) > 2 else ""
    rate = [one.rate] if one.rate != "none" else []
    starts = " and ".join([*(state.named(id) for id in one.triggers), *rate]) or "nothing"
    return f"ducking of {targets}{more} by {starts}"


def _in_part(old: AnyPart, new: AnyPart) -> list[str]:
    if old == new:
        return []
    found = [f"{old.name} is {new.name} now"] if old.name != new.name else []
    differ = differing(old, new, _NAMES)
    return [*found, *([f"{new.name}: {few(differ)}"] if differ else [])]


def _told_of(before: Track, after: Track, section: str, one: Difference) -> str:
    """What of an aspect differs that differed before: of what it holds, by the fields' own labels."""
    old, new = (track.at(section).part(one.part) for track in (before, after))
    if old is None or new is None:
        return ""
    others = frozenset(type(new).model_fields.keys() - one.values.keys())
    told = differing(old, new, others)
    return f": {few(told)}" if told else ""


def _in_section(old: Section, new: Section, before: Track, track: Track) -> list[str]:
    found = [f"{old.name} is {new.name} now"] if old.name != new.name else []
    if old.chord_roots != new.chord_roots and new.id != track.main:
        found.append(f"{new.name}: chord root per bar")
    was = {(one.part, one.aspect): one for one in old.parts}
    now = {(one.part, one.aspect): one for one in new.parts}
    for key in dict.fromkeys([*was, *now]):
        if was.get(key) != now.get(key):
            part, aspect = key
            what = f"{new.name}: {track.state.named(part)} {_SAID.get(aspect, aspect)}"
            if key not in now:
                found.append(f"{what} follows main")
            else:
                told = _told_of(before, track, new.id, now[key]) if key in was else ""
                found.append(f"{what}{told}")
    if old.duckings != new.duckings:
        found.append(f"{new.name}: duckings")
    return found
