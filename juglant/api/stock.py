"""Stock: folders of the user's own sounds, what is known of them, and which fits."""

from collections.abc import Iterator
from contextlib import suppress
from dataclasses import asdict, replace
from functools import cache
from pathlib import Path as FilePath
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Path
from pydantic import BaseModel, Field, StringConstraints

from juglant.api.folders import held
from juglant.api.hits import shown_name
from juglant.api.inputs import Input
from juglant.api.media import JsonLines
from juglant.api.studio import AtDesk, Desk, audio_of, put_audio
from juglant.core.errors import CancelledError, NotFoundError, UserError
from juglant.core.lowend.session import Session
from juglant.core.music import parse_note
from juglant.core.recipes.hit import Hit, PartId
from juglant.core.recipes.track import TrackState
from juglant.core.stock.fit import MOST_WEIGHT, REASONS, Fit, first_look, measured_fit, placed_in, with_hit
from juglant.core.stock.kinds import Kind
from juglant.files.audio import decode
from juglant.stock.fitting import bytes_of, kind_for
from juglant.store import audio, finding, marks, stock
from juglant.store.finding import Likeness, Query, Range
from juglant.store.marks import Mark
from juglant.store.stock import Entry, Stock

router = APIRouter(prefix="/api/stock", tags=["stock"])

Digest = Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{64}$")]
# As many as a page shows of a list, and as many as are measured in the loop for it.
_SHOWN, _MEASURED = 200, 50
# As many may be dropped on the page at once.
MOST_DROPPED = 200


class Sound(BaseModel):
    """A sound of the stock, with what the user says of it."""

    hash: str
    path: str
    places: list[str]
    kind: Kind
    confidence: float
    reasons: list[str]
    note: str | None
    cents: float | None
    length_ms: float
    decay_ms: float | None
    centroid_hz: float | None
    sub_db: float | None
    click_db: float | None
    lufs: float | None
    bpm: float | None
    key: str | None
    picture_db: list[int]
    stars: int
    tags: list[str]
    comment: str


Tag = Annotated[str, StringConstraints(max_length=80)]


class Between(Input):
    """From a least to a greatest value, each of which may be left open."""

    least: float | None = None
    most: float | None = None


Ranged = Literal["centroid_hz", "sub_db", "click_db", "lufs", "bpm"]


class Wish(Input):
    """What is looked for; what is left out holds for everything."""

    words: Annotated[str, StringConstraints(max_length=200)] = ""
    kind: Kind | None = None
    # G1, or G for any octave.
    note: Annotated[str, StringConstraints(max_length=8)] = ""
    cents: Annotated[float, Field(ge=0.0, le=600.0)] = 50.0
    longest_ms: Annotated[float, Field(ge=0.0, le=600_000.0)] | None = None
    shortest_ms: Annotated[float, Field(ge=0.0, le=600_000.0)] | None = None
    ranges: dict[Ranged, Between] = Field(default_factory=dict)
    tags: list[Annotated[str, StringConstraints(max_length=40)]] = Field(
        default_factory=list, max_length=20
    )
    stars: Annotated[int, Field(ge=0, le=5)] = 0
    like: Digest | None = None
    # In place of the stock: of what was dropped on the page, these.
    dropped: Annotated[list[Digest], Field(max_length=MOST_DROPPED)] | None = None
    most: Annotated[int, Field(ge=1, le=2000)] = _SHOWN


class FitQuestion(Input):
    """Sounds that fit a part of a state, among what is looked for; `weights` as the sliders stand."""

    state: TrackState
    part: PartId
    wish: Wish = Wish()
    weights: dict[str, Annotated[float, Field(ge=0.0, le=MOST_WEIGHT)]] = Field(default_factory=dict)


class ReasonView(BaseModel):
    """A reason, in words, and what it costs from 0 to 1."""

    name: str
    said: str
    cost: float


class FitView(BaseModel):
    """How a sound fits, from 0 to 100; `measured` once it was measured in the loop."""

    hash: str
    fit: float
    reasons: list[ReasonView]
    note: str | None
    shift_cents: float
    measured: bool


class FitStep(BaseModel):
    """A line of the answer: first the sounds by what is kept of them, then each that is measured."""

    sounds: list[Sound] | None = None
    fits: list[FitView]
    left: int


class TriedSound(BaseModel):
    """The state with a sound in the place of a part's, and that part."""

    state: TrackState
    hit: Hit


class TryQuestion(Input):
    """A sound that is to take the place of a part's, tuned or as it is."""

    state: TrackState
    part: PartId
    hash: Digest
    tuned: bool = True


class MarkGiven(Input):
    """Stars, tags and a note."""

    stars: Annotated[int, Field(ge=0, le=5)] = 0
    tags: list[Tag] = Field(default_factory=list, max_length=40)
    comment: Annotated[str, StringConstraints(max_length=1000)] = ""


@cache
def _likeness(studio: FilePath) -> Likeness:
    return Likeness()


def _shown(entry: Entry, mark: Mark) -> Sound:
    return Sound(
        **{**asdict(entry), "places": list(entry.places), "reasons": list(entry.reasons)},
        stars=mark.stars, tags=list(mark.tags), comment=mark.note,
    )  # fmt: skip


def _found(desk: Desk, wish: Wish, most: int | None = None) -> list[Entry]:
    with desk.studio.reading() as db:
        only = marks.chosen(db, wish.tags, wish.stars)
    there = held(desk)
    if wish.dropped is not None:
        there, chosen = desk.dropped.held, frozenset(wish.dropped)
        only = chosen if only is None else only & chosen
    midi, note_class = parse_note(wish.note) if wish.note.strip() else (None, None)
    query = Query(
        words=wish.words, kind=wish.kind, midi=midi, note_class=note_class, cents=wish.cents,
        length_ms=Range(wish.shortest_ms, wish.longest_ms), only=only,
        **{name: Range(one.least, one.most) for name, one in wish.ranges.items()},
    )  # fmt: skip
    with there.reading() as db:
        if wish.like is None:
            entries = finding.find(db, query, most)
        else:
            apart = _likeness(there.path).like(db, finding.portrait_of(db, wish.like))
            entries = finding.nearest(db, query, apart, most)
    if wish.dropped is None:
        return entries
    # What was dropped lies nowhere.
    return [replace(one, path=FilePath(one.path).name, places=()) for one in entries]


def _marked(desk: Desk, entries: list[Entry]) -> list[Sound]:
    with desk.studio.reading() as db:
        marked = marks.everything(db)
    return [_shown(one, marked.get(one.hash, Mark())) for one in entries]


@router.post("/find")
def find(desk: AtDesk, wish: Wish) -> list[Sound]:
    """Sounds by words, kind, note, length, tags and stars; or like another one, the nearest first."""
    return _marked(desk, _found(desk, wish, wish.most))


class DroppedSound(Input):
    """A sound file that was brought into the studio, to be tried: its content and its name."""

    audio: Digest
    name: Annotated[str, StringConstraints(min_length=1, max_length=200)]


class ToTry(Input):
    """Sounds that are to be tried without being part of the stock."""

    sounds: Annotated[list[DroppedSound], Field(min_length=1, max_length=MOST_DROPPED)]


@router.post("/dropped", status_code=204)
def try_dropped(desk: AtDesk, given: ToTry) -> None:
    """Measure what was dropped on the page, so that it is found and tried as the stock's sounds are."""
    named = [(one.audio, shown_name(one.name)) for one in given.sounds]
    desk.dropped.put(named, audio_of(desk.studio))


@router.get("/numbers/{digest}")
def numbers(desk: AtDesk, digest: Annotated[str, Path(pattern="^[0-9a-f]{64}$")]) -> dict[str, Any]:
    """Everything that was measured of a sound."""
    with held(desk).reading() as db:
        return stock.numbers(db, digest)


@router.post("/fit", response_model=FitStep, response_class=JsonLines)
def fit_sounds(desk: AtDesk, question: FitQuestion) -> JsonLines:
    """Sounds by how they fit a part: a line of JSON as they are ranked by what is kept of them, then one
    for each that is measured in the loop. Whoever hangs up ends it.
    """
    state, part = question.state, question.part
    unknown = set(question.weights) - set(REASONS)
    if unknown:
        raise UserError(f"There is no reason “{min(unknown)}”: there are {', '.join(REASONS)}.", "weights")
    wish = question.wish
    # What was dropped is what is to be tried, whatever kind it is.
    kind = wish.kind or (kind_for(state, part) if wish.dropped is None else None)
    entries = _found(desk, wish.model_copy(update={"kind": kind}))
    ranked = first_look(state, part, entries, question.weights)[: wish.most]
    by_hash = {one.hash: one for one in entries}
    # What is only ranked leaves nothing behind.
    session = Session(audio_of(desk.studio))

    def lines() -> Iterator[str]:
        sounds = _marked(desk, [by_hash[one.hash] for one in ranked])
        few = ranked[:_MEASURED]
        first = FitStep(sounds=sounds, fits=[_fit(one) for one in ranked], left=len(few))
        yield first.model_dump_json() + "\n"
        for n, one in enumerate(few):
            try:
                found = measured_fit(session, state, part, by_hash[one.hash], question.weights)
            except CancelledError:
                return
            except UserError as error:
                told = ReasonView(name="away", said=error.message, cost=1.0)
                gone = {"fit": 0.0, "measured": True, "reasons": [told]}
                view = _fit(one).model_copy(update=gone)
            else:
                view = _fit(found)
            yield FitStep(fits=[view], left=len(few) - n - 1).model_dump_json() + "\n"

    return JsonLines(lines())


def _fit(found: Fit) -> FitView:
    return FitView(
        hash=found.hash, fit=found.fit, note=found.note, shift_cents=found.shift_cents,
        measured=found.measured,
        reasons=[ReasonView(**asdict(one)) for one in found.reasons if one.said],
    )  # fmt: skip


def _entries_of(there: Stock, digest: str) -> list[Entry]:
    with there.reading() as db:
        return finding.entries_of(db, [digest])


@router.post("/try")
def try_sound(desk: AtDesk, question: TryQuestion) -> TriedSound:
    """A sound in the place of a part's, at the same loudness: pattern, place and duckings stay. It is read
    where it lies, and nothing is kept.
    """
    entries = _entries_of(held(desk), question.hash) or _entries_of(desk.dropped.held, question.hash)
    if not entries:
        raise NotFoundError("This sound is not in the stock any more.")
    hit = placed_in(desk.session, question.state, question.part, entries[0], tuned=question.tuned)
    return TriedSound(state=with_hit(question.state, question.part, hit), hit=hit)


@router.post("/take/{digest}", status_code=204)
def take_sound(desk: AtDesk, digest: Annotated[str, Path(pattern="^[0-9a-f]{64}$")]) -> None:
    """Bring a sound's file into the studio: from then on a track may be made from it."""
    with desk.studio.reading() as db, suppress(NotFoundError):
        # What was dropped is there already.
        audio.describe(db, digest)
        return
    data, name = bytes_of(held(desk), digest)
    decoded = decode(data, name)
    with desk.studio.changing() as db:
        put_audio(db, data, name, decoded)


@router.put("/marks/{digest}")
def mark(
    desk: AtDesk, digest: Annotated[str, Path(pattern="^[0-9a-f]{64}$")], given: MarkGiven
) -> MarkGiven:
    """Keep stars, tags and a note of a sound."""
    with desk.studio.changing() as db:
        marks.put(db, digest, Mark(given.stars, tuple(given.tags), given.comment.strip()))
        kept = marks.everything(db).get(digest, Mark())
    return MarkGiven(stars=kept.stars, tags=list(kept.tags), comment=kept.note)
