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
from juglant.core.stock.fit import EXACTLY, Fit, first_look, ranked
from juglant.core.stock.kinds import KINDS, Kind
from juglant.files.audio import decode
from juglant.files.sizes import MOST_SOUND_BYTES
from juglant.store import stock
from juglant.store.stock import STOCK_FILE, Entry, Stock, stock_of


def kind_for(state: TrackState, part: str) -> Kind | None:
    """What kind of sound a part is looked for by; None where its kind says nothing."""
    found = state.part(part)
    kind = "808" if isinstance(found, Voice) else found.kind if isinstance(found, Hit) else None
    return next((one for one in KINDS if one == kind), None)


def reading(held: Stock, otherwise: LoadAudio) -> LoadAudio:
    """Sounds by content: those of the stock where they lie, all others from where they come otherwise."""

    def load(digest: str) -> tuple[Array, int]:
        found, _ = _file_of(held, digest)
        if found is None:
            return otherwise(digest)
        audio = decode(*found)
        return audio.samples, audio.rate

    return load


def stock_bytes(studio: Path, digest: str) -> tuple[bytes, str] | None:
    """A sound's file in the stock of a studio; None where that has none of it."""
    if not studio.with_name(STOCK_FILE).exists():
        return None
    found, places = _file_of(stock_at(studio), digest)
    if found is None and places:
        raise _away(places)
    return found


@cache
def stock_at(studio: Path) -> Stock:
    """The stock beside a studio file, opened once."""
    return stock_of(studio)


def bytes_of(held: Stock, digest: str) -> tuple[bytes, str]:
    """A sound's file and its name. UserError where it is away, or was changed."""
    found, places = _file_of(held, digest)
    if found is None:
        raise _away(places)
    return found


def _away(places: list[Path]) -> UserError:
    where = f" It was at {places[0]}." if places else ""
    return UserError(f"This sound is away, or was changed since it was scanned: scan again.{where}", "hash")


def _file_of(held: Stock, digest: str) -> tuple[tuple[bytes, str] | None, list[Path]]:
    """A content's bytes with their name, and where it is said to lie. What was changed since it was scanned
    is another sound.
    """
    with held.reading() as db:
        places = stock.places_of(db, digest)
    for path in places:
        try:
            if path.stat().st_size > MOST_SOUND_BYTES:
                continue
            data = path.read_bytes()
        except OSError:
            continue
        if hashlib.sha256(data).hexdigest() == digest:
            return (data, path.name), places
    return None, places


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
