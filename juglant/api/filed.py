"""Hits, chains and patterns of one's own: filed one by one or in a batch, taken out, exported as a kit."""

import json
import sqlite3
from typing import Annotated, Any

from fastapi import APIRouter
from pydantic import BaseModel, Field, StringConstraints, TypeAdapter

from juglant.api.hits import Throw, layer_there
from juglant.api.inputs import Input
from juglant.api.media import Zip
from juglant.api.shapes import Bpm
from juglant.api.studio import AtDesk, RowId
from juglant.core.errors import UserError
from juglant.core.hits import scatter
from juglant.core.recipes.chain import Chain
from juglant.core.recipes.hit import MOST_LAYERS, Hit, HitKind, Imported
from juglant.core.recipes.notes import MOST_BARS, HitStep
from juglant.files.handover import zipped
from juglant.files.kit import drum_kit
from juglant.files.names import by_scheme
from juglant.store import audio, filed

router = APIRouter(prefix="/api/stock/filed", tags=["stock"])

# As many are made at once as there are keys of a kit above its first.
MOST_AT_ONCE = 64


class Pattern(BaseModel):
    """Strokes over some bars."""

    steps: tuple[HitStep, ...]
    bars: Annotated[int, Field(ge=1, le=MOST_BARS)]


class ToFile(Input):
    """A hit that is to be filed whole, or its chain or pattern alone."""

    what: filed.What
    hit: Hit


class FiledView(BaseModel):
    """Something filed: a hit, a chain or a pattern."""

    id: int
    what: filed.What
    kind: HitKind
    name: str
    made_at: str
    hit: Hit | None = None
    chain: Chain | None = None
    pattern: Pattern | None = None


class Batch(Throw):
    """So many variations of a hit, each filed under a name by a scheme."""

    hit: Hit
    layer: Annotated[int, Field(ge=0, lt=MOST_LAYERS)] = 0
    count: Annotated[int, Field(ge=1, le=MOST_AT_ONCE)] = 24
    scheme: Annotated[str, StringConstraints(min_length=1, max_length=80)] = "{name} {number}"


class ToKit(Input):
    """Filed hits that are to be a kit, in the order of its keys."""

    name: Annotated[str, StringConstraints(min_length=1, max_length=80)]
    bpm: Bpm
    ids: Annotated[list[RowId], Field(min_length=1, max_length=MOST_AT_ONCE)]


_CHAIN, _PATTERN = TypeAdapter(Chain), TypeAdapter(Pattern)


def _filed(one: filed.Filed) -> FiledView:
    read: dict[str, Any] = {
        "hit": Hit.model_validate_json, "chain": _CHAIN.validate_json, "pattern": _PATTERN.validate_json,
    }  # fmt: skip
    told = {"id": one.id, "what": one.what, "kind": one.kind, "name": one.name, "made_at": one.made_at}
    return FiledView.model_validate({**told, one.what: read[one.what](one.body)})


@router.get("")
def everything_filed(desk: AtDesk) -> list[FiledView]:
    """Hits, chains and patterns of one's own, by kind and name."""
    with desk.studio.reading() as db:
        return [_filed(one) for one in filed.everything(db)]


def _put(db: sqlite3.Connection, what: filed.What, hit: Hit) -> FiledView:
    body = {
        "hit": hit.model_copy(update={"id": ""}).model_dump_json(),
        "chain": json.dumps([stage.model_dump() for stage in hit.chain]),
        "pattern": Pattern(steps=hit.steps, bars=hit.bars).model_dump_json(),
    }[what]
    for digest in hit.audio if what == "hit" else ():
        audio.describe(db, digest)
    return _filed(filed.put(db, what, hit.kind, hit.name, body))


@router.post("", status_code=201)
def file_away(desk: AtDesk, given: ToFile) -> FiledView:
    """File a hit whole, or its chain or pattern alone."""
    hit = given.hit
    if given.what == "chain" and not hit.chain:
        raise UserError(f"{hit.name} has no chain that could be filed.", "hit")
    if given.what == "pattern" and not hit.steps:
        raise UserError(f"{hit.name} has no strokes that could be filed.", "hit")
    with desk.studio.changing() as db:
        return _put(db, given.what, hit)


@router.delete("/{filed_id}", status_code=204)
def take_out(desk: AtDesk, filed_id: RowId) -> None:
    """Take something out of the file; tracks that use it stay as they are."""
    with desk.studio.changing() as db:
        filed.drop(db, filed_id)


@router.post("/batch", status_code=201)
def file_batch(desk: AtDesk, given: Batch) -> list[FiledView]:
    """Vary a made layer of a hit and file every variation, eight to a seed."""
    hit, index = given.hit, layer_there(given.hit, given.layer, "layer")
    source = hit.layers[index].source
    if isinstance(source, Imported):
        raise UserError("A file has no controls that could be varied.", "layer")
    throws = range(given.seed, given.seed + -(-given.count // scatter.COUNT))
    found = [one for seed in throws for one in scatter.scatter(source, given.amount, given.locked, seed)]
    made = []
    for n, one in enumerate(found[: given.count], 1):
        varied = hit.with_source(index, one)
        note = desk.session.sounds.measured_hit(varied, given.brief).hit.note or "none"
        name = by_scheme(
            given.scheme, name=hit.name, kind=hit.kind, note=note, bpm=f"{given.brief.bpm:g}",
            number=f"{n:02d}",
        )  # fmt: skip
        made.append(varied.model_copy(update={"name": name.strip()[:40] or f"{n:02d}"}))
    with desk.studio.changing() as db:
        return [_put(db, "hit", one) for one in made]


@router.post("/kit.zip", response_class=Zip)
def filed_kit(desk: AtDesk, given: ToKit) -> Zip:
    """Filed hits as a kit: one-shots on keys, with a map."""
    with desk.studio.reading() as db:
        chosen = [_filed(filed.get(db, id)) for id in given.ids]
    hits = [one.hit for one in chosen if one.hit is not None]
    if len(hits) < len(chosen):
        other = next(one for one in chosen if one.hit is None)
        raise UserError(f"A kit is made of hits: {other.name} is a {other.what}.", "ids")
    return Zip(zipped(drum_kit(desk.session, given.name, given.bpm, hits)))
