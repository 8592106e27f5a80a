"""A track with its sections: one is main, the others hold what differs from it.

A section holds a whole aspect of a part, or a whole ducking, in place of main's; everything else follows
main. Never single fields, for these go astray when a stage or a layer does.
"""

from typing import Annotated, Any, Literal, Self

from pydantic import Field, StringConstraints, ValidationError, model_validator

from juglant.core.errors import UserError
from juglant.core.recipes.brief import ChordRoots
from juglant.core.recipes.ducking import Ducking
from juglant.core.recipes.earlier import struck
from juglant.core.recipes.fields import Recipe
from juglant.core.recipes.hit import Hit, PartId
from juglant.core.recipes.parts import SUM, AnyPart, MadeBass, Outputs, PlayedBass, Voice
from juglant.core.recipes.track import TrackState

MOST_SECTIONS, MOST_ENTRIES, MOST_BARS = 16, 64, 256
Aspect = Literal["sound", "shape", "pattern", "chain", "place", "after", "moves", "mute"]
SectionName = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=40)]

# Which fields make up an aspect; those of a line's pattern lie in what plays it.
_EVERY: dict[Aspect, tuple[str, ...]] = {
    "chain": ("stages",), "place": ("place",), "after": ("after",), "moves": ("moves",),
    "mute": ("mute",),
}  # fmt: skip
_OF_HITS: dict[Aspect, tuple[str, ...]] = {
    "sound": ("layers", "velocity", "vary", "aim", "heard_hz"), "shape": ("chain", "level_db"),
    "pattern": ("steps", "bars", "choke", "swing", "swing_percent", "follow"), **_EVERY,
}  # fmt: skip
_OF_OTHERS: dict[Aspect, tuple[str, ...]] = {
    "sound": ("audio", "begin_ms", "fit", "own_bpm", "silent", "swing", "swing_percent", "sources"),
    **_EVERY,
}  # fmt: skip
_PLAYED = ("octave", "choke", "swing", "swing_percent", "bars", "pattern")


def _plays(part: AnyPart) -> MadeBass | PlayedBass | None:
    """What plays a line by its pattern; None where there is none."""
    is_line = isinstance(part, Voice) and isinstance(part.bass, MadeBass | PlayedBass)
    return part.bass if is_line else None  # type: ignore[union-attr, return-value]


def aspects(part: AnyPart) -> dict[Aspect, dict[str, Any]]:
    """Every aspect of a part as it is written.

    Parameters
    ----------
    part
        The part.

    Returns
    -------
    dict
        By the aspect, its fields as they are written.

    Examples
    --------
    >>> sorted(aspects(TrackState().kick))[:2]
    ['after', 'chain']
    """
    if isinstance(part, Voice):
        plays = _plays(part)
        found: dict[Aspect, dict[str, Any]] = {
            name: _fields(part, fields) for name, fields in _EVERY.items()
        }
        if plays is None:
            return {"sound": _fields(part, ("bass",)), **found}
        neutral = plays.recipe.model_copy(
            update={name: type(plays.recipe).model_fields[name].default for name in _PLAYED}
        )
        sound = plays.model_copy(update={"recipe": neutral}).model_dump(mode="json")
        return {"sound": {"bass": sound}, "pattern": _fields(plays.recipe, _PLAYED), **found}
    names = _OF_HITS if isinstance(part, Hit) else _OF_OTHERS
    has = type(part).model_fields.keys()
    return {
        name: _fields(part, tuple(one for one in fields if one in has)) for name, fields in names.items()
        if any(one in has for one in fields)
    }  # fmt: skip


def _fields(recipe: Recipe, names: tuple[str, ...]) -> dict[str, Any]:
    return recipe.model_dump(mode="json", include=set(names))


def with_aspect(part: AnyPart, aspect: Aspect, values: dict[str, Any]) -> AnyPart:
    """The part with one of its aspects as it was written. ValidationError where it cannot be.

    Parameters
    ----------
    part
        The part.
    aspect
        Which one.
    values
        Its fields as they were written.

    Returns
    -------
    AnyPart
        The part.

    Examples
    --------
    >>> kick = TrackState().kick
    >>> with_aspect(kick, "mute", {"mute": True}).mute
    True
    """
    plays = _plays(part)
    if isinstance(part, Voice) and aspect == "pattern":
        if plays is None:
            return part
        recipe = type(plays.recipe).model_validate({**plays.recipe.model_dump(), **values})
        return part.model_copy(update={"bass": plays.model_copy(update={"recipe": recipe})})
    changed = type(part).model_validate({**part.model_dump(), **values})
    if isinstance(changed, Voice) and aspect == "sound" and plays is not None:
        # The sound of a line is taken without what it plays.
        return with_aspect(changed, "pattern", _fields(plays.recipe, _PLAYED))
    return changed


class Difference(Recipe):
    """One aspect of one part, the whole of it, in place of main's."""

    part: PartId
    aspect: Aspect
    values: dict[str, Any]


class Section(Recipe):
    """A section: its chords, and what differs there from main."""

    id: Annotated[PartId, Field(min_length=1)]
    name: SectionName
    chord_roots: ChordRoots = ("tonic", "tonic")
    parts: tuple[Difference, ...] = Field((), max_length=400)
    duckings: tuple[Ducking, ...] = Field((), max_length=16)


class Entry(Recipe):
    """A place of a section in the arrangement; it may come again."""

    section: PartId
    bars: Annotated[int, Field(ge=1, le=MOST_BARS)]


class Track(Recipe):
    """A whole track: main as it stands, the sections, and the order in which they come.

    `state` is what the main section sounds like. The brief, names, kinds and which parts there are hold for
    all of them.
    """

    version: Literal[3] = 3
    state: TrackState = TrackState()
    sections: tuple[Section, ...] = Field(
        (Section(id="main", name="drop"),), min_length=1, max_length=MOST_SECTIONS
    )
    main: PartId = "main"
    arrangement: tuple[Entry, ...] = Field((), max_length=MOST_ENTRIES)

    @model_validator(mode="before")
    @classmethod
    def _from_earlier(cls, given: Any) -> Any:
        """Earlier versions had no sections, or kicks of up to three."""
        return _as_sections(given) if isinstance(given, dict) and "sections" not in given else given

    @model_validator(mode="after")
    def _sections_fit_together(self) -> "Track":
        ids, names = ([getattr(one, name) for one in self.sections] for name in ("id", "name"))
        if len(set(ids)) < len(ids) or len({name.lower() for name in names}) < len(names):
            raise ValueError("every section of a track needs an id and a name of its own")
        if self.main not in ids:
            raise ValueError("the main section is one of the track's")
        if self.section(self.main).parts or self.section(self.main).duckings:
            raise ValueError("main is what the others differ from, and holds no differences itself")
        if not {entry.section for entry in self.arrangement} <= set(ids):
            raise ValueError("the arrangement names a section that is not in the track")
        if sum(entry.bars for entry in self.arrangement) > MOST_BARS:
            raise ValueError(f"an arrangement has {MOST_BARS} bars at most")
        if self.section(self.main).chord_roots != self.state.brief.chord_roots:
            raise ValueError("main has the chords of its section")
        for section in self.sections:
            try:
                self.at(section.id).check()
            except ValueError as error:
                raise ValueError(f"in {section.name}, {error}") from error
        return self

    @property
    def audio(self) -> set[str]:
        """Hashes of every file that any section is made from."""
        return set[str]().union(*(self.at(section.id).audio for section in self.sections))

    def section(self, id: str) -> Section:
        """One of the sections. UserError where there is none of that id."""
        found = next((one for one in self.sections if one.id == id), None)
        if found is None:
            raise UserError("There is no such section in this track.", "section")
        return found

    def at(self, id: str) -> TrackState:
        """The track as a section sounds: main with what differs there."""
        section, state = self.section(id), self.state
        if id == self.main:
            return state
        parts = {part.id: part for part in state.everything}
        for one in sorted(section.parts, key=lambda each: each.aspect != "sound"):
            if one.part in parts:
                parts[one.part] = with_aspect(parts[one.part], one.aspect, one.values)
        own = {one.id: one for one in section.duckings}
        duckings = tuple(own.get(one.id, one) for one in state.duckings)
        brief = state.brief.model_copy(update={"chord_roots": section.chord_roots})
        changed = {"brief": brief, **_split(parts), "duckings": duckings}
        return state.model_copy(update=changed)

    def with_state(self, id: str, state: TrackState) -> Self:
        """The track after a section was changed to `state`.

        In main it reaches every section that follows. Elsewhere what changed of an aspect or of a ducking
        becomes a difference there; a part that is added is muted in main, a ducking off. The brief but its
        chords, names, kinds and recordings hold everywhere; what is removed is removed everywhere.
        """
        before = self.at(id)
        if id == self.main:
            return self._replaced(id, state=state, chord_roots=state.brief.chord_roots)
        section, was = self.section(id), {part.id: part for part in before.everything}
        base, differences = {part.id: part for part in self.state.everything}, list(section.parts)
        parts: dict[str, AnyPart] = {}
        for part in state.everything:
            main = base.get(part.id)
            if main is None:
                parts[part.id] = part.model_copy(update={"mute": True})
                differences.append(Difference(part=part.id, aspect="mute", values={"mute": False}))
                continue
            parts[part.id] = main.model_copy(update=_known(part))
            old, new = aspects(was[part.id]), aspects(part)
            for aspect, values in new.items():
                if values != old.get(aspect):
                    differences = [d for d in differences if (d.part, d.aspect) != (part.id, aspect)]
                    differences.append(Difference(part=part.id, aspect=aspect, values=values))
        earlier = {one.id: one for one in before.duckings}
        mains = {one.id: one for one in self.state.duckings}
        own = {one.id: one for one in section.duckings}
        duckings = []
        for one in state.duckings:
            if one.id not in mains:
                duckings.append(one.model_copy(update={"on": False}))
                own[one.id] = one
            else:
                duckings.append(mains[one.id])
                if one != earlier[one.id]:
                    own[one.id] = one
        there = {part.id for part in state.everything}
        gone = base.keys() - there
        kept = {one.id for one in state.duckings}
        whole = self.state.model_copy(
            update={
                "brief": state.brief.model_copy(update={"chord_roots": self.state.brief.chord_roots}),
                **_split({id: _taking(part, there) for id, part in parts.items()}),
                "recordings": state.recordings,
                "separate": state.separate, "separate_for": state.separate_for,
                "duckings": tuple(without(one, gone) for one in duckings),
            }
        )  # fmt: skip
        return self._replaced(
            id, state=whole, chord_roots=state.brief.chord_roots, parts=tuple(differences),
            duckings=tuple(one for one in own.values() if one.id in kept),
        )  # fmt: skip

    def _replaced(self, id: str, state: TrackState, **fields: Any) -> Self:
        """The track with another main and a section changed, and nothing left that names what is gone."""
        there, kept = {part.id for part in state.everything}, {one.id for one in state.duckings}
        gone = {part.id for part in self.state.parts} - there
        sections = []
        for section in self.sections:
            if section.id == id:
                section = section.model_copy(update=fields)
            sections.append(
                section.model_copy(
                    update={
                        "parts": tuple(_kept(one, there) for one in section.parts if one.part in there),
                        "duckings": tuple(without(d, gone) for d in section.duckings if d.id in kept),
                    }
                )
            )  # fmt: skip
        return self._checked(state=state, sections=tuple(sections))

    def _checked(self, **fields: Any) -> Self:
        """The track with fields changed, judged as a whole. UserError where they do not fit together."""
        try:
            return type(self).model_validate(self.model_copy(update=fields).model_dump())
        except ValidationError as error:
            reason = error.errors()[0]["msg"].removeprefix("Value error, ")
            raise UserError(f"{reason[:1].upper()}{reason[1:]}.", "section") from error

    def following(self, id: str, part: str, aspect: Aspect | None) -> Self:
        """The track where a part's aspect, or a ducking where no aspect is named, follows main again."""
        section = self.section(id)
        parts = tuple(d for d in section.parts if aspect is None or (d.part, d.aspect) != (part, aspect))
        duckings = tuple(d for d in section.duckings if aspect is not None or d.id != part)
        return self._with_section(section.model_copy(update={"parts": parts, "duckings": duckings}))

    def _with_section(self, section: Section) -> Self:
        sections = tuple(section if old.id == section.id else old for old in self.sections)
        return self._checked(sections=sections)

    def renamed(self, id: str, name: str) -> Self:
        """The track with another name for a section."""
        return self._with_section(self.section(id).model_copy(update={"name": name}))

    def with_section(self, id: str, name: str, like: str) -> Self:
        """The track with one section more, which begins as another one is."""
        if len(self.sections) >= MOST_SECTIONS:
            raise UserError(f"A track has {MOST_SECTIONS} sections at most.", "name")
        new = self.section(like).model_copy(update={"id": id, "name": name})
        return self._checked(sections=(*self.sections, new))

    def arranged(self, entries: tuple[Entry, ...]) -> Self:
        """The track with its sections in another order."""
        return self._checked(arrangement=entries)

    def without_section(self, id: str) -> Self:
        """The track without a section. UserError for main, which the others follow."""
        if self.section(id).id == self.main:
            raise UserError("The main section cannot be removed: choose another main first.", "section")
        return self._checked(
            sections=tuple(one for one in self.sections if one.id != id),
            arrangement=tuple(entry for entry in self.arrangement if entry.section != id),
        )

    def with_main(self, id: str) -> Self:
        """The track with another section as main; every section sounds as before."""
        new = self.at(id)
        before = {section.id: self.at(section.id) for section in self.sections}
        mains = {part.id: aspects(part) for part in new.everything}
        sections = []
        for section in self.sections:
            state = before[section.id]
            parts = tuple(
                Difference(part=part.id, aspect=aspect, values=values)
                for part in state.everything for aspect, values in aspects(part).items()
                if values != mains[part.id].get(aspect)
            )  # fmt: skip
            others = {one.id: one for one in new.duckings}
            duckings = tuple(one for one in state.duckings if one != others[one.id])
            sections.append(section.model_copy(update={"parts": parts, "duckings": duckings}))
        return self._checked(state=new, main=id, sections=tuple(sections))


def _split(parts: dict[str, AnyPart]) -> dict[str, Any]:
    """Parts by their ids as a track holds them: the sum by itself."""
    return {"parts": tuple(part for id, part in parts.items() if id != SUM), "sum": parts[SUM]}


def _kept(one: Difference, there: set[str]) -> Difference:
    """A difference without outputs of parts that are gone."""
    if "sources" not in one.values:
        return one
    sources = [source for source in one.values["sources"] if source["of"] in there]
    return one.model_copy(update={"values": one.values | {"sources": sources}})


def _taking(part: AnyPart, there: set[str]) -> AnyPart:
    """A part without outputs of parts that are gone."""
    if not isinstance(part, Outputs):
        return part
    return part.model_copy(update={"sources": tuple(one for one in part.sources if one.of in there)})


def _known(part: AnyPart) -> dict[str, Any]:
    """What of a part holds in every section."""
    return {name: getattr(part, name) for name in ("name", "kind") if name in type(part).model_fields}


def without(one: Ducking, gone: set[str]) -> Ducking:
    """A ducking without parts that are gone; it stays, off, where nothing starts it any more.

    Parameters
    ----------
    one
        The ducking.
    gone
        Ids of parts.

    Returns
    -------
    Ducking
        Without them.

    Examples
    --------
    >>> without(TrackState().duckings[0], {"bass"}).targets
    ()
    """
    if not gone & {*one.triggers, *(target.part for target in one.targets)}:
        return one
    triggers = tuple(id for id in one.triggers if id not in gone)
    targets = tuple(target for target in one.targets if target.part not in gone)
    on = one.on and bool(triggers or one.rate != "none")
    return one.model_copy(update={"triggers": triggers, "targets": targets, "on": on})


def _as_sections(given: dict[str, Any]) -> dict[str, Any]:
    """A track of one section, or one whose intro, break and drop had kicks and a ducking of their own."""
    if "state" in given or not given:
        state = given.get("state", {})
        if not isinstance(state, TrackState):
            state = TrackState.model_validate(state)
        only = Section(id="main", name="drop", chord_roots=state.brief.chord_roots)
        return {**given, "state": state, "sections": (only,)}
    rest = dict(given)
    name, others = rest.pop("section", "drop"), rest.pop("kicks", ())
    brief = rest.get("brief")
    beats = brief.get("kick_beats") if isinstance(brief, dict) else None
    state = TrackState.model_validate(rest)
    roots, main = state.brief.chord_roots, state.duckings[0]
    sections = [Section(id=name, name=name, chord_roots=roots)]
    for one in others:
        kick = Hit.model_validate(struck(dict(one["kick"]), beats) | {"id": state.kick.id})
        mine = aspects(state.kick)
        parts = tuple(
            Difference(part=state.kick.id, aspect=aspect, values=values)
            for aspect, values in aspects(kick).items() if values != mine[aspect]
        )  # fmt: skip
        was = {
            "on": one.get("ducking", True), "duck": one.get("duck", {}),
            "solved_for": one.get("duck_for", ""),
        }  # fmt: skip
        own = Ducking.model_validate(main.model_dump() | was)
        duckings = () if own == main else (own,)
        id = one["section"]
        sections.append(Section(id=id, name=id, chord_roots=roots, parts=parts, duckings=duckings))
    return {"state": state, "sections": sections, "main": name}
