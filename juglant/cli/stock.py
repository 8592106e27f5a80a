"""The stock from a shell: folders are added and looked through, sounds are found, marked and copied."""

import json
import os
import shutil
import signal
import sqlite3
import sys
from dataclasses import asdict, replace
from pathlib import Path
from typing import Annotated, Any

import typer

from juglant.cli.app import GROUPS
from juglant.cli.common import Refused, print_json, print_table, read, read_json
from juglant.core.errors import UserError
from juglant.core.music import parse_note
from juglant.core.stock.kinds import KINDS, Kind
from juglant.files.names import by_scheme, numbered, plain_name
from juglant.store import finding, marks, stock
from juglant.store.database import studio_path
from juglant.store.finding import Likeness, Query, Range
from juglant.store.keeping import opened
from juglant.store.marks import Mark
from juglant.store.stock import Entry, Stock

group = typer.Typer(
    help=GROUPS["stock"], no_args_is_help=True, add_completion=False, pretty_exceptions_enable=False,
)  # fmt: skip

Data = Annotated[Path | None, typer.Option(help="Folder of the studio file.")]
AsJson = Annotated[bool, typer.Option("--json", help="Print JSON.")]


def _stock(data: Path | None) -> Stock:
    return stock.stock_of(studio_path(data))


def _shown(entry: Entry, mark: Mark) -> dict[str, Any]:
    """A sound as it is listed for programs."""
    found = asdict(entry)
    del found["picture_db"]
    return {
        **found, "cents": None if entry.cents is None else round(entry.cents, 2),
        "stars": mark.stars, "tags": list(mark.tags), "comment": mark.note,
    }  # fmt: skip


@group.command()
def add(folders: list[Path], data: Data = None) -> None:
    """Add folders. They stay where they are and are only read; scan measures what is in them."""
    held, refused = _stock(data), Refused()
    for folder in folders:
        with refused.here(), held.changing() as db:
            stock.add_folder(db, folder)
            print(folder)
    refused.tell()


@group.command()
def forget(folders: list[Path], data: Data = None) -> None:
    """Leave folders out of the stock again; nothing in them is touched."""
    held, refused = _stock(data), Refused()
    with held.reading() as db:
        there = {one.path: one.id for one in stock.folders(db)}
    for folder in folders:
        with refused.here(), held.changing() as db:
            found = there.get(os.path.realpath(folder), there.get(str(folder)))
            if found is None:
                raise UserError(f"{folder} is no folder of the stock.")
            stock.forget_folder(db, found)
            print(folder)
    refused.tell()


@group.command()
def scan(
    jobs: Annotated[
        int | None, typer.Option(min=1, max=64, help="Processes that measure; a core is left free.")
    ] = None,
    dask: Annotated[
        str | None, typer.Option(metavar="ADDRESS", help="A Dask cluster that measures instead.")
    ] = None,
    data: Data = None,
    as_json: AsJson = False,
) -> None:
    """Measure what is new or was changed in every folder. Ctrl+C stops it; the next one goes on there."""
    from juglant.stock.scan import Progress, Scan

    held = _stock(data)
    work = Scan(held, jobs, dask)
    signal.signal(signal.SIGINT, lambda *_: work.stop.set())
    live = sys.stderr.isatty()

    def told(now: Progress) -> None:
        if live and now.total:
            left = "" if now.left_s is None else f", {now.left_s:.0f} s left"
            print(f"\r{now.done} of {now.total}, {now.rate:.0f} a second{left}   ", end="", file=sys.stderr)

    done = work.run(told)
    if live:
        print(file=sys.stderr)
    with held.reading() as db:
        folders, troubled = stock.folders(db), stock.troubled(db)
    if as_json:
        print_json({
            **asdict(done), "stopped": work.stop.is_set(),
            "folders": [{**one._asdict(), "away": one.away} for one in folders],
            "troubles": [{"path": path, "trouble": trouble} for path, trouble in troubled],
        })  # fmt: skip
        return
    print_table([
        (one.path, f"{one.sounds} sounds" + (", away" if one.away else "")) for one in folders
    ])  # fmt: skip
    print(f"{done.measured} of {done.done} files were measured, {done.troubled} cannot be read.")
    for path, trouble in troubled[:20]:
        print(f"  {path}: {trouble}")


_RANGED = ("centroid_hz", "sub_db", "click_db", "lufs", "bpm")


def _ranges(given: list[str]) -> dict[str, Range]:
    """Ranges of numbers, each as name=least:most, with either end left open."""
    found = {}
    for text in given:
        name, _, ends = text.partition("=")
        least, colon, most = ends.partition(":")
        if name not in _RANGED or not colon:
            raise UserError(f"“{text}” is no range: {', '.join(_RANGED)}, as sub_db=-6: or bpm=120:130.")
        try:
            found[name] = Range(*(float(end) if end else None for end in (least, most)))
        except ValueError as error:
            raise UserError(f"“{text}” is no range of numbers.") from error
    return found


def _kind(text: str | None) -> Kind | None:
    if text is None:
        return None
    found = next((kind for kind in KINDS if kind == text.lower()), None)
    if found is None:
        raise UserError(f"“{text}” is no kind: {', '.join(KINDS)}.", "kind")
    return found


@group.command()
def find(
    words: Annotated[list[str] | None, typer.Argument(help="Words of the path.")] = None,
    kind: Annotated[str | None, typer.Option(help=", ".join(KINDS))] = None,
    note: Annotated[str | None, typer.Option(help="G1, or G for any octave.")] = None,
    cents: Annotated[float, typer.Option(min=0, max=600, help="How far from the note.")] = 50.0,
    longest_ms: Annotated[float | None, typer.Option(min=0, help="No longer than this.")] = None,
    shortest_ms: Annotated[float | None, typer.Option(min=0, help="No shorter than this.")] = None,
    within: Annotated[
        list[str] | None,
        typer.Option("--range", help="A number's range: sub_db=-6:, centroid_hz=:400, bpm=120:130."),
    ] = None,
    tag: Annotated[list[str] | None, typer.Option(help="With this tag; several: with all of them.")] = None,
    stars: Annotated[int, typer.Option(min=0, max=5, help="With so many stars at least.")] = 0,
    like: Annotated[Path | None, typer.Option(help="Sounds like this file, the nearest first.")] = None,
    track: Annotated[
        Path | None, typer.Option("--for", help="Sounds that fit this track, the best first.")
    ] = None,
    part: Annotated[str | None, typer.Option(help="The part they are for, or the kick.")] = None,
    limit: Annotated[int, typer.Option(min=1, max=100_000, help="So many at most.")] = 50,
    data: Data = None,
    as_json: AsJson = False,
) -> None:
    """Find sounds by words, kind, note, length, tags; like another one; or by how they fit a track."""
    if part is not None and track is None:
        raise UserError("--part names a part of a track: say which track with --for.", "part")
    if like is not None and track is not None:
        raise UserError("Sounds are sorted by similarity or by fit: leave out --like or --for.")
    held = _stock(data)
    with opened(studio_path(data)).reading() as db:
        marked, only = marks.everything(db), marks.chosen(db, tag or (), stars)
    midi, note_class = (None, None) if note is None else parse_note(note)
    query = Query(
        words=" ".join(words or ()), kind=_kind(kind), midi=midi, note_class=note_class, cents=cents,
        length_ms=Range(shortest_ms, longest_ms), only=only, **_ranges(within or []),
    )  # fmt: skip
    extra: dict[str, dict[str, Any]] = {}
    if track is not None:
        entries, extra = _fitting(held, query, track, part, limit, kind)
    else:
        with held.reading() as db:
            if like is None:
                entries = finding.find(db, query, limit)
            else:
                apart = _apart(db, like)
                entries = finding.nearest(db, query, apart, limit)
                extra = {one.hash: {"apart": round(apart[one.hash], 4)} for one in entries}
    rows = [{**_shown(one, marked.get(one.hash, Mark())), **extra.get(one.hash, {})} for one in entries]
    if as_json:
        print_json(rows)
        return
    for row in rows:
        fit = f"{row['fit']:5.1f}  " if "fit" in row else ""
        named = f"{row['note'] or '–':<4}"
        print(f"{fit}{row['kind']:<10} {named} {row['length_ms']:6.0f} ms  {row['path']}")
        if "fit" in row:
            print(f"       {'; '.join(row['reasons'])}")
    if not rows:
        print("Nothing in the stock matches.")


def _apart(db: sqlite3.Connection, like: Path) -> dict[str, float]:
    from juglant.core.stock.known import known

    audio = read(like)
    return Likeness().like(db, known(audio.samples, audio.rate).portrait)


def _fitting(
    held: Stock, query: Query, track: Path, part: str | None, limit: int, kind: str | None
) -> tuple[list[Entry], dict[str, dict[str, Any]]]:
    """Sounds by how they fit a part of a track: the best of a first look, measured in its loop."""
    from juglant.cli.common import checked
    from juglant.cli.tracks import part_named, track_audio
    from juglant.core.recipes.sections import Track
    from juglant.core.stock.fit import EXACTLY
    from juglant.stock.fitting import best_of, kind_for

    whole = checked(Track, read_json(track), str(track))
    state = whole.state
    id = state.kick.id if part is None else part_named(state, part)
    if kind is None:
        query = replace(query, kind=kind_for(state, id))
    with held.reading() as db:
        there = finding.find(db, query)
    own = track_audio(whole.audio, [track.parent])
    found = best_of(held, state, id, there, own, most=min(limit, EXACTLY))
    by_hash = {one.hash: one for one in there}
    extra = {
        one.hash: {
            "fit": one.fit, "reasons": [reason.said for reason in one.reasons if reason.said],
            "moved_to": one.note, "shift_cents": round(one.shift_cents, 2), "measured": one.measured,
        }
        for one in found
    }  # fmt: skip
    return [by_hash[one.hash] for one in found[:limit]], extra


@group.command("tag")
def tag_sounds(
    files: list[Path],
    add_tag: Annotated[list[str] | None, typer.Option("--add", help="A tag to put on them.")] = None,
    remove: Annotated[list[str] | None, typer.Option("--remove", help="A tag to take off them.")] = None,
    stars: Annotated[int | None, typer.Option(min=0, max=5, help="So many stars.")] = None,
    comment: Annotated[str | None, typer.Option(help="A note of your own.")] = None,
    data: Data = None,
) -> None:
    """Put tags, stars and a note on sounds: on the content, so that moved files keep them."""
    studio, held, refused = opened(studio_path(data)), _stock(data), Refused()
    for file in files:
        with refused.here():
            digest = _digest(held, file)
            with studio.changing() as db:
                old = marks.everything(db).get(digest, Mark())
                gone = {one.strip().lower() for one in remove or ()}
                tags = tuple(
                    one for one in (*old.tags, *(add_tag or ())) if one.strip().lower() not in gone
                )
                new = Mark(
                    old.stars if stars is None else stars, tags, old.note if comment is None else comment
                )
                marks.put(db, digest, new)
                kept = marks.everything(db).get(digest, Mark())
            print(f"{file}  {'*' * kept.stars}{' ' if kept.stars else ''}{', '.join(kept.tags)}")
    refused.tell()


def _digest(held: Stock, file: Path) -> str:
    """The content of a file of the stock. UserError where the stock does not know it."""
    import hashlib

    try:
        digest = hashlib.sha256(file.read_bytes()).hexdigest()
    except OSError as error:
        raise UserError(f"{file} cannot be read: {error.strerror}.") from error
    with held.reading() as db:
        if not stock.places_of(db, digest):
            raise UserError(f"{file} is not in the stock: add its folder, then scan.")
    return digest


@group.command()
def export(
    out: Annotated[Path, typer.Option("-o", "--out", help="The folder to copy into.")],
    words: Annotated[list[str] | None, typer.Argument(help="Words of the path.")] = None,
    kind: Annotated[str | None, typer.Option(help=", ".join(KINDS))] = None,
    tag: Annotated[list[str] | None, typer.Option(help="With this tag.")] = None,
    stars: Annotated[int, typer.Option(min=0, max=5, help="With so many stars at least.")] = 0,
    scheme: Annotated[
        str, typer.Option("--name", help="Of {name}, {kind}, {note}, {bpm} and {number}.")
    ] = "{name}",
    limit: Annotated[int, typer.Option(min=1, max=100_000)] = 1000,
    data: Data = None,
) -> None:
    """Copy sounds into a folder, named by a scheme, with a list of what they are. Originals stay."""
    held = _stock(data)
    with opened(studio_path(data)).reading() as db:
        marked, only = marks.everything(db), marks.chosen(db, tag or (), stars)
    with held.reading() as db:
        query = Query(words=" ".join(words or ()), kind=_kind(kind), only=only)
        entries = finding.find(db, query, limit)
        sources = [next((p for p in stock.places_of(db, one.hash) if p.is_file()), None) for one in entries]
    if not entries:
        raise UserError("Nothing in the stock matches: nothing was copied.")
    names = numbered([_named(one, scheme, n) for n, one in enumerate(entries, 1)])
    refused = Refused()
    out.mkdir(parents=True, exist_ok=True)
    listed = []
    for entry, source, name in zip(entries, sources, names, strict=True):
        with refused.here():
            if source is None:
                raise UserError(f"{entry.path} is away: it was not copied.")
            if (out / name).exists():
                raise UserError(f"{out / name} is there already: it was not overwritten.")
            try:
                shutil.copyfile(source, out / name)
            except OSError as error:
                raise UserError(f"{name} cannot be written: {error.strerror}.") from error
            listed.append({"file": name, **_shown(entry, marked.get(entry.hash, Mark()))})
            print(out / name)
    (out / "stock.json").write_text(json.dumps(listed, indent=1, ensure_ascii=False), "utf-8")
    refused.tell()


def _named(entry: Entry, scheme: str, number: int) -> str:
    """What a sound is called by a scheme. UserError for a word that no scheme knows."""
    stem, dot, ending = entry.path.rpartition("/")[2].rpartition(".")
    said = by_scheme(
        scheme, name=stem or ending, kind=entry.kind, note=(entry.note or "none").replace("#", "s"),
        bpm=f"{entry.bpm:.0f}" if entry.bpm else "none", number=f"{number:03d}",
    )  # fmt: skip
    return plain_name(said) + (f".{ending.lower()}" if dot else "")
