"""Sounds of the stock tried in a track: its own files and the stock's, each read where it lies."""

import hashlib
from collections.abc import Callable, Sequence
from functools import cache
from pathlib import Path

from juglant.core.errors import UserError
from juglant.core.hits.render import LoadAudio
from juglant.core.lowend.session import Array, Session
from juglant.core.recipes.hit import Hit
from juglant.core.recipes.parts import Voice
from juglant.core.recipes.track import TrackState
from juglant.core.stock.fit import EXACTLY, Fit, first_look, hit_of, ranked
from juglant.core.stock.kinds import KINDS, Kind
from juglant.files.audio import MOST_BYTES, decode
from juglant.store import stock
from juglant.store.stock import STOCK_FILE, Entry, Stock, stock_of


def named_part(state: TrackState, name: str | None) -> str:
    """The id of a part by its name, the kick's unless named. UserError where none is called so."""
    if name is None:
        return state.kick.id
    found = [part for part in state.parts if part.name.lower() == name.lower() or part.id == name]
    if not found:
        names = ", ".join(part.name for part in state.parts)
        raise UserError(f"There is no part “{name}” in this track; there are {names}.", "part")
    hit_of(state, found[0].id)
    return found[0].id


def kind_for(state: TrackState, part: str) -> Kind | None:
    """What kind of sound a part is looked for by; None where its kind says nothing."""
    found = state.part(part)
    kind = "808" if isinstance(found, Voice) else found.kind if isinstance(found, Hit) else None
    return next((one for one in KINDS if one == kind), None)


def reading(held: Stock, otherwise: LoadAudio) -> LoadAudio:
    """Sounds by content: those of the stock where they lie, all others from where they come otherwise."""

    def load(digest: str) -> tuple[Array, int]:
        with held.reading() as db:
            places = stock.places_of(db, digest)
        for path in places:
            try:
                if path.stat().st_size > MOST_BYTES:
                    continue
                data = path.read_bytes()
            except OSError:
                continue
            # What was changed since it was looked at is another sound.
            if hashlib.sha256(data).hexdigest() == digest:
                audio = decode(data, path.name)
                return audio.samples, audio.rate
        return otherwise(digest)

    return load


def stock_bytes(studio: Path, digest: str) -> tuple[bytes, str] | None:
    """A sound's file in the stock of a studio; None where that has none of it."""
    if not studio.with_name(STOCK_FILE).exists():
        return None
    held = stock_at(studio)
    with held.reading() as db:
        if not stock.places_of(db, digest):
            return None
    return bytes_of(held, digest)


@cache
def stock_at(studio: Path) -> Stock:
    """The stock beside a studio file, opened once."""
    return stock_of(studio)


def bytes_of(held: Stock, digest: str) -> tuple[bytes, str]:
    """A sound's file and its name. UserError where it is away, or was changed."""
    with held.reading() as db:
        places = stock.places_of(db, digest)
    for path in places:
        try:
            data = path.read_bytes()
        except OSError:
            continue
        if hashlib.sha256(data).hexdigest() == digest:
            return data, path.name
    where = f" It was at {places[0]}." if places else ""
    raise UserError(f"This sound is away, or was changed since it was scanned: scan again.{where}", "hash")


def best_of(
    held: Stock,
    state: TrackState,
    part: str,
    candidates: Sequence[Entry],
    otherwise: LoadAudio,
    most: int = EXACTLY,
    told: Callable[[int], None] = lambda _: None,
) -> list[Fit]:
    """Candidates by how they fit, the best first: those of the first look that were measured in the loop,
    then the others as they are ranked by what is kept of them. The track's own files come from `otherwise`.
    """
    session = Session(reading(held, otherwise))
    measured: list[Fit] = []
    for one in ranked(session, state, part, candidates, most=max(most, EXACTLY)):
        measured.append(one)
        told(len(measured))
    done = {one.hash for one in measured}
    rest = [one for one in first_look(state, part, candidates) if one.hash not in done]
    return [*sorted(measured, key=lambda one: -one.fit), *rest]
